using CsCheck;
using FreshBoot.Core.Scheduling;
using FreshBoot.Workshop.Scheduling;

namespace FreshBoot.Core.Tests.Scheduling;

public sealed class BenchPlanTests
{
    private static readonly TimeSpan Short = TimeSpan.FromSeconds(20);

    [Fact]
    public void The_plain_rule_always_has_a_plan_that_holds_and_no_bound_is_above_it() =>
        Gen.Int[1, 1_000_000]
            .Sample(
                seed =>
                {
                    var question = AnyBench.Of(seed, 1 + seed % 9, 5, 30, 60);
                    var plan = ListRule.Of(question);
                    BenchCheck.Faults(question, plan).ShouldBeEmpty();
                    BenchBound.Of(question).ShouldBeLessThanOrEqualTo(BenchCost.Of(question, plan).Total);
                    // Nobody gets two bays, and no bay two machines.
                    var units = Units.Of(question, plan, new Dictionary<string, int>(StringComparer.Ordinal));
                    foreach (var one in units.GroupBy(u => (u.What, u.Number)))
                    {
                        var spans = one.OrderBy(u => u.From).ToArray();
                        for (var i = 1; i < spans.Length; i++)
                            spans[i].From.ShouldBeGreaterThanOrEqualTo(spans[i - 1].To);
                    }
                },
                iter: Cases.Of(100)
            );

    [Fact]
    public void The_solver_keeps_every_rule_and_is_never_worse_than_the_plain_one() =>
        Gen.Int[1, 1_000_000]
            .Sample(
                seed =>
                {
                    var question = AnyBench.Of(seed, 1 + seed % 6, 4, 30, 60);
                    var told = new List<int>();
                    var solved = BenchSolver.Solve(question, Short, 0, s => told.Add(s.Objective), default);
                    BenchCheck.Faults(question, solved.Answer).ShouldBeEmpty();
                    solved.Objective.ShouldBe(BenchCost.Of(question, solved.Answer).Total);
                    solved.Objective.ShouldBeLessThanOrEqualTo(BenchCost.Of(question, ListRule.Of(question)).Total);
                    solved.Bound.ShouldBeLessThanOrEqualTo(solved.Objective);
                    // Each that is told is better than the one before.
                    told.ShouldBe(told.Distinct().OrderDescending());
                },
                iter: Cases.Of(15),
                threads: 1
            );

    [Fact]
    public void On_small_benches_it_finds_what_trying_everything_finds() =>
        Gen.Int[1, 1_000_000]
            .Sample(
                seed =>
                {
                    var question = AnyBench.Of(seed, 1 + seed % 2, 2, 3, 6);
                    var solved = BenchSolver.Solve(question, Short, 0, _ => { }, default);
                    solved.State.ShouldBe(SolvedState.Optimal);
                    solved.Objective.ShouldBe(Everything(question, solved.Objective));
                },
                iter: Cases.Of(10),
                threads: 1
            );

    [Fact]
    public void A_plan_made_again_after_a_stop_keeps_what_is_in_hand_and_moves_little() =>
        Gen.Int[1, 1_000_000]
            .Sample(
                seed =>
                {
                    var first = AnyBench.Of(seed, 4, 4, 30, 120);
                    var plan = BenchSolver.Solve(first, Short, 0, _ => { }, default).Answer;
                    // One machine stopped: its fault comes before all that was left of it.
                    var stopped = first.Chains[^1];
                    var fault = new BenchTask($"{stopped.Tag}/fault", ["fault"], "", 20, true, []);
                    var again = first with
                    {
                        Chains =
                        [
                            .. first.Chains.SkipLast(1),
                            stopped with
                            {
                                Tasks = [fault, .. stopped.Tasks],
                                Holds =
                                [
                                    .. stopped.Holds.Select(h =>
                                        h with
                                        {
                                            From = h.From + (h.What == BenchResource.Bay ? 0 : 1),
                                            To = h.To + 1,
                                        }
                                    ),
                                ],
                                GoesOn = false,
                                With = null,
                            },
                        ],
                        Before = plan.ToDictionary(p => p.Task, StringComparer.Ordinal),
                    };
                    var solved = BenchSolver.Solve(again, Short, 0, _ => { }, default);
                    BenchCheck.Faults(again, solved.Answer).ShouldBeEmpty();
                    foreach (var chain in again.Chains.Where(c => c.GoesOn))
                        solved
                            .Answer.Single(p => p.Task == chain.Tasks[0].Id)
                            .ShouldBe(plan.Single(p => p.Task == chain.Tasks[0].Id));
                    // Made anew without a thought for what people were told, it would move no fewer.
                    var anew = BenchSolver.Solve(
                        again with
                        {
                            Before = new Dictionary<string, Placed>(),
                        },
                        Short,
                        0,
                        _ => { },
                        default
                    );
                    BenchCost
                        .Of(again, solved.Answer)
                        .Total.ShouldBeLessThanOrEqualTo(BenchCost.Of(again, anew.Answer).Total);
                },
                iter: Cases.Of(4),
                threads: 1
            );

