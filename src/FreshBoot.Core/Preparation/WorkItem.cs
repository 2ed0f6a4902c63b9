using System.Text.Json.Serialization;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Media;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Preparation;

/// <summary>What is made ready.</summary>
[JsonConverter(typeof(CamelCaseNames<WorkItemKind>))]
public enum WorkItemKind
{
    /// <summary>The installer image as it will be started.</summary>
    Image,

    /// <summary>A recipe, applied to the image.</summary>
    Recipe,

    /// <summary>An answer file, applied to the image.</summary>
    Answers,

    /// <summary>The identity that the machine takes.</summary>
    Identity,

    /// <summary>The stick, card or disc that it is started from.</summary>
    Medium,

    /// <summary>How its drive is divided.</summary>
    Layout,

    /// <summary>The switches of its firmware, in the order in which they are turned.</summary>
    Switches,

    /// <summary>Its firmware chip, ready to be written.</summary>
    Chip,

    /// <summary>The boot kit that it is started with.</summary>
    Kit,
}

/// <summary>How a work item stands.</summary>
[JsonConverter(typeof(CamelCaseNames<WorkItemState>))]
public enum WorkItemState
{
    /// <summary>It is made, and from what the plan says now.</summary>
    Ready,

    /// <summary>It was made, and something under it has changed since.</summary>
    Stale,

    /// <summary>Nobody has made it yet.</summary>
    Missing,
}

/// <summary>What is to be done next about a work item.</summary>
[JsonConverter(typeof(CamelCaseNames<WorkAction>))]
public enum WorkAction
{
    /// <summary>Bring an image onto the shelf.</summary>
    BringImage,

    /// <summary>Have the recipe made that the route needs.</summary>
    MakeRecipe,

    /// <summary>Apply a recipe to an image.</summary>
    ApplyRecipe,

    /// <summary>Build an answer file.</summary>
    BuildAnswers,

    /// <summary>Build a trim plan.</summary>
    BuildTrim,

    /// <summary>Write the image onto a medium.</summary>
    WriteMedium,

    /// <summary>Look at the layout of the drive, and change its wishes.</summary>
    PlanLayout,

    /// <summary>Look at the order in which the firmware's switches are turned.</summary>
    PlanSwitches,

    /// <summary>Go to the chip on the bench.</summary>
    WorkOnChip,

    /// <summary>Choose a donor, and give the machine an identity.</summary>
    GiveIdentity,

    /// <summary>Build the boot kit.</summary>
    BuildKit,

    /// <summary>Put the boot kit on the installer's image: one image with both.</summary>
    PutKit,
}

/// <summary>The one next action of a work item.</summary>
/// <param name="Action">What is done.</param>
/// <param name="Says">The same in words.</param>
/// <param name="ImageId">The image that it is done to.</param>
/// <param name="Recipe">The recipe that it is done with.</param>
public sealed record WorkNext(WorkAction Action, string Says, int? ImageId = null, string? Recipe = null);

/// <summary>Something that a work item was made from.</summary>
/// <param name="What">What it is: <c>image</c>, <c>recipe</c>, <c>dossier</c>, <c>donor</c>.</param>
/// <param name="Value">Exactly which: a SHA-256, a version.</param>
public sealed record MadeFrom(string What, string Value);

/// <summary>Something that a route needs made before the work begins.</summary>
/// <param name="Id">Its id, the same for as long as the plan needs it; run steps name it.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Rung">The rung where it belongs.</param>
/// <param name="Title">What it is called.</param>
/// <param name="State">How it stands.</param>
/// <param name="Says">Why it stands so; of a stale one what has changed.</param>
/// <param name="Needed">Whether the work cannot begin without it.</param>
/// <param name="From">What it was made from.</param>
/// <param name="Next">What to do about it; null where nothing is.</param>
/// <param name="Evidence">Starts that were seen, the latest first; each says whether it is evidence for this item.</param>
/// <param name="ImageId">The image on the shelf that it is, or lies on it.</param>
/// <param name="MediumId">The medium that it is.</param>
public sealed record WorkItem(
    string Id,
    WorkItemKind Kind,
    Rung Rung,
    string Title,
    WorkItemState State,
    string Says,
    bool Needed,
    IReadOnlyList<MadeFrom> From,
    WorkNext? Next,
    IReadOnlyList<RehearsalSeen> Evidence,
    int? ImageId = null,
    int? MediumId = null
)
{
    /// <summary>Its size in bytes; of a medium, that of the image that goes onto it. 0 where nobody knows.</summary>
    public long Bytes { get; init; }

    /// <summary>The build that it installs; null where nobody said, or where it installs nothing.</summary>
    public string? Build { get; init; }

    /// <summary>How long a medium takes to be written and read back; null where it holds it already.</summary>
    public WriteTimes? Writes { get; init; }

    /// <summary>
    /// What is not real about it, in a sentence, and what a person can really use; null where all of it is. The image to download is
    /// <see cref="ImageId"/>, its SHA-256 stands under <see cref="From"/>.
    /// </summary>
    public string? Simulated { get; init; }

    /// <summary>Whether it is an answer file that passes over the page which asks for an account: it makes a local one itself.</summary>
    public bool PassesAccount { get; init; }

    /// <summary>The first step that uses it: it has to be ready by then, for the machine as it is by then; null where none does.</summary>
    public WorkStep? For { get; init; }

    /// <summary>Whether work that uses it may begin.</summary>
    public bool Holds => State == WorkItemState.Ready || !Needed;
}

