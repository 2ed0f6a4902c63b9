using CsCheck;
using FreshBoot.Core.Scheduling;
using FreshBoot.Workshop.Scheduling;

namespace FreshBoot.Core.Tests.Scheduling;

public sealed class GivingTests
{
    private static GiveQuestion Any(int seed, int machines, int orders)
    {
        var random = new Random(seed);
        string[] parts = ["x", "y"];
        return new GiveQuestion(
            [.. Enumerable.Range(0, orders).Select(o => new GiveOrder($"o{o}", random.Next(1, 4)))],
            [
                .. Enumerable
                    .Range(0, machines)
                    .SelectMany(m =>
                        Enumerable
                            .Range(0, orders)
                            .SelectMany(o =>
                                Enumerable
                                    .Range(0, random.Next(0, 3))
                                    .Select(r => new GiveOffer(
                                        $"M{m}",
                                        $"o{o}",
                                        $"{m}{o}{r}",
                                        random.Next(0, 8000),
                                        random.Next(20, 300),
                                        random.Next(0, 101),
                                        random.Next(600, 1001),
                                        random.Next(3) == 0
                                            ? new Dictionary<string, int>(StringComparer.Ordinal)
                                            {
                                                [parts[random.Next(2)]] = random.Next(1, 3),
                                            }
                                            : []
                                    ))
                            )
                    ),
            ],
            new Dictionary<string, int>(StringComparer.Ordinal)
            {
                ["x"] = random.Next(0, 4),
                ["y"] = random.Next(0, 4),
            },
            2000,
            random.Next(2) == 0 ? new Dictionary<string, string>(StringComparer.Ordinal) { ["M0"] = "o0" } : [],
            new Dictionary<string, string>(StringComparer.Ordinal) { ["M1"] = "o0" }
        );
    }

    [Fact]
    public void It_keeps_every_limit_and_is_never_worse_than_the_plain_rule() =>
        Gen.Int[1, 1_000_000]
            .Sample(
                seed =>
                {
                    var question = Any(seed, 12, 3);
                    var rule = GiveRule.Of(question);
                    GiveCheck.Faults(question, rule).ShouldBeEmpty();
                    var solved = GiveSolver.Solve(question, TimeSpan.FromSeconds(20), default);
                    GiveCheck.Faults(question, solved.Answer).ShouldBeEmpty();
                    solved.Objective.ShouldBe(GiveCost.Of(question, solved.Answer));
                    solved.Objective.ShouldBeLessThanOrEqualTo(GiveCost.Of(question, rule));
                    solved.Bound.ShouldBeLessThanOrEqualTo(solved.Objective);
                },
                iter: 40,
                threads: 1
            );

    [Fact]
    public void On_small_fleets_it_finds_what_trying_everything_finds() =>
        Gen.Int[1, 1_000_000]
            .Sample(
                seed =>
                {
                    var question = Any(seed, 4, 2);
                    var solved = GiveSolver.Solve(question, TimeSpan.FromSeconds(20), default);
                    solved.State.ShouldBe(SolvedState.Optimal);
                    solved.Objective.ShouldBe(Everything(question));
                },
                iter: 60,
                threads: 1
            );

    [Fact]
    public void A_machine_stands_by_where_others_are_likely_to_fail_and_none_where_they_are_sure()
    {
        GiveQuestion With(int perMille) =>
            new(
                [new GiveOrder("o", 2)],
                [
                    .. Enumerable
                        .Range(0, 4)
                        .Select(m => new GiveOffer(
                            $"M{m}",
                            "o",
                            $"{m}",
                            1000,
                            60,
                            80,
                            perMille,
                            new Dictionary<string, int>()
                        )),
                ],
                new Dictionary<string, int>(),
                2000,
                new Dictionary<string, string>(),
                new Dictionary<string, string>()
            );
        GiveSolver.Solve(With(700), TimeSpan.FromSeconds(20), default).Answer.Count(g => g.Reserve).ShouldBe(1);
        GiveSolver.Solve(With(1000), TimeSpan.FromSeconds(20), default).Answer.Count(g => g.Reserve).ShouldBe(0);
    }

    /// <summary>The least cost over every machine left, given or kept in reserve by each of its routes.</summary>
    private static int Everything(GiveQuestion question)
    {
        var machines = question
            .Offers.Select(o => o.Tag)
            .Distinct(StringComparer.Ordinal)
            .Where(t => !question.Begun.ContainsKey(t))
            .ToArray();
        var least = int.MaxValue;
        Try(0, []);
        return least;

        void Try(int at, List<Gift> so)
        {
            if (at == machines.Length)
            {
                if (GiveCheck.Faults(question, so).Count == 0)
                    least = Math.Min(least, GiveCost.Of(question, so));
                return;
            }
            Try(at + 1, so);
            foreach (var offer in question.Offers.Where(o => o.Tag == machines[at]))
            foreach (var reserve in new[] { false, true })
                Try(at + 1, [.. so, new Gift(offer, reserve)]);
        }
    }
}
