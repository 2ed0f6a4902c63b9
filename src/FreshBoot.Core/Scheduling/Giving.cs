namespace FreshBoot.Core.Scheduling;

/// <summary>A machine with a route that an order could get.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Order">Id of the order.</param>
/// <param name="Route">Id of the route.</param>
/// <param name="Money">What it costs in parts and fees, in hundredth parts of a mark.</param>
/// <param name="HandsOn">Minutes of work.</param>
/// <param name="Fit">How well it suits the order, 0 to 100.</param>
/// <param name="PerMille">In how many of a thousand walks of the rehearsal it is finished.</param>
/// <param name="Takes">Parts that it takes off the shelf, and how many.</param>
public sealed record GiveOffer(
    string Tag,
    string Order,
    string Route,
    int Money,
    int HandsOn,
    int Fit,
    int PerMille,
    IReadOnlyDictionary<string, int> Takes
);

/// <summary>An order as the plan sees it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Wants">Machines that it still wants.</param>
public sealed record GiveOrder(string Id, int Wants);

/// <summary>What the giving of machines to orders is asked for.</summary>
/// <param name="Orders">The orders, the earliest due first.</param>
/// <param name="Offers">What each machine could be for each order; limits of an order have been kept in them.</param>
/// <param name="Shelf">Parts on the shelf that no machine has been promised.</param>
/// <param name="HourMoney">What an hour of work costs, in hundredth parts of a mark.</param>
/// <param name="Begun">Machines that are begun, and for which order: nothing moves them.</param>
/// <param name="Before">For which order a machine is set aside as it is, or was in the plan before.</param>
public sealed record GiveQuestion(
    IReadOnlyList<GiveOrder> Orders,
    IReadOnlyList<GiveOffer> Offers,
    IReadOnlyDictionary<string, int> Shelf,
    int HourMoney,
    IReadOnlyDictionary<string, string> Begun,
    IReadOnlyDictionary<string, string> Before
);

/// <summary>A machine that an order gets.</summary>
/// <param name="Offer">Which machine with which route.</param>
/// <param name="Reserve">Whether it stands by for one that fails: nothing is begun on it before.</param>
public sealed record Gift(GiveOffer Offer, bool Reserve);

/// <summary>What a giving costs: less is better. All amounts in hundredth parts of a mark.</summary>
public static class GiveCost
{
    /// <summary>A machine that an order does not get.</summary>
    public const int Missing = 20_000;

    /// <summary>A machine that an order has to expect to lack, for each thousandth of it.</summary>
    public const int ShortPerMille = 5;

    /// <summary>Each of the hundred points of fit that are lacking.</summary>
    public const int Misfit = 20;

    /// <summary>A machine that has been set aside for one order and goes to another.</summary>
    public const int Moved = 1_000;

    /// <summary>A machine that stands by.</summary>
    public const int StandsBy = 300;

    /// <summary>What a route costs an order, whatever the machine.</summary>
    public static int Of(int money, int handsOn, int fit, int hourMoney) =>
        money + hourMoney * handsOn / 60 + Misfit * (100 - fit);

    /// <summary>What one machine costs an order.</summary>
    public static int Of(GiveQuestion question, GiveOffer offer, bool reserve) =>
        (reserve ? Of(StandsBy, 0, offer.Fit, 0) : Of(offer.Money, offer.HandsOn, offer.Fit, question.HourMoney))
        + (question.Before.TryGetValue(offer.Tag, out var before) && before != offer.Order ? Moved : 0);

    /// <summary>What a giving costs.</summary>
    public static int Of(GiveQuestion question, IReadOnlyList<Gift> gives) =>
        gives.Sum(g => Of(question, g.Offer, g.Reserve))
        + question.Orders.Sum(o =>
            Missing * Math.Max(0, o.Wants - Count(question, gives, o.Id))
            + ShortPerMille * Math.Max(0, 1000 * o.Wants - Expected(question, gives, o.Id))
        );

