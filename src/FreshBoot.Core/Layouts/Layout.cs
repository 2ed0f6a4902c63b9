using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Layouts;

/// <summary>How a drive is divided.</summary>
[JsonConverter(typeof(CamelCaseNames<PartitionScheme>))]
public enum PartitionScheme
{
    /// <summary>A GUID partition table (UEFI 2.10, chapter 5).</summary>
    Gpt,

    /// <summary>A master boot record: four entries of 32 bits.</summary>
    Mbr,
}

/// <summary>What a partition is for.</summary>
[JsonConverter(typeof(CamelCaseNames<PartitionUse>))]
public enum PartitionUse
{
    /// <summary>The EFI system partition.</summary>
    Efi,

    /// <summary>Where a loader for legacy BIOS keeps its core on a GPT.</summary>
    BiosBoot,

    /// <summary>Kernels and the loader's files, apart from the system.</summary>
    Boot,

    /// <summary>The system.</summary>
    System,

    /// <summary>What the person keeps.</summary>
    Home,

    /// <summary>Memory on the drive.</summary>
    Swap,

    /// <summary>Data that several systems share.</summary>
    Data,

    /// <summary>What the system is set up from again.</summary>
    Recovery,

    /// <summary>Another system that stays.</summary>
    Kept,

    /// <summary>The container of logical partitions (MBR).</summary>
    Extended,
}

/// <summary>What is made in a partition.</summary>
[JsonConverter(typeof(CamelCaseNames<FileSystemKind>))]
public enum FileSystemKind
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>FAT32, which firmware reads.</summary>
    Fat32,

    /// <summary>ext4.</summary>
    Ext4,

    /// <summary>Swap.</summary>
    Swap,
}

/// <summary>A partition of a layout.</summary>
/// <param name="Number">Its number in the table; logical partitions of an MBR count from 5.</param>
/// <param name="Use">What it is for.</param>
/// <param name="Type">MBR: two hexadecimal digits; GPT: its type GUID.</param>
/// <param name="StartLba">Its first sector.</param>
/// <param name="SizeLba">Its length in sectors.</param>
/// <param name="Why">Why it is there, and why as large as it is.</param>
public sealed record LayoutPartition(
    int Number,
    PartitionUse Use,
    string Type,
    long StartLba,
    long SizeLba,
    string Why = ""
)
{
    /// <summary>What is made in it: the one value from which type, script, mount table and words come.</summary>
    public FileSystemKind FileSystem { get; init; } = PartitionForms.Of(Use, board: false).FileSystem;

    /// <summary>Whether that lies within a LUKS2 volume.</summary>
    public bool Encrypted { get; init; }

    /// <summary>The first sector behind it.</summary>
    [JsonIgnore]
    public long EndLba => StartLba + SizeLba;
}

/// <summary>Something to know of a layout.</summary>
/// <param name="Outcome">Caveat or unknown where it is less than clear.</param>
/// <param name="Text">In words.</param>
public sealed record LayoutNote(Outcome Outcome, string Text);

/// <summary>A drive divided.</summary>
/// <param name="Scheme">How.</param>
/// <param name="SchemeWhy">Why so.</param>
/// <param name="SectorBytes">Bytes of a logical sector: 512 or 4096.</param>
/// <param name="Sectors">Sectors of the drive.</param>
/// <param name="Partitions">Its partitions, in the order of their places; an extended one stands before what it holds.</param>
/// <param name="Reach">How far the firmware reaches.</param>
/// <param name="Notes">What to know.</param>
public sealed record Layout(
    PartitionScheme Scheme,
    string SchemeWhy,
    int SectorBytes,
    long Sectors,
    IReadOnlyList<LayoutPartition> Partitions,
    Reach Reach,
    IReadOnlyList<LayoutNote> Notes
);

/// <summary>How much of something is wished: not at all, as much as fits, or so many bytes.</summary>
/// <param name="Wanted">Whether it is.</param>
/// <param name="Bytes">How much; null leaves it to the planner.</param>
public readonly record struct Share(bool Wanted, long? Bytes = null)
{
    /// <summary>As much as fits.</summary>
    public static Share Yes { get; } = new(true);
}

