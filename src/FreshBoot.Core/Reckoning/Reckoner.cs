using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Images;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Layouts;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Sheets;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Reckoning;

/// <summary>What somebody wants to know: what would happen, if.</summary>
/// <param name="Firmware">It is started by this firmware, whatever the plan says: <c>bios</c>, <c>uefi64</c>, <c>uefi32</c>.</param>
/// <param name="FirstDrive">The number of the drive that the firmware starts first after the installation.</param>
/// <param name="MediumOut">Whether the medium is out at the restart although the loader lies on it.</param>
/// <param name="SecureBootOn">Whether Secure Boot stays on although the plan switches it off.</param>
public sealed record Supposing(
    string? Firmware = null,
    int FirstDrive = 0,
    bool MediumOut = false,
    bool SecureBootOn = false
)
{
    /// <summary>As the plan says.</summary>
    public static Supposing AsPlanned { get; } = new();
}

/// <summary>The medium that the work would begin from.</summary>
/// <param name="Label">What is written on it.</param>
/// <param name="ReadBack">Whether it was written to its end, read back and found right.</param>
/// <param name="Lies">Whether its capacity test found less than it says.</param>
/// <param name="Says">How it stands.</param>
public sealed record ReckonedMedium(string Label, bool ReadBack, bool Lies, string Says);

/// <summary>A plan as it stands, before anybody touches the machine.</summary>
/// <param name="Sheet">The machine, its route and what was made for it.</param>
/// <param name="Composed">The sheet of the route.</param>
/// <param name="After">The machine with the cures of the route, held against the system.</param>
/// <param name="Image">The image that would be started; null where none is made.</param>
/// <param name="Medium">The medium; null where none was chosen yet.</param>
/// <param name="Identity">The identity that it takes; null for its own.</param>
/// <param name="Kit">What the check of its boot kit finds.</param>
/// <param name="Protected">Whether write protection of the firmware was seen to be on after it was to be off.</param>
/// <param name="If">What somebody wants to know.</param>
public sealed record ReckoningQuestion(
    SheetQuestion Sheet,
    RunSheet Composed,
    Assessment? After,
    Inspection? Image,
    ReckonedMedium? Medium,
    IdentityProfile? Identity,
    IReadOnlyList<KitFinding> Kit,
    bool Protected,
    Supposing If
);

/// <summary>Where a plan would stop.</summary>
/// <param name="Rung">The rung.</param>
/// <param name="Cause">The cause, by its id in the catalogue: fault finder and whole way use the same.</param>
/// <param name="Evidence">What it is known from.</param>
/// <param name="Cure">What is done about it before the work begins.</param>
public sealed record ReckonedStop(Rung Rung, string Cause, string Evidence, string Cure);

/// <summary>
/// Walks a plan by reckoning, rung by rung, with the rules that check, layout, image and sheet have of their own, and says where
/// it would stop. What nobody measured stops nothing; it is told by the routes.
/// </summary>
public static class Reckoner
{
    /// <summary>Where the plan would stop, in climbing order; empty where nothing stands in its way.</summary>
    public static IReadOnlyList<ReckonedStop> Stops(ReckoningQuestion question) =>
        [
            .. Release(question)
                .Concat(Parts(question))
                .Concat(Firmware(question))
                .Concat(Medium(question))
                .Concat(Setup(question))
                .Concat(Disk(question))
                .Concat(Findings(question))
                .Concat(NoSheet(question))
                .OrderBy(s => s.Rung)
                .DistinctBy(s => s.Cause),
        ];

    private static IEnumerable<ReckonedStop> Release(ReckoningQuestion q)
    {
        var facts = q.Sheet.Facts;
        if (facts.Word("release.managed") == "claimed")
            yield return Stop(q, "enrols-again", "It claimed itself for an organisation when it was last reset.");
        if (facts.Word("release.managed") == "waiting")
            yield return Stop(q, "release-not-heard", "It has not heard of its release yet.");
        if (facts.Word("release.encryption") == "key-missing")
            yield return Stop(q, "key-not-there", "Its drive is encrypted, and nobody has the recovery key.");
    }

    private static IEnumerable<ReckonedStop> Parts(ReckoningQuestion q)
    {
        var facts = q.Sheet.Facts;
        if (facts.Word("parts.powersOn") == "no")
            yield return Stop(q, "adapter-dead", "It did not switch on when it was last tried.");
        if (facts.Word("parts.storage") == "replace" && q.Sheet.Route.Cures.All(c => c.Kind != Outcome.Part))
            yield return Stop(q, "drive-dying", "Its drive’s own numbers are bad.");
    }

    private static IEnumerable<ReckonedStop> Firmware(ReckoningQuestion q)
    {
        var route = q.Sheet.Route;
        if (q.Protected && route.Cures.Any(c => c.Kind == Outcome.Reflash))
            yield return Stop(q, "protection-still-on", "The chip says that it is still protected.");
        if (
            route.Loader != LoaderSignatures.All
            && q.Sheet.Facts.Word("firmware.secureBoot") == "on"
            && Way(q) != "bios"
            && (q.If.SecureBootOn || !q.Composed.Steps.Any(s => s.Does.GetValueOrDefault("secureBoot") == "off"))
        )
            yield return Stop(
                q,
                "loader-not-signed",
                $"Secure Boot is on, {(q.If.SecureBootOn ? "and left on" : "no step switches it off")}, and the loader of this route carries no signature."
            );
    }

