using System.Collections.Concurrent;
using System.Collections.Frozen;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Soundness;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// The one evaluator: holds the requirements of a system against a dossier under a plan. Fleet, machine, routes,
/// rehearsal and preview all ask here. Outcomes are worked out at once; cures, open facts and words only when somebody
/// reads them.
/// </summary>
public sealed class Evaluator(ShopCatalogue catalogue)
{
    private const int UpdatedFor = 24;
    private const string Network = "network";

    // A cure may need another first; longer chains are not work that anybody does.
    private const int LongestChain = 3;

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

    private const string CutByOthers =
        "Somebody other than its maker changed this image: it is as trustworthy as they are, and parts are missing.";

    private static readonly Condition NoFacts = new Condition.All([]);

    private static readonly Requirement ThirdParty = new(
        "trust",
        RequirementKind.Comfort,
        Rung.Use,
        NoFacts,
        new Evidence("rule of the house", new DateOnly(2026, 11, 2), Sureness.Tried),
        Says: "an image as its maker made it"
    );

    private static readonly Requirement AllMemory = new(
        "memory-seen",
        RequirementKind.Comfort,
        Rung.Kernel,
        NoFacts,
        new Evidence("rule of the house", new DateOnly(2026, 11, 26), Sureness.Tried),
        Says: "all of the memory that is fitted"
    );

    private static readonly Requirement Forced = new(
        "everyday",
        RequirementKind.Comfort,
        Rung.Use,
        NoFacts,
        new Evidence("rule of the house", new DateOnly(2026, 11, 26), Sureness.Tried),
        Says: "a system that its maker supports, for everyday use"
    );

    private readonly ConcurrentDictionary<SystemEntry, Asking> _asking = new(ReferenceEqualityComparer.Instance);
    private readonly ConcurrentDictionary<string, Cure> _drivers = new(StringComparer.Ordinal);

    /// <summary>
    /// Judges <paramref name="system"/> on a machine. A condition that holds is clear; one that a missing fact leaves open
    /// is unknown; one that does not hold takes the mildest cure that exists, or is a wall. Of several conditions, "all"
    /// is as bad as the worst and "any" as good as the best.
    /// </summary>
    /// <param name="facts">The dossier, completed by <see cref="Derivation"/>.</param>
    /// <param name="system">A system of the catalogue.</param>
    /// <param name="plan">The cures taken, the needs of the order and the as-of date.</param>
    public Assessment Assess(IFacts facts, SystemEntry system, Plan plan)
    {
        var asking = AskingOf(system);
        var judging = new Judging(this, facts, plan.Over(facts), system, plan);
        var further = Further(judging, asking);
        var standings = new RungStanding[10];
        var worst = Outcome.Clear;
        for (var i = 0; i < standings.Length; i++)
        {
            var asks = asking.ByRung[i];
            var more = 0;
            foreach (var finding in further)
                if ((int)finding.Rung == i)
                    more++;
            var findings = new Finding[asks.Length + more];
            var outcome = Outcome.Clear;
            for (var j = 0; j < asks.Length; j++)
            {
                findings[j] = judging.Judge(asks[j]);
                if (findings[j].Outcome > outcome)
                    outcome = findings[j].Outcome;
            }
            var at = asks.Length;
            foreach (var finding in further)
            {
                if ((int)finding.Rung != i)
                    continue;
                findings[at++] = finding;
                if (finding.Outcome > outcome)
                    outcome = finding.Outcome;
            }
            standings[i] = new RungStanding((Rung)i, outcome, findings);
            if (outcome > worst)
                worst = outcome;
        }
        return new Assessment(system.Id, worst, standings);
    }

    /// <summary>
    /// The outcome of <see cref="Assess"/> alone, for whole fleets: no findings are made, and the first wall ends the judging.
    /// </summary>
    public Outcome Grade(IFacts facts, SystemEntry system, Plan plan)
    {
        var asking = AskingOf(system);
        var judging = new Judging(this, facts, plan.Over(facts), system, plan);
        var worst = Outcome.Clear;
        foreach (var asks in asking.ByRung)
        foreach (var ask in asks)
        {
            var (outcome, _, _) = judging.Weigh(ask);
            if (outcome == Outcome.Wall)
                return Outcome.Wall;
            if (outcome > worst)
                worst = outcome;
        }
        foreach (var finding in Further(judging, asking))
            if (finding.Outcome > worst)
                worst = finding.Outcome;
        return worst;
    }

