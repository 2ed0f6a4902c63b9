using System.Security.Cryptography;
using FreshBoot.Core.Orders;
using FreshBoot.Data.Orders;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Orders;

/// <summary>An order that comes in; its id is made from its name.</summary>
/// <param name="Order">The order; its id may be empty.</param>
/// <param name="By">Who takes it.</param>
internal sealed record OrderIn(Order Order, string By);

/// <summary>An order that changes.</summary>
/// <param name="Order">The order as it is now.</param>
/// <param name="Version">The version that the change was made from.</param>
/// <param name="By">Who changes it.</param>
internal sealed record OrderChange(Order Order, int Version, string By);

/// <summary>An order and how far it is.</summary>
/// <param name="Order">The order.</param>
/// <param name="Version">Goes up with every change.</param>
/// <param name="Ready">Machines set aside for it whose run is finished.</param>
/// <param name="InWork">Those whose run is under way.</param>
/// <param name="Aside">Those on which nothing was begun.</param>
/// <param name="Missing">How many machines nobody has set aside yet.</param>
/// <param name="DaysLeft">Days until it is due, negative when it is late; null without a day, or when all are ready.</param>
internal sealed record OrderStanding(
    Order Order,
    int Version,
    int Ready,
    int InWork,
    int Aside,
    int Missing,
    int? DaysLeft
);

/// <summary>A machine that an order could get.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Maker">Its maker.</param>
/// <param name="Model">Its model.</param>
/// <param name="Bay">The bay it stands in; null on the shelf.</param>
/// <param name="Route">The best route to what the order asks for.</param>
internal sealed record FitsOrder(string Tag, string? Maker, string? Model, int? Bay, Route Route);

internal static class OrderEndpoints
{
    private const int MostFitting = 12;

    public static void MapOrders(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/orders", (MachineIndex index, CancellationToken stop) => index.OrdersAsync(stop))
            .WithSummary("The orders, the earliest due first, and how far each is");
        app.MapGet(
                "/api/orders/{id}/fitting",
                (string id, OrderStore orders, MachineIndex index, CancellationToken stop) =>
                    index.FittingAsync(
                        orders.Orders.FirstOrDefault(o => o.Order.Id == id)?.Order
                            ?? throw new RefusedException(
                                RefusalKind.Missing,
                                $"There is no order “{id}”.",
                                "id",
                                "An order that is on the list."
                            ),
                        MostFitting,
                        stop
                    )
            )
            .WithSummary("The machines that nobody has that an order could get, best route first")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapPost(
                "/api/orders",
                async (OrderIn order, OrderStore orders, CancellationToken stop) =>
                {
                    Given.Text(order.By, "by", 60);
                    var checkedOrder = order.Order.Checked();
                    var stored = await orders.AddAsync(checkedOrder with { Id = NewId() }, stop);
                    return TypedResults.Created($"/api/orders/{stored.Order.Id}", stored);
                }
            )
            .WithSummary("Takes an order: for whom, how many machines, limits and wishes")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict);
        app.MapPut(
                "/api/orders/{id}",
                async (string id, OrderChange change, OrderStore orders, CancellationToken stop) =>
                {
                    Given.Text(change.By, "by", 60);
                    return await orders.ChangeAsync(change.Version, change.Order.Checked() with { Id = id }, stop);
                }
            )
            .WithSummary("Changes an order")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    /// <summary>An id says nothing: names are written in any script, and change.</summary>
    private static string NewId() => $"order-{Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(6))}";
}
