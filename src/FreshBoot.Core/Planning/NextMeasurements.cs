using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Planning;

/// <summary>How a system would stand if a fact had a value.</summary>
/// <param name="System">Id of the system.</param>
/// <param name="Now">How it stands now.</param>
/// <param name="IfValue">The value.</param>
/// <param name="Outcome">How it would stand.</param>
public sealed record Decision(string System, Outcome Now, FactValue IfValue, Outcome Outcome);

/// <summary>How the best route would change if a fact had a value.</summary>
/// <param name="IfValue">The value.</param>
/// <param name="System">Id of the system of the best route then; null where the machine would be retired.</param>
/// <param name="School">Its school.</param>
public sealed record RouteDecision(FactValue IfValue, string? System, School School);

/// <summary>A measurement that would settle something.</summary>
/// <param name="Key">The fact key.</param>
/// <param name="Label">Its name on the screen.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="How">How it is done, in the shop's words.</param>
/// <param name="Conflict">Whether sources disagree and a person has to choose.</param>
/// <param name="Decides">The outcomes that would change, by value.</param>
/// <param name="Systems">How many systems it decides.</param>
/// <param name="Settles">How many open findings, over all systems, at least one value would settle.</param>
/// <param name="Routes">How the best route would change, by value; only told of the first few.</param>
/// <param name="Text">The advice in one sentence.</param>
public sealed record NextMeasurement(
    string Key,
    string Label,
    int Minutes,
    string How,
    bool Conflict,
    IReadOnlyList<Decision> Decides,
    int Systems,
    int Settles,
    IReadOnlyList<RouteDecision> Routes,
    string Text
);

/// <summary>
/// What to measure next: every value that an unknown or disputed fact could have is tried in the evaluator, and the facts are
/// ranked by decisions changed per minute of effort. What one run of the probe reads together shares its minutes.
/// </summary>
public sealed class NextMeasurements(ShopCatalogue catalogue)
{
    private const int WithRoutes = 5;
    private readonly Evaluator _evaluator = new(catalogue);
    private readonly RouteSearch _routes = new(catalogue);

    /// <summary>The measurements worth making, best first.</summary>
    public IReadOnlyList<NextMeasurement> Find(
        Dossier facts,
        DateOnly asOf,
        PartsShelf? shelf = null,
        Order? order = null
    )
    {
        var plan = new Plan(asOf, null, shelf, order);
        var question = new RouteQuestion(asOf, shelf, order);
        var now = catalogue.Systems.Select(s => _evaluator.Assess(facts, s, plan)).ToArray();
        var open = OpenOf(now);
        var keys = Keys(facts, now).ToArray();
        var sharing = keys.GroupBy(k => FactRegistry.Get(k.Key).HowToMeasure, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.Count(), StringComparer.Ordinal);

        var found = new List<(NextMeasurement Measurement, double Worth, FactValue[] Values)>();
        foreach (var (key, conflict) in keys)
        {
            var definition = FactRegistry.Get(key);
            var values = conflict ? Disputed(facts, key) : Possible(key);
            var decides = new List<Decision>();
            var settled = new HashSet<(string, string)>();
            foreach (var value in values)
            {
                var measured = With(facts, key, value, conflict);
                var then = catalogue.Systems.Select(s => _evaluator.Assess(measured, s, plan));
                foreach (var (before, after) in now.Zip(then))
                {
                    if (before.Outcome != after.Outcome)
                        decides.Add(new Decision(before.System, before.Outcome, value, after.Outcome));
                    var still = OpenOf([after]);
                    settled.UnionWith(open.Where(o => o.System == before.System && !still.Contains(o)));
                }
            }
            if (decides.Count == 0 && settled.Count == 0)
                continue;
            var systems = decides.Select(d => d.System).Distinct(StringComparer.Ordinal).Count();
            var effort = (double)definition.Minutes / sharing[definition.HowToMeasure];
            found.Add(
                (
                    new NextMeasurement(
                        key,
                        FactRegistry.Label(key),
                        definition.Minutes,
                        definition.HowToMeasure,
                        conflict,
                        decides,
                        systems,
                        settled.Count,
                        [],
                        Say(definition, conflict, systems, settled.Count)
                    ),
                    (systems + settled.Count / 1000.0) / effort,
                    values
                )
            );
        }
        var ranked = found
            .OrderBy(f => Turn(f.Measurement, TooLittle.IsKnownOf(facts)))
            .ThenByDescending(f => f.Worth)
            .ThenBy(f => FactRegistry.Position(f.Measurement.Key))
            .ToArray();
        if (ranked.Length == 0)
            return [];
        var best = _routes.Best(facts, question);
        return
        [
            .. ranked.Select(
                (f, i) =>
                    i >= WithRoutes
                        ? f.Measurement
                        : f.Measurement with
                        {
                            Routes = RoutesBy(facts, f.Measurement, f.Values, best, question),
                        }
            ),
        ];
    }

