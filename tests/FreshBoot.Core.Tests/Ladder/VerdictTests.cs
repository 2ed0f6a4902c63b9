using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Planning;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Tests.Sheets;

namespace FreshBoot.Core.Tests.Ladder;

/// <summary>Verdicts that practitioners found wrong, each with what it has to be.</summary>
public class VerdictTests
{
    private static readonly Evaluator Evaluator = new(Shipped.Catalogue);

    private static Assessment Assess(IFacts facts, string system, params Cure[] cures) =>
        Evaluator.Assess(facts, Shipped.Catalogue.System(system)!, new Plan(AnySheets.Today, cures));

    private static Finding Find(Assessment assessment, string requirement) =>
        assessment.Rungs.SelectMany(r => r.Findings).Single(f => f.Requirement == requirement);

    private static IReadOnlyList<Route> RoutesOf(Dossier facts, Order? order = null) =>
        AnySheets.Search.Find(facts, new RouteQuestion(AnySheets.Today, null, order));

    [Fact]
    public void A_machine_of_which_nothing_is_known_has_no_aim_and_begins_with_leave_and_safety()
    {
        var nothing = Derivation.Complete([], Shipped.Catalogue);
        TooLittle.IsKnownOf(nothing).ShouldBeTrue();
        TooLittle.IsKnownOf(Facts.Of(("memory.installedMiB", 4096))).ShouldBeFalse();
        var standing = TooLittle.Standing(Assess(nothing, "tessaly-6-r2"));
        standing.System.ShouldBeEmpty();
        standing.Rungs.ShouldAllBe(r => r.Outcome == Outcome.Unknown);
        NextStep.Of(standing).Text.ShouldBe("Ask the owner for leave");
        var next = new NextMeasurements(Shipped.Catalogue).Find(nothing, AnySheets.Today);
        next[0].Key.ShouldBe("release.owner");
        next.Take(3).Select(n => n.Key).ShouldContain("parts.battery");
        next.TakeWhile(n => !n.How.Contains("live system", StringComparison.Ordinal)).Count().ShouldBeGreaterThan(3);
    }

    [Fact]
    public void What_nobody_measured_costs_risk_and_stands_at_the_beginning_of_the_sheet()
    {
        var known = Facts.GoodBut();
        var open = Facts.GoodBut(("tpm.version", null), ("parts.storage", null));
        var (sure, unsure) = (Best(known), Best(open));
        unsure.Assumes.ShouldContain("tpm.version");
        unsure.Risk.ShouldBeGreaterThan(sure.Risk + 0.05);
        var sheet = AnySheets.Of(open, unsure);
        sheet.Missing.ShouldBeEmpty();
        var at = sheet.Steps.ToList().FindIndex(s => s.Wants == "tpm.version");
        at.ShouldBeGreaterThan(0);
        sheet.Steps[at].Text.ShouldContain("“TPM”");
        sheet.Steps[at].Text.ShouldContain("never clear it");
        at.ShouldBeLessThan(sheet.Steps.ToList().FindIndex(s => s.Kind == Procedures.StepKind.Confirm));
        AnySheets.Of(known, sure).Steps.ShouldNotContain(s => s.Wants == "tpm.version");
        Against("2.0").ShouldBeNull();
        Against("absent")!.ShouldContain("does not hold any more. Needs TPM 2.0");

        string? Against(string measured) =>
            Core.Runs.Expected.Against(
                "tpm.version",
                Facts.GoodBut(("tpm.version", measured)),
                unsure,
                Shipped.Catalogue.System("tessaly-6-r2")!,
                Evaluator,
                AnySheets.Today
            );

        static Route Best(Dossier facts) =>
            RoutesOf(facts).First(r => r is { System: "tessaly-6-r2", School: School.Comply });
    }

    [Theory]
    [InlineData(7860, Outcome.Clear)]
    [InlineData(3900, Outcome.Unknown)]
    public void Memory_that_a_system_sees_is_fitted_at_least(int visible, Outcome outcome) =>
        Find(
            Assess(Facts.GoodBut(("memory.installedMiB", null), ("memory.visibleMiB", visible)), "tessaly-6-r2"),
            "memory-gate"
        )
            .Outcome.ShouldBe(outcome);

    [Fact]
    public void A_system_that_names_nothing_on_a_rung_is_open_there_and_not_clear()
    {
        var bare = Shipped.Catalogue.System("wickerwork-26")! with { Id = "bare", Requirements = [] };
        var plan = new Plan(AnySheets.Today);
        var assessment = Evaluator.Assess(Facts.GoodBut(), bare, plan);
        foreach (var rung in (Rung[])[Rung.Firmware, Rung.Medium, Rung.Kernel])
            assessment.Rungs[(int)rung].Outcome.ShouldBe(Outcome.Unknown);
        Find(assessment, "not-stated", Rung.Medium).Text.ShouldContain("nobody wrote down what");
        assessment.Rungs[(int)Rung.Disk].Outcome.ShouldBe(Outcome.Clear);
        Evaluator.Grade(Facts.GoodBut(), bare, plan).ShouldBe(assessment.Outcome);
    }

    private static Finding Find(Assessment assessment, string requirement, Rung rung) =>
        assessment.Rungs[(int)rung].Findings.Single(f => f.Requirement == requirement);

