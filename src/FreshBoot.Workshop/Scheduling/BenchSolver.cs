using FreshBoot.Core.Scheduling;
using Google.OrTools.Sat;

namespace FreshBoot.Workshop.Scheduling;

/// <summary>Plans the bench with the constraint solver.</summary>
public static class BenchSolver
{
    /// <summary>The part of the time in which other orders of the machines are tried by the plain rule.</summary>
    private const double Slips = 0.25;

    /// <summary>The part of it in which the plan is tidied without costing more.</summary>
    private const double Tidying = 0.25;

    /// <summary>The variables of one task.</summary>
    private sealed record Vars(IntVar Start, LinearExpr End, IReadOnlyList<(string Name, BoolVar Does)> By);

    /// <summary>The best plan that is found in the time; never worse than <see cref="ListRule"/>.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="time">How long at most.</param>
    /// <param name="enough">Where no plan could be better by more than this part of its cost, 0 to 1, the search ends.</param>
    /// <param name="better">Told of the plain rule’s plan at once, and then of each better one with the bound as it is known by then.</param>
    /// <param name="stop">Ends the search; the best so far stands.</param>
    /// <exception cref="RefusedException">Somebody or something is not there that a task cannot be done without.</exception>
    public static Solved<IReadOnlyList<Placed>> Solve(
        BenchQuestion question,
        TimeSpan time,
        double enough,
        Action<Solved<IReadOnlyList<Placed>>> better,
        CancellationToken stop
    )
    {
        var begun = Environment.TickCount64;
        var rule = ListRule.Of(question);
        var listed = BenchCost.Of(question, rule).Total;
        var least = BenchBound.Of(question);
        var best = new Solved<IReadOnlyList<Placed>>(
            listed <= least ? SolvedState.Optimal : SolvedState.ListRule,
            listed,
            Math.Min(least, listed),
            listed,
            rule
        );
        better(best);
        if (best.State == SolvedState.Optimal || rule.Count == 0)
            return best;
        bool IsEnough(int cost, int bound) => cost - bound <= enough * cost;
        void Take(IReadOnlyList<Placed> plan, int bound)
        {
            var cost = BenchCost.Of(question, plan).Total;
            if (cost >= best.Objective)
                return;
            best = best with
            {
                State = SolvedState.Feasible,
                Objective = cost,
                Bound = Math.Min(cost, Math.Max(least, bound)),
                Answer = plan,
            };
            better(best);
        }

        // Slips of paper first: from a good plan the solver goes on to a better one in less time than from any.
        var until = begun + (long)(time.TotalMilliseconds * Slips);
        Take(
            ListRule.Shuffled(
                question,
                rule,
                cost => Environment.TickCount64 < until && !stop.IsCancellationRequested && !IsEnough(cost, least)
            ),
            least
        );
        if (!IsEnough(best.Objective, best.Bound))
        {
            var (model, vars) = Model(question, best.Answer, least, best.Objective, tidy: false);
            var (status, solver) = Solver.Run(
                model,
                time * (1 - Slips - Tidying),
                enough,
                told => Take(Read(question, vars, told.Value, told.BooleanValue), Up(told.BestObjectiveBound())),
                stop
            );
            if (status is CpSolverStatus.Optimal or CpSolverStatus.Feasible)
                best = best with { Bound = Math.Min(best.Objective, Math.Max(least, Up(solver.BestObjectiveBound))) };
        }
        if (best.Objective == best.Bound)
            best = best with { State = SolvedState.Optimal };
        // Where it was good enough early there is no need to tidy for long.
        var tidying = Math.Min(time.TotalMilliseconds * Tidying, Environment.TickCount64 - begun);
        return best with { Answer = Tidied(question, best, TimeSpan.FromMilliseconds(tidying), stop) };
    }

