using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;

namespace FreshBoot.Core.Routes;

/// <summary>What routes are asked for beside the facts of the machine.</summary>
/// <param name="AsOf">The day from which months of support are counted.</param>
/// <param name="Shelf">The salvaged parts that the machine may take.</param>
/// <param name="Order">The order that it is for.</param>
/// <param name="Weights">How much each criterion counts; null for those that suit the order.</param>
/// <param name="System">Only routes to this system; null for all.</param>
public sealed record RouteQuestion(
    DateOnly AsOf,
    PartsShelf? Shelf = null,
    Order? Order = null,
    Weights? Weights = null,
    string? System = null
)
{
    /// <summary>Stops the search, between two sets of cures.</summary>
    public CancellationToken Stop { get; init; }

    /// <summary>The weights in force.</summary>
    public Weights InForce => Weights ?? (Order?.Everyday == true ? Routes.Weights.Everyday : Routes.Weights.Usual);
}

/// <summary>
/// Finds the routes of a machine: for each system and school every set of cures that brings each rung to clear or caveat
/// and that no other beats in money, work, risk, support and fit. Exact and deterministic.
/// </summary>
/// <remarks>
/// Why it is exact: take any set S that clears the ladder. While something still stands in the way of a part T of S, some
/// cure of S mends it, and that cure, or the one that it needs first, is among the offers of the finding; so S holds a cure
/// to go on with. Where nothing stands in the way any more, the offers of the caveats that S clears lead on in the same way.
/// The set that is reached lies within S, so it costs no more and risks no more, and it clears what S clears, so it fits no
/// worse (see <see cref="Routes.Fit"/>). Following every offer therefore meets every set that nothing beats. A set is one thing in
/// whatever order it was put together, for it is judged in the order of its work; two cures that contradict or undo each other are
/// never in one (see <see cref="Plan.Excluder"/>).
/// </remarks>
public sealed class RouteSearch(ShopCatalogue catalogue, IRouteTimes? times = null)
{
    private const int MostCures = 10;

    // As many as a set of bits holds; a machine and a system have to do with a few dozen.
    private const int MostOffers = 128;
    private const int RetireMinutes = 15;

    /// <summary>
    /// What can go wrong with any installation: a medium that does not hold what was written, a start that needs another try, a
    /// restart that hangs. About one in sixty wants more work, as the shop has it; nothing is harmed.
    /// </summary>
    private const double InstallFails = 0.016;

    /// <summary>
    /// How often a fact that nobody measured turns out to be one that breaks the plan. One in thirty is what the shop saw on
    /// machines whose hidden facts were looked up later.
    /// </summary>
    private const double AssumedFails = 0.03;

    private readonly Evaluator _evaluator = new(catalogue);

    /// <summary>The routes, best score first.</summary>
    public IReadOnlyList<Route> Find(Dossier facts, RouteQuestion question)
    {
        var weights = question.InForce;
        var found = Candidates(facts, question).Select(c => Timed(c, facts, question, weights)).ToArray();
        var routes = found
            .Select(f =>
                f.Make(
                    this,
                    facts,
                    question,
                    weights,
                    !Array.Exists(found, o => o.School != School.Retire && o.Vector.Beats(f.Vector))
                )
            )
            .OrderByDescending(r => weights.Score(r.Vector, r.School))
            .ThenBy(r => r.Money)
            .ThenBy(r => r.Id, StringComparer.Ordinal)
            .ToArray();
        var flips = Flips.Of(routes, weights);
        return [.. routes.Select(r => r with { Flips = [.. flips.Where(f => f.Below == r.Id || f.Above == r.Id)] })];
    }

    /// <summary>Only the best route's system and school, without the rest of the work.</summary>
    public (string? System, School School) Best(Dossier facts, RouteQuestion question)
    {
        var weights = question.InForce;
        var best = Candidates(facts, question)
            .Select(c => Timed(c, facts, question, weights))
            .OrderByDescending(f => weights.Score(f.Vector, f.School))
            .ThenBy(f => f.Vector.Money)
            .ThenBy(f => f.Id, StringComparer.Ordinal)
            .First();
        return (best.System?.Id, best.School);
    }

    /// <summary>The cheapest route to a system, or null where there is none.</summary>
    public Route? Cheapest(Dossier facts, RouteQuestion question) =>
        Find(facts, question)
            .Where(r => r.School != School.Retire)
            .OrderBy(r => r.Money)
            .ThenBy(r => r.HandsOnMinutes)
            .ThenBy(r => r.Risk)
            .ThenBy(r => r.Id, StringComparer.Ordinal)
            .FirstOrDefault();

