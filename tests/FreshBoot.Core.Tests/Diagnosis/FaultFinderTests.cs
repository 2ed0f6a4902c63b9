using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Dossiers;
using Xunit.Abstractions;

namespace FreshBoot.Core.Tests.Diagnosis;

public class FaultFinderTests(ITestOutputHelper output)
{
    private static readonly Evidence Tried = new("tried in the shop", new DateOnly(2026, 11, 20), Sureness.Tried);

    /// <summary>Bayes by counting every combination, written without a look at the fault finder: chances of causes after answers.</summary>
    private static Dictionary<string, double> ByHand(
        IReadOnlyList<CauseEntry> causes,
        IReadOnlyList<CheckEntry> checks,
        IReadOnlyList<CheckAnswer> answers
    )
    {
        var total = causes.Sum(c => c.Weight);
        var worlds = new List<(HashSet<string> Broken, double Chance)>();
        foreach (var cause in causes)
        {
            worlds.Add(([cause.Id], cause.Weight / (double)total));
            foreach (var pair in cause.With)
                worlds.Add(([cause.Id, pair.Cause], cause.Weight / (double)total * pair.PerMille / 1000.0));
        }
        double Chance(CheckEntry check, string cause, string seen)
        {
            double Raw(CheckShown s) => Math.Max(0.5, s.Causes.GetValueOrDefault(cause, s.Else));
            return Raw(check.Shows.Single(s => s.Id == seen)) / check.Shows.Sum(Raw);
        }
        var after = worlds
            .Select(w =>
            {
                var chance = w.Chance;
                foreach (var answer in answers)
                {
                    var check = checks.Single(c => c.Id == answer.Check);
                    double Loudest(string seen) => w.Broken.Max(b => Chance(check, b, seen));
                    chance *= Loudest(answer.Seen) / check.Shows.Sum(s => Loudest(s.Id));
                }
                return (w.Broken, Chance: chance);
            })
            .ToArray();
        var all = after.Sum(w => w.Chance);
        return causes.ToDictionary(c => c.Id, c => after.Where(w => w.Broken.Contains(c.Id)).Sum(w => w.Chance) / all);
    }

    [Fact]
    public void It_says_what_counting_every_combination_says()
    {
        var random = new Random(1501);
        for (var round = 0; round < 500; round++)
        {
            var (causes, checks) = SmallPack(random);
            var finder = new FaultFinder(new FaultQuestion(Rung.Disk, Dossier.Empty, causes, checks, []));
            var answers = checks
                .Where(_ => random.Next(2) == 0)
                .Select(c => new CheckAnswer(c.Id, c.Shows[random.Next(c.Shows.Count)].Id))
                .ToArray();
            var wanted = ByHand(causes, checks, answers);
            foreach (var found in finder.After(answers))
                found.Chance.ShouldBe(wanted[found.Cause.Id], 1e-9);
        }
    }

    [Fact]
    public void What_it_asks_next_tells_most_in_a_minute_and_never_erases_before_something_that_does_not()
    {
        var random = new Random(1502);
        for (var round = 0; round < 200; round++)
        {
            var (causes, checks) = SmallPack(random);
            var finder = new FaultFinder(new FaultQuestion(Rung.Disk, Dossier.Empty, causes, checks, []));
            var next = finder.Next([]);
            foreach (var (one, two) in next.Zip(next.Skip(1)))
            {
                if (one.Check.Risk == CheckRisk.Erases)
                    two.Check.Risk.ShouldBe(CheckRisk.Erases);
                else if (two.Check.Risk != CheckRisk.Erases)
                    one.PerMinute.ShouldBeGreaterThanOrEqualTo(two.PerMinute);
            }
            // What it tells, by the entropy of what counting says before and after.
            double Bits(IEnumerable<CheckAnswer> answers)
            {
                // Without pairs the chances of the causes are those of the worlds.
                return ByHand(causes, checks, [.. answers]).Values.Where(p => p > 0).Sum(p => -p * Math.Log2(p));
            }
            if (causes.Any(c => c.With.Count > 0))
                continue;
            foreach (var gain in next)
            {
                var before = ByHand(causes, checks, []);
                var expected = gain.Check.Shows.Sum(s =>
                    causes.Sum(c => before[c.Id] * gain.Check.Chance(IndexOf(gain.Check, s), c.Id))
                    * Bits([new CheckAnswer(gain.Check.Id, s.Id)])
                );
                gain.Bits.ShouldBe(Bits([]) - expected, 1e-9);
            }
        }

        static int IndexOf(CheckEntry check, CheckShown shown) => check.Shows.ToList().IndexOf(shown);
    }

