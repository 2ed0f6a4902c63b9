using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Tests.Ladder;

public class EvaluatorTests
{
    private static readonly Evaluator Evaluator = new(Shipped.Catalogue);
    private static readonly DateOnly Today = new(2026, 12, 3);

    private static Assessment Tessaly(Dossier dossier, params Cure[] cures) =>
        Evaluator.Assess(dossier, Shipped.Catalogue.System("tessaly-6-r2")!, new Plan(Today, cures));

    private static Assessment Wickerwork(Dossier dossier) =>
        Evaluator.Assess(dossier, Shipped.Catalogue.System("wickerwork-26")!, new Plan(Today));

    private static Finding Of(Assessment assessment, string requirement) =>
        assessment.Rungs.SelectMany(r => r.Findings).Single(f => f.Requirement == requirement);

    [Fact]
    public void A_machine_that_has_it_all_is_clear_on_all_ten_rungs()
    {
        var assessment = Tessaly(Facts.GoodBut());

        assessment.Outcome.ShouldBe(Outcome.Clear);
        assessment.Rungs.Select(r => r.Rung).ShouldBe(Enum.GetValues<Rung>());
        assessment.Rungs.ShouldAllBe(r => r.Findings.Count > 0);
    }

    [Theory]
    [InlineData("tpm.version", "off", "tpm", Outcome.Setting, "tpm-on")]
    [InlineData("tpm.version", "header", "tpm", Outcome.Part, "tpm-module")]
    [InlineData("tpm.version", "absent", "tpm", Outcome.Patch, "tessaly-6-r2-gates")]
    [InlineData("firmware.startedBy", "bios", "uefi", Outcome.Setting, "start-by-uefi")]
    [InlineData("network.0.model", "Airlath AL-43", "network", Outcome.Driver, "driver-al-43")]
    [InlineData("network.0.model", "Airlath AL-77", "network", Outcome.Part, "network-adapter")]
    [InlineData("network.0.model", "Something else", "network", Outcome.Unknown, null)]
    [InlineData("storage.0.sizeBytes", 16_000_000_000L, "disk-size", Outcome.Part, "drive-sata-240")]
    [InlineData("storage.0.kind", "disk", "drive-comfort", Outcome.Caveat, "drive-sata-240")]
    [InlineData("storage.0.sizeBytes", 64_000_000_000L, "disk-notice", Outcome.Caveat, "drive-sata-240")]
    [InlineData("parts.battery", "swollen", "battery", Outcome.Part, "battery-new")]
    [InlineData("parts.storage", "watch", "drive-wear", Outcome.Caveat, "drive-sata-240")]
    [InlineData("release.managed", "claimed", "managed", Outcome.Wall, null)]
    [InlineData("release.managed", "waiting", "managed", Outcome.Unknown, null)]
    [InlineData("release.owner", "asked", "owner", Outcome.Unknown, null)]
    [InlineData("cpu.model", "Corvane C6-200", "processor-list", Outcome.Patch, "tessaly-6-r2-gates")]
    public void A_shortfall_takes_the_mildest_cure_that_exists(
        string key,
        object value,
        string requirement,
        Outcome outcome,
        string? cure
    )
    {
        var finding = Of(Tessaly(Facts.GoodBut((key, value))), requirement);

        finding.Outcome.ShouldBe(outcome);
        finding.Cures.Select(c => c.Id).FirstOrDefault().ShouldBe(cure);
    }

    [Fact]
    public void Memory_is_told_in_numbers_with_the_module_and_its_price()
    {
        var assessment = Tessaly(Facts.GoodBut(("memory.installedMiB", 4096)));
        var finding = Of(assessment, "memory-gate");

        finding.Outcome.ShouldBe(Outcome.Part);
        finding.Needed.ShouldBe("6 GiB");
        finding.Found.ShouldBe("4 GiB in one of two slots");
        finding.Text.ShouldBe("Needs 6 GiB, has 4 GiB in one of two slots. Add one 4 GiB DDR4 SO-DIMM (M 14.00).");
        assessment.Rungs[(int)Rung.Use].Outcome.ShouldBe(Outcome.Caveat);
    }

    [Fact]
    public void A_wall_names_the_first_instruction_that_is_missing()
    {
        var v2 = CpuLevel.Levels.Take(2).SelectMany(l => l.Adds.Select(f => f.Flag)).ToArray();
        var finding = Of(Tessaly(Facts.GoodBut(("cpu.flags", v2))), "level");

        finding.Outcome.ShouldBe(Outcome.Wall);
        finding.Text.ShouldBe("Needs x86-64-v3, has x86-64-v2. First missing: AVX. Nothing lifts it.");
    }

    [Fact]
    public void What_nobody_measured_is_unknown_and_says_how_to_find_out()
    {
        var finding = Of(Tessaly(Facts.GoodBut(("tpm.version", null))), "tpm");

        finding.Outcome.ShouldBe(Outcome.Unknown);
        finding.UndecidedBy.ShouldBe(["tpm.version"]);
        finding.Text.ShouldContain("Nobody has measured: TPM.");
        finding.Text.ShouldContain("never clear it");
    }

