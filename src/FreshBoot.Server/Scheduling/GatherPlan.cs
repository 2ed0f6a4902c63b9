using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Runs;
using FreshBoot.Core.Scheduling;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.Diagnosis;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Runs;
using FreshBoot.Server.Sheets;
using Order = FreshBoot.Core.Orders.Order;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Scheduling;

/// <summary>An offer with all that its plan shows of it.</summary>
internal sealed record Offered(GiveOffer Offer, Route Route, IReadOnlyList<Step> Steps, double Finishes);

/// <summary>What there is to plan with.</summary>
/// <param name="Orders">The orders, the earliest due first, with what they still want.</param>
/// <param name="Offers">What each machine could be for each order.</param>
/// <param name="Open">Machines whose run is open, with the order they are for.</param>
/// <param name="Left">Machines that can be given to nobody, and why.</param>
/// <param name="Shelf">Modules on the shelf.</param>
/// <param name="Aside">For which order a machine is set aside: its id.</param>
/// <param name="Times">What the shop has learned of times.</param>
internal sealed record PlanMatter(
    IReadOnlyList<(Order Order, int Wants)> Orders,
    IReadOnlyList<Offered> Offers,
    IReadOnlyList<(StoredRun Run, Order? Order)> Open,
    IReadOnlyList<PlanLeft> Left,
    IReadOnlyDictionary<string, int> Shelf,
    IReadOnlyDictionary<string, string> Aside,
    LearnedTimes Times
);

/// <summary>Gathers what a plan is made from: orders, machines with their routes, sheets and chances, and the runs that are open.</summary>
internal sealed class GatherPlan(
    RunStore runs,
    PartStore parts,
    DiagnosisStore searches,
    MachineIndex index,
    ComposeSheet sheets,
    Shop shop
)
{
    /// <summary>Of the routes of a machine for an order so many are weighed against the other orders.</summary>
    private const int MostRoutes = 3;

    /// <summary>Walks of the rehearsal for the chance of one route: enough for a chance to the nearest few per cent.</summary>
    private const int Walks = 400;

    public async Task<PlanMatter> AllAsync(Action<double> progress, CancellationToken stop)
    {
        var (timed, recorded) = await runs.TimesAsync(stop);
        var (times, found) = (new LearnedTimes(timed), await searches.FoundAsync(stop));
        var standing = await index.OrdersAsync(stop);
        var wanting = standing
            .OrderBy(o => o.Order.Due ?? DateOnly.MaxValue)
            .ThenBy(o => o.Order.Id, StringComparer.Ordinal)
            .Select(o => (o.Order, Wants: Math.Max(0, o.Order.Machines - o.Ready)))
            .ToArray();
        var offers = new List<Offered>();
        var open = new List<(StoredRun, Order?)>();
        var left = new List<PlanLeft>();
        var aside = new Dictionary<string, string>(StringComparer.Ordinal);
        var all = await index.AllAsync(stop);
        for (var i = 0; i < all.Count; i++)
        {
            stop.ThrowIfCancellationRequested();
            progress(i / (double)all.Count);
            var machine = all[i];
            var plain = shop.Stand(machine);
            if (plain.Order is { } own)
                aside[machine.Tag] = own.Id;
            var run = await index.RunOfAsync(machine.Tag, stop);
            if (run is { State.IsOpen: true })
            {
                open.Add((run, plain.Order));
                continue;
            }
            // What is ready or has left is nobody's work any more.
            if (run is { State.FinishedAt: not null } || plain.Dossier.Word(FactRegistry.Left) == "yes")
                continue;
            if (WhyNot(plain) is { } why)
            {
                left.Add(new PlanLeft(machine.Tag, why));
                continue;
            }
            var before = offers.Count;
            foreach (var (order, _) in wanting.Where(o => o.Wants > 0))
                await OffersAsync(shop.Stand(machine, order), order);
            if (offers.Count == before)
                left.Add(new PlanLeft(machine.Tag, "No order that wants machines can use it."));
        }
        return new PlanMatter(wanting, offers, open, left, Shelf(), aside, times);

        async Task OffersAsync(MachineStanding machine, Order order)
        {
            foreach (
                var route in machine
                    .RoutesNow(stop)
                    .Where(r => r is { Front: true, System: not null })
                    .OrderBy(r => GiveCost.Of(r.Money, r.HandsOnMinutes, r.Fit, shop.Catalogue.HourMoney))
                    .ThenByDescending(r => r.Score)
                    .Take(MostRoutes)
            )
            {
                var question = await sheets.QuestionAsync(machine, route, stop);
                var sheet = RunSheet.Of(question);
                if (sheet.Steps.Count == 0)
                    continue;
                var finishes = Forecast
                    .Walk(
                        new ForecastQuestion(
                            sheet.Steps,
                            new FaultQuestion(
                                Rung.Medium,
                                question.RouteFacts,
                                shop.Catalogue.Causes,
                                shop.Catalogue.Checks,
                                found
                            ),
                            times,
                            recorded
                        ),
                        Walks,
                        seed: 1
                    )
                    .Finishes;
                offers.Add(
                    new Offered(
                        new GiveOffer(
                            machine.Machine.Tag,
                            order.Id,
                            route.Id,
                            route.Money,
                            route.HandsOnMinutes,
                            route.Fit,
                            (int)Math.Round(1000 * finishes),
                            Takes(machine, route)
                        ),
                        route,
                        sheet.Steps,
                        finishes
                    )
                );
            }
        }
    }

    /// <summary>Why nothing may be begun on a machine, or why nobody knows enough of it; null where neither.</summary>
    private static string? WhyNot(MachineStanding machine) =>
        StartRules.Of(machine.Dossier, machine.Release).FirstOrDefault(s => !s.MayOverride) is { } forbidden
            ? forbidden.Text
        : TooLittle.IsKnownOf(machine.Dossier) ? "Too little is known of it: probe it first."
        : null;

    /// <summary>What a route takes off the shelf, but for what is kept for the machine anyway.</summary>
    private Dictionary<string, int> Takes(MachineStanding machine, Route route)
    {
        var taken = new Dictionary<string, int>(StringComparer.Ordinal);
        foreach (var wish in BeginRun.TakesOf(machine, route))
        {
            var count = wish.Count - Math.Max(0, Count(machine.Shelf, wish) - Count(parts.For(""), wish));
            if (count > 0)
                taken[KeyOf(wish.Type, wish.SizeMiB)] = count;
        }
        return taken;

        static int Count(PartsShelf shelf, ModuleWish wish) =>
            shelf.Memory.Where(m => m.Type == wish.Type && m.SizeMiB == wish.SizeMiB).Sum(m => m.Count);
    }

    private Dictionary<string, int> Shelf() =>
        parts
            .For("")
            .Memory.GroupBy(m => KeyOf(m.Type, m.SizeMiB), StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.Sum(m => m.Count), StringComparer.Ordinal);

    private static string KeyOf(string type, int sizeMiB) => $"{Quantity.Memory(sizeMiB)} {type}";
}
