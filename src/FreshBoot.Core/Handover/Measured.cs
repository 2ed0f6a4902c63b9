using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Handover;

/// <summary>A number that tells how well a finished machine runs, beside others of its model.</summary>
/// <param name="Key">The fact.</param>
/// <param name="Label">Its name.</param>
/// <param name="Says">The number with its unit; null while nobody measured it.</param>
/// <param name="Others">How many others of the model were measured.</param>
/// <param name="Middle">The middle one of theirs (the lower of two); null where there is none.</param>
/// <param name="Worse">Whether it is much worse than theirs; null where there is nothing to hold it against.</param>
/// <param name="ByHand">Whether a person measures it.</param>
public sealed record Measured(
    string Key,
    string Label,
    string? Says,
    int Others,
    string? Middle,
    bool? Worse,
    bool ByHand
)
{
    /// <summary>Fewer than these are no company to be held against.</summary>
    private const int Fewest = 2;

    private static readonly (string Key, bool LessIsBetter, bool ByHand)[] All =
    [
        ("use.startSeconds", true, true),
        ("use.idleMiB", true, true),
        ("use.loadCelsius", true, true),
        ("os.freeBytes", false, true),
        ("battery.healthPercent", false, false),
        ("storage.0.wearPercent", true, false),
    ];

    /// <summary>All of them that make sense of this machine: without a battery nothing is said of one.</summary>
    /// <param name="now">The machine.</param>
    /// <param name="others">Others of its model.</param>
    public static IReadOnlyList<Measured> Of(IFacts now, IReadOnlyList<IFacts> others) =>
        [
            .. All.Where(m => m.ByHand || now.Number(m.Key) is not null)
                .Select(m => One(m.Key, m.LessIsBetter, m.ByHand, now, others)),
        ];

    private static Measured One(string key, bool lessIsBetter, bool byHand, IFacts now, IReadOnlyList<IFacts> others)
    {
        var own = now.Number(key);
        long[] theirs = [.. others.Select(o => o.Number(key)).OfType<long>().Order()];
        long? middle = theirs.Length > 0 ? theirs[(theirs.Length - 1) / 2] : null;
        // A quarter off is more than two measurements of one machine differ by.
        bool? worse =
            own is { } mine && middle is { } usual && theirs.Length >= Fewest
                ? lessIsBetter
                    ? mine * 4 > usual * 5
                    : mine * 4 < usual * 3
                : null;
        return new Measured(
            key,
            FactRegistry.Label(key),
            Say(key, own),
            theirs.Length,
            Say(key, middle),
            worse,
            byHand
        );
    }

    private static string? Say(string key, long? number)
    {
        if (number is not { } value)
            return null;
        var unit = FactRegistry.Find(key)?.Unit;
        var shown = FactText.Show(key, FactValue.Of(value));
        return unit is null or "MiB" or "B" ? shown : $"{shown} {unit}";
    }
}
