using System.Collections.Frozen;
using System.Text.Json.Serialization;
using System.Text.RegularExpressions;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>What somebody else says of the same requirement; it stands beside the one in force.</summary>
/// <param name="Says">The claim in words.</param>
/// <param name="Evidence">Where it comes from.</param>
public sealed record Claim(string Says, Evidence Evidence);

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
    public string Needed => Says ?? ConditionText.Needed(Needs);

    /// <summary>Claims that contradict the one in force.</summary>
    public IReadOnlyList<Claim> Claims { get; init; } = [];

    /// <summary>Why this claim is in force; null where nobody contradicts it.</summary>
    public string? WhyThis { get; init; }
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

    /// <summary>A system for single boards.</summary>
    SingleBoard,
}

/// <summary>Who encrypts the drive of a system.</summary>
[JsonConverter(typeof(CamelCaseNames<EncryptionBy>))]
public enum EncryptionBy
{
    /// <summary>Whoever divides the drive: it starts from LUKS2 volumes.</summary>
    Luks,

    /// <summary>The system itself, after it is installed.</summary>
    Own,

    /// <summary>Nobody: it starts from no encrypted volume.</summary>
    None,
}

/// <summary>How the drive of a system is encrypted.</summary>
/// <param name="By">By whom.</param>
/// <param name="Where">Where that is switched on; null where there is nothing to say.</param>
public sealed record DriveEncryption(EncryptionBy By, string? Where);

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
    public string FullName =>
        Release is null ? Name
        : char.IsDigit(Release[0]) ? $"{Name} {Release}"
        : $"{Name}, {Release}";

    /// <summary>The day it came out; null where nobody wrote it down. Programs may ask for a release not older than a day.</summary>
    public DateOnly? Released { get; init; }

    /// <summary>The last day of updates by board name, where the maker ends it board by board; empty otherwise.</summary>
    public IReadOnlyDictionary<string, DateOnly> SupportByBoard { get; init; } =
        FrozenDictionary<string, DateOnly>.Empty;

    /// <summary>The last day of updates for a machine; null where no end is set.</summary>
    /// <param name="facts">Its dossier, for the board.</param>
    /// <param name="extended">Whether the paid extension is taken.</param>
    public DateOnly? EndsFor(IFacts facts, bool extended) =>
        extended && Extension is not null ? Extension.Ends
        : SupportByBoard.Count > 0
        && facts.Word("identity.board") is { } board
        && SupportByBoard.TryGetValue(board, out var day)
            ? day
        : SupportEnds;

    /// <summary>Its editions; empty where there is only one.</summary>
    public IReadOnlyList<string> Editions { get; init; } = [];

    /// <summary>The languages of its images, as BCP 47 tags.</summary>
    public IReadOnlyList<string> Languages { get; init; } = [];

    /// <summary>The processors it is built for: <c>x86-32</c>, <c>x86-64</c>, <c>arm64</c>.</summary>
    public IReadOnlyList<string> Architectures { get; init; } = [];

    /// <summary>Updates that can be paid for beyond <see cref="SupportEnds"/>.</summary>
    public SupportExtension? Extension { get; init; }

    /// <summary>The systems it can be installed over, and what stays.</summary>
    public IReadOnlyList<InPlaceSource> InPlace { get; init; } = [];

    /// <summary>Where an upgrade in place begins.</summary>
    public UpgradeBegins InPlaceBegins { get; init; }

    /// <summary>Free space that an in-place upgrade asks for, in bytes.</summary>
    public long InPlaceFreeBytes { get; init; }

    /// <summary>The EFI system partition that an in-place upgrade asks for, in bytes; 0 where it makes do with any.</summary>
    public long InPlaceLoaderBytes { get; init; }

    /// <summary>The gate that an in-place upgrade must pass unlifted; null where it upgrades any machine.</summary>
    public string? InPlaceGate { get; init; }

    /// <summary>What set-up and use ask of a maker's account.</summary>
    public Asked Account { get; init; }

    /// <summary>How its drive is encrypted where somebody wishes that; null where nobody wrote it down.</summary>
    public DriveEncryption? Encryption { get; init; }

    /// <summary>What set-up asks of a network.</summary>
    public Asked Network { get; init; }

    /// <summary>Whether it can start by itself into one program and stay up.</summary>
    public bool Unattended { get; init; }

    /// <summary>What a person gets with it that others lack.</summary>
    public IReadOnlyList<string> Features { get; init; } = [];

    /// <summary>How sure it is that updates keep coming until the end of support, in per cent.</summary>
    public int UpdatesSurePercent { get; init; } = 100;

    /// <summary>Who made the image: whether to trust it.</summary>
    public Trust Trust { get; init; }

    /// <summary>Size of the image in bytes; 0 where unknown.</summary>
    public long ImageBytes { get; init; }

    /// <summary>What is known of its installer; null where nothing is.</summary>
    public InstallerEntry? Installer { get; init; }

    /// <summary>What it asks of a boot kit; null where it needs none, or nobody made one.</summary>
    public SystemKit? Kit { get; init; }

    /// <summary>Components that can be left out.</summary>
    public IReadOnlyList<SystemComponent> Components { get; init; } = [];

    /// <summary>The cure that the paid extension is; null where there is none.</summary>
    [JsonIgnore]
    public Cure? ExtensionCure =>
        Extension is null
            ? null
            : new Cure(
                $"extend-{Id}",
                Outcome.Setting,
                Rung.Upkeep,
                $"Pay for updates to {Extension.Ends:d MMM yyyy}",
                Money: Extension.Money,
                HandsOnMinutes: 6,
                How: "The key goes in once; updates then come as before. It ends for good on that day.",
                Brief: "Pay for longer updates"
            )
            {
                Extends = Id,
            };
}

