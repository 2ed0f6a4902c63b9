namespace FreshBoot.Core.Routes;

/// <summary>
/// Where the recommendation flips: with the other weights as they are, the sum of each route is a straight line over the
/// weight of one criterion, and the best route is the upper edge of all lines. The corners of that edge are the flips.
/// </summary>
public static class Flips
{
    private const double Most = 100;

    /// <summary>Three lines that meet in a point cross pairwise a hair apart, by rounding: a stretch so short is none.</summary>
    private const double Narrowest = 4e-6;

    /// <summary>The flips over every criterion, from weight 0 to 100.</summary>
    public static IReadOnlyList<Flip> Of(IReadOnlyList<Route> routes, Weights weights) =>
        [.. Weights.Criteria.SelectMany(criterion => Of(routes, weights, criterion))];

    private static List<Flip> Of(IReadOnlyList<Route> routes, Weights weights, Criterion criterion)
    {
        var flips = new List<Flip>();
        var lines = routes
            .Select(r => new Line(
                r,
                Weights
                    .Criteria.Where(c => c != criterion)
                    .Sum(c => weights[c] * Weights.Utility(r.Vector, r.School, c)),
                Weights.Utility(r.Vector, r.School, criterion)
            ))
            .ToArray();
        if (lines.Length == 0)
            return flips;
        var at = 0.0;
        // At weight 0, and among equals there, the one that rises most is the best just above.
        var best = lines.OrderByDescending(l => l.Base).ThenByDescending(l => l.Slope).ThenBy(l => l, Order).First();
        while (true)
        {
            Line? next = null;
            var where = double.PositiveInfinity;
            foreach (var line in lines.Where(l => l.Slope > best.Slope))
            {
                var crosses = (best.Base - line.Base) / (line.Slope - best.Slope);
                if (
                    crosses > at - 1e-12
                    && (
                        crosses < where - 1e-12
                        || Math.Abs(crosses - where) <= 1e-12
                            && (line.Slope > next!.Slope || line.Slope == next.Slope && Order.Compare(line, next) < 0)
                    )
                )
                    (next, where) = (line, crosses);
            }
            if (next is null || where >= Most)
                return flips;
            if (flips is [.., var last] && where - last.At < Narrowest)
                flips[^1] = last with { Above = next.Route.Id };
            else if (where > Narrowest)
                flips.Add(new Flip(criterion, where, best.Route.Id, next.Route.Id));
            (best, at) = (next, where);
        }
    }

    private sealed record Line(Route Route, double Base, double Slope);

    /// <summary>The order among equals is that of the ranking: the cheaper one, then by id.</summary>
    private static readonly Comparer<Line> Order = Comparer<Line>.Create(
        (a, b) =>
            a.Route.Money != b.Route.Money
                ? a.Route.Money.CompareTo(b.Route.Money)
                : string.CompareOrdinal(a.Route.Id, b.Route.Id)
    );
}
