using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Routes;

/// <summary>Whether a route is worth its money. All amounts in hundredth parts of a mark.</summary>
/// <param name="Total">Parts, fees and work.</param>
/// <param name="Work">The work in it, at the shop's hourly rate.</param>
/// <param name="PerMonth">The total over the months of support; null where there are none or no end is set.</param>
/// <param name="Comparable">Price of a working machine of the kind; null where the price book has none.</param>
/// <param name="Saves">What is saved against that machine; negative where buying is cheaper.</param>
/// <param name="BreakEvenMinutes">The work at which both cost the same; null where there is nothing to compare with.</param>
/// <param name="Parts">What its sound parts are worth.</param>
/// <param name="BetterAsParts">Whether the parts are worth more than what the route saves.</param>
/// <param name="Text">The verdict in a sentence.</param>
public sealed record Worth(
    int Total,
    int Work,
    int? PerMonth,
    int? Comparable,
    int? Saves,
    int? BreakEvenMinutes,
    int Parts,
    bool BetterAsParts,
    string Text
)
{
    /// <summary>Weighs a route against buying a machine, and against taking this one apart.</summary>
    public static Worth Of(RouteVector route, IFacts facts, ShopCatalogue catalogue)
    {
        var hour = catalogue.HourMoney;
        var work = (int)((long)hour * route.HandsOnMinutes / 60);
        var total = route.Money + work;
        var comparable = catalogue
            .Prices.FirstOrDefault(p => p.Per == PricePer.Machine && p.When?.Holds(facts) != false)
            ?.Money;
        var parts = catalogue
            .Prices.Where(p => p.Per == PricePer.Part && p.When?.Holds(facts) == true)
            .Sum(p => p.Money);
        var saves = comparable - total;
        var better = saves is { } left && left < parts;
        int? perMonth = route.SupportMonths is > 0 and < int.MaxValue
            ? (total + route.SupportMonths - 1) / route.SupportMonths
            : null;
        return new Worth(
            total,
            work,
            perMonth,
            comparable,
            saves,
            hour > 0 && comparable is { } price ? Math.Max(0, (price - route.Money) * 60 / hour) : null,
            parts,
            better,
            Say(total, comparable, saves, parts, better)
        );
    }

    private static string Say(int total, int? comparable, int? saves, int parts, bool better) =>
        comparable is null
            ? $"{Numbers.Money(total)} with the hours of work; the price book has no machine to compare with."
        : better
            ? $"Better as parts: they are worth {Numbers.Money(parts)}, the work saves {(saves > 0 ? $"only {Numbers.Money(saves.Value)}" : "nothing")} against a bought one at {Numbers.Money(comparable.Value)}."
        : $"{Numbers.Money(total)} with the hours of work, {Numbers.Money(saves!.Value)} less than a bought one at {Numbers.Money(comparable.Value)}.";
}