    private Asking AskingOf(SystemEntry system) =>
        _asking.TryGetValue(system, out var known) ? known : _asking.GetOrAdd(system, new Asking(system, catalogue));

    /// <summary>A requirement with the name under which cures lift it.</summary>
    internal readonly record struct Ask(Requirement Requirement, string Gate);

    /// <summary>What a system asks for, by rung, made once.</summary>
    private sealed class Asking
    {
        public Asking(SystemEntry system, ShopCatalogue catalogue)
        {
            var all = BuiltIn.Requirements.Concat(system.Requirements).ToArray();
            ByRung =
            [
                .. Enumerable
                    .Range(0, 10)
                    .Select(i =>
                        all.Where(r => (int)r.Rung == i).Select(r => new Ask(r, $"{system.Id}/{r.Id}")).ToArray()
                    ),
            ];
            _on = all.Where(r => r.Kind == RequirementKind.Runtime && !r.Advisory && r.Needs is Condition.AtLeast)
                .GroupBy(r => ((Condition.AtLeast)r.Needs).Fact, StringComparer.Ordinal)
                .ToDictionary(g => g.Key, g => g.ToArray(), StringComparer.Ordinal);
            Support = new Requirement(
                "support",
                RequirementKind.Runtime,
                Rung.Upkeep,
                NoFacts,
                system.Evidence,
                Says: "updates for two years more"
            );
            Programs = Enum.GetValues<Purpose>()
                .ToDictionary(p => p, p => ProgramNeeds.For(p, system, catalogue.Programs));
            WebIsKnown = catalogue.Programs.Any(p => p.Purpose == Purpose.Web);
        }

        private readonly Dictionary<string, Requirement[]> _on;

        public Ask[][] ByRung { get; }

        /// <summary>What the system cannot run without, of those that ask for a fact and for nothing beside it.</summary>
        public Requirement[] On(string key) => _on.GetValueOrDefault(key, []);

        public Requirement Support { get; }
        public Dictionary<Purpose, Requirement> Programs { get; }
        public bool WebIsKnown { get; }
    }

    /// <summary>The rungs on which no system asks for nothing: something starts it, from something, and it runs on something.</summary>
    private static readonly Rung[] Stated = [Rung.Firmware, Rung.Medium, Rung.Kernel];

    /// <summary>What is not asked of every machine alike: support, programs, the order, and strings attached to cures.</summary>
    private static List<Finding> Further(Judging judging, Asking asking)
    {
        var plan = judging.Plan;
        var findings = new List<Finding>(4) { judging.Support(asking.Support) };
        // A machine that starts and shows no page is of little use to anybody, whether an order says it or not.
        if (
            asking.WebIsKnown
            && plan.Order?.Needs.Any(n => n is { Kind: NeedKind.Program, Purpose: Purpose.Web }) != true
        )
            findings.Add(judging.Judge(new Ask(asking.Programs[Purpose.Web], "")));
        if (judging.System.Trust == Trust.ThirdParty)
            findings.Add(judging.Say(ThirdParty, Outcome.Caveat, () => CutByOthers, holds: false));
        foreach (var need in plan.Order?.Needs ?? [])
        {
            if (need.Kind == NeedKind.Program)
                findings.Add(
                    judging.Judge(
                        new Ask(
                            asking.Programs[need.Purpose!.Value] with
                            {
                                Kind = need.Hard ? RequirementKind.Runtime : RequirementKind.Comfort,
                            },
                            ""
                        )
                    )
                );
            else if (OrderRules.Hold(need, judging.System, judging.SupportEnds) is { } held)
                findings.Add(
                    judging.Say(
                        OrderRules.Requirement(need, plan.Order!),
                        held ? Outcome.Clear
                            : need.Hard ? (judging.CanExtendTo(need.Until) ? Outcome.Setting : Outcome.Wall)
                            : Outcome.Caveat,
                        () => OrderRules.Text(need, judging.System, judging.SupportEnds, held),
                        held
                    )
                );
        }
        foreach (var rung in Stated)
            if (asking.ByRung[(int)rung].Length == 0)
                findings.Add(judging.NotStated(rung));
        // Where nobody compared the two there is nothing to tell.
        var capped = judging.Facts.Word("memory.seen") == "part";
        findings.Add(
            judging.Say(
                AllMemory,
                capped ? Outcome.Caveat : Outcome.Clear,
                () => capped ? $"{MachineSoundness.MemorySeen(judging.Facts)}." : "No cap was seen.",
                !capped
            )
        );
        foreach (var cure in plan.Cures)
        foreach (var effect in cure.Adds ?? [])
            if (effect.When is null || (effect.When.Holds(judging.Facts) ?? effect.IfUnknown))
                findings.Add(judging.SideEffect(cure, effect));
        if (
            plan.Order is { Everyday: true }
            && plan.Cures.FirstOrDefault(c => c.Kind.School() is School.Patch or School.Spoof) is { } forced
        )
            findings.Add(
                judging.Say(
                    Forced,
                    Outcome.Caveat,
                    () =>
                        $"Somebody relies on it every day, and the maker does not stand behind it so ({forced.Does}): it wants the owner's word.",
                    holds: false
                )
            );
        return findings;
    }

