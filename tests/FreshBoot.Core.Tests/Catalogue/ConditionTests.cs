using CsCheck;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Tests.Catalogue;

/// <summary>Conditions follow Kleene's three-valued logic.</summary>
public class ConditionTests
{
    private static readonly bool?[] Truths = [true, false, null];
    private static readonly Gen<bool?> Truth = Gen.Int[0, 2].Select(i => Truths[i]);

    /// <summary>A condition that is true, false or open: the network is wired, wireless, or nobody looked.</summary>
    private static Condition.OneOf Is(int index) =>
        new Condition.OneOf($"network.{index}.kind", [FactValue.Of("wired")], []);

    private static Dossier With(IReadOnlyList<bool?> truths) =>
        Dossier.From(
            truths
                .Select((t, i) => (t, i))
                .Where(x => x.t is not null)
                .Select(x => Facts.Reading($"network.{x.i}.kind", x.t!.Value ? "wired" : "wireless"))
        );

    [Fact]
    public void All_is_as_bad_as_its_worst_part() =>
        Truth
            .Array[1, 6]
            .Sample(truths =>
            {
                var expected =
                    truths.Contains(false) ? false
                    : truths.Contains(null) ? (bool?)null
                    : true;
                return new Condition.All([.. truths.Select((_, i) => Is(i))]).Holds(With(truths)) == expected;
            });

    [Fact]
    public void Any_is_as_good_as_its_best_part() =>
        Truth
            .Array[1, 6]
            .Sample(truths =>
            {
                var expected =
                    truths.Contains(true) ? true
                    : truths.Contains(null) ? (bool?)null
                    : false;
                return new Condition.Any([.. truths.Select((_, i) => Is(i))]).Holds(With(truths)) == expected;
            });

    [Fact]
    public void Learning_a_fact_never_turns_one_settled_answer_into_another() =>
        Gen.Select(Truth.Array[4], Gen.Int[0, 3], Gen.Bool)
            .Sample(
                (truths, at, learnt) =>
                {
                    var condition = new Condition.Any([
                        new Condition.All([Is(0), Is(1)]),
                        new Condition.All([Is(2), Is(3)]),
                    ]);
                    truths[at] = null;
                    var before = condition.Holds(With(truths));
                    truths[at] = learnt;
                    return before is null || condition.Holds(With(truths)) == before;
                }
            );

    [Theory]
    [InlineData("x86-64-v1", false)]
    [InlineData("x86-64-v3", true)]
    [InlineData("x86-64-v4", true)]
    [InlineData("none", false)]
    [InlineData(null, null)]
    public void An_ordered_choice_stands_at_least_so_high(string? level, bool? holds)
    {
        var facts = level is null ? Dossier.Empty : Dossier.From([Facts.Reading("cpu.level", level)]);

        new Condition.AtLeast("cpu.level", FactValue.Of("x86-64-v2")).Holds(facts).ShouldBe(holds);
    }

    [Fact]
    public void A_value_that_leaves_it_open_is_neither_true_nor_false()
    {
        var asked = new Condition.OneOf("release.owner", [FactValue.Of("given")], [FactValue.Of("asked")]);

        asked.Holds(Dossier.From([Facts.Reading("release.owner", "asked")])).ShouldBeNull();
        asked.Holds(Dossier.From([Facts.Reading("release.owner", "given")])).ShouldBe(true);
        asked.Holds(Dossier.From([Facts.Reading("release.owner", "refused")])).ShouldBe(false);
    }

    [Fact]
    public void Keys_are_named_once_in_the_order_of_the_condition() =>
        new Condition.All([Is(1), new Condition.Any([Is(0), Is(1)])]).Keys.ShouldBe([
            "network.1.kind",
            "network.0.kind",
        ]);

    [Fact]
    public void Has_wants_every_word() =>
        Gen.Select(Gen.Bool.Array[5], Gen.Bool.Array[5])
            .Sample(
                (has, wants) =>
                {
                    string[] Chosen(bool[] picks) =>
                        [.. picks.Select((p, i) => (p, i)).Where(x => x.p).Select(x => $"f{x.i}")];
                    var facts = Dossier.From([Facts.Reading("cpu.flags", Chosen(has).Append("lm").ToArray())]);
                    return new Condition.Has("cpu.flags", Chosen(wants)).Holds(facts)
                        == Chosen(wants).All(Chosen(has).Contains);
                }
            );
}
