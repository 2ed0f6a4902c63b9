namespace FreshBoot.Data.Intake;

/// <summary>A photo of a machine.</summary>
public sealed class PhotoRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>SHA-256 of its bytes, hexadecimal.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Its media type.</summary>
    public required string MediaType { get; init; }

    /// <summary>Its size.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>Width in pixels.</summary>
    public required int Width { get; init; }

    /// <summary>Height in pixels.</summary>
    public required int Height { get; init; }

    /// <summary>What it shows.</summary>
    public required string Note { get; init; }

    /// <summary>Who took it.</summary>
    public required string By { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>A bundle that came without a tag.</summary>
public sealed class ArrivalRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>SHA-256 of the bundle, hexadecimal.</summary>
    public required string Sha256 { get; init; }

    /// <summary>The name it came under.</summary>
    public required string Name { get; init; }

    /// <summary>Maker and model, as the bundle says.</summary>
    public required string Model { get; init; }

    /// <summary>Serial number, as the bundle says.</summary>
    public required string Serial { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset ReceivedAt { get; init; }

    /// <summary>The tag that it was given; null while it waits.</summary>
    public string? TakenAs { get; set; }
}

/// <summary>A probe stick.</summary>
public sealed class StickRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256 of its key; the key itself is on the stick only.</summary>
    public required string KeySha256 { get; init; }

    /// <summary>Who made it.</summary>
    public required string By { get; init; }

    /// <summary>When it was made.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>When it was barred; null while it may be used.</summary>
    public DateTimeOffset? BarredAt { get; set; }
}
