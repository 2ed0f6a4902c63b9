using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Planning;

/// <summary>A part, and what buying some of it opens.</summary>
/// <param name="Part">Its id.</param>
/// <param name="Does">What is done with it.</param>
/// <param name="Money">Price of one machine's worth in hundredth parts of a mark.</param>
/// <param name="Opens">How many systems on how many machines it opens, by itself or with a switch, over the best machines.</param>
/// <param name="Tags">Those machines, the one that gains most first.</param>
public sealed record OpeningPart(string Part, string Does, int Money, int Opens, IReadOnlyList<string> Tags);

/// <summary>What a part opens on a machine.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Cure">The part, and what is done with it.</param>
/// <param name="Opens">How many systems it opens.</param>
public sealed record OpenedOnMachine(string Tag, Cure Cure, int Opens);

/// <summary>Which part, bought a few times, opens most in the fleet.</summary>
public static class PartsThatOpen
{
    /// <summary>The parts by what they open, most first, then by price.</summary>
    /// <param name="catalogue">The catalogue.</param>
    /// <param name="evaluator">The evaluator of the catalogue.</param>
    /// <param name="fleet">The machines.</param>
    /// <param name="times">How many may be bought of each.</param>
    /// <param name="asOf">The day from which support is counted.</param>
    public static IReadOnlyList<OpeningPart> Rank(
        ShopCatalogue catalogue,
        Evaluator evaluator,
        IReadOnlyList<FleetMachine> fleet,
        int times,
        DateOnly asOf
    ) => Rank(fleet.AsParallel().SelectMany(m => Of(catalogue, evaluator, m, asOf)), times);

    /// <summary>The parts by what they open, of machines that were looked at already.</summary>
    /// <param name="found">What each part opens on each machine.</param>
    /// <param name="times">How many may be bought of each.</param>
    public static IReadOnlyList<OpeningPart> Rank(IEnumerable<OpenedOnMachine> found, int times) =>
        [
            .. found
                .GroupBy(o => o.Cure.Id, StringComparer.Ordinal)
                .Select(g =>
                {
                    var best = g.OrderByDescending(o => o.Opens)
                        .ThenBy(o => o.Tag, StringComparer.Ordinal)
                        .Take(times)
                        .ToArray();
                    return new OpeningPart(
                        g.Key,
                        best[0].Cure.Does,
                        best[0].Cure.Money,
                        best.Sum(o => o.Opens),
                        [.. best.Select(o => o.Tag)]
                    );
                })
                .OrderByDescending(p => p.Opens)
                .ThenBy(p => p.Money)
                .ThenBy(p => p.Part, StringComparer.Ordinal),
        ];

    /// <summary>What each part opens on one machine, by itself or with a switch.</summary>
    public static IEnumerable<OpenedOnMachine> Of(
        ShopCatalogue catalogue,
        Evaluator evaluator,
        FleetMachine machine,
        DateOnly asOf
    )
    {
        var facts = Derivation.Complete(machine.Readings, catalogue);
        var now = catalogue
            .Systems.Select(s => evaluator.Assess(facts, s, new Plan(asOf, null, machine.Shelf, machine.Order)))
            .ToArray();
        var parts = now.Where(a => a.Outcome is Outcome.Part)
            .SelectMany(a => a.Rungs)
            .SelectMany(r => r.Findings)
            .Where(f => f.Outcome == Outcome.Part)
            .SelectMany(f => f.Cures)
            .Where(c => c is { Kind: Outcome.Part, Money: > 0 })
            .DistinctBy(c => c.Id);
        foreach (var part in parts)
        {
            var plan = new Plan(asOf, [part], machine.Shelf, machine.Order);
            var opens = now.Count(a =>
                a.Outcome == Outcome.Part && evaluator.Grade(facts, catalogue.System(a.System)!, plan) <= Outcome.Driver
            );
            if (opens > 0)
                yield return new OpenedOnMachine(machine.Tag, part, opens);
        }
    }
}
