using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Soundness;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Soundness;

public class SoundnessTests
{
    private static DriveSoundness Drive(params (string Fact, object Value)[] facts) =>
        DriveRules.Judge(Dossier.From(facts.Select(f => Facts.Reading($"storage.0.{f.Fact}", f.Value))), 0);

    [Theory]
    [InlineData("pending", 0, Verdict.Sound)]
    [InlineData("pending", 1, Verdict.Watch)]
    [InlineData("pending", 10, Verdict.Replace)]
    [InlineData("uncorrectable", 1, Verdict.Replace)]
    [InlineData("reallocated", 3, Verdict.Watch)]
    [InlineData("reallocated", 50, Verdict.Replace)]
    [InlineData("mediaErrors", 1, Verdict.Watch)]
    [InlineData("wearPercent", 79, Verdict.Sound)]
    [InlineData("wearPercent", 80, Verdict.Watch)]
    [InlineData("wearPercent", 100, Verdict.Replace)]
    [InlineData("linkErrors", 5000, Verdict.Watch)]
    [InlineData("warnings", 4, Verdict.Replace)]
    [InlineData("hours", 100_000, Verdict.Unknown)]
    public void Each_number_has_its_thresholds(string fact, int number, Verdict verdict) =>
        Drive((fact, number)).Verdict.ShouldBe(verdict);

    [Fact]
    public void Spare_is_held_against_the_floor_that_the_drive_names()
    {
        Drive(("sparePercent", 100), ("spareFloorPercent", 10)).Verdict.ShouldBe(Verdict.Sound);
        Drive(("sparePercent", 12), ("spareFloorPercent", 10)).Verdict.ShouldBe(Verdict.Watch);
        Drive(("sparePercent", 9), ("spareFloorPercent", 10)).Verdict.ShouldBe(Verdict.Replace);
    }

    [Fact]
    public void Age_counts_for_disks_and_not_for_flash()
    {
        Drive(("ownVerdict", "passed"), ("hours", 50_000), ("kind", "disk")).Verdict.ShouldBe(Verdict.Watch);
        Drive(("ownVerdict", "passed"), ("hours", 50_000), ("kind", "flash")).Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void More_of_what_is_bad_never_makes_a_drive_better() =>
        Gen.Select(
                Pick.From("reallocated", "pending", "uncorrectable", "mediaErrors", "wearPercent", "linkErrors"),
                Gen.Int[0, 200],
                Gen.Int[0, 200]
            )
            .Sample(
                (fact, one, more) => Drive((fact, one)).Verdict <= Drive((fact, Math.Min(255, one + more))).Verdict
            );

    [Fact]
    public void Every_reason_names_its_source() =>
        Fleet
            .Dossiers.SelectMany(d => MachineSoundness.Of(d.Dossier).Drives)
            .SelectMany(d => d.Reasons)
            .ShouldAllBe(r => r.Source.Length > 5 && r.Text.Length > 5);

    [Fact]
    public void The_drive_that_fails_says_so_in_numbers_and_stops_every_run()
    {
        var facts = Fleet.Tagged("MR-0420");

        facts.Word("parts.storage").ShouldBe("replace");
        MachineSoundness.Of(facts).Drives[0].Verdict.ShouldBe(Verdict.Replace);
        MachineSoundness.StopsOf(facts).ShouldHaveSingleItem().Text.ShouldContain("Weir D500 is failing");
    }

    [Fact]
    public void An_earlier_word_does_not_talk_a_failing_drive_sound_but_a_choice_does()
    {
        var said = Fleet
            .Tagged("MR-0420")
            .WithWord(Facts.Reading("parts.storage", "sound", Origin.Entered, receipt: 999));
        MachineSoundness.StopsOf(said).ShouldHaveSingleItem();

        var chosen = said.WithWord(Facts.Reading("parts.storage", "sound", Origin.Chosen, receipt: 1000));
        MachineSoundness.StopsOf(chosen).ShouldBeEmpty();
    }

    [Fact]
    public void A_swollen_battery_is_a_danger_until_somebody_says_otherwise()
    {
        MachineSoundness.StopsOf(Fleet.Tagged("MR-0428")).ShouldHaveSingleItem().Danger.ShouldBeTrue();
        MachineSoundness
            .StopsOf(
                Fleet.Tagged("MR-0428").WithWord(Facts.Reading("parts.battery", "none", Origin.Entered, receipt: 999))
            )
            .ShouldBeEmpty();
    }

    [Fact]
    public void An_incomplete_group_of_modules_and_a_worn_battery_are_noted()
    {
        MachineSoundness
            .Of(Fleet.Tagged("MR-0403"))
            .Memory.Reasons.ShouldContain(r => r.Text.Contains("by three: one group is incomplete"));
        MachineSoundness.Of(Fleet.Tagged("MR-0426")).Battery.Verdict.ShouldBe(Verdict.Replace);
    }
}
