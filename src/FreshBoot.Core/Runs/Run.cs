using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>What somebody says has happened.</summary>
/// <param name="EventId">Made by whoever says it; saying the same twice counts once.</param>
/// <param name="ExpectedSeq">The number of events that the teller had seen.</param>
/// <param name="Kind"><c>done</c>, <c>begun</c> (a wait starts), <c>note</c>, <c>stopped</c> or <c>resumed</c>.</param>
/// <param name="StepId">The step.</param>
/// <param name="By">Who.</param>
/// <param name="Data">What goes with it: <c>tag</c> for a danger step, <c>text</c> for a note.</param>
public sealed record RunEventIn(
    string EventId,
    int ExpectedSeq,
    string Kind,
    string StepId,
    string By,
    IReadOnlyDictionary<string, string>? Data = null
);

/// <summary>An event as it stands in the chain.</summary>
/// <param name="Seq">1 for the first.</param>
/// <param name="EventId">The teller's id.</param>
/// <param name="Kind">What happened.</param>
/// <param name="StepId">The step.</param>
/// <param name="By">Who.</param>
/// <param name="Data">What goes with it.</param>
/// <param name="At">When the server heard of it.</param>
/// <param name="Hash">SHA-256 over the hash before and all of the above, hexadecimal.</param>
public sealed record RunEvent(
    int Seq,
    string EventId,
    string Kind,
    string StepId,
    string By,
    IReadOnlyDictionary<string, string> Data,
    DateTimeOffset At,
    string Hash
);

/// <summary>The chain of hashes: a changed or removed event breaks it from there on.</summary>
public static class EventChain
{
    /// <summary>The hash before the first event: that of the run's own id, so that chains cannot be swapped.</summary>
    public static string Root(string runId) => Sum($"run {runId}");

    /// <summary>The event with its hash.</summary>
    public static RunEvent Seal(RunEvent bare, string before) => bare with { Hash = HashOf(bare, before) };

    /// <summary>The number of the first event that does not fit, or null when the chain is whole.</summary>
    public static int? Broken(string runId, IReadOnlyList<RunEvent> events, int expected)
    {
        var before = Root(runId);
        for (var i = 0; i < events.Count; i++)
        {
            if (events[i].Seq != i + 1 || events[i].Hash != HashOf(events[i], before))
                return i + 1;
            before = events[i].Hash;
        }
        return events.Count == expected ? null : events.Count + 1;
    }

    private static string HashOf(RunEvent e, string before)
    {
        // A JSON array: no two different events have the same text.
        var data = e.Data.OrderBy(d => d.Key, StringComparer.Ordinal).SelectMany(d => new[] { d.Key, d.Value });
        string[] parts =
        [
            before,
            $"{e.Seq}",
            e.EventId,
            e.Kind,
            e.StepId,
            e.By,
            $"{e.At.ToUnixTimeMilliseconds()}",
            .. data,
        ];
        return Sum(JsonSerializer.Serialize(parts));
    }

    private static string Sum(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));
}

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

/// <summary>Where a run stands: a fold over its events.</summary>
/// <param name="Current">Index of the step that is next; the number of steps when all are done.</param>
/// <param name="Waiting">The wait under way, if any.</param>
/// <param name="Stopped">Whether somebody said that it stopped.</param>
/// <param name="Open">Relaxations that have to be closed.</param>
/// <param name="FinishedAt">When the last step was done.</param>
/// <param name="Code">The code that the second probe must carry; null until the step asks for one.</param>
public sealed record RunState(
    int Current,
    Waiting? Waiting,
    bool Stopped,
    IReadOnlyList<string> Open,
    DateTimeOffset? FinishedAt,
    string? Code = null
)
{
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
        switch (e.Kind)
        {
            case "begun" when steps[Current].Wants == RunRules.Probe:
                return this with { Code = e.Data.GetValueOrDefault("code") };
            case "begun":
                var step = steps[Current];
                return this with
                {
                    Waiting = new Waiting(
                        e.At,
                        e.At.AddMinutes(step.ShortestMinutes),
                        e.At.AddMinutes(step.UsualMinutes),
                        e.At.AddMinutes(Worry(step))
                    ),
                };
            case "done":
                var done = steps[Current];
                IEnumerable<string> open = Open;
                if (done.Opens is { } opens)
                    open = open.Append(opens);
                if (done.Closes is { } closes)
                    open = open.Where(o => o != closes);
                return this with
                {
                    Current = Current + 1,
                    Waiting = null,
                    Stopped = false,
                    Open = [.. open.Distinct(StringComparer.Ordinal)],
                    FinishedAt = Current + 1 == steps.Count ? e.At : null,
                };
            case "stopped":
                return this with { Stopped = true };
            case "resumed":
                return this with { Stopped = false };
            default:
                return this;
        }
    }

    private static int Worry(Step step) => step.WorryMinutes > 0 ? step.WorryMinutes : 2 * step.UsualMinutes;
}

/// <summary>What is known about the machine when an event comes in.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Codes">Codes that new bundles of the machine carried.</param>
/// <param name="Knows">Whether a fact was entered since the run began.</param>
/// <param name="Items">The work items of the run as they stand.</param>
public sealed record RunContext(
    string Tag,
    IReadOnlyList<string> Codes,
    Func<string, bool> Knows,
    IReadOnlyList<WorkItem> Items
);

/// <summary>The rules of a run: which event may come next.</summary>
public static class RunRules
{
    private static readonly string[] Kinds = ["done", "begun", "note", "stopped", "resumed"];

