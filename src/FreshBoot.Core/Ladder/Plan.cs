using System.Collections.Frozen;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;

namespace FreshBoot.Core.Ladder;

/// <summary>What is judged together with a dossier: the cures taken and the day on which support is counted.</summary>
public sealed class Plan
{
    private readonly Dictionary<string, FactValue> _sets = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Cure> _lifts = new(StringComparer.Ordinal);
    private readonly FrozenSet<string> _drives;
    private readonly FrozenSet<string> _replaces;
    private volatile MostMemory? _mostMemory;

    /// <summary>Makes a plan; a later cure sets over an earlier one.</summary>
    public Plan(DateOnly asOf, IReadOnlyList<Cure>? cures = null, PartsShelf? shelf = null, Order? order = null)
    {
        AsOf = asOf;
        Order = order;
        Shelf = shelf ?? PartsShelf.Empty;
        Cures = cures ?? [];
        foreach (var cure in Cures)
        {
            foreach (var (key, value) in cure.Sets ?? FrozenDictionary<string, FactValue>.Empty)
                _sets[key] = value;
            foreach (var gate in cure.Lifts ?? [])
                _lifts.TryAdd(gate, cure);
        }
        _drives = Cures.SelectMany(c => c.Drives ?? []).ToFrozenSet(StringComparer.Ordinal);
        _replaces = Cures.Select(c => c.Replaces).OfType<string>().ToFrozenSet(StringComparer.Ordinal);
    }

    /// <summary>The day from which months of support are counted.</summary>
    public DateOnly AsOf { get; }

    /// <summary>The salvaged parts that the machine may take.</summary>
    public PartsShelf Shelf { get; }

    /// <summary>The order that the machine is for, or null.</summary>
    public Order? Order { get; }

    /// <summary>The cures taken, in order.</summary>
    public IReadOnlyList<Cure> Cures { get; }

    /// <summary>The facts as the cures leave them.</summary>
    public IFacts Over(IFacts facts) => _sets.Count == 0 ? facts : new Overlay(facts, _sets);

    /// <summary>The cure that lifts a gate, or null.</summary>
    public Cure? LiftedBy(string gate) => _lifts.GetValueOrDefault(gate);

    /// <summary>Whether a cure brings a driver for the device.</summary>
    public bool Drives(string device) => _drives.Contains(device);

    /// <summary>Whether a cure replaces the group of devices.</summary>
    public bool Replaces(string group) => _replaces.Contains(group);

    /// <summary>Whether a cure sets the fact.</summary>
    public bool Sets(string key) => _sets.ContainsKey(key);

    /// <summary>Whether the paid extension of the system's support is taken.</summary>
    public bool Extends(string system)
    {
        foreach (var cure in Cures)
            if (cure.Extends == system)
                return true;
        return false;
    }

    /// <summary>
    /// Whether <paramref name="cure"/> can no longer be taken: it is taken already, it conflicts with one that is, or both
    /// set one fact differently and neither builds on what the other sets, or both undo each other.
    /// </summary>
    public bool Excludes(Cure cure) => Excluder(cure) is not null;

    /// <summary>The cure of the plan that keeps <paramref name="cure"/> out, or null.</summary>
    public Cure? Excluder(Cure cure)
    {
        foreach (var taken in Cures)
            if (taken.Id == cure.Id || taken.Conflicts.Contains(cure.Id) || cure.Conflicts.Contains(taken.Id))
                return taken;
        // Against each of them and not against what they leave: what two contradict each other in, a third between them does not heal.
        if (cure.Sets is { } sets && _sets.Count > 0)
            foreach (var (key, value) in sets)
                if (_sets.ContainsKey(key))
                    foreach (var taken in Cures)
                        if (
                            taken.Sets is { } before
                            && before.TryGetValue(key, out var set)
                            && !set.Equals(value)
                            && (
                                !cure.BuildsOn(key) && !taken.BuildsOn(key)
                                || cure.MayFollow(taken) && taken.MayFollow(cure)
                            )
                        )
                            return taken;
        return null;
    }

    /// <summary>
    /// The most memory that a kit brings, worked out once for a dossier: every system of the catalogue asks for it. One
    /// reference is swapped whole, so that threads never see half of it.
    /// </summary>
    internal long MostMemoryMiB(IFacts facts, Func<long> most)
    {
        if (_mostMemory is { } known && ReferenceEquals(known.Facts, facts))
            return known.MiB;
        var found = new MostMemory(facts, most());
        _mostMemory = found;
        return found.MiB;
    }

    private sealed record MostMemory(IFacts Facts, long MiB);
}
