using System.Text.Json.Serialization;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>A wait that is under way, in instants of the clock on the wall.</summary>
/// <param name="BegunAt">When it began.</param>
/// <param name="ShortestAt">Not sensible to end it before.</param>
/// <param name="UsualAt">When it usually ends.</param>
/// <param name="WorryAt">When to worry.</param>
public sealed record Waiting(
    DateTimeOffset BegunAt,
    DateTimeOffset ShortestAt,
    DateTimeOffset UsualAt,
    DateTimeOffset WorryAt
);

/// <summary>Something that was tried at a step.</summary>
/// <param name="StepId">The step.</param>
/// <param name="What">What was tried: the one thing that was other than at the try before.</param>
/// <param name="Worked">Whether it helped.</param>
/// <param name="By">Who tried it.</param>
/// <param name="At">When the server heard of it.</param>
public sealed record Trial(string StepId, string What, bool Worked, string By, DateTimeOffset At);

/// <summary>What somebody answers for, or said of a step, last.</summary>
/// <param name="Kind">The kind of event.</param>
/// <param name="Outcome">What was seen instead, where it went otherwise.</param>
/// <param name="Text">The reason that was given; null where none was asked.</param>
/// <param name="Found">What was found where somebody answers for it.</param>
/// <param name="By">Who said it.</param>
/// <param name="At">When the server heard of it.</param>
/// <param name="Seq">The number of the event.</param>
public sealed record Said(
    string Kind,
    string? Outcome,
    string? Text,
    string? Found,
    string By,
    DateTimeOffset At,
    int Seq
)
{
    /// <summary>What an event says.</summary>
    public static Said Of(RunEvent e) =>
        new(
            e.Kind,
            e.Data.GetValueOrDefault(RunRules.Outcome),
            e.Data.GetValueOrDefault(RunRules.Text) ?? e.Data.GetValueOrDefault(RunRules.Despite),
            e.Data.GetValueOrDefault(RunRules.FoundKey),
            e.By,
            e.At,
            e.Seq
        );
}

