namespace FreshBoot.Data;

/// <summary>An installer image on the shelf; its bytes lie in the folder of images under its id.</summary>
public sealed class ImageRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; } = 1;

    /// <summary>Its file name.</summary>
    public required string Name { get; set; }

    /// <summary>Id of the system it installs; null where nobody said.</summary>
    public string? System { get; set; }

    /// <summary>Its build.</summary>
    public string? Build { get; set; }

    /// <summary>Where it came from.</summary>
    public string From { get; set; } = "";

    /// <summary><c>maker</c>, <c>community</c>, <c>thirdParty</c> or <c>ownBuild</c>.</summary>
    public required string Trust { get; set; }

    /// <summary>Notes.</summary>
    public string Notes { get; set; } = "";

    /// <summary>Size that was announced, in bytes.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>Bytes that have reached the disk.</summary>
    public long Received { get; set; }

    /// <summary>SHA-256 of the whole, hexadecimal; null while it is not whole.</summary>
    public string? Sha256 { get; set; }

    /// <summary>The image that it was patched from.</summary>
    public int? Parent { get; init; }

    /// <summary>What was patched, as JSON; null for an image as it came.</summary>
    public string? Manifest { get; init; }

    /// <summary>Whether the patch was undone: the file is gone, the record stays.</summary>
    public bool Undone { get; set; }

    /// <summary>Who put it there.</summary>
    public required string By { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>A line of a checksum list.</summary>
public sealed class ChecksumRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>File name.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256, hexadecimal.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Where the list came from.</summary>
    public required string From { get; init; }

    /// <summary>When it was read.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>A version of a recipe that was written in this shop.</summary>
public sealed class RecipeRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Id of the recipe.</summary>
    public required string RecipeId { get; init; }

    /// <summary>1 for the first.</summary>
    public required int Version { get; init; }

    /// <summary>The recipe as JSON.</summary>
    public required string Recipe { get; init; }

    /// <summary>Who wrote it.</summary>
    public required string By { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>A medium on the shelf.</summary>
public sealed class MediumRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; } = 1;

    /// <summary>What is written on it: its label.</summary>
    public required string Label { get; set; }

    /// <summary>Its kind, as <see cref="Core.Media.MediumKind"/>.</summary>
    public required string Kind { get; init; }

    /// <summary>Size that it claims, in bytes.</summary>
    public required long SizeBytes { get; set; }

    /// <summary>Size that a test found; null while none was made.</summary>
    public long? TrueBytes { get; set; }

    /// <summary>USB generation.</summary>
    public int UsbGeneration { get; init; }

    /// <summary>How fast it writes.</summary>
    public long WriteBytesPerSecond { get; init; }

    /// <summary>How fast it reads.</summary>
    public long ReadBytesPerSecond { get; init; }

    /// <summary><c>blank</c>, <c>writing</c>, <c>ready</c> or <c>unusable</c>.</summary>
    public required string State { get; set; }

    /// <summary>Why it is in this state.</summary>
    public string Says { get; set; } = "";

    /// <summary>The image on it.</summary>
    public int? ImageId { get; set; }

    /// <summary>When what is on it was read back and found right.</summary>
    public DateTimeOffset? VerifiedAt { get; set; }

    /// <summary>What is wrong with a simulated one, as JSON.</summary>
    public required string Faults { get; init; }

    /// <summary>When it changed last.</summary>
    public required DateTimeOffset At { get; set; }
}

/// <summary>A piece of long work.</summary>
public sealed class JobRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>What it does: <c>patch</c>, <c>twin</c>, <c>write</c>, <c>capacity</c>, <c>take</c>.</summary>
    public required string Kind { get; init; }

    /// <summary>What it is about, in words.</summary>
    public required string About { get; init; }

    /// <summary>The machine it belongs to; null for none.</summary>
    public string? Tag { get; init; }

    /// <summary>The image it belongs to; null for none.</summary>
    public int? ImageId { get; init; }

    /// <summary>The medium it belongs to; null for none.</summary>
    public int? MediumId { get; init; }

    /// <summary><c>queued</c>, <c>running</c>, <c>done</c>, <c>failed</c>, <c>cancelled</c> or <c>interrupted</c>.</summary>
    public required string State { get; set; }

    /// <summary>What came of it, in a sentence.</summary>
    public string Says { get; set; } = "";

    /// <summary>Its result as JSON.</summary>
    public string? Result { get; set; }

    /// <summary>Who asked for it.</summary>
    public required string By { get; init; }

    /// <summary>When it was asked for.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>When it ended.</summary>
    public DateTimeOffset? EndedAt { get; set; }
}
