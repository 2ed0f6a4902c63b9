using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;

namespace FreshBoot.Core.Tests.Handover;

public class MeasuredTests
{
    private static Measured Start(int own, params int[] others) => One("use.startSeconds", own, others);

    private static Measured One(string key, int own, params int[] others) =>
        Measured
            .Of(Facts.GoodBut((key, own)), [.. others.Select(o => (IFacts)Facts.GoodBut((key, o)))])
            .Single(m => m.Key == key);

    [Fact]
    public void What_nobody_measured_is_asked_for_and_says_what_the_others_have()
    {
        var start = Measured
            .Of(Facts.GoodBut(), [Facts.GoodBut(("use.startSeconds", 40)), Facts.GoodBut()])
            .Single(m => m.Key == "use.startSeconds");
        (start.Says, start.Others, start.Middle, start.Worse, start.ByHand).ShouldBe((null, 1, "40 s", null, true));
    }

    [Theory]
    [InlineData(50, false)]
    [InlineData(51, true)]
    public void More_than_a_quarter_slower_than_the_middle_of_the_others_is_worse(int own, bool worse) =>
        Start(own, 38, 40, 90).Worse.ShouldBe(worse);

    [Fact]
    public void One_other_is_no_company() => Start(100, 40).Worse.ShouldBeNull();

    [Theory]
    [InlineData(75, false)]
    [InlineData(74, true)]
    public void Of_what_more_is_better_less_is_worse(int own, bool worse)
    {
        const long one = 1_000_000_000;
        IFacts With(long value) => Facts.GoodBut(("os.freeBytes", value));
        Measured
            .Of(With(own * one), [With(100 * one), With(100 * one)])
            .Single(m => m.Key == "os.freeBytes")
            .Worse.ShouldBe(worse);
    }

    [Fact]
    public void Numbers_have_their_units_and_without_a_battery_there_is_no_line_of_one()
    {
        One("use.idleMiB", 1536).Says.ShouldBe("1.5 GiB");
        One("use.loadCelsius", 71).Says.ShouldBe("71 °C");
        Measured.Of(Facts.GoodBut(), []).ShouldNotContain(m => m.Key == "battery.healthPercent");
    }
}