    [Fact]
    public void What_the_system_sees_is_enough_where_it_is_enough()
    {
        var seen = Facts.GoodBut(("memory.installedMiB", null), ("memory.visibleMiB", 7800));

        Of(Tessaly(seen), "memory").Outcome.ShouldBe(Outcome.Clear);
        Of(Tessaly(seen), "memory-gate").Outcome.ShouldBe(Outcome.Clear);
        Of(Tessaly(seen), "memory-comfort").Outcome.ShouldBe(Outcome.Unknown);
        Of(Tessaly(Facts.GoodBut(("memory.installedMiB", null), ("memory.visibleMiB", 3900))), "memory-gate")
            .Outcome.ShouldBe(Outcome.Unknown);
    }

    [Fact]
    public void Encryption_without_a_key_matters_only_where_the_data_is_wanted()
    {
        Finding Encryption(string? data) =>
            Of(Wickerwork(Facts.GoodBut(("release.encryption", "key-missing"), ("release.data", data))), "encryption");

        Encryption("not-wanted").Outcome.ShouldBe(Outcome.Clear);
        Encryption("saved").Outcome.ShouldBe(Outcome.Wall);
        Encryption(null).Outcome.ShouldBe(Outcome.Unknown);
    }

    [Fact]
    public void With_nothing_known_no_rung_but_upkeep_is_clear_and_none_is_a_wall()
    {
        foreach (var system in Shipped.Catalogue.Systems)
        {
            var assessment = Evaluator.Assess(Dossier.Empty, system, new Plan(Today));
            assessment
                .Rungs.Where(r => r.Rung != Rung.Upkeep && r.Findings.Count > 0 && !OnlyTrust(r))
                .ShouldAllBe(r => r.Outcome == Outcome.Unknown);
        }
    }

    private static bool OnlyTrust(RungStanding rung) => rung.Findings.All(f => f.Requirement == "trust");

    [Theory]
    [InlineData("2026-12-03", Outcome.Clear)]
    [InlineData("2028-01-01", Outcome.Caveat)]
    [InlineData("2029-11-30", Outcome.Caveat)]
    [InlineData("2029-12-01", Outcome.Wall)]
    public void Support_is_counted_from_the_day_of_the_plan(string day, Outcome outcome)
    {
        var plan = new Plan(DateOnly.Parse(day, System.Globalization.CultureInfo.InvariantCulture));

        Evaluator
            .Assess(Facts.GoodBut(), Shipped.Catalogue.System("tessaly-6-r2")!, plan)
            .Rungs[(int)Rung.Upkeep]
            .Outcome.ShouldBe(outcome);
    }

    [Fact]
    public void The_cures_on_offer_mend_what_they_are_offered_for()
    {
        var dossier = Facts.GoodBut(
            ("tpm.version", "off"),
            ("memory.installedMiB", 2048),
            ("firmware.startedBy", "bios"),
            ("network.0.model", "Airlath AL-43"),
            ("parts.battery", "swollen")
        );
        var before = Tessaly(dossier);
        var cures = before
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => f.Outcome > Outcome.Caveat)
            .Select(f => f.Cures[0])
            .DistinctBy(c => c.Id)
            .ToArray();

        before.Outcome.ShouldBe(Outcome.Part);
        (Tessaly(dossier, cures).Outcome <= Outcome.Caveat).ShouldBeTrue();
    }

    [Fact]
    public void A_lifted_gate_is_clear_and_says_what_lifted_it_and_side_effects_join_the_ladder()
    {
        var lift = new Cure(
            "try-lift",
            Outcome.Patch,
            Rung.Setup,
            "Lift the check",
            Lifts: ["tessaly-6-r2/tpm"],
            Adds: [new SideEffect(Rung.Upkeep, Outcome.Caveat, "Updates may stop.")]
        );
        var assessment = Tessaly(Facts.GoodBut(("tpm.version", "absent")), lift);

        Of(assessment, "tpm").Outcome.ShouldBe(Outcome.Clear);
        Of(assessment, "tpm").LiftedBy.ShouldBe("try-lift");
        assessment.Rungs[(int)Rung.Upkeep].Outcome.ShouldBe(Outcome.Caveat);
        assessment.Rungs[(int)Rung.Upkeep].Findings.ShouldContain(f => f.Text == "Updates may stop.");
    }

    [Fact]
    public void The_next_step_is_that_of_the_lowest_broken_rung()
    {
        NextStep Next(params (string, object?)[] changes) => NextStep.Of(Tessaly(Facts.GoodBut(changes)));

        Next().Text.ShouldBe("Ready to install");
        Next(("tpm.version", "off"), ("release.owner", null))
            .ShouldBe(new NextStep(Rung.Release, Outcome.Unknown, "Ask the owner for leave"));
        Next(("tpm.version", "off")).ShouldBe(new NextStep(Rung.Setup, Outcome.Setting, "Switch the TPM on"));
        Next(("memory.installedMiB", 4096)).Text.ShouldBe("Add one 4 GiB module");
        Next(("release.managed", "claimed")).Text.ShouldBe("Stop: not released");
    }
}
