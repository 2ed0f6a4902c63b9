using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Routes;

/// <summary>What an order, a school or the price book does to the routes.</summary>
public class OrderedRoutesTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly RouteSearch Search = new(Shipped.Catalogue);

    private static IReadOnlyList<Route> Find(Order order, params (string, object?)[] changes) =>
        Search.Find(Facts.GoodBut(changes), new RouteQuestion(Today, null, order));

    [Fact]
    public void A_limit_keeps_systems_out_and_a_wish_lowers_the_fit()
    {
        var limit = Find(OrderTests.Order(new OrderNeed(NeedKind.NoAccount, Hard: true)));
        limit.ShouldNotContain(r => r.System == "driftway");
        limit.ShouldNotContain(r => r.System == "tessaly-6-r2");
        limit.ShouldContain(r => r.System == "wickerwork-26");

        var wish = Find(OrderTests.Order(new OrderNeed(NeedKind.NoAccount, Hard: false)));
        wish.First(r => r.System == "driftway").Fit.ShouldBeLessThan(wish.First(r => r.System == "wickerwork-26").Fit);
    }

    [Fact]
    public void Programs_count_and_a_release_that_is_too_old_for_them_is_a_wall()
    {
        var drawing = Find(OrderTests.Order(new OrderNeed(NeedKind.Program, Hard: true, Purpose.Drawing)));

        drawing.ShouldContain(r => r.System == "wickerwork-26");
        // Dartline wants a system of 2024 or later, and Tessaly 6, release 1 came out in 2023.
        drawing.ShouldNotContain(r => r.System == "tessaly-6-r1");
    }

    [Fact]
    public void A_hard_budget_is_never_broken()
    {
        var short4 = ("memory.installedMiB", (object?)2048);
        Find(OrderTests.Order(new OrderNeed(NeedKind.Budget, true, Money: 1000)), short4)
            .ShouldAllBe(r => r.Money <= 1000);
        Find(OrderTests.Order(), short4).ShouldContain(r => r.Money > 1000);
    }

    [Fact]
    public void Paid_updates_reach_the_day_that_is_asked_for()
    {
        var order = OrderTests.Order(new OrderNeed(NeedKind.SupportUntil, true, Until: new DateOnly(2028, 1, 1)));
        var old = Find(order).Where(r => r.System == "tessaly-5").ToArray();

        old.ShouldNotBeEmpty();
        old.ShouldAllBe(r => r.Cures.Any(c => c.Id == "extend-tessaly-5") && r.SupportMonths == 15);
    }

    [Fact]
    public void A_cure_that_needs_another_first_comes_after_it()
    {
        var chain = Search
            .Find(Facts.GoodBut(("tpm.version", "absent"), ("identity.maker", "Brackwater")), new RouteQuestion(Today))
            .First(r => r.System == "tessaly-6-r2" && r.School == School.Comply);

        chain.Cures.Select(c => c.Id).ShouldBe(["firmware-update", "tpm-on"]);
        chain.Reversible.ShouldBeFalse();
        // Flashing comes before the drive is swapped, whose system runs the updater.
        RouteSearch
            .InOrder([.. new[] { "drive-sata-240", "firmware-update" }.Select(Cure)], Facts.GoodBut())
            .Select(c => c.Id)
            .ShouldBe(["firmware-update", "drive-sata-240"]);
    }

    private static Cure Cure(string id) => Shipped.Catalogue.Cures.Single(c => c.Id == id);

    [Fact]
    public void Why_a_route_is_missing_is_said_with_the_wall_first()
    {
        var v2 = CpuLevel.Levels.Take(2).SelectMany(l => l.Adds.Select(f => f.Flag)).ToArray();
        var missing = Search.Missing(
            Facts.GoodBut(("cpu.model", "Corvane C6-1"), ("cpu.flags", v2), ("tpm.version", "header")),
            Shipped.Catalogue.System("tessaly-6-r2")!,
            new RouteQuestion(Today)
        );

        missing.Select(m => m.School).ShouldBe([School.Comply, School.Patch, School.Spoof, School.Reflash]);
        missing[0].Text.ShouldContain("x86-64-v3");
        missing[0].Text.ShouldContain("Nothing lifts it");
        missing[0]
            .Obstacles.Single(o => o.Requirement == "processor-list")
            .Tried.ShouldContain(t => t.Why.Contains("another school"));
    }

    [Fact]
    public void A_conflict_is_named_where_it_keeps_a_cure_out()
    {
        var lists = new CatalogueLists();
        var evidence = new Evidence("made up", Today, Sureness.Stated);
        lists.Systems.Add(
            new SystemEntry(
                "s",
                "S",
                null,
                SystemClass.General,
                "made up",
                null,
                evidence,
                new InstallTime(1, 1, 1, 1),
                [
                    new Requirement("tpm", RequirementKind.Gate, Rung.Setup, Is("tpm.version", "2.0"), evidence),
                    new Requirement(
                        "boot",
                        RequirementKind.Runtime,
                        Rung.Firmware,
                        Is("firmware.secureBoot", "able"),
                        evidence
                    ),
                ]
            )
        );
        lists.Cures.AddRange([
            new Cure("module", Outcome.Part, Rung.Parts, "Fit a module", Sets: Set("tpm.version", "2.0"), Money: 1100)
            {
                Conflicts = ["loader"],
            },
            new Cure("loader", Outcome.Patch, Rung.Setup, "Patch the loader", Sets: Set("firmware.secureBoot", "able")),
        ]);

        var missing = new RouteSearch(new ShopCatalogue(lists, "")).Missing(
            Facts.GoodBut(("tpm.version", "header"), ("firmware.secureBoot", "on")),
            lists.Systems[0],
            new RouteQuestion(Today)
        );

        var patch = missing.Single(m => m.School == School.Patch);
        patch.Text.ShouldContain("conflicts with");
        patch.Obstacles.SelectMany(o => o.Tried).ShouldContain(t => t.Money == 1100 || t.Cure == "loader");
    }

    private static Condition.OneOf Is(string key, string value) => new(key, [FactValue.Of(value)], []);

    private static Dictionary<string, FactValue> Set(string key, string value) =>
        new(StringComparer.Ordinal) { [key] = FactValue.Of(value) };

    [Fact]
    public void Worth_weighs_a_route_against_a_bought_machine_and_against_its_parts()
    {
        var facts = Facts.GoodBut(("identity.model", "Stile 14"));
        Worth Of(int money, int minutes, int months) =>
            Worth.Of(new RouteVector(money, minutes, 0, months, 100), facts, Shipped.Catalogue);

        var cheap = Of(2000, 60, 20);
        cheap.Total.ShouldBe(2000 + 1800);
        cheap.PerMonth.ShouldBe(190);
        cheap.Saves.ShouldBe(11500 - 3800);
        cheap.BreakEvenMinutes.ShouldBe((11500 - 2000) * 60 / 1800);
        cheap.BetterAsParts.ShouldBeFalse();

        var dear = Of(9000, 120, int.MaxValue);
        dear.PerMonth.ShouldBeNull();
        dear.BetterAsParts.ShouldBeTrue();
        dear.Text.ShouldStartWith("Better as parts");
    }
}
