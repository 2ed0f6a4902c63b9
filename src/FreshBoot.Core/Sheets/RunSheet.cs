using System.Collections.Frozen;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Projection;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Sheets;

/// <summary>The sheet of a route: its steps where it holds, else what is missing.</summary>
/// <param name="Steps">The steps in their order, those of branches after the step that branches; none where something is missing.</param>
/// <param name="Ends">How it can end.</param>
/// <param name="Missing">What it cannot do as things are.</param>
/// <param name="Faults">What the checker found; a sheet with one is not shown.</param>
public sealed record RunSheet(
    IReadOnlyList<Step> Steps,
    IReadOnlyList<SheetEnd> Ends,
    IReadOnlyList<SheetMissing> Missing,
    IReadOnlyList<SheetFault> Faults
)
{
    /// <summary>The small world before the first step.</summary>
    public IReadOnlyDictionary<string, string> Start { get; init; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>The steps as they were put together, also where the checker refused them; shown to nobody.</summary>
    internal IReadOnlyList<Step> Composed { get; init; } = [];

    /// <summary>Composes the sheet of a route from the procedures of the catalogue, and checks it.</summary>
    public static RunSheet Of(SheetQuestion question)
    {
        if (Refused(question) is { } refused)
            return new RunSheet([], [], [refused], []);
        var start = StartWorld.Of(question);
        var fragments = Fragments(question);
        var (order, missing) = Composer.Order(fragments.Select(f => f.Fragment), start);
        if (missing.Count > 0)
            return new RunSheet([], [], missing, []);
        var words = fragments.ToDictionary(f => f.Fragment.Id, f => f.Words, StringComparer.Ordinal);
        var steps = Written(question, order, words, start);
        Relax(steps, start);
        var (faults, ends) = Checker.Check(steps, start, Goal(question));
        return faults.Count > 0
            ? new RunSheet(
                [],
                ends,
                [.. faults.Select(f => new SheetMissing(Title(order, f.Step), f.Step, f.Says))],
                faults
            )
            {
                Composed = steps,
            }
            : new RunSheet(steps, ends, [], []) { Start = start, Composed = steps };
    }

    /// <summary>
    /// How long the steps of a route take: the main way, hands and waits apart. The order of the steps changes nothing of it, so none is
    /// looked for; a route without a sheet has the times of the steps that it would take.
    /// </summary>
    public static RouteTimes TimesOf(SheetQuestion question)
    {
        var (hands, waits) = (0, 0);
        foreach (var (fragment, _) in Fragments(question))
        foreach (var step in fragment.Steps)
        {
            var minutes = Minutes(question, step, fragment).Usual;
            if (step.Kind == StepKind.Wait)
                waits += minutes;
            else
                hands += minutes;
        }
        return new RouteTimes(hands, waits);
    }

    /// <summary>Work items with the first step of a sheet that uses each.</summary>
    public static IReadOnlyList<WorkItem> Named(IReadOnlyList<WorkItem> items, IReadOnlyList<Step> steps)
    {
        var main = steps.Where(s => s.On is null).ToArray();
        return
        [
            .. items.Select(i =>
                Array.FindIndex(main, s => s.Uses.Contains(i.Id)) is >= 0 and var at
                    ? i with
                    {
                        For = new WorkStep(at + 1, main[at].Id, main[at].Text),
                    }
                    : i
            ),
        ];
    }

    /// <summary>Minutes with hands on it, on the main way.</summary>
    public int HandsOnMinutes => Steps.Where(s => s.On is null && s.Kind != StepKind.Wait).Sum(s => s.UsualMinutes);

    /// <summary>Minutes of waiting, on the main way.</summary>
    public int WaitMinutes => Steps.Where(s => s.On is null && s.Kind == StepKind.Wait).Sum(s => s.UsualMinutes);

    /// <summary>Switches that cannot be turned, and an upgrade that cannot be, or may not: refused, not warned of.</summary>
    private static SheetMissing? Refused(SheetQuestion question) =>
        question.Switches is null or { Plan.Steps: null } && question.WhyNoSwitches is { } none
            ? new SheetMissing("The firmware’s settings", "", $"cannot be set as this route wants them: {none}")
        : question is { Over: false, Account: AccountBy.Nobody, System: { } insists }
        && question.Route.School is not (School.Stay or School.Retire)
            ? new SheetMissing(
                "The local account",
                "",
                $"cannot be made: {insists.FullName} goes on only with an account of its maker, and reads no answer file that passes over that page. Choose “the maker’s” under Account, or another system"
            )
        : question.RouteFacts.Word("route.keeps") != "yes" ? null
        : question.Order is { NewOwner: true }
            ? new SheetMissing(
                "The upgrade",
                "",
                "would carry the former owner's files to the new one: a machine that changes hands is installed clean"
            )
        : question.Route.Cures.FirstOrDefault(c => c.Kind is Outcome.Reflash or Outcome.Spoof) is { } other
            ? new SheetMissing(
                "The upgrade",
                "",
                $"goes over the system that is there, and that one knows nothing of this: {other.Does}. It is installed clean"
            )
        : question.Route.InPlace is { Possible: false, Reasons: var reasons }
            ? new SheetMissing("The upgrade", "", $"cannot be done over what is there: {string.Join(' ', reasons)}")
        : null;

    /// <summary>The steps, or why there are none.</summary>
    /// <exception cref="RefusedException">Something is missing.</exception>
    public IReadOnlyList<Step> OrRefused() =>
        Missing.Count == 0
            ? Steps
            : throw new RefusedException(
                RefusalKind.Conflict,
                $"No sheet can be put together for this route: {Missing[0].Fragment} {Missing[0].Says}.",
                "routeId",
                "Another route, or the procedure mended in the catalogue."
            );

    /// <summary>What the checker has to know of the route.</summary>
    public static SheetGoal Goal(SheetQuestion question) =>
        new(
            question.System is null,
            question.RouteFacts.Word("route.owner") == "new",
            question.RouteFacts.Word("route.medium") is "stick" or "helper"
                && question.RouteFacts.Word("route.begins") == "medium",
            question.Route.Loader,
            question.Over || question.RouteFacts.Word("route.begins") == "nowhere",
            question.Facts,
            question.System,
            question.Catalogue
        )
        {
            Spoofs =
                question.Route.Cures.Any(c => c.Kind == Outcome.Spoof)
                && question.RouteFacts.Word("route.begins") == "medium",
            Gates = Gates(question),
        };

    /// <summary>
    /// The gates of the installer that hold once everything before the installation is done; those that a patch or an identity lifts are
    /// none on this way.
    /// </summary>
    private static IReadOnlyList<GateAsked> Gates(SheetQuestion question)
    {
        if (question.System is not { } system || question.Route.School is School.Stay or School.Retire)
            return [];
        var lifted = question.Route.Cures.SelectMany(c => c.Lifts ?? []).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. system
                .Requirements.Where(r =>
                    r is { Kind: RequirementKind.Gate, Advisory: false }
                    && !lifted.Contains($"{system.Id}/{r.Id}")
                    && r.Needs.Holds(question.AtInstaller) == true
                )
                .Select(r => new GateAsked(r.Needs, r.Needed)),
        ];
    }

    private static string Title(IReadOnlyList<Fragment> order, string step) =>
        order.FirstOrDefault(f => step.StartsWith($"{f.Id}.", StringComparison.Ordinal))?.Title ?? "the sheet";

    private static List<(Fragment Fragment, SheetWords Words)> Fragments(SheetQuestion question)
    {
        var all = question.Catalogue.Procedures;
        var plain = new SheetWords(question, null, false);
        var fragments = new List<(Fragment, SheetWords)>();
        foreach (var procedure in all.Where(p => p.Switch is null))
        {
            if (!Belongs(question, procedure.When, procedure.IfUnknown))
                continue;
            if (procedure.Assumed)
            {
                foreach (var fact in question.Assumed)
                    Add($"{procedure.Id}.{fact}", procedure, new SheetWords(question, null, false, fact));
                continue;
            }
            if (procedure.Cures.Count == 0 && procedure.CureKind is null)
            {
                Add(procedure.Id, procedure, plain);
                continue;
            }
            foreach (var cure in question.Route.Cures)
                if (
                    procedure.Names(cure.Id)
                    || (
                        procedure.CureKind == cure.Kind
                        && cure.Extends is null
                        && !SwitchesOfRoute.IsSwitch(cure)
                        && !all.Any(p => p.Names(cure.Id))
                    )
                )
                    Add(
                        $"{procedure.Id}.{cure.Id}",
                        procedure,
                        new SheetWords(question, cure, procedure.CureKind is not null)
                    );
        }
        return fragments;

        void Add(string id, ProcedureEntry procedure, SheetWords words)
        {
            var steps = procedure
                .Steps.Where(s => Belongs(question, s.When, s.IfUnknown))
                .SelectMany(s => SwitchSteps.Of(s, question, e => Belongs(question, e.When, e.IfUnknown)))
                .Select(s => Asked(question, s))
                .ToArray();
            if (steps.Length > 0)
                fragments.Add(
                    (new Fragment(id, procedure.About, steps) { Leaves = Leaves(question, words.Cure) }, words)
                );
        }
    }

    /// <summary>
    /// What the route asks beside what the procedure says: an installer is started when the switches are set and the identity is given.
    /// </summary>
    private static StepEntry Asked(SheetQuestion question, StepEntry step)
    {
        if (step.Does.GetValueOrDefault("running") != "installer")
            return step;
        var needs = new Dictionary<string, IReadOnlyList<string>>(step.Needs, StringComparer.Ordinal)
        {
            ["settings"] = ["set"],
        };
        if (question.Route.Cures.Any(c => c.Kind == Outcome.Spoof))
            needs["identity"] = ["given"];
        return step with { Needs = needs };
    }

    /// <summary>The facts of a cure once its own steps are done; of a part that wants a switch as well, that switch leaves them.</summary>
    private static IReadOnlyDictionary<string, FactValue> Leaves(SheetQuestion question, Cure? cure) =>
        cure?.Sets is { } sets
        && question.Switches?.InSettings.Any(s => SwitchesOfRoute.Turns(cure, s.Switch, s.To)) != true
            ? sets
            : FrozenDictionary<string, FactValue>.Empty;

    private static bool Belongs(SheetQuestion question, Condition? when, bool ifUnknown) =>
        when is null || (when.Holds(question.RouteFacts) ?? ifUnknown);

    /// <summary>
    /// The steps in their order, each written for the machine as the steps before it leave it: the key of a menu is that of the
    /// firmware which is on the chip by then.
    /// </summary>
    private static Step[] Written(
        SheetQuestion question,
        IReadOnlyList<Fragment> order,
        Dictionary<string, SheetWords> words,
        Dictionary<string, string> start
    )
    {
        var machine = MachineAt.Before(question.Facts, question.System, start);
        var steps = new List<Step>();
        foreach (var fragment in order)
        {
            var last = fragment.Steps[^1];
            foreach (var entry in fragment.Steps)
            {
                var at = steps.Count;
                steps.AddRange(Filled(question, fragment, words[fragment.Id], entry, null, machine));
                var after = machine.Then(steps[at].Does, ReferenceEquals(entry, last) ? fragment.Leaves : entry.Leaves);
                for (var i = at; i < steps.Count; i++)
                {
                    var (leaves, ends) = (i == at ? after : machine.Then(steps[i])).Since(machine);
                    steps[i] = steps[i] with { Leaves = leaves, Ends = ends };
                }
                machine = after;
            }
        }
        return [.. steps];
    }

    private static IEnumerable<Step> Filled(
        SheetQuestion question,
        Fragment fragment,
        SheetWords words,
        StepEntry entry,
        BranchPlace? on,
        IFacts at
    )
    {
        var minutes = Minutes(question, entry, fragment);
        var id = $"{fragment.Id}.{entry.Id}";
        string Text(string text) => words.Fill(text, minutes, at);
        yield return new Step(
            id,
            entry.Rung,
            entry.Kind,
            Text(entry.Text),
            words.Caution(entry, minutes, at),
            minutes.Usual,
            minutes.Shortest,
            minutes.Worry,
            entry.Command is { } command ? Text(command) : null,
            entry.Expect is { } expect ? Text(expect) : null,
            Wants: entry.Wants == ProcedureEntry.AssumedFact ? words.Fact : entry.Wants
        )
        {
            Uses =
            [
                .. question
                    .Items.Where(i => i.Needed && entry.Uses.Contains(RouteKeys.Camel(i.Kind.ToString())))
                    .Select(i => i.Id),
            ],
            Where = entry.Where,
            Proves = entry.Proves,
            Network = entry.Network,
            Options = [.. entry.Options.Select(Text)],
            Harmless = [.. entry.Harmless.Select(Text)],
            Needs = entry.Needs,
            Does = entry.Does,
            Branches =
            [
                .. entry.Branches.Select(b => new StepBranch(
                    Text(b.When),
                    b.Stop is { } stop ? Text(stop) : null,
                    [.. b.Then.Where(s => Belongs(question, s.When, s.IfUnknown)).Select(s => $"{fragment.Id}.{s.Id}")]
                )),
            ],
            On = on,
            Fragment = fragment.Id,
            About = fragment.Title,
        };
        foreach (var branch in entry.Branches)
        foreach (var then in branch.Then.Where(s => Belongs(question, s.When, s.IfUnknown)))
        foreach (var step in Filled(question, fragment, words, then, new BranchPlace(id, Text(branch.When)), at))
            yield return step;
    }

    private static StepTimes Minutes(SheetQuestion question, StepEntry entry, Fragment fragment) =>
        entry.Times switch
        {
            TimesFrom.Install when question.System?.Install is { } install => new StepTimes(
                install.ShortestMinutes,
                install.UsualMinutes,
                install.WorryMinutes
            ),
            TimesFrom.Medium when question.Item(WorkItemKind.Medium)?.Writes is { } writes => new StepTimes(
                writes.Shortest,
                writes.Usual,
                writes.Worry
            ),
            TimesFrom.Cure
                when question.Route.Cures.FirstOrDefault(c =>
                    fragment.Id.EndsWith($".{c.Id}", StringComparison.Ordinal)
                )
                    is { } cure => new StepTimes(0, Math.Max(1, cure.HandsOnMinutes), 0),
            _ => entry.Minutes,
        };

    /// <summary>What a step relaxes, and what it takes back, follows from what it does to the small world.</summary>
    private static void Relax(Step[] steps, Dictionary<string, string> start)
    {
        var open = World
            .Relaxations.Where(r => start[r.Key] == r.Relaxed)
            .Select(r => r.Key)
            .ToHashSet(StringComparer.Ordinal);
        var before = open;
        for (var i = 0; i < steps.Length; i++)
        {
            // A step of a branch comes in the place of the one that went otherwise: what that one did has not happened.
            var now = steps[i].On is null ? open : before;
            if (steps[i].On is null)
                before = new HashSet<string>(open, StringComparer.Ordinal);
            foreach (var (key, relaxed, says) in World.Relaxations)
            {
                if (!steps[i].Does.TryGetValue(key, out var value))
                    continue;
                if (value == relaxed && (steps[i].On is null ? now.Add(key) : !now.Contains(key)))
                    steps[i] = steps[i] with { Opens = says };
                else if (value != relaxed && (steps[i].On is null ? now.Remove(key) : now.Contains(key)))
                    steps[i] = steps[i] with { Closes = says };
            }
        }
    }
}