    /// <summary>
    /// Before anything is measured: leave, and what could hurt. Of a machine of which nothing is known, then what a look at it
    /// tells within a minute, and only then what wants it started.
    /// </summary>
    private static int Turn(NextMeasurement m, bool nothingKnown) =>
        m.Key switch
        {
            "release.owner" => 0,
            "parts.battery" or "parts.powersOn" => 1,
            _ when nothingKnown && m.Minutes <= 1 => 2,
            _ => 3,
        };

    /// <summary>The dossier after a value was entered, or chosen where sources disagree.</summary>
    public Dossier With(Dossier facts, string key, FactValue value, bool conflict) =>
        Derivation.Complete(
            facts
                .WithWord(
                    new Reading(
                        key,
                        value,
                        "measured",
                        conflict ? Origin.Chosen : Origin.Entered,
                        default,
                        null,
                        long.MaxValue
                    )
                )
                .Readings,
            catalogue
        );

    private RouteDecision[] RoutesBy(
        Dossier facts,
        NextMeasurement measurement,
        FactValue[] values,
        (string? System, School School) best,
        RouteQuestion question
    ) =>
        [
            .. values
                .Select(v =>
                    (Value: v, Best: _routes.Best(With(facts, measurement.Key, v, measurement.Conflict), question))
                )
                .Where(r => r.Best != best)
                .Select(r => new RouteDecision(r.Value, r.Best.System, r.Best.School)),
        ];

    /// <summary>The open findings, by system and requirement.</summary>
    private static HashSet<(string System, string Requirement)> OpenOf(IEnumerable<Assessment> all) =>
        [
            .. all.SelectMany(a =>
                a.Rungs.SelectMany(r => r.Findings)
                    .Where(f => f.Outcome == Outcome.Unknown)
                    .Select(f => (a.System, f.Requirement))
            ),
        ];

    /// <summary>The facts that could be measured: unknown ones, disputed ones, and answers that leave a question open.</summary>
    private static IEnumerable<(string Key, bool Conflict)> Keys(Dossier facts, Assessment[] now)
    {
        foreach (var fact in facts.Facts.Where(f => f.Disagreeing.Count > 0 && f.Origin != Origin.Chosen))
            // What follows from other facts gives way to them of itself.
            if (fact.Disagreeing.Any(d => d.Origin != Origin.Derived))
                yield return (fact.Key, true);
        var undecided = now.SelectMany(a => a.Rungs)
            .SelectMany(r => r.Findings)
            .SelectMany(f => f.UndecidedBy)
            .ToHashSet(StringComparer.Ordinal);
        foreach (var definition in FactRegistry.All)
        {
            if (definition.Detail || definition.Derived)
                continue;
            var fact = facts.Find(definition.Key);
            // A choice that somebody entered may leave it open: "asked, no answer yet".
            var answeredOpen =
                fact is { Origin: Origin.Entered or Origin.Derived, Disagreeing.Count: 0 }
                && definition.Form == FactForm.Choice
                && undecided.Contains(definition.Key);
            if (fact is null || answeredOpen)
                yield return (definition.Key, false);
        }
    }

    private static FactValue[] Disputed(Dossier facts, string key)
    {
        var fact = facts.Find(key)!;
        return
        [
            .. fact
                .Disagreeing.Where(d => d.Origin != Origin.Derived)
                .Select(d => d.Value)
                .Prepend(fact.Value)
                .Distinct(),
        ];
    }

