using System.Globalization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.Boards;

/// <summary>A key of a board's settings that counts.</summary>
/// <param name="Key">The key.</param>
/// <param name="Value">The value in force.</param>
/// <param name="Line">The line that it comes from.</param>
/// <param name="About">What it does; null where nobody here knows the key.</param>
/// <param name="Unit">Its unit.</param>
public sealed record BoardSetting(string Key, string Value, int Line, string? About, string? Unit);

/// <summary>Something to know of a line of a board's settings.</summary>
/// <param name="Line">The line.</param>
/// <param name="Key">The key; null for a line without one.</param>
/// <param name="Outcome"><c>wall</c> for what the board does not take, else <c>caveat</c>.</param>
/// <param name="Text">What it is, and what would be right.</param>
public sealed record BoardFinding(int Line, string? Key, Outcome Outcome, string Text);

/// <summary>A board's settings held against what it takes.</summary>
/// <param name="Effective">The keys that count.</param>
/// <param name="Findings">What to know, by line.</param>
public sealed record BoardVerdict(IReadOnlyList<BoardSetting> Effective, IReadOnlyList<BoardFinding> Findings);

/// <summary>
/// Checks the text of settings that a small board reads before any system runs: ranges, heat and supply, keys that stand twice or
/// under a filter that does not apply here.
/// </summary>
public static class BoardConfig
{
    private const string Everywhere = "all";

    /// <summary>Whether a filter applies to a board.</summary>
    public static bool Applies(SmallBoard board, string filter) =>
        filter.Length == 0 || filter == Everywhere || board.Filters.Contains(filter);

    /// <summary>Checks a text.</summary>
    public static BoardVerdict Check(SmallBoard board, string text)
    {
        var lines = FilteredText.Read(text);
        var effective = FilteredText.Effective(lines, f => Applies(board, f));
        var findings = new List<BoardFinding>();
        foreach (var line in lines)
            if (line.Kind == FilteredKind.Odd)
                findings.Add(
                    new(
                        line.Number,
                        null,
                        Outcome.Wall,
                        "No key and value: the board passes over it. Write key=value, or # before a remark."
                    )
                );
            else if (line.Kind == FilteredKind.Entry && !Applies(board, line.Filter))
                findings.Add(
                    new(
                        line.Number,
                        line.Key,
                        Outcome.Caveat,
                        $"It stands under [{line.Filter}], which is not for this board: it does not count."
                    )
                );
        foreach (var key in effective)
        {
            foreach (var over in key.Over)
                findings.Add(
                    new(
                        over,
                        key.Key,
                        Outcome.Caveat,
                        $"{key.Key} stands again in line {key.Line}, and that one counts."
                    )
                );
            var known = board.Keys.FirstOrDefault(k => k.Key == key.Key);
            if (known is null)
                findings.Add(
                    new(
                        key.Line,
                        key.Key,
                        Outcome.Caveat,
                        "Nobody here knows this key for this board: it stays as it is."
                    )
                );
            else
                findings.AddRange(Held(board, known, key));
        }
        return new BoardVerdict(
            [
                .. effective.Select(k =>
                {
                    var known = board.Keys.FirstOrDefault(b => b.Key == k.Key);
                    return new BoardSetting(k.Key, k.Value, k.Line, known?.About, known?.Unit);
                }),
            ],
            [.. findings.OrderBy(f => f.Line)]
        );
    }

    /// <summary>The text with a key set, remarks and order as they were.</summary>
    public static string With(SmallBoard board, string text, string key, string value) =>
        FilteredText.With(text, key, value, f => Applies(board, f));

    private static IEnumerable<BoardFinding> Held(SmallBoard board, BoardKey known, EffectiveKey key)
    {
        BoardFinding Wall(string text) => new(key.Line, key.Key, Outcome.Wall, text);
        BoardFinding Mind(string text) => new(key.Line, key.Key, Outcome.Caveat, text);
        if (known.Words.Count > 0)
        {
            if (!known.Words.Contains(key.Value))
                yield return Wall($"“{key.Value}” is nothing that it takes: {Numbers.Join(known.Words, "or")}.");
            yield break;
        }
        if (known.Least is null && known.Most is null)
            yield break;
        if (!int.TryParse(key.Value, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number))
        {
            yield return Wall($"“{key.Value}” is no whole number{Of(known)}.");
            yield break;
        }
        if (number < known.Least || number > known.Most)
        {
            yield return Wall(
                $"{number} is out of range: {known.Least} to {known.Most}{Of(known)}. With it the board may not start."
            );
            yield break;
        }
        if (number >= known.HeatFrom)
            yield return Mind(
                $"From {known.HeatFrom}{Of(known)} on it gets hot: a cooler with a fan, and a finger's width of air. It lowers its clock at 80 °C."
            );
        if (number >= known.SupplyFrom)
            yield return Mind(
                $"From {known.SupplyFrom}{Of(known)} on it wants a supply of {board.LargeSupplyMilliamps} mA at 5 V: with a weaker one it restarts under load."
            );
    }

    private static string Of(BoardKey key) => key.Unit is { } unit ? $" {unit}" : "";
}
