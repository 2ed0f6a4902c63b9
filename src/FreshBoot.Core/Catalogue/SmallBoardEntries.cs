namespace FreshBoot.Core.Catalogue;

/// <summary>A port of a small board.</summary>
/// <param name="Name">How it is found.</param>
/// <param name="FirstStage">Whether the first stage, before any system, starts from it.</param>
/// <param name="Advice">What it is good for.</param>
public sealed record BoardPort(string Name, bool FirstStage, string? Advice);

/// <summary>A key of a small board's text of settings.</summary>
/// <param name="Key">The key.</param>
/// <param name="About">What it does.</param>
/// <param name="Unit">Its unit; null for none.</param>
public sealed record BoardKey(string Key, string About, string? Unit)
{
    /// <summary>The least value that the board takes; null where it is no number.</summary>
    public int? Least { get; init; }

    /// <summary>The largest value that the board takes.</summary>
    public int? Most { get; init; }

    /// <summary>The value that it runs with when nothing is set.</summary>
    public int? Usual { get; init; }

    /// <summary>The value from which it wants cooling; null where heat is no matter.</summary>
    public int? HeatFrom { get; init; }

    /// <summary>The value from which it wants the large supply.</summary>
    public int? SupplyFrom { get; init; }

    /// <summary>Words that it takes, where it is no number; empty for any.</summary>
    public IReadOnlyList<string> Words { get; init; } = [];
}

/// <summary>A build of a system that somebody had running on a small board.</summary>
/// <param name="System">The system.</param>
/// <param name="Build">The build; 0 where any will do.</param>
/// <param name="Evidence">Where it is known from.</param>
public sealed record BoardBuild(string System, int Build, Evidence Evidence);

/// <summary>A fault that is known of a first start.</summary>
/// <param name="Sees">What one sees.</param>
/// <param name="Commands">What is typed, line by line.</param>
/// <param name="Then">What is done afterwards.</param>
public sealed record BoardFault(string Sees, IReadOnlyList<string> Commands, string Then);

/// <summary>A small board: one that starts from a card or drive with an image made for it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Maker and model.</param>
/// <param name="SupplyMilliamps">What its supply has to give at 5 V.</param>
/// <param name="LargeSupplyMilliamps">What it wants with a high clock or a drive at its ports.</param>
/// <param name="AssembleMinutes">How long its image takes to be put together on another computer.</param>
public sealed record SmallBoard(
    string Id,
    string Name,
    int SupplyMilliamps,
    int LargeSupplyMilliamps,
    int AssembleMinutes
)
{
    /// <summary>A regular expression over "maker model".</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public System.Text.RegularExpressions.Regex? Pattern { get; init; }

    /// <summary>The filters of its settings that apply to it, beside those without a name.</summary>
    public IReadOnlyList<string> Filters { get; init; } = [];

    /// <summary>Its ports.</summary>
    public IReadOnlyList<BoardPort> Ports { get; init; } = [];

    /// <summary>What to put the system on, the best first.</summary>
    public IReadOnlyList<string> Storage { get; init; } = [];

    /// <summary>Memory that it shows from the factory, in MiB; 0 where it shows all of it.</summary>
    public int CapMiB { get; init; }

    /// <summary>Where the cap is lifted; null where there is none.</summary>
    public string? CapMenu { get; init; }

    /// <summary>The keys of its text of settings.</summary>
    public IReadOnlyList<BoardKey> Keys { get; init; } = [];

    /// <summary>Builds that somebody had running on it.</summary>
    public IReadOnlyList<BoardBuild> Builds { get; init; } = [];

    /// <summary>A fault that is known of its first start; null for none.</summary>
    public BoardFault? Fault { get; init; }

    /// <summary>Drivers that are added from another computer, the old one taken out first; null for none.</summary>
    public string? Drivers { get; init; }
}