/// <summary>Updates that can be paid for.</summary>
/// <param name="Ends">Their last day.</param>
/// <param name="Money">Price for one machine in hundredth parts of a mark.</param>
public sealed record SupportExtension(DateOnly Ends, int Money);

/// <summary>A system that another can be installed over.</summary>
/// <param name="From">Id of the system that is on the machine.</param>
/// <param name="Keeps">What stays, such as "files" and "programs".</param>
public sealed record InPlaceSource(string From, IReadOnlyList<string> Keeps);

/// <summary>Where an upgrade in place begins.</summary>
[JsonConverter(typeof(CamelCaseNames<UpgradeBegins>))]
public enum UpgradeBegins
{
    /// <summary>In the system that is to go, while it runs.</summary>
    Inside,

    /// <summary>From the medium, as a clean installation does.</summary>
    Medium,
}

/// <summary>What somebody says for one answer to a question on which practitioners disagree.</summary>
/// <param name="Answer">The answer that it speaks for.</param>
/// <param name="Says">The claim in words.</param>
/// <param name="Evidence">Where it comes from.</param>
public sealed record SchoolClaim(string Answer, string Says, Evidence Evidence);

/// <summary>Who says what about a question on which practitioners disagree.</summary>
/// <param name="Id">The question, by its key among <see cref="Dossiers.Choices"/>.</param>
/// <param name="Claims">What is said, for each answer.</param>
public sealed record SchoolEntry(string Id, IReadOnlyList<SchoolClaim> Claims);

/// <summary>Whether something is asked for.</summary>
[JsonConverter(typeof(CamelCaseNames<Asked>))]
public enum Asked
{
    /// <summary>It is not asked for.</summary>
    None,

    /// <summary>It is offered and can be refused.</summary>
    Offered,

    /// <summary>Nothing goes without.</summary>
    Required,
}

/// <summary>Who made an image.</summary>
[JsonConverter(typeof(CamelCaseNames<Trust>))]
public enum Trust
{
    /// <summary>The maker of the system.</summary>
    Maker,

    /// <summary>A community project with its own records.</summary>
    Community,

    /// <summary>Somebody who changed another's system.</summary>
    ThirdParty,

