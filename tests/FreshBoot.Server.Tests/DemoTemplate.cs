using System.Diagnostics;

namespace FreshBoot.Server.Tests;

/// <summary>The demo, seeded once for all tests and cloned into their folders.</summary>
internal static class DemoTemplate
{
    /// <summary>Clones it into an empty folder; one that has data keeps them.</summary>
    public static void Into(string folder)
    {
        if (File.Exists(Path.Combine(folder, "fresh-boot.db")))
            return;
        DemoImages.All().ShouldNotBeEmpty();
        var start = new ProcessStartInfo(Path.Combine(TestWorkshop.Home, "scripts", "demo-template.sh"), [folder]);
        start.Environment["FRESHBOOT_SERVER"] = Path.Combine(
            Path.GetDirectoryName(typeof(Program).Assembly.Location)!,
            "FreshBoot.Server.dll"
        );
        using var clone = Process.Start(start)!;
        clone.WaitForExit();
        clone.ExitCode.ShouldBe(0, "scripts/demo-template.sh");
    }
}