    /// <summary>Whole months from one day to another.</summary>
    internal static int Months(DateOnly from, DateOnly to) =>
        (to.Year - from.Year) * 12 + to.Month - from.Month - (to.Day < from.Day ? 1 : 0);

    /// <summary>How a condition stands: its outcome, and whether it holds, three-valued.</summary>
    internal readonly record struct Weighed(Outcome Outcome, bool? Holds)
    {
        public static Weighed Clear { get; } = new(Outcome.Clear, true);
    }

    /// <summary>Gathers what would mend a finding and what leaves it open.</summary>
    /// <param name="Searching">
    /// For the search of routes: every sensible memory kit instead of the smallest, and where a cure needs another first,
    /// only the other.
    /// </param>
    internal sealed record Gathered(bool Searching)
    {
        public List<Cure> Cures { get; } = [];
        public List<string> Open { get; } = [];
    }

    /// <summary>One system on one machine under one plan: <c>bare</c> is the machine as it is, <c>facts</c> as the cures leave it.</summary>
    internal sealed class Judging(Evaluator evaluator, IFacts bare, IFacts facts, SystemEntry system, Plan plan)
    {
        public IFacts Facts => facts;
        public SystemEntry System => system;
        public Plan Plan => plan;

        private ShopCatalogue Catalogue => evaluator.Catalogue;

        /// <summary>The last day of updates under the plan; null where no end is set.</summary>
        public DateOnly? SupportEnds => system.EndsFor(facts, plan.Extends(system.Id));

        /// <summary>Updates that end board by board, and nobody knows the board or the maker does not list it.</summary>
        private bool SupportUnknown =>
            system.SupportByBoard.Count > 0
            && (facts.Word("identity.board") is not { } board || !system.SupportByBoard.ContainsKey(board));

        public Finding Judge(Ask ask)
        {
            var (outcome, holds, lifting) = Weigh(ask);
            return new Finding(this, ask, outcome, holds, lifting);
        }

        /// <summary>How a requirement stands, whether it holds, and the cure of the plan that lifts it.</summary>
        public (Outcome Outcome, bool? Holds, Cure? LiftedBy) Weigh(Ask ask)
        {
            var (requirement, gate) = ask;
            if (requirement.Kind.OnlyChecked() && plan.LiftedBy(gate) is { } lifting)
                return (Outcome.Clear, true, lifting);
            var weighed = Weigh(requirement.Needs, null, 0);
            if (weighed.Outcome == Outcome.Clear)
                return (Outcome.Clear, true, null);

            // Lifting is asked only where the condition surely fails: a fact that nobody measured may still hold, and a
            // patch that was not needed is the dearer way.
            var fails = weighed.Holds == false;
            var outcome = weighed.Outcome;
            if (fails && requirement.Kind.OnlyChecked() && Lifting(ask, null) is var lifted && lifted < outcome)
                outcome = lifted;

            // What only warns or only annoys is a caveat as soon as it surely fails, whether or not a cure for it is known.
            var mild = requirement.Kind.OnlyAnnoys() || requirement.Advisory;
            if (mild && fails)
                outcome = Outcome.Caveat;
            return (outcome, weighed.Holds, null);
        }

        public Finding Say(Requirement requirement, Outcome outcome, Func<string> text, bool holds) =>
            new(this, new Ask(requirement, ""), outcome, holds, text: text);