/// <summary>A step that uses a work item.</summary>
/// <param name="Number">Its place on the main way of the sheet, from 1.</param>
/// <param name="Id">Its id.</param>
/// <param name="Text">What it says.</param>
public sealed record WorkStep(int Number, string Id, string Text);

/// <summary>A recipe that was applied to an image on the shelf.</summary>
/// <param name="Id">The recipe.</param>
/// <param name="Version">Its version then.</param>
/// <param name="Sha256">SHA-256 of the recipe then; null where nobody noted it.</param>
public sealed record AppliedRecipe(string Id, int Version, string? Sha256);

/// <summary>An image on the shelf.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="System">The system that it installs; null where nobody said.</param>
/// <param name="Build">Its build.</param>
/// <param name="Sha256">SHA-256 of its bytes.</param>
/// <param name="Parent">The image that it was patched from; null for one as it came.</param>
/// <param name="Applied">The recipe that made it from its parent.</param>
/// <param name="Seen">What was found on it.</param>
public sealed record ShelfImage(
    int Id,
    string Name,
    string? System,
    string? Build,
    string Sha256,
    int? Parent,
    AppliedRecipe? Applied,
    Inspection Seen
);

/// <summary>A recipe in the book, in its version in force.</summary>
public sealed record ShelfRecipe(Recipe Recipe, int Version);

/// <summary>A medium on the shelf.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Label">What is written on it.</param>
/// <param name="IsDisc">Whether it is a disc; else it is started as a stick.</param>
/// <param name="Ready">Whether it was written to the end, read back and found right.</param>
/// <param name="Says">How it stands.</param>
/// <param name="ImageId">The image on it.</param>
/// <param name="Facts">How large and how quick it is; null where nobody knows.</param>
/// <param name="Simulated">Whether it is a stand-in: nothing of it is on a real stick or disc.</param>
public sealed record ShelfMedium(
    int Id,
    string Label,
    bool IsDisc,
    bool Ready,
    string Says,
    int? ImageId,
    MediumFacts? Facts = null,
    bool Simulated = false
)
{
    /// <summary>What is said of a medium that is a stand-in, wherever it is named.</summary>
    public const string SimulatedSays =
        "Simulated: nothing was written to a real stick or disc. To write one, download the image and check its SHA-256.";
}

/// <summary>A boot kit on the shelf.</summary>
/// <param name="Id">Its id.</param>
/// <param name="System">The system that it is for.</param>
/// <param name="Sha256">SHA-256 of its archive.</param>
/// <param name="From">What it was built from.</param>
/// <param name="Findings">How much is wrong with it.</param>
public sealed record ShelfKit(int Id, string? System, string Sha256, string? From, int Findings);

/// <summary>What lies on the shelf that work items are made of.</summary>
/// <param name="Images">The images that are whole.</param>
/// <param name="Recipes">The recipes.</param>
/// <param name="Media">Sticks, cards and discs.</param>
/// <param name="Rehearsals">Starts in the twin of this machine, the latest first.</param>
public sealed record WorkShelf(
    IReadOnlyList<ShelfImage> Images,
    IReadOnlyList<ShelfRecipe> Recipes,
    IReadOnlyList<ShelfMedium> Media,
    IReadOnlyList<RehearsalRecord> Rehearsals
)
{
    /// <summary>The boot kits that were built for the machine, the latest first.</summary>
    public IReadOnlyList<ShelfKit> Kits { get; init; } = [];

    /// <summary>The machine's firmware chip; null where it is not on the bench.</summary>
    public ChipState? Chip { get; init; }
}