    /// <summary>
    /// The values that tell outcomes apart: all choices; of numbers the two sides of every threshold in the catalogue; of
    /// names those that the catalogue knows.
    /// </summary>
    private FactValue[] Possible(string key)
    {
        var definition = FactRegistry.Get(key);
        return definition.Form switch
        {
            FactForm.Choice => [.. definition.Choices.Select(c => FactValue.Of(c.Value))],
            FactForm.Words =>
            [
                .. CpuLevel.Levels.Select((_, i) => FactValue.Of(FlagsUpTo(i))).Prepend(FactValue.Of(["fpu"])),
            ],
            FactForm.Whole => [.. Numbers(definition).Distinct().Order().Select(FactValue.Of)],
            _ => [.. Names(key).Distinct(StringComparer.Ordinal).Select(FactValue.Of)],
        };
    }

    private static IEnumerable<string> FlagsUpTo(int level) =>
        CpuLevel.Levels.Take(level + 1).SelectMany(l => l.Adds).Select(f => f.Flag);

    private IEnumerable<long> Numbers(FactDefinition definition)
    {
        // The most that a board takes and what is fitted decide together.
        string[] alike =
            definition.Key == "memory.maxMiB" ? ["memory.maxMiB", "memory.installedMiB"] : [definition.Key];
        var thresholds = catalogue
            .Systems.SelectMany(s => s.Requirements.Select(r => r.Needs))
            .Concat(catalogue.Cures.Select(c => c.Needs).OfType<Condition>())
            .Concat(catalogue.Programs.Select(p => p.Needs))
            .SelectMany(Leaves)
            .OfType<Condition.AtLeast>()
            .Where(c => alike.Contains(c.Fact) && c.Least is FactValue.Whole)
            .Select(c => ((FactValue.Whole)c.Least).Value)
            .ToHashSet();
        if (definition.Key is "memory.slots" or "memory.slotsUsed")
            thresholds.UnionWith([1, 2, 4]);
        return thresholds
            .SelectMany(t =>
                definition.Key.StartsWith("memory.slots", StringComparison.Ordinal) ? [t] : new[] { t - 1, t }
            )
            .Where(v =>
                v >= definition.Min && v <= definition.Max && (definition.Key != "cpu.wordBits" || v is 32 or 64)
            );
    }

    private static IEnumerable<Condition> Leaves(Condition condition) =>
        condition switch
        {
            Condition.All all => all.Of.SelectMany(Leaves),
            Condition.Any any => any.Of.SelectMany(Leaves),
            _ => [condition],
        };

    private IEnumerable<string> Names(string key) =>
        key switch
        {
            "cpu.model" => catalogue.Processors.Select(p => $"{p.Maker} {p.Generation}").Where(Known),
            "graphics.0.model" => catalogue
                .Devices.Where(d => d.Group == "graphics" && d.Pattern.IsMatch(d.Name))
                .Select(d => d.Name),
            "network.0.model" => catalogue
                .Devices.Where(d => d.Group == "network" && d.Pattern.IsMatch(d.Name))
                .Select(d => d.Name),
            "identity.model" => catalogue.Donors.Select(d => $"{d.Line} {d.Id}"),
            "identity.maker" => catalogue.Donors.Select(d => d.Maker),
            "identity.board" => catalogue.Boards.Select(b => b.Id),
            "os.name" => catalogue.Systems.Select(s => s.FullName),
            "memory.type" => catalogue.Memory.Select(m => m.Type),
            _ => [],
        };

    private bool Known(string processor) => catalogue.Processors.Any(p => p.Pattern.IsMatch(processor));

    private string Say(FactDefinition definition, bool conflict, int systems, int settles)
    {
        var what = conflict
            ? $"Settle which source is right: {definition.Label}"
            : definition.HowToMeasure.TrimEnd('.');
        return systems > 0
            ? $"{what} ({definition.Minutes} min): decides {systems} of {catalogue.Systems.Count} systems."
            : $"{what} ({definition.Minutes} min): settles {settles} open {(settles == 1 ? "question" : "questions")}.";
    }
}
