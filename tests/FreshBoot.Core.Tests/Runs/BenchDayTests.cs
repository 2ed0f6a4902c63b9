using CsCheck;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Tests.Runs;

public sealed class BenchDayTests
{
    private static readonly Step[] Steps =
    [
        new("look", Rung.Parts, StepKind.Check, "Look.", null, 2)
        {
            Branches = [new StepBranch("It is not so", null, ["mend"])],
        },
        new("mend", Rung.Parts, StepKind.Do, "Mend it.", null, 7) { On = new BranchPlace("look", "It is not so") },
        new("begin", Rung.Medium, StepKind.Do, "Begin.", null, 3),
        new("copy", Rung.Medium, StepKind.Wait, "It copies.", null, 20),
        new("desk", Rung.Use, StepKind.Do, "Go on.", null, 4),
    ];

    private static RunState At(int step, params string[] taken) =>
        new RunState(step, null, false, [], null) with
        {
            Taken = taken.ToDictionary(t => "look", t => t),
        };

    [Fact]
    public void Looks_ahead_to_the_next_wait_and_passes_over_branches_that_were_not_taken()
    {
        Ahead.Of(Steps, At(0)).ShouldBe(new Ahead(5, 20, "It copies."));
        Ahead.Of(Steps, At(1, "It is not so")).ShouldBe(new Ahead(10, 20, "It copies."));
        Ahead.Of(Steps, At(3)).ShouldBe(new Ahead(0, 20, "It copies."));
        Ahead.Of(Steps, At(4)).ShouldBe(new Ahead(4, 0, null));
    }

    /// <summary>No other order of the same machines is over sooner: held against every one of them.</summary>
    [Fact]
    public void No_other_order_is_over_sooner() =>
        Gen.Select(Gen.Int[0, 30], Gen.Int[0, 90], (hands, wait) => new Ahead(hands, wait, null))
            .Array[1, 6]
            .Sample(
                all =>
                {
                    WantsHands[] jobs = [.. all.Select((a, i) => new WantsHands($"MR-{i:0000}", a))];
                    var best = Every(jobs).Min(BenchDay.Over);
                    BenchDay.Over(BenchDay.Order(jobs)).ShouldBe(best);
                },
                iter: 400
            );

    private static IEnumerable<WantsHands[]> Every(WantsHands[] jobs) =>
        jobs.Length == 0
            ?
            [
                [],
            ]
            : jobs.SelectMany(first =>
                Every([.. jobs.Where(j => j != first)]).Select(rest => rest.Prepend(first).ToArray())
            );
}