    private IEnumerable<Candidate> Candidates(Dossier facts, RouteQuestion question)
    {
        foreach (var system in catalogue.Systems.Where(s => question.System is null || s.Id == question.System))
        {
            var found = new Walk(this, facts, system, question, staying: false).Fronts();
            if (facts.Word("os.name") == system.FullName)
                found = found.Concat(new Walk(this, facts, system, question, staying: true).Fronts());
            foreach (var candidate in found)
                if (ChoiceRules.Admit(facts, system, candidate.School))
                    yield return candidate;
        }
        yield return new Candidate(
            null,
            School.Retire,
            [],
            new RouteVector(0, RetireMinutes, 0, 0, 0),
            IdOf("", School.Retire, [], 0, RetireMinutes)
        );
    }

    /// <summary>
    /// A candidate with the times of its sheet. The search itself compares work by what the catalogue says of each cure, which a sum
    /// keeps exact; what is told, scored and weighed is the work that a hand has with the steps. docs/routes.md says what follows.
    /// </summary>
    private Candidate Timed(Candidate candidate, Dossier facts, RouteQuestion question, Weights weights)
    {
        if (times is null)
            return candidate;
        var (hands, waits) = times.Of(facts, candidate.Make(this, facts, question, weights, false), question.Order);
        return candidate with { Vector = candidate.Vector with { HandsOnMinutes = hands }, WaitMinutes = waits };
    }

    /// <summary>A set of cures that clears the ladder.</summary>
    private sealed record Candidate(
        SystemEntry? System,
        School School,
        IReadOnlyList<Cure> Cures,
        RouteVector Vector,
        string Id
    )
    {
        /// <summary>Minutes of waiting by its sheet; null where nobody composed one.</summary>
        public int? WaitMinutes { get; init; }

        public Route Make(RouteSearch search, Dossier facts, RouteQuestion question, Weights weights, bool front)
        {
            var score = weights.Score(Vector, School);
            var scoreParts = Weights
                .Criteria.Select(c => new ScorePart(
                    c.ToString().ToLowerInvariant(),
                    Say(c),
                    Round(100 * weights[c] * Weights.Utility(Vector, School, c) / weights.Sum),
                    Round(100 * weights[c] / weights.Sum)
                ))
                .ToArray();
            if (System is null)
                return new Route(
                    Id,
                    null,
                    School,
                    [],
                    0,
                    Vector.HandsOnMinutes,
                    Vector.HandsOnMinutes + (WaitMinutes ?? 0),
                    0,
                    [],
                    [
                        "The machine ends. Its sound parts go to the shelf, the rest to a certified recycler where the rule asks for one.",
                    ],
                    0,
                    0,
                    [],
                    false,
                    [],
                    null,
                    null,
                    front,
                    score,
                    scoreParts,
                    []
                )
                {
                    Vector = Vector,
                };

            var assessment = search._evaluator.Assess(
                facts,
                System,
                new Plan(question.AsOf, Cures, question.Shelf, question.Order)
            );
            var staying = School == School.Stay;
            var findings = assessment.Rungs.SelectMany(r => r.Findings).Where(f => Counts(f, staying)).ToArray();
            var assumes = findings
                .SelectMany(f => f.UndecidedBy)
                .Concat(
                    Cures
                        .Where(c => c.Needs is not null && c.Needs.Holds(facts) is null)
                        .SelectMany(c => c.Needs!.Keys.Where(k => facts[k] is null))
                )
                .Distinct(StringComparer.Ordinal)
                .ToArray();
            return new Route(
                Id,
                System.Id,
                School,
                Cures,
                Vector.Money,
                Vector.HandsOnMinutes,
                Vector.HandsOnMinutes
                    + (WaitMinutes ?? Cures.Sum(c => c.WaitMinutes) + (staying ? 0 : System.Install.UsualMinutes)),
                Vector.SupportMonths == int.MaxValue ? null : Vector.SupportMonths,
                assumes,
                [
                    .. findings
                        .Where(f => f.Outcome == Outcome.Caveat)
                        .Select(f => f.Text)
                        .Distinct(StringComparer.Ordinal),
                ],
                Vector.RiskPpm / 1e6,
                Vector.Fit,
                Routes.Fit.Parts(assessment, question.Order),
                Cures.All(c => !c.Irreversible),
                [.. Cures.SelectMany(c => c.Adds ?? [])],
                staying ? null : InPlace.Judge(facts, System, search.Catalogue, question.Order, Cures),
                Worth.Of(Vector, facts, search.Catalogue),
                front,
                score,
                scoreParts,
                []
            )
            {
                Vector = Vector,
            };
        }

        private string Say(Criterion criterion) =>
            criterion switch
            {
                Criterion.Money => Numbers.Money(Vector.Money),
                Criterion.Work => $"{Vector.HandsOnMinutes} min",
                Criterion.Risk => $"{Vector.RiskPpm / 1e4:0.#} %",
                Criterion.Support => School == School.Retire ? "none"
                : Vector.SupportMonths == int.MaxValue ? "no end set"
                : $"{Vector.SupportMonths} months",
                _ => $"{Vector.Fit} of 100",
            };

        private static double Round(double points) => Math.Round(points, 1);
    }