    /// <summary>The shop itself.</summary>
    Own,
}

/// <summary>How long an installation takes, in minutes.</summary>
/// <param name="HandsOnMinutes">Minutes of work.</param>
/// <param name="ShortestMinutes">The shortest sensible wait while it copies.</param>
/// <param name="UsualMinutes">The usual wait.</param>
/// <param name="WorryMinutes">When to worry.</param>
public sealed record InstallTime(int HandsOnMinutes, int ShortestMinutes, int UsualMinutes, int WorryMinutes);

/// <summary>What sort of string is attached.</summary>
[JsonConverter(typeof(CamelCaseNames<SideEffectKind>))]
public enum SideEffectKind
{
    /// <summary>Something else to know.</summary>
    Other,

    /// <summary>Updates are less sure.</summary>
    Updates,

    /// <summary>Secure Boot must be off.</summary>
    SecureBoot,

    /// <summary>Drive encryption needs a passphrase or is lost.</summary>
    Encryption,

    /// <summary>Services of the maker may refuse the machine.</summary>
    Services,

    /// <summary>The warranty may end.</summary>
    Warranty,

    /// <summary>The maker's licence may forbid it; the owner decides.</summary>
    Licence,
}

/// <summary>A finding that a cure brings with it.</summary>
public sealed record SideEffect(Rung Rung, Outcome Outcome, string Text, SideEffectKind Kind = SideEffectKind.Other)
{
    /// <summary>When it comes with the cure; null for always.</summary>
    [JsonIgnore]
    public Condition? When { get; init; }

    /// <summary>Whether it comes where nobody knows.</summary>
    [JsonIgnore]
    public bool IfUnknown { get; init; }
}

/// <summary>Where a cure is carried out.</summary>
[JsonConverter(typeof(CamelCaseNames<RunsOn>))]
public enum RunsOn
{
    /// <summary>On the machine itself.</summary>
    Machine,

    /// <summary>On the machine, while its outgoing system still runs.</summary>
    Outgoing,

    /// <summary>On the machine, with a stepping-stone system.</summary>
    SteppingStone,

    /// <summary>On another computer of the shop.</summary>
    OtherComputer,
}

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
)
{
    /// <summary>Cures that cannot be taken together with it.</summary>
    public IReadOnlyList<string> Conflicts { get; init; } = [];

    /// <summary>Whether a fact has to be so or so before it can be done.</summary>
    internal bool BuildsOn(string key) => Needs?.Keys.Contains(key) == true;

    /// <summary>Whether it builds on what another sets and can be done after it, whatever else is so.</summary>
    internal bool MayFollow(Cure other) =>
        Needs is { } needs
        && other.Sets is { } sets
        && needs.Keys.Any(sets.ContainsKey)
        && needs.Holds(new Overlay(Dossier.Empty, sets)) != false;

    /// <summary>Cures that come before it where both are taken.</summary>
    public IReadOnlyList<string> After { get; init; } = [];

    /// <summary>Whether it is done after the installation; before it otherwise.</summary>
    public bool AfterInstall { get; init; }

    /// <summary>Where it is carried out.</summary>
    public RunsOn RunsOn { get; init; }

    /// <summary>The system that it is carried out with, where that is not the machine's new one.</summary>
    public string? RunsWith { get; init; }

    /// <summary>How many second-hand parts it fits that have passed no test.</summary>
    public int Untested { get; init; }

    /// <summary>How often it fails and has to be given up, in thousandths.</summary>
    public int FailPerMille { get; init; }

    /// <summary>How often it does harm, in thousandths.</summary>
    public int HarmPerMille { get; init; }

    /// <summary>Whether it cannot be undone.</summary>
    public bool Irreversible { get; init; }

    /// <summary>Id of the system whose support it extends.</summary>
    public string? Extends { get; init; }

    /// <summary>The board whose chip it writes; null for any other cure.</summary>
    public string? Board { get; init; }

    /// <summary>Id of the payload that it writes; null for any other cure.</summary>
    public string? Payload { get; init; }

    /// <summary>Whether it is a switch in the settings of the machine's firmware.</summary>
    [JsonIgnore]
    public bool InSettings =>
        Kind == Outcome.Setting && Rung == Rung.Firmware && RunsOn == RunsOn.Machine && Extends is null;

    /// <summary>Whether the answer to the question of replacement firmware leaves it open: full UEFI where nobody answered.</summary>
    internal bool IsChosen(IFacts facts) =>
        Payload is null || Payload == (facts.Word("plan.firmware") ?? PayloadEntry.Full);

    /// <summary>What it means for Secure Boot.</summary>
    public LoaderSignatures Loader { get; init; }

    /// <summary>Which loaders Secure Boot accepts with it: one of another model, or of other firmware, carries no signature.</summary>
    [JsonIgnore]
    public LoaderSignatures Signatures => Kind is Outcome.Spoof or Outcome.Reflash ? LoaderSignatures.None : Loader;
}