    [Fact]
    public void Where_one_network_works_another_without_a_driver_is_a_thing_to_know_that_lowers_the_fit()
    {
        const string Name = "Airlath AL-77";
        var facts = Facts.GoodBut(("network.1.model", Name));
        var finding = Find(Assess(facts, "wickerwork-26"), "network");
        finding.Outcome.ShouldBe(Outcome.Caveat, Name);
        finding.Cures.ShouldBeEmpty();
        var (with, without) = (RoutesOf(facts), RoutesOf(Facts.GoodBut()));
        Best(with).Cures.ShouldNotContain(c => c.Id == "network-adapter");
        Best(with).Fit.ShouldBeLessThan(Best(without).Fit);
        Find(Assess(Facts.GoodBut(("network.0.model", Name)), "wickerwork-26"), "network")
            .Outcome.ShouldBe(Outcome.Part);

        static Route Best(IReadOnlyList<Route> routes) => routes.First(r => r.System == "wickerwork-26");
    }

    [Fact]
    public void A_drive_that_is_too_small_for_the_system_is_no_cure_for_a_bad_one()
    {
        var facts = Facts.GoodBut(("parts.storage", "replace"), ("storage.0.bus", "ata"));
        Find(Assess(facts, "pebblemoss-32"), "drive").Cures.ShouldContain(c => c.Id == "drive-ata-8");
        Find(Assess(facts, "wickerwork-26"), "drive").Cures.ShouldNotContain(c => c.Id == "drive-ata-8");
    }

    [Fact]
    public void No_installation_is_without_risk_and_staying_is()
    {
        RoutesOf(Facts.GoodBut(("os.name", "Wickerwork 26")))
            .Where(r => r.School is not (School.Stay or School.Retire))
            .ShouldAllBe(r => r.Risk >= 0.016);
        RoutesOf(Facts.GoodBut(("os.name", "Wickerwork 26")))
            .First(r => r is { School: School.Stay, Cures.Count: 0 })
            .Risk.ShouldBe(0);
    }

    [Theory]
    [InlineData("Corvane C7-120", true)]
    [InlineData("Corvane C5-300", false)]
    public void A_board_is_flashed_only_with_a_processor_that_it_is_proved_with(string processor, bool proved)
    {
        var facts = Facts.GoodBut(("identity.board", "WAGTAIL"), ("firmware.kind", "locked"), ("cpu.model", processor));
        facts.Word("cpu.generation").ShouldNotBeNull();
        RoutesOf(facts).Any(r => r.School == School.Reflash).ShouldBe(proved);
    }

    [Fact]
    public void The_makers_own_system_is_lost_only_where_its_firmware_goes()
    {
        var facts = Facts.GoodBut(("identity.board", "WAGTAIL"), ("firmware.kind", "locked"));
        var kept = AnySheets.Chosen(facts, "plan.firmware", "keep");
        Says(facts).ShouldContain(c => c.Contains("will not start any more", StringComparison.Ordinal));
        Says(kept).ShouldNotContain(c => c.Contains("will not start any more", StringComparison.Ordinal));
        Says(kept).ShouldContain(c => c.Contains("firmware stays", StringComparison.Ordinal));

        static IReadOnlyList<string> Says(Dossier machine) =>
            RoutesOf(machine).First(r => r.School == School.Reflash).Caveats;
    }

    [Theory]
    [InlineData(3072, Outcome.Caveat)]
    [InlineData(7700, Outcome.Clear)]
    public void Memory_of_which_the_system_sees_a_part_is_not_clear(int visible, Outcome outcome)
    {
        var found = Find(Assess(Facts.GoodBut(("memory.visibleMiB", visible)), "wickerwork-26"), "memory-seen");
        found.Outcome.ShouldBe(outcome);
        if (outcome == Outcome.Caveat)
            found.Text.ShouldBe("The system sees 3 GiB of 8 GiB: a cap, a loose module, or much taken by graphics.");
    }

    [Fact]
    public void A_forced_system_on_an_everyday_machine_warns_and_wants_the_owners_word()
    {
        var everyday = new Order("o", "Anna", "", 1, null, false, false, true, LooksAfter.Owner, []);
        var facts = Facts.GoodBut(("cpu.model", "Corvane C6-280"));
        var forced = RoutesOf(facts, everyday).First(r => r is { System: "tessaly-6-r2", School: School.Patch });
        forced.Caveats.ShouldContain(c => c.Contains("wants the owner's word", StringComparison.Ordinal));
        RoutesOf(facts)
            .First(r => r.Id == forced.Id)
            .Caveats.ShouldNotContain(c => c.Contains("owner's word", StringComparison.Ordinal));
        AnySheets.Of(facts, forced, order: everyday).Steps.ShouldContain(s => s.Id == "owners-word.word");
        AnySheets.Of(facts, forced).Steps.ShouldNotContain(s => s.Id == "owners-word.word");
    }

    [Fact]
    public void What_starts_and_runs_no_program_of_today_does_not_score_well()
    {
        // No instruction set that a browser of today is built for.
        var old = Facts.GoodBut(("cpu.flags", new[] { "lm", "fpu" }), ("cpu.model", null), ("graphics.0.model", null));
        foreach (var route in RoutesOf(old).Where(r => r.System is not null))
        {
            var web = route.FitParts.Single(p => p.Name == "programs");
            if (web.Points > 0)
                continue;
            route.Fit.ShouldBeLessThanOrEqualTo(35);
            route.FitParts.Single(p => p.Name == "comfort").Says.ShouldBe("it starts, and little runs on it");
        }
    }
}
