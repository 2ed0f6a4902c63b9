using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>
/// A step that reads otherwise on one machine, with the reason. What it needs and does stays as the sheet was checked; only
/// its words change.
/// </summary>
/// <param name="StepId">The step: key <c>step</c>.</param>
/// <param name="Words">Its new instruction: key <c>words</c>.</param>
/// <param name="Reason">Why: key <c>text</c>.</param>
/// <param name="Offered">Whether the shop's catalogue should have it for every machine: key <c>offer</c>, <c>yes</c>.</param>
/// <param name="By">Who changed it.</param>
/// <param name="At">When the server heard of it.</param>
public sealed record StepEdit(string StepId, string Words, string Reason, bool Offered, string By, DateTimeOffset At)
{
    private const string Step = "step";
    private const string NewWords = "words";
    private const string Offer = "offer";

    /// <summary>The edit that an event tells of; null where it tells of none.</summary>
    public static StepEdit? Of(RunEvent e) =>
        e.Kind == RunEventKinds.Edited
            ? new StepEdit(
                e.Data[Step],
                e.Data[NewWords],
                e.Data[RunRules.Text],
                e.Data.GetValueOrDefault(Offer) == "yes",
                e.By,
                e.At
            )
            : null;

    /// <summary>The steps as they read after all edits, with what was found put in.</summary>
    public static IReadOnlyList<Step> Apply(IReadOnlyList<Step> sealedSteps, IReadOnlyList<RunEvent> events)
    {
        var steps = MendStep.Insert(sealedSteps, events);
        var edits = events
            .Select(Of)
            .OfType<StepEdit>()
            .GroupBy(e => e.StepId, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.Last().Words, StringComparer.Ordinal);
        return edits.Count == 0
            ? steps
            : [.. steps.Select(s => edits.TryGetValue(s.Id, out var words) ? s with { Text = words } : s)];
    }

    /// <summary>Checks an edit before it is let in.</summary>
    /// <exception cref="RefusedException">The step is none of the sheet, is over, cannot be undone, or nothing or no reason is said.</exception>
    internal static void Check(IReadOnlyList<Step> steps, RunState state, RunEventIn e)
    {
        var id = e.Data?.GetValueOrDefault(Step) ?? "";
        var at = steps.Select((s, i) => (s.Id, i)).Where(s => s.Id == id).Select(s => s.i).DefaultIfEmpty(-1).First();
        if (at < state.Current)
            throw new RefusedException(
                RefusalKind.Conflict,
                at < 0 ? $"The sheet has no step “{id}”." : "That step is over.",
                $"data.{Step}",
                "A step that is still to come, or the one whose turn it is."
            );
        if (steps[at].Kind == StepKind.Confirm)
            throw new RefusedException(
                RefusalKind.Conflict,
                "What cannot be undone is said as the sheet was checked.",
                $"data.{Step}",
                "Another step; or the run stopped, and another route."
            );
        foreach (var key in new[] { NewWords, RunRules.Text })
            if (!(e.Data?.GetValueOrDefault(key)?.Trim().Length >= Shortest))
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{key}” is missing.",
                    $"data.{key}",
                    key == NewWords ? "The instruction as it should read." : "Why it reads otherwise on this machine."
                );
    }

    private const int Shortest = 3;
}
