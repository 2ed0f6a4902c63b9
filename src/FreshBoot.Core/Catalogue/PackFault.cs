namespace FreshBoot.Core.Catalogue;

/// <summary>A fault in a pack: the file, the place in it as a JSON Pointer (RFC 6901), and what is wrong.</summary>
public sealed record PackFault(string File, string At, string What);

/// <summary>Thrown when packs have faults; none of them is taken.</summary>
public sealed class PackFaultsException(IReadOnlyList<PackFault> faults)
    : Exception(string.Join('\n', faults.Select(f => $"{f.File} {f.At}: {f.What}")))
{
    /// <summary>Every fault found.</summary>
    public IReadOnlyList<PackFault> Faults { get; } = faults;
}

/// <summary>Entries that are edited or imported just now. Days of packs in force pass while they lie there; in these they are slips.</summary>
/// <param name="AsOf">The day.</param>
/// <param name="Ids">The ids of the entries.</param>
public sealed record Freshness(DateOnly AsOf, IReadOnlySet<string> Ids);
