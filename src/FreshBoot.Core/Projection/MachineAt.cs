using System.Collections.Immutable;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Projection;

/// <summary>
/// The machine after a step of a sheet: what it is (its facts, as the steps so far left them) and what the bench did (the small
/// world). Every question that concerns a step is asked of this one and never of today's alone. Immutable; the next one shares all
/// that did not change.
/// </summary>
public sealed class MachineAt : IFacts
{
    private readonly IFacts _today;
    private readonly SystemEntry? _system;
    private readonly ImmutableDictionary<string, FactValue?> _left;

    private MachineAt(
        IFacts today,
        SystemEntry? system,
        ImmutableDictionary<string, FactValue?> left,
        IReadOnlyDictionary<string, string> world
    ) => (_today, _system, _left, World) = (today, system, left, world);

    /// <summary>The machine before the first step.</summary>
    /// <param name="today">Its dossier.</param>
    /// <param name="system">The system that the plan installs; null for none.</param>
    /// <param name="world">The small world before the first step.</param>
    public static MachineAt Before(IFacts today, SystemEntry? system, IReadOnlyDictionary<string, string> world) =>
        new(today, system, ImmutableDictionary.Create<string, FactValue?>(StringComparer.Ordinal), world);

    /// <summary>The small world.</summary>
    public IReadOnlyDictionary<string, string> World { get; }

    /// <summary>What the steps so far have left: fact by fact, null where a fact ended with them.</summary>
    public IReadOnlyDictionary<string, FactValue?> Left => _left;

    /// <inheritdoc/>
    public FactValue? this[string key] => _left.TryGetValue(key, out var left) ? left : _today[key];

    /// <summary>The machine after a step.</summary>
    /// <param name="does">What it changes in the small world.</param>
    /// <param name="leaves">Facts that hold once it is done, over those that the words mean.</param>
    public MachineAt Then(
        IReadOnlyDictionary<string, string> does,
        IReadOnlyDictionary<string, FactValue>? leaves = null
    )
    {
        if (does.Count == 0 && leaves is null or { Count: 0 })
            return this;
        var left = _left;
        var world = World;
        if (does.Count > 0)
        {
            var changed = new Dictionary<string, string>(World, StringComparer.Ordinal);
            foreach (var (key, value) in does)
            {
                if (changed[key] != value)
                    foreach (var (fact, now) in WorldFacts.Meant(key, value, _system))
                        left = left.SetItem(fact, now);
                changed[key] = value;
            }
            world = changed;
        }
        foreach (var (fact, now) in leaves ?? ImmutableDictionary<string, FactValue>.Empty)
            left = left.SetItem(fact, now);
        return new MachineAt(_today, _system, left, world);
    }

    /// <summary>The machine after a step.</summary>
    public MachineAt Then(Step step) => Then(step.Does, step.Leaves);

    /// <summary>What is otherwise than at another moment: the facts that hold now, and those that have ended.</summary>
    public (IReadOnlyDictionary<string, FactValue> Leaves, IReadOnlyList<string> Ends) Since(MachineAt before)
    {
        if (ReferenceEquals(_left, before._left))
            return (ImmutableDictionary<string, FactValue>.Empty, []);
        var leaves = new SortedDictionary<string, FactValue>(StringComparer.Ordinal);
        var ends = new List<string>();
        foreach (var (key, value) in _left)
            if (!Equals(value, before[key]))
                if (value is null)
                    ends.Add(key);
                else
                    leaves[key] = value;
        ends.Sort(StringComparer.Ordinal);
        return (leaves, ends);
    }
}