/// <summary>Which loaders of a route carry a signature that the firmware knows (UEFI 2.10, section 32).</summary>
[JsonConverter(typeof(CamelCaseNames<LoaderSignatures>))]
public enum LoaderSignatures
{
    /// <summary>Each of them: Secure Boot stays as it is.</summary>
    All,

    /// <summary>The installed system's, not the installer's: Secure Boot goes off, and on again.</summary>
    InstalledOnly,

    /// <summary>Neither: Secure Boot stays off.</summary>
    None,
}

/// <summary>Names of processors, as a pattern, with what they stand for.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Pattern">A regular expression over the processor's name.</param>
/// <param name="Maker">Its maker.</param>
/// <param name="Generation">Its generation, such as <c>C8</c>.</param>
public sealed record ProcessorEntry(string Id, Regex Pattern, string Maker, string Generation);

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
/// <param name="MemoryGroup">How many memory modules go in together: 1, 2 for pairs, 3 for threes; null where nobody wrote it down.</param>
/// <param name="Name">Maker and model as people write them.</param>
/// <param name="Typical">Facts that such a machine usually has, to judge it before it is here.</param>
public sealed record ModelEntry(
    string Id,
    Regex Pattern,
    int? MemoryGroup,
    string Name,
    IReadOnlyDictionary<string, FactValue> Typical
)
{
    /// <summary>Places for drives in it; empty where nobody noted them.</summary>
    public IReadOnlyList<DriveSlot> Slots { get; init; } = [];

    /// <summary>What whoever opens it or its settings should know of its board.</summary>
    public IReadOnlyList<BoardNote> Notes { get; init; } = [];
}

/// <summary>A place for a drive.</summary>
/// <param name="Name">How it is found: "front bay", "M.2 beside the memory".</param>
/// <param name="Form">Its form, such as <c>2.5 inch</c>, <c>M.2</c>, <c>44-pin</c>.</param>
/// <param name="Buses">What it speaks, in the words of <c>storage.0.bus</c>.</param>
/// <param name="LengthsMm">Lengths that it holds, in millimetres; empty where any of its form goes in.</param>
/// <param name="Key">The notch of an M.2 socket: B or M (PCI Express M.2 Specification); null for other forms.</param>
/// <param name="Shares">What goes off or slows down while something is in it; null where nothing does.</param>
/// <param name="Note">What else to know: jumpers, terminators, a spacer.</param>
public sealed record DriveSlot(
    string Name,
    string Form,
    IReadOnlyList<string> Buses,
    IReadOnlyList<int> LengthsMm,
    string? Key,
    string? Shares,
    string? Note
);

/// <summary>What a board's note is about.</summary>
[JsonConverter(typeof(CamelCaseNames<BoardNoteAbout>))]
public enum BoardNoteAbout
{
    /// <summary>Which output shows the first picture, and graphics on the board beside a card.</summary>
    Display,

    /// <summary>Slots and ports that share their lanes.</summary>
    Lanes,

    /// <summary>Where it starts from, and in two places.</summary>
    Start,