    private static IEnumerable<ReckonedStop> Medium(ReckoningQuestion q)
    {
        if (q.Sheet.RouteFacts.Word("route.begins") != "medium")
            yield break;
        if (q.Medium is { Lies: true } lies)
            yield return Stop(q, "lying-stick", $"{lies.Label}: {lies.Says}");
        else if (q.Medium is { ReadBack: false } broken)
            yield return Stop(q, "write-incomplete", $"{broken.Label}: {broken.Says}");
        if (q.Image is not { } image)
            yield break;
        var facts = q.If.Firmware is null
            ? q.Sheet.AtInstaller
            : new Overlay(
                q.Sheet.AtInstaller,
                new Dictionary<string, FactValue> { ["firmware.kind"] = FactValue.Of(q.If.Firmware) }
            );
        var ways = StartOn.Ways(image, facts, q.Sheet.Catalogue.Menus(facts));
        if (ways.All(w => w.Can == false))
            yield return Stop(q, ways.Any(w => w.Firmware == "uefi32") ? "no-loader-32" : "wrong-scheme", ways[0].Why);
    }

    private static IEnumerable<ReckonedStop> Setup(ReckoningQuestion q)
    {
        var (route, system) = (q.Sheet.Route, q.Sheet.System);
        if (system is null || q.Sheet.RouteFacts.Word("route.begins") is not ("medium" or "inside"))
            yield break;
        var lifted = route.Cures.SelectMany(c => c.Lifts ?? []).ToArray();
        var recipes = q
            .Sheet.Items.Where(i => i.Kind == WorkItemKind.Recipe && i.State != WorkItemState.Ready)
            .ToArray();
        if (
            lifted.Length > 0
            && recipes.FirstOrDefault(r => r.Says.Contains("proved with build", StringComparison.Ordinal)) is { } other
        )
            yield return Stop(q, "recipe-of-another-build", $"{other.Title}: {other.Says}");
        else if (lifted.Length > 0 && recipes.Length > 0)
            yield return Stop(q, "gate-checked", $"{recipes[0].Title}: {recipes[0].Says}");
        if (route.Cures.Any(c => c.Kind == Outcome.Spoof))
        {
            var item = q.Sheet.Items.FirstOrDefault(i => i.Kind == WorkItemKind.Identity);
            if (q.Identity is null)
                yield return Stop(q, "identity-wrong", item?.Says ?? "It would start under its own identity.");
            else if (item is { State: WorkItemState.Stale })
                yield return Stop(q, "identity-wrong", $"{item.Title}: {item.Says}");
        }
        if (q.Kit.FirstOrDefault(k => k.Text.Contains("before", StringComparison.Ordinal)) is { } order)
            yield return Stop(q, "kit-order", $"{order.File}: {order.Text}");
        else if (q.Kit is [var first, ..])
            yield return Stop(q, "kit-file-missing", $"{first.File}: {first.Text}");
        // Started by legacy BIOS where the installer asks for UEFI, or the other way round: the other entry was taken.
        if (
            q.If.Firmware is { } entry
            && (entry == "bios") != (q.Sheet.Way == "bios")
            && q.Sheet.Way != "unknown"
            && system.Requirements.Any(r =>
                r is { Kind: RequirementKind.Gate, Advisory: false }
                && r.Needs.Keys.Any(k => k is "firmware.startedBy" or "firmware.kind")
                && !lifted.Contains($"{system.Id}/{r.Id}")
            )
        )
            yield return Stop(
                q,
                "wrong-entry",
                $"Started by {(entry == "bios" ? "legacy BIOS" : "UEFI")}; its installer asks for the other one."
            ) with
            {
                // It is taken at the boot menu, and seen when the installer refuses.
                Rung = Rung.Setup,
            };
    }