    /// <summary>
    /// Of all plans that cost no more, one in which machines stand less long in their bays: what is begun is gone on with. The
    /// bench costs the same with either, people’s nerves do not.
    /// </summary>
    private static IReadOnlyList<Placed> Tidied(
        BenchQuestion question,
        Solved<IReadOnlyList<Placed>> best,
        TimeSpan time,
        CancellationToken stop
    )
    {
        var (model, vars) = Model(question, best.Answer, best.Bound, best.Objective, tidy: true);
        IReadOnlyList<Placed> tidy = best.Answer;
        Solver.Run(model, time, enough: 0.02, told => tidy = Read(question, vars, told.Value, told.BooleanValue), stop);
        return tidy;
    }

    private static int Up(double bound) => (int)Math.Ceiling(bound - 1e-6);

    private static (CpModel Model, Dictionary<string, Vars> Vars) Model(
        BenchQuestion question,
        IReadOnlyList<Placed> known,
        int least,
        int most,
        bool tidy
    )
    {
        var model = new CpModel();
        // A plan that is no worse than the rule’s is over no later than its hours; a late one may be over later than that.
        long horizon = question.People.SelectMany(p => p.Shifts).Max(s => s.To) + 1440;
        var busy = question.People.ToDictionary(p => p.Name, _ => new List<IntervalVar>(), StringComparer.Ordinal);
        foreach (var person in question.People)
        {
            var from = 0;
            foreach (var shift in person.Shifts)
            {
                if (shift.From > from)
                    busy[person.Name]
                        .Add(model.NewFixedSizeIntervalVar(from, shift.From - from, $"{person.Name} away"));
                from = shift.To;
            }
            busy[person.Name].Add(model.NewFixedSizeIntervalVar(from, horizon + 1440 - from, $"{person.Name} away"));
        }
        var vars = new Dictionary<string, Vars>(StringComparer.Ordinal);
        var holds = Enum.GetValues<BenchResource>().ToDictionary(w => w, _ => new List<IntervalVar>());
        var late = new List<LinearExpr>();
        var stands = new List<LinearExpr>();
        var over = model.NewIntVar(0, horizon, "over");
        foreach (var chain in question.Chains.Where(c => c.Tasks.Count > 0))
        {
            Vars? before = null;
            foreach (var task in chain.Tasks)
            {
                var first = before is null;
                var start = model.NewIntVar(0, first && chain.GoesOn ? 0 : horizon, $"{task.Id} starts");
                var end = start + task.Minutes;
                var by = new List<(string, BoolVar)>();
                if (task.Hands)
                {
                    foreach (var person in question.People.Where(p => p.Can(task)))
                    {
                        var does = model.NewBoolVar($"{task.Id} by {person.Name}");
                        busy[person.Name]
                            .Add(
                                model.NewOptionalFixedSizeIntervalVar(
                                    start,
                                    task.Minutes,
                                    does,
                                    $"{task.Id} {person.Name}"
                                )
                            );
                        by.Add((person.Name, does));
                        if (first && chain is { GoesOn: true, With: { } with })
                            model.Add(does == (person.Name == with ? 1 : 0));
                    }
                    model.AddExactlyOne(by.Select(b => b.Item2));
                }
                if (before is not null)
                    model.Add(task.Hands ? start >= before.End : start == before.End);
                before = vars[task.Id] = new Vars(start, end, by);
            }
            foreach (var hold in chain.Holds)
            {
                var from = hold.Already ? LinearExpr.Constant(0) : vars[chain.Tasks[hold.From].Id].Start + 0;
                var to = vars[chain.Tasks[hold.To].Id].End;
                holds[hold.What]
                    .Add(model.NewIntervalVar(from, model.NewIntVar(0, horizon, ""), to, $"{chain.Tag} {hold.What}"));
            }
            model.Add(over >= before!.End);
            stands.Add(before.End - vars[chain.Tasks[0].Id].Start);
            if (chain.Due is { } due)
            {
                var lateness = model.NewIntVar(0, horizon, $"{chain.Tag} late");
                model.Add(lateness >= before.End - due);
                late.Add(lateness);
            }
        }
        foreach (var intervals in busy.Values)
            model.AddNoOverlap(intervals);
        foreach (var (what, intervals) in holds)
            if (intervals.Count > question.Of(what))
            {
                var cumulative = model.AddCumulative(question.Of(what));
                foreach (var interval in intervals)
                    cumulative.AddDemand(interval, 1);
            }
        var open = Open(model, question, over);
        var moved = Moved(model, question, vars, horizon);
        var objective =
            LinearExpr.Sum(late) * BenchCost.LateWeight + open + LinearExpr.Sum(moved) * BenchCost.MovedWeight;
        model.Add(objective >= least);
        model.Add(objective <= most);
        model.Minimize(tidy ? LinearExpr.Sum(stands) : objective);
        foreach (var placed in known)
        {
            var of = vars[placed.Task];
            model.AddHint(of.Start, placed.Start);
            foreach (var (name, does) in of.By)
                model.AddHint(does, name == placed.Person);
        }
        return (model, vars);
    }

