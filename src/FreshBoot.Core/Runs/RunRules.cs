using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>A line of the acceptance list that the second probe shows to be otherwise.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Line">What has to be so.</param>
/// <param name="Says">What was found.</param>
/// <param name="MayAccept">Whether a person may answer for it as it is.</param>
public sealed record Shortfall(string Id, string Line, string Says, bool MayAccept);

/// <summary>What is known about the machine when an event comes in.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Codes">Codes that new bundles of the machine carried.</param>
/// <param name="Knows">Whether a fact was entered since the run began.</param>
/// <param name="Items">The work items of the run as they stand.</param>
/// <param name="Now">The workshop's time.</param>
/// <param name="Unexpected">What a measured fact says that the plan did not expect; null where nothing does.</param>
public sealed record RunContext(
    string Tag,
    IReadOnlyList<string> Codes,
    Func<string, bool> Knows,
    IReadOnlyList<WorkItem> Items,
    DateTimeOffset Now,
    Func<string, string?> Unexpected
)
{
    /// <summary>What the second probe shows to be otherwise than planned, and nobody answers for.</summary>
    public IReadOnlyList<Shortfall> Shortfalls { get; init; } = [];
}

/// <summary>The rules of a run: which event may come next.</summary>
public static class RunRules
{
    /// <summary>What a step wants that a second probe has to settle.</summary>
    public const string Probe = "probe";

    /// <summary>The key under which a run that is given up says whether the machine starts something.</summary>
    public const string Starts = "starts";

    /// <summary>The key under which it says that whatever was opened is closed again.</summary>
    public const string Closed = "closed";

    /// <summary>Key under which somebody says why a step goes on although a work item does not hold.</summary>
    public const string Despite = "despite";

    /// <summary>Key under which somebody says what was seen instead: the words of a branch.</summary>
    public const string Outcome = "outcome";

    /// <summary>Keys that the server adds to an event: the code of a probe step, and the work items that a step used.</summary>
    public static IReadOnlyList<string> AddedByServer { get; } = ["code", "used", "verdict", "line", FoundKey];

    /// <summary>Key that is there where somebody said of all lines of a stop at once that they are as described.</summary>
    public const string InOne = "inOne";

    /// <summary>Key of what is said in words: a note, an output, a reason.</summary>
    public const string Text = "text";

    /// <summary>Key of what was tried and did not help.</summary>
    public const string What = "what";

    /// <summary>Key of what was tried and helped, of a step that tries.</summary>
    public const string Worked = "worked";

    /// <summary>Key of what was chosen, of a step that chooses.</summary>
    public const string Chosen = "chosen";

    /// <summary>Key of who goes on.</summary>
    public const string To = "to";

    /// <summary>Key of what was found at the line that somebody answers for; the server adds it.</summary>
    public const string FoundKey = "found";

    /// <summary>Key of a line of the acceptance list.</summary>
    public const string LineKey = "accepts";

    /// <summary>Key of a photograph's id.</summary>
    public const string Photo = "photo";

