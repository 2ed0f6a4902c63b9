namespace FreshBoot.Data.Orders;

/// <summary>An order.</summary>
public sealed class OrderRow
{
    /// <summary>Its id.</summary>
    public required string Id { get; init; }

    /// <summary>Its name, which no other order has.</summary>
    public string Name { get; set; } = "";

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; }

    /// <summary>The order as JSON.</summary>
    public required string Order { get; set; }
}