    /// <summary>
    /// Faults drawn from the shipped pack by their chances, with answers drawn by theirs: noise and all. Two yardsticks: the true
    /// cause is first within five checks, and the minutes until it is sure, against asking in the order of the pack.
    /// </summary>
    [Fact]
    public void On_faults_of_the_shipped_pack_it_names_the_true_cause_within_five_checks_in_half_the_minutes()
    {
        var catalogue = Shipped.Catalogue;
        var random = new Random(1503);
        var table = new List<(Rung Rung, int Faults, int Right, double Minutes, double Fixed)>();
        foreach (var rung in Enum.GetValues<Rung>())
        {
            var faults = Cases.Of(40);
            int right = 0;
            double minutes = 0,
                inOrder = 0;
            var finder = new FaultFinder(
                new FaultQuestion(rung, Dossier.Empty, catalogue.Causes, catalogue.Checks, [])
            );
            for (var i = 0; i < faults; i++)
            {
                var truth = Draw(random, [.. finder.After([]).Select(c => (c.Cause.Id, c.Chance))]);
                var answers = new List<CheckAnswer>();
                // The answer that a check gives for this fault is drawn once, for both ways of asking.
                var drawn = catalogue.Checks.ToDictionary(
                    c => c.Id,
                    c => Draw(random, [.. c.Shows.Select((s, n) => (s.Id, c.Chance(n, truth)))])
                );
                while (answers.Count < 5 && finder.Next(answers) is [var next, ..])
                {
                    minutes += next.Check.Minutes;
                    answers.Add(new CheckAnswer(next.Check.Id, drawn[next.Check.Id]));
                }
                if (finder.After(answers)[0].Cause.Id == truth)
                    right++;
                var asked = new List<CheckAnswer>();
                foreach (var check in catalogue.Checks.Where(c => c.Rungs.Contains(rung)))
                {
                    if (asked.Count > 0 && finder.After(asked)[0].Chance >= FaultFinder.Sure)
                        break;
                    inOrder += check.Minutes;
                    asked.Add(new CheckAnswer(check.Id, drawn[check.Id]));
                }
            }
            table.Add((rung, faults, right, minutes / faults, inOrder / faults));
        }
        foreach (var row in table)
            output.WriteLine(
                $"| {row.Rung.ToString().ToLowerInvariant()} | {row.Right * 100 / row.Faults} % | {row.Minutes:0.0} | {row.Fixed:0.0} |"
            );
        var share = table.Sum(t => t.Right) / (double)table.Sum(t => t.Faults);
        var (spent, would) = (table.Average(t => t.Minutes), table.Average(t => t.Fixed));
        output.WriteLine($"| all | {share:P1} | {spent:0.0} | {would:0.0} |");
        share.ShouldBeGreaterThanOrEqualTo(0.85);
        spent.ShouldBeLessThanOrEqualTo(would / 2);
    }

    [Fact]
    public void The_shipped_pack_knows_every_rung_and_every_cause_has_a_check_that_speaks_for_it()
    {
        var catalogue = Shipped.Catalogue;
        catalogue.Causes.Count.ShouldBeGreaterThanOrEqualTo(60);
        catalogue.Checks.Count.ShouldBeGreaterThanOrEqualTo(80);
        foreach (var rung in Enum.GetValues<Rung>())
            catalogue.Causes.Count(c => c.Rung == rung).ShouldBeGreaterThanOrEqualTo(5, $"{rung}");
        foreach (var cause in catalogue.Causes)
            catalogue
                .Checks.Any(c =>
                    c.Rungs.Contains(cause.Rung)
                    && c.Shows.Any(s => s.Of(cause.Id) >= 50 && s.Of(cause.Id) > 2 * s.Else)
                )
                .ShouldBeTrue($"no check of its rung speaks for {cause.Id}");
        // Whatever erases says so before a hand does it.
        catalogue.Checks.Where(c => c.Risk == CheckRisk.Erases).ShouldAllBe(c => c.Caution != null);
        catalogue.Causes.Where(c => c.Mend.LosesData).ShouldAllBe(c => c.Mend.Caution != null);
    }

