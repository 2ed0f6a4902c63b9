using System.Text.Json.Serialization;
using System.Text.RegularExpressions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Catalogue;

/// <summary>How sure a claim is.</summary>
[JsonConverter(typeof(CamelCaseNames<Sureness>))]
public enum Sureness
{
    /// <summary>Somebody said so.</summary>
    Hearsay,

    /// <summary>The maker states it.</summary>
    Stated,

    /// <summary>Tried in the shop.</summary>
    Tried,
}

/// <summary>Where a requirement comes from.</summary>
public sealed record Evidence(string Source, DateOnly Date, Sureness Sure);

/// <summary>Something that a system asks of a machine.</summary>
/// <param name="Id">Unique within its system.</param>
/// <param name="Kind">Gate, runtime or comfort.</param>
/// <param name="Rung">The rung it stands on; gates stand on <see cref="Rung.Setup"/>.</param>
/// <param name="Needs">The condition.</param>
/// <param name="Evidence">Where it comes from.</param>
/// <param name="Advisory">A gate that only warns.</param>
/// <param name="Says">What it asks for in words, where the condition reads badly.</param>
/// <param name="IfLifted">What happens when a gate is lifted.</param>
public sealed record Requirement(
    string Id,
    RequirementKind Kind,
    Rung Rung,
    [property: JsonIgnore] Condition Needs,
    Evidence Evidence,
    bool Advisory = false,
    [property: JsonIgnore] string? Says = null,
    string? IfLifted = null
)
{
    /// <summary>What it asks for, in words.</summary>
    public string Needed => FindingText.Needed(this);
}

/// <summary>What sort of system it is.</summary>
[JsonConverter(typeof(CamelCaseNames<SystemClass>))]
public enum SystemClass
{
    /// <summary>A commercial desktop system.</summary>
    Commercial,

    /// <summary>A system tied to its maker's models.</summary>
    ModelLocked,

    /// <summary>A general-purpose open system.</summary>
    General,

    /// <summary>A light open system.</summary>
    Light,

    /// <summary>A browser and little else.</summary>
    BrowserFirst,
}

/// <summary>A release of a system.</summary>
/// <param name="Id">Its id, such as <c>wickerwork-26</c>.</param>
/// <param name="Name">Its name.</param>
/// <param name="Release">Its release, where the name alone is not enough.</param>
/// <param name="Class">What sort of system it is.</param>
/// <param name="About">One sentence on what it is.</param>
/// <param name="SupportEnds">The last day of updates; null for a rolling system with no end date.</param>
/// <param name="Evidence">Where the support date comes from.</param>
/// <param name="Install">How long an installation takes.</param>
/// <param name="Requirements">What it asks for.</param>
public sealed record SystemEntry(
    string Id,
    string Name,
    string? Release,
    SystemClass Class,
    string About,
    DateOnly? SupportEnds,
    Evidence Evidence,
    InstallTime Install,
    IReadOnlyList<Requirement> Requirements
)
{
    /// <summary>"Wickerwork 26", "Tessaly 6, release 2".</summary>
    [JsonIgnore]
    public string FullName =>
        Release is null ? Name
        : char.IsDigit(Release[0]) ? $"{Name} {Release}"
        : $"{Name}, {Release}";
}

/// <summary>How long an installation takes, in minutes.</summary>
/// <param name="HandsOnMinutes">Minutes of work.</param>
/// <param name="ShortestMinutes">The shortest sensible wait while it copies.</param>
/// <param name="UsualMinutes">The usual wait.</param>
/// <param name="WorryMinutes">When to worry.</param>
public sealed record InstallTime(int HandsOnMinutes, int ShortestMinutes, int UsualMinutes, int WorryMinutes);

/// <summary>A finding that a cure brings with it.</summary>
public sealed record SideEffect(Rung Rung, Outcome Outcome, string Text);

