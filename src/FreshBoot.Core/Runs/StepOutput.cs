using System.Text.Json.Serialization;
using System.Text.RegularExpressions;

namespace FreshBoot.Core.Runs;

/// <summary>What a command's output says of it.</summary>
[JsonConverter(typeof(CamelCaseNames<OutputVerdict>))]
public enum OutputVerdict
{
    /// <summary>It printed what it should, and nothing after it.</summary>
    Done,

    /// <summary>It still works, even if it has printed what it should already.</summary>
    NotYet,

    /// <summary>It printed something else.</summary>
    Wrong,
}

/// <summary>The output of a typed step, held against what it should print.</summary>
/// <param name="Verdict">Done, not yet, or wrong.</param>
/// <param name="Line">The line that says so; empty where nothing was printed.</param>
public sealed partial record StepOutput(OutputVerdict Verdict, string Line)
{
    /// <summary>
    /// Holds an output against what is expected. A line that names a failure counts even where the expected one stands as well: a
    /// command that half succeeded has failed. What is printed last decides whether it still works.
    /// </summary>
    /// <param name="expected">What the step says that it prints.</param>
    /// <param name="text">What it printed; signs that colour or move a cursor are passed over.</param>
    public static StepOutput Of(string expected, string text)
    {
        string[] lines =
        [
            .. Control()
                .Replace(text, "")
                .Split('\n')
                .Select(l => l[(l.LastIndexOf('\r', Math.Max(0, l.TrimEnd('\r').Length - 1)) + 1)..].Trim())
                .Where(l => l.Length > 0),
        ];
        if (lines.Length == 0)
            return new StepOutput(OutputVerdict.NotYet, "");
        var wanted = expected.Trim();
        var at = Array.FindLastIndex(lines, l => Says(l, wanted));
        var wrong = Array.FindIndex(lines, l => !Says(l, wanted) && Failure().IsMatch(l));
        if (wrong >= 0)
            return new StepOutput(OutputVerdict.Wrong, lines[wrong]);
        if (Working().IsMatch(lines[^1]) && !Says(lines[^1], wanted))
            return new StepOutput(OutputVerdict.NotYet, lines[^1]);
        return at >= 0 ? new StepOutput(OutputVerdict.Done, lines[at]) : new StepOutput(OutputVerdict.Wrong, lines[^1]);
    }

    private static bool Says(string line, string wanted) => line.Contains(wanted, StringComparison.Ordinal);

    /// <summary>Escape sequences (ECMA-48, section 5.4) and other control characters but line ends.</summary>
    [GeneratedRegex(@"\x1b\[[0-?]*[ -/]*[@-~]|[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]", RegexOptions.NonBacktracking)]
    private static partial Regex Control();

    [GeneratedRegex(
        @"\b(error|failed|failure|cannot|can't|could not|denied|refused|no such|not found|mismatch|differ|differs|invalid|unable|aborted|timed out)\b",
        RegexOptions.NonBacktracking
            | RegexOptions.ExplicitCapture
            | RegexOptions.IgnoreCase
            | RegexOptions.CultureInvariant
    )]
    private static partial Regex Failure();

    /// <summary>Lines of something that goes on: a percentage below a hundred, dots at the end, "please wait".</summary>
    [GeneratedRegex(
        @"(^|[^0-9])[0-9]{1,2}(\.[0-9]+)?\s?%|(\.\.\.|…)$|\b(please wait|working|writing|reading|verifying|copying)\b",
        RegexOptions.NonBacktracking
            | RegexOptions.ExplicitCapture
            | RegexOptions.IgnoreCase
            | RegexOptions.CultureInvariant
    )]
    private static partial Regex Working();
}
