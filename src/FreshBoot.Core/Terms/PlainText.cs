using System.Collections.Frozen;
using System.Globalization;
using System.Text;

namespace FreshBoot.Core.Terms;

/// <summary>
/// Names and notes as they are kept: composed (Unicode NFC), so that what looks alike is alike, and without signs that nobody sees and
/// that change how the rest is read or printed.
/// </summary>
public static class PlainText
{
    /// <summary>What stands for a sign that is not kept, in what a program printed.</summary>
    public const char Shown = '\ufffd';

    /// <summary>
    /// Whether a sign is kept out: control characters (a tab and the ends of lines apart, where lines are allowed), marks that turn the
    /// direction of writing (Unicode Annex 9: embeddings, overrides, isolates), halves of a pair, and what Unicode assigns to nothing.
    /// </summary>
    public static bool IsKeptOut(char sign, bool lines) =>
        char.IsControl(sign)
            ? !(lines && sign is '\t' or '\n' or '\r')
            : sign
                is >= '\u202a'
                    and <= '\u202e'
                    or >= '\u2066'
                    and <= '\u2069'
                    or '\u200e'
                    or '\u200f'
                    or '\u061c'
                    or '\ufeff'
                    or '\uffff'
                    or '\ufffe'
                || char.GetUnicodeCategory(sign) is UnicodeCategory.LineSeparator or UnicodeCategory.ParagraphSeparator;

    /// <summary>Whether a text can be kept as it is, but for its composition.</summary>
    /// <param name="text">The text.</param>
    /// <param name="lines">Whether it may have several lines.</param>
    public static bool IsPlain(string text, bool lines) => !text.Any(c => IsKeptOut(c, lines)) && IsWhole(text);

    /// <summary>The text as it is kept: composed. It has to be plain.</summary>
    /// <remarks>
    /// The runtime composes nothing without the tables of a library that not every computer has (invariant globalization). The pairs are
    /// those of Unicode 15 in canonical composition; a mark is joined with what stands right before it.
    /// </remarks>
    public static string Composed(string text)
    {
        if (text.All(c => c < '\u0300'))
            return text;
        var composed = new StringBuilder(text.Length);
        foreach (var sign in text)
            if (composed.Length > 0 && Compositions.TryGetValue((composed[^1], sign), out var whole))
                composed[^1] = whole;
            else
                composed.Append(sign);
        return composed.ToString();
    }

    private static readonly FrozenDictionary<(char, char), char> Compositions = Read();

    private static FrozenDictionary<(char, char), char> Read()
    {
        using var stream = typeof(PlainText).Assembly.GetManifestResourceStream("compositions.txt")!;
        using var reader = new StreamReader(stream);
        var pairs = new Dictionary<(char, char), char>();
        while (reader.ReadLine() is { } line)
            if (line.Length == 3)
                pairs[(line[0], line[1])] = line[2];
        return pairs.ToFrozenDictionary();
    }

    /// <summary>What a program printed, each sign that is kept out shown as one.</summary>
    public static string Printed(string text)
    {
        var kept = new StringBuilder(text.Length);
        for (var i = 0; i < text.Length; i++)
            if (char.IsSurrogatePair(text, i))
            {
                kept.Append(text, i, 2);
                i++;
            }
            else
                kept.Append(
                    char.IsSurrogate(text[i]) || (text[i] != '\u001b' && IsKeptOut(text[i], lines: true))
                        ? Shown
                        : text[i]
                );
        return kept.ToString();
    }

    private static bool IsWhole(string text)
    {
        for (var i = 0; i < text.Length; i++)
            if (char.IsSurrogate(text[i]) && !(i + 1 < text.Length && char.IsSurrogatePair(text, i++)))
                return false;
        return true;
    }
}
