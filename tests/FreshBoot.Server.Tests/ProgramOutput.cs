using System.Diagnostics;

namespace FreshBoot.Server.Tests;

/// <summary>Runs other programs; they say what is true.</summary>
internal static class ProgramOutput
{
    public static async Task<string> Of(string program, params string[] arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments)
            {
                UseShellExecute = false,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        process.ExitCode.ShouldBe(0, $"{program} {string.Join(' ', arguments)}: {await errors}");
        return await output;
    }
}