    /// <summary>Minutes of open hours up to a minute: within one stretch, or up to the end of the one before.</summary>
    private static IntVar Open(CpModel model, BenchQuestion question, IntVar over)
    {
        var hours = new OpenHours(question.People);
        var open = model.NewIntVar(0, hours.Of(int.MaxValue), "open");
        var within = new List<ILiteral>();
        var from = 0;
        foreach (var stretch in hours.Stretches)
        {
            var here = model.NewBoolVar("");
            model
                .AddLinearExpressionInDomain(over, new Google.OrTools.Util.Domain(from, stretch.To))
                .OnlyEnforceIf(here);
            model.Add(open >= hours.Of(stretch.From)).OnlyEnforceIf(here);
            model.Add(open >= over - stretch.From + hours.Of(stretch.From)).OnlyEnforceIf(here);
            within.Add(here);
            from = stretch.To + 1;
        }
        var after = model.NewBoolVar("");
        model.Add(over >= from).OnlyEnforceIf(after);
        model.Add(open >= hours.Of(int.MaxValue)).OnlyEnforceIf(after);
        within.Add(after);
        model.AddExactlyOne(within);
        return open;
    }

    private static List<BoolVar> Moved(
        CpModel model,
        BenchQuestion question,
        Dictionary<string, Vars> vars,
        long horizon
    )
    {
        var all = new List<BoolVar>();
        foreach (var (id, before) in question.Before)
        {
            if (!vars.TryGetValue(id, out var of))
                continue;
            var moved = model.NewBoolVar($"{id} moved");
            model
                .AddLinearExpressionInDomain(
                    of.Start,
                    new Google.OrTools.Util.Domain(
                        Math.Max(0, before.Start - BenchCost.Tolerance),
                        Math.Clamp(before.Start + BenchCost.Tolerance, 0, horizon)
                    )
                )
                .OnlyEnforceIf(moved.Not());
            if (before.Person is not null)
                if (of.By.FirstOrDefault(b => b.Name == before.Person) is { Does: { } does })
                    model.AddImplication(moved.Not(), does);
                else
                    model.Add(moved == 1);
            all.Add(moved);
        }
        return all;
    }

    private static List<Placed> Read(
        BenchQuestion question,
        Dictionary<string, Vars> vars,
        Func<IntVar, long> value,
        Func<ILiteral, bool> isTrue
    ) =>
        [
            .. question
                .Chains.SelectMany(c => c.Tasks)
                .Select(task =>
                {
                    var of = vars[task.Id];
                    var start = (int)value(of.Start);
                    return new Placed(
                        task.Id,
                        of.By.Where(b => isTrue(b.Does)).Select(b => b.Name).FirstOrDefault(),
                        start,
                        start + task.Minutes
                    );
                }),
        ];
}
