using System.Text.Json;
using System.Text.RegularExpressions;

namespace FreshBoot.Core.Tests;

/// <summary>
/// Steps, causes, checks and papers speak the words of the field: what stands in the packs and in the sources is held against a list of
/// words that only this house would use.
/// </summary>
public partial class FieldWordsTests
{
    [GeneratedRegex(
        """
            \bdesk\b|\b(?:longest|the)\ letter\b|(?<!boot\ )\bpickers?\b|circle\ of\ restarts|\bcom(?:e|es|ing)\ up\b
            |\blets?\ (?:(?:no|the|any)\ \w+|\w+)\ in\b|\blet\ in\b|keeper['’]s\ password|drive\ manner|\bits\ own\ system\b
            |\breckon|\b(?:held|holds?|holding)\ (?:it\ |them\ |this\ |both\ )?against\b
            """,
        RegexOptions.IgnorePatternWhitespace
    )]
    private static partial Regex Unwanted();

    /// <summary>In packs also what is listed, or stays, and does not stand.</summary>
    [GeneratedRegex("""\bstands? (?:on|in|under|at|beside|behind|by|before)\b""")]
    private static partial Regex Stands();

    [GeneratedRegex("\"((?:[^\"\\\\]|\\\\.)*)\"")]
    private static partial Regex Literal();

    [Theory]
    [InlineData("Restart it, and wait for the desk.", true)]
    [InlineData("Restart it, and wait for the desktop.", false)]
    [InlineData("Choose it in the picker.", true)]
    [InlineData("Choose it in the boot picker.", false)]
    [InlineData("It is held against the list.", true)]
    [InlineData("The installer lets no machine in.", true)]
    public void The_list_knows_its_words(string text, bool isUnwanted) => Unwanted().IsMatch(text).ShouldBe(isUnwanted);

    [Fact]
    public void No_text_of_a_pack_or_a_paper_has_a_word_of_the_list()
    {
        var found = new List<string>();
        var read = 0;
        foreach (var folder in (string[])["catalogue/packs", "catalogue/words"])
        foreach (var file in Directory.EnumerateFiles(Path.Combine(Shipped.Home, folder), "*.json"))
        {
            using var pack = JsonDocument.Parse(File.ReadAllBytes(file));
            foreach (var text in Texts(pack.RootElement))
            {
                read++;
                if (
                    Unwanted().IsMatch(text)
                    || (folder.EndsWith("packs", StringComparison.Ordinal) && Stands().IsMatch(text))
                )
                    found.Add($"{Path.GetFileName(file)}: {text}");
            }
        }
        read.ShouldBeGreaterThan(3_000);
        found.ShouldBeEmpty();
    }

    [Fact]
    public void No_text_in_the_sources_has_a_word_of_the_list()
    {
        var found =
            from file in Directory.EnumerateFiles(
                Path.Combine(Shipped.Home, "src"),
                "*.cs",
                SearchOption.AllDirectories
            )
            where
                !file.Contains(
                    $"{Path.DirectorySeparatorChar}obj{Path.DirectorySeparatorChar}",
                    StringComparison.Ordinal
                )
            from line in File.ReadLines(file)
            where !line.TrimStart().StartsWith("//", StringComparison.Ordinal)
            from Match literal in Literal().Matches(line)
            let text = literal.Groups[1].Value
            where text.Contains(' ', StringComparison.Ordinal) && Unwanted().IsMatch(text)
            select $"{Path.GetFileName(file)}: {text}";
        found.ShouldBeEmpty();
    }

    private static IEnumerable<string> Texts(JsonElement element) =>
        element.ValueKind switch
        {
            JsonValueKind.Object => element.EnumerateObject().SelectMany(p => Texts(p.Value)),
            JsonValueKind.Array => element.EnumerateArray().SelectMany(Texts),
            JsonValueKind.String when element.GetString() is { } text && text.Contains(' ', StringComparison.Ordinal) =>
                [text],
            _ => [],
        };
}
