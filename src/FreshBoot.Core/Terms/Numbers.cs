namespace FreshBoot.Core.Terms;

/// <summary>Numbers and money in words.</summary>
public static class Numbers
{
    private static readonly string[] Small =
    [
        "no",
        "one",
        "two",
        "three",
        "four",
        "five",
        "six",
        "seven",
        "eight",
        "nine",
        "ten",
        "eleven",
        "twelve",
    ];

    /// <summary>"one" to "twelve" as a word, larger numbers in figures.</summary>
    public static string Word(long number) => number >= 0 && number < Small.Length ? Small[number] : number.ToString();

    /// <summary>A number with what it counts, at the beginning of a sentence: "One recipe is", "Two recipes are".</summary>
    public static string Count(long number, string one, string several) =>
        $"{char.ToUpperInvariant(Word(number)[0])}{Word(number)[1..]} {(number == 1 ? one : several)}";

    /// <summary>An amount of money in hundredth parts of a mark: "M 14.00".</summary>
    public static string Money(int hundredths) => $"M {hundredths / 100}.{hundredths % 100:00}";

    /// <summary>
    /// "a laptop", "an Ottavine", "an 8 GB stick", "an L4": by how it is spoken. A letter that is spelled (before a digit or a capital) is
    /// spoken by its name.
    /// </summary>
    public static string A(string named)
    {
        var spelled =
            named.Length > 0
            && char.IsAsciiLetterUpper(named[0])
            && (named.Length == 1 || !char.IsAsciiLetterLower(named[1]));
        var vowel =
            named.Length > 0
            && (
                spelled
                    ? "AEFHILMNORSX".Contains(named[0], StringComparison.Ordinal)
                    : named[0] == '8'
                        || named.StartsWith("11", StringComparison.Ordinal)
                        || named.StartsWith("18", StringComparison.Ordinal)
                        || (
                            "aeioAEIO".Contains(named[0], StringComparison.Ordinal)
                            && !named.StartsWith("one", StringComparison.OrdinalIgnoreCase)
                        )
                        || (
                            named[0] is 'u' or 'U'
                            && !named.StartsWith("us", StringComparison.OrdinalIgnoreCase)
                            && !named.StartsWith("uni", StringComparison.OrdinalIgnoreCase)
                        )
            );
        return $"{(vowel ? "an" : "a")} {named}";
    }

    /// <summary>"a", "a or b", "a, b or c".</summary>
    public static string Join(IEnumerable<string> parts, string last)
    {
        var all = parts.ToArray();
        return all.Length < 2 ? string.Concat(all) : $"{string.Join(", ", all[..^1])} {last} {all[^1]}";
    }
}
