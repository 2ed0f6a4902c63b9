using FreshBoot.Core.Scheduling;

namespace FreshBoot.Core.Tests.Scheduling;

public sealed class RosterTests
{
    /// <summary>A zone of its own: one hour ahead, two in summer, put back on the last Sunday of October at three.</summary>
    private static readonly TimeZoneInfo Zone = TimeZoneInfo.CreateCustomTimeZone(
        "shop",
        TimeSpan.FromHours(1),
        "shop",
        "shop",
        "shop in summer",
        [
            TimeZoneInfo.AdjustmentRule.CreateAdjustmentRule(
                DateTime.MinValue.Date,
                DateTime.MaxValue.Date,
                TimeSpan.FromHours(1),
                TimeZoneInfo.TransitionTime.CreateFloatingDateRule(
                    new DateTime(1, 1, 1, 2, 0, 0),
                    3,
                    5,
                    DayOfWeek.Sunday
                ),
                TimeZoneInfo.TransitionTime.CreateFloatingDateRule(
                    new DateTime(1, 1, 1, 3, 0, 0),
                    10,
                    5,
                    DayOfWeek.Sunday
                )
            ),
        ]
    );

    private static readonly WorkingWeek Ada = new("Ada", new TimeOnly(9, 0), new TimeOnly(17, 0), Roster.UsualDays, []);

    [Fact]
    public void A_plan_begins_with_the_next_whole_minute_and_today_counts_from_then()
    {
        // A Friday in October, half a minute past ten.
        var roster = Roster.From(new DateTimeOffset(2026, 10, 23, 8, 0, 30, TimeSpan.Zero), Zone);
        roster.Start.ShouldBe(new DateTimeOffset(2026, 10, 23, 10, 1, 0, TimeSpan.FromHours(2)));
        var shifts = roster.People([Ada], 60).Single().Shifts;
        shifts[0].ShouldBe(new Shift(0, 6 * 60 + 59));
    }

    [Fact]
    public void The_night_in_which_the_clock_is_put_back_has_an_hour_more()
    {
        var roster = Roster.From(new DateTimeOffset(2026, 10, 23, 8, 0, 30, TimeSpan.Zero), Zone);
        var monday = roster.People([Ada], 60).Single().Shifts[1];
        // From Friday 10:01 to Monday 9:00 it is 71 hours less a minute by the wall, and one more by the sun.
        monday.From.ShouldBe((72 * 60) - 61 + 60);
        (monday.To - monday.From).ShouldBe(8 * 60);
        roster.At(monday.From).ShouldBe(new DateTimeOffset(2026, 10, 26, 9, 0, 0, TimeSpan.FromHours(1)));
        roster.At(monday.From).Hour.ShouldBe(9);
    }

    [Fact]
    public void An_order_is_due_as_its_day_ends_and_one_of_yesterday_at_once()
    {
        var roster = Roster.From(new DateTimeOffset(2026, 10, 23, 8, 0, 30, TimeSpan.Zero), Zone);
        roster.At(roster.Due(new DateOnly(2026, 10, 23))).DateTime.ShouldBe(new DateTime(2026, 10, 24));
        roster.Due(new DateOnly(2026, 10, 20)).ShouldBe(0);
    }

    [Fact]
    public void There_are_days_enough_for_three_times_the_work_of_whoever_is_there_once_a_week()
    {
        var roster = Roster.From(Facts.Noon, TimeZoneInfo.Utc);
        var shifts = roster.People([Ada with { Days = [DayOfWeek.Saturday] }], 4000).Single().Shifts;
        shifts.Sum(s => s.To - s.From).ShouldBeGreaterThanOrEqualTo(3 * 4000);
    }
}
