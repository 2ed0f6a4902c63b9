using CsCheck;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>The composer against every order there is, on sets that are small enough to try them all.</summary>
public class ComposerTests
{
    private static readonly string[] Keys = ["drive", "running", "mediumAt", "loader"];
    private static readonly Dictionary<string, string> Start = World.Keys.ToDictionary(
        k => k.Key,
        k => k.Values[0],
        StringComparer.Ordinal
    );

    /// <summary>A step of one need and one deed, over few keys and values, so that they often depend on one another.</summary>
    private static readonly Gen<StepEntry> Steps = Gen.Select(
            Gen.Int[0, Keys.Length - 1],
            Gen.Int[0, 2],
            Gen.Int[0, Keys.Length - 1],
            Gen.Int[0, 2],
            Gen.Int[0, 9],
            Gen.Int[0, 3]
        )
        .Select(
            (needs, with, does, to, rung, wait) =>
                new StepEntry("s", wait == 0 ? StepKind.Wait : StepKind.Do, StepPlace.Machine, "x")
                {
                    Rung = (Rung)rung,
                    Needs = new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)
                    {
                        [Keys[needs]] = [World.Find(Keys[needs])!.Values[with]],
                    },
                    Does = new Dictionary<string, string>(StringComparer.Ordinal)
                    {
                        [Keys[does]] = World.Find(Keys[does])!.Values[to],
                    },
                }
        );

    [Fact]
    public void It_finds_the_first_order_that_holds_and_none_where_none_does()
    {
        var found = 0;
        var none = 0;
        Steps
            .Array[1, 2]
            .Array[1, 6]
            .Sample(
                sets =>
                {
                    var fragments = sets.Select((steps, i) => new Fragment($"f{i}", $"f{i}", steps)).ToArray();
                    var (order, missing) = Composer.Order(fragments, Start);
                    var brute = Orders(Composer.Preferred(fragments)).FirstOrDefault(Holds);
                    if (brute is null)
                    {
                        Interlocked.Increment(ref none);
                        missing.ShouldNotBeEmpty();
                    }
                    else
                    {
                        Interlocked.Increment(ref found);
                        missing.ShouldBeEmpty();
                        order.Select(f => f.Id).ShouldBe(brute.Select(f => f.Id));
                    }
                },
                iter: Cases.Of(5_000)
            );
        found.ShouldBeGreaterThan(Cases.Of(150));
        none.ShouldBeGreaterThan(Cases.Of(250));
    }

    /// <summary>Every order, those first that begin with what goes first.</summary>
    private static IEnumerable<Fragment[]> Orders(IReadOnlyList<Fragment> of)
    {
        if (of.Count == 0)
            yield return [];
        for (var i = 0; i < of.Count; i++)
            foreach (var rest in Orders([.. of.Where((_, j) => j != i)]))
                yield return [of[i], .. rest];
    }

    /// <summary>Written apart from the composer: walks an order and looks at each need.</summary>
    private static bool Holds(Fragment[] order)
    {
        var world = new Dictionary<string, string>(Start, StringComparer.Ordinal);
        foreach (var step in order.SelectMany(f => f.Steps))
        {
            if (step.Needs.Any(n => !n.Value.Contains(world[n.Key])))
                return false;
            foreach (var (key, value) in step.Does)
                world[key] = value;
        }
        return true;
    }
}
