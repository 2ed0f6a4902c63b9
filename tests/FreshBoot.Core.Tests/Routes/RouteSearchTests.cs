using CsCheck;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Routes;

public class RouteSearchTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly RouteSearch Search = new(Shipped.Catalogue);
    private static readonly Evaluator Evaluator = new(Shipped.Catalogue);

    private static Route? Find(Dossier facts, string? system, School school) =>
        Search
            .Find(facts, new RouteQuestion(Today))
            .Where(r => r.System == system && r.School == school)
            .OrderBy(r => r.Money)
            .ThenBy(r => r.HandsOnMinutes)
            .FirstOrDefault();

    [Fact]
    public void Complying_takes_the_cheapest_cures_that_clear_every_rung()
    {
        var route = Find(
            Facts.GoodBut(("tpm.version", "off"), ("memory.installedMiB", 4096), ("network.0.model", "Airlath AL-43")),
            "tessaly-6-r2",
            School.Comply
        )!;

        route.Cures.Select(c => c.Id).ShouldBe(["memory-add-1xddr4-so-dimm-4g", "tpm-on", "driver-al-43"]);
        route.Money.ShouldBe(1400);
        route.HandsOnMinutes.ShouldBe(35 + 12 + 5 + 8);
        route.ElapsedMinutes.ShouldBe(route.HandsOnMinutes + 22);
        route.SupportMonths.ShouldBe(35);
        route.Assumes.ShouldBeEmpty();
        route.ScoreParts.Sum(p => p.Points).ShouldBe(route.Score, 0.3);
    }

    [Fact]
    public void A_patch_lets_it_in_where_rules_cannot_be_met_and_walls_stay_walls()
    {
        var v2 = CpuLevel.Levels.Take(2).SelectMany(l => l.Adds.Select(f => f.Flag)).ToArray();
        var old = Facts.GoodBut(("cpu.model", "Corvane C6-1"), ("cpu.flags", v2), ("tpm.version", "absent"));

        Find(old, "tessaly-6-r1", School.Patch)!.Cures.ShouldHaveSingleItem().Id.ShouldBe("tessaly-6-r1-gates");
        Find(old, "tessaly-6-r1", School.Comply).ShouldBeNull();
        Search.Find(old, new RouteQuestion(Today)).ShouldNotContain(r => r.System == "tessaly-6-r2");
    }

    [Fact]
    public void Each_school_has_its_machine()
    {
        Find(
            Facts.GoodBut(("identity.maker", "Ottavine"), ("identity.model", "Plinth PL-06B")),
            "canzona-6",
            School.Spoof
        )!
            .Cures.ShouldContain(c => c.Id == "identity-pl-08a");
        Find(Facts.GoodBut(("identity.board", "WAGTAIL"), ("firmware.kind", "locked")), "wickerwork-26", School.Reflash)
            .ShouldNotBeNull();
        Find(Facts.GoodBut(("identity.board", "SISKIN"), ("firmware.kind", "locked")), "wickerwork-26", School.Reflash)
            .ShouldBeNull();
        Find(Facts.GoodBut(), "driftway", School.Lighten).ShouldNotBeNull();
        Find(Facts.GoodBut(), "driftway", School.Comply).ShouldBeNull();
        Find(Facts.GoodBut(("os.name", "Tessaly 5")), "tessaly-5", School.Stay)!.HandsOnMinutes.ShouldBe(5);
        Find(Facts.GoodBut(), "tessaly-5", School.Stay).ShouldBeNull();
        Find(Facts.GoodBut(), null, School.Retire).ShouldNotBeNull();
    }

    [Fact]
    public void What_nobody_measured_is_assumed_and_said() =>
        Find(Facts.GoodBut(("tpm.version", null)), "tessaly-6-r2", School.Comply)!.Assumes.ShouldBe(["tpm.version"]);

    [Fact]
    public void A_machine_that_is_claimed_has_no_way_but_its_end() =>
        Search
            .Find(Facts.GoodBut(("release.managed", "claimed")), new RouteQuestion(Today))
            .ShouldHaveSingleItem()
            .School.ShouldBe(School.Retire);

    [Fact]
    public void Routes_are_the_same_each_time_and_have_another_id_when_something_changes()
    {
        var ids = Search.Find(Facts.GoodBut(), new RouteQuestion(Today)).Select(r => r.Id).ToArray();

        Search.Find(Facts.GoodBut(), new RouteQuestion(Today)).Select(r => r.Id).ShouldBe(ids);
        var changed = Find(Facts.GoodBut(("tpm.version", "off")), "tessaly-6-r2", School.Comply)!;
        ids.ShouldNotContain(changed.Id);
    }

    [Fact]
    public void Every_route_applied_leaves_clear_or_caveat_and_unknown_only_where_it_is_said() =>
        AnyMachines.Picks.Sample(
            picks =>
            {
                var facts = AnyMachines.Machine(picks);
                foreach (var route in Search.Find(facts, new RouteQuestion(Today)).Where(r => r.System is not null))
                foreach (var finding in Left(facts, route, route.Cures))
                {
                    var assumed = finding is { Outcome: Outcome.Unknown, Holds: null };
                    (finding.Outcome is Outcome.Clear or Outcome.Caveat || assumed).ShouldBeTrue(
                        $"{route.System} {route.School}: {finding.Requirement} is {finding.Outcome}"
                    );
                    finding.UndecidedBy.ShouldAllBe(key => route.Assumes.Contains(key));
                    // What the hand-over tells rests on these two lists: nothing that is not clear is kept back.
                    if (finding.Outcome == Outcome.Caveat)
                        route.Caveats.ShouldContain(finding.Text);
                }
            },
            iter: Cases.Of(75)
        );

    [Fact]
    public void No_cure_of_a_route_can_be_left_out_for_nothing() =>
        AnyMachines.Picks.Sample(
            picks =>
            {
                var facts = AnyMachines.Machine(picks);
                foreach (
                    var route in Search
                        .Find(facts, new RouteQuestion(Today))
                        .Where(r => r.System is not null && r.Cures.Count > 0)
                )
                foreach (var cure in route.Cures.Where(c => !route.Cures.Any(o => BuildsOn(o, c))))
                {
                    Cure[] fewer = [.. route.Cures.Where(c => c != cure)];
                    var left = Left(facts, route, fewer).ToArray();
                    if (left.Any(f => f.Blocks))
                        continue;
                    var full = Left(facts, route, route.Cures).Count(f => f.Outcome == Outcome.Clear);
                    (left.Count(f => f.Outcome == Outcome.Clear) < full || cure.Extends is not null).ShouldBeTrue(
                        $"{route.System} {route.School} without {cure.Id}"
                    );
                }
            },
            iter: Cases.Of(40)
        );

    private static IEnumerable<Finding> Left(Dossier facts, Route route, IReadOnlyList<Cure> cures) =>
        Evaluator
            .Assess(facts, Shipped.Catalogue.System(route.System!)!, new Plan(Today, cures))
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => route.School != School.Stay || f.Rung is not (Rung.Medium or Rung.Setup));

    /// <summary>Whether a cure can be done only because another was.</summary>
    private static bool BuildsOn(Cure then, Cure first) =>
        then.Needs?.Keys.Any(k => first.Sets?.ContainsKey(k) == true) == true;
}
