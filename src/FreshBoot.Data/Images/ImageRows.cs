namespace FreshBoot.Data.Images;

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

    /// <summary>The last day on which it can be fetched there; null where none is said.</summary>
    public DateOnly? SourceUntil { get; set; }

    /// <summary><c>maker</c>, <c>community</c>, <c>thirdParty</c> or <c>own</c>.</summary>
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

    /// <summary>The file that is being put to its place; null while nothing is under way.</summary>
    public string? Placing { get; set; }

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
