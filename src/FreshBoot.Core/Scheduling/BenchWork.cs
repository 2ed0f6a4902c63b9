using FreshBoot.Core.Procedures;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Scheduling;

/// <summary>A machine whose work is to be planned.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Steps">The steps of its sheet.</param>
/// <param name="State">Where its run stands; null where none has begun.</param>
/// <param name="Due">The minute at which it has to be done; null for none.</param>
/// <param name="Worry">Where it waits, minutes until the wait is usually over.</param>
/// <param name="With">Who has it in hand at this moment; null for nobody.</param>
public sealed record MachineToPlan(
    string Tag,
    IReadOnlyList<Step> Steps,
    RunState? State,
    int? Due,
    int Worry,
    string? With
);

/// <summary>From the sheet of a machine to tasks of the bench.</summary>
public static class BenchWork
{
    /// <summary>Nobody stays longer than this at one machine without looking at the others, unless one step takes longer.</summary>
    public const int Block = 45;

    /// <summary>A stretch of so many minutes is cut where the network is wanted from then on, or no more: a drop is not held for nothing.</summary>
    public const int Least = 10;

    /// <summary>A wait so short that nobody leaves for it.</summary>
    public const int StandingWait = 4;

    /// <summary>A machine that stopped takes as long as this until somebody knows why, as long as nobody does.</summary>
    public const int FindFault = 30;

    /// <summary>The step of a task in which a fault is looked for: no sheet has it.</summary>
    public const string FaultStep = "fault";

    /// <summary>
    /// The work that is left on a machine. Steps that one pair of hands does one after the other are one task, cut where it
    /// would last longer than <see cref="Block"/>; a wait is a task of its own. The cuts are those of the whole sheet, so that what is
    /// done moves none of those that follow.
    /// </summary>
    public static BenchChain Of(MachineToPlan machine, LearnedTimes times)
    {
        var way = machine.State is { } run
            ? run.Way(machine.Steps).ToArray()
            : [.. machine.Steps.Where(s => s.On is null)];
        var current = machine.State is { } at
            ? at.Current < machine.Steps.Count
                ? Array.IndexOf(way, machine.Steps[at.Current])
                : way.Length
            : 0;
        var open = CaseOpen(way);
        var blocks = Cut(way, times);
        var tasks = new List<BenchTask>();
        var places = new List<(int From, int To)>();
        if (machine.State is { Stopped: true })
        {
            tasks.Add(
                new BenchTask(
                    $"{machine.Tag}/{FaultStep}",
                    [FaultStep],
                    "Find out why it stopped, and mend it.",
                    FindFault,
                    Hands: true,
                    []
                )
            );
            places.Add((current, current - 1));
        }
        foreach (var (from, to) in blocks)
        {
            if (to < current)
                continue;
            var left = Math.Max(from, current);
            var steps = way[left..(to + 1)];
            var waits = steps[0].Kind == StepKind.Wait && Minutes(steps[0], times) > StandingWait;
            tasks.Add(
                new BenchTask(
                    // Named by its last step: what is done of it does not change its name.
                    $"{machine.Tag}/{steps[^1].Id}",
                    [.. steps.Select(s => s.Id)],
                    steps[0].Text,
                    waits && left == current && machine.State?.Waiting is not null
                        ? Math.Max(1, machine.Worry)
                        : steps.Sum(s => Minutes(s, times)),
                    !waits,
                    [.. steps.SelectMany((s, i) => SkillsOf(s, open[left + i])).Distinct()]
                )
            );
            places.Add((left, to));
        }
        var goesOn =
            tasks.Count > 0
            && machine.State is { Stopped: false, Paused: null }
            && (machine.State.Waiting is not null && !tasks[0].Hands || machine.With is not null && tasks[0].Hands);
        return new BenchChain(
            machine.Tag,
            tasks,
            tasks.Count == 0 ? [] : [.. Joined(Holds(way, places, current, machine.State is not null))],
            machine.Due,
            goesOn,
            goesOn && tasks[0].Hands ? machine.With : null
        );
    }

    /// <summary>How long a step takes here, in whole minutes.</summary>
    public static int Minutes(Step step, LearnedTimes times) =>
        Math.Max(1, (int)Math.Round(step.UsualMinutes * Math.Exp(times.Of(LearnedTimes.KeyOf(step)).Mean)));

