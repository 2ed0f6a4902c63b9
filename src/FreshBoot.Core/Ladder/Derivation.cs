using System.Globalization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Soundness;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// Facts that follow from others: computed whenever a dossier is read, never stored. Each is the weakest reading of its
/// key, so that anything measured wins over it.
/// </summary>
public static class Derivation
{
    /// <summary>
    /// Until then most firmware started from floppy, disc and hard drive alone: the BIOS Boot Specification of 1996 lists no USB
    /// drive, and makers added it board by board in the years after 2000. A look at the boot menu settles it.
    /// </summary>
    private const long LastWithoutUsbStart = 2003;

    /// <summary>A dossier of <paramref name="readings"/> and what follows from them.</summary>
    public static Dossier Complete(IEnumerable<Reading> readings, ShopCatalogue catalogue)
    {
        var read = DriveOrder.InOrder(Dossier.From(readings.Where(r => r.Origin != Origin.Derived)));
        return Dossier.From(read.Readings.Concat(Follow(read, catalogue)));
    }

    private static IEnumerable<Reading> Follow(Dossier facts, ShopCatalogue catalogue)
    {
        var x86 = facts.Word("cpu.arch") == "x86";
        if (x86 && facts.Words("cpu.flags") is { } flags)
        {
            yield return From(
                "cpu.flags",
                "cpu.level",
                FactValue.Of(CpuLevel.Of(flags)),
                "flags after the x86-64 psABI"
            );
            yield return From("cpu.flags", "cpu.wordBits", FactValue.Of(flags.Has("lm") ? 64 : 32), "flag lm");
        }

        if (facts["firmware.usbStart"] is null && facts.Number("firmware.year") is { } made and <= LastWithoutUsbStart)
            yield return From(
                "firmware.year",
                "firmware.usbStart",
                FactValue.Of("unlikely"),
                $"firmware of {made.ToString(CultureInfo.InvariantCulture)}: most of that time start from discs only"
            );

        // The release check ends "free" at a first start that asked for no account: nothing locked the way there.
        if (facts.Word("release.managed") == "free")
            yield return From("release.managed", "release.locks", FactValue.Of("none"), "the release check met none");

        // What graphics and firmware take is less than a quarter; more is a cap, or a module that sits loose.
        if (facts.Number("memory.installedMiB") is { } fitted && facts.Number("memory.visibleMiB") is { } visible)
            yield return From(
                "memory.visibleMiB",
                "memory.seen",
                FactValue.Of(visible < fitted * 3 / 4 ? "part" : "all"),
                "visible against installed"
            );

        if (facts.Number("battery.fullMWh") is { } full && facts.Number("battery.designMWh") is { } design and > 0)
            yield return From(
                "battery.fullMWh",
                "battery.healthPercent",
                FactValue.Of(Math.Min(full * 100 / design, 150)),
                "full charge against design"
            );

        var drives = Drives(facts).Select(i => (i, Verdict: DriveRules.Judge(facts, i).Verdict)).ToArray();
        foreach (var (i, verdict) in drives.Where(d => d.Verdict != Verdict.Unknown))
            yield return From(
                DriveRules.Basis(facts, i)!,
                $"storage.{i}.health",
                FactValue.Of(verdict.Word()),
                "rules of soundness"
            );
        // Speaks for all drives, and so only where each of them was asked.
        if (
            drives.Any(d => d.Verdict != Verdict.Unknown)
            && drives.All(d => d.Verdict != Verdict.Unknown || facts[$"storage.{d.i}.sizeBytes"] is null)
        )
        {
            var worst = drives.Where(d => d.Verdict != Verdict.Unknown).MaxBy(d => d.Verdict);
            yield return From(
                DriveRules.Basis(facts, worst.i)!,
                "parts.storage",
                FactValue.Of(worst.Verdict.Word()),
                "drive's own health report"
            );
        }

        if (
            facts.Word("identity.model") is { } line
            && catalogue.Models.FirstOrDefault(m =>
                m.MemoryGroup is not null && m.Pattern.IsMatch($"{facts.Word("identity.maker")} {line}".Trim())
            )
                is { } known
        )
            yield return From(
                "identity.model",
                "memory.group",
                FactValue.Of(known.MemoryGroup!.Value),
                "catalogue, by model"
            );

        if (facts.Word("identity.model") is { } fullName)
            yield return From(
                "identity.model",
                "identity.line",
                FactValue.Of(fullName.Split(' ')[0]),
                "first word of the model"
            );

        if (
            facts.Word("cpu.model") is { } model
            && catalogue.Processors.FirstOrDefault(p => p.Pattern.IsMatch(model)) is { } processor
        )
        {
            yield return From("cpu.model", "cpu.maker", FactValue.Of(processor.Maker), "catalogue, by name");
            yield return From("cpu.model", "cpu.generation", FactValue.Of(processor.Generation), "catalogue, by name");
        }

        for (var i = 0; i < 10; i++)
        {
            var key = $"graphics.{i}.model";
            if (facts.Word(key) is { } name && catalogue.Device("graphics", name)?.GraphicsClass is { } found)
                yield return From(key, $"graphics.{i}.class", FactValue.Of(found), "catalogue, by name");
        }

        var kind = facts.Word("firmware.kind");
        if (kind is null && facts.Word("firmware.tableNamesUefi") is { } names)
        {
            kind =
                names == "no" ? "bios"
                // 32-bit UEFI has shipped without a compatibility mode: what starts by BIOS and knows UEFI is 64-bit.
                : facts.Word("firmware.startedBy") == "bios" && x86 && facts.Words("cpu.flags")?.Has("lm") == true
                    ? "uefi64"
                : null;
            if (kind is not null)
                yield return From(
                    "firmware.tableNamesUefi",
                    "firmware.kind",
                    FactValue.Of(kind),
                    "smbios type 0, UEFI bit"
                );
        }

        // A firmware that knows no UEFI knows no Secure Boot either (UEFI Specification 2.10, chapter 32).
        if (kind == "bios")
        {
            var basis = facts["firmware.kind"] is null ? "firmware.tableNamesUefi" : "firmware.kind";
            yield return From(basis, "firmware.secureBoot", FactValue.Of("absent"), "legacy BIOS has none");
        }

        Reading From(string basis, string key, FactValue value, string why)
        {
            var fact = facts.Find(basis)!;
            return new Reading(key, value, why, Origin.Derived, fact.TakenAt);
        }
    }

    /// <summary>The numbers of the drives of which anything was read, lowest first.</summary>
    private static IEnumerable<int> Drives(Dossier facts)
    {
        var there = new bool[10];
        foreach (var reading in facts.Readings)
            if (
                reading.Key.StartsWith("storage.", StringComparison.Ordinal)
                && reading.Key.Length > 9
                && char.IsAsciiDigit(reading.Key[8])
            )
                there[reading.Key[8] - '0'] = true;
        return Enumerable.Range(0, there.Length).Where(i => there[i]);
    }
}