    private ShopCatalogue Catalogue => catalogue;

    /// <summary>A system that is on the machine already passes no installer and starts from no stick.</summary>
    private static bool Counts(Finding finding, bool staying) =>
        !staying || finding.Rung is not (Rung.Medium or Rung.Setup);

    /// <summary>One search: the sets of cures for one system on one machine.</summary>
    private sealed class Walk(
        RouteSearch search,
        Dossier facts,
        SystemEntry system,
        RouteQuestion question,
        bool staying,
        Func<Cure, bool>? allowed = null
    )
    {
        private readonly List<(UInt128 Set, School School, RouteVector Vector, List<Cure> Cures)> _reached = [];
        private readonly HashSet<string> _seen = new(StringComparer.Ordinal);
        private readonly Dictionary<string, char> _numbers = new(StringComparer.Ordinal);

        /// <summary>Where the search came to an end with something in the way: the fewest things first.</summary>
        public (IReadOnlyList<Cure> Taken, IReadOnlyList<Finding> Blocked)? DeadEnd { get; private set; }

        /// <summary>
        /// Of each school the sets that no other of it beats. A set that holds a smaller one which is as good does something
        /// for nothing, whatever its school, and counts for none.
        /// </summary>
        public IEnumerable<Candidate> Fronts()
        {
            Visit([]);
            foreach (
                var school in _reached
                    .Where(r =>
                        !_reached.Exists(o =>
                            o.Set != r.Set && (o.Set & r.Set) == o.Set && o.Vector.IsNoWorse(r.Vector)
                        )
                    )
                    .GroupBy(r => r.School)
                    .OrderBy(g => g.Key)
            )
            {
                var front = new List<Candidate>();
                foreach (var (_, _, vector, cures) in school)
                    Keep(front, school.Key, vector, cures);
                foreach (var candidate in front)
                    yield return candidate;
            }
        }

        private void Keep(List<Candidate> front, School school, RouteVector vector, List<Cure> cures)
        {
            foreach (var other in front)
                if (other.Vector.Beats(vector))
                    return;
            var id = IdOf(system.Id, school, cures, vector.Money, vector.HandsOnMinutes);
            // Of two that come to the same the shorter stands for both.
            if (front.Exists(o => o.Vector == vector && (o.Cures.Count, o.Id).CompareTo((cures.Count, id)) <= 0))
                return;
            front.RemoveAll(o => vector.IsNoWorse(o.Vector));
            front.Add(new Candidate(system, school, InOrder(cures, facts), vector, id));
        }

        private void Visit(List<Cure> taken)
        {
            question.Stop.ThrowIfCancellationRequested();
            // Where two of them set the same thing it is the order of the work that tells which stays, not that of the search.
            var assessment = search._evaluator.Assess(
                facts,
                system,
                new Plan(question.AsOf, Overlap(taken) ? InOrder(taken, facts) : taken, question.Shelf, question.Order)
            );
            List<Finding>? blocked = null;
            foreach (var rung in assessment.Rungs)
                if (rung.Outcome > Outcome.Caveat)
                    foreach (var finding in rung.Findings)
                        if (finding.Blocks && Counts(finding, staying))
                            (blocked ??= []).Add(finding);
            if (blocked is null)
                Arrive(taken, assessment);
            if (taken.Count == MostCures)
                return;

            if (blocked is not null)
            {
                // Every one of them has to be mended: begin with the one that leaves the least choice.
                List<Cure>? fewest = null;
                foreach (var finding in blocked)
                {
                    var offers = Allowed(finding);
                    if (fewest is null || offers.Count < fewest.Count)
                        fewest = offers;
                    if (fewest.Count == 0)
                        break;
                }
                if (fewest!.Count == 0 && (DeadEnd is not { } known || known.Blocked.Count > blocked.Count))
                    DeadEnd = (taken, blocked);
                Follow(taken, fewest);
                return;
            }

            foreach (var rung in assessment.Rungs)
                if (rung.Outcome != Outcome.Clear)
                    foreach (var finding in rung.Findings)
                        if (
                            finding.Outcome != Outcome.Clear
                            && (finding.Holds == false || IsSupport(finding))
                            && Counts(finding, staying)
                        )
                            Follow(taken, Allowed(finding));
        }

        private static bool Overlap(List<Cure> taken)
        {
            for (var i = 1; i < taken.Count; i++)
                if (taken[i].Sets is { } sets)
                    for (var j = 0; j < i; j++)
                        if (taken[j].Sets is { } others)
                            foreach (var key in sets.Keys)
                                if (others.ContainsKey(key))
                                    return true;
            return false;
        }

        private static bool IsSupport(Finding finding) => finding.Rung == Rung.Upkeep && !finding.Kind.OnlyChecked();

        private List<Cure> Allowed(Finding finding)
        {
            var offers = new List<Cure>();
            foreach (var cure in finding.Offers())
                if (
                    (allowed is null || allowed(cure))
                    && (!staying || Stays(cure))
                    && !offers.Exists(o => o.Id == cure.Id)
                )
                    offers.Add(cure);
            return offers;
        }

        /// <summary>What leaves the system on the machine as it is.</summary>
        private static bool Stays(Cure cure) =>
            cure.Kind <= Outcome.Part && cure.Sets?.ContainsKey("storage.0.sizeBytes") != true;

        private void Follow(List<Cure> taken, List<Cure> offers)
        {
            foreach (var cure in offers)
                if (_seen.Add(Key(taken, cure)))
                    Visit([.. taken, cure]);
        }

        /// <summary>A name for a set of cures, whatever the order in which they were taken.</summary>
        private string Key(List<Cure> taken, Cure next)
        {
            Span<char> key = stackalloc char[taken.Count + 1];
            for (var i = 0; i < taken.Count; i++)
                key[i] = Number(taken[i]);
            key[^1] = Number(next);
            key.Sort();
            return new string(key);
        }

        private char Number(Cure cure)
        {
            if (_numbers.TryGetValue(cure.Id, out var number))
                return number;
            if (_numbers.Count == MostOffers)
                throw new InvalidOperationException($"more than {MostOffers} cures have to do with {system.Id}");
            return _numbers[cure.Id] = (char)_numbers.Count;
        }

        private void Arrive(List<Cure> taken, Assessment assessment)
        {
            if (question.Order?.HardBudget is { } budget && taken.Sum(c => c.Money) > budget)
                return;
            var months = MonthsOf(taken);
            var vector = new RouteVector(
                taken.Sum(c => c.Money),
                taken.Sum(c => c.HandsOnMinutes) + (staying ? 5 : system.Install.HandsOnMinutes),
                RiskPpm(taken, installs: !staying, Assumed),
                months,
                Fit.Of(assessment)
            );
            _reached.Add((SetOf(taken), SchoolOf(taken), vector, taken));
        }

        /// <summary>
        /// How many facts the system asks for that nobody has measured. Counted on the machine as it is, so that it weighs on all
        /// routes to a system alike: a cure that is taken only to know something is no better for it.
        /// </summary>
        private int Assumed => _assumed ??= CountAssumed();

        private int? _assumed;

        private int CountAssumed() =>
            search
                ._evaluator.Assess(facts, system, new Plan(question.AsOf, null, question.Shelf, question.Order))
                .Rungs.SelectMany(r => r.Findings)
                .Where(f => f.Holds is null && Counts(f, staying))
                .SelectMany(f => f.UndecidedBy)
                .Distinct(StringComparer.Ordinal)
                .Count();

        private UInt128 SetOf(List<Cure> cures) =>
            cures.Aggregate(UInt128.Zero, (set, cure) => set | (UInt128.One << Number(cure)));

        private int MonthsOf(List<Cure> taken)
        {
            var ends = system.EndsFor(facts, taken.Exists(c => c.Extends == system.Id));
            return ends is { } end ? Math.Max(0, Evaluator.Months(question.AsOf, end)) : int.MaxValue;
        }

        private School SchoolOf(List<Cure> taken)
        {
            if (staying)
                return School.Stay;
            return (taken.Count == 0 ? null : taken.Max(c => c.Kind).School()) ?? LightOrNot(system);
        }
    }

