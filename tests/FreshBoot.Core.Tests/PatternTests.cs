using System.Text.RegularExpressions;

namespace FreshBoot.Core.Tests;

/// <summary>
/// No wall clock decides what a pattern finds: one that comes from data never backtracks, one of the code has no nested
/// repetition, and none has a time limit, in the product or in its tests.
/// </summary>
public partial class PatternTests
{
    private static readonly (string File, string Text)[] Sources =
    [
        .. new[] { "src", "tests", "benchmarks" }
            .SelectMany(f => Directory.GetFiles(Path.Combine(Shipped.Home, f), "*.cs", SearchOption.AllDirectories))
            .Where(f =>
                !f.Contains("/obj/") && !f.Contains("/bin/") && !f.EndsWith("PatternTests.cs", StringComparison.Ordinal)
            )
            .Select(f => (f, File.ReadAllText(f))),
    ];

    [Fact]
    public void No_pattern_of_the_code_has_a_time_limit()
    {
        var patterns = Sources.SelectMany(s => Generated().Matches(s.Text).Select(m => (s.File, m.Value))).ToArray();
        patterns.Length.ShouldBeGreaterThan(15);
        patterns.Where(p => Limit().IsMatch(p.Value)).ShouldBeEmpty();
        Sources.Where(s => s.Text.Contains("RegexMatchTimeout", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    [Fact]
    public void A_pattern_that_is_made_while_the_application_runs_never_goes_back() =>
        Sources
            .SelectMany(s =>
                Made()
                    .Matches(s.Text)
                    .Select(m => (s.File, Call: s.Text[m.Index..Math.Min(s.Text.Length, m.Index + 300)]))
            )
            .Where(c =>
                !c.Call.Contains("NonBacktracking", StringComparison.Ordinal)
                || c.Call.Contains("TimeSpan.From", StringComparison.Ordinal)
            )
            .ShouldBeEmpty();

    [Fact]
    public void A_pattern_of_the_code_can_be_made_without_going_back_or_repeats_a_bounded_number_of_times()
    {
        var forms = Sources
            .Where(s => s.File.Contains("/src/"))
            .SelectMany(s => Generated().Matches(s.Text))
            .Select(m => Written().Match(m.Value))
            .Select(m =>
                m.Groups["verbatim"].Success
                    ? m.Groups["verbatim"].Value.Replace("\"\"", "\"")
                    : Regex.Unescape(m.Groups["plain"].Value)
            )
            .ToArray();
        forms.Length.ShouldBeGreaterThan(10);
        forms.Where(f => !Linear(f)).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("^(?=.*a)(b+)+$", false)]
    [InlineData("(a+)+$", true)]
    [InlineData("(?<!x)[0-9]{2}", true)]
    public void A_pattern_that_could_run_away_is_told(string pattern, bool linear) => Linear(pattern).ShouldBe(linear);

    private static bool Linear(string pattern)
    {
        try
        {
            _ = new Regex(pattern, RegexOptions.NonBacktracking | RegexOptions.ExplicitCapture);
            return true;
        }
        catch (NotSupportedException)
        {
            // It looks ahead or behind: then nothing in it may repeat without an end, but one class before a fixed text.
            return !Unbounded().IsMatch(pattern);
        }
    }

    [GeneratedRegex(@"\[GeneratedRegex\((?:[^""\]]|""(?:[^""\\]|\\.)*""|@""(?:[^""]|"""")*"")*?\)\]")]
    private static partial Regex Generated();

    [GeneratedRegex(@",\s*(?:matchTimeoutMilliseconds:\s*)?\d+\s*\)\]$")]
    private static partial Regex Limit();

    [GeneratedRegex(
        @"\((?:\s*)(?:@""(?<verbatim>(?:[^""]|"""")*)""|""(?<plain>(?:[^""\\]|\\.)*)"")",
        RegexOptions.ExplicitCapture
    )]
    private static partial Regex Written();

    [GeneratedRegex(@"new Regex\(|Regex\.(?:IsMatch|Match|Matches|Replace|Split)\(|private static Regex \w+\(")]
    private static partial Regex Made();

    [GeneratedRegex(@"[*+]|\{\d+,\}")]
    private static partial Regex Unbounded();
}
