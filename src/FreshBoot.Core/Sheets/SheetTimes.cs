using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Sheets;

/// <summary>The times of routes by the steps of their sheets: one number for choosing, planning, rehearsing and doing.</summary>
/// <param name="catalogue">Systems, procedures, makers.</param>
public sealed class SheetTimes(ShopCatalogue catalogue) : IRouteTimes
{
    /// <inheritdoc/>
    public RouteTimes Of(IFacts facts, Route route, Order? order) =>
        RunSheet.TimesOf(
            new SheetQuestion(
                "",
                facts,
                route,
                route.System is { } system ? catalogue.System(system) : null,
                catalogue,
                [],
                order
            )
        );
}