    private static IEnumerable<ReckonedStop> Disk(ReckoningQuestion q)
    {
        if (q.Sheet.RouteFacts.Word("route.begins") != "medium" || q.Sheet.Over)
            yield break;
        var facts = q.Sheet.AtInstaller;
        if (q.Sheet.Layout is { } layout)
        {
            var kind = q.If.Firmware ?? (q.Sheet.Way == "bios" ? "bios" : MachineLayout.Firmware(facts));
            foreach (
                var finding in LayoutCheck
                    .Of(layout.Scheme, layout.SectorBytes, layout.Sectors, layout.Partitions, kind, layout.Reach.Bytes)
                    .Where(f => f.Outcome == Outcome.Wall)
            )
                yield return Stop(
                    q,
                    finding.Rule switch
                    {
                        "reach" => "beyond-reach",
                        "bios-boot" or "efi" => "no-loader-place",
                        "table" or "mbr-entries" => "wrong-table",
                        _ => "no-room",
                    },
                    finding.Text
                );
            if (kind == "bios" && layout.Reach.Sure != ReachSure.Unknown && SheetQuestion.BeyondReach(layout))
                yield return Stop(
                    q,
                    "beyond-reach",
                    $"The boot files may lie up to {Quantity.Drive(EndOf(layout))}, and this firmware reads {Quantity.Drive(layout.Reach.Bytes)}: {layout.Reach.From}."
                );
        }
        else if (
            MachineLayout.Ask(facts, q.Sheet.System) is { } ask
            && MachineLayout.Of(facts, q.Sheet.System).WhyNot is { } why
        )
        {
            var wall = OwnWall(facts, ask);
            yield return Stop(
                q,
                wall switch
                {
                    "reach" => "beyond-reach",
                    "bios-boot" or "efi" => "no-loader-place",
                    "table" or "mbr-entries" => "wrong-table",
                    _ => "no-room",
                },
                why
            );
        }
        if (q.If.FirstDrive > 0)
            yield return Stop(
                q,
                "other-drive-first",
                $"The firmware starts {DriveChoice.Name(facts, q.If.FirstDrive)} first, and the system goes onto {DriveChoice.Name(facts, 0)}."
            );
        if (q.If.MediumOut && facts.Word("plan.loader") == "stick")
            yield return Stop(
                q,
                "loader-on-medium",
                "The plan leaves the loader on the stick until the system is proved, and the stick is out at the restart."
            );
    }

    /// <summary>The rule that a drawn layout breaks.</summary>
    private static string? OwnWall(IFacts facts, LayoutAsk ask) => OwnLayout.Wall(facts, ask)?.Rule;

    private static long EndOf(Layout layout)
    {
        var starts =
            layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.Boot)
            ?? layout.Partitions.First(p => p.Use == PartitionUse.System);
        return (starts.StartLba + starts.SizeLba) * layout.SectorBytes;
    }

    /// <summary>What the check itself still says once all cures of the route are taken.</summary>
    private static IEnumerable<ReckonedStop> Findings(ReckoningQuestion q)
    {
        foreach (var rung in q.After?.Rungs ?? [])
        foreach (
            var finding in rung.Findings.Where(f =>
                f.Holds == false && f.LiftedBy is null && f.Outcome > Outcome.Caveat
            )
        )
        {
            var keys = finding.Facts.ToArray();
            bool About(params string[] some) => keys.Any(k => some.Any(s => k.StartsWith(s, StringComparison.Ordinal)));
            var cause = rung.Rung switch
            {
                Rung.Release => "enrols-again",
                Rung.Parts => "drive-dying",
                Rung.Firmware => "firmware-old",
                Rung.Medium => "wrong-scheme",
                Rung.Setup when About("tpm.") => "gate-tpm",
                Rung.Setup when About("identity.") => "identity-wrong",
                Rung.Setup => "gate-checked",
                Rung.Disk => "no-room",
                Rung.Kernel when About("cpu.wordBits", "cpu.arch") => "word-size",
                Rung.Kernel when About("memory.") => "memory-cap",
                Rung.Kernel => "instruction-missing",
                Rung.Devices when About("storage.") => "no-storage-driver",
                Rung.Devices when About("graphics.") => "graphics-patch",
                Rung.Devices => "wireless-no-driver",
                Rung.Use => "memory-short",
                _ => "updates-refused",
            };
            yield return Stop(q, cause, finding.Text) with
            {
                Rung = rung.Rung,
            };
        }
        // 32 bits address 4 GiB: what is fitted beyond is not seen.
        if (
            q.Sheet.System is not null
            && q.Sheet.Route.School is not (School.Stay or School.Retire)
            && q.Sheet.Facts.Number("cpu.wordBits") == 32
            && q.Sheet.AtInstaller.Number("memory.installedMiB") is > 4096 and var fitted
        )
            yield return Stop(
                q,
                "memory-cap",
                $"{Quantity.Memory(fitted)} are fitted, and a 32-bit processor sees 4 GiB."
            );
    }

    private static IEnumerable<ReckonedStop> NoSheet(ReckoningQuestion q)
    {
        foreach (var missing in q.Composed.Missing.Take(1))
            yield return new ReckonedStop(
                Rung.Upkeep,
                "sheet",
                $"No sheet can be put together: {missing.Fragment} {missing.Says}.",
                "Another route, or the procedure mended in the catalogue."
            );
    }

    private static string Way(ReckoningQuestion q) => q.If.Firmware ?? q.Sheet.Way;

    private static ReckonedStop Stop(ReckoningQuestion q, string cause, string evidence)
    {
        var entry = q.Sheet.Catalogue.Causes.FirstOrDefault(c => c.Id == cause);
        return new ReckonedStop(
            entry?.Rung ?? Rung.Setup,
            cause,
            evidence,
            entry?.Mend.Text ?? "The catalogue has no cure for it any more."
        );
    }
}
