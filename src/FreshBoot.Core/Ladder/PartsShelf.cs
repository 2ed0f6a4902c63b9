namespace FreshBoot.Core.Ladder;

/// <summary>Salvaged memory modules of one kind.</summary>
/// <param name="Type">Type as machines report it, such as <c>DDR4 SO-DIMM</c>.</param>
/// <param name="SizeMiB">Size in MiB.</param>
/// <param name="Count">How many there are.</param>
/// <param name="Tested">How many of them passed a memory test.</param>
public sealed record ShelvedModules(string Type, int SizeMiB, int Count, int Tested);

/// <summary>The salvaged parts that a machine may take: those that nobody reserved, and those reserved for it.</summary>
public sealed record PartsShelf(IReadOnlyList<ShelvedModules> Memory)
{
    /// <summary>Two shelves with the same on them are the same: what was worked out with one holds with the other.</summary>
    public bool Equals(PartsShelf? other) => other is not null && Memory.SequenceEqual(other.Memory);

    /// <inheritdoc/>
    public override int GetHashCode() => Memory.Aggregate(0, HashCode.Combine);

    /// <summary>What of it is of these types; all of it where no type is known.</summary>
    public PartsShelf Of(IReadOnlyCollection<string> types) =>
        types.Count == 0 ? this : new([.. Memory.Where(m => types.Contains(m.Type))]);

    /// <summary>A shelf with nothing on it.</summary>
    public static PartsShelf Empty { get; } = new([]);
}
