using System.Diagnostics;

namespace FreshBoot.Server.Tests;

/// <summary>The installer images of the demo systems, built by the script that ships.</summary>
internal static class DemoImages
{
    private static readonly Lazy<string> Folder = new(() =>
    {
        var folder = Path.Combine(TestWorkshop.Home, ".cache", "images");
        using var build = Process.Start(Path.Combine(TestWorkshop.Home, "scripts", "demo-images.sh"), [folder]);
        build.WaitForExit();
        build.ExitCode.ShouldBe(0, "scripts/demo-images.sh");
        return folder;
    });

    public static string[] All() => [.. Directory.GetFiles(Folder.Value, "*.iso").Order(StringComparer.Ordinal)];

    /// <summary>The EFI system partition of an image as mtools name it: the second entry of its GPT (UEFI 2.10, 5.3.3).</summary>
    public static string EfiOf(string system)
    {
        using var image = File.OpenRead(Of(system));
        image.Position = 2 * 512 + 128 + 32;
        var start = new byte[8];
        image.ReadExactly(start);
        return $"{Of(system)}@@{BitConverter.ToInt64(start) * 512}";
    }

    public static string Of(string system) => Path.Combine(Folder.Value, $"{system}.iso");
}
