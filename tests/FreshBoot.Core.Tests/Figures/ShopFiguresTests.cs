using CsCheck;
using FreshBoot.Core.Figures;

namespace FreshBoot.Core.Tests.Figures;

public sealed class ShopFiguresTests
{
    private static FigureRun Run(
        string tag,
        int begun,
        int? finished,
        int stops = 0,
        int? months = 36,
        int? grams = 2000
    ) =>
        new(
            tag,
            "Wickerwork 26",
            School.Comply,
            new DateOnly(2026, 1, 1).AddDays(begun),
            finished is { } day ? new DateOnly(2026, 1, 1).AddDays(day) : null,
            false,
            stops,
            7200,
            months,
            grams
        );

    [Fact]
    public void A_machine_that_was_done_again_counts_once_in_use_and_twice_as_work()
    {
        var sheet = ShopFigures.Of([Run("A", 0, 3), Run("A", 40, 45), Run("B", 2, null)], [], []);
        (sheet.InUse, sheet.Grams, sheet.Weighed).ShouldBe((1, 2000L, 1));
        sheet.Months.Select(m => (m.Month.Month, m.Begun, m.Finished)).ShouldBe([(1, 2, 1), (2, 1, 1)]);
        sheet.BySystem.ShouldHaveSingleItem().ShouldBe(new CameOut("Wickerwork 26", 2, 2, 0, 1));
    }

    [Fact]
    public void A_machine_that_came_back_and_ended_is_no_machine_in_use()
    {
        var ended = Run("A", 40, 45) with { System = null, School = School.Retire };
        var sheet = ShopFigures.Of([Run("A", 0, 3), ended, Run("B", 0, 4)], [], []);
        (sheet.InUse, sheet.Grams).ShouldBe((1, 2000L));
        sheet.BySchool.ShouldBe([new CameOut("comply", 2, 2, 0, 0), new CameOut("retire", 1, 1, 0, 0)]);
    }

    [Fact]
    public void What_nobody_knows_is_left_out_and_said()
    {
        var sheet = ShopFigures.Of([Run("A", 0, 3, grams: null), Run("B", 0, 3, months: null)], [], []);
        (sheet.InUse, sheet.Grams, sheet.Weighed).ShouldBe((2, 2000L, 1));
        // 72 marks for 36 months; the one without an end does not make it cheaper.
        sheet.MoneyPerMonth.ShouldBe(200);
        ShopFigures.Of([Run("B", 0, 3, months: null)], [], []).MoneyPerMonth.ShouldBeNull();
        ShopFigures.Of([], [], []).Months.ShouldBeEmpty();
    }

    [Fact]
    public void Pace_is_the_middle_step_and_one_that_somebody_forgot_to_end_says_nothing()
    {
        var day = new DateOnly(2026, 3, 5);
        var sheet = ShopFigures.Of(
            [],
            [new(day, 10, 12), new(day, 10, 11), new(day, 10, 400)],
            [new("x", 0), new("y", 2)]
        );
        sheet.Months.ShouldHaveSingleItem().Pace.ShouldBe(1.15);
        (sheet.Months[0].PlannedMinutes, sheet.Months[0].TookMinutes).ShouldBe((20, 23));
        sheet.Causes.ShouldBe([new FoundCause("y", 2)]);
    }

    [Fact]
    public void No_run_is_lost_and_none_counted_twice() =>
        Gen.Select(Gen.Int[0, 400], Gen.Int[0, 60].Nullable(), Gen.Int[0, 2])
            .Array[0, 40]
            .Sample(all =>
            {
                FigureRun[] runs =
                [
                    .. all.Select((x, i) => Run($"{i % 7}", x.Item1, x.Item2 is { } d ? x.Item1 + d : null, x.Item3)),
                ];
                var sheet = ShopFigures.Of(runs, [], []);
                sheet.Months.Sum(m => m.Begun).ShouldBe(runs.Length);
                sheet.Months.Sum(m => m.Finished).ShouldBe(runs.Count(r => r.Finished is not null));
                sheet.BySchool.Sum(c => c.Finished + c.GivenUp + c.Open).ShouldBe(runs.Length);
                for (var i = 1; i < sheet.Months.Count; i++)
                    sheet.Months[i].Month.ShouldBe(sheet.Months[i - 1].Month.AddMonths(1));
            });

    [Theory]
    [InlineData("laptop", 2300)]
    [InlineData("tower", 7800)]
    [InlineData(null, null)]
    public void A_machine_weighs_what_its_form_does_and_one_without_a_form_nothing_that_anybody_knows(
        string? form,
        int? grams
    ) => Shipped.Catalogue.GramsOf(Core.Tests.Facts.GoodBut(("identity.chassis", form))).ShouldBe(grams);

    [Fact]
    public void The_report_says_what_it_speaks_of_and_leaves_out_what_is_not_there()
    {
        var day = new DateOnly(2026, 4, 1);
        var report = FiguresReport.Of(
            ShopFigures.Of([Run("A", 0, 3), Run("B", 0, 3, grams: null)], [], []),
            Shipped.Catalogue.Weights,
            "The shop",
            day
        );
        report.Title.ShouldBe("Two computers kept in use.");
        report.Parts.Select(p => p.Id).ShouldBe(["months", "systems", "schools", "money", "weight"]);
        report.Parts[^1].Items[0].ShouldBe("About 2.0 kg, of 1 of the 2; nobody wrote down the form of the others.");
        FiguresReport.Of(ShopFigures.Of([], [], []), [], "The shop", day).Parts.ShouldBeEmpty();
    }
}
