using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests;

/// <summary>Machines made up at random, with facts missing.</summary>
internal static class AnyMachines
{
    /// <summary>For each key its values from least able to most able; those of a key that has no such order are marked.</summary>
    public static readonly (string Key, bool Ordered, object[] Values)[] Space =
    [
        ("release.owner", false, ["given", "asked", "refused"]),
        ("release.managed", false, ["free", "waiting", "claimed"]),
        ("release.data", false, ["not-wanted", "saved", "drive-kept", "asked"]),
        ("release.encryption", false, ["none", "key-seen", "key-missing"]),
        ("parts.powersOn", true, ["no", "yes"]),
        ("parts.battery", false, ["swollen", "none", "sound"]),
        ("parts.storage", true, ["replace", "watch", "sound"]),
        ("cpu.model", true, ["Corvane C1-1", "Corvane C4-1", "Corvane C7-1", "Corvane C8-1", "Corvane C10-1"]),
        ("identity.maker", false, ["Ottavine", "Brackwater", "Larkfield"]),
        ("identity.model", false, ["Plinth PL-06B", "Sonata SO-05C", "Stile 12", "Plinth PL-08A"]),
        ("identity.board", false, ["WAGTAIL", "SISKIN"]),
        ("os.name", false, ["Tessaly 5", "Driftway", "Something else"]),
        ("cpu.arch", false, ["x86", "arm"]),
        (
            "cpu.flags",
            true,
            [.. new[] { "none", "v1", "v2", "v3", "v4" }.Select(l => SimulatedProbe.Flags(l).ToArray())]
        ),
        ("memory.installedMiB", true, [512, 1024, 2048, 4096, 6144, 8192, 16384]),
        ("memory.visibleMiB", true, [480, 1800, 3900, 7900]),
        ("memory.maxMiB", true, [512, 4096, 8192, 16384]),
        ("memory.slots", true, [1, 2, 4]),
        ("memory.slotsUsed", false, [1, 2]),
        ("memory.type", false, ["DDR4 SO-DIMM", "DDR3 DIMM", "DDR5 soldered"]),
        ("storage.0.sizeBytes", true, [8_000_000_000, 26_000_000_000, 64_000_000_000, 250_000_000_000]),
        ("storage.0.bus", false, ["ata", "sata", "nvme", "emmc"]),
        ("storage.0.kind", true, ["disk", "flash"]),
        ("firmware.startedBy", true, ["bios", "uefi"]),
        ("firmware.kind", false, ["bios", "uefi32", "uefi64", "locked", "board"]),
        ("firmware.secureBoot", true, ["absent", "able", "on"]),
        ("tpm.version", true, ["absent", "header", "off", "2.0"]),
        ("graphics.0.model", false, ["Corvane C2 graphics", "Corvane C8 graphics", "Something else"]),
        ("network.0.model", false, ["Netherby NB-12", "Airlath AL-43", "Airlath AL-77", "Something else"]),
    ];

    /// <summary>Index into the values of each key; -1 where nobody measured it.</summary>
    public static readonly Gen<int[]> Picks = Gen.Select(
            Gen.Int[0, 59].Array[Space.Length],
            Gen.Int[0, 9].Array[Space.Length]
        )
        .Select((values, known) => values.Select((v, i) => known[i] < 2 ? -1 : v % Space[i].Values.Length).ToArray());

    public static readonly Gen<int> Key = Gen.Int[0, Space.Length - 1];

    public static Dossier Machine(int[] picks) =>
        Facts.Complete(
            picks
                .Select((p, i) => (p, Space[i]))
                .Where(x => x.p >= 0)
                .ToDictionary(x => x.Item2.Key, x => x.Item2.Values[x.p])
        );
}
