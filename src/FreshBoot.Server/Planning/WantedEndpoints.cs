using FreshBoot.Core.Planning;
using FreshBoot.Data.Orders;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Planning;

/// <summary>A machine at the door, held against one order.</summary>
/// <param name="Order">Name of the order.</param>
/// <param name="Model">How the model would serve it.</param>
internal sealed record AtTheDoor(string Order, WantedModel Model);

internal static class WantedEndpoints
{
    public static void MapWanted(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/wanted", (MachineIndex index, CancellationToken stop) => index.WantedAsync(stop))
            .WithSummary(
                "What donors could bring: from the open orders, models, processors and parts, and up to what price"
            );
        app.MapGet(
                "/api/wanted/check",
                (string model, OrderStore orders, Shop shop) =>
                    shop
                        .Now.Wanted.AtTheDoor(
                            Given.Text(model, "model", 80),
                            [.. orders.Orders.Select(o => o.Order)],
                            shop.Today
                        )
                        .Select(x => new AtTheDoor(x.Order.Name, x.Model))
                        .ToArray()
            )
            .WithSummary(
                "A machine at the door, by what is written on it: whether an order wants it, and up to what price"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest);
    }
}
