using System.Collections.Frozen;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// The one evaluator: holds the requirements of a system against a dossier under a plan. Fleet, machine, routes,
/// rehearsal and preview all ask here.
/// </summary>
public sealed class Evaluator(ShopCatalogue catalogue)
{
    private const int UpdatedFor = 24;

    /// <summary>The keys of the devices of a group, made once.</summary>
    private static readonly FrozenDictionary<string, string[]> Keys = new[]
    {
        "network",
        "graphics",
    }.ToFrozenDictionary(
        group => group,
        group => Enumerable.Range(0, 10).Select(i => $"{group}.{i}.model").ToArray(),
        StringComparer.Ordinal
    );

    /// <summary>
    /// Judges <paramref name="system"/> on a machine. A condition that holds is clear; one that a missing fact leaves open
    /// is unknown; one that does not hold takes the mildest cure that exists, or is a wall. Of several conditions, "all"
    /// is as bad as the worst and "any" as good as the best.
    /// </summary>
    /// <param name="facts">The dossier, completed by <see cref="Derivation"/>.</param>
    /// <param name="system">A system of the catalogue.</param>
    /// <param name="plan">The cures taken and the as-of date.</param>
    public Assessment Assess(IFacts facts, SystemEntry system, Plan plan)
    {
        var planned = plan.Over(facts);
        var standings = new RungStanding[10];
        var findings = new List<Finding>[10];
        for (var i = 0; i < findings.Length; i++)
            findings[i] = [];

        foreach (var requirement in BuiltIn.Requirements)
            findings[(int)requirement.Rung].Add(Judge(planned, system, requirement, plan));
        foreach (var requirement in system.Requirements)
            findings[(int)requirement.Rung].Add(Judge(planned, system, requirement, plan));
        findings[(int)Rung.Upkeep].Add(Support(planned, system, plan.AsOf));
        foreach (var effect in plan.Cures.SelectMany(c => c.Adds ?? [], (cure, effect) => (cure, effect)))
            findings[(int)effect.effect.Rung].Add(SideEffectOf(effect.cure, effect.effect, planned, plan.AsOf));

        for (var i = 0; i < standings.Length; i++)
            standings[i] = new RungStanding((Rung)i, Worst(findings[i], f => f.Outcome), findings[i]);
        return new Assessment(system.Id, Worst(standings, s => s.Outcome), standings);
    }

    private Finding Judge(IFacts facts, SystemEntry system, Requirement requirement, Plan plan)
    {
        var gate = $"{system.Id}/{requirement.Id}";
        if (plan.LiftedBy(gate) is { } lifting)
            return new Finding(requirement, facts, Outcome.Clear, [], [], lifting);

        var weighed = Weigh(requirement.Needs, facts, system, plan);
        if (weighed.Outcome == Outcome.Clear)
            return new Finding(requirement, facts, Outcome.Clear, [], []);

        // Lifting is asked only where the condition surely fails: a fact that nobody measured may still hold, and a
        // patch that was not needed is the dearer way.
        var fails = requirement.Needs.Holds(facts) == false;
        if (weighed.Outcome != Outcome.Unknown || fails)
            weighed = Better(weighed, Lifting(facts, system.Id, requirement.Id, gate));

        // What only warns or only annoys is a caveat as soon as it surely fails, whether or not a cure for it is known.
        var mild = requirement.Kind == RequirementKind.Comfort || requirement.Advisory;
        var outcome = mild && (weighed.Outcome != Outcome.Unknown || fails) ? Outcome.Caveat : weighed.Outcome;
        var cures = weighed
            .Cures.DistinctBy(c => c.Id)
            .OrderBy(c => c.Kind)
            .ThenBy(c => c.Money)
            .ThenBy(c => c.HandsOnMinutes);
        return new Finding(
            requirement,
            facts,
            outcome,
            [.. cures],
            outcome == Outcome.Unknown ? [.. weighed.Open.Distinct()] : []
        );
    }

