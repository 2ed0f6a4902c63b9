using FreshBoot.Core.Scheduling;
using Google.OrTools.Sat;

namespace FreshBoot.Workshop.Scheduling;

/// <summary>Gives machines to orders with the constraint solver.</summary>
public static class GiveSolver
{
    /// <summary>The best giving that is found in the time; never worse than <see cref="GiveRule"/>.</summary>
    public static Solved<IReadOnlyList<Gift>> Solve(GiveQuestion question, TimeSpan time, CancellationToken stop)
    {
        var rule = GiveRule.Of(question);
        var listed = GiveCost.Of(question, rule);
        var model = new CpModel();
        var taken = question
            .Offers.Select((_, i) => (Give: model.NewBoolVar($"g{i}"), Stand: model.NewBoolVar($"r{i}")))
            .ToArray();
        foreach (var machine in question.Offers.Select((o, i) => (o, i)).GroupBy(x => x.o.Tag, StringComparer.Ordinal))
            if (question.Begun.ContainsKey(machine.Key))
                foreach (var (_, i) in machine)
                    model.Add(taken[i].Give + taken[i].Stand == 0);
            else
                model.AddAtMostOne(machine.SelectMany(x => new[] { taken[x.i].Give, taken[x.i].Stand }));
        var costs = new List<LinearExpr>();
        for (var i = 0; i < taken.Length; i++)
        {
            costs.Add(taken[i].Give * GiveCost.Of(question, question.Offers[i], reserve: false));
            costs.Add(taken[i].Stand * GiveCost.Of(question, question.Offers[i], reserve: true));
        }
        foreach (var order in question.Orders)
        {
            var mine = Enumerable.Range(0, taken.Length).Where(i => question.Offers[i].Order == order.Id).ToArray();
            var begun = question.Begun.Count(b => b.Value == order.Id);
            var room = Math.Max(0, order.Wants - begun);
            var missing = model.NewIntVar(0, room, $"missing {order.Id}");
            model.Add(LinearExpr.Sum(mine.Select(i => taken[i].Give)) + missing == room);
            // Nothing stands by for an order that lacks a machine.
            foreach (var i in mine)
                model.Add(missing == 0).OnlyEnforceIf(taken[i].Stand);
            var expected = LinearExpr.WeightedSum(
                mine.SelectMany(i => new[] { taken[i].Give, taken[i].Stand }),
                mine.SelectMany(i => new[] { question.Offers[i].PerMille, question.Offers[i].PerMille })
            );
            var shortfall = model.NewIntVar(0, 1000L * order.Wants, $"short {order.Id}");
            model.Add(shortfall + expected >= 1000 * (order.Wants - begun));
            costs.Add(missing * GiveCost.Missing);
            costs.Add(shortfall * GiveCost.ShortPerMille);
        }
        foreach (var part in question.Offers.SelectMany(o => o.Takes.Keys).Distinct(StringComparer.Ordinal))
        {
            var takers = Enumerable
                .Range(0, taken.Length)
                .Where(i => question.Offers[i].Takes.ContainsKey(part))
                .ToArray();
            model.Add(
                LinearExpr.WeightedSum(
                    takers.SelectMany(i => new[] { taken[i].Give, taken[i].Stand }),
                    takers.SelectMany(i =>
                    {
                        var count = question.Offers[i].Takes[part];
                        return new[] { count, count };
                    })
                ) <= question.Shelf.GetValueOrDefault(part)
            );
        }
        model.Minimize(LinearExpr.Sum(costs));
        foreach (var (offer, i) in question.Offers.Select((o, i) => (o, i)))
        {
            model.AddHint(taken[i].Give, rule.Any(g => g.Offer == offer && !g.Reserve));
            model.AddHint(taken[i].Stand, rule.Any(g => g.Offer == offer && g.Reserve));
        }

        var (status, solver) = Solver.Run(model, time, 0, _ => { }, stop);
        var bound = status is CpSolverStatus.Optimal or CpSolverStatus.Feasible
            ? (int)Math.Ceiling(solver.BestObjectiveBound - 1e-6)
            : 0;
        if (status is not (CpSolverStatus.Optimal or CpSolverStatus.Feasible))
            return new Solved<IReadOnlyList<Gift>>(SolvedState.ListRule, listed, bound, listed, rule);
        Gift[] gives =
        [
            .. question
                .Offers.Select(
                    (o, i) =>
                        solver.BooleanValue(taken[i].Give) ? new Gift(o, false)
                        : solver.BooleanValue(taken[i].Stand) ? new Gift(o, true)
                        : null
                )
                .OfType<Gift>(),
        ];
        var cost = GiveCost.Of(question, gives);
        return cost > listed
            ? new Solved<IReadOnlyList<Gift>>(SolvedState.ListRule, listed, bound, listed, rule)
            : new Solved<IReadOnlyList<Gift>>(
                status == CpSolverStatus.Optimal ? SolvedState.Optimal : SolvedState.Feasible,
                cost,
                bound,
                listed,
                gives
            );
    }
}
