namespace FreshBoot.Data.Jobs;

/// <summary>A piece of long work.</summary>
public sealed class JobRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>What it does.</summary>
    public required JobKind Kind { get; init; }

    /// <summary>What it is about, in words.</summary>
    public required string About { get; init; }

    /// <summary>The machine it belongs to; null for none.</summary>
    public string? Tag { get; init; }

    /// <summary>The image it belongs to; null for none.</summary>
    public int? ImageId { get; init; }

    /// <summary>The medium it belongs to; null for none.</summary>
    public int? MediumId { get; init; }

    /// <summary>How it stands.</summary>
    public required JobState State { get; set; }

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
