using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Reckoning;

/// <summary>Reads off a run how long its steps took.</summary>
public static class StepTimer
{
    /// <summary>
    /// How long the step took that an event ends; null where that teaches nothing: something was tried, found, taken back, laid
    /// aside or stopped between, so that more than the step is in the time; or it is the first one, and nobody knows when a hand began.
    /// </summary>
    /// <param name="steps">The steps of the run.</param>
    /// <param name="events">Its events, the one that ends the step the last.</param>
    public static TimedStep? Of(IReadOnlyList<Step> steps, IReadOnlyList<RunEvent> events)
    {
        if (
            events.Count == 0
            || events[^1] is not { Kind: RunEventKinds.Done } done
            || done.Data.ContainsKey(RunRules.Outcome)
        )
            return null;
        var step = steps.FirstOrDefault(s => s.Id == done.StepId);
        if (step is null || step.Fragment == "mend" || step.UsualMinutes <= 0)
            return null;
        for (var i = events.Count - 2; i >= 0; i--)
        {
            var before = events[i];
            switch (before.Kind)
            {
                // Words change no time.
                case RunEventKinds.Note or RunEventKinds.Photo or RunEventKinds.Output or RunEventKinds.Edited:
                    continue;
                case RunEventKinds.Begun when before.StepId == step.Id:
                // What hands did began when the step before it was over.
                case RunEventKinds.Done
                or RunEventKinds.Deviated
                or RunEventKinds.Skipped when step.Kind != StepKind.Wait:
                    return new TimedStep(
                        LearnedTimes.KeyOf(step),
                        step.UsualMinutes,
                        (done.At - before.At).TotalMinutes
                    );
                default:
                    return null;
            }
        }
        return null;
    }
}