        public Finding SideEffect(Cure cure, SideEffect effect) =>
            new(
                this,
                new Ask(
                    new Requirement(
                        $"{cure.Id}-brings",
                        RequirementKind.Comfort,
                        effect.Rung,
                        NoFacts,
                        new Evidence("side effect of the cure", plan.AsOf, Sureness.Stated),
                        Says: cure.Does
                    ),
                    ""
                ),
                effect.Outcome,
                true,
                text: () => effect.Text
            );

        /// <summary>Every system asks something here; of one whose entry names nothing it is open, not clear.</summary>
        public Finding NotStated(Rung rung) =>
            new(
                this,
                new Ask(new Requirement("not-stated", RequirementKind.Runtime, rung, NoFacts, system.Evidence), ""),
                Outcome.Unknown,
                null,
                text: () =>
                    $"Not stated: nobody wrote down what {system.FullName} asks of {rung.ToString().ToLowerInvariant()}. Its maker's page says it; it belongs into its entry of the catalogue."
            );

        public Finding Support(Requirement requirement)
        {
            var end = SupportEnds;
            if (SupportUnknown)
                return new Finding(
                    this,
                    new Ask(requirement, ""),
                    Outcome.Unknown,
                    null,
                    text: () => "Updates end board by board, and this board is not on the list of the maker."
                );
            var outcome =
                end is null ? Outcome.Clear
                : end < plan.AsOf ? (Extension is not null ? Outcome.Setting : Outcome.Wall)
                : Months(plan.AsOf, end.Value) < UpdatedFor ? Outcome.Caveat
                : Outcome.Clear;
            return new Finding(
                this,
                new Ask(requirement, ""),
                outcome,
                !(end < plan.AsOf),
                text: () => SupportText(end, plan.AsOf, Extension)
            );
        }

        /// <summary>Whether paying for updates would reach the day.</summary>
        public bool CanExtendTo(DateOnly? until) => Extension is not null && system.Extension!.Ends >= until;

        /// <summary>The paid extension, where there is one that is not taken yet and has not run out.</summary>
        private Cure? Extension =>
            system.Extension is { } extension && extension.Ends >= plan.AsOf && !plan.Extends(system.Id)
                ? Catalogue.Extension(system.Id)
                : null;

        /// <summary>What would mend a finding, and which missing facts leave it open.</summary>
        public Gathered Gather(Ask ask, bool searching)
        {
            var into = new Gathered(searching);
            if (ask.Requirement.Id == "support" && ask.Gate.Length == 0 || OrderRules.IsSupport(ask.Requirement))
            {
                if (SupportUnknown)
                    into.Open.Add("identity.board");
                else if (Extension is { } extension && !plan.Excludes(extension))
                    into.Cures.Add(extension);
                return into;
            }
            var weighed = Weigh(ask.Requirement.Needs, into, 0);
            if (weighed.Holds == false && ask.Requirement.Kind.OnlyChecked())
                Lifting(ask, into);
            return into;
        }

        private Weighed Weigh(Condition condition, Gathered? into, int chain)
        {
            switch (condition)
            {
                case Condition.All all:
                {
                    var result = Weighed.Clear;
                    foreach (var part in all.Of)
                    {
                        var weighed = Weigh(part, into, chain);
                        result = new Weighed(
                            weighed.Outcome > result.Outcome ? weighed.Outcome : result.Outcome,
                            result.Holds == false || weighed.Holds == false ? false
                                : result.Holds is null || weighed.Holds is null ? null
                                : true
                        );
                    }
                    return result;
                }
                case Condition.Any any:
                {
                    // Parts that do not hold need no mending where another holds.
                    if (into is not null && Weigh(any, null, chain).Outcome == Outcome.Clear)
                        return Weighed.Clear;
                    var result = new Weighed(Outcome.Wall, false);
                    foreach (var part in any.Of)
                    {
                        var weighed = Weigh(part, into, chain);
                        result = new Weighed(
                            weighed.Outcome < result.Outcome ? weighed.Outcome : result.Outcome,
                            result.Holds == true || weighed.Holds == true ? true
                                : result.Holds is null || weighed.Holds is null ? null
                                : false
                        );
                        if (into is null && result.Outcome == Outcome.Clear)
                            break;
                    }
                    return result;
                }
                case Condition.Driven driven:
                    return WeighDrivers(driven.Group, into);
                default:
                    switch (condition.Holds(facts))
                    {
                        case true:
                            return Weighed.Clear;
                        case null:
                            Open(condition, into);
                            return new Weighed(Outcome.Unknown, null);
                        default:
                            return new Weighed(Mend(condition, into, chain), false);
                    }
            }
        }

