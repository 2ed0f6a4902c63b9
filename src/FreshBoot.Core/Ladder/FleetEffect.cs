using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;

namespace FreshBoot.Core.Ladder;

/// <summary>A machine as the fleet is judged: what was read of it, what it may take, and whom it is for.</summary>
public sealed record FleetMachine(string Tag, IReadOnlyList<Reading> Readings, PartsShelf Shelf, Order? Order);

/// <summary>An outcome that a change of the catalogue changes.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="System">Id of the system.</param>
/// <param name="From">How it stands now; null where the system is new.</param>
/// <param name="To">How it would stand; null where the system is gone.</param>
public sealed record OutcomeChange(string Tag, string System, Outcome? From, Outcome? To);

/// <summary>What a change of the catalogue does to the fleet.</summary>
public static class FleetEffect
{
    /// <summary>How every system stands on every machine.</summary>
    public static IReadOnlyDictionary<(string Tag, string System), Outcome> Outcomes(
        ShopCatalogue catalogue,
        Evaluator evaluator,
        IReadOnlyList<FleetMachine> fleet,
        DateOnly asOf
    ) =>
        fleet
            .AsParallel()
            .AsOrdered()
            .SelectMany(machine =>
            {
                var facts = Derivation.Complete(machine.Readings, catalogue);
                var plan = new Plan(asOf, null, machine.Shelf, machine.Order);
                return catalogue.Systems.Select(s =>
                    (Key: (machine.Tag, s.Id), Outcome: evaluator.Grade(facts, s, plan))
                );
            })
            .ToDictionary(x => x.Key, x => x.Outcome);

    /// <summary>The outcomes that differ, by machine and system.</summary>
    public static IReadOnlyList<OutcomeChange> Between(
        IReadOnlyDictionary<(string Tag, string System), Outcome> before,
        IReadOnlyDictionary<(string Tag, string System), Outcome> after
    ) =>
        [
            .. before
                .Keys.Union(after.Keys)
                .Select(key => new OutcomeChange(
                    key.Tag,
                    key.System,
                    before.TryGetValue(key, out var from) ? from : null,
                    after.TryGetValue(key, out var to) ? to : null
                ))
                .Where(c => c.From != c.To)
                .OrderBy(c => c.Tag, StringComparer.Ordinal)
                .ThenBy(c => c.System, StringComparer.Ordinal),
        ];
}
