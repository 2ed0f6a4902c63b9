using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Server.Rehearsal;

/// <summary>Starts something in the twin that was made here and says by itself whether it started: a divided drive, a boot kit.</summary>
internal sealed class TwinOfFile(DataFolder folder)
{
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(120);

    /// <summary>Refuses what cannot be made or started on this computer.</summary>
    /// <param name="setUp">The twin.</param>
    /// <param name="toMake">A program that is missing to make it; null for none.</param>
    /// <param name="roomBytes">Room that it takes.</param>
    /// <exception cref="RefusedException">A program is missing, or there is no room.</exception>
    public void Check(TwinMachine setUp, string? toMake, long roomBytes)
    {
        if ((Emulator.Missing(setUp.Firmware) ?? toMake) is { } missing)
            throw new RefusedException(
                RefusalKind.Missing,
                $"It takes {missing}, which is not installed.",
                missing,
                "./demo.sh installs it."
            );
        folder.CheckRoom(roomBytes);
    }

    /// <summary>Starts it.</summary>
    /// <param name="working">The job.</param>
    /// <param name="path">Its file.</param>
    /// <param name="form">As what it is started.</param>
    /// <param name="setUp">The twin.</param>
    /// <param name="words">What it says when it starts, and when it does not.</param>
    /// <param name="says">What is said of it when it started.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="IOException">It did not start.</exception>
    public async Task<(string, JobResult)> StartAsync(
        JobRunner.Working working,
        string path,
        TwinForm form,
        TwinMachine setUp,
        InstallerWords words,
        string says,
        CancellationToken stop
    )
    {
        working.Progress(0.4, $"The twin starts it by {(setUp.Firmware == "bios" ? "BIOS" : "UEFI")}.");
        var id = working.Row.Id;
        var soFar = new JobResult(
            StartedAs: form.ToString().ToLowerInvariant(),
            Firmware: setUp.Firmware,
            Differs: setUp.Differs
        );
        IReadOnlyList<string> Urls(IReadOnlyList<string> names) =>
            [.. names.Select((_, i) => $"/api/jobs/{id}/screens/{i}")];
        var start = await Emulator.StartAsync(
            path,
            form,
            setUp,
            words,
            Directory.CreateDirectory(Path.Combine(folder.Jobs, $"{id}")).FullName,
            folder.Work,
            Limit,
            screens => working.Show(soFar with { Screens = Urls(screens) }),
            stop
        );
        return start.Text.Contains(words.LetsIn, StringComparison.Ordinal)
            ? (
                says,
                soFar with
                {
                    Text = start.Text,
                    Screens = Urls(start.Screens),
                    Seconds = Math.Round(start.Seconds, 1),
                }
            )
            : throw new IOException($"It does not start. {start.Verdict.Why}");
    }
}
