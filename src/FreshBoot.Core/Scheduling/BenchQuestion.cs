using System.Runtime.InteropServices;
using System.Text.Json.Serialization;

namespace FreshBoot.Core.Scheduling;

/// <summary>What a machine takes while it is worked on, and of which a shop has only so many.</summary>
[JsonConverter(typeof(CamelCaseNames<BenchResource>))]
public enum BenchResource
{
    /// <summary>A bay of the bench, from its first step to its last.</summary>
    Bay,

    /// <summary>A stick, from the first step that uses it until it is out.</summary>
    Stick,

    /// <summary>A network drop, while steps want the network.</summary>
    Drop,

    /// <summary>The chip programmer, while the machine hangs on it.</summary>
    Programmer,
}

/// <summary>What not everybody in a shop does.</summary>
[JsonConverter(typeof(CamelCaseNames<Skill>))]
public enum Skill
{
    /// <summary>Work in an open casing.</summary>
    Casing,

    /// <summary>Reading and writing firmware chips.</summary>
    Programmer,
}

/// <summary>A time in which somebody is there, in minutes from the start of the plan.</summary>
/// <param name="From">When it begins.</param>
/// <param name="To">When it ends.</param>
[StructLayout(LayoutKind.Auto)]
public readonly record struct Shift(int From, int To);

/// <summary>Somebody who works at the bench.</summary>
/// <param name="Name">The name.</param>
/// <param name="Shifts">When they are there, in order and apart.</param>
/// <param name="Skills">What they do beside the usual.</param>
public sealed record BenchPerson(string Name, IReadOnlyList<Shift> Shifts, IReadOnlyCollection<Skill> Skills)
{
    /// <summary>Whether they have what a task asks for.</summary>
    public bool Can(BenchTask task) => task.Skills.All(Skills.Contains);
}

/// <summary>A stretch of a machine's sheet: steps that one pair of hands does without leaving, or a wait.</summary>
/// <param name="Id">Unique in the plan.</param>
/// <param name="Steps">Ids of the steps, the first of which names it.</param>
/// <param name="Says">What its first step says.</param>
/// <param name="Minutes">How long it takes, at this shop's own pace.</param>
/// <param name="Hands">Whether it takes a person; a wait takes none.</param>
/// <param name="Skills">What the person has to be able to.</param>
public sealed record BenchTask(
    string Id,
    IReadOnlyList<string> Steps,
    string Says,
    int Minutes,
    bool Hands,
    IReadOnlyCollection<Skill> Skills
);

/// <summary>Something that a machine holds from the start of one of its tasks to the end of another.</summary>
/// <param name="What">What it holds.</param>
/// <param name="From">Index of the task with which it takes it.</param>
/// <param name="To">Index of the task after which it is free.</param>
/// <param name="Already">Whether it holds it as the plan begins.</param>
public sealed record Hold(BenchResource What, int From, int To, bool Already);

/// <summary>The work on one machine: its tasks, each after the one before.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Tasks">Its tasks.</param>
/// <param name="Holds">What it takes meanwhile; those of one thing do not overlap.</param>
/// <param name="Due">The minute at which it has to be done; null for none.</param>
/// <param name="GoesOn">Whether its first task is under way: it begins at minute 0 and nothing moves it.</param>
/// <param name="With">Who has that task in hand; null where it is a wait.</param>
public sealed record BenchChain(
    string Tag,
    IReadOnlyList<BenchTask> Tasks,
    IReadOnlyList<Hold> Holds,
    int? Due = null,
    bool GoesOn = false,
    string? With = null
);

/// <summary>Where a task lies in a plan.</summary>
/// <param name="Task">Its id.</param>
/// <param name="Person">Who does it; null where it takes nobody.</param>
/// <param name="Start">When it begins, in minutes from the start of the plan.</param>
/// <param name="End">When it ends.</param>
public sealed record Placed(string Task, string? Person, int Start, int End);

/// <summary>What a plan of the bench is asked for.</summary>
/// <param name="People">Who works.</param>
/// <param name="Capacity">How many of each thing there are.</param>
/// <param name="Chains">The machines.</param>
/// <param name="Before">Where the plan before had the tasks that are still to do, in minutes of this one.</param>
public sealed record BenchQuestion(
    IReadOnlyList<BenchPerson> People,
    IReadOnlyDictionary<BenchResource, int> Capacity,
    IReadOnlyList<BenchChain> Chains,
    IReadOnlyDictionary<string, Placed> Before
)
{
    /// <summary>The hours in which anybody is there.</summary>
    public OpenHours Open { get; } = new(People);

    /// <summary>How many there are of something.</summary>
    public int Of(BenchResource what) => Capacity.GetValueOrDefault(what);
}

/// <summary>What a plan of the bench comes to; less is better.</summary>
/// <param name="Late">Minutes by which machines are late, of all together.</param>
/// <param name="Over">Minutes of the shop's open hours until the last machine is done.</param>
/// <param name="Moved">Tasks that lie elsewhere than in the plan before: another person, or more than <see cref="Tolerance"/> minutes off.</param>
public sealed record BenchCost(int Late, int Over, int Moved)
{
    /// <summary>So many minutes a task may move and still count as where it was.</summary>
    public const int Tolerance = 15;

    /// <summary>A minute late counts like so many minutes of the bench.</summary>
    public const int LateWeight = 3;

    /// <summary>A task that moves costs people as much as so many minutes of the bench.</summary>
    public const int MovedWeight = 5;

    /// <summary>All of it as one number, in minutes.</summary>
    public int Total => LateWeight * Late + Over + MovedWeight * Moved;

    /// <summary>What a plan comes to.</summary>
    public static BenchCost Of(BenchQuestion question, IReadOnlyList<Placed> plan)
    {
        var at = plan.ToDictionary(p => p.Task, StringComparer.Ordinal);
        var (late, over) = (0, 0);
        foreach (var chain in question.Chains.Where(c => c.Tasks.Count > 0))
        {
            var end = at[chain.Tasks[^1].Id].End;
            over = Math.Max(over, end);
            late += Math.Max(0, end - (chain.Due ?? end));
        }
        return new BenchCost(
            late,
            question.Open.Of(over),
            plan.Count(p => question.Before.TryGetValue(p.Task, out var before) && HasMoved(before, p))
        );
    }

    /// <summary>Whether a task lies elsewhere than before.</summary>
    public static bool HasMoved(Placed before, Placed now) =>
        before.Person != now.Person || Math.Abs(before.Start - now.Start) > Tolerance;
}

/// <summary>The hours in which anybody is there, put end to end.</summary>
public sealed class OpenHours
{
    private readonly Shift[] _open;

    /// <summary>Puts the shifts of some people together.</summary>
    public OpenHours(IEnumerable<BenchPerson> people)
    {
        var open = new List<Shift>();
        foreach (var shift in people.SelectMany(p => p.Shifts).OrderBy(s => s.From))
            if (open.Count > 0 && shift.From <= open[^1].To)
                open[^1] = new Shift(open[^1].From, Math.Max(open[^1].To, shift.To));
            else
                open.Add(shift);
        _open = [.. open];
    }

    /// <summary>Each stretch in which somebody is there.</summary>
    public IReadOnlyList<Shift> Stretches => _open;

    /// <summary>How many of the minutes up to one are open.</summary>
    public int Of(int minute) => _open.TakeWhile(s => s.From < minute).Sum(s => Math.Min(minute, s.To) - s.From);
}
