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
    /// <summary>A shelf with nothing on it.</summary>
    public static PartsShelf Empty { get; } = new([]);
}
