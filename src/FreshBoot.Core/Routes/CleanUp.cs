using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Routes;

/// <summary>Something on the drive that can go before an upgrade.</summary>
/// <param name="What">What it is, in words.</param>
/// <param name="Bytes">How much room it takes.</param>
/// <param name="Ask">Whether a person is asked before it goes.</param>
public sealed record CleanUpItem(string What, long Bytes, bool Ask);

/// <summary>
/// What goes first where an upgrade in place lacks room: what nobody misses before what a person is asked about, the largest
/// first, and no more than is needed. Nothing that a person has made is ever among it.
/// </summary>
public static class CleanUp
{
    private static readonly (string Key, string What, bool Ask)[] Candidates =
    [
        ("os.updateFilesBytes", "files of past updates", false),
        ("os.temporaryBytes", "temporary files", false),
        ("os.sleepFileBytes", "the file for sleep to disk", false),
        ("os.binBytes", "the bin", true),
        ("os.oldSystemBytes", "the system before this one", true),
        ("os.downloadsBytes", "downloaded installers and discs", true),
    ];

    /// <summary>The facts that say what can go.</summary>
    public static IReadOnlyList<string> Keys { get; } = [.. Candidates.Select(c => c.Key)];

    /// <summary>Everything that is known to be there, in the order in which it goes.</summary>
    public static IReadOnlyList<CleanUpItem> All(IFacts facts) =>
        [
            .. Candidates
                .Select(c => new CleanUpItem(c.What, facts.Number(c.Key) ?? 0, c.Ask))
                .Where(c => c.Bytes > 0)
                .OrderBy(c => c.Ask)
                .ThenByDescending(c => c.Bytes),
        ];

    /// <summary>What goes, in its order, so that <paramref name="missing"/> bytes come free; null where all of it is too little.</summary>
    public static IReadOnlyList<CleanUpItem>? For(IFacts facts, long missing)
    {
        var taken = new List<CleanUpItem>();
        foreach (var item in All(facts))
        {
            if (missing <= 0)
                break;
            taken.Add(item);
            missing -= item.Bytes;
        }
        return missing <= 0 ? taken : null;
    }

    /// <summary>"files of past updates (6 GB), the bin (3 GB, ask first)".</summary>
    public static string InWords(IEnumerable<CleanUpItem> items) =>
        string.Join(", ", items.Select(i => $"{i.What} ({Quantity.Drive(i.Bytes)}{(i.Ask ? ", ask first" : "")})"));
}
