namespace FreshBoot.Data.Media;

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

    /// <summary><c>blank</c>, <c>writing</c>, <c>ready</c>, <c>unusable</c>, or <c>unknown</c> after a restore.</summary>
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
