using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Core.Tests.Sheets;

namespace FreshBoot.Core.Tests.Diagnosis;

/// <summary>
/// Stops as a bench sees them: a machine of the demo, its system, how far it came, what it says or what somebody looked at, and the
/// cause that somebody with years at a bench names first.
/// </summary>
public class SituationTests
{
    /// <summary>One stop.</summary>
    /// <param name="Tag">The machine.</param>
    /// <param name="System">The system of the route; a school may stand behind a stroke.</param>
    /// <param name="Rung">How far it came.</param>
    /// <param name="Cause">What it is.</param>
    /// <param name="Says">What it says; null for nothing.</param>
    /// <param name="Seen">What was looked at, as check and sight.</param>
    private sealed record Stop(
        string Tag,
        string System,
        Rung Rung,
        string Cause,
        string? Says = null,
        (string Check, string Seen)[]? Seen = null
    )
    {
        public (string Key, string Value)[] Also { get; init; } = [];

        public override string ToString() => $"{Tag} {System} {Rung}: {Says ?? string.Join(' ', Seen ?? [])}";
    }

    private static readonly Stop[] Forty =
    [
        new(
            "MR-0409",
            "tessaly-6-r1/patch",
            Rung.Setup,
            "gate-checked",
            "This machine is not accepted: the processor (C6) is not on the list"
        ),
        new("MR-0409", "tessaly-6-r1/patch", Rung.Setup, "gate-tpm", "no TPM 2.0 in the firmware"),
        new(
            "MR-0409",
            "tessaly-6-r1/patch",
            Rung.Setup,
            "gate-checked",
            Seen: [("look-setup", "checks"), ("look-checks", "lifted")]
        ),
        new(
            "MR-0409",
            "tessaly-6-r1/patch",
            Rung.Setup,
            "recipe-of-another-build",
            Seen: [("look-setup", "checks"), ("build-of-recipe", "yes")]
        ),
        new(
            "MR-0404",
            "tessaly-6-r2/comply",
            Rung.Setup,
            "wrong-edition",
            Seen: [("look-setup", "asks"), ("look-asks", "key")]
        ),
        new("MR-0417", "driftway", Rung.Setup, "network-demanded", Seen: [("look-setup", "asks"), ("wire-in", "yes")]),
        new(
            "MR-0422",
            "canzona-6/spoof",
            Rung.Setup,
            "identity-wrong",
            "the model (Plinth PL-06B) cannot be installed on"
        ),
        new("MR-0422", "canzona-6/spoof", Rung.Setup, "picker-returns", Seen: [("picker-blink", "yes")]),
        new(
            "MR-0418",
            "canzona-6/spoof",
            Rung.Setup,
            "kit-order",
            Seen: [("look-setup", "returns"), ("look-kit", "needs")]
        ),
        new("MR-0418", "canzona-6/spoof", Rung.Setup, "kit-file-missing", Seen: [("look-kit", "missing")]),
        new("MR-0411", "wickerwork-26", Rung.Firmware, "protection-still-on", Seen: [("look-firmware", "refused")]),
        new(
            "MR-0411",
            "wickerwork-26",
            Rung.Firmware,
            "first-start-long",
            Seen: [("look-firmware", "black"), ("look-black", "minutes")]
        ),
        new(
            "MR-0411",
            "wickerwork-26",
            Rung.Firmware,
            "payload-broken",
            Seen: [("look-firmware", "black"), ("look-black", "longer"), ("programmer-read", "yes")]
        ),
        new(
            "MR-0404",
            "pebblemoss-32",
            Rung.Firmware,
            "loader-not-signed",
            "Security Violation: access denied by policy"
        ),
        new(
            "MR-0423",
            "tessaly-6-r2/comply",
            Rung.Firmware,
            "secure-boot-grey",
            Seen: [("look-firmware", "switch"), ("look-switch", "grey")]
        ),
        new(
            "MR-0428",
            "wickerwork-26",
            Rung.Medium,
            "no-loader-32",
            Seen: [("look-medium", "back"), ("bits-of-uefi", "yes")]
        ),
        new(
            "MR-0423",
            "wickerwork-26",
            Rung.Medium,
            "wrong-entry",
            Seen: [("look-medium", "back"), ("listed-twice", "yes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Medium,
            "lying-stick",
            Seen: [("look-medium", "errors"), ("capacity", "yes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Medium,
            "write-incomplete",
            Seen: [("look-medium", "errors"), ("look-written", "broken")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Medium,
            "usb-start-forbidden",
            Seen: [("look-medium", "unlisted"), ("look-usb", "forbidden")]
        ),
        new("MR-0417", "wickerwork-26", Rung.Medium, "key-missed", Seen: [("look-medium", "old"), ("hold-key", "yes")]),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Medium,
            "wrong-port",
            Seen: [("look-medium", "unlisted"), ("slow-port", "yes")]
        ),
        new("MR-0417", "wickerwork-26", Rung.Medium, "image-damaged", Seen: [("checksum", "yes")]),
        new(
            "MR-0401",
            "pebblemoss-32",
            Rung.Disk,
            "beyond-reach",
            "error: attempt to read or write outside of disk 'hd0'."
        )
        {
            Also = [("storage.0.sizeBytes", "80026361856")],
        },
        new(
            "MR-0403",
            "wickerwork-26",
            Rung.Disk,
            "other-drive-first",
            Seen: [("look-disk", "other"), ("look-other", "old")]
        ),
        new(
            "MR-0403",
            "wickerwork-26",
            Rung.Disk,
            "wrong-drive",
            Seen: [("look-disk", "other"), ("which-drive", "yes")]
        ),
        new(
            "MR-0422",
            "canzona-6/spoof",
            Rung.Disk,
            "loader-on-medium",
            Seen: [("look-disk", "nothing"), ("with-medium", "yes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Disk,
            "stick-left-in",
            Seen: [("look-disk", "installer"), ("medium-out", "yes")]
        ),
        new(
            "MR-0423",
            "wickerwork-26",
            Rung.Disk,
            "no-loader-place",
            "a GPT without a BIOS boot partition has no place for the loader"
        ),
        new(
            "MR-0401",
            "pebblemoss-32",
            Rung.Kernel,
            "instruction-missing",
            "trap invalid opcode in init: illegal instruction"
        ),
        new("MR-0401", "pebblemoss-32", Rung.Use, "program-instruction", "illegal instruction (core dumped)"),
        new(
            "MR-0410",
            "wickerwork-26",
            Rung.Kernel,
            "memory-faulty",
            "illegal instruction at another address each time",
            [("look-panic", "changes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Kernel,
            "graphics-hang",
            Seen: [("look-kernel", "black"), ("look-wait", "dead")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Kernel,
            "slow-first-start",
            Seen: [("look-kernel", "black"), ("wait-five", "yes")]
        ),
        new("MR-0422", "canzona-6/spoof", Rung.Kernel, "next-entry", Seen: [("look-kernel", "picker")]),
        new(
            "MR-0418",
            "wickerwork-26",
            Rung.Devices,
            "wireless-no-driver",
            Seen: [("look-devices", "wireless"), ("look-wireless", "unknown")]
        ),
        new(
            "MR-0418",
            "canzona-6/spoof",
            Rung.Devices,
            "codec-layout",
            Seen: [("look-devices", "sound"), ("sound-device", "yes")]
        ),
        new(
            "MR-0428",
            "pebblemoss-32",
            Rung.Use,
            "memory-short",
            Seen: [("look-use", "memory"), ("memory-full", "yes")]
        ),
        new(
            "MR-0409",
            "tessaly-6-r1/patch",
            Rung.Upkeep,
            "patches-undone",
            Seen: [("look-upkeep", "slow"), ("last-update", "yes")]
        ),
        new("MR-0409", "tessaly-6-r1/patch", Rung.Upkeep, "updates-refused", Seen: [("update-words", "yes")]),
    ];

    /// <summary>Never looked at while the catalogue was written: what lands is tried on them.</summary>
    private static readonly Stop[] KeptBack =
    [
        new(
            "MR-0411",
            "wickerwork-26",
            Rung.Parts,
            "ribbon-loose",
            Seen: [("look-parts", "dark"), ("look-dark", "flicker")]
        ),
        new(
            "MR-0420",
            "wickerwork-26",
            Rung.Parts,
            "drive-dying",
            Seen: [("look-parts", "drive"), ("drive-numbers", "yes")]
        ),
        new("MR-0404", "wickerwork-26", Rung.Parts, "coin-cell-empty", Seen: [("clock-at-start", "yes")]),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Parts,
            "adapter-dead",
            Seen: [("look-parts", "nothing"), ("light-adapter", "yes")]
        ),
        new("MR-0404", "tessaly-6-r2/comply", Rung.Setup, "names-refused", Seen: [("small-letters", "yes")]),
        new("MR-0417", "tessaly-6-r2", Rung.Setup, "clock-wrong", Seen: [("look-setup", "trust")]),
        new("MR-0424", "wickerwork-26", Rung.Setup, "installer-graphics", Seen: [("look-setup", "dies")]),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Medium,
            "stick-dying",
            "I/O error, dev sdb, sector 81920",
            [("look-written", "equal")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Medium,
            "file-cut",
            Seen: [("look-medium", "errors"), ("size-of-files", "yes")]
        ),
        new(
            "MR-0402",
            "pebblemoss-32",
            Rung.Medium,
            "no-stick-start",
            Seen: [("look-medium", "unlisted"), ("look-usb", "nothing")]
        ),
        new(
            "MR-0423",
            "wickerwork-26",
            Rung.Disk,
            "wrong-table",
            Seen: [("look-disk", "nothing"), ("table-kind", "yes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Disk,
            "no-room",
            "12 MiB are free; the drive took no more",
            [("space-left", "yes")]
        ),
        new(
            "MR-0406",
            "wickerwork-26",
            Rung.Disk,
            "storage-mode",
            Seen: [("look-disk", "unseen"), ("mode-of-storage", "yes")]
        ),
        new(
            "MR-0403",
            "wickerwork-26",
            Rung.Kernel,
            "power-table",
            "ACPI Error: AE_NOT_FOUND",
            [("look-panic", "acpi")]
        ),
        new(
            "MR-0410",
            "wickerwork-26",
            Rung.Kernel,
            "memory-faulty",
            Seen: [("look-kernel", "panics"), ("look-panic", "changes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Devices,
            "wireless-switch",
            Seen: [("look-devices", "wireless"), ("switch-wireless", "yes")]
        ),
        new("MR-0428", "pebblemoss-32", Rung.Use, "drive-slow", Seen: [("look-use", "start"), ("look-slow", "drive")]),
        new("MR-0417", "wickerwork-26", Rung.Use, "sleep-hangs", Seen: [("look-use", "sleep")]),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Upkeep,
            "loader-gone",
            Seen: [("look-upkeep", "other"), ("order-after-update", "yes")]
        ),
        new(
            "MR-0417",
            "wickerwork-26",
            Rung.Upkeep,
            "update-source",
            Seen: [("look-upkeep", "none"), ("mirror", "yes")]
        ),
    ];

    private static SheetQuestion Question(Stop stop)
    {
        var facts = Fleet.Tagged(stop.Tag);
        foreach (var (key, value) in stop.Also)
            facts = facts.WithWord(
                new Reading(
                    key,
                    long.TryParse(value, out var number) ? FactValue.Of(number) : FactValue.Of(value),
                    "looked",
                    Origin.Chosen,
                    Facts.Noon,
                    "Pim"
                )
            );
        var (system, school) = stop.System.Split('/') is [var s, var by] ? (s, by) : (stop.System, null);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .FirstOrDefault(r =>
                r.System == system
                && (school is null || $"{r.School}".Equals(school, StringComparison.OrdinalIgnoreCase))
            );
        // Where no route is left the plan that went wrong stands all the same.
        route ??= AnySheets
            .Search.Find(Facts.GoodBut(), new RouteQuestion(AnySheets.Today))
            .First(r => r.System == system);
        return AnySheets.Question(facts, route);
    }

    private static int Place(Stop stop)
    {
        var finder = new FaultFinder(
            new FaultQuestion(
                stop.Rung,
                Question(stop).RouteFacts,
                Shipped.Catalogue.Causes,
                Shipped.Catalogue.Checks,
                [],
                stop.Says
            )
        );
        var causes = finder.After([.. (stop.Seen ?? []).Select(s => new CheckAnswer(s.Check, s.Seen))]);
        return causes.Select(c => c.Cause.Id).ToList().IndexOf(stop.Cause);
    }

    private static string[] Missed(IEnumerable<Stop> stops) =>
        [
            .. stops
                .Select(s => (s, At: Place(s)))
                .Where(x => x.At is < 0 or > 1)
                .Select(x => $"{x.s} → {x.s.Cause} at {x.At}"),
        ];

    [Fact]
    public void What_a_practitioner_names_comes_first_or_second_in_thirty_six_of_forty()
    {
        Forty.Length.ShouldBe(40);
        var missed = Missed(Forty);
        missed.Length.ShouldBeLessThanOrEqualTo(4, string.Join('\n', missed));
    }

    [Fact]
    public void And_in_eighteen_of_twenty_that_were_kept_back()
    {
        KeptBack.Length.ShouldBe(20);
        var missed = Missed(KeptBack);
        missed.Length.ShouldBeLessThanOrEqualTo(2, string.Join('\n', missed));
    }

    /// <summary>
    /// Every machine of the demo, every way, every rung: what cannot be is no cause, by rules that are written here anew from what the
    /// trade knows, and each that is left out has its reason.
    /// </summary>
    [Fact]
    public void No_cause_that_cannot_be_is_named_at_any_rung()
    {
        var excluded = 0;
        foreach (var (tag, facts) in Fleet.Dossiers)
        foreach (
            var route in AnySheets
                .Search.Find(facts, new RouteQuestion(AnySheets.Today))
                .Where(r => r.System is not null)
        )
        {
            var question = AnySheets.Question(facts, route);
            var asks = question.System!.Requirements.Where(r => r.Kind != RequirementKind.Comfort).ToArray();
            bool Kind(Outcome kind) => route.Cures.Any(c => c.Kind == kind);
            foreach (var rung in Enum.GetValues<Rung>())
            {
                var finder = new FaultFinder(
                    new FaultQuestion(rung, question.RouteFacts, Shipped.Catalogue.Causes, Shipped.Catalogue.Checks, [])
                );
                var named = finder.After([]).Where(c => c.Chance > 0).Select(c => c.Cause.Id).ToHashSet();
                var where = $"{tag} {route.School} {route.System} {rung}";
                excluded += finder.Excluded.Count;
                finder.Excluded.ShouldAllBe(x => x.Why.Length > 0 && !named.Contains(x.Cause.Id), where);
                void Never(string cause, bool where2) =>
                    (where2 && named.Contains(cause)).ShouldBeFalse($"{cause}: {where}");
                Never(
                    "gate-tpm",
                    asks.All(r => !r.Needs.Keys.Contains("tpm.version")) || facts.Word("tpm.version") == "2.0"
                );
                Never(
                    "word-size",
                    asks.All(r => !r.Needs.Keys.Contains("cpu.wordBits")) || facts.Number("cpu.wordBits") == 64
                );
                Never("loader-not-signed", facts.Word("firmware.secureBoot") is "absent" or "able");
                Never("secure-boot-grey", facts.Word("firmware.secureBoot") == "absent");
                Never("enrols-again", facts.Word("release.managed") == "free");
                Never("protection-still-on", !Kind(Outcome.Reflash));
                Never("payload-broken", !Kind(Outcome.Reflash));
                Never("picker-returns", !Kind(Outcome.Spoof));
                Never("recipe-of-another-build", !Kind(Outcome.Patch));
                Never("no-loader-32", facts.Word("firmware.kind") is "bios" or "uefi64");
                Never("wrong-drive", question.Drives.Count < 2);
                Never("identity-wrong", asks.All(r => !r.Needs.Keys.Contains("identity.model")));
            }
        }
        excluded.ShouldBeGreaterThan(1000);
    }
}