/// <summary>
/// Something that can be done about a shortfall. It may only set facts, drive or replace devices, lift gates, and add
/// findings of its own.
/// </summary>
/// <param name="Id">Unique in the catalogue.</param>
/// <param name="Kind">From <see cref="Outcome.Setting"/> to <see cref="Outcome.Reflash"/>.</param>
/// <param name="Rung">Where the hand works.</param>
/// <param name="Does">What to do, as an instruction without a full stop.</param>
/// <param name="Brief">The same in at most 32 characters, to be read from a metre away; null where it is short already.</param>
/// <param name="Needs">When it can be done at all; null for always.</param>
/// <param name="Sets">The facts it changes.</param>
/// <param name="Lifts">Gates it lifts, as <c>system/requirement</c>.</param>
/// <param name="Drives">Ids of devices it brings a driver for.</param>
/// <param name="Replaces">Group of devices it replaces, such as <c>network</c>.</param>
/// <param name="Adds">What it brings with it.</param>
/// <param name="Money">Price in hundredth parts of a mark.</param>
/// <param name="HandsOnMinutes">Minutes of work.</param>
/// <param name="WaitMinutes">Minutes of waiting.</param>
/// <param name="How">How to do it, with the usual labels.</param>
/// <param name="Caution">What could be hurt or lost.</param>
public sealed record Cure(
    string Id,
    Outcome Kind,
    Rung Rung,
    string Does,
    [property: JsonIgnore] Condition? Needs = null,
    IReadOnlyDictionary<string, FactValue>? Sets = null,
    IReadOnlyList<string>? Lifts = null,
    IReadOnlyList<string>? Drives = null,
    string? Replaces = null,
    IReadOnlyList<SideEffect>? Adds = null,
    int Money = 0,
    int HandsOnMinutes = 0,
    int WaitMinutes = 0,
    string? How = null,
    string? Caution = null,
    string? Brief = null
);

/// <summary>Names of processors, as a pattern, with what they stand for.</summary>
/// <param name="Pattern">A regular expression over the processor's name.</param>
/// <param name="Maker">Its maker.</param>
/// <param name="Generation">Its generation, such as <c>C8</c>.</param>
public sealed record ProcessorEntry(Regex Pattern, string Maker, string Generation);

/// <summary>How a device is driven by a system.</summary>
[JsonConverter(typeof(CamelCaseNames<DriverState>))]
public enum DriverState
{
    /// <summary>The system brings the driver.</summary>
    BuiltIn,

    /// <summary>A driver package is added after installation.</summary>
    AfterInstall,

    /// <summary>There is no driver.</summary>
    None,
}

/// <summary>A chip that needs a driver.</summary>
/// <param name="Id">Its id, such as <c>AL-43</c>.</param>
/// <param name="Name">Its name for people.</param>
/// <param name="Group"><c>network</c> or <c>graphics</c>.</param>
/// <param name="Pattern">A regular expression over the name that the machine reports.</param>
/// <param name="GraphicsClass">For graphics: its class from 0 to 3.</param>
/// <param name="Drivers">By system id, how it is driven.</param>
/// <param name="Otherwise">How every other system drives it; null when nobody knows.</param>
public sealed record DeviceEntry(
    string Id,
    string Name,
    string Group,
    Regex Pattern,
    int? GraphicsClass,
    IReadOnlyDictionary<string, DriverState> Drivers,
    DriverState? Otherwise
);

/// <summary>A memory module of the price book.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Type">Type as the machine reports it, such as <c>DDR4 SO-DIMM</c>.</param>
/// <param name="SizeMiB">Size in MiB.</param>
/// <param name="Money">Price in hundredth parts of a mark.</param>
public sealed record MemoryModule(string Id, string Type, int SizeMiB, int Money);

/// <summary>What is known of a line of machines beyond what they report.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Pattern">A regular expression over "maker model".</param>
/// <param name="MemoryGroup">How many memory modules go in together: 1, 2 for pairs, 3 for threes.</param>
public sealed record ModelEntry(string Id, Regex Pattern, int MemoryGroup);

/// <summary>A model whose identity a machine of the same line may take, so that a model-locked system lets it in.</summary>
/// <param name="Id">Model id, such as <c>PL-08A</c>.</param>
/// <param name="Maker">Its maker.</param>
/// <param name="Line">Its line; only a machine of the same line may take it.</param>
/// <param name="Generation">Number of its processor generation: 8 for C8.</param>
/// <param name="BoardId">Name of its board.</param>
/// <param name="SerialPrefix">How its serial numbers begin.</param>
/// <param name="Systems">Ids of the systems that support it.</param>
public sealed record DonorModel(
    string Id,
    string Maker,
    string Line,
    int Generation,
    string BoardId,
    string SerialPrefix,
    IReadOnlyList<string> Systems
);

/// <summary>How a board's firmware is protected against writing.</summary>
[JsonConverter(typeof(CamelCaseNames<WriteProtection>))]
public enum WriteProtection
{
    /// <summary>A screw that bridges a metal ring.</summary>
    Screw,

    /// <summary>A jumper on the board.</summary>
    Jumper,

    /// <summary>The battery has to be unplugged.</summary>
    Battery,
}

/// <summary>A board for which replacement firmware is proved. A board that is not listed is not flashed.</summary>
/// <param name="Id">Board name as the machine reports it.</param>
/// <param name="Name">The machines that have it.</param>
/// <param name="Protection">How it is protected.</param>
/// <param name="Payload">What the replacement is.</param>
public sealed record BoardEntry(string Id, string Name, WriteProtection Protection, string Payload);
