using FreshBoot.Formats.Discs;
using FreshBoot.Formats.Partitions;

namespace FreshBoot.Core.Images;

/// <summary>Something that an image had and the one made from it has no more.</summary>
/// <param name="IsStart">Whether it is a way of starting: whoever needs that one is left with an image that does nothing.</param>
/// <param name="What">What, in words.</param>
public sealed record ImageLoss(bool IsStart, string What);

/// <summary>
/// Compares an image with the one that was made from it, whatever made it: ways of starting, partitions, file systems, labels, the
/// second set of names on a disc, and the marks by which loaders look for their disk. Before anything is made it tells what will be lost.
/// </summary>
public static class ImageLosses
{
    /// <summary>What the one had and the other has no more.</summary>
    public static IReadOnlyList<ImageLoss> Of(Inspection before, Inspection after)
    {
        var losses = new List<ImageLoss>();
        losses.AddRange(before.Starts.LostIn(after.Starts).Select(way => new ImageLoss(true, $"it starts by {way}")));
        var left = after.Partitions.Select(Kind).ToList();
        foreach (var partition in before.Partitions.Where(p => !IsFiller(p)))
            if (!left.Remove(Kind(partition)))
                losses.Add(
                    new(
                        false,
                        $"partition {partition.Number} of its {partition.Table.ToUpperInvariant()}"
                            + $" ({(partition.Name.Length > 0 ? partition.Name : $"type {partition.Type}")}, {Quantity.Drive(partition.SizeBytes)})"
                    )
                );
        var systems = after.FileSystems.Select(f => (Family(f.Kind), f.Label)).ToList();
        foreach (var system in before.FileSystems)
            if (!systems.Remove((Family(system.Kind), system.Label)))
                losses.Add(
                    new(
                        false,
                        $"the {system.Kind} file system{(system.Label.Length > 0 ? $" “{system.Label}”" : "")} ({system.In})"
                    )
                );
        if (before.Marks.Joliet && !after.Marks.Joliet)
            losses.Add(new(false, "the names by Joliet"));
        if (before.Marks.MbrSignature is { } number && after.Marks.MbrSignature != number)
            losses.Add(new(false, $"the disk's number {number}"));
        if (before.Marks.GptDisk is { } guid && after.Marks.GptDisk != guid)
            losses.Add(new(false, $"the disk's GUID {guid}"));
        if (before.Marks.SecondGptAt is not null && after.Marks.SecondGptAt is null)
            losses.Add(new(false, "the second copy of its GPT"));
        return losses;
    }

    /// <summary>What will be lost, before anything is made.</summary>
    /// <param name="before">The image.</param>
    /// <param name="method"><c>rewrite</c>: its tree is written again. <c>stick</c>: its files are copied into one FAT32 partition.</param>
    public static IReadOnlyList<ImageLoss> Ahead(Inspection before, string method)
    {
        if (method == "rewrite")
            // The writer keeps tables, loaders and names, and writes no UDF.
            return before
                .FileSystems.Where(f => Family(f.Kind) == "UDF")
                .Select(f => new ImageLoss(
                    false,
                    $"the {f.Kind} file system{(f.Label.Length > 0 ? $" “{f.Label}”" : "")} ({f.In})"
                ))
                .ToArray();
        bool Has(string machine) => before.Loaders.Any(l => l.Machine == machine);
        var none = new Start(false, "Its files are copied onto a stick.");
        Start If(bool can) => can ? new Start(true, "Its loader is copied.") : none;
        return Of(
            before,
            before with
            {
                Partitions = [new ImagePartition("mbr", 1, "0c", "FAT32", true, 0, 0)],
                FileSystems = [new ImageFileSystem("FAT32", before.Label, "MBR partition 1", 0, 0)],
                Starts = new Starts(
                    none,
                    none,
                    none,
                    If(before.Starts.Uefi64Stick.Can || before.Starts.Uefi64Disc.Can || Has("x86-64")),
                    If(before.Starts.Uefi32.Can),
                    If(before.Starts.Arm64.Can)
                ),
                Marks = new ImageMarks(false, null, null, null, null),
            }
        );
    }

    /// <summary>Those that nobody was told of beforehand.</summary>
    public static IReadOnlyList<ImageLoss> Untold(IEnumerable<ImageLoss> told, IEnumerable<ImageLoss> lost) =>
        [.. lost.Where(l => !told.Contains(l))];

    /// <summary>What only protects a GPT, or names the gaps between partitions so that none is taken for free: it holds nothing.</summary>
    private static bool IsFiller(ImagePartition p) =>
        p.Type == "ee"
        || (
            p.Table == "gpt" && p.Name.StartsWith("Gap", StringComparison.Ordinal) && p.Name[3..].All(char.IsAsciiDigit)
        );

    private static (string, string) Kind(ImagePartition p) => (p.Table, p.Type);

    /// <summary>FAT12 and FAT16 of one label are one kind to whoever reads them; so are the names of an ISO 9660.</summary>
    private static string Family(string kind) =>
        kind.StartsWith("ISO 9660", StringComparison.Ordinal) ? "ISO 9660"
        : kind.StartsWith("UDF", StringComparison.Ordinal) ? "UDF"
        : kind.StartsWith("FAT", StringComparison.Ordinal) ? "FAT"
        : kind;
}
