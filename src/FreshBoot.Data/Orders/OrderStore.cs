using System.Text.Json;
using FreshBoot.Core.Orders;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Orders;

/// <summary>An order with its version.</summary>
/// <param name="Version">Goes up with every change.</param>
/// <param name="Order">The order.</param>
public sealed record StoredOrder(int Version, Order Order);

/// <summary>The orders. They are few, so they are kept in memory beside the database.</summary>
public sealed class OrderStore(IDbContextFactory<FreshBootDb> databases) : IDisposable
{
    private volatile IReadOnlyList<StoredOrder> _orders = [];
    private readonly SemaphoreSlim _reading = new(1, 1);

    /// <summary>Every order, the earliest due first.</summary>
    public IReadOnlyList<StoredOrder> Orders => _orders;

    /// <summary>The order that a machine names; null for none.</summary>
    public Order? Named(string? name) => name is null ? null : _orders.FirstOrDefault(o => o.Order.Name == name)?.Order;

    /// <summary>The order with this id.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public StoredOrder Get(string id) =>
        _orders.FirstOrDefault(o => o.Order.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no order “{id}”.",
            "order",
            "An order that is on the list."
        );

    /// <summary>Reads the orders: at the start, and after each change. One reader at a time: the last one that reads counts.</summary>
    public async Task LoadAsync()
    {
        await _reading.WaitAsync(CancellationToken.None);
        try
        {
            await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
            var rows = await db.Orders.AsNoTracking().ToListAsync(CancellationToken.None);
            // One that has not changed stays the same object: what was worked out for it holds.
            var before = _orders.ToDictionary(o => (o.Order.Id, o.Version));
            _orders =
            [
                .. rows.Select(r =>
                        before.GetValueOrDefault((r.Id, r.Version))
                        ?? new StoredOrder(
                            r.Version,
                            JsonSerializer.Deserialize<Order>(r.Order, JsonSerializerOptions.Web)!
                        )
                    )
                    .OrderBy(o => o.Order.Due ?? DateOnly.MaxValue)
                    .ThenBy(o => o.Order.Name, StringComparer.Ordinal),
            ];
        }
        finally
        {
            _reading.Release();
        }
    }

    /// <summary>Takes a new order.</summary>
    /// <exception cref="RefusedException">Its id or name is taken.</exception>
    public async Task<StoredOrder> AddAsync(Order order, CancellationToken stop)
    {
        Unique(order);
        if (_orders.Any(o => o.Order.Id == order.Id))
            throw Taken("id", order.Id);
        await using var db = await databases.CreateDbContextAsync(stop);
        db.Orders.Add(
            new OrderRow
            {
                Id = order.Id,
                Name = order.Name,
                Version = 1,
                Order = JsonSerializer.Serialize(order, JsonSerializerOptions.Web),
            }
        );
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e)
            when (e.InnerException is Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 })
        {
            throw e.InnerException.Message.Contains("orders.Name", StringComparison.Ordinal)
                ? Taken("name", order.Name)
                : Taken("id", order.Id);
        }
        await LoadAsync();
        return Get(order.Id);
    }

    /// <summary>Changes an order.</summary>
    /// <param name="version">The version that the change was made from.</param>
    /// <param name="order">The order as it is now.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">There is no such order, its name is taken, or somebody changed it meanwhile.</exception>
    public async Task<StoredOrder> ChangeAsync(int version, Order order, CancellationToken stop)
    {
        Get(order.Id);
        Unique(order);
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await db.Orders.SingleAsync(o => o.Id == order.Id, stop);
        if (row.Version != version)
            throw Changed();
        row.Version++;
        row.Name = order.Name;
        row.Order = JsonSerializer.Serialize(order, JsonSerializerOptions.Web);
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            throw Changed();
        }
        catch (DbUpdateException e)
            when (e.InnerException is Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 })
        {
            throw Taken("name", order.Name);
        }
        await LoadAsync();
        return Get(order.Id);
    }

    /// <inheritdoc/>
    public void Dispose() => _reading.Dispose();

    private void Unique(Order order)
    {
        if (_orders.Any(o => o.Order.Id != order.Id && o.Order.Name == order.Name))
            throw Taken("name", order.Name);
    }

    private static RefusedException Taken(string where, string what) =>
        new(RefusalKind.Conflict, $"There is an order with the {where} “{what}” already.", where, $"Another {where}.");

    private static RefusedException Changed() =>
        new(
            RefusalKind.Conflict,
            "Somebody else changed this order meanwhile.",
            "version",
            "Look at it again, and change it from there."
        );
}
