namespace FreshBoot.Data.Parts;

/// <summary>A salvaged part on the shelf.</summary>
public sealed class PartRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; } = 1;

    /// <summary>Its kind, such as <c>memory</c>.</summary>
    public required string Kind { get; set; }

    /// <summary>What it is, in words.</summary>
    public required string About { get; set; }

    /// <summary>For memory its type, such as <c>DDR4 SO-DIMM</c>.</summary>
    public string? Type { get; set; }

    /// <summary>For memory its size in MiB.</summary>
    public int? SizeMiB { get; set; }

    /// <summary>For drives its size in bytes.</summary>
    public long? SizeBytes { get; set; }

    /// <summary>Where it came from: a tag, or words.</summary>
    public required string From { get; set; }

    /// <summary><c>untested</c>, <c>passed</c> or <c>failed</c>.</summary>
    public required string Test { get; set; }

    /// <summary>Tag of the machine that it is kept for.</summary>
    public string? ReservedFor { get; set; }

    /// <summary>Tag of the machine that it went into; it is not on the shelf any more.</summary>
    public string? FittedIn { get; set; }

    /// <summary>Who changed it last.</summary>
    public required string By { get; set; }

    /// <summary>When it was changed last.</summary>
    public required DateTimeOffset At { get; set; }
}
