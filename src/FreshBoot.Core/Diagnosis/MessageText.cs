namespace FreshBoot.Core.Diagnosis;

/// <summary>
/// Holds what somebody read off a screen against a message that is known. It may come whole down a line, be read out of a photograph, or
/// be typed from memory: then its words count, in their order, and a slip of one sign in a longer word counts as the word.
/// </summary>
public static class MessageText
{
    private const int LongWord = 5;

    /// <summary>Whether a text says what a known message says.</summary>
    /// <param name="text">The text, of any length.</param>
    /// <param name="known">The message, or a piece of it.</param>
    public static bool Says(string text, string known)
    {
        if (text.Contains(known, StringComparison.OrdinalIgnoreCase))
            return true;
        var (said, wanted) = (Words(text), Words(known));
        // One word alone is said by chance.
        if (wanted.Length < 2)
            return false;
        // Whoever types from memory leaves a small word out; most have to be there, near to one another.
        var least = wanted.Length - wanted.Length / 4;
        for (var from = 0; from < said.Length; from++)
        {
            var (at, found) = (from, 0);
            foreach (var word in wanted)
            {
                var next = at;
                while (next < said.Length && next < from + 2 * wanted.Length && !Same(said[next], word))
                    next++;
                if (next < said.Length && next < from + 2 * wanted.Length)
                    (at, found) = (next + 1, found + 1);
            }
            if (found >= least)
                return true;
        }
        return false;
    }

    private static string[] Words(string text) =>
        string.Concat(text.Select(c => char.IsLetterOrDigit(c) ? char.ToLowerInvariant(c) : ' '))
            .Split(' ', StringSplitOptions.RemoveEmptyEntries);

    /// <summary>The same word, or a longer one with one sign wrong, missing or too many.</summary>
    private static bool Same(string said, string word)
    {
        if (said == word)
            return true;
        if (word.Length < LongWord || Math.Abs(said.Length - word.Length) > 1)
            return false;
        var same = 0;
        while (same < Math.Min(said.Length, word.Length) && said[same] == word[same])
            same++;
        return said.Length == word.Length ? said.AsSpan(same + 1).SequenceEqual(word.AsSpan(same + 1))
            : said.Length > word.Length ? said.AsSpan(same + 1).SequenceEqual(word.AsSpan(same))
            : said.AsSpan(same).SequenceEqual(word.AsSpan(same + 1));
    }
}
