namespace FreshBoot.Data.Catalogue;

/// <summary>A change of the shop to an entry of the catalogue. Rows are only added.</summary>
public sealed class EntryVersionRow
{
    /// <summary>Key of the row, in the order of the changes.</summary>
    public long Id { get; init; }

    /// <summary>The list it stands in.</summary>
    public required string Kind { get; init; }

    /// <summary>Id of the entry.</summary>
    public required string EntryId { get; init; }

    /// <summary>1 for the first change.</summary>
    public required int Version { get; init; }

    /// <summary>The entry as JSON; null where it was taken out.</summary>
    public string? Entry { get; init; }

    /// <summary>Who changed it.</summary>
    public required string By { get; init; }

    /// <summary>Why.</summary>
    public required string Reason { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }
}