    [Fact]
    public void Where_everybody_is_booked_out_one_stop_moves_that_machine_and_no_other()
    {
        // Eight machines, two people, not a minute free between them.
        BenchChain[] chains =
        [
            .. Enumerable
                .Range(0, 8)
                .Select(m => new BenchChain(
                    $"M{m}",
                    [.. Enumerable.Range(0, 4).Select(t => new BenchTask($"M{m}/{t}", [$"{t}"], "", 30, true, []))],
                    [new Hold(BenchResource.Bay, 0, 3, m == 0)]
                )),
        ];
        var first = new BenchQuestion(
            [
                new BenchPerson("Ada", [new Shift(0, 600), new Shift(1200, 1800)], []),
                new BenchPerson("Bo", [new Shift(0, 600), new Shift(1200, 1800)], []),
            ],
            new Dictionary<BenchResource, int> { [BenchResource.Bay] = 6 },
            chains,
            new Dictionary<string, Placed>(StringComparer.Ordinal)
        );
        var plan = ListRule.Of(first);
        BenchCost.Of(first, plan).Over.ShouldBe(480);
        var again = first with
        {
            Chains =
            [
                chains[0] with
                {
                    Tasks = [new BenchTask("M0/fault", ["fault"], "", 30, true, []), .. chains[0].Tasks],
                    Holds = [new Hold(BenchResource.Bay, 0, 4, true)],
                },
                .. chains[1..],
            ],
            Before = plan.ToDictionary(p => p.Task, StringComparer.Ordinal),
        };
        var planned = ListRule.Of(again);
        BenchCheck.Faults(again, planned).ShouldBeEmpty();
        planned
            .Where(p => again.Before.TryGetValue(p.Task, out var was) && BenchCost.HasMoved(was, p))
            .ShouldAllBe(p => p.Task.StartsWith("M0/", StringComparison.Ordinal));
    }

    [Fact]
    public void The_judge_sees_each_kind_of_fault()
    {
        var task = new BenchTask("A/1", ["1"], "", 10, true, [Skill.Casing]);
        var wait = new BenchTask("A/2", ["2"], "", 5, false, []);
        var other = new BenchTask("B/1", ["1"], "", 10, true, []);
        var question = new BenchQuestion(
            [new BenchPerson("Ada", [new Shift(0, 30)], [Skill.Casing]), new BenchPerson("Bo", [new Shift(0, 60)], [])],
            new Dictionary<BenchResource, int> { [BenchResource.Bay] = 1 },
            [
                new BenchChain("A", [task, wait], [new Hold(BenchResource.Bay, 0, 1, false)]),
                new BenchChain("B", [other], [new Hold(BenchResource.Bay, 0, 0, false)]),
            ],
            new Dictionary<string, Placed>()
        );
        Placed[] right = [new("A/1", "Ada", 0, 10), new("A/2", null, 10, 15), new("B/1", "Bo", 15, 25)];
        BenchCheck.Faults(question, right).ShouldBeEmpty();
        Says("twice", [.. right, right[0]]);
        Says("missing", right[..2]);
        Says("cannot do", Change(0, p => p with { Person = "Bo" }));
        Says("nobody who is there", Change(0, p => p with { Person = "Cleo" }));
        Says(
            "not there all the time",
            [new("A/1", "Ada", 25, 35), new("A/2", null, 35, 40), right[2] with { Start = 0, End = 10 }]
        );
        Says("minutes and takes", Change(2, p => p with { End = 24 }));
        Says("before A/1 is over", Change(1, p => p with { Start = 9, End = 14 }));
        Says("waits later", Change(1, p => p with { Start = 11, End = 16 }));
        Says("take a Bay", Change(2, p => p with { Start = 14, End = 24 }));
        Says("at once", Change(2, p => p with { Person = "Ada", Start = 5, End = 15 }));

        void Says(string what, Placed[] plan) =>
            BenchCheck.Faults(question, plan).ShouldContain(f => f.Contains(what, StringComparison.Ordinal));
        Placed[] Change(int at, Func<Placed, Placed> how) => [.. right.Select((p, i) => i == at ? how(p) : p)];
    }

    /// <summary>The least cost of all plans there are: every start and every person of every task, up to one that is known.</summary>
    private static int Everything(BenchQuestion question, int known)
    {
        var tasks = question.Chains.SelectMany(c => c.Tasks).ToArray();
        var latest = 40;
        var least = int.MaxValue;
        Try([]);
        return least;

        void Try(List<Placed> so)
        {
            if (so.Count == tasks.Length)
            {
                if (BenchCheck.Faults(question, so).Count == 0)
                    least = Math.Min(least, BenchCost.Of(question, so).Total);
                return;
            }
            var task = tasks[so.Count];
            var chain = question.Chains.Single(c => c.Tasks.Contains(task));
            var first = ReferenceEquals(chain.Tasks[0], task);
            var from = first ? 0 : so[^1].End;
            foreach (var person in task.Hands ? question.People.Select(p => (string?)p.Name) : [null])
                for (var start = from; start <= latest; start++)
                {
                    // One that is late already, or over later than what is known, is no better.
                    var end = start + task.Minutes;
                    if (BenchCost.LateWeight * Math.Max(0, end - (chain.Due ?? end)) > known)
                        break;
                    if (question.Open.Of(end) > known || (!first && !task.Hands && start > from))
                        break;
                    Try([.. so, new Placed(task.Id, person, start, end)]);
                }
        }
    }
}