    /// <summary>Something else.</summary>
    Other,
}

/// <summary>Something to know of a board.</summary>
/// <param name="About">What it is about.</param>
/// <param name="Text">The note.</param>
public sealed record BoardNote(BoardNoteAbout About, string Text);

/// <summary>Something that lets a drive of one sort into a place of another.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Form">Form of the drive that it takes.</param>
/// <param name="Bus">Bus of that drive.</param>
/// <param name="SlotForm">Form of the place that it goes into.</param>
/// <param name="SlotBus">Bus of that place.</param>
/// <param name="Money">Price in hundredth parts of a mark.</param>
/// <param name="Note">What to mind; null for nothing.</param>
public sealed record AdapterEntry(
    string Id,
    string Name,
    string Form,
    string Bus,
    string SlotForm,
    string SlotBus,
    int Money,
    string? Note
);

/// <summary>What people want a computer for.</summary>
[JsonConverter(typeof(CamelCaseNames<Purpose>))]
public enum Purpose
{
    /// <summary>Pages of the web.</summary>
    Web,

    /// <summary>Documents and tables.</summary>
    Office,

    /// <summary>Video calls.</summary>
    Calls,

    /// <summary>Drawing with graphics acceleration.</summary>
    Drawing,
}

/// <summary>A program, and what it asks of the system and the machine.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Purpose">What people want it for.</param>
/// <param name="Systems">Ids of the systems it runs on; empty for all.</param>
/// <param name="ReleasedSince">It runs only on systems that came out on this day or later.</param>
/// <param name="Needs">What it asks of the machine.</param>
/// <param name="Says">What it asks for in words, where the condition reads badly.</param>
/// <param name="Evidence">Where that comes from.</param>
public sealed record ProgramEntry(
    string Id,
    string Name,
    Purpose Purpose,
    IReadOnlyList<string> Systems,
    DateOnly? ReleasedSince,
    [property: JsonIgnore] Condition Needs,
    string? Says,
    Evidence Evidence
)
{
    /// <summary>Whether it runs on a system at all.</summary>
    public bool RunsOn(SystemEntry system) =>
        (Systems.Count == 0 || Systems.Contains(system.Id))
        && (ReleasedSince is not { } since || system.Released is not { } released || released >= since);
}

/// <summary>How a maker's machines are asked for their menus.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Maker">The maker as the machine reports it.</param>
/// <param name="BootMenu">How the boot menu is opened: "Press F10 at the logo".</param>
/// <param name="Setup">How the firmware's settings are opened.</param>
/// <param name="SetupFromSystem">The way into them from a running system, for a machine that starts too fast for a key.</param>
/// <param name="Switches">How the firmware calls its switches, by its version.</param>
/// <param name="UpdateBy">How its firmware is updated.</param>
public sealed record MakerEntry(
    string Id,
    string Maker,
    string BootMenu,
    string? Setup,
    string? SetupFromSystem,
    IReadOnlyList<SwitchLabel> Switches,
    UpdateWay UpdateBy
);

/// <summary>How a maker calls a switch of its firmware.</summary>
/// <param name="Switch">The switch, one of <see cref="FirmwareSwitches"/>.</param>
/// <param name="Label">What is written beside it.</param>
/// <param name="Page">The page of the settings where it stands; null where there is one page.</param>
/// <param name="Since">The first version of the firmware that calls it so; null for every one.</param>
/// <param name="Grey">Whether it cannot be turned until an administrator password is set.</param>
public sealed record SwitchLabel(string Switch, string Label, string? Page, string? Since, bool Grey);

/// <summary>How a maker's firmware is updated.</summary>
[JsonConverter(typeof(CamelCaseNames<UpdateWay>))]
public enum UpdateWay
{
    /// <summary>Nobody knows of an update.</summary>
    None,

    /// <summary>By a program in the system that is on the drive.</summary>
    Outgoing,

    /// <summary>From a stick in FAT, by the firmware itself.</summary>
    Stick,

    /// <summary>Either.</summary>
    Either,
}

