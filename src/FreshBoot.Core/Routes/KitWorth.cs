using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Routes;

/// <summary>
/// A machine that passes for another beside a genuine one of like speed. Both get updates as long as the system does; what differs
/// is the price, and the care that the kit asks for until then. All amounts in hundredth parts of a mark.
/// </summary>
/// <param name="Genuine">Price of the genuine machine.</param>
/// <param name="About">Which it is.</param>
/// <param name="Way">Parts, fees and work of this way.</param>
/// <param name="Care">What the care of the kit costs until the end of support, at the shop's hourly rate.</param>
/// <param name="Years">Years of support that were reckoned with, in tenths.</param>
/// <param name="Saves">What is saved against the genuine machine; negative where buying is cheaper.</param>
/// <param name="Text">The verdict in a sentence.</param>
public sealed record KitWorth(int Genuine, string About, int Way, int Care, int Years, int Saves, string Text)
{
    /// <summary>Years of care where the system names no end.</summary>
    private const int UsualMonths = 36;

    /// <summary>Weighs a route; null where the price book has no genuine machine to hold beside it.</summary>
    public static KitWorth? Of(Route route, IFacts facts, SystemEntry system, ShopCatalogue catalogue)
    {
        if (
            catalogue.Prices.FirstOrDefault(p =>
                p.Per == PricePer.Genuine && p.System == system.Id && p.When?.Holds(facts) != false
            )
            is not { } genuine
        )
            return null;
        var hour = catalogue.HourMoney;
        var way = route.Money + (int)((long)hour * route.HandsOnMinutes / 60);
        var months = route.SupportMonths ?? UsualMonths;
        var care = (int)((long)hour * (system.Kit?.CareMinutesPerYear ?? 0) * months / 12 / 60);
        var saves = genuine.Money - way - care;
        return new KitWorth(
            genuine.Money,
            genuine.About,
            way,
            care,
            months * 10 / 12,
            saves,
            $"{Numbers.Money(way)} with the hours of work, and {Numbers.Money(care)} of care until its support ends, beside {Numbers.Money(genuine.Money)}: "
                + (
                    saves > 0
                        ? $"{Numbers.Money(saves)} less, for what will be missing."
                        : $"{Numbers.Money(-saves)} more than the genuine one, which lacks nothing."
                )
        );
    }
}