        private void Open(Condition condition, Gathered? into)
        {
            if (into is null)
                return;
            var before = into.Open.Count;
            foreach (var key in condition.Keys)
                if (facts[key] is null)
                    into.Open.Add(key);
            if (into.Open.Count == before)
                into.Open.Add(condition.Keys.First());
        }

        /// <summary>The cures that make a single condition hold.</summary>
        private Outcome Mend(Condition condition, Gathered? into, int chain)
        {
            var result = Outcome.Wall;
            foreach (var key in condition.Keys)
            {
                foreach (var cure in Catalogue.CuresThatSet(key))
                    result = Mildest(result, Try(cure, condition, into, chain));
                if (
                    key == "memory.installedMiB"
                    && condition is Condition.AtLeast { Least: FactValue.Whole least }
                    && !plan.Sets(key)
                )
                    result = Mildest(result, MemoryUpgrades.Mend(facts, least.Value, Catalogue.Memory, plan, into));
            }
            return result;
        }

        private Outcome Try(Cure cure, Condition condition, Gathered? into, int chain)
        {
            if (plan.Excludes(cure) || !Catalogue.CanCarryOut(cure, facts))
                return Outcome.Wall;
            var after = new Overlay(facts, cure.Sets!);
            if (condition.Holds(after) != true)
                return Outcome.Wall;
            // A drive that is sound and too small for this system mends nothing by itself; a search may find what goes on from there.
            if (into?.Searching != true)
                foreach (var key in cure.Sets!.Keys)
                foreach (var other in evaluator.AskingOf(system).On(key))
                    if (other.Needs.Holds(after) == false)
                        return Outcome.Wall;
            return Usable(cure, into, chain);
        }

        /// <summary>A cure whose needs hold, or are open, or can be met by another cure first.</summary>
        private Outcome Usable(Cure cure, Gathered? into, int chain)
        {
            if (IsOpenHow(cure, into))
                return into?.Searching == true ? Outcome.Wall : Outcome.Unknown;
            // What another cure takes away may still be there before it: then this one is done first.
            var can = cure.Needs is null ? true : cure.Needs.Holds(facts);
            if (can == false && !ReferenceEquals(bare, facts))
                can = cure.Needs!.Holds(bare);
            switch (can)
            {
                case true:
                    into?.Cures.Add(cure);
                    return cure.Kind;
                case null:
                    Open(cure.Needs!, into);
                    if (into?.Searching == true)
                        into.Cures.Add(cure);
                    return Outcome.Unknown;
                default:
                    if (chain == LongestChain)
                        return Outcome.Wall;
                    var first = Weigh(cure.Needs!, into, chain + 1).Outcome;
                    if (first >= Outcome.Unknown)
                        return first;
                    if (into?.Searching == false)
                        into.Cures.Add(cure);
                    return first > cure.Kind ? first : cure.Kind;
            }
        }

        /// <summary>Whether the firmware decides whether a loader without a signature starts, and nobody knows which it is.</summary>
        private bool IsOpenHow(Cure cure, Gathered? into)
        {
            if (Catalogue.IsRefused(cure, facts) is not null)
                return false;
            into?.Open.Add("firmware.kind");
            return true;
        }

        private Outcome Lifting(Ask ask, Gathered? into)
        {
            var result = Outcome.Wall;
            switch (DonorChoice.Lift(facts, system.Id, ask.Requirement.Id, Catalogue))
            {
                case ({ } cure, _) when !plan.Excludes(cure) && IsOpenHow(cure, into):
                    result = into?.Searching == true ? Outcome.Wall : Outcome.Unknown;
                    break;
                case ({ } cure, _) when !plan.Excludes(cure) && Catalogue.CanCarryOut(cure, facts):
                    into?.Cures.Add(cure);
                    result = cure.Kind;
                    break;
                case (null, { Count: > 0 } open):
                    into?.Open.AddRange(open);
                    result = Outcome.Unknown;
                    break;
            }
            foreach (var cure in Catalogue.CuresThatLift(ask.Gate))
                if (!plan.Excludes(cure) && Catalogue.CanCarryOut(cure, facts))
                    result = Mildest(result, Usable(cure, into, 0));
            return result;
        }

