namespace FreshBoot.Core.Layouts;

/// <summary>What is wrong, or worth knowing, of a layout.</summary>
/// <param name="Rule">The rule, by a short name.</param>
/// <param name="Outcome">Wall where it cannot work, caveat or unknown else.</param>
/// <param name="Text">In words.</param>
/// <param name="Partition">The number of the partition; null for the whole.</param>
public sealed record LayoutFinding(string Rule, Outcome Outcome, string Text, int? Partition = null);

/// <summary>Holds a layout, whoever made it, against the rules: one list for planner, editor and files that are handed in.</summary>
public static class LayoutCheck
{
    private const long MiB = Quantity.MiB;

    /// <summary>What speaks against a layout; empty where nothing does.</summary>
    /// <param name="scheme">How the drive is divided.</param>
    /// <param name="sectorBytes">Bytes of a sector.</param>
    /// <param name="sectors">Sectors of the drive; null where the layout does not tell, then nothing is said of its end.</param>
    /// <param name="partitions">The partitions.</param>
    /// <param name="firmware">The firmware, as <c>firmware.kind</c> says it; null while unknown.</param>
    /// <param name="reachBytes">How far legacy firmware reads; null where no matter.</param>
    public static IReadOnlyList<LayoutFinding> Of(
        PartitionScheme scheme,
        int sectorBytes,
        long? sectors,
        IReadOnlyList<LayoutPartition> partitions,
        string? firmware = null,
        long? reachBytes = null
    )
    {
        var found = new List<LayoutFinding>();
        void Say(string rule, Outcome outcome, string text, LayoutPartition? about = null) =>
            found.Add(new(rule, outcome, text, about?.Number));
        foreach (var twice in partitions.GroupBy(p => p.Number).Where(g => g.Count() > 1))
            Say("number", Outcome.Wall, $"Number {twice.Key} is used {twice.Count()} times.", twice.First());
        var extended = partitions.Where(p => p.Use == PartitionUse.Extended).ToArray();
        foreach (var p in partitions)
        {
            if (p.StartLba < 1 || p.SizeLba < 1)
                Say(
                    "size",
                    Outcome.Wall,
                    $"Partition {p.Number} begins at {p.StartLba} and has {p.SizeLba} sectors.",
                    p
                );
            else if (p.StartLba > long.MaxValue / 8192 || p.SizeLba > long.MaxValue / 8192)
                Say("drive", Outcome.Wall, $"Partition {p.Number} is larger than any drive.", p);
        }
        if (found.Count > 0)
            return found;
        Overlaps(partitions, extended, Say);
        foreach (var p in partitions)
        {
            if (sectors is { } all && p.EndLba > UsableEnd(scheme, sectorBytes, all))
                Say(
                    "drive",
                    Outcome.Wall,
                    $"Partition {p.Number} ends {Quantity.Drive((p.EndLba - UsableEnd(scheme, sectorBytes, all)) * sectorBytes)} beyond what the drive has for partitions.",
                    p
                );
            if (scheme == PartitionScheme.Mbr && (p.StartLba >= 1L << 32 || p.SizeLba >= 1L << 32))
                Say("mbr-32-bits", Outcome.Wall, $"Partition {p.Number} does not fit the 32 bits of an MBR.", p);
            if (p.StartLba < FirstUsable(scheme, sectorBytes))
                Say("table", Outcome.Wall, $"Partition {p.Number} lies over the partition table.", p);
            if (p.Use != PartitionUse.Extended && p.StartLba * sectorBytes % MiB != 0)
                Say(
                    "alignment",
                    Outcome.Caveat,
                    $"Partition {p.Number} does not begin at a whole mebibyte: flash and large sectors are slow there.",
                    p
                );
        }
        if (scheme == PartitionScheme.Mbr)
            Entries(partitions, extended, Say);
        Starts(scheme, sectorBytes, partitions, firmware, reachBytes, Say);
        return found;
    }