/// <summary>What people wish of a layout.</summary>
/// <param name="Home">What the person keeps stands apart from the system.</param>
/// <param name="Data">A partition for data beside it.</param>
/// <param name="Recovery">Room to set the system up from again.</param>
/// <param name="Keep">Another system stays where it is, at the beginning of the drive.</param>
/// <param name="Sleep">It shall sleep to disk.</param>
/// <param name="Encrypt">Whether the system is encrypted.</param>
public sealed record LayoutWishes(
    Share Home = default,
    Share Data = default,
    Share Recovery = default,
    Share Keep = default,
    bool Sleep = false,
    bool Encrypt = false
);

/// <summary>Sizes that the planner uses, in MiB. They are a matter of the trade; the tests use tiny ones.</summary>
/// <param name="Efi">EFI system partition.</param>
/// <param name="EfiSmall">The same on a drive of less than <paramref name="SmallDrive"/>.</param>
/// <param name="EfiLargeSectors">The least with sectors of 4096 bytes: FAT32 has at least 65,525 clusters, one sector each.</param>
/// <param name="Boot">Kernels and loader apart from the system.</param>
/// <param name="BootLeast">The least that holds two kernels.</param>
/// <param name="Recovery">Room for the installer and its image.</param>
/// <param name="SystemComfort">What a system is given where something else takes the rest.</param>
/// <param name="HomeLeast">Less is no use as a partition of its own.</param>
/// <param name="SmallDrive">Drives below it are divided sparingly.</param>
public sealed record LayoutSizes(
    long Efi = 512,
    long EfiSmall = 100,
    long EfiLargeSectors = 300,
    long Boot = 1024,
    long BootLeast = 200,
    long Recovery = 8192,
    long SystemComfort = 65_536,
    long HomeLeast = 512,
    long SmallDrive = 30_000
);

/// <summary>What a layout is planned for.</summary>
/// <param name="DriveBytes">Bytes of the drive.</param>
/// <param name="SectorBytes">Bytes of a logical sector: 512 or 4096.</param>
/// <param name="Firmware">Its firmware, as <c>firmware.kind</c> says it; null while unknown.</param>
/// <param name="Reach">How far that reaches.</param>
/// <param name="MemoryMiB">Memory; null while unknown.</param>
/// <param name="SystemBytes">What the system asks for.</param>
/// <param name="System">The system's name, for the reasons.</param>
/// <param name="Wishes">What people wish.</param>
/// <param name="Scheme">The scheme that somebody chose; null leaves it to the rules.</param>
public sealed record LayoutAsk(
    long DriveBytes,
    int SectorBytes,
    string? Firmware,
    Reach Reach,
    long? MemoryMiB,
    long SystemBytes,
    string System,
    LayoutWishes Wishes,
    PartitionScheme? Scheme = null
)
{
    /// <summary>How the system's drive is encrypted; null where nobody wrote it down.</summary>
    public DriveEncryption? Encryption { get; init; }

    /// <summary>Sizes of the trade.</summary>
    public LayoutSizes Sizes { get; init; } = new();
}

/// <summary>Thrown where two wishes cannot both be met. It says which, and by how much.</summary>
/// <param name="what">One sentence.</param>
/// <param name="one">A wish, by its name in the request.</param>
/// <param name="other">What it collides with.</param>
/// <param name="shortBytes">How many bytes are missing; null where more of it alone does not help.</param>
/// <param name="wanted">What would do.</param>
public sealed class LayoutCollisionException(string what, string one, string other, long? shortBytes, string wanted)
    : RefusedException(RefusalKind.Impossible, what, $"{one}, {other}", wanted)
{
    /// <summary>The two that collide.</summary>
    public IReadOnlyList<string> Collides { get; } = [one, other];

    /// <summary>
    /// How many bytes are missing: so many more of the drive, or of the reach where that is named, make it fit. Null where more of it
    /// alone does not help, as where half of whatever drive stays as it is.
    /// </summary>
    public long? ShortBytes { get; } = shortBytes;

    /// <summary>The same with another number of missing bytes.</summary>
    internal LayoutCollisionException Short(long? bytes) =>
        new(Refusal.What, Collides[0], Collides[1], bytes, Refusal.Wanted);
}