    private static List<(int From, int To)> Cut(Step[] way, LearnedTimes times)
    {
        var blocks = new List<(int, int)>();
        var (from, length) = (0, 0);
        for (var i = 0; i < way.Length; i++)
        {
            var minutes = Minutes(way[i], times);
            if (way[i].Kind == StepKind.Wait && minutes > StandingWait)
            {
                if (i > from)
                    blocks.Add((from, i - 1));
                blocks.Add((i, i));
                (from, length) = (i + 1, 0);
                continue;
            }
            if (i > from && (length + minutes > Block || length >= Least && way[i].Network != way[i - 1].Network))
            {
                blocks.Add((from, i - 1));
                (from, length) = (i, 0);
            }
            length += minutes;
        }
        if (from < way.Length)
            blocks.Add((from, way.Length - 1));
        return blocks;
    }

    private static IEnumerable<Skill> SkillsOf(Step step, bool open)
    {
        if (step.Where == StepPlace.Programmer)
            yield return Skill.Programmer;
        if (open && step.Where is StepPlace.Machine or StepPlace.Programmer)
            yield return Skill.Casing;
    }

    /// <summary>For each step whether the casing is open while it is done.</summary>
    private static bool[] CaseOpen(Step[] way)
    {
        var open = new bool[way.Length];
        var now = false;
        for (var i = 0; i < way.Length; i++)
        {
            var does = way[i].Does.GetValueOrDefault("case");
            open[i] = now || does == "open";
            now = does is null ? now : does == "open";
        }
        return open;
    }

    private static IEnumerable<Hold> Holds(Step[] way, List<(int From, int To)> places, int current, bool begun)
    {
        yield return new Hold(BenchResource.Bay, 0, places.Count - 1, begun);
        if (Array.FindIndex(way, UsesStick) is >= 0 and var first)
        {
            var last = Array.FindLastIndex(way, s => UsesStick(s) || s.Does.ContainsKey("mediumAt"));
            if (Place(BenchResource.Stick, first, last) is { } stick)
                yield return stick;
        }
        foreach (var (from, to) in Stretches(way, s => s.Where == StepPlace.Programmer, everything: true))
            if (Place(BenchResource.Programmer, from, to) is { } programmer)
                yield return programmer;
        foreach (var (from, to) in Stretches(way, s => s.Network, everything: false))
            if (Place(BenchResource.Drop, from, to) is { } drop)
                yield return drop;

        // A hold of steps is one of the tasks in which they stand; what is over holds nothing.
        Hold? Place(BenchResource what, int from, int to)
        {
            if (to < current)
                return null;
            var begins = places.FindIndex(p =>
                p.To >= p.From && p.From <= Math.Max(from, current) && Math.Max(from, current) <= p.To
            );
            var ends = places.FindIndex(p => p.From <= to && to <= p.To);
            if (begins < 0 || ends < 0)
                return null;
            // What it held when it stopped it holds while the fault is looked for.
            var already = begun && from < current;
            return new Hold(what, already ? 0 : begins, ends, already);
        }
    }

    /// <summary>Holds of one thing that meet in a task are one: nobody takes a second drop for the same machine.</summary>
    private static IEnumerable<Hold> Joined(IEnumerable<Hold> holds)
    {
        foreach (var kind in holds.GroupBy(h => h.What))
        {
            Hold? so = null;
            foreach (var hold in kind.OrderBy(h => h.From))
                if (so is null || hold.From > so.To)
                {
                    if (so is not null)
                        yield return so;
                    so = hold;
                }
                else
                    so = so with { To = Math.Max(so.To, hold.To), Already = so.Already || hold.Already };
            yield return so!;
        }
    }

    private static bool UsesStick(Step step) =>
        step.Uses.Contains(Preparation.WorkPlan.MediumItem) || step.Does.GetValueOrDefault("mediumAt") == "port";

    /// <summary>Stretches of the sheet that something is said of: all of it from the first to the last, or each that hangs together.</summary>
    private static IEnumerable<(int From, int To)> Stretches(Step[] way, Func<Step, bool> said, bool everything)
    {
        var from = -1;
        var to = -1;
        for (var i = 0; i < way.Length; i++)
        {
            if (!said(way[i]))
                continue;
            // Two steps between are no reason to give it away.
            if (from >= 0 && !everything && i - to > 3)
            {
                yield return (from, to);
                from = -1;
            }
            from = from < 0 ? i : from;
            to = i;
        }
        if (from >= 0)
            yield return (from, to);
    }
}
