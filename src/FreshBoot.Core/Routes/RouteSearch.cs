using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Routes;

/// <summary>
/// Finds the routes of a machine: for each system and school the set of cures with the least money, then the least work, that
/// brings every rung to clear or caveat. Exact: every set in which each cure mends something broken is tried, cut off only
/// where it already costs more than the best. Deterministic: the same dossier, catalogue and day give the same routes.
/// </summary>
public sealed class RouteSearch(ShopCatalogue catalogue)
{
    private const int MostCures = 8;
    private readonly Evaluator _evaluator = new(catalogue);

    /// <summary>The routes, best score first.</summary>
    public IReadOnlyList<Route> Find(Dossier facts, DateOnly asOf, PartsShelf? shelf = null)
    {
        var routes = new List<Route>();
        foreach (var system in catalogue.Systems)
        {
            foreach (var school in Schools(system))
                if (Cheapest(facts, system, school, asOf, shelf) is { } cures)
                    routes.Add(Make(facts, system, school, cures, asOf, shelf));
            if (facts.Word("os.name") is { } name && name == system.FullName && Holds(facts, system, asOf, shelf))
                routes.Add(Make(facts, system, School.Stay, [], asOf, shelf));
        }
        routes.Add(Retire());
        return
        [
            .. routes.OrderByDescending(r => r.Score).ThenBy(r => r.Money).ThenBy(r => r.Id, StringComparer.Ordinal),
        ];
    }

    private static School[] Schools(SystemEntry system) =>
        [
            system.Class is SystemClass.Light or SystemClass.BrowserFirst ? School.Lighten : School.Comply,
            School.Patch,
            School.Spoof,
            School.Reflash,
        ];

    /// <summary>The kinds of cure that a school allows; it must use the last of them where that is its own.</summary>
    private static Outcome? OwnKind(School school) =>
        school switch
        {
            School.Patch => Outcome.Patch,
            School.Spoof => Outcome.Spoof,
            School.Reflash => Outcome.Reflash,
            _ => null,
        };

    private static bool Allows(School school, Outcome kind) => kind <= Outcome.Part || kind == OwnKind(school);

    private List<Cure>? Cheapest(Dossier facts, SystemEntry system, School school, DateOnly asOf, PartsShelf? shelf)
    {
        var unknownBefore = Unknown(_evaluator.Assess(facts, system, new Plan(asOf, null, shelf)));
        List<Cure>? best = null;
        var seen = new HashSet<string>(StringComparer.Ordinal);
        Search([]);
        return best;

        void Search(List<Cure> taken)
        {
            if (best is not null && !Less(taken, best))
                return;
            if (!seen.Add(string.Join(' ', taken.Select(c => c.Id).Order(StringComparer.Ordinal))))
                return;
            var findings = _evaluator
                .Assess(facts, system, new Plan(asOf, taken, shelf))
                .Rungs.SelectMany(r => r.Findings)
                .ToArray();
            if (findings.Any(f => f.Outcome == Outcome.Unknown && !unknownBefore.Contains(f.Requirement)))
                return;
            var broken = findings.Where(f => f.Outcome > Outcome.Caveat && f.Outcome != Outcome.Unknown).ToArray();
            if (broken.Length == 0)
            {
                if (OwnKind(school) is not { } own || taken.Exists(c => c.Kind == own))
                    best = taken;
                return;
            }
            if (taken.Count == MostCures || broken.Any(f => f.Outcome == Outcome.Wall && f.Cures.Count == 0))
                return;
            foreach (
                var cure in broken[0]
                    .Cures.Where(c => Allows(school, c.Kind) && taken.TrueForAll(t => t.Id != c.Id && !Overlaps(t, c)))
            )
                Search([.. taken, cure]);
        }
    }

    /// <summary>Two sets of memory modules cannot both be fitted; nor can any two cures set one fact differently.</summary>
    private static bool Overlaps(Cure one, Cure other) =>
        one.Sets is { } a
        && other.Sets is { } b
        && a.Any(s => b.TryGetValue(s.Key, out var value) && !value.Equals(s.Value));

    private static bool Less(IEnumerable<Cure> one, IEnumerable<Cure> other)
    {
        var (a, b) = (one.ToArray(), other.ToArray());
        var money = a.Sum(c => c.Money) - b.Sum(c => c.Money);
        return money < 0 || money == 0 && a.Sum(c => c.HandsOnMinutes) < b.Sum(c => c.HandsOnMinutes);
    }