    private static School LightOrNot(SystemEntry system) =>
        system.Class is SystemClass.Light or SystemClass.BrowserFirst ? School.Lighten : School.Comply;

    /// <summary>
    /// 1 − Π(1 − fail)(1 − harm), in millionths. Multiplied in one order, so that the same set always gives the same number.
    /// </summary>
    /// <param name="cures">The cures.</param>
    /// <param name="installs">Whether a system is installed after them.</param>
    /// <param name="assumed">How many facts are taken for granted that nobody has measured.</param>
    internal static int RiskPpm(IEnumerable<Cure> cures, bool installs, int assumed)
    {
        var well = (installs ? 1 - InstallFails : 1.0) * Math.Pow(1 - AssumedFails, assumed);
        foreach (var cure in cures.OrderBy(c => c.FailPerMille).ThenBy(c => c.HarmPerMille))
            well *= (1 - cure.FailPerMille / 1000.0) * (1 - cure.HarmPerMille / 1000.0);
        return (int)Math.Round((1 - well) * 1e6);
    }

    /// <summary>
    /// The cures in the order of the work: before the installation and after it; each after those that it has to follow or
    /// builds on; then by rung. The same for a set of cures, in whatever order it was put together.
    /// </summary>
    internal static IReadOnlyList<Cure> InOrder(IReadOnlyList<Cure> taken, IFacts facts)
    {
        var left = taken
            .OrderBy(c => c.AfterInstall)
            .ThenBy(c => c.Rung)
            .ThenBy(c => c.Id, StringComparer.Ordinal)
            .ToList();
        var ordered = new List<Cure>(left.Count);
        while (left.Count > 0)
        {
            var next = left.FindIndex(c => !left.Exists(o => !ReferenceEquals(o, c) && Precedes(o, c, facts)));
            // A stage may contradict what follows it; then the order of the cures themselves counts.
            var at = Math.Max(next, 0);
            ordered.Add(left[at]);
            left.RemoveAt(at);
        }
        return ordered;
    }