/// <summary>What a price is for.</summary>
[JsonConverter(typeof(CamelCaseNames<PricePer>))]
public enum PricePer
{
    /// <summary>An hour of work.</summary>
    Hour,

    /// <summary>A working machine that could be bought instead.</summary>
    Machine,

    /// <summary>A sound part taken out of a machine.</summary>
    Part,

    /// <summary>A machine of like speed that a model-locked system was made for.</summary>
    Genuine,
}

/// <summary>A price of the price book beside those of cures and memory.</summary>
/// <param name="Id">Its id.</param>
/// <param name="About">What is bought or sold.</param>
/// <param name="Per">What the price is for.</param>
/// <param name="Money">Hundredth parts of a mark.</param>
/// <param name="When">For which machines it counts; null for all.</param>
public sealed record PriceEntry(
    string Id,
    string About,
    PricePer Per,
    int Money,
    [property: JsonIgnore] Condition? When
)
{
    /// <summary>The system that a genuine machine is for; null for other prices.</summary>
    public string? System { get; init; }
}

/// <summary>What a machine of a kind weighs, for what the shop tells of what it keeps in use.</summary>
/// <param name="Id">Its id.</param>
/// <param name="About">Which kind.</param>
/// <param name="Grams">Its weight, in grams.</param>
/// <param name="When">For which machines it counts; null for all that no entry before it is for.</param>
/// <param name="Evidence">Where it is known from.</param>
public sealed record WeightEntry(
    string Id,
    string About,
    int Grams,
    [property: JsonIgnore] Condition? When,
    Evidence Evidence
);

/// <summary>Another computer of the shop, on which some cures are carried out.</summary>
/// <param name="Id">Its id.</param>
/// <param name="About">Which it is.</param>
/// <param name="System">Id of the system on it.</param>
public sealed record ComputerEntry(string Id, string About, string System);

/// <summary>A model whose identity a machine of the same line may take, so that a model-locked system accepts it.</summary>
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
)
{
    /// <summary>The year it came out; null where nobody noted it.</summary>
    public int? Year { get; init; }

    /// <summary>Its form: laptop, small desktop, desktop or all-in-one.</summary>
    public string? Form { get; init; }

    /// <summary>Its graphics, by maker and class: "Corvane class 2".</summary>
    public string? Graphics { get; init; }

    /// <summary>What its fans and power management listen to.</summary>
    public string? Sensors { get; init; }

    /// <summary>What its processor and cooling are made for, such as "15 W, mobile".</summary>
    public string? PowerClass { get; init; }
}

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

/// <summary>
/// Firmware that takes the place of a maker's, or stands beside it: what a machine is once it was written, and what writing it costs.
/// </summary>
/// <param name="Id">A value of the choice <c>plan.firmware</c>: <c>full</c> or <c>keep</c>.</param>
/// <param name="Name">What it is, as a technician calls it.</param>
/// <param name="Kind">How a machine with it starts: a value of the fact <c>firmware.kind</c>.</param>
/// <param name="BootMenu">How its boot menu is opened.</param>
/// <param name="Setup">How its settings are opened; null where it has none.</param>
public sealed record PayloadEntry(string Id, string Name, string Kind, string BootMenu, string? Setup)
{
    /// <summary>The id of the one that replaces the maker's; every other stands beside it.</summary>
    public const string Full = "full";

    /// <summary>What is lost or different with it.</summary>
    public IReadOnlyList<SideEffect> Adds { get; init; } = [];

    /// <summary>Minutes of work to write it, installation of a system not counted.</summary>
    public int HandsOnMinutes { get; init; }

    /// <summary>Minutes of waiting.</summary>
    public int WaitMinutes { get; init; }

    /// <summary>How often it fails and has to be given up, in thousandths.</summary>
    public int FailPerMille { get; init; }

    /// <summary>How often it does harm, in thousandths.</summary>
    public int HarmPerMille { get; init; }

