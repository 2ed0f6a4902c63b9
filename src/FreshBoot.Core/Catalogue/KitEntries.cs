using System.Text.Json.Serialization;

namespace FreshBoot.Core.Catalogue;

/// <summary>What a component of a boot kit is.</summary>
[JsonConverter(typeof(CamelCaseNames<KitPart>))]
public enum KitPart
{
    /// <summary>What the firmware starts: it lists the systems and loads the rest.</summary>
    BootManager,

    /// <summary>Reads a file system that the firmware does not.</summary>
    FileSystem,

    /// <summary>Keeps the firmware's memory where the system does not look for it.</summary>
    Runtime,

    /// <summary>What the other components hook into.</summary>
    BaseShim,

    /// <summary>Answers in the place of the maker's system controller.</summary>
    Controller,

    /// <summary>Graphics.</summary>
    Graphics,

    /// <summary>Sound, by its codec's layout.</summary>
    Audio,

    /// <summary>Network, by its chip.</summary>
    Network,

    /// <summary>Keyboard, pointer, touch.</summary>
    Input,

    /// <summary>Power tables by processor generation.</summary>
    PowerTable,
}

/// <summary>Which of the two sets of power tables a machine takes.</summary>
[JsonConverter(typeof(CamelCaseNames<PowerTableKind>))]
public enum PowerTableKind
{
    /// <summary>Of a desktop processor.</summary>
    Desktop,

    /// <summary>Of a mobile processor, in a laptop or a small desktop.</summary>
    Mobile,
}

/// <summary>Something that is found by trial: one value after the other until the hint holds.</summary>
/// <param name="Key">The key of the configuration that takes the value.</param>
/// <param name="Values">The values, in the order in which they are tried.</param>
/// <param name="Hint">What is seen when one is right.</param>
public sealed record KitTrial(string Key, IReadOnlyList<int> Values, string Hint);

/// <summary>A component of boot kits. Lists that are empty leave nothing out.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Part">What it is.</param>
/// <param name="Version">The version that is proved.</param>
/// <param name="File">Where it lies in the kit, below its folder.</param>
public sealed record KitComponent(string Id, string Name, KitPart Part, string Version, string File)
{
    /// <summary>The least version of the tool that makes the kit; null for any.</summary>
    public string? Tool { get; init; }

    /// <summary>Processor generations that it is for.</summary>
    public IReadOnlyList<string> Generations { get; init; } = [];

    /// <summary>Set of power tables that it is for; null for both.</summary>
    public PowerTableKind? Table { get; init; }

    /// <summary>Ids of devices that it is for.</summary>
    public IReadOnlyList<string> Chips { get; init; } = [];

    /// <summary>Kinds of firmware that it is for, in the words of <c>firmware.kind</c>.</summary>
    public IReadOnlyList<string> Firmwares { get; init; } = [];

    /// <summary>Systems that it is for.</summary>
    public IReadOnlyList<string> Systems { get; init; } = [];

    /// <summary>The first build of its systems that it fits; 0 for every one.</summary>
    public int LeastBuild { get; init; }

    /// <summary>The last build of its systems that it fits; 0 for every one.</summary>
    public int MostBuild { get; init; }

    /// <summary>Components that it needs; they load before it.</summary>
    public IReadOnlyList<string> Needs { get; init; } = [];

    /// <summary>Components that it cannot stand beside.</summary>
    public IReadOnlyList<string> Excludes { get; init; } = [];

    /// <summary>Components that load before it where both are there.</summary>
    public IReadOnlyList<string> After { get; init; } = [];

    /// <summary>What is found by trial; null for nothing.</summary>
    public KitTrial? Trial { get; init; }

    /// <summary>Samples that come with it and are taken out.</summary>
    public IReadOnlyList<string> Samples { get; init; } = [];
}

/// <summary>A quirk of the configuration: a key that some firmware needs, and other must not have.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Key">The key.</param>
/// <param name="Why">Why.</param>
public sealed record KitQuirk(string Id, string Key, string Why)
{
    /// <summary>Makers whose firmware needs it.</summary>
    public IReadOnlyList<string> Needed { get; init; } = [];

    /// <summary>Makers whose firmware must not have it.</summary>
    public IReadOnlyList<string> Never { get; init; } = [];
}

/// <summary>What somebody had running on a board, with which build, and what did not work.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Board">Name of the board.</param>
/// <param name="System">Id of the system.</param>
/// <param name="Build">The build.</param>
/// <param name="Evidence">Where it is known from.</param>
public sealed record KitProfile(string Id, string Board, string System, int Build, Evidence Evidence)
{
    /// <summary>Settings that were proved, by key.</summary>
    public IReadOnlyDictionary<string, int> Settings { get; init; } =
        new Dictionary<string, int>(StringComparer.Ordinal);

    /// <summary>What works.</summary>
    public IReadOnlyList<string> Works { get; init; } = [];

    /// <summary>What does not.</summary>
    public IReadOnlyList<string> WorksNot { get; init; } = [];
}

/// <summary>Something that is patched in the running system after its first start, and again after an update took it away.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Does">What is done, as an instruction without a full stop.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="Sign">What is seen when it is needed.</param>
/// <param name="Chips">Ids of the devices that it is for.</param>
/// <param name="Systems">The systems that it is for.</param>
public sealed record AfterPatch(
    string Id,
    string Does,
    int Minutes,
    string Sign,
    IReadOnlyList<string> Chips,
    IReadOnlyList<string> Systems
);

/// <summary>What a system asks of a boot kit.</summary>
/// <param name="Build">The build that the catalogue's components are for.</param>
/// <param name="Parts">The parts without which it does not start.</param>
/// <param name="LeastGraphics">The least graphics class for which there is any driver.</param>
/// <param name="Lacks">What is missing on a machine that is not its maker's, said before.</param>
/// <param name="SteppingStone">A system that goes on first where its newest needs it; null for none.</param>
/// <param name="SteppingWhy">Why.</param>
public sealed record SystemKit(
    int Build,
    IReadOnlyList<KitPart> Parts,
    int LeastGraphics,
    IReadOnlyList<string> Lacks,
    string? SteppingStone,
    string? SteppingWhy
)
{
    /// <summary>Its own maker, whose machines bring most of it; null where it has none.</summary>
    public string? OwnMaker { get; init; }

    /// <summary>Minutes of care that a kit asks for in a year: building it anew, patching again after updates.</summary>
    public int CareMinutesPerYear { get; init; }

    /// <summary>The parts that a machine of its own maker wants.</summary>
    public IReadOnlyList<KitPart> OwnParts { get; init; } = [];
}
