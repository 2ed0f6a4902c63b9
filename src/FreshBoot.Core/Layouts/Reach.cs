using System.Text.Json.Serialization;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Layouts;

/// <summary>How sure one can be of how far a firmware reaches.</summary>
[JsonConverter(typeof(CamelCaseNames<ReachSure>))]
public enum ReachSure
{
    /// <summary>It follows from the kind of firmware.</summary>
    Known,

    /// <summary>Somebody measured it on this machine.</summary>
    Measured,

    /// <summary>It follows from a drive that the machine started from.</summary>
    Derived,

    /// <summary>Firmware of that year or bus usually reaches so far.</summary>
    Likely,

    /// <summary>Nobody knows; what is assumed is on the safe side.</summary>
    Unknown,
}

/// <summary>How much of a drive the firmware can read before a system runs.</summary>
/// <param name="Bytes">The first byte that it cannot read.</param>
/// <param name="From">Where that is known from, in words.</param>
/// <param name="Sure">How sure it is.</param>
public sealed record Reach(long Bytes, string From, ReachSure Sure)
{
    /// <summary>How a rung stands on it: what nobody knows is never clear.</summary>
    public Outcome Outcome => Sure == ReachSure.Unknown ? Outcome.Unknown : Outcome.Clear;
}

/// <summary>How far firmware reaches, and what that is known from.</summary>
public static class ReachRules
{
    /// <summary>One of the walls at which firmware of its time ended.</summary>
    /// <param name="Bytes">The first byte beyond.</param>
    /// <param name="Name">How people call it.</param>
    /// <param name="Why">What ends there.</param>
    public sealed record Barrier(long Bytes, string Name, string Why);

    /// <summary>The walls, nearest first.</summary>
    public static IReadOnlyList<Barrier> Barriers { get; } =
    [
        // 1024 cylinders × 16 heads × 63 sectors: what INT 13h and the ATA task file (ATA-1, X3.221) have in common.
        new(1024L * 16 * 63 * 512, "504 MiB", "1024 cylinders, 16 heads, 63 sectors"),
        // 4096 cylinders: translations that keep twelve bits of the cylinder.
        new(4096L * 16 * 63 * 512, "2.1 GB", "twelve bits of the cylinder"),
        // 1024 × 255 × 63: the whole of the INT 13h interface without its extensions (EDD-1, T13 1226D).
        new(1024L * 255 * 63 * 512, "8.4 GB", "INT 13h by cylinder, head and sector"),
        // 65,535 cylinders × 16 × 63: the largest geometry that the ATA identify data can tell (ATA-4, 6.2).
        new(65_535L * 16 * 63 * 512, "33.8 GB", "sixteen bits of the cylinder"),
        // 28 bits of the logical block address (ATA-5); 48 bits came with ATA/ATAPI-6 in 2002.
        new((1L << 28) * 512, "137 GB", "28 bits of the block address"),
        // 32 bits in the entries of an MBR, and in much firmware's own arithmetic.
        new((1L << 32) * 512, "2.2 TB", "32 bits of the block address"),
    ];

    /// <summary>What is assumed where nothing tells: most machines that are still about reach further, a few do not.</summary>
    private static Barrier Cautious => Barriers[2];

    /// <summary>By year, what firmware of its time usually reached: the last year of each barrier.</summary>
    private static readonly (int LastYear, int Barrier)[] ByYear =
    [
        (1993, 0),
        (1995, 1),
        (1998, 2),
        (1999, 3),
        (2002, 4),
    ];

    /// <summary>Memory that came to be sold after 2002: DDR2 (JESD79-2, 2003) and what followed it.</summary>
    private static readonly string[] YoungMemory = ["DDR2", "DDR3", "DDR4", "DDR5", "LPDDR"];

    /// <summary>What of a machine shows that its firmware is younger than the last narrow barrier; null where nothing does.</summary>
    private static string? YoungerThan2002(IFacts facts, string? bus)
    {
        if (bus is "sata" or "nvme" or "emmc")
            return $"firmware that starts from {bus.ToUpperInvariant()}";
        for (var i = 0; i < 10; i++)
            if (facts.Word($"storage.{i}.bus") is ("sata" or "nvme" or "emmc") and var other)
                return $"a machine with a drive on {other.ToUpperInvariant()}";
        // 64-bit processors of this family are sold since 2003; every level of the psABI is one.
        if (facts.Word("cpu.level")?.StartsWith("x86-64", StringComparison.Ordinal) == true)
            return "a 64-bit processor";
        if (
            facts.Word("memory.type") is { } memory
            && YoungMemory.Any(m => memory.Contains(m, StringComparison.OrdinalIgnoreCase))
        )
            return $"{memory} memory";
        return facts.Word("tpm.version") is "2.0" ? "a TPM 2.0" : null;
    }

    /// <summary>How far the firmware of a machine reaches.</summary>
    /// <param name="facts">The machine.</param>
    /// <param name="kind">Its firmware kind, as <c>firmware.kind</c> says it; null while unknown.</param>
    /// <param name="bus">The bus of the drive, as <c>storage.0.bus</c> says it; null while unknown.</param>
    public static Reach Of(IFacts facts, string? kind, string? bus)
    {
        if (kind is "uefi32" or "uefi64")
            return new(long.MaxValue, "UEFI addresses blocks by 64 bits (UEFI 2.10, section 13.9)", ReachSure.Known);
        if (kind == "locked")
            return new(long.MaxValue, "the maker's boot ROM starts the maker's system from anywhere", ReachSure.Known);
        if (kind == "board")
            return new(long.MaxValue, "the board's first stage reads by 64 bits", ReachSure.Known);
        if (facts.Number("firmware.reachBytes") is { } measured)
            return new(measured, "measured on this machine", ReachSure.Measured);
        if (facts.Number("firmware.firstDriveBytes") is { } first)
        {
            // A limit is one of the barriers; the one that its own drive passed is behind it.
            var next = Barriers.FirstOrDefault(b => b.Bytes >= first) ?? Barriers[^1];
            return new(
                next.Bytes,
                $"the drive that it came with has {Quantity.Drive(first)}; the next wall is at {next.Name} ({next.Why})",
                ReachSure.Derived
            );
        }
        if (facts.Number("firmware.year") is { } year)
        {
            var barrier = Barriers[
                ByYear.Where(y => year <= y.LastYear).Select(y => y.Barrier).FirstOrDefault(Barriers.Count - 1)
            ];
            return new(
                barrier.Bytes,
                $"firmware of {year} usually reaches {barrier.Name} ({barrier.Why})",
                ReachSure.Likely
            );
        }
        if (YoungerThan2002(facts, bus) is { } part)
            return new(Barriers[^1].Bytes, $"{part} came after the 48 bits of ATA/ATAPI-6 of 2002", ReachSure.Likely);
        return new(
            Cautious.Bytes,
            $"nobody knows; {Cautious.Name} ({Cautious.Why}) is on the safe side",
            ReachSure.Unknown
        );
    }
}