/// <summary>Where a run stands: a fold over its events.</summary>
/// <param name="Current">Index of the step that is next; the number of steps when all are done.</param>
/// <param name="Waiting">The wait under way, if any.</param>
/// <param name="Stopped">Whether somebody said that it stopped.</param>
/// <param name="Open">Relaxations that have to be closed.</param>
/// <param name="FinishedAt">When the last step was done.</param>
/// <param name="Code">The code that the second probe must carry; null until the step asks for one.</param>
/// <param name="Because">Why it stopped, where a branch of the sheet says so.</param>
/// <param name="Output">What the command of the step printed last, held against what it should; null where nobody brought it.</param>
public sealed record RunState(
    int Current,
    Waiting? Waiting,
    bool Stopped,
    IReadOnlyList<string> Open,
    DateTimeOffset? FinishedAt,
    string? Code = null,
    string? Because = null,
    StepOutput? Output = null
)
{
    private static readonly Dictionary<string, string> NoneTaken = new(StringComparer.Ordinal);
    private static readonly Dictionary<string, Said> NothingSaid = new(StringComparer.Ordinal);

    /// <summary>Branches that were taken: for each step that went otherwise, what was seen.</summary>
    public IReadOnlyDictionary<string, string> Taken { get; init; } = NoneTaken;

    /// <summary>For each step that is over, what was said of it; what was taken back is not there.</summary>
    [JsonIgnore]
    public IReadOnlyDictionary<string, Said> Over { get; init; } = NothingSaid;

    /// <summary>Lines of the acceptance list that somebody answers for, by id.</summary>
    [JsonIgnore]
    public IReadOnlyDictionary<string, Said> Accepted { get; init; } = NothingSaid;

    /// <summary>When it was given up; null where it was not.</summary>
    public DateTimeOffset? GivenUpAt { get; init; }

    /// <summary>Whether it goes on, or may.</summary>
    [JsonIgnore]
    public bool IsOpen => FinishedAt is null && GivenUpAt is null;

    /// <summary>Why it was laid aside; null while it goes on.</summary>
    public string? Paused { get; init; }

    /// <summary>Who goes on with it; null for whoever began it.</summary>
    public string? With { get; init; }

    /// <summary>What was tried, over the whole run, in its order.</summary>
    public IReadOnlyList<Trial> Trials { get; init; } = [];

    /// <summary>What was done otherwise than the sheet says, or left out, with the reason: told at the hand-over.</summary>
    public IReadOnlyList<string> Otherwise { get; init; } = [];

    /// <summary>Id of the step that may be taken back; null where there is none, or where what it did cannot be undone.</summary>
    public string? TakesBack { get; init; }

    /// <summary>What stood before the last step was said to be done.</summary>
    [JsonIgnore]
    private RunState? Before { get; init; }

    /// <summary>The way as it was gone and goes on: steps of a branch count only where it was taken.</summary>
    public IEnumerable<Step> Way(IReadOnlyList<Step> steps) =>
        steps.Where(s => s.On is not { } on || Taken.GetValueOrDefault(on.Step) == on.When);

    /// <summary>Folds events that have been accepted.</summary>
    public static RunState Fold(IReadOnlyList<Step> steps, IEnumerable<RunEvent> events)
    {
        var state = new RunState(0, null, false, [], null);
        foreach (var e in events)
            state = state.After(steps, e);
        return state;
    }

    private RunState After(IReadOnlyList<Step> steps, RunEvent e)
    {
        // An event of a finished run changes nothing any more.
        if (!IsOpen)
            return this;
        var step = steps[Current];
        switch (e.Kind)
        {
            case RunEventKinds.Begun when step.Wants == RunRules.Probe:
                return this with { Code = e.Data.GetValueOrDefault("code") };
            case RunEventKinds.Begun:
                return this with
                {
                    Waiting = new Waiting(
                        e.At,
                        e.At.AddMinutes(step.ShortestMinutes),
                        e.At.AddMinutes(step.UsualMinutes),
                        e.At.AddMinutes(step.Worry)
                    ),
                    TakesBack = step.Id,
                    Before = this,
                };
            case RunEventKinds.Done when RunRules.BranchOf(step, e.Data) is { } branch:
                return branch.Stop is { } because
                    ? this with
                    {
                        Stopped = true,
                        Because = because,
                    }
                    : On(
                        steps,
                        e,
                        Open,
                        new Dictionary<string, string>(Taken, StringComparer.Ordinal) { [step.Id] = branch.When }
                    );
            case RunEventKinds.Done or RunEventKinds.Deviated:
                IEnumerable<string> open = Open;
                if (step.Opens is { } opens)
                    open = open.Append(opens);
                if (step.Closes is { } closes)
                    open = open.Where(o => o != closes);
                var tried =
                    step.Kind == StepKind.Trial && e.Data.TryGetValue(RunRules.Worked, out var worked)
                        ? (IReadOnlyList<Trial>)[.. Trials, new Trial(step.Id, worked, true, e.By, e.At)]
                        : Trials;
                return On(steps, e, [.. open.Distinct(StringComparer.Ordinal)], Taken) with { Trials = tried };
            case RunEventKinds.Skipped:
                return On(steps, e, Open, Taken);
            case RunEventKinds.Undone when Before is { } before:
                // What was tried was tried, and who goes on goes on.
                return before with { Trials = Trials, With = With, Accepted = Accepted };
            case RunEventKinds.Output:
                return this with
                {
                    Output = new StepOutput(
                        Enum.Parse<OutputVerdict>(e.Data["verdict"]),
                        e.Data.GetValueOrDefault("line") ?? ""
                    ),
                };
            case RunEventKinds.Tried:
                return this with { Trials = [.. Trials, new Trial(step.Id, e.Data[RunRules.What], false, e.By, e.At)] };
            case RunEventKinds.Accepted:
                return this with { Accepted = Plus(Accepted, e.Data[RunRules.LineKey], Said.Of(e)) };
            case RunEventKinds.Paused:
                return this with { Paused = e.Data.GetValueOrDefault(RunRules.Text) ?? "" };
            case RunEventKinds.Handed:
                return this with { With = e.Data.GetValueOrDefault(RunRules.To) };
            case RunEventKinds.Stopped:
                return this with { Stopped = true, Because = e.Data.GetValueOrDefault(RunRules.Text) };
            case RunEventKinds.GivenUp:
                return this with { GivenUpAt = e.At, Because = e.Data.GetValueOrDefault(RunRules.Text), Open = [] };
            case RunEventKinds.Resumed:
                return this with { Stopped = false, Because = null, Paused = null };
            case RunEventKinds.Found:
                // What mends it stands in the place of this step now; a wait begins anew after it.
                return this with { Stopped = false, Because = null, Waiting = null, Output = null, TakesBack = null };
            default:
                return this;
        }
    }

    private static Dictionary<string, Said> Plus(IReadOnlyDictionary<string, Said> said, string key, Said more) =>
        new(said, StringComparer.Ordinal) { [key] = more };

    /// <summary>On to the next step whose turn it is: one of a branch only where that branch was taken.</summary>
    private RunState On(
        IReadOnlyList<Step> steps,
        RunEvent e,
        IReadOnlyList<string> open,
        IReadOnlyDictionary<string, string> taken
    )
    {
        var next = Current + 1;
        while (next < steps.Count && steps[next].On is { } on && taken.GetValueOrDefault(on.Step) != on.When)
            next++;
        var step = steps[Current];
        var why = e.Kind switch
        {
            RunEventKinds.Skipped => $"Left out: {step.Text} {e.Data.GetValueOrDefault(RunRules.Text)}",
            RunEventKinds.Deviated => $"In another way: {step.Text} {e.Data.GetValueOrDefault(RunRules.Text)}",
            _ => e.Data.GetValueOrDefault(RunRules.Despite),
        };
        return this with
        {
            Current = next,
            Otherwise = why is null || Otherwise.Contains(why) ? Otherwise : [.. Otherwise, why],
            Waiting = null,
            Stopped = false,
            Because = null,
            Output = null,
            Open = open,
            Taken = taken,
            Over = Plus(Over, step.Id, Said.Of(e)),
            FinishedAt = next == steps.Count ? e.At : null,
            // What erased something has erased it, and a proof that was taken stands.
            TakesBack = step.Kind == StepKind.Confirm || step.Wants == RunRules.Probe ? null : step.Id,
            Before = this,
        };
    }
}
