using FreshBoot.Core.Upkeep;

namespace FreshBoot.Core.Tests.Upkeep;

/// <summary>Images whose source goes.</summary>
public class ImageSourcesTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);

    private static KeptImage Image(int id, string build = "1", DateOnly? until = null, string? system = "tessaly-5") =>
        new(id, $"{id}.iso", system, build, "its maker's page", until);

    [Fact]
    public void The_last_day_on_which_it_can_be_fetched_falls_due_and_no_other()
    {
        var due = ImageSources.DueOf([Image(1, until: Today), Image(2)]).ShouldHaveSingleItem();
        due.On.ShouldBe(Today);
        due.Kind.ShouldBe(DueKind.SourceGoes);
        due.Why.ShouldStartWith("its maker's page has it until this day.");
    }

    [Theory]
    [InlineData(0, false)]
    [InlineData(-1, true)]
    public void It_is_the_last_one_from_the_day_after(int days, bool last) =>
        ImageSources.IsLast(Image(1, until: Today.AddDays(days)), [Image(1)], Today).ShouldBe(last);

    [Fact]
    public void Another_of_the_same_system_and_build_stands_in_for_it()
    {
        var gone = Image(1, until: Today.AddYears(-1));
        ImageSources.IsLast(gone, [gone, Image(2, "2"), Image(3, system: "canzona-6")], Today).ShouldBeTrue();
        ImageSources.IsLast(gone, [gone, Image(4)], Today).ShouldBeFalse();
        ImageSources.IsLast(Image(5), [Image(5)], Today).ShouldBeFalse();
    }
}