    /// <summary>How a condition stands, what would mend it, and which missing facts leave it open.</summary>
    private readonly record struct Weighed(Outcome Outcome, IReadOnlyList<Cure> Cures, IReadOnlyList<string> Open)
    {
        public static Weighed Clear { get; } = new(Outcome.Clear, [], []);
        public static Weighed Wall { get; } = new(Outcome.Wall, [], []);
    }

    private Weighed Weigh(Condition condition, IFacts facts, SystemEntry system, Plan plan)
    {
        switch (condition)
        {
            case Condition.All all:
            {
                var parts = all.Of.Select(c => Weigh(c, facts, system, plan)).ToArray();
                return Merge(parts, parts.Max(p => p.Outcome));
            }
            case Condition.Any any:
            {
                var parts = any.Of.Select(c => Weigh(c, facts, system, plan)).ToArray();
                return Merge(parts, parts.Min(p => p.Outcome));
            }
            case Condition.Driven driven:
                return WeighDrivers(driven.Group, facts, system, plan);
            default:
                return condition.Holds(facts) switch
                {
                    true => Weighed.Clear,
                    null => new Weighed(
                        Outcome.Unknown,
                        [],
                        [.. condition.Keys.Where(k => facts[k] is null).DefaultIfEmpty(condition.Keys.First())]
                    ),
                    false => Mend(condition, facts, plan),
                };
        }
    }

    /// <summary>The cures that make a single condition hold.</summary>
    private Weighed Mend(Condition condition, IFacts facts, Plan plan)
    {
        var result = Weighed.Wall;
        foreach (var key in condition.Keys)
        {
            foreach (var cure in catalogue.CuresThatSet(key))
                result = Better(result, Try(cure, condition, facts));

            if (key == "memory.installedMiB" && condition is Condition.AtLeast { Least: FactValue.Whole least })
            {
                var (cures, open) = MemoryUpgrades.Reach(facts, least.Value, catalogue.Memory, plan.Shelf);
                if (cures.Count > 0)
                    result = Better(result, new Weighed(Outcome.Part, cures, []));
                else if (open.Count > 0)
                    result = Better(result, new Weighed(Outcome.Unknown, [], open));
            }
        }
        return result;
    }

    private static Weighed Try(Cure cure, Condition condition, IFacts facts)
    {
        switch (cure.Needs?.Holds(facts))
        {
            case false:
                return Weighed.Wall;
            case null when cure.Needs is not null:
                return new Weighed(Outcome.Unknown, [], [.. cure.Needs.Keys.Where(k => facts[k] is null)]);
        }
        return condition.Holds(new Overlay(facts, cure.Sets!)) == true
            ? new Weighed(cure.Kind, [cure], [])
            : Weighed.Wall;
    }

    private Weighed Lifting(IFacts facts, string system, string requirement, string gate)
    {
        var result = DonorChoice.Lift(facts, system, requirement, catalogue.Donors) switch
        {
            ({ } cure, _) => new Weighed(cure.Kind, [cure], []),
            (null, { Count: > 0 } open) => new Weighed(Outcome.Unknown, [], open),
            _ => Weighed.Wall,
        };
        foreach (var cure in catalogue.CuresThatLift(gate))
            result = Better(
                result,
                (cure.Needs is null ? true : cure.Needs.Holds(facts)) switch
                {
                    true => new Weighed(cure.Kind, [cure], []),
                    null => new Weighed(Outcome.Unknown, [], [.. cure.Needs!.Keys.Where(k => facts[k] is null)]),
                    false => Weighed.Wall,
                }
            );
        return result;
    }

    private Weighed WeighDrivers(string group, IFacts facts, SystemEntry system, Plan plan)
    {
        if (plan.Replaces(group))
            return Weighed.Clear;
        var parts = new List<Weighed>();
        for (var i = 0; i < 10; i++)
        {
            var key = Keys[group][i];
            if (facts.Word(key) is { } model)
                parts.Add(WeighDriver(key, group, model, system, plan));
        }
        return parts.Count == 0
            ? new Weighed(Outcome.Unknown, [], [$"{group}.0.model"])
            : Merge(parts, parts.Max(p => p.Outcome));
    }

