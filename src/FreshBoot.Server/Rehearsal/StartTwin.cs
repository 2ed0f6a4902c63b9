using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Images;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Server.Rehearsal;

/// <summary>A start in the twin of a machine.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="As"><c>disc</c> or <c>stick</c>.</param>
/// <param name="Firmware"><c>bios</c>, <c>uefi64</c>, <c>uefi32</c>; null for what the machine is started by.</param>
/// <param name="Identity">Number of an identity that the machine was given; null for its own.</param>
/// <param name="LimitSeconds">How long it may run, 5 to 600.</param>
/// <param name="By">Who asks.</param>
internal sealed record TwinIn(
    [property: Tag] string Tag,
    string As,
    string? Firmware = null,
    string? Identity = null,
    int LimitSeconds = 90,
    [property: Line(60)] string By = "nobody"
);

/// <summary>Starts an image in the twin of a machine, and keeps what was seen with exactly what it was made from.</summary>
internal sealed class StartTwin(
    ImageStore images,
    MachineStore machines,
    IdentityStore identities,
    Shop shop,
    JobRunner jobs,
    DataFolder folder,
    TimeProvider clock
)
{
    public async Task<JobSheet> DoAsync(int imageId, TwinIn twin, CancellationToken stop)
    {
        var image = await images.GetWholeAsync(imageId, stop);
        var tag = Given.Tag(twin.Tag, "tag");
        var by = Given.Text(twin.By, "by", 60);
        Check(twin);
        var machine = await machines.GetAsync(tag, stop);
        var identity = twin.Identity is { } number
            ? (await identities.GetAsync(tag, NumberOf(number), stop)).Profile
            : null;
        // As it is when this image is started: with replacement firmware where the way to its system replaces it.
        var setUp = TwinMachine.Of(shop.Stand(machine).AtInstaller(image.System, stop), twin.Firmware, identity);
        if (Emulator.Missing(setUp.Firmware) is { } package)
            throw new RefusedException(
                RefusalKind.Missing,
                $"Starts by {setUp.Firmware} need the Debian package {package}.",
                package,
                $"apt-get install {package}, or ./demo.sh, which does."
            );
        var says = image.System is null ? null : shop.Catalogue.System(image.System)?.Installer?.Says;
        return await jobs.BeginAsync(
            new JobWish(JobKind.Twin, $"Start {image.Name} as a {twin.As} on the twin of {tag}", by, tag, imageId),
            (working, running) => RunAsync(working, image, machine, twin with { By = by }, setUp, says, running),
            stop: stop
        );
    }

    private async Task<(string, JobResult)> RunAsync(
        JobRunner.Working working,
        StoredImage image,
        StoredMachine machine,
        TwinIn twin,
        TwinMachine setUp,
        InstallerWords? says,
        CancellationToken stop
    )
    {
        var id = working.Row.Id;
        var pictures = Directory.CreateDirectory(Path.Combine(folder.Jobs, $"{id}")).FullName;
        working.Progress(0.02, $"The twin starts by {(setUp.Firmware == "bios" ? "BIOS" : "UEFI")}.");
        var soFar = new JobResult(StartedAs: twin.As, Firmware: setUp.Firmware, Differs: setUp.Differs);
        var start = await Emulator.StartAsync(
            images.PathOf(image.Id),
            twin.As == "stick" ? TwinForm.Stick : TwinForm.Disc,
            setUp,
            says,
            pictures,
            folder.Work,
            TimeSpan.FromSeconds(twin.LimitSeconds),
            screens => working.Show(soFar with { Screens = Urls(screens) }),
            stop
        );
        return (
            start.Verdict.Why,
            soFar with
            {
                Rehearsal = new RehearsalRecord(
                    id,
                    image.Sha256!,
                    machine.DossierVersion,
                    twin.Identity,
                    twin.As,
                    setUp.Firmware,
                    setUp.SetUp,
                    start.Verdict.Verdict,
                    start.Verdict.Why,
                    setUp.Differs,
                    twin.By,
                    clock.GetUtcNow()
                ),
                Text = start.Text,
                Screens = Urls(start.Screens),
                Seconds = Math.Round(start.Seconds, 1),
            }
        );

        IReadOnlyList<string> Urls(IReadOnlyList<string> names) =>
            [.. names.Select((_, i) => $"/api/jobs/{id}/screens/{i}")];
    }

    private static void Check(TwinIn twin)
    {
        if (twin.As is not ("disc" or "stick"))
            throw new RefusedException(RefusalKind.Invalid, $"“{twin.As}” is no medium.", "as", "“disc” or “stick”.");
        if (twin.Firmware is { } firmware && !FirmwareWays.Names.Contains(firmware))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{firmware}” is no kind of firmware.",
                "firmware",
                $"{Numbers.Join(FirmwareWays.Names.Select(n => $"“{n}”"), "or")}."
            );
        if (twin.LimitSeconds is < 5 or > 600)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The limit is {twin.LimitSeconds} seconds.",
                "limitSeconds",
                "5 to 600."
            );
    }

    private static int NumberOf(string number) =>
        int.TryParse(
            number,
            System.Globalization.NumberStyles.None,
            System.Globalization.CultureInfo.InvariantCulture,
            out var id
        )
            ? id
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{number}” is no identity.",
                "identity",
                "The number of an identity that the machine was given."
            );
}