    [Fact]
    public void The_machine_and_its_plan_shift_the_chances_and_say_why()
    {
        var catalogue = Shipped.Catalogue;
        CauseChance Of(string cause, params (string Key, FactValue Value)[] facts) =>
            new FaultFinder(
                new FaultQuestion(
                    Rung.Disk,
                    new Overlay(Dossier.Empty, facts.ToDictionary(f => f.Key, f => f.Value)),
                    catalogue.Causes,
                    catalogue.Checks,
                    []
                )
            )
                .After([])
                .Single(c => c.Cause.Id == cause);
        var beyond = Of("beyond-reach", ("route.reach", FactValue.Of("beyond")));
        beyond.Chance.ShouldBeGreaterThan(3 * Of("beyond-reach").Chance);
        beyond.Why.ShouldContain("the boot files end beyond what this firmware reads");
        // What cannot be is none of the causes, and says why.
        var uefi = new FaultFinder(
            new FaultQuestion(
                Rung.Disk,
                new Overlay(Dossier.Empty, new Dictionary<string, FactValue> { ["route.way"] = FactValue.Of("uefi") }),
                catalogue.Causes,
                catalogue.Checks,
                []
            )
        );
        uefi.After([]).ShouldNotContain(c => c.Cause.Id == "beyond-reach");
        uefi.Excluded.Single(x => x.Cause.Id == "beyond-reach").Why.ShouldBe("this machine is not so");
    }

    [Fact]
    public void What_the_shop_found_before_counts_beside_the_catalogue_and_a_message_speaks()
    {
        var catalogue = Shipped.Catalogue;
        CauseChance Of(string cause, IReadOnlyList<CauseCount> found, string? message = null) =>
            new FaultFinder(
                new FaultQuestion(Rung.Kernel, Dossier.Empty, catalogue.Causes, catalogue.Checks, found, message)
            )
                .After([])
                .Single(c => c.Cause.Id == cause);
        var before = Of("power-table", []).Chance;
        var after = Of("power-table", [new CauseCount("power-table", 20)]);
        after.Chance.ShouldBeGreaterThan(before + 0.3);
        after.Found.ShouldBe(20);
        after.Why.ShouldContain(w => w.StartsWith("found 20 times in 20 stops", StringComparison.Ordinal));
        Of("instruction-missing", [], "init: CPU ISA level is lower than required").Chance.ShouldBeGreaterThan(0.9);
    }

    [Fact]
    public void A_check_or_a_sight_that_nobody_knows_is_refused_with_what_would_do()
    {
        var catalogue = Shipped.Catalogue;
        var finder = new FaultFinder(
            new FaultQuestion(Rung.Medium, Dossier.Empty, catalogue.Causes, catalogue.Checks, [])
        );
        Should
            .Throw<RefusedException>(() => finder.After([new CheckAnswer("no-such", "yes")]))
            .Refusal.Where.ShouldBe("check");
        Should
            .Throw<RefusedException>(() => finder.After([new CheckAnswer("listed-at-all", "perhaps")]))
            .Refusal.Wanted.ShouldBe("“yes” or “no”.");
    }

    private static string Draw(Random random, IReadOnlyList<(string Id, double Chance)> from)
    {
        var at = random.NextDouble() * from.Sum(f => f.Chance);
        foreach (var (id, chance) in from)
            if ((at -= chance) <= 0)
                return id;
        return from[^1].Id;
    }

    private static (IReadOnlyList<CauseEntry>, IReadOnlyList<CheckEntry>) SmallPack(Random random)
    {
        var causes = Enumerable
            .Range(0, random.Next(2, 6))
            .Select(i => new CauseEntry(
                $"c{i}",
                Rung.Disk,
                random.Next(1, 50),
                $"cause {i}",
                new CauseMend("mend it", 5, null, false, false),
                Tried
            ))
            .ToArray();
        if (random.Next(2) == 0)
            causes[0] = causes[0] with { With = [new CausePair("c1", random.Next(1, 900))] };
        var checks = Enumerable
            .Range(0, random.Next(1, 5))
            .Select(i => new CheckEntry(
                $"k{i}",
                [Rung.Disk],
                random.Next(1, 20),
                random.Next(4) == 0 ? CheckRisk.Erases : CheckRisk.None,
                $"check {i}",
                null,
                [
                    .. Enumerable
                        .Range(0, random.Next(2, 4))
                        .Select(s => new CheckShown(
                            $"s{s}",
                            $"shows {s}",
                            random.Next(1, 100),
                            causes.Where(_ => random.Next(2) == 0).ToDictionary(c => c.Id, _ => random.Next(0, 101))
                        )),
                ]
            ))
            .ToArray();
        return (causes, checks);
    }
}