    /// <summary>How many machines an order gets, those that are begun for it among them.</summary>
    public static int Count(GiveQuestion question, IReadOnlyList<Gift> gives, string order) =>
        gives.Count(g => g.Offer.Order == order && !g.Reserve) + question.Begun.Count(b => b.Value == order);

    /// <summary>How many it may expect, in thousandths; one that is begun counts as one.</summary>
    public static int Expected(GiveQuestion question, IReadOnlyList<Gift> gives, string order) =>
        gives.Where(g => g.Offer.Order == order).Sum(g => g.Offer.PerMille)
        + 1000 * question.Begun.Count(b => b.Value == order);
}

/// <summary>Says what is wrong with a giving.</summary>
public static class GiveCheck
{
    /// <summary>What is wrong, in sentences; nothing where it holds.</summary>
    public static IReadOnlyList<string> Faults(GiveQuestion question, IReadOnlyList<Gift> gives)
    {
        var faults = new List<string>();
        faults.AddRange(
            gives
                .GroupBy(g => g.Offer.Tag, StringComparer.Ordinal)
                .Where(g => g.Count() > 1 || question.Begun.ContainsKey(g.Key))
                .Select(g => $"{g.Key} is given twice.")
        );
        faults.AddRange(
            gives.Where(g => !question.Offers.Contains(g.Offer)).Select(g => $"{g.Offer.Tag} has no such route.")
        );
        foreach (var order in question.Orders)
        {
            var count = GiveCost.Count(question, gives, order.Id);
            var begun = question.Begun.Count(b => b.Value == order.Id);
            if (count > Math.Max(order.Wants, begun))
                faults.Add($"{order.Id} wants {order.Wants} and gets {count}.");
            if (gives.Any(g => g.Reserve && g.Offer.Order == order.Id) && count < order.Wants)
                faults.Add($"{order.Id} has a reserve and lacks a machine.");
        }
        foreach (var (part, count) in question.Shelf)
            if (gives.Sum(g => g.Offer.Takes.GetValueOrDefault(part)) is var taken && taken > count)
                faults.Add($"{taken} times {part} are taken, and the shelf has {count}.");
        faults.AddRange(
            gives
                .SelectMany(g => g.Offer.Takes.Keys)
                .Distinct(StringComparer.Ordinal)
                .Where(p => !question.Shelf.ContainsKey(p))
                .Select(p => $"The shelf has no {p}.")
        );
        return faults;
    }
}

/// <summary>The plain rule of giving: order after order, the earliest due first, each gets what costs least; then those that stand by.</summary>
public static class GiveRule
{
    /// <summary>The giving.</summary>
    public static IReadOnlyList<Gift> Of(GiveQuestion question)
    {
        var gives = new List<Gift>();
        var shelf = question.Shelf.ToDictionary(p => p.Key, p => p.Value, StringComparer.Ordinal);
        var gone = question.Begun.Keys.ToHashSet(StringComparer.Ordinal);
        foreach (var reserve in new[] { false, true })
        foreach (var order in question.Orders)
        foreach (
            var offer in question
                .Offers.Where(o => o.Order == order.Id)
                .OrderBy(o => GiveCost.Of(question, o, reserve))
                .ThenBy(o => o.Tag, StringComparer.Ordinal)
                .ThenBy(o => o.Route, StringComparer.Ordinal)
        )
        {
            var given = new Gift(offer, reserve);
            if (
                gone.Contains(offer.Tag)
                || offer.Takes.Any(t => shelf.GetValueOrDefault(t.Key) < t.Value)
                || (!reserve && GiveCost.Count(question, gives, order.Id) >= order.Wants)
                || (reserve && GiveCost.Count(question, gives, order.Id) < order.Wants)
                || GiveCost.Of(question, [.. gives, given]) >= GiveCost.Of(question, gives)
            )
                continue;
            gives.Add(given);
            gone.Add(offer.Tag);
            foreach (var (part, count) in offer.Takes)
                shelf[part] -= count;
        }
        return gives;
    }
}
