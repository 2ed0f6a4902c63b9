using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>What a run has left of a fact.</summary>
/// <param name="Key">The fact.</param>
/// <param name="Value">Its value; null where it ended.</param>
/// <param name="Step">The step that left it.</param>
/// <param name="By">Who did that.</param>
/// <param name="At">When.</param>
public sealed record LeftFact(string Key, FactValue? Value, string Step, string By, DateTimeOffset At);

/// <summary>
/// What a run has done to its machine, in facts: those of the steps that were done as they stand, or in another way. A step that may
/// still be taken back has left nothing yet.
/// </summary>
public static class WorkLeft
{
    /// <summary>What holds now, fact by fact; what a later step left stands in the place of what an earlier one did.</summary>
    public static IReadOnlyList<LeftFact> Of(IReadOnlyList<Step> steps, RunState state)
    {
        var left = new Dictionary<string, LeftFact>(StringComparer.Ordinal);
        foreach (var step in state.Way(steps))
        {
            if (
                step.Leaves.Count + step.Ends.Count == 0
                || (state.IsOpen && step.Id == state.TakesBack)
                || state.Taken.ContainsKey(step.Id)
                || state.Over.GetValueOrDefault(step.Id) is not { } said
                || said.Kind == RunEventKinds.Skipped
            )
                continue;
            foreach (var (key, value) in step.Leaves)
                left[key] = new LeftFact(key, value, step.Id, said.By, said.At);
            foreach (var key in step.Ends)
                left[key] = new LeftFact(key, null, step.Id, said.By, said.At);
        }
        return [.. left.Values];
    }

    /// <summary>Those of which a dossier still says what was so before the run, or what an earlier step of it left.</summary>
    /// <param name="left">What the run left.</param>
    /// <param name="dossier">The machine as it stands.</param>
    /// <param name="since">The first receipt since the run began: whatever was measured since counts before what the work left.</param>
    public static IReadOnlyList<LeftFact> News(
        IReadOnlyList<LeftFact> left,
        IReadOnlyList<Reading> dossier,
        long since
    ) =>
        [
            .. left.Where(l =>
            {
                var known = dossier.Where(r => r.Key == l.Key).ToArray();
                return l.Value is null
                    ? known.Any(r => r.Receipt < since || r.Origin == Origin.Work)
                    : known.All(r => r.Receipt < since || r.Origin == Origin.Work)
                        && !known.Any(r => r.Origin == Origin.Work && r.Value.Equals(l.Value));
            }),
        ];
}
