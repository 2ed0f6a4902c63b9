using System.Text;
using FreshBoot.Core.Orders;
using FreshBoot.Data.Orders;
using FreshBoot.Server.Hosting;

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

internal static class OrderEndpoints
{
    private const int LongestId = 40;

    public static void MapOrders(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/orders", (OrderStore orders) => orders.Orders)
            .WithSummary("The orders, the earliest due first");
        app.MapPost(
                "/api/orders",
                async (OrderIn order, OrderStore orders, CancellationToken stop) =>
                {
                    Given.Text(order.By, "by", 60);
                    var checkedOrder = order.Order.Checked();
                    var stored = await orders.AddAsync(checkedOrder with { Id = IdOf(checkedOrder.Name) }, stop);
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

    /// <summary>"Seed Library" becomes <c>seed-library</c>.</summary>
    private static string IdOf(string name)
    {
        var id = new StringBuilder();
        foreach (var letter in name.ToLowerInvariant())
            if (char.IsAsciiLetterOrDigit(letter))
                id.Append(letter);
            else if (id.Length > 0 && id[^1] != '-')
                id.Append('-');
        var clean = id.ToString().Trim('-');
        return clean.Length == 0
            ? $"order-{Guid.CreateVersion7():N}"[..LongestId]
            : clean[..Math.Min(LongestId, clean.Length)];
    }
}
