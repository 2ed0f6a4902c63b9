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
        using var clone = Process.Start("sh", ["-c", Command(folder)]);
        clone.WaitForExit();
        clone.ExitCode.ShouldBe(0, "scripts/demo-template.sh");
    }

    /// <summary>What a shell does to clone it into a folder, its images being there.</summary>
    public static string Command(string folder)
    {
        DemoImages.All().ShouldNotBeEmpty();
        var server = Path.Combine(Path.GetDirectoryName(typeof(Program).Assembly.Location)!, "FreshBoot.Server.dll");
        return $"FRESHBOOT_SERVER='{server}' '{Path.Combine(TestWorkshop.Home, "scripts", "demo-template.sh")}' '{folder}'";
    }
}
