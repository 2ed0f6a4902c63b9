using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Tests;

/// <summary>Short ways to write dossiers down.</summary>
internal static class Facts
{
    public static readonly DateTimeOffset Noon = new(2026, 12, 3, 12, 0, 0, TimeSpan.Zero);

    /// <summary>A machine on which everything is as it should be for Tessaly 6, release 2.</summary>
    public static readonly IReadOnlyDictionary<string, object> Good = new Dictionary<string, object>(
        StringComparer.Ordinal
    )
    {
        ["release.owner"] = "given",
        ["release.managed"] = "free",
        ["release.data"] = "not-wanted",
        ["release.encryption"] = "none",
        ["parts.powersOn"] = "yes",
        ["parts.battery"] = "sound",
        ["parts.storage"] = "sound",
        ["cpu.model"] = "Corvane C8-350",
        ["cpu.arch"] = "x86",
        ["cpu.flags"] = CpuLevel.Levels.Take(3).SelectMany(l => l.Adds.Select(f => f.Flag)).ToArray(),
        ["memory.installedMiB"] = 8192,
        ["memory.maxMiB"] = 16384,
        ["memory.slots"] = 2,
        ["memory.slotsUsed"] = 1,
        ["memory.type"] = "DDR4 SO-DIMM",
        ["storage.0.sizeBytes"] = 250_000_000_000L,
        ["storage.0.bus"] = "sata",
        ["storage.0.kind"] = "flash",
        ["firmware.startedBy"] = "uefi",
        ["firmware.kind"] = "uefi64",
        ["firmware.secureBoot"] = "able",
        ["tpm.version"] = "2.0",
        ["graphics.0.model"] = "Corvane C8 graphics",
        ["network.0.model"] = "Netherby NB-12",
        ["network.0.kind"] = "wired",
    };

    public static FactValue Value(object value) =>
        value switch
        {
            string text => FactValue.Of(text),
            int number => FactValue.Of(number),
            long number => FactValue.Of(number),
            IEnumerable<string> words => FactValue.Of(words),
            _ => throw new ArgumentException("no fact value", nameof(value)),
        };

    public static Reading Reading(
        string key,
        object value,
        Origin origin = Origin.Probed,
        string source = "test",
        long receipt = 1
    ) => new(key, Value(value), source, origin, Noon, Receipt: receipt);

    /// <summary>A machine of which only this is known, and nothing follows from it.</summary>
    public static Dossier Of(params (string Key, object Value)[] facts) =>
        Dossier.From([.. facts.Select(f => Reading(f.Key, f.Value))]);

    /// <summary>The good machine with some facts otherwise; null takes a fact away.</summary>
    public static Dossier GoodBut(params (string Key, object? Value)[] changes) => Complete(With(Good, changes));

    public static Dictionary<string, object> With(
        IReadOnlyDictionary<string, object> facts,
        params (string Key, object? Value)[] changes
    )
    {
        var result = new Dictionary<string, object>(facts, StringComparer.Ordinal);
        foreach (var (key, value) in changes)
            if (value is null)
                result.Remove(key);
            else
                result[key] = value;
        return result;
    }

    public static Dossier Complete(IReadOnlyDictionary<string, object> facts) =>
        Derivation.Complete(facts.Select(f => Reading(f.Key, f.Value)), Shipped.Catalogue);
}
