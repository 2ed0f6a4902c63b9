using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Planning;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests;

public class OrderTests
{
    internal static Order Order(params OrderNeed[] needs) =>
        new("o", "Somebody", "For something.", 2, null, false, false, false, LooksAfter.Owner, needs);

    [Fact]
    public void An_order_that_can_be_meant_is_taken() =>
        Order(
                new OrderNeed(NeedKind.Program, true, Purpose.Web),
                new OrderNeed(NeedKind.Program, false, Purpose.Calls),
                new OrderNeed(NeedKind.Budget, true, Money: 5000)
            )
            .Checked()
            .HardBudget.ShouldBe(5000);

    public static TheoryData<Order, string> Wrong =>
        new()
        {
            { Order() with { Name = " " }, "name" },
            { Order() with { Machines = 0 }, "machines" },
            { Order(new OrderNeed(NeedKind.Program, true)), "needs/0" },
            { Order(new OrderNeed(NeedKind.Budget, true)), "needs/0" },
            { Order(new OrderNeed(NeedKind.Budget, true, Money: -1)), "needs/0" },
            { Order(new OrderNeed(NeedKind.Offline, true, Purpose.Web)), "needs/0" },
            { Order(new OrderNeed(NeedKind.SupportUntil, true)), "needs/0" },
            { Order(new OrderNeed(NeedKind.Offline, true), new OrderNeed(NeedKind.Offline, false)), "needs/1" },
        };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void What_cannot_be_meant_is_refused_with_its_place(Order order, string where) =>
        Should.Throw<RefusedException>(order.Checked).Refusal.Where.ShouldBe(where);

    [Fact]
    public void Adding_a_need_never_opens_a_system()
    {
        var evaluator = new Evaluator(Shipped.Catalogue);
        OrderNeed[] needs =
        [
            new(NeedKind.Program, true, Purpose.Drawing),
            new(NeedKind.NoAccount, true),
            new(NeedKind.Offline, true),
            new(NeedKind.Unattended, true),
            new(NeedKind.SupportUntil, true, Until: new DateOnly(2028, 6, 1)),
        ];
        foreach (var (tag, dossier) in Fleet.Dossiers)
        foreach (var system in Shipped.Catalogue.Systems)
        foreach (var need in needs)
        {
            var before = evaluator.Assess(dossier, system, new Plan(new DateOnly(2026, 12, 3)));
            var after = evaluator.Assess(dossier, system, new Plan(new DateOnly(2026, 12, 3), null, null, Order(need)));
            (after.Outcome >= before.Outcome).ShouldBeTrue($"{tag} {system.Id} {need.Kind}");
        }
    }

    [Fact]
    public void The_wanted_list_names_models_that_have_a_route_and_what_may_be_paid()
    {
        var wanted = new WantedList(Shipped.Catalogue, new RouteSearch(Shipped.Catalogue));
        var order = Order(
            new OrderNeed(NeedKind.Program, true, Purpose.Drawing),
            new OrderNeed(NeedKind.Budget, true, Money: 3000)
        );

        var list = wanted.Make([order], [], new DateOnly(2026, 12, 3)).ShouldHaveSingleItem();
        list.Missing.ShouldBe(2);
        list.Models.ShouldNotContain(m => m.Model == "till-7");
        list.Models.ShouldContain(m => m.Model == "stile-14-c8");
        list.Models.ShouldAllBe(m => m.Money + m.UpTo <= 3000);

        wanted.AtTheDoor("stile 14", [order], new DateOnly(2026, 12, 3)).ShouldHaveSingleItem();
        wanted
            .AtTheDoor("Fennimore Till 7", [order], new DateOnly(2026, 12, 3))
            .ShouldHaveSingleItem()
            .Model.System.ShouldBeNull();
        wanted.AtTheDoor("no such thing", [order], new DateOnly(2026, 12, 3)).ShouldBeEmpty();
    }
}
