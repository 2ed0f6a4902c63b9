using System.Globalization;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>
/// A step that a found cause adds to a run, before the one at which it stopped. The sheet itself stays as it was sealed: the step
/// stands in the event.
/// </summary>
public static class MendStep
{
    /// <summary>Key of the cause in words.</summary>
    public const string Cause = "cause";

    /// <summary>Key of what is done about it.</summary>
    public const string Words = "words";

    /// <summary>Key of how long that takes, in minutes.</summary>
    public const string Minutes = "minutes";

    /// <summary>Key of what could be hurt or lost.</summary>
    public const string Caution = "caution";

    /// <summary>Key of whether it erases something, <c>yes</c>: the step then wants the tag.</summary>
    public const string Loses = "loses";

    /// <summary>Minutes that are believed of a mend: two days.</summary>
    private const int MostMinutes = 2880;

    /// <summary>The steps with what was found put in.</summary>
    public static IReadOnlyList<Step> Insert(IReadOnlyList<Step> steps, IEnumerable<RunEvent> events)
    {
        List<Step>? all = null;
        foreach (var e in events.Where(e => e.Kind == RunEventKinds.Found))
        {
            all ??= [.. steps];
            var at = all.FindIndex(s => s.Id == e.StepId);
            // Steps into which it was put already stay as they are.
            if (at >= 0 && all.TrueForAll(s => s.Id != IdOf(e)))
                all.Insert(at, Of(e, all[at]));
        }
        return all ?? steps;
    }

    private static string IdOf(RunEvent e) => string.Create(CultureInfo.InvariantCulture, $"mend-{e.Seq}");

    private static Step Of(RunEvent e, Step stoppedAt)
    {
        var loses = e.Data.GetValueOrDefault(Loses) == "yes";
        return new Step(
            IdOf(e),
            stoppedAt.Rung,
            loses ? StepKind.Confirm : StepKind.Do,
            e.Data[Words],
            e.Data.GetValueOrDefault(Caution),
            Math.Min(MostMinutes, int.Parse(e.Data[Minutes], CultureInfo.InvariantCulture)),
            Expect: null
        )
        {
            Where = stoppedAt.Where,
            Fragment = "mend",
        };
    }

    /// <summary>Checks what was found before it is let in.</summary>
    /// <exception cref="RefusedException">The run is not stopped, or cause, words or minutes are missing.</exception>
    internal static void Check(RunState state, RunEventIn e)
    {
        if (!state.Stopped)
            throw new RefusedException(
                RefusalKind.Conflict,
                "The run is not stopped: there is nothing to find.",
                "kind",
                "“stopped” first, with what is seen."
            );
        foreach (var (key, wanted) in new[] { (Cause, "Why it stopped."), (Words, "What is done about it.") })
            if (!(e.Data?.GetValueOrDefault(key)?.Trim().Length >= 3))
                throw new RefusedException(RefusalKind.Invalid, $"“{key}” is missing.", $"data.{key}", wanted);
        if (
            !int.TryParse(
                e.Data!.GetValueOrDefault(Minutes),
                NumberStyles.None,
                CultureInfo.InvariantCulture,
                out var minutes
            )
            || minutes > MostMinutes
        )
            throw new RefusedException(
                RefusalKind.Invalid,
                "How long it takes is missing or no number.",
                $"data.{Minutes}",
                $"Minutes, 0 to {MostMinutes}."
            );
    }
}