    /// <summary>What the server adds to an event that is let in.</summary>
    /// <param name="step">The step.</param>
    /// <param name="kind">The kind of event.</param>
    /// <param name="data">What came with it.</param>
    /// <param name="items">The work items as they stand.</param>
    /// <param name="shortfalls">What the second probe shows to be otherwise.</param>
    /// <param name="freshCode">Makes a code.</param>
    public static IReadOnlyDictionary<string, string> Adds(
        Step step,
        string kind,
        IReadOnlyDictionary<string, string>? data,
        IReadOnlyList<WorkItem> items,
        IReadOnlyList<Shortfall> shortfalls,
        Func<string> freshCode
    )
    {
        var adds = new Dictionary<string, string>(StringComparer.Ordinal);
        if (kind == RunEventKinds.Output)
        {
            var output = StepOutput.Of(step.Expect ?? "", data?.GetValueOrDefault(Text) ?? "");
            adds["verdict"] = output.Verdict.ToString();
            adds["line"] = output.Line;
        }
        if (
            kind == RunEventKinds.Accepted
            && shortfalls.FirstOrDefault(s => s.Id == data?.GetValueOrDefault(LineKey)) is { } line
        )
            adds[FoundKey] = line.Says;
        if (kind == RunEventKinds.Begun && step.Wants == Probe)
            adds["code"] = freshCode();
        if (kind is RunEventKinds.Done or RunEventKinds.Deviated && step.Uses.Count > 0)
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
        if (!RunEventKinds.All.Contains(e.Kind))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no kind of event “{e.Kind}”.",
                "kind",
                $"One of: {string.Join(", ", RunEventKinds.All)}."
            );
        if (state.Current == steps.Count)
            throw Refuse("The run is finished.", "stepId", "Nothing more; a new run begins with a new route.");
        if (state.GivenUpAt is not null)
            throw Refuse("The run was given up.", "stepId", "Nothing more; a new run begins with a new route.");
        var step = steps[state.Current];
        if (e.StepId != step.Id)
            throw steps.Any(s => s.Id == e.StepId)
                ? Refuse("That is not the step whose turn it is.", "stepId", $"The step “{step.Id}”: {step.Text}")
                : Refuse("The sheet has no such step.", "stepId", $"The step “{step.Id}”: {step.Text}");
        CheckHalt(state, e);
        switch (e.Kind)
        {
            case RunEventKinds.Done when e.Data?.GetValueOrDefault(Outcome) is { } outcome:
                if (BranchOf(step, e.Data) is null)
                    throw Refuse(
                        $"This step has no way on from “{outcome}”.",
                        "data.outcome",
                        step.Branches.Count > 0
                            ? $"One of: {string.Join("; ", step.Branches.Select(b => b.When))}."
                            : "Nothing: the step has one way on."
                    );
                break;
            case RunEventKinds.Done when e.Data?.ContainsKey(InOne) == true && !step.IsPlain:
                throw Refuse(
                    "This step is not said in one with others.",
                    $"data.{InOne}",
                    "The step by itself: it has a caution, or something is entered, typed or waited for at it."
                );
            case RunEventKinds.Done:
                CheckItems(step, e, context.Items);
                CheckDone(step, state, e, context);
                break;
            case RunEventKinds.Begun:
                CheckItems(step, e, context.Items);
                if (step.Wants != Probe && (step.Kind != StepKind.Wait || state.Waiting is not null))
                    throw Refuse(
                        step.Kind == StepKind.Wait ? "This wait is under way already." : "Only a wait is begun.",
                        "kind",
                        "“done” when the step is done."
                    );
                break;
            case RunEventKinds.Output when step.Kind != StepKind.Type:
                throw Refuse("This step types nothing.", "kind", "“output” at a step that types a command.");
            case RunEventKinds.Skipped or RunEventKinds.Deviated:
                CheckAside(step, e);
                break;
            case RunEventKinds.Undone when state.TakesBack is null:
                throw Refuse(
                    state.Current == 0
                        ? "Nothing was said to be done yet."
                        : "What this step did cannot be taken back.",
                    "kind",
                    "“stopped”, and a note that says what is so."
                );
            case RunEventKinds.Tried when step.Kind != StepKind.Trial:
                throw Refuse("This step tries nothing.", "kind", "“tried” at a step that has things to try.");
            case RunEventKinds.Tried:
                Word(e, What, "What was tried, in words.");
                break;
            case RunEventKinds.Paused:
                Word(e, Text, "Why it is laid aside.");
                break;
            case RunEventKinds.GivenUp:
                CheckGivenUp(state, e);
                break;
            case RunEventKinds.Note:
                Word(e, Text, "What is worth keeping.");
                break;
            case RunEventKinds.Handed:
                Word(e, To, "Who goes on with it.");
                break;
            case RunEventKinds.Photo:
                Word(e, Photo, "The id of a photograph of this machine.");
                break;
            case RunEventKinds.Edited:
                StepEdit.Check(steps, state, e);
                break;
            case RunEventKinds.Accepted:
                CheckAccepted(e, context.Shortfalls);
                break;
            case RunEventKinds.Found:
                MendStep.Check(state, e);
                break;
        }
    }

    /// <summary>While it is stopped or laid aside nothing happens but words, until it goes on.</summary>
    private static void CheckHalt(RunState state, RunEventIn e)
    {
        var halted = state.Stopped || state.Paused is not null;
        switch (e.Kind)
        {
            case RunEventKinds.Resumed when !halted:
                throw Refuse("It is not stopped.", "kind", "Another kind.");
            case RunEventKinds.Stopped when state.Stopped:
                throw Refuse("It is stopped already.", "kind", "Another kind.");
            case RunEventKinds.Paused when state.Paused is not null:
                throw Refuse("It is laid aside already.", "kind", "Another kind.");
            case RunEventKinds.Done
            or RunEventKinds.Begun
            or RunEventKinds.Skipped
            or RunEventKinds.Deviated
            or RunEventKinds.Undone
            or RunEventKinds.Tried when halted:
                throw Refuse(
                    state.Stopped ? "The run is stopped." : "The run is laid aside.",
                    "kind",
                    "“resumed” first."
                );
        }
    }

    /// <summary>Nobody walks away from a run: it stopped, with the reason, and what it opened is closed again.</summary>
    private static void CheckGivenUp(RunState state, RunEventIn e)
    {
        if (!state.Stopped)
            throw Refuse("A run that goes on is not given up.", "kind", "“stopped” first, with what is seen.");
        Word(e, Text, "Why it is given up.");
        if (e.Data!.GetValueOrDefault(Starts) is not ("yes" or "no"))
            throw new RefusedException(
                RefusalKind.Invalid,
                "Whether the machine starts something is not said.",
                $"data.{Starts}",
                "“yes” or “no”: what does not start is marked so."
            );
        if (state.Open.Count > 0 && e.Data!.GetValueOrDefault(Closed) != "yes")
            throw Refuse(
                $"Something is still open: {string.Join("; ", state.Open)}.",
                $"data.{Closed}",
                "“yes”, when all of it is closed again."
            );
    }

    private static void CheckDone(Step step, RunState state, RunEventIn e, RunContext context)
    {
        if (state.Output is { Verdict: not OutputVerdict.Done } output && !Reason(e))
            throw Refuse(
                output.Verdict == OutputVerdict.Wrong
                    ? $"It printed “{output.Line}”, and should print “{step.Expect}”."
                    : $"It still works: “{output.Line}”.",
                "data.text",
                $"Its output once more, when it has printed “{step.Expect}”; or “{Despite}” with the reason why it is done all the same."
            );
        if (step.Kind == StepKind.Wait && state.Waiting is null)
            throw Refuse("This wait has not begun.", "kind", "“begun” first.");
        if (
            step.Kind == StepKind.Confirm
            && !string.Equals(e.Data?.GetValueOrDefault("tag")?.Trim(), context.Tag, StringComparison.OrdinalIgnoreCase)
        )
            throw Refuse(
                "A danger step wants the tag of the machine.",
                "data.tag",
                $"The tag {context.Tag}, scanned or typed."
            );
        if (step.Kind == StepKind.Trial)
            Word(e, Worked, $"What worked, as one of: {string.Join("; ", step.Options)}; or in words of one's own.");
        if (step.Kind == StepKind.Choose && !step.Options.Contains(e.Data?.GetValueOrDefault(Chosen)))
            throw Refuse(
                "Nothing of what there is was chosen.",
                $"data.{Chosen}",
                $"One of: {string.Join("; ", step.Options)}."
            );
        if (step.Wants == Probe && (state.Code is null || !context.Codes.Contains(state.Code)))
            throw Refuse(
                state.Code is null
                    ? "This step has not given its code yet, so no bundle can carry it."
                    : $"No new bundle of this machine carries the code {state.Code}.",
                "stepId",
                state.Code is null
                    ? "“begun” first; it gives the code."
                    : $"A further bundle of {context.Tag}, made with --code {state.Code}."
            );
        if (step.Wants == Probe && context.Shortfalls is { Count: > 0 } shortfalls)
            throw Refuse(
                $"The new probe shows it otherwise. {string.Join(". ", shortfalls.Select(s => $"{s.Line}: {s.Says}"))}.",
                "stepId",
                shortfalls.All(s => s.MayAccept)
                    ? "“stopped”, the fault found and mended, and a further bundle; or “accepted” by somebody who answers for it."
                    : "“stopped”, the fault found and mended, and a further bundle with the same code."
            );
        if (step.Wants is { } key && key != Probe && !context.Knows(key))
            throw Refuse($"The fact {key} is not known yet.", "stepId", $"Enter {key} first.");
        // Leave and data are settled, or they are not: no reason stands in their place.
        if (
            (!Reason(e) || step.Does.ContainsKey("leave") || step.Does.ContainsKey("data"))
            && Surprise(step, state, context) is { } says
        )
            throw Refuse(says, $"data.{Despite}", "Why it is done all the same; the reason is kept.");
    }

    /// <summary>What of a step that is said to be done can be seen to be otherwise: it is asked about once.</summary>
    private static string? Surprise(Step step, RunState state, RunContext context)
    {
        if (step.Wants is { } key && key != Probe)
            return context.Unexpected(key);
        if (step.Kind != StepKind.Wait || state.Waiting is not { } waiting)
            return null;
        var waited = context.Now - waiting.BegunAt;
        return waited < TimeSpan.FromMinutes(step.ShortestMinutes)
            ? $"It began {Ago(waited)} ago, and takes at least {step.ShortestMinutes} min."
            : null;
    }

    private static string Ago(TimeSpan time) =>
        time < TimeSpan.FromMinutes(2) ? $"{Math.Max(0, (int)time.TotalSeconds)} s" : $"{(int)time.TotalMinutes} min";

    /// <summary>
    /// A step that nothing later rests on may be left out; any but a danger and a proof may be done in another way. Both want the
    /// reason, which the hand-over tells.
    /// </summary>
    private static void CheckAside(Step step, RunEventIn e)
    {
        if (step.Kind == StepKind.Confirm || step.Wants == Probe)
            throw Refuse(
                step.Kind == StepKind.Confirm
                    ? "A danger step is done as it stands, or not at all."
                    : "A proof is not left out.",
                "kind",
                step.Kind == StepKind.Confirm ? "“done” with the tag, or “stopped”." : "“done” with the bundle."
            );
        if (e.Kind == RunEventKinds.Skipped && step.Carries)
            throw Refuse(
                "Later steps rest on what this one does.",
                "kind",
                "“deviated”, with how it was done in another way."
            );
        Word(e, Text, e.Kind == RunEventKinds.Skipped ? "Why it does not apply here." : "How it was done instead.");
    }

    /// <summary>Somebody answers only for what was found, and only where the machine works without it.</summary>
    private static void CheckAccepted(RunEventIn e, IReadOnlyList<Shortfall> shortfalls)
    {
        var id = e.Data?.GetValueOrDefault(LineKey);
        if (shortfalls.FirstOrDefault(s => s.Id == id) is not { MayAccept: true })
            throw Refuse(
                "That is no line that somebody may answer for.",
                $"data.{LineKey}",
                shortfalls.Where(s => s.MayAccept).Select(s => s.Id).ToArray() is { Length: > 0 } ids
                    ? $"One of: {string.Join(", ", ids)}."
                    : "Nothing: the new probe shows nothing that may stay as it is."
            );
        Word(e, Text, "Why it may stay as it is.");
    }

    private static void Word(RunEventIn e, string key, string wanted)
    {
        if (!(e.Data?.GetValueOrDefault(key)?.Trim().Length > 0))
            throw new RefusedException(RefusalKind.Invalid, $"“{key}” is missing.", $"data.{key}", wanted);
    }

    /// <summary>
    /// A step cannot begin while a work item that it uses is missing or stale, unless somebody says why, for this one thing: a reason
    /// stands for one shortfall and what rests on it, and none stands for a chip whose backup or board is not settled.
    /// </summary>
    private static void CheckItems(Step step, RunEventIn e, IReadOnlyList<WorkItem> items)
    {
        var lacking = step
            .Uses.Select(id => (Id: id, Item: items.FirstOrDefault(i => i.Id == id)))
            .Where(u => u.Item?.Holds != true)
            .ToArray();
        if (lacking.Length == 0)
            return;
        if (Reason(e) && lacking.All(l => l.Item?.Kind != WorkItemKind.Chip))
        {
            // A medium is missing because its image is, and an image because a recipe is: that is one shortfall.
            var roots = lacking.Where(l => !lacking.Any(o => RestsOn(l.Item, o.Item))).ToArray();
            if (roots.Length == 1)
                return;
            throw Refuse(
                $"A reason stands for one thing, and {roots.Length} are lacking: {Numbers.Join(roots.Select(r => r.Item?.Title ?? r.Id), "and")}.",
                $"data.{Despite}",
                "All but one of them made under Prepare."
            );
        }
        var (lacks, item) = lacking[0];
        if (item is null)
            throw Refuse(
                $"The plan has no {lacks} any more; when the run began it had one.",
                $"item {lacks}",
                $"The recipe back in the book, or “{Despite}” with the reason why it goes on without."
            );
        throw Refuse(
            $"{item.Title} is {(item.State == WorkItemState.Stale ? "stale" : "missing")}: {item.Says}",
            $"item {item.Id}",
            item.Kind == WorkItemKind.Chip
                ? $"{item.Next?.Says ?? "It made"} under Prepare: without backup and board no reason goes on."
                : $"{item.Next?.Says ?? "It made"} under Prepare, or “{Despite}” with the reason why it goes on without."
        );
    }

    private static bool RestsOn(WorkItem? item, WorkItem? other) =>
        (item?.Kind, other?.Kind) switch
        {
            (
                WorkItemKind.Medium
                    or WorkItemKind.Kit,
                WorkItemKind.Image
                    or WorkItemKind.Recipe
                    or WorkItemKind.Answers
            ) => true,
            (WorkItemKind.Image, WorkItemKind.Recipe or WorkItemKind.Answers) => true,
            (WorkItemKind.Medium, WorkItemKind.Kit) => true,
            (WorkItemKind.Medium or WorkItemKind.Kit, WorkItemKind.Identity) => true,
            _ => false,
        };

    private static bool Reason(RunEventIn e) => e.Data?.GetValueOrDefault(Despite)?.Trim().Length >= ShortestReason;

    /// <summary>The branch that an event says was taken; null where the step went as it should.</summary>
    public static StepBranch? BranchOf(Step step, IReadOnlyDictionary<string, string>? data) =>
        data?.GetValueOrDefault(Outcome) is { } outcome ? step.Branches.FirstOrDefault(b => b.When == outcome) : null;

    private const int ShortestReason = 3;

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Conflict, what, where, wanted);
}