    private static void Overlaps(
        IReadOnlyList<LayoutPartition> partitions,
        LayoutPartition[] extended,
        Action<string, Outcome, string, LayoutPartition?> say
    )
    {
        var flat = partitions.Where(p => p.Use != PartitionUse.Extended).OrderBy(p => p.StartLba).ToArray();
        for (var i = 1; i < flat.Length; i++)
            if (flat[i].StartLba < flat[i - 1].EndLba)
                say(
                    "overlap",
                    Outcome.Wall,
                    $"Partitions {flat[i - 1].Number} and {flat[i].Number} overlap by {flat[i - 1].EndLba - flat[i].StartLba} sectors.",
                    flat[i]
                );
        foreach (var box in extended)
        foreach (var p in flat.Where(p => p.Number <= 4 && p.StartLba < box.EndLba && box.StartLba < p.EndLba))
            say("overlap", Outcome.Wall, $"Partition {p.Number} lies within the extended partition.", p);
    }

    private static void Entries(
        IReadOnlyList<LayoutPartition> partitions,
        LayoutPartition[] extended,
        Action<string, Outcome, string, LayoutPartition?> say
    )
    {
        if (partitions.Count(p => p.Number <= 4) > 4)
            say("mbr-entries", Outcome.Wall, "An MBR has four entries.", null);
        if (extended.Length > 1)
            say("extended", Outcome.Wall, "An MBR has one extended partition.", extended[1]);
        foreach (var p in partitions.Where(p => p.Number > 4))
            if (!extended.Any(x => x.StartLba < p.StartLba && p.EndLba <= x.EndLba))
                say(
                    "extended",
                    Outcome.Wall,
                    $"Partition {p.Number} is a logical one, and lies in no extended partition with room for its record before it.",
                    p
                );
    }

    private static void Starts(
        PartitionScheme scheme,
        int sectorBytes,
        IReadOnlyList<LayoutPartition> partitions,
        string? firmware,
        long? reachBytes,
        Action<string, Outcome, string, LayoutPartition?> say
    )
    {
        var efi = partitions.FirstOrDefault(p => p.Use == PartitionUse.Efi);
        if (firmware is "uefi32" or "uefi64")
        {
            if (efi is null)
                say("efi", Outcome.Wall, "UEFI starts from an EFI system partition, and there is none.", null);
            else if (efi.SizeLba * sectorBytes < (sectorBytes == 4096 ? 260 : 33) * MiB)
                say(
                    "efi-size",
                    Outcome.Caveat,
                    $"The EFI system partition has {Quantity.Memory(efi.SizeLba * sectorBytes / MiB)}: too small for FAT32 with sectors of {sectorBytes} bytes.",
                    efi
                );
            return;
        }
        if (firmware != "bios")
            return;
        if (scheme == PartitionScheme.Gpt && partitions.All(p => p.Use != PartitionUse.BiosBoot))
            say(
                "bios-boot",
                Outcome.Wall,
                "Legacy BIOS on a GPT wants a partition for the loader's core (BIOS boot), and there is none.",
                null
            );
        var starts =
            partitions.FirstOrDefault(p => p.Use == PartitionUse.Boot)
            ?? partitions.FirstOrDefault(p => p.Use == PartitionUse.System);
        if (reachBytes is not { } reach)
            return;
        foreach (var p in partitions.Where(p => p == starts || p.Use == PartitionUse.BiosBoot))
            if (p.EndLba > reach / sectorBytes)
                say(
                    "reach",
                    Outcome.Wall,
                    $"The boot files in partition {p.Number} may lie up to {Quantity.Drive((p.EndLba - reach / sectorBytes) * sectorBytes)} beyond what the firmware reads ({Quantity.Drive(reach)}).",
                    p
                );
    }

    private static long TableSectors(int sectorBytes) => (128 * 128 + sectorBytes - 1) / sectorBytes;

    private static long FirstUsable(PartitionScheme scheme, int sectorBytes) =>
        scheme == PartitionScheme.Gpt ? 2 + TableSectors(sectorBytes) : 1;

    private static long UsableEnd(PartitionScheme scheme, int sectorBytes, long sectors) =>
        scheme == PartitionScheme.Gpt ? sectors - 1 - TableSectors(sectorBytes) : sectors;
}
