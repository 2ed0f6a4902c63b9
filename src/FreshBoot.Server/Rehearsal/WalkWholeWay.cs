using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Layouts;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Probes;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Runs;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Preparation;
using FreshBoot.Server.Runs;
using FreshBoot.Workshop.BootKits;
using FreshBoot.Workshop.Emulation;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Rehearsal;

/// <summary>Who asks for a whole way, and how long it may take.</summary>
/// <param name="By">Who.</param>
/// <param name="LimitSeconds">How long it may take, 30 to 1800.</param>
/// <param name="If">What somebody wants to know; null for the plan as it is.</param>
internal sealed record WholeWayIn(
    [property: Line(60)] string By = "nobody",
    int LimitSeconds = 600,
    Supposing? If = null
);

/// <summary>A picture of the twin's screen.</summary>
/// <param name="Url">Where it is.</param>
/// <param name="Says">What it shows.</param>
internal sealed record WholeWayPicture(string Url, string Says);

/// <summary>A fact that the probe read in the twin.</summary>
internal sealed record TwinFact(string Key, string Label, string Shown);

/// <summary>What a whole way in the twin of a machine showed. It counts for the plan that it was made from, and for no machine.</summary>
/// <param name="Reached">The highest rung that was reached; null where not even the medium started.</param>
/// <param name="StopsAt">The rung where it stopped; null where it came to its end.</param>
/// <param name="Stop">Why, as a word; null where it came to its end.</param>
/// <param name="Cause">The same as the fault finder calls it.</param>
/// <param name="LetIn">Whether the installer let it in.</param>
/// <param name="Installed">Whether it was installed.</param>
/// <param name="StartedFromDrive">Whether it started from its drive.</param>
/// <param name="Facts">What the probe read in the twin.</param>
/// <param name="Acceptance">That, held against what the plan wants.</param>
/// <param name="Screens">Pictures, in order.</param>
/// <param name="Typed">What was asked, and what was typed.</param>
/// <param name="Route">The route.</param>
/// <param name="Medium">What it was started from.</param>
internal sealed record WholeWaySheet(
    Rung? Reached,
    Rung? StopsAt,
    WholeWayStop? Stop,
    string? Cause,
    bool LetIn,
    bool Installed,
    bool StartedFromDrive,
    IReadOnlyList<TwinFact> Facts,
    IReadOnlyList<AcceptanceLine> Acceptance,
    IReadOnlyList<WholeWayPicture> Screens,
    IReadOnlyList<DialogueLine> Typed,
    string Route,
    string Medium
);

