using BenchmarkDotNet.Attributes;
using FreshBoot.Formats.Firmware;

namespace FreshBoot.Benchmarks;

/// <summary>Mapping an image of a firmware chip of 32 MiB: volumes with files, as the emulator's own firmware has them, over and over.</summary>
[SimpleJob(warmupCount: 1, iterationCount: 5)]
public class Roms
{
    private byte[] _image = [];

    [GlobalSetup]
    public void Fill()
    {
        var one = File.ReadAllBytes("/usr/share/OVMF/OVMF_CODE_4M.fd");
        _image = new byte[32 << 20];
        for (var at = 0; at < _image.Length; at += one.Length)
            one.AsSpan(0, Math.Min(one.Length, _image.Length - at)).CopyTo(_image.AsSpan(at));
    }

    /// <summary>The whole map.</summary>
    [Benchmark]
    public int Map() => RomImage.Read(_image).Volumes.Count;
}
