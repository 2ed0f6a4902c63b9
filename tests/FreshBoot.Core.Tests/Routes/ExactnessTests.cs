using CsCheck;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Routes;

/// <summary>The search of routes against one that tries every order of every cure, on small catalogues made up at random.</summary>
public class ExactnessTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly Evidence Evidence = new("made up", Today, Sureness.Stated);

    private static readonly (string Key, object[] Values)[] Space =
    [
        ("tpm.version", ["absent", "header", "off", "2.0"]),
        ("firmware.startedBy", ["bios", "uefi"]),
        ("firmware.secureBoot", ["absent", "able", "on"]),
        ("storage.0.sizeBytes", [1, 2, 3]),
        ("memory.visibleMiB", [1024, 2048, 4096]),
    ];

    private static readonly Gen<Condition> Leaf =
        from at in Gen.Int[0, Space.Length - 1]
        from value in Gen.Int[0, 3]
        select Is(at, value);

    private static readonly Gen<Condition> Conditions = Gen.Frequency(
        (6, Leaf),
        (1, Gen.Select(Leaf, Leaf).Select(p => (Condition)new Condition.All([p.Item1, p.Item2]))),
        (1, Gen.Select(Leaf, Leaf).Select(p => (Condition)new Condition.Any([p.Item1, p.Item2])))
    );

    private static readonly Gen<Requirement> Requirements =
        from kind in Pick.From(RequirementKind.Gate, RequirementKind.Runtime, RequirementKind.Comfort)
        from needs in Conditions
        from rung in Gen.Int[1, 8]
        select new Requirement(
            "r",
            kind,
            kind == RequirementKind.Gate ? Rung.Setup : (Rung)rung,
            needs,
            Evidence,
            Says: "something"
        );

    private static readonly Gen<Cure> Cures =
        from kind in Pick.From(Outcome.Setting, Outcome.Part, Outcome.Patch, Outcome.Spoof, Outcome.Reflash)
        from sets in Gen.Select(Gen.Int[0, Space.Length - 1], Gen.Int[0, 3]).Array[1, 2]
        from lifts in Gen.Int[-3, 3]
        from needs in Gen.Frequency((2, Gen.Const((Condition?)null)), (1, Leaf.Select(c => (Condition?)c)))
        from money in Gen.Int[0, 3]
        from hands in Gen.Int[0, 3]
        from fail in Gen.Int[0, 2]
        from brings in Gen.Int[0, 3]
        from conflicts in Gen.Int[0, 11]
        select new Cure(
            "c",
            kind,
            Rung.Parts,
            "Do it",
            needs,
            lifts >= 0
                ? null
                : sets.DistinctBy(s => s.Item1)
                    .ToDictionary(s => Space[s.Item1].Key, s => Value(s.Item1, s.Item2), StringComparer.Ordinal),
            lifts >= 0 ? [$"s/r{lifts}"] : null,
            Adds: brings == 0 ? [new SideEffect(Rung.Use, Outcome.Caveat, "a string")] : null,
            Money: money,
            HandsOnMinutes: hands
        )
        {
            FailPerMille = fail,
            Conflicts = conflicts < 5 ? [$"c{conflicts}"] : [],
        };

    private static FactValue Value(int at, int value) => Facts.Value(Space[at].Values[value % Space[at].Values.Length]);

    private static Condition Is(int at, int value) =>
        Space[at].Values[0] is string
            ? new Condition.OneOf(Space[at].Key, [Value(at, value)], [])
            : new Condition.AtLeast(Space[at].Key, Value(at, value));

    private static readonly Gen<(ShopCatalogue Catalogue, Dossier Facts)> Drawn =
        from requirements in Requirements.Array[1, 5]
        from cures in Cures.Array[0, 5]
        from facts in Gen.Int[-1, 3].Array[Space.Length]
        select (Catalogue(requirements, cures), Machine(facts));

    private static ShopCatalogue Catalogue(Requirement[] requirements, Cure[] cures)
    {
        var lists = new CatalogueLists();
        lists.Systems.Add(
            new SystemEntry(
                "s",
                "S",
                null,
                SystemClass.General,
                "made up",
                null,
                Evidence,
                new InstallTime(10, 1, 2, 3),
                [.. requirements.Select((r, i) => r with { Id = $"r{i}" })]
            )
        );
        lists.Cures.AddRange(cures.Select((c, i) => c with { Id = $"c{i}" }));
        return new ShopCatalogue(lists, "");
    }

    private static Dossier Machine(int[] picks) =>
        Facts.GoodBut([.. Space.Select((s, i) => (s.Key, picks[i] < 0 ? null : s.Values[picks[i] % s.Values.Length]))]);

    [Fact]
    public void It_finds_exactly_the_sets_that_nothing_beats() =>
        Drawn.Sample(
            test =>
            {
                var (catalogue, facts) = test;
                var found = new RouteSearch(catalogue)
                    .Find(facts, new RouteQuestion(Today))
                    .Where(r => r.System is not null)
                    .Select(r => (r.School, r.Vector))
                    .Order(ByWords)
                    .ToArray();

                found
                    .SequenceEqual(EveryOrder(catalogue, facts).Order(ByWords))
                    .ShouldBeTrue(
                        $"found {string.Join(' ', found)}\nnot {string.Join(' ', EveryOrder(catalogue, facts))}\n{Told(catalogue, facts)}"
                    );
            },
            iter: Cases.Of(1_000)
        );

    private static string Told(ShopCatalogue catalogue, Dossier facts) =>
        string.Join(
            '\n',
            catalogue
                .Systems[0]
                .Requirements.Select(r => $"{r.Id} {r.Kind} {Said(r.Needs)}")
                .Concat(
                    catalogue.Cures.Select(c =>
                        $"{c.Id} {c.Kind} sets {string.Join(' ', c.Sets?.Select(s => $"{s.Key}={s.Value}") ?? [])} lifts {string.Join(' ', c.Lifts ?? [])} needs {(c.Needs is null ? "" : Said(c.Needs))} money {c.Money} hands {c.HandsOnMinutes} fail {c.FailPerMille} not with {string.Join(' ', c.Conflicts)}"
                    )
                )
                .Concat(Space.Select(s => $"{s.Key} is {facts[s.Key]}"))
        );

    private static string Said(Condition condition) =>
        condition switch
        {
            Condition.All all => string.Join(" and ", all.Of.Select(Said)),
            Condition.Any any => string.Join(" or ", any.Of.Select(Said)),
            Condition.OneOf one => $"{one.Fact}={one.Values[0]}",
            Condition.AtLeast least => $"{least.Fact}>={least.Least}",
            _ => $"{condition}",
        };

    private static readonly Comparer<(School, RouteVector)> ByWords = Comparer<(School, RouteVector)>.Create(
        (a, b) => string.CompareOrdinal(a.ToString(), b.ToString())
    );

    /// <summary>
    /// Takes every cure that can be taken, in every order; drops what holds a smaller set that is as good, and of each school
    /// keeps what nothing beats.
    /// </summary>
    private static IEnumerable<(School School, RouteVector Vector)> EveryOrder(ShopCatalogue catalogue, Dossier facts)
    {
        var evaluator = new Evaluator(catalogue);
        var reached = new List<(HashSet<string> Set, School School, RouteVector Vector)>();
        var open = evaluator
            .Assess(facts, catalogue.Systems[0], new Plan(Today))
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => f.Holds is null)
            .SelectMany(f => f.UndecidedBy)
            .Distinct()
            .Count();
        Go([]);
        var needed = reached
            .Where(r => !reached.Any(o => o.Set.IsProperSubsetOf(r.Set) && o.Vector.IsNoWorse(r.Vector)))
            .Select(r => (r.School, r.Vector))
            .Distinct()
            .ToArray();
        return needed.Where(r => !needed.Any(o => o.School == r.School && o.Vector.Beats(r.Vector)));

        void Go(Cure[] taken)
        {
            // Which of two that set the same thing stays, the order of the work says: a set is one thing, whatever the way to it.
            var plan = new Plan(Today, RouteSearch.InOrder(taken, facts));
            var assessment = evaluator.Assess(facts, catalogue.Systems[0], plan);
            if (!assessment.Rungs.SelectMany(r => r.Findings).Any(f => f.Blocks))
            {
                // One installation in sixty wants more work, whatever was done before it, and one fact in thirty that nobody
                // measured is otherwise.
                var risk =
                    1
                    - taken.Aggregate(0.984 * Math.Pow(0.97, open), (well, c) => well * (1 - c.FailPerMille / 1000.0));
                var worst = taken.Select(c => c.Kind).DefaultIfEmpty(Outcome.Clear).Max();
                reached.Add(
                    (
                        taken.Select(c => c.Id).ToHashSet(StringComparer.Ordinal),
                        worst switch
                        {
                            Outcome.Reflash => School.Reflash,
                            Outcome.Spoof => School.Spoof,
                            Outcome.Patch => School.Patch,
                            _ => School.Comply,
                        },
                        new RouteVector(
                            taken.Sum(c => c.Money),
                            10 + taken.Sum(c => c.HandsOnMinutes),
                            (int)Math.Round(risk * 1e6),
                            int.MaxValue,
                            Fit.Of(assessment)
                        )
                    )
                );
            }
            foreach (var cure in catalogue.Cures)
                if (
                    !plan.Excludes(cure)
                    && (cure.Needs?.Holds(plan.Over(facts)) != false || cure.Needs.Holds(facts) != false)
                )
                    Go([.. taken, cure]);
        }
    }
}
