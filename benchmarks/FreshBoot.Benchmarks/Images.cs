using System.Diagnostics;
using BenchmarkDotNet.Attributes;
using FreshBoot.Data.Images;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Benchmarks;

/// <summary>
/// Images: SHA-256 of 2 GiB, streamed, against <c>sha256sum</c> on the same file in turn; and looking into an image, which
/// follows the number of its files and not its size.
/// </summary>
[SimpleJob(warmupCount: 1, iterationCount: 5, invocationCount: 1)]
public class Images
{
    private string _large = "";
    private FileStream _image = null!;

    [GlobalSetup]
    public void MakeFiles()
    {
        _large = Path.Combine(Path.GetTempPath(), "fresh-boot-benchmark.bin");
        var block = new byte[1 << 20];
        new Random(1).NextBytes(block);
        using (var file = File.Create(_large))
            for (var i = 0; i < 2048; i++)
                file.Write(block);
        var home = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(home, ".cache", "images")))
            home = Path.GetDirectoryName(home)!;
        _image = File.OpenRead(Path.Combine(home, ".cache", "images", "tessaly-6-r1.iso"));
    }

    [GlobalCleanup]
    public void RemoveFiles()
    {
        File.Delete(_large);
        _image.Dispose();
    }

    /// <summary>As it is hashed here.</summary>
    [Benchmark(Baseline = true)]
    public async Task<string> Hash()
    {
        await using var file = new FileStream(_large, FileMode.Open, FileAccess.Read, FileShare.Read, 0);
        return await ImageStore.HashAsync(file, _ => { }, default);
    }

    /// <summary>As the common program hashes it.</summary>
    [Benchmark]
    public int Sha256Sum()
    {
        using var program = Process.Start(
            new ProcessStartInfo("sha256sum", [_large]) { UseShellExecute = false, RedirectStandardOutput = true }
        )!;
        program.StandardOutput.ReadToEnd();
        program.WaitForExit();
        return program.ExitCode;
    }

    /// <summary>Looking into a demo image.</summary>
    [Benchmark]
    public InspectedImage Look() => ImageInspector.Look(_image);
}
