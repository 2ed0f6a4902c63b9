using System.Collections.Frozen;
using System.Text.Json.Serialization;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Procedures;

/// <summary>Where a hand does a step.</summary>
[JsonConverter(typeof(CamelCaseNames<StepPlace>))]
public enum StepPlace
{
    /// <summary>At the machine itself: casing, ports, firmware.</summary>
    Machine,

    /// <summary>In the system that is to go, while it still starts.</summary>
    Outgoing,

    /// <summary>In the installer or a live system.</summary>
    Installer,

    /// <summary>In the system that the plan wants.</summary>
    System,

    /// <summary>At another computer of the shop.</summary>
    OtherComputer,

    /// <summary>At the chip programmer.</summary>
    Programmer,
}

/// <summary>Where the times of a step come from.</summary>
[JsonConverter(typeof(CamelCaseNames<TimesFrom>))]
public enum TimesFrom
{
    /// <summary>They stand in the step.</summary>
    Step,

    /// <summary>The entry of the system says how long it copies.</summary>
    Install,

    /// <summary>The cure that the fragment is for.</summary>
    Cure,

    /// <summary>The size of the image and the speed of the medium.</summary>
    Medium,
}

/// <summary>How long a step takes, in minutes.</summary>
/// <param name="Shortest">The shortest that is sensible; 0 where it does not matter.</param>
/// <param name="Usual">As a rule.</param>
/// <param name="Worry">When to worry; 0 for twice the usual time.</param>
public sealed record StepTimes(int Shortest, int Usual, int Worry);

/// <summary>What follows where a step goes otherwise than it should.</summary>
/// <param name="When">What is seen instead, as the hand would say it.</param>
/// <param name="Stop">Why the run stops there; null where steps follow.</param>
/// <param name="Then">Steps that bring it back to the main way.</param>
public sealed record BranchEntry(string When, string? Stop, IReadOnlyList<StepEntry> Then);

/// <summary>A step as a procedure writes it, with placeholders for what only a machine can say.</summary>
/// <param name="Id">Unique within its procedure.</param>
/// <param name="Kind">What it asks of the hand.</param>
/// <param name="Where">Where it is done.</param>
/// <param name="Text">The instruction.</param>
public sealed record StepEntry(string Id, StepKind Kind, StepPlace Where, string Text)
{
    /// <summary>The rung it climbs.</summary>
    public Rung Rung { get; init; }

    /// <summary>When it belongs, within a procedure that does; null for always.</summary>
    [JsonIgnore]
    public Condition? When { get; init; }

    /// <summary>Whether it belongs where nobody measured what its condition asks.</summary>
    public bool IfUnknown { get; init; }

    /// <summary>What could be hurt or lost.</summary>
    public string? Caution { get; init; }

    /// <summary>What one should see, or what a command prints.</summary>
    public string? Expect { get; init; }

    /// <summary>What may be seen as well, and means nothing.</summary>
    public IReadOnlyList<string> Harmless { get; init; } = [];

    /// <summary>The line to type.</summary>
    public string? Command { get; init; }

    /// <summary>A fact that it measures, or <c>probe</c>.</summary>
    public string? Wants { get; init; }

    /// <summary>The line of the acceptance list that it proves when it went as it should; null for none.</summary>
    public string? Proves { get; init; }

    /// <summary>Whether it wants the network: a drop of the shop is taken meanwhile.</summary>
    public bool Network { get; init; }

    /// <summary>How long it takes.</summary>
    public StepTimes Minutes { get; init; } = new(0, 1, 0);

    /// <summary>Where those times come from.</summary>
    public TimesFrom Times { get; init; }

    /// <summary>What must hold when it comes: for each key of <see cref="World"/> the values that will do.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> Needs { get; init; } =
        new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);

    /// <summary>What it changes.</summary>
    public IReadOnlyDictionary<string, string> Does { get; init; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>Kinds of work items that it uses.</summary>
    public IReadOnlyList<string> Uses { get; init; } = [];

    /// <summary>What can be chosen, or what is tried in this order, each with one thing changed.</summary>
    public IReadOnlyList<string> Options { get; init; } = [];

    /// <summary>What follows where it goes otherwise.</summary>
    public IReadOnlyList<BranchEntry> Branches { get; init; } = [];

    /// <summary>
    /// Whether it stands for the switches of the firmware, one after the other in the order of their plan: those that are turned, or those
    /// that go back at the end. The steps of each are those of the procedure for that switch.
    /// </summary>
    public EachSwitch Each { get; init; }

    /// <summary>Facts that hold once it is done, over those that its words mean: of a switch those of the cure that it is.</summary>
    [JsonIgnore]
    public IReadOnlyDictionary<string, FactValue> Leaves { get; init; } = FrozenDictionary<string, FactValue>.Empty;
}

/// <summary>Which switches a step stands for.</summary>
[JsonConverter(typeof(CamelCaseNames<EachSwitch>))]
public enum EachSwitch
{
    /// <summary>None: it is a step like any other.</summary>
    None,

    /// <summary>Those that are turned before the work.</summary>
    Turn,

    /// <summary>Those that the work opened and that are closed at its end.</summary>
    Back,
}

/// <summary>A fragment of a run sheet: steps that belong together, and when they belong to a route.</summary>
/// <param name="Id">Unique in the catalogue.</param>
/// <param name="About">What it is for.</param>
/// <param name="Evidence">Where it is known from.</param>
/// <param name="Steps">The steps, in their order.</param>
public sealed record ProcedureEntry(string Id, string About, Evidence Evidence, IReadOnlyList<StepEntry> Steps)
{
    /// <summary>What a step wants that measures a fact which the route takes for granted.</summary>
    public const string AssumedFact = "assumed";

    /// <summary>Whether it comes once for each fact that the route takes for granted.</summary>
    public bool Assumed { get; init; }

    /// <summary>When it belongs to a route; null for always. Open counts as no, unless <see cref="IfUnknown"/>.</summary>
    [JsonIgnore]
    public Condition? When { get; init; }

    /// <summary>Whether it belongs where nobody measured what its condition asks.</summary>
    public bool IfUnknown { get; init; }

    /// <summary>Ids of cures that it carries out, once for each that a route takes; <c>memory-*</c> is every one that begins so.</summary>
    public IReadOnlyList<string> Cures { get; init; } = [];

    /// <summary>Whether it names a cure.</summary>
    public bool Names(string cure) =>
        Cures.Any(c => c.EndsWith('*') ? cure.StartsWith(c[..^1], StringComparison.Ordinal) : c == cure);

    /// <summary>The switch of the firmware that it turns, or <c>any</c> for every one that no procedure names; null for none.</summary>
    public string? Switch { get; init; }

    /// <summary>The value to which it turns that switch; null for each.</summary>
    public string? SwitchTo { get; init; }

    /// <summary>The word for every switch that no procedure names.</summary>
    public const string AnySwitch = "any";

    /// <summary>The kind of cure that it carries out where no other procedure names the cure; null for none.</summary>
    public Outcome? CureKind { get; init; }
}
