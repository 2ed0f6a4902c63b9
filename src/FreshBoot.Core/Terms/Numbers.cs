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

    /// <summary>"a", "a or b", "a, b or c".</summary>
    public static string Join(IEnumerable<string> parts, string last)
    {
        var all = parts.ToArray();
        return all.Length < 2 ? string.Concat(all) : $"{string.Join(", ", all[..^1])} {last} {all[^1]}";
    }
}
