using System.Text.Json.Serialization;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Procedures;

/// <summary>What a step asks of the person at the bench.</summary>
[JsonConverter(typeof(CamelCaseNames<StepKind>))]
public enum StepKind
{
    /// <summary>Do something with the hands.</summary>
    Do,

    /// <summary>Look whether something is as it should be.</summary>
    Check,

    /// <summary>Measure something and bring it in.</summary>
    Measure,

    /// <summary>Type a command.</summary>
    Type,

    /// <summary>Wait; hands are free meanwhile.</summary>
    Wait,

    /// <summary>Something that cannot be undone; wants the machine's tag.</summary>
    Confirm,

    /// <summary>Choose one of several things; what was chosen is kept.</summary>
    Choose,

    /// <summary>Try several things in their order, one changed at a time, until one works.</summary>
    Trial,
}

/// <summary>What follows where a step goes otherwise.</summary>
/// <param name="When">What is seen instead.</param>
/// <param name="Stop">Why the run stops there; null where steps follow.</param>
/// <param name="Then">Ids of the steps that follow; the main way goes on after them.</param>
public sealed record StepBranch(string When, string? Stop, IReadOnlyList<string> Then);

/// <summary>A step of a run sheet.</summary>
/// <param name="Id">Unique within the sheet.</param>
/// <param name="Rung">The rung it climbs.</param>
/// <param name="Kind">What it asks.</param>
/// <param name="Text">The instruction.</param>
/// <param name="Caution">What could be hurt or lost.</param>
/// <param name="UsualMinutes">The usual time.</param>
/// <param name="ShortestMinutes">The shortest sensible time.</param>
/// <param name="WorryMinutes">When to worry; 0 for twice the usual time.</param>
/// <param name="Command">The command to type, its values filled in.</param>
/// <param name="Expect">What one should see; of a command, what it prints when it worked.</param>
/// <param name="Opens">A relaxation that this step opens and that must be closed again.</param>
/// <param name="Closes">A relaxation that this step closes.</param>
/// <param name="Wants">What must be there before it is done: <c>probe</c> for a probe since the start, or a fact key.</param>
public sealed record Step(
    string Id,
    Rung Rung,
    StepKind Kind,
    string Text,
    string? Caution,
    int UsualMinutes,
    int ShortestMinutes = 0,
    int WorryMinutes = 0,
    string? Command = null,
    string? Expect = null,
    string? Opens = null,
    string? Closes = null,
    string? Wants = null
)
{
    /// <summary>Ids of the work items that it uses; it is held while one of them is missing or stale.</summary>
    public IReadOnlyList<string> Uses { get; init; } = [];

    /// <summary>Where it is done.</summary>
    public StepPlace Where { get; init; }

    /// <summary>What may be seen as well, and means nothing.</summary>
    public IReadOnlyList<string> Harmless { get; init; } = [];

    /// <summary>What must hold when it comes, in the words of <see cref="World"/>.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> Needs { get; init; } =
        new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);

    /// <summary>What it changes.</summary>
    public IReadOnlyDictionary<string, string> Does { get; init; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>
    /// What is known of the machine once it is done: what its words mean, and the facts of the cure that it completes. They go into the
    /// dossier, marked as left by the work, until a measurement proves them.
    /// </summary>
    public IReadOnlyDictionary<string, FactValue> Leaves { get; init; } =
        new Dictionary<string, FactValue>(StringComparer.Ordinal);

    /// <summary>Facts that end with it: what was known of a system or of partitions that are gone.</summary>
    public IReadOnlyList<string> Ends { get; init; } = [];

    /// <summary>What can be chosen, or what is tried in this order.</summary>
    public IReadOnlyList<string> Options { get; init; } = [];

    /// <summary>The line of the acceptance list that it proves when it went as it should; null for none.</summary>
    public string? Proves { get; init; }

    /// <summary>Whether it wants the network: a drop of the shop is taken meanwhile.</summary>
    public bool Network { get; init; }

    /// <summary>
    /// Whether a hand says of it only that it is as described: nothing is entered, brought, typed or waited for at it, and nothing can be
    /// hurt or lost by it. Such a line is ticked by a key, alone or with the other lines of its stop.
    /// </summary>
    public bool IsPlain => Kind is StepKind.Do or StepKind.Check && Caution is null && Wants is null;

    /// <summary>Whether a new probe has to be brought in before it is done.</summary>
    [JsonIgnore]
    public bool WantsProbe => Wants == "probe";

    /// <summary>When to worry, in minutes.</summary>
    [JsonIgnore]
    public int Worry => WorryMinutes > 0 ? WorryMinutes : 2 * UsualMinutes;

    /// <summary>Whether later steps may rest on it, so that it cannot be left out; nobody leaves out what the machine does by itself.</summary>
    public bool Carries =>
        Kind == StepKind.Wait
        || Does.Count > 0
        || Leaves.Count > 0
        || Ends.Count > 0
        || Opens is not null
        || Closes is not null
        || Wants is not null;

    /// <summary>What follows where it goes otherwise.</summary>
    public IReadOnlyList<StepBranch> Branches { get; init; } = [];

    /// <summary>The step on whose branch it stands, and which; null on the main way.</summary>
    public BranchPlace? On { get; init; }

    /// <summary>Id of the procedure that it comes from.</summary>
    public string Fragment { get; init; } = "";

    /// <summary>What that procedure is about, in a few words; null where nobody noted it.</summary>
    public string? About { get; init; }
}

/// <summary>A branch that a step stands on.</summary>
/// <param name="Step">Id of the step that branches.</param>
/// <param name="When">Which of its branches.</param>
public sealed record BranchPlace(string Step, string When);