/// <summary>
/// Walks a route whole in an emulated twin, before anybody touches the machine: the prepared medium, the installer with what the
/// plan types, the planned layout on a drive of the planned size, the restart without the medium, and the second probe.
/// </summary>
internal sealed class WalkWholeWay(
    MachineStore machines,
    MachineWork work,
    ImageStore images,
    MediumStore media,
    PlanAtHand plans,
    Shop shop,
    JobRunner jobs,
    DataFolder folder,
    TimeProvider clock
)
{
    private const int LeastSeconds = 30;
    private const int MostSeconds = 1800;

    /// <summary>A small system on the drive; the rest of it takes no room.</summary>
    private const long RoomBytes = 600_000_000;

    private static readonly string[] Shown =
    [
        "memory.visibleMiB",
        "firmware.startedBy",
        "firmware.secureBoot",
        "tpm.version",
        "cpu.model",
        "identity.model",
        "identity.serial",
        "storage.0.sizeBytes",
        "storage.0.partitions",
    ];

    private sealed record Planned(
        StoredMachine Machine,
        Dossier Dossier,
        IFacts After,
        Route Route,
        SystemEntry System,
        StoredImage Image,
        GivenIdentity? Identity,
        WholeWaySetUp SetUp,
        string? Script,
        IReadOnlyList<string> Differs,
        string MediumSays
    );

    /// <summary>Begins it.</summary>
    /// <exception cref="RefusedException">Nothing is installed on this route, its image is not made, or a program is missing.</exception>
    public async Task<JobSheet> DoAsync(string tag, string routeId, WholeWayIn wish, CancellationToken stop)
    {
        var by = Given.Text(wish.By, "by", 60);
        if (wish.LimitSeconds is < LeastSeconds or > MostSeconds)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The limit is {wish.LimitSeconds} seconds.",
                "limitSeconds",
                $"{LeastSeconds} to {MostSeconds}."
            );
        var planned = await PlanAsync(tag, routeId, wish, stop);
        folder.CheckRoom(RoomBytes);
        return await jobs.BeginAsync(
            new JobWish(
                JobKind.WholeWay,
                $"The whole way of {planned.System.FullName} in the twin of {planned.Machine.Tag}",
                by,
                planned.Machine.Tag,
                planned.Image.Id
            ),
            (working, running) => RunAsync(working, planned, by, wish.LimitSeconds, running),
            stop: stop
        );
    }

    private async Task<Planned> PlanAsync(string tag, string routeId, WholeWayIn wish, CancellationToken stop)
    {
        var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
        var standing = shop.Stand(machine);
        var route = standing.Route(routeId, stop);
        if (route.System is null || shop.Catalogue.System(route.System) is not { } system)
            throw Refuse("Nothing is installed on this route.", "route", "A route that installs a system.");
        var what = wish.If ?? Supposing.AsPlanned;
        if (what.FirstDrive > 0)
            throw Refuse(
                "The twin’s other drives are empty: none of them starts in its place.",
                "if.firstDrive",
                "The calculated rehearsal."
            );
        var items = await work.ItemsAsync(machine, route, stop);
        if (
            items.FirstOrDefault(i => i.Id == WorkPlan.ImageItem)
            is not { ImageId: { } imageId, State: WorkItemState.Ready }
        )
            throw Refuse(
                $"Its image is not ready: {items.FirstOrDefault(i => i.Id == WorkPlan.ImageItem)?.Says ?? "there is none"}",
                "image",
                "Make the image under Prepare first."
            );
        // With a boot kit it is one image with both; what is started is that one.
        var kit = items.FirstOrDefault(i => i.Kind == WorkItemKind.Kit);
        if (kit is { State: not WorkItemState.Ready })
            throw Refuse(
                $"Its boot kit is not ready: {kit.Says}",
                "kit",
                "Put the kit on the image under Prepare first."
            );
        var image = await images.GetWholeAsync(kit?.ImageId ?? imageId, stop);
        var after = route.AtInstaller(standing.Dossier);
        var given = await plans.GivenAsync(standing, route, stop);
        var firmware = what.Firmware ?? MachineLayout.Firmware(after);
        var twin = TwinMachine.Of(after, firmware, given?.Profile);
        if (Emulator.Missing(twin.Firmware) is { } package)
            throw new RefusedException(
                RefusalKind.Missing,
                $"Starts by {twin.Firmware} need the Debian package {package}.",
                package,
                $"apt-get install {package}, or ./demo.sh, which does."
            );
        var differs = twin.Differs.ToList();
        // Where a loader carries no signature, a Secure Boot that stays on has to be seen; signed ones the emulator's keys may not know.
        var secure =
            twin.Firmware == "uefi64"
            && standing.Dossier.Word("firmware.secureBoot") == "on"
            && (what.SecureBootOn || after.Word("firmware.secureBoot") == "on")
            && route.Loader != LoaderSignatures.All
            && Emulator.KnowsSecureBoot;
        var tpm = WholeWay.KnowsTpm && after.Word("tpm.version") is ("1.2" or "2.0") ? after.Word("tpm.version") : null;
        if (tpm is not null)
            differs.RemoveAll(d => d.StartsWith("The twin has no TPM device", StringComparison.Ordinal));
        if (secure)
            differs.RemoveAll(d => d.StartsWith("Secure Boot is on", StringComparison.Ordinal));
        if (kit is not null)
            differs.Add(
                "The kit’s components are stand-ins and drive nothing: the twin shows that each is there and in its order, and hands over to the installer; the emulator gives the identity that the kit carries."
            );
        if (route.Cures.FirstOrDefault(c => c.Kind == Outcome.Reflash) is { } replaced)
            differs.Add(
                $"{replaced.Does}: what is written to the chip does not run here. The emulator’s own firmware of that kind stands in for it."
            );
        var outgoing =
            standing.Dossier.Word("plan.install") == "inPlace"
                ? await OutgoingAsync(standing.Dossier, route, system, differs, stop)
                : null;
        var layout = outgoing is null ? MachineLayout.Of(after, system).Layout : null;
        var script =
            layout is null || layout.Partitions.Any(p => p.Use == PartitionUse.Kept)
                ? null
                : LayoutScript.Shell(layout, $"{machine.Tag}, {system.FullName}");
        if (layout is not null && script is null)
            differs.Add(
                "A system stays on the machine's drive; the twin's drive is empty, and the installer takes it whole."
            );
        if (layout is { SectorBytes: not 512 })
            throw Refuse(
                $"The drive has sectors of {layout.SectorBytes} bytes; the twin's have 512.",
                "storage.0.sectorBytes",
                "The calculated rehearsal."
            );
        var (path, form, says) = await MediumAsync(items, image, stop);
        return new Planned(
            machine,
            standing.Dossier,
            after,
            route,
            system,
            image,
            given,
            new WholeWaySetUp(
                twin,
                path,
                form,
                Drives(after, differs),
                secure,
                tpm,
                !what.MediumOut && after.Word("plan.loader") == "stick"
            )
            {
                Upgrades = outgoing,
                First = kit is null ? null : new FirstSays("the boot kit", KitImage.Starts),
            },
            script,
            differs,
            says
        );
    }

    /// <summary>
    /// The system that the machine comes with, for an upgrade in place: put on the twin’s drive first, from an image of it on the shelf,
    /// and under the firmware and the TPM that it has today.
    /// </summary>
    /// <exception cref="RefusedException">This upgrade cannot be walked in a twin.</exception>
    private async Task<OutgoingSystem> OutgoingAsync(
        Dossier dossier,
        Route route,
        SystemEntry system,
        List<string> differs,
        CancellationToken stop
    )
    {
        const string ByReckoning = "A clean installation, or the calculated rehearsal.";
        if (system.InPlaceBegins != UpgradeBegins.Inside)
            throw Refuse(
                $"{system.FullName} upgrades from its medium; the twin walks upgrades that begin in the running system.",
                "route",
                ByReckoning
            );
        if (shop.Catalogue.Systems.FirstOrDefault(s => s.FullName == dossier.Word("os.name")) is not { } old)
            throw Refuse(
                "The catalogue does not know the system that is on the machine: nothing can be put on the twin’s drive to be upgraded.",
                "os.name",
                "The system that is on it, under Facts."
            );
        if (old.Installer is not { Talk: { Upgrade: { } upgrade } talk, Says: var says })
            throw Refuse(
                $"Nobody wrote down how one talks with {old.FullName}, so it is not put on the twin’s drive to be upgraded.",
                $"systems/{old.Id}/installer/talk/upgrade",
                ByReckoning
            );
        if (system.Installer?.Talk?.Upgrade is null)
            throw Refuse(
                $"Nobody wrote down how one sees what an upgrade to {system.FullName} kept.",
                $"systems/{system.Id}/installer/talk/upgrade",
                ByReckoning
            );
        var turns = InPlace.TurnsTable(dossier, route.Cures);
        if (turns && upgrade.Turn is null)
            throw Refuse(
                $"On this way the table of the drive is turned from MBR to GPT by a tool of {old.FullName}, and nobody wrote down how that is begun.",
                $"systems/{old.Id}/installer/talk/upgrade/turn",
                ByReckoning
            );
        if (
            (await images.ListAsync(stop)).FirstOrDefault(i => i.System == old.Id && i.Whole && i.Parent is null)
            is not { } image
        )
            throw Refuse(
                $"There is no image of {old.FullName} on the shelf: the twin’s drive is empty, and gets it from one.",
                "image",
                $"An image of {old.FullName}, under Shelf."
            );
        var today = TwinMachine.Of(dossier, MachineLayout.Firmware(dossier), null);
        if (Emulator.Missing(today.Firmware) is { } package)
            throw new RefusedException(
                RefusalKind.Missing,
                $"Starts by {today.Firmware} need the Debian package {package}.",
                package,
                $"apt-get install {package}, or ./demo.sh, which does."
            );
        differs.Add(
            $"{old.FullName} is put on an empty drive first, from {image.Name}, divided as its installer does it, with one file of a person: its programs, its age and its faults are not the machine's."
        );
        if (dossier.Word("release.encryption") is not (null or "none"))
            differs.Add(
                "The twin's drive is not encrypted: that it is suspended before and resumed after is held by the checks of the sheet, and not seen here."
            );
        return new OutgoingSystem(
            today,
            images.PathOf(image.Id),
            old.FullName,
            says,
            talk,
            upgrade,
            WholeWay.KnowsTpm && dossier.Word("tpm.version") is ("1.2" or "2.0") ? dossier.Word("tpm.version") : null
        )
        {
            TurnsTable = turns,
        };
    }

    /// <summary>The medium as it was written; while there is none, the image as it would be written.</summary>
    private async Task<(string Path, TwinForm Form, string Says)> MediumAsync(
        IReadOnlyList<WorkItem> items,
        StoredImage image,
        CancellationToken stop
    )
    {
        if (items.FirstOrDefault(i => i.Id == WorkPlan.MediumItem) is { MediumId: { } id, State: WorkItemState.Ready })
        {
            var row = (await media.ListAsync(stop)).First(m => m.Id == id);
            return (
                media.PathOf(id),
                Core.Media.MediumFacts.DiscBytes(Enum.Parse<Core.Media.MediumKind>(row.Kind)) > 0
                    ? TwinForm.Disc
                    : TwinForm.Stick,
                $"{row.Label}, as it was written"
            );
        }
        return (images.PathOf(image.Id), TwinForm.Stick, $"{image.Name} as a stick: no medium was written yet");
    }

    private static List<TwinDrive> Drives(IFacts after, List<string> differs)
    {
        var drives = new List<TwinDrive>();
        for (var i = 0; i < 4; i++)
            if (after.Number($"storage.{i}.sizeBytes") is { } size)
                drives.Add(
                    new TwinDrive(
                        null,
                        size / 512 * 512,
                        string.Concat(
                            (after.Word($"storage.{i}.serial") ?? $"TWIN{i}").Where(char.IsAsciiLetterOrDigit).Take(20)
                        )
                    )
                );
        if (drives.Count == 0)
        {
            differs.Add("Nobody has measured its drive: the twin's has 128 GB.");
            drives.Add(new TwinDrive(null, 128_000_000_000, "TWIN0"));
        }
        return drives;
    }

    private async Task<(string, JobResult)> RunAsync(
        JobRunner.Working working,
        Planned planned,
        string by,
        int limitSeconds,
        CancellationToken stop
    )
    {
        var id = working.Row.Id;
        var (setUp, twin) = (planned.SetUp, planned.SetUp.Machine);
        var pictures = Directory.CreateDirectory(Path.Combine(folder.Jobs, $"{id}")).FullName;
        working.Progress(
            0.02,
            $"The twin starts by {(twin.Firmware == "bios" ? "BIOS" : "UEFI")} from {planned.MediumSays}."
        );
        var code = FollowRun.FreshCode();
        var startedAs = setUp.Form == TwinForm.Disc ? "disc" : "stick";
        var soFar = new JobResult(StartedAs: startedAs, Firmware: twin.Firmware, Differs: planned.Differs);
        var run = await WholeWay.WalkAsync(
            setUp,
            planned.System.Installer?.Says,
            planned.System.Installer?.Talk,
            shop.Catalogue.Causes,
            new DialogueFill("1", planned.Script, planned.Machine.Tag.ToLowerInvariant(), "user", code),
            pictures,
            folder.Work,
            TimeSpan.FromSeconds(limitSeconds),
            (part, screens) =>
            {
                working.Progress(part, $"{screens[^1].Says}.");
                working.Show(soFar with { Screens = [.. screens.Select((_, i) => Url(i))] });
            },
            stop
        );
        var (found, facts, acceptance) = Hold(planned, run, code);
        return (
            found.Why,
            soFar with
            {
                Rehearsal = new RehearsalRecord(
                    id,
                    planned.Image.Sha256!,
                    planned.Machine.DossierVersion,
                    planned.Identity?.Name,
                    startedAs,
                    twin.Firmware,
                    twin.SetUp,
                    found.LetIn ? "letIn"
                        : found.Stop == WholeWayStop.Refused ? "refused"
                        : found.Stop is WholeWayStop.MediumNotStarted or WholeWayStop.NotSigned ? "nothing"
                        : "loader",
                    found.Why,
                    planned.Differs,
                    by,
                    clock.GetUtcNow()
                ),
                Text = run.Text,
                Screens = [.. run.Screens.Select((_, i) => Url(i))],
                Seconds = Math.Round(run.Seconds, 1),
                WholeWay = new WholeWaySheet(
                    found.Reached,
                    found.StopsAt,
                    found.Stop,
                    found.Cause,
                    found.LetIn,
                    found.Installed,
                    found.StartedFromDrive,
                    facts,
                    acceptance,
                    [.. run.Screens.Select((s, i) => new WholeWayPicture(Url(i), s.Says))],
                    run.Typed,
                    planned.Route.Id,
                    planned.MediumSays
                ),
            }
        );

        string Url(int i) => $"/api/jobs/{id}/screens/{i}";
    }

    /// <summary>Holds what the probe read in the twin against the plan; what is not as planned breaks its rung.</summary>
    private (WholeWayFound, IReadOnlyList<TwinFact>, IReadOnlyList<AcceptanceLine>) Hold(
        Planned planned,
        WholeWayRun run,
        string code
    )
    {
        if (run.Bundle is not { } bytes || !run.Found.StartedFromDrive)
            return (run.Found, [], []);
        var bundle = ProbeBundle.Read(new MemoryStream(bytes), "twin.tar.gz");
        if (bundle.Code != code)
            return (
                run.Found with
                {
                    Reached = Rung.Kernel,
                    StopsAt = Rung.Devices,
                    Stop = WholeWayStop.NotProbed,
                    Why = "The probe’s bundle does not carry the code of this way: it proves nothing.",
                },
                [],
                []
            );
        var report = ProbeReader.Read(bundle, "twin.tar.gz");
        var named =
            // The last that named itself: in an upgrade the outgoing one did so before.
            run.Text.Split('\n')
                .LastOrDefault(l => l.Contains(planned.System.Installer!.Talk!.FromDrive, StringComparison.Ordinal))
            ?? "";
        var now = new Overlay(
            Derivation.Complete([.. report.Readings], shop.Catalogue),
            new Dictionary<string, FactValue>
            {
                ["os.name"] = FactValue.Of(
                    named.StartsWith(planned.System.FullName, StringComparison.Ordinal)
                        ? planned.System.FullName
                        : named
                ),
            }
        );
        // The twin's own memory is what it has to see: it is smaller than the machine's.
        var wanted = new Overlay(
            planned.After,
            new Dictionary<string, FactValue>
            {
                ["memory.installedMiB"] = FactValue.Of((long)planned.SetUp.Machine.MemoryMiB),
                ["storage.0.sizeBytes"] = FactValue.Of(planned.SetUp.Drives[0].SizeBytes),
                ["firmware.startedBy"] = FactValue.Of(planned.SetUp.Machine.Firmware == "bios" ? "bios" : "uefi"),
            }
        );
        var same = Sameness.Of(
            planned.Dossier,
            now,
            // Under a taken identity it is still this machine, as it is at the second probe of a run.
            serial =>
                serial != planned.Dossier.Word("identity.serial") && planned.Identity?.Profile.Serial == serial
                    ? SerialMark.Given
                    : SerialMark.Counts,
            (key, value) => planned.Identity?.Shows(key, value) == true
        );
        var lines = Acceptance.Lines(
            new AcceptanceQuestion(
                wanted,
                now,
                [.. report.Readings],
                new Plan(shop.Today),
                planned.System,
                [],
                RunState.Fold([], []),
                same,
                null
            )
        );
        var facts = Shown
            .Where(k => now[k] is not null)
            .Select(k => new TwinFact(k, FactRegistry.Label(k), FactText.Show(k, now[k]!)))
            .ToArray();
        var failed = lines.FirstOrDefault(l => l.Proof == Proof.Failed);
        if (failed is null)
            return (run.Found, facts, lines);
        return (run.Found.NotAsPlanned(failed.Line, failed.Says, failed.Id == Acceptance.MemoryLine), facts, lines);
    }

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Conflict, what, where, wanted);
}
