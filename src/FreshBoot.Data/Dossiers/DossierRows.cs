namespace FreshBoot.Data.Dossiers;

/// <summary>A machine and its current dossier.</summary>
public sealed class MachineRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The asset tag, upper case.</summary>
    public required string Tag { get; init; }

    /// <summary>Goes up with every change; the ETag.</summary>
    public int Version { get; set; } = 1;

    /// <summary>The bay it stands in, 1 to 6; null on the shelf.</summary>
    public int? Bay { get; set; }

    /// <summary>The system chosen for it; null while nobody chose.</summary>
    public string? Aim { get; set; }

    /// <summary>When it was taken in.</summary>
    public DateTimeOffset TakenInAt { get; init; }

    /// <summary>The current readings as JSON, read in one go.</summary>
    public string Dossier { get; set; } = "[]";

    /// <summary>Codes of run steps that new bundles of this machine carried, with blanks between.</summary>
    public string Codes { get; set; } = "";

    /// <summary>The place of the next reading in the order of receipt.</summary>
    public long NextReceipt { get; set; } = 1;

    /// <summary>When readings last came in.</summary>
    public DateTimeOffset LastReceivedAt { get; set; }
}

/// <summary>A reading as it came in.</summary>
public sealed class FactRow
{
    /// <summary>Key of the row.</summary>
    public long Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>The fact key.</summary>
    public required string Key { get; init; }

    /// <summary>The value as JSON.</summary>
    public required string Value { get; init; }

    /// <summary>What it was read from.</summary>
    public required string Source { get; init; }

    /// <summary>How it came in, by name.</summary>
    public required string Origin { get; init; }

    /// <summary>When it was measured.</summary>
    public required DateTimeOffset TakenAt { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset ReceivedAt { get; init; }

    /// <summary>Who entered it.</summary>
    public string? By { get; init; }

    /// <summary>Place in the order of receipt of its machine.</summary>
    public required long Receipt { get; init; }
}

/// <summary>A probe bundle, or a single file, that came in.</summary>
public sealed class BundleRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The machine.</summary>
    public required int MachineId { get; init; }

    /// <summary>The name it came under.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256 of its bytes, hexadecimal; the name of its file in the data folder.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Its size in bytes.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset ReceivedAt { get; init; }

    /// <summary>What its readers left out and why, as JSON.</summary>
    public required string Warnings { get; init; }

    /// <summary>The first of its readings in the order of receipt; files that came together share it.</summary>
    public long FirstReceipt { get; init; }

    /// <summary>The last of its readings.</summary>
    public long LastReceipt { get; init; }

    /// <summary>The code of a run step that it brought; null for none.</summary>
    public string? Code { get; init; }

    /// <summary>Who took it back; null while it counts.</summary>
    public string? TakenBackBy { get; set; }
}
