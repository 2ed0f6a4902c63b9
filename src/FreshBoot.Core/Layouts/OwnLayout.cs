using System.Globalization;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Layouts;

/// <summary>
/// A layout that a person drew, kept as one fact of the dossier: scheme, bytes of a sector, sectors of the drive, and for each
/// partition its number, use, first sector and length: <c>gpt 512 250069680: 1 efi 2048 1048576; 2 system 1050624 …</c>.
/// </summary>
public static class OwnLayout
{
    /// <summary>The fact that keeps it.</summary>
    public const string Key = "layout.own";

    private const int MostPartitions = 64;

    /// <summary>A layout as the fact keeps it.</summary>
    public static string Write(
        PartitionScheme scheme,
        int sectorBytes,
        long sectors,
        IEnumerable<LayoutPartition> partitions
    ) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{Word(scheme.ToString())} {sectorBytes} {sectors}: {string.Join("; ", partitions.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Number} {Word(p.Use.ToString())} {p.StartLba} {p.SizeLba}")))}"
        );

    /// <summary>The layout of a machine that a person drew.</summary>
    /// <param name="facts">The dossier.</param>
    /// <param name="ask">What a layout is planned for: a drawn one has to fit the same drive.</param>
    /// <returns>Null where nobody drew one; else it, or why it does not count.</returns>
    public static (Layout? Layout, string? WhyNot)? Of(IFacts facts, LayoutAsk ask)
    {
        if (facts.Word(Key) is not { } text)
            return null;
        if (Read(text) is not var (scheme, sectorBytes, sectors, partitions))
            return (null, "The layout that somebody drew cannot be read: draw it again, or take it back.");
        if (sectorBytes != ask.SectorBytes || sectors != ask.DriveBytes / ask.SectorBytes)
            return (
                null,
                $"The layout was drawn for a drive of {Quantity.Drive(sectors * sectorBytes)}, and this one has {Quantity.Drive(ask.DriveBytes)}: draw it again, or take it back."
            );
        var findings = LayoutCheck.Of(scheme, sectorBytes, sectors, partitions, ask.Firmware, ask.Reach.Bytes);
        return findings.FirstOrDefault(f => f.Outcome == Outcome.Wall) is { } wall
            ? (null, $"The layout that somebody drew does not hold: {wall.Text}")
            : (
                new Layout(
                    scheme,
                    "somebody drew it",
                    sectorBytes,
                    sectors,
                    [.. partitions.Select(p => LayoutPlanner.Formed(p, scheme, ask))],
                    ask.Reach,
                    [.. findings.Select(f => new LayoutNote(f.Outcome, f.Text))]
                ),
                null
            );
    }

    /// <summary>What stands against a layout that a person drew, whatever else; null where nothing does, or nobody drew one.</summary>
    public static LayoutFinding? Wall(IFacts facts, LayoutAsk ask) =>
        facts.Word(Key) is { } text && Read(text) is var (scheme, sectorBytes, sectors, partitions)
            ? LayoutCheck
                .Of(scheme, sectorBytes, sectors, partitions, ask.Firmware, ask.Reach.Bytes)
                .FirstOrDefault(f => f.Outcome == Outcome.Wall)
            : null;

    private static (PartitionScheme, int, long, IReadOnlyList<LayoutPartition>)? Read(string text)
    {
        var halves = text.Split(':', 2);
        var head = halves[0].Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (
            halves.Length != 2
            || head.Length != 3
            || !Enum.TryParse<PartitionScheme>(head[0], ignoreCase: true, out var scheme)
            || !int.TryParse(head[1], CultureInfo.InvariantCulture, out var sectorBytes)
            || sectorBytes is not (512 or 4096)
            || Number(head[2]) is not { } sectors
        )
            return null;
        var partitions = new List<LayoutPartition>();
        foreach (var piece in halves[1].Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var words = piece.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            if (
                words.Length != 4
                || partitions.Count == MostPartitions
                || !int.TryParse(words[0], NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                || !Enum.TryParse<PartitionUse>(words[1], ignoreCase: true, out var use)
                || !Enum.IsDefined(use)
                || Number(words[2]) is not { } start
                || Number(words[3]) is not { } size
            )
                return null;
            partitions.Add(
                new LayoutPartition(number, use, LayoutPlanner.TypeOf(scheme, use), start, size, "As it was drawn.")
            );
        }
        return partitions.Count == 0 ? null : (scheme, sectorBytes, sectors, partitions);
    }

    private static long? Number(string word) =>
        long.TryParse(word, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n <= long.MaxValue / 8192
            ? n
            : null;

    private static string Word(string name) => char.ToLowerInvariant(name[0]) + name[1..];
}
