using FreshBoot.Core.Conditions;

namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the entries that a shop writes for itself: programs that people use, prices, the shop's own computers.</summary>
internal static class ShopReader
{
    /// <summary>A program and what it asks for.</summary>
    public static ProgramEntry Program(PackNode node) =>
        new(
            node.Id(),
            node.Text("name"),
            node.Enum<Purpose>("purpose"),
            node.SystemIds("systems"),
            node.DayOrNull("releasedSince"),
            node.ConditionOrNull("needs") ?? new Condition.All([]),
            node.TextOrNull("needed"),
            node.Evidence()
        );

    /// <summary>A line of the price book.</summary>
    public static PriceEntry Price(PackNode node) =>
        new(
            node.Id(),
            node.Text("about"),
            node.Enum<PricePer>("per"),
            node.Number("money"),
            node.ConditionOrNull("when")
        );

    /// <summary>Another computer of the shop.</summary>
    public static ComputerEntry Computer(PackNode node) => new(node.Id(), node.Text("about"), node.SystemId("system"));
}
