using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Routes;

public class KitWorthTests
{
    private static KitWorth? Of(string priced)
    {
        var facts = Facts.GoodBut(
            ("identity.maker", "Ottavine"),
            ("identity.model", "Sonata SO-06A"),
            ("cpu.model", "Corvane C6-1"),
            ("graphics.0.model", "Corvane C6 graphics")
        );
        var route = new RouteSearch(Shipped.Catalogue)
            .Find(facts, new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.System == "canzona-6" && r.School == School.Spoof);
        return KitWorth.Of(route, facts, Shipped.Catalogue.System(priced)!, Shipped.Catalogue);
    }

    [Fact]
    public void A_kit_costs_its_work_and_its_care_until_support_ends_beside_a_genuine_machine()
    {
        var worth = Of("canzona-6")!;

        worth.Genuine.ShouldBe(23500);
        // 33 whole months to the end of September 2029, 75 minutes a year, at M 18 an hour.
        worth.Care.ShouldBe(1800 * 75 * 33 / 12 / 60);
        worth.Saves.ShouldBe(worth.Genuine - worth.Way - worth.Care);
        worth.Text.ShouldContain("less, for what will be missing");
    }

    [Fact]
    public void Without_a_genuine_machine_in_the_price_book_nothing_is_claimed() => Of("canzona-5").ShouldBeNull();
}
