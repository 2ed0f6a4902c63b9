using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Core.Runs;

/// <summary>What can be said of a run. The words stand in records that are sealed: they are added to, never renamed.</summary>
public static class RunEventKinds
{
    /// <summary>The step is done; with <c>outcome</c> it went otherwise, by that branch.</summary>
    public const string Done = "done";

    /// <summary>A wait has begun, or a step of the second probe gives its code.</summary>
    public const string Begun = "begun";

    /// <summary>Something worth keeping, under <c>text</c>.</summary>
    public const string Note = "note";

    /// <summary>It does not go on.</summary>
    public const string Stopped = "stopped";

    /// <summary>It goes on again, after it stopped or was laid aside.</summary>
    public const string Resumed = "resumed";

    /// <summary>What the command of a step printed, under <c>text</c>.</summary>
    public const string Output = "output";

    /// <summary>The step does not apply here; <c>text</c> says why.</summary>
    public const string Skipped = "skipped";

    /// <summary>The step was done in another way; <c>text</c> says how.</summary>
    public const string Deviated = "deviated";

    /// <summary>What was said last was said by mistake: the step before is the one whose turn it is again.</summary>
    public const string Undone = "undone";

    /// <summary>Laid aside for a while; <c>text</c> says why.</summary>
    public const string Paused = "paused";

    /// <summary>Somebody else goes on with it: <c>to</c>.</summary>
    public const string Handed = "handed";

    /// <summary>A photograph of the machine belongs to the step: <c>photo</c> is its id.</summary>
    public const string Photo = "photo";

    /// <summary>Something was tried and did not help: <c>what</c>.</summary>
    public const string Tried = "tried";

    /// <summary>A step that is still to come reads otherwise on this machine; <see cref="StepEdit"/> tells the keys.</summary>
    public const string Edited = "edited";

    /// <summary>
    /// A run that stopped is given up: <c>text</c> says why, <c>starts</c> whether the machine starts something (yes or no), and
    /// <c>closed</c> is yes where whatever was opened is closed again.
    /// </summary>
    public const string GivenUp = "givenUp";

    /// <summary>
    /// Why it stopped is found: <see cref="MendStep"/> tells the keys. What mends it becomes the next step, and the run goes on.
    /// </summary>
    public const string Found = "found";

    /// <summary>
    /// Somebody answers for a line of the acceptance list that the second probe shows to be otherwise: <c>accepts</c> is its id,
    /// <c>text</c> says why.
    /// </summary>
    public const string Accepted = "accepted";

    /// <summary>Every kind.</summary>
    public static IReadOnlyList<string> All { get; } =
    [
        Done,
        Begun,
        Note,
        Stopped,
        Resumed,
        Output,
        Skipped,
        Deviated,
        Undone,
        Paused,
        Handed,
        Photo,
        Tried,
        Edited,
        GivenUp,
        Found,
        Accepted,
    ];
}

/// <summary>What somebody says has happened.</summary>
/// <param name="EventId">Made by whoever says it; saying the same twice counts once.</param>
/// <param name="ExpectedSeq">The number of events that the teller had seen.</param>
/// <param name="Kind">One of <see cref="RunEventKinds"/>.</param>
/// <param name="StepId">The step.</param>
/// <param name="By">Who.</param>
/// <param name="Data">What goes with it, under the keys that the kind asks for.</param>
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
)
{
    /// <summary>What it says to whoever reads it under its step; null where the step itself shows it.</summary>
    public string? Says => EventWords.Of(this);
}

/// <summary>The chain of hashes: a changed or removed event breaks it from there on.</summary>
public static class EventChain
{
    /// <summary>What a break at the run's own row is numbered: before its first event.</summary>
    public const int AtRow = 0;

    /// <summary>
    /// The hash before the first event: that of the run's own id and of its row (route, sheet, dossier, who began it and why), so that
    /// chains cannot be swapped and the row cannot be changed.
    /// </summary>
    /// <param name="runId">The run.</param>
    /// <param name="seal">What <see cref="SealOf"/> gave for its row; null for a run of versions that sealed events only.</param>
    public static string Root(string runId, string? seal) => Sum(seal is null ? $"run {runId}" : $"run {runId} {seal}");

    /// <summary>The seal of a run's row.</summary>
    /// <param name="parts">What stands in it, in a fixed order; an absent part is another than an empty one.</param>
    public static string SealOf(params IReadOnlyList<string?> parts) => Sum(JsonSerializer.Serialize(parts));

    /// <summary>Where a chain is broken, in words.</summary>
    public static string Place(int at) =>
        at == AtRow ? "the run itself: its route, its sheet, its dossier or who began it was changed" : $"event {at}";

    /// <summary>The event with its hash.</summary>
    public static RunEvent Seal(RunEvent bare, string before) => bare with { Hash = HashOf(bare, before) };

    /// <summary>The number of the first event that does not fit, or null when the chain is whole.</summary>
    /// <param name="root">The hash before the first.</param>
    /// <param name="events">The events.</param>
    /// <param name="expected">How many there are to be.</param>
    public static int? Broken(string root, IReadOnlyList<RunEvent> events, int expected)
    {
        var before = root;
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
