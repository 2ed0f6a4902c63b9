using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Practice;

/// <summary>What stands on the screen of a machine that is practised on, drawn in text.</summary>
internal static class MachineScreen
{
    /// <summary>Characters in a line.</summary>
    public const int Width = 60;

    /// <summary>The screen while all goes as it should.</summary>
    public static IReadOnlyList<string> Of(PracticeBench bench, Step? step) =>
        step is null ? ["", "  (off)"]
        : step.Expect is { } expect ? [.. Head(bench, step), "", .. Wrap(expect)]
        : [.. Head(bench, step)];

    /// <summary>The screen of its fault.</summary>
    public static IReadOnlyList<string> Fault(PracticeBench bench, Step step) =>
        [.. Head(bench, step), "", .. bench.Scenario.Fault!.Shows.Split('\n')];

    private static IEnumerable<string> Head(PracticeBench bench, Step step)
    {
        var system = bench.Question.System?.Name ?? "";
        var maker = bench.Question.Facts.Word("identity.maker");
        yield return step.Where switch
        {
            StepPlace.Outgoing => bench.Question.Facts.Word("os.name") ?? "its old system",
            StepPlace.Installer => $"{system} · set-up",
            StepPlace.System => system,
            StepPlace.OtherComputer => "another computer of the shop",
            StepPlace.Programmer => "unlocked start · command line",
            _ => $"{maker} {bench.Question.Facts.Word("identity.model")}".Trim(),
        };
        yield return new string('─', Width);
    }

    /// <summary>A text in lines that fit.</summary>
    public static IEnumerable<string> Wrap(string text)
    {
        var line = "";
        foreach (var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            if (line.Length > 0 && line.Length + 1 + word.Length > Width)
            {
                yield return line;
                line = "";
            }
            line = line.Length == 0 ? word : $"{line} {word}";
        }
        if (line.Length > 0)
            yield return line;
    }
}