    private Weighed WeighDriver(string key, string group, string model, SystemEntry system, Plan plan)
    {
        if (catalogue.Device(group, model) is not { } device)
            return new Weighed(Outcome.Unknown, [], [key]);
        if (plan.Drives(device.Id))
            return Weighed.Clear;
        DriverState? state = device.Drivers.TryGetValue(system.Id, out var listed) ? listed : device.Otherwise;
        return state switch
        {
            DriverState.BuiltIn => Weighed.Clear,
            DriverState.AfterInstall => new Weighed(Outcome.Driver, [DriverPackage(device)], []),
            DriverState.None => catalogue.Cures.Where(c => c.Replaces == group).ToArray() is { Length: > 0 } spare
                ? new Weighed(spare.Min(c => c.Kind), spare, [])
                : Weighed.Wall,
            _ => new Weighed(Outcome.Unknown, [], [key]),
        };
    }

    private static Cure DriverPackage(DeviceEntry device) =>
        new(
            $"driver-{device.Id.ToLowerInvariant()}",
            Outcome.Driver,
            Rung.Devices,
            $"Add the driver package for {device.Name} after installation",
            Drives: [device.Id],
            HandsOnMinutes: 8,
            How: "Bring the package on a stick or use the wired network: without its driver this device cannot fetch it.",
            Brief: $"Bring the {device.Id} driver"
        );

    private static Weighed Better(Weighed one, Weighed other) =>
        new(
            one.Outcome <= other.Outcome ? one.Outcome : other.Outcome,
            other.Cures.Count == 0 ? one.Cures : [.. one.Cures, .. other.Cures],
            other.Open.Count == 0 ? one.Open : [.. one.Open, .. other.Open]
        );

    private static Weighed Merge(IReadOnlyCollection<Weighed> parts, Outcome outcome) =>
        outcome == Outcome.Clear
            ? Weighed.Clear
            : new Weighed(outcome, [.. parts.SelectMany(p => p.Cures)], [.. parts.SelectMany(p => p.Open)]);

    private static Finding Support(IFacts facts, SystemEntry system, DateOnly asOf)
    {
        var (outcome, text) = system.SupportEnds switch
        {
            null => (Outcome.Clear, "Updates keep coming; no end date is set."),
            { } end when end < asOf => (
                Outcome.Wall,
                $"Updates ended on {end:d MMM yyyy}. Take a system that still gets them."
            ),
            { } end when Months(asOf, end) < UpdatedFor => (
                Outcome.Caveat,
                $"Updates to {end:d MMM yyyy}, {Left(Months(asOf, end))}. Plan what comes after."
            ),
            { } end => (Outcome.Clear, $"Updates to {end:d MMM yyyy}."),
        };
        var requirement = new Requirement(
            "support",
            RequirementKind.Runtime,
            Rung.Upkeep,
            NoFacts,
            system.Evidence,
            Says: "updates for two years more"
        );
        return new Finding(requirement, facts, outcome, [], [], text: text);
    }

    private static readonly Condition NoFacts = new Condition.All([]);

    private static string Left(int months) =>
        months < 1
            ? "less than a month from now"
            : $"{Numbers.Word(months)} {(months == 1 ? "month" : "months")} from now";

    /// <summary>Whole months from one day to another.</summary>
    internal static int Months(DateOnly from, DateOnly to) =>
        (to.Year - from.Year) * 12 + to.Month - from.Month - (to.Day < from.Day ? 1 : 0);

    private static Finding SideEffectOf(Cure cure, SideEffect effect, IFacts facts, DateOnly asOf) =>
        new(
            new Requirement(
                $"{cure.Id}-brings",
                RequirementKind.Comfort,
                effect.Rung,
                NoFacts,
                new Evidence("side effect of the cure", asOf, Sureness.Stated),
                Says: cure.Does
            ),
            facts,
            effect.Outcome,
            [],
            [],
            text: effect.Text
        );

    private static Outcome Worst<T>(IEnumerable<T> all, Func<T, Outcome> outcome) =>
        all.Select(outcome).DefaultIfEmpty(Outcome.Clear).Max();
}