    /// <summary>The facts of a machine once it was written: nothing of the maker's menus, keys and protections is left of those.</summary>
    public IReadOnlyDictionary<string, FactValue> Leaves =>
        new Dictionary<string, FactValue>(StringComparer.Ordinal)
        {
            ["firmware.kind"] = FactValue.Of(Kind),
            ["firmware.startedBy"] = FactValue.Of(Kind == "bios" ? "bios" : "uefi"),
            ["firmware.secureBoot"] = FactValue.Of("absent"),
            ["firmware.usbStart"] = FactValue.Of("yes"),
            ["firmware.payload"] = FactValue.Of(Id),
        };
}

/// <summary>A board for which replacement firmware is proved. A board that is not listed is not flashed.</summary>
/// <param name="Id">Board name as the machine reports it.</param>
/// <param name="Name">The machines that have it.</param>
/// <param name="Protection">How it is protected.</param>
/// <param name="Payload">What the replacement is.</param>
public sealed record BoardEntry(string Id, string Name, WriteProtection Protection, string Payload)
{
    /// <summary>Generations of the processor for which it is proved, since one board name stands for several; none for any.</summary>
    public IReadOnlyList<string> Generations { get; init; } = [];

    /// <summary>Revisions, as they are printed on the board, for which it is proved; none for any.</summary>
    public IReadOnlyList<string> Revisions { get; init; } = [];

    /// <summary>Size of its firmware chip in bytes; 0 where nobody noted it.</summary>
    public long ChipBytes { get; init; }

    /// <summary>Areas of the chip that stay whatever is written: serial numbers, network address, what was measured at the factory.</summary>
    public IReadOnlyList<string> Keeps { get; init; } = [];

    /// <summary>
    /// The schools that are proved on it, by the ids of <see cref="PayloadEntry"/>: <c>full</c>, and <c>keep</c> where legacy boot can be
    /// added to the maker's own.
    /// </summary>
    public IReadOnlyList<string> Payloads { get; init; } = [PayloadEntry.Full];

    /// <summary>The hardware id that is set before anything is written, where the board asks for one; null where it does not.</summary>
    public string? HardwareId { get; init; }

    /// <summary>What is seen when the new firmware has started; null where nobody wrote it down.</summary>
    public string? Sign { get; init; }

    /// <summary>What writing a payload changes, and what it costs.</summary>
    public Cure CureBy(PayloadEntry payload) =>
        new(
            CureId(payload.Id),
            Outcome.Reflash,
            Rung.Firmware,
            payload.Id == PayloadEntry.Full
                ? $"Replace the firmware of the board {Id} with {Payload}"
                : $"Write {payload.Name} onto the chip of the board {Id}",
            Needs: new Condition.All([
                new Condition.OneOf("identity.board", [FactValue.Of(Id)], []),
                new Condition.OneOf("firmware.kind", [FactValue.Of("locked")], []),
                .. Generations.Count == 0
                    ? Array.Empty<Condition>()
                    : [new Condition.OneOf("cpu.generation", [.. Generations.Select(FactValue.Of)], [])],
            ]),
            Sets: payload.Leaves,
            Adds: payload.Adds,
            HandsOnMinutes: payload.HandsOnMinutes,
            WaitMinutes: payload.WaitMinutes,
            How: "The steps of the run sheet stand in the only order that is safe.",
            Caution: "The owner must have given leave and enabled the unlocked start. Mains power on while the chip is written.",
            Brief: $"Reflash the {Id} board"
        )
        {
            RunsOn = RunsOn.Outgoing,
            FailPerMille = payload.FailPerMille,
            HarmPerMille = payload.HarmPerMille,
            Board = Id,
            Payload = payload.Id,
            Conflicts = [.. Payloads.Where(other => other != payload.Id).Select(CureId)],
        };

    /// <summary>Id of the cure that writes a payload onto it.</summary>
    public string CureId(string payload) =>
        payload == PayloadEntry.Full
            ? $"reflash-{Id.ToLowerInvariant()}"
            : $"reflash-{Id.ToLowerInvariant()}-{payload}";
}
