namespace FreshBoot.Formats.Texts;

/// <summary>What a line of a text of keys is.</summary>
public enum FilteredKind
{
    /// <summary>Nothing stands in it.</summary>
    Blank,

    /// <summary>A remark: it begins with #.</summary>
    Comment,

    /// <summary>A filter in brackets: what follows counts only where it applies, until the next one.</summary>
    Filter,

    /// <summary>A key and its value.</summary>
    Entry,

    /// <summary>None of these.</summary>
    Odd,
}

/// <summary>A line of a text of keys.</summary>
/// <param name="Number">Its number, from 1.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Filter">The filter that it stands under; empty for none.</param>
/// <param name="Key">Its key, of an entry.</param>
/// <param name="Value">Its value, of an entry.</param>
public sealed record FilteredLine(int Number, FilteredKind Kind, string Filter, string Key, string Value);

/// <summary>A key that counts.</summary>
/// <param name="Key">The key.</param>
/// <param name="Value">The value in force.</param>
/// <param name="Line">The line that it comes from: the last one that applies.</param>
/// <param name="Over">Lines that applied too, and count no more.</param>
public sealed record EffectiveKey(string Key, string Value, int Line, IReadOnlyList<int> Over);

/// <summary>
/// Texts of <c>key=value</c> lines with filters in brackets, as small boards read them before any system runs. Everything that is
/// not changed stays as it is: remarks, order, line ends.
/// </summary>
public static class FilteredText
{
    /// <summary>The lines of a text.</summary>
    public static IReadOnlyList<FilteredLine> Read(string text)
    {
        var filter = "";
        var lines = new List<FilteredLine>();
        foreach (var raw in TextLines.Split(text).Lines)
        {
            var line = raw.Trim();
            var number = lines.Count + 1;
            if (line.Length == 0)
                lines.Add(new FilteredLine(number, FilteredKind.Blank, filter, "", ""));
            else if (line[0] == '#')
                lines.Add(new FilteredLine(number, FilteredKind.Comment, filter, "", ""));
            else if (line is ['[', .., ']'])
            {
                filter = line[1..^1].Trim();
                lines.Add(new FilteredLine(number, FilteredKind.Filter, filter, "", ""));
            }
            else if (line.IndexOf('=', StringComparison.Ordinal) is > 0 and var at)
                lines.Add(
                    new FilteredLine(number, FilteredKind.Entry, filter, line[..at].TrimEnd(), line[(at + 1)..].Trim())
                );
            else
                lines.Add(new FilteredLine(number, FilteredKind.Odd, filter, "", ""));
        }
        return lines;
    }

    /// <summary>The keys that count, in the order in which they first come: of several lines that apply the last one.</summary>
    /// <param name="lines">The lines.</param>
    /// <param name="applies">Whether a filter applies.</param>
    public static IReadOnlyList<EffectiveKey> Effective(
        IReadOnlyList<FilteredLine> lines,
        Func<string, bool> applies
    ) =>
        [
            .. lines
                .Where(l => l.Kind == FilteredKind.Entry && applies(l.Filter))
                .GroupBy(l => l.Key, StringComparer.Ordinal)
                .Select(g => new EffectiveKey(
                    g.Key,
                    g.Last().Value,
                    g.Last().Number,
                    [.. g.SkipLast(1).Select(l => l.Number)]
                )),
        ];

    /// <summary>
    /// The text with a key set: in the line that counts, else in a new line behind the last one that applies everywhere.
    /// </summary>
    public static string With(string text, string key, string value, Func<string, bool> applies)
    {
        var lines = Read(text);
        var (raw, feed) = TextLines.Split(text);
        if (Effective(lines, applies).FirstOrDefault(e => e.Key == key) is { } now)
        {
            var line = raw[now.Line - 1];
            var at = line.IndexOf('=', StringComparison.Ordinal) + 1;
            var spaces = line[at..].TakeWhile(c => c is ' ' or '\t').Count();
            raw[now.Line - 1] = line[..(at + spaces)] + value;
        }
        else
        {
            // Behind the last entry that no filter holds; a new line at the end could stand under one that does not apply.
            var last = lines.LastOrDefault(l => l.Filter.Length == 0 && l.Kind is FilteredKind.Entry);
            var first = lines.FirstOrDefault(l => l.Kind == FilteredKind.Filter);
            // Before a line feed that ends the text, so that it still does.
            var end = raw[^1].Length == 0 ? raw.Count - 1 : raw.Count;
            var place = last?.Number ?? (first is null ? end : first.Number - 1);
            raw.Insert(Math.Min(place, raw.Count), $"{key}={value}");
        }
        return TextLines.Join(raw, feed);
    }
}