        private Weighed WeighDrivers(string group, Gathered? into)
        {
            if (plan.Replaces(group))
                return Weighed.Clear;
            var result = Weighed.Clear;
            var any = false;
            var spare = group == Network && Works(group);
            foreach (var key in Keys[group])
            {
                if (facts.Word(key) is not { } model)
                    continue;
                any = true;
                var weighed =
                    spare && StateOf(group, model) == DriverState.None
                        ? new Weighed(Outcome.Caveat, false)
                        : WeighDriver(key, group, model, into);
                result = new Weighed(
                    weighed.Outcome > result.Outcome ? weighed.Outcome : result.Outcome,
                    result.Holds == false || weighed.Holds == false ? false
                        : result.Holds is null || weighed.Holds is null ? null
                        : true
                );
            }
            if (any)
                return result;
            into?.Open.Add(Keys[group][0]);
            return new Weighed(Outcome.Unknown, null);
        }

        /// <summary>
        /// Whether something of a group works at once. A machine with one network that works needs no other to be installed and
        /// used; what has no driver is then a thing to know.
        /// </summary>
        private bool Works(string group)
        {
            foreach (var key in Keys[group])
                if (facts.Word(key) is { } model && StateOf(group, model) == DriverState.BuiltIn)
                    return true;
            return false;
        }

        private DriverState? StateOf(string group, string model) =>
            Catalogue.Device(group, model) is not { } device ? null
            : plan.Drives(device.Id) ? DriverState.BuiltIn
            : device.Drivers.TryGetValue(system.Id, out var listed) ? listed
            : device.Otherwise;

        private Weighed WeighDriver(string key, string group, string model, Gathered? into)
        {
            if (Catalogue.Device(group, model) is not { } device)
            {
                into?.Open.Add(key);
                return new Weighed(Outcome.Unknown, null);
            }
            if (plan.Drives(device.Id))
                return Weighed.Clear;
            DriverState? state = device.Drivers.TryGetValue(system.Id, out var listed) ? listed : device.Otherwise;
            switch (state)
            {
                case DriverState.BuiltIn:
                    return Weighed.Clear;
                case DriverState.AfterInstall:
                    into?.Cures.Add(evaluator._drivers.GetOrAdd(device.Id, _ => DriverPackage(device)));
                    if (into?.Searching == true)
                        Replace(group, into);
                    return new Weighed(Outcome.Driver, false);
                case DriverState.None:
                    return new Weighed(Replace(group, into), false);
                default:
                    into?.Open.Add(key);
                    return new Weighed(Outcome.Unknown, null);
            }
        }

        private Outcome Replace(string group, Gathered? into)
        {
            var result = Outcome.Wall;
            foreach (var cure in Catalogue.CuresThatReplace(group))
                if (!plan.Excludes(cure) && Catalogue.CanCarryOut(cure, facts))
                    result = Mildest(result, Usable(cure, into, 0));
            return result;
        }

        private static Outcome Mildest(Outcome one, Outcome other) => one < other ? one : other;
    }

    private ShopCatalogue Catalogue => catalogue;

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
        )
        {
            AfterInstall = true,
            FailPerMille = 20,
        };

    private static string SupportText(DateOnly? end, DateOnly asOf, Cure? extension) =>
        end switch
        {
            null => "Updates keep coming; no end date is set.",
            { } day when day < asOf =>
                $"Updates ended on {day:d MMM yyyy}. {(extension is null ? "Take a system that still gets them." : $"{extension.Does} ({Numbers.Money(extension.Money)}).")}",
            { } day when Months(asOf, day) < UpdatedFor =>
                $"Updates to {day:d MMM yyyy}, {Left(Months(asOf, day))}. {(extension is null ? "Plan what comes after." : $"{extension.Does} ({Numbers.Money(extension.Money)}), or plan what comes after.")}",
            { } day => $"Updates to {day:d MMM yyyy}.",
        };

    private static string Left(int months) =>
        months < 1
            ? "less than a month from now"
            : $"{Numbers.Word(months)} {(months == 1 ? "month" : "months")} from now";
}