    /// <summary>What a step wants that a second probe has to settle.</summary>
    public const string Probe = "probe";

    /// <summary>Key under which somebody says why a step goes on although a work item does not hold.</summary>
    public const string Despite = "despite";

    /// <summary>Keys that the server adds to an event: the code of a probe step, and the work items that a step used.</summary>
    public static IReadOnlyList<string> AddedByServer { get; } = ["code", "used"];

    /// <summary>What the server adds to an event that is let in.</summary>
    /// <param name="step">The step.</param>
    /// <param name="kind">The kind of event.</param>
    /// <param name="items">The work items as they stand.</param>
    /// <param name="freshCode">Makes a code.</param>
    public static IReadOnlyDictionary<string, string> Adds(
        Step step,
        string kind,
        IReadOnlyList<WorkItem> items,
        Func<string> freshCode
    )
    {
        var adds = new Dictionary<string, string>(StringComparer.Ordinal);
        if (kind == "begun" && step.Wants == Probe)
            adds["code"] = freshCode();
        if (kind == "done" && step.Uses.Count > 0)
            adds["used"] = string.Join(
                "; ",
                items
                    // What was missing was not used; why the step went on stands beside it.
                    .Where(i => step.Uses.Contains(i.Id) && i.State != WorkItemState.Missing)
                    .Select(i =>
                        $"{i.Title} ({string.Join(", ", i.From.Select(f => $"{f.What} {f.Value}"))}{(i.State == WorkItemState.Stale ? ", stale" : "")})"
                    )
            );
        return adds;
    }

    /// <summary>Checks an event against the state; the caller has checked the sequence.</summary>
    /// <exception cref="RefusedException">For another step, of an unknown kind, a wait not begun, a danger without the tag, a thing missing.</exception>
    public static void Check(IReadOnlyList<Step> steps, RunState state, RunEventIn e, RunContext context)
    {
        if (!Kinds.Contains(e.Kind))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no kind of event “{e.Kind}”.",
                "kind",
                $"One of: {string.Join(", ", Kinds)}."
            );
        if (state.Current == steps.Count)
            throw Refuse("The run is finished.", "stepId", "Nothing more; a new run begins with a new route.");
        var step = steps[state.Current];
        if (e.StepId != step.Id)
            throw steps.Any(s => s.Id == e.StepId)
                ? Refuse("That is not the step whose turn it is.", "stepId", $"The step “{step.Id}”: {step.Text}")
                : Refuse("The sheet has no such step.", "stepId", $"The step “{step.Id}”: {step.Text}");
        CheckItems(step, e, context.Items);
        switch (e.Kind)
        {
            case "begun" when step.Wants == Probe:
                break;
            case "begun" when step.Kind != StepKind.Wait || state.Waiting is not null:
                throw Refuse(
                    step.Kind == StepKind.Wait ? "This wait is under way already." : "Only a wait is begun.",
                    "kind",
                    "“done” when the step is done."
                );
            case "done" when state.Stopped:
                throw Refuse("The run is stopped.", "kind", "“resumed” first.");
            case "done" when step.Kind == StepKind.Wait && state.Waiting is null:
                throw Refuse("This wait has not begun.", "kind", "“begun” first.");
            case "done"
                when step.Kind == StepKind.Confirm
                    && !string.Equals(
                        e.Data?.GetValueOrDefault("tag")?.Trim(),
                        context.Tag,
                        StringComparison.OrdinalIgnoreCase
                    ):
                throw Refuse(
                    "A danger step wants the tag of the machine.",
                    "data.tag",
                    $"The tag {context.Tag}, scanned or typed."
                );
            case "done" when step.Wants == Probe && (state.Code is null || !context.Codes.Contains(state.Code)):
                throw Refuse(
                    state.Code is null
                        ? "This step has not given its code yet, so no bundle can carry it."
                        : $"No new bundle of this machine carries the code {state.Code}.",
                    "stepId",
                    state.Code is null
                        ? "“begun” first; it gives the code."
                        : $"A further bundle of {context.Tag}, made with --code {state.Code}."
                );
            case "done" when step.Wants is { } key && key != Probe && !context.Knows(key):
                throw Refuse($"The fact {key} is not known yet.", "stepId", $"Enter {key} first.");
            case "stopped" when state.Stopped:
            case "resumed" when !state.Stopped:
                throw Refuse(state.Stopped ? "It is stopped already." : "It is not stopped.", "kind", "Another kind.");
        }
    }

    /// <summary>A step cannot begin while a work item that it uses is missing or stale, unless somebody says why.</summary>
    private static void CheckItems(Step step, RunEventIn e, IReadOnlyList<WorkItem> items)
    {
        if (e.Kind is not ("done" or "begun") || e.Data?.GetValueOrDefault(Despite)?.Trim().Length >= ShortestReason)
            return;
        foreach (var id in step.Uses)
        {
            var item = items.FirstOrDefault(i => i.Id == id);
            if (item is null)
                throw Refuse(
                    $"The plan has no {id} any more; when the run began it had one.",
                    $"item {id}",
                    $"The recipe back in the book, or “{Despite}” with the reason why it goes on without."
                );
            if (!item.Holds)
                throw Refuse(
                    $"{item.Title} is {(item.State == WorkItemState.Stale ? "stale" : "missing")}: {item.Says}",
                    $"item {item.Id}",
                    $"{item.Next?.Says ?? "It made"} under Prepare, or “{Despite}” with the reason why it goes on without."
                );
        }
    }

    private const int ShortestReason = 3;

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Conflict, what, where, wanted);
}