    private static bool Precedes(Cure first, Cure then, IFacts facts)
    {
        if (then.After.Contains(first.Id) || Spoils(then, first, facts))
            return true;
        if (first.Sets is not { } set || Spoils(first, then, facts))
            return false;
        foreach (var (key, value) in set)
            if (
                then.BuildsOn(key)
                && (
                    // What it cannot be done without, or sets anew itself.
                    then.Needs!.Holds(facts) != true
                        && then.MayFollow(first)
                    || then.Sets?.TryGetValue(key, out var anew) == true && !anew.Equals(value) && !first.BuildsOn(key)
                )
            )
                return true;
        return false;
    }

    /// <summary>Whether a cure takes away what another can be done by as the machine is: then the other comes first.</summary>
    private static bool Spoils(Cure cure, Cure other, IFacts facts) =>
        cure.Sets is { } sets
        && other.Needs is { } needs
        && needs.Holds(facts) != false
        && needs.Holds(new Overlay(facts, sets)) == false;

    private static string IdOf(string system, School school, IEnumerable<Cure> cures, int money, int hands)
    {
        var text =
            $"{system}|{school}|{string.Join(',', cures.Select(c => c.Id).Order(StringComparer.Ordinal))}|{money}|{hands}";
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..16];
    }

    /// <summary>Why a system has no route of some school.</summary>
    public IReadOnlyList<MissingRoute> Missing(Dossier facts, SystemEntry system, RouteQuestion question)
    {
        var missing = new List<MissingRoute>();
        foreach (var (most, school) in OutcomeRules.Schools.Prepend((Outcome.Part, LightOrNot(system))))
        {
            bool Allows(Cure cure) => cure.Kind.School() is null || cure.Kind == most;
            var walk = new Walk(this, facts, system, question, staying: false, Allows);
            var fronts = walk.Fronts().ToArray();
            if (Array.Exists(fronts, f => f.School == school))
                continue;
            if (fronts.Length > 0)
                missing.Add(new MissingRoute(school, $"{NotNeeded(school)} A plainer way is open.", []));
            else if (walk.DeadEnd is { } end)
                missing.Add(WhyNot.Explain(catalogue, facts, system, question, school, Allows, end.Taken, end.Blocked));
            else
                missing.Add(
                    new MissingRoute(
                        school,
                        $"Every way costs more than the {Numbers.Money(question.Order?.HardBudget ?? 0)} that the order has for a machine.",
                        []
                    )
                );
        }
        return missing;
    }

    private static string NotNeeded(School school) =>
        school switch
        {
            School.Patch => "No gate has to be lifted, or nothing lifts one.",
            School.Spoof => "No identity has to be taken, or there is no model of its line to take.",
            _ => "The firmware need not be replaced, or its board is not on the list.",
        };
}
