using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;

namespace FreshBoot.Core.Orders;

/// <summary>How a system stands to each kind of need. Programs are weighed like any requirement, and a budget by the routes.</summary>
internal static class OrderRules
{
    private const string SupportId = "order-support";

    private sealed record Rule(
        string Id,
        Rung Rung,
        Func<OrderNeed, string> Needed,
        Func<OrderNeed, SystemEntry, DateOnly?, bool> Holds,
        Func<OrderNeed, SystemEntry, DateOnly?, string> Short
    );

    private static readonly Dictionary<NeedKind, Rule> Rules = new()
    {
        [NeedKind.NoAccount] = new(
            "order-account",
            Rung.Use,
            _ => "no maker's account",
            (_, system, _) => system.Account != Asked.Required,
            (_, system, _) => $"The order wants no maker’s account; {system.FullName} does not go without one."
        ),
        [NeedKind.Offline] = new(
            "order-offline",
            Rung.Use,
            _ => "no network, set-up included",
            (_, system, _) => system.Network != Asked.Required && system.Class != SystemClass.BrowserFirst,
            (_, system, _) =>
                system.Class == SystemClass.BrowserFirst
                    ? $"The order works offline; {system.FullName} is of little use without a network."
                    : $"The order works offline; set-up of {system.FullName} asks for a network."
        ),
        [NeedKind.Unattended] = new(
            "order-unattended",
            Rung.Use,
            _ => "a start by itself into one program",
            (_, system, _) => system.Unattended,
            (_, system, _) =>
                $"The order wants machines that start by themselves; {system.FullName} waits for a person."
        ),
        [NeedKind.SupportUntil] = new(
            SupportId,
            Rung.Upkeep,
            need => $"updates to {need.Until:d MMM yyyy}",
            (need, _, ends) => ends is null || ends >= need.Until,
            (need, _, ends) => $"The order wants updates to {need.Until:d MMM yyyy}; they end on {ends:d MMM yyyy}."
        ),
    };

    /// <summary>Whether a system meets a need by what it is; null where that is judged elsewhere.</summary>
    public static bool? Hold(OrderNeed need, SystemEntry system, DateOnly? supportEnds) =>
        Rules.TryGetValue(need.Kind, out var rule) ? rule.Holds(need, system, supportEnds) : null;

    /// <summary>The need as a requirement.</summary>
    public static Requirement Requirement(OrderNeed need, Order order)
    {
        var rule = Rules[need.Kind];
        return new Requirement(
            rule.Id,
            need.Hard ? RequirementKind.Runtime : RequirementKind.Comfort,
            rule.Rung,
            new Condition.All([]),
            new Evidence($"order of {order.Name}", default, Sureness.Stated),
            Says: rule.Needed(need)
        );
    }

    /// <summary>The finding in words.</summary>
    public static string Text(OrderNeed need, SystemEntry system, DateOnly? supportEnds, bool holds) =>
        holds
            ? $"The order wants {Rules[need.Kind].Needed(need)}: so it is."
            : Rules[need.Kind].Short(need, system, supportEnds);

    /// <summary>Whether it asks for updates until a day, which a paid extension may mend.</summary>
    public static bool IsSupport(Requirement requirement) => requirement.Id == SupportId;
}
