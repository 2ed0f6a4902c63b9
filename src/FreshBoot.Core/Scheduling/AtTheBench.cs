using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Scheduling;

/// <summary>A run that is open.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="State">Where it stands.</param>
/// <param name="By">Who told something of it last.</param>
/// <param name="At">When.</param>
public sealed record OpenRun(string Tag, RunState State, string By, DateTimeOffset At);

/// <summary>A task of a plan in the hours of the wall clock.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Steps">Its steps.</param>
/// <param name="Person">Who does it; null where it takes nobody.</param>
/// <param name="Start">When it was to begin.</param>
public sealed record PlannedTask(string Tag, IReadOnlyList<string> Steps, string? Person, DateTimeOffset Start);

/// <summary>What a task waits for.</summary>
public enum NowWaits
{
    /// <summary>Nothing: it can be begun.</summary>
    Nothing,

    /// <summary>The machine, which waits by itself.</summary>
    Machine,

    /// <summary>The machine, which was laid aside.</summary>
    LaidAside,

    /// <summary>Somebody who is at this machine before.</summary>
    Somebody,
}

/// <summary>Who stands where at this moment, and who goes where next.</summary>
public static class AtTheBench
{
    /// <summary>Whoever told something of a machine so lately has it in hand.</summary>
    public static TimeSpan Lately { get; } = TimeSpan.FromHours(2);

    /// <summary>
    /// Who has which machine in hand: the one of which they told something last, if that was lately, it goes on, and they have not
    /// handed it on.
    /// </summary>
    public static IReadOnlyDictionary<string, string> InHand(IEnumerable<OpenRun> runs, DateTimeOffset now) =>
        runs.GroupBy(r => r.By, StringComparer.Ordinal)
            .Select(g => g.MaxBy(r => r.At)!)
            .Where(r =>
                r.State is { Stopped: false, Paused: null, Waiting: null }
                && now - r.At < Lately
                && (r.State.With ?? r.By) == r.By
            )
            .ToDictionary(r => r.Tag, r => r.By, StringComparer.Ordinal);

    /// <summary>
    /// What somebody does now by a plan: the first of their tasks that is not over and can be begun; else the first that is not over,
    /// and what it waits for. Null where nothing is left for them.
    /// </summary>
    /// <param name="person">Who.</param>
    /// <param name="plan">The plan.</param>
    /// <param name="runs">The latest run of a machine; null where none was begun.</param>
    public static (PlannedTask Task, NowWaits Waits)? Now(
        string person,
        IReadOnlyList<PlannedTask> plan,
        Func<string, RunState?> runs
    )
    {
        PlannedTask? first = null;
        foreach (var task in plan.Where(t => t.Person == person).OrderBy(t => t.Start))
        {
            if (IsOver(task, runs(task.Tag)))
                continue;
            if (Waits(task) == NowWaits.Nothing)
                return (task, NowWaits.Nothing);
            first ??= task;
        }
        return first is null ? null : (first, Waits(first));

        NowWaits Waits(PlannedTask task) =>
            runs(task.Tag) switch
            {
                { Waiting: not null } => NowWaits.Machine,
                { Paused: not null } => NowWaits.LaidAside,
                var run => plan.Where(t => t.Tag == task.Tag && t.Person is not null && t.Start < task.Start)
                    .All(t => IsOver(t, run))
                    ? NowWaits.Nothing
                    : NowWaits.Somebody,
            };
    }

    /// <summary>Whether a task is over: its last step is, its run is, or what stopped it has been found.</summary>
    private static bool IsOver(PlannedTask task, RunState? run) =>
        run is not null
        && (
            !run.IsOpen
            || run.Over.ContainsKey(task.Steps[^1])
            || (task.Steps[0] == BenchWork.FaultStep && !run.Stopped)
        );
}