    /// <summary>Whether nothing stands in the way as the machine is.</summary>
    private bool Holds(Dossier facts, SystemEntry system, DateOnly asOf, PartsShelf? shelf) =>
        _evaluator
            .Assess(facts, system, new Plan(asOf, null, shelf))
            .Rungs.SelectMany(r => r.Findings)
            .All(f => f.Outcome is Outcome.Clear or Outcome.Caveat or Outcome.Unknown);

    private static HashSet<string> Unknown(Assessment assessment) =>
        assessment
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => f.Outcome == Outcome.Unknown)
            .Select(f => f.Requirement)
            .ToHashSet(StringComparer.Ordinal);

    private Route Make(
        Dossier facts,
        SystemEntry system,
        School school,
        IReadOnlyList<Cure> cures,
        DateOnly asOf,
        PartsShelf? shelf
    )
    {
        var findings = _evaluator
            .Assess(facts, system, new Plan(asOf, cures, shelf))
            .Rungs.SelectMany(r => r.Findings)
            .ToArray();
        var installs = school != School.Stay;
        var money = cures.Sum(c => c.Money);
        var hands = cures.Sum(c => c.HandsOnMinutes) + (installs ? system.Install.HandsOnMinutes : 5);
        var elapsed = hands + cures.Sum(c => c.WaitMinutes) + (installs ? system.Install.UsualMinutes : 0);
        int? months = system.SupportEnds is { } end ? Math.Max(0, Evaluator.Months(asOf, end)) : null;
        var assumes = findings.SelectMany(f => f.UndecidedBy).Distinct(StringComparer.Ordinal).ToArray();
        var caveats = findings
            .Where(f => f.Outcome == Outcome.Caveat)
            .Select(f => f.Text)
            .Distinct(StringComparer.Ordinal)
            .ToArray();
        var parts = Score(school, money, hands, months, caveats.Length, assumes.Length);
        return new Route(
            IdOf(system.Id, school, cures, money, hands),
            system.Id,
            school,
            [.. cures.OrderBy(c => c.Rung).ThenBy(c => c.Id, StringComparer.Ordinal)],
            money,
            hands,
            elapsed,
            months,
            assumes,
            caveats,
            parts.Sum(p => p.Points),
            parts
        );
    }

    private static Route Retire() =>
        new(
            IdOf("", School.Retire, [], 0, 15),
            null,
            School.Retire,
            [],
            0,
            15,
            15,
            0,
            [],
            [
                "The machine ends. Its sound parts go to the shelf, the rest to a certified recycler where the rule asks for one.",
            ],
            0,
            [new ScorePart("support", "none", 0, 40)]
        );

    /// <summary>
    /// Fixed scales, so that a score means the same on every machine: support up to five years 40 points, money up to M 100
    /// 25, work up to three hours 15, and 20 for how plain the way is. Linear in each.
    /// </summary>
    private static ScorePart[] Score(School school, int money, int hands, int? months, int caveats, int assumes)
    {
        var plain = school switch
        {
            School.Comply or School.Lighten or School.Stay => 20,
            School.Patch => 10,
            School.Spoof => 7,
            _ => 5,
        };
        return
        [
            new(
                "support",
                months is { } m ? $"{m} months" : "no end set",
                Linear(Math.Min(months ?? 48, 60), 60, 40),
                40
            ),
            new("money", Numbers.Money(money), 25 - Linear(Math.Min(money, 10_000), 10_000, 25), 25),
            new("work", $"{hands} min", 15 - Linear(Math.Min(hands, 180), 180, 15), 15),
            new(
                "plainness",
                $"{school.ToString().ToLowerInvariant()}, {caveats} to know, {assumes} assumed",
                Math.Max(0, plain - caveats - 2 * assumes),
                20
            ),
        ];
    }

    private static int Linear(int value, int most, int points) => (value * points + most / 2) / most;

    private static string IdOf(string system, School school, IEnumerable<Cure> cures, int money, int hands)
    {
        var text =
            $"{system}|{school}|{string.Join(',', cures.Select(c => c.Id).Order(StringComparer.Ordinal))}|{money}|{hands}";
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..16];
    }
}
