using System.Diagnostics;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Rehearsal;
using FreshBoot.Workshop.Emulation;
using FreshBoot.Workshop.Layouts;

namespace FreshBoot.Server.Layouts;

/// <summary>Who asks for a divided drive, and by which firmware it is started.</summary>
/// <param name="By">Who.</param>
/// <param name="Firmware"><c>bios</c> or <c>uefi64</c>; null for what the machine is started by.</param>
internal sealed record DriveIn([property: Line(60)] string By = "nobody", string? Firmware = null);

/// <summary>
/// Divides a simulated drive as the layout of a machine says, puts a loader onto it, and starts it in the twin: it shows that the
/// boot files are found where the layout has them.
/// </summary>
internal sealed class StartDrive(
    MachineStore machines,
    PlanLayout plan,
    Shop shop,
    JobRunner jobs,
    TwinOfFile twin,
    DataFolder folder
)
{
    /// <summary>A loader and its files; the rest of the drive takes no room.</summary>
    private const long RoomBytes = 400_000_000;
    private static readonly InstallerWords Says = new(DividedDrive.Starts, DividedDrive.StartsNot);

    /// <summary>The file of a machine's divided drive.</summary>
    public string PathOf(string tag) => Path.Combine(folder.Media, $"{tag}.drive");

    /// <summary>Begins it.</summary>
    /// <exception cref="RefusedException">There is no layout, or a program is missing.</exception>
    public async Task<JobSheet> DoAsync(string tag, DriveIn wish, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        var layout = await plan.LayoutAsync(tag, stop);
        var setUp = TwinMachine.Of(shop.Dossier(machine), wish.Firmware, null);
        twin.Check(setUp, DividedDrive.Missing(), RoomBytes);
        return await jobs.BeginAsync(
            new JobWish(
                JobKind.Twin,
                $"Divide a drive for {tag}, and start it in the twin",
                Given.Text(wish.By, "by", 60),
                tag
            ),
            async (working, running) =>
            {
                working.Progress(0.05, "The drive is divided.");
                await DividedDrive.MakeAsync(PathOf(tag), layout, folder.Work, running);
                return await twin.StartAsync(
                    working,
                    PathOf(tag),
                    TwinForm.Drive,
                    setUp,
                    Says,
                    "It starts: the loader read its files from where the layout has them.",
                    running
                );
            },
            stop: CancellationToken.None
        );
    }

    /// <summary>The drive as a tar that knows of holes: a drive of any size is a few megabytes.</summary>
    /// <exception cref="RefusedException">None was divided yet.</exception>
    public Stream Packed(string tag)
    {
        if (!File.Exists(PathOf(tag)))
            throw new RefusedException(
                RefusalKind.Missing,
                $"No drive was divided for {tag} yet.",
                "tag",
                "Divide one first."
            );
        var start = new ProcessStartInfo(
            "tar",
            ["--sparse", "--gzip", "-c", "-f", "-", "-C", folder.Media, $"{tag}.drive"]
        )
        {
            RedirectStandardOutput = true,
            UseShellExecute = false,
        };
        return Process.Start(start)!.StandardOutput.BaseStream;
    }
}
