using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Planning;

/// <summary>A model that would serve an order.</summary>
/// <param name="Model">Id of the model.</param>
/// <param name="Name">Maker and model.</param>
/// <param name="Processor">Its processor's maker and generation.</param>
/// <param name="Board">Its board, where it matters.</param>
/// <param name="System">The system it would get; null where nothing serves the order.</param>
/// <param name="School">The school of the route.</param>
/// <param name="Money">What the route costs in parts.</param>
/// <param name="Parts">The parts it would take.</param>
/// <param name="UpTo">What may be paid for it, in hundredth parts of a mark; 0 where it should be a gift or is not wanted.</param>
/// <param name="Text">The verdict in a sentence.</param>
public sealed record WantedModel(
    string Model,
    string Name,
    string Processor,
    string? Board,
    string? System,
    School? School,
    int Money,
    IReadOnlyList<string> Parts,
    int UpTo,
    string Text
);

/// <summary>A part that machines of an order take.</summary>
/// <param name="Does">What is done with it.</param>
/// <param name="Count">How many machines want it.</param>
/// <param name="Money">Its price at the shop's suppliers: the most to give for it.</param>
public sealed record WantedPart(string Does, int Count, int Money);

/// <summary>What an order still wants.</summary>
/// <param name="Order">The order.</param>
/// <param name="Missing">How many machines are still missing.</param>
/// <param name="Models">Models that would serve, the dearest that may be paid first.</param>
/// <param name="Processors">The processors of those models.</param>
/// <param name="Parts">Parts that the machines already set aside for it take.</param>
public sealed record WantedForOrder(
    Order Order,
    int Missing,
    IReadOnlyList<WantedModel> Models,
    IReadOnlyList<string> Processors,
    IReadOnlyList<WantedPart> Parts
);

/// <summary>From open orders, what donors could bring.</summary>
public sealed class WantedList(ShopCatalogue catalogue, RouteSearch search)
{
    private static readonly IReadOnlyDictionary<string, FactValue> TakenToBeWell = new Dictionary<string, FactValue>(
        StringComparer.Ordinal
    )
    {
        ["release.owner"] = FactValue.Of("given"),
        ["release.managed"] = FactValue.Of("free"),
        ["release.data"] = FactValue.Of("not-wanted"),
        ["release.encryption"] = FactValue.Of("none"),
        ["release.locks"] = FactValue.Of("none"),
        ["parts.powersOn"] = FactValue.Of("yes"),
        ["parts.battery"] = FactValue.Of("sound"),
        ["parts.storage"] = FactValue.Of("sound"),
    };

    /// <summary>The best route of a machine for the order that it is set aside for.</summary>
    public Route BestOf(FleetMachine machine, DateOnly asOf, CancellationToken stop) =>
        search.Find(
            Derivation.Complete(machine.Readings, catalogue),
            new RouteQuestion(asOf, machine.Shelf, machine.Order) { Stop = stop }
        )[0];

    /// <summary>The models of the catalogue that would serve an order, the dearest that may be paid first.</summary>
    public IReadOnlyList<WantedModel> ModelsFor(Order order, DateOnly asOf) =>
        [.. Check(order, catalogue.Models, asOf).Where(m => m.System is not null)];

    /// <summary>What an order still wants.</summary>
    /// <param name="order">The order.</param>
    /// <param name="best">The best routes of the machines that are set aside for it.</param>
    /// <param name="models">The models that would serve it.</param>
    public static WantedForOrder Make(Order order, IReadOnlyList<Route> best, IReadOnlyList<WantedModel> models) =>
        new(
            order,
            Math.Max(0, order.Machines - best.Count(r => r.School != School.Retire)),
            models,
            [.. models.Select(m => m.Processor).Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal)],
            [
                .. best.SelectMany(r => r.Cures)
                    .Where(c => c is { Kind: Outcome.Part, Money: > 0 })
                    .GroupBy(c => c.Does, StringComparer.Ordinal)
                    .Select(g => new WantedPart(g.Key, g.Count(), g.First().Money))
                    .OrderByDescending(p => p.Count)
                    .ThenBy(p => p.Does, StringComparer.Ordinal),
            ]
        );

    /// <summary>The list.</summary>
    /// <param name="orders">The orders.</param>
    /// <param name="fleet">The machines here; those that name an order are set aside for it.</param>
    /// <param name="asOf">The day from which support is counted.</param>
    public IReadOnlyList<WantedForOrder> Make(
        IReadOnlyList<Order> orders,
        IReadOnlyList<FleetMachine> fleet,
        DateOnly asOf
    ) =>
        [
            .. orders.Select(order =>
                Make(
                    order,
                    [.. fleet.Where(m => m.Order?.Id == order.Id).Select(m => BestOf(m, asOf, default))],
                    ModelsFor(order, asOf)
                )
            ),
        ];

    /// <summary>A machine at the door, by what is written on it: how its model would serve each order.</summary>
    public IReadOnlyList<(Order Order, WantedModel Model)> AtTheDoor(
        string written,
        IReadOnlyList<Order> orders,
        DateOnly asOf
    )
    {
        var words = written.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        var models = catalogue
            .Models.Where(m =>
                m.Typical.Count > 0
                && (
                    m.Pattern.IsMatch(written)
                    || words.Length > 0 && words.All(w => m.Name.Contains(w, StringComparison.OrdinalIgnoreCase))
                )
            )
            .ToArray();
        return [.. orders.SelectMany(o => Check(o, models, asOf).Select(m => (o, m)))];
    }

    private IEnumerable<WantedModel> Check(Order order, IEnumerable<ModelEntry> models, DateOnly asOf) =>
        models
            .Where(m => m.Typical.Count > 0)
            .Select(m => Check(order, m, asOf))
            .OrderByDescending(m => m.UpTo)
            .ThenBy(m => m.Name, StringComparer.Ordinal);

    /// <summary>The instruction sets of a level, the lowest ones where it is below the first.</summary>
    private static FactValue Flags(IReadOnlyDictionary<string, FactValue> typical)
    {
        var level = typical.GetValueOrDefault("cpu.level")?.ToString();
        var upTo = CpuLevel.Levels.TakeWhile(l => l.Level != level).Count();
        return FactValue.Of(
            upTo == CpuLevel.Levels.Length
                ? ["cmov", "sse2"]
                : CpuLevel.Levels.Take(upTo + 1).SelectMany(l => l.Adds).Select(f => f.Flag)
        );
    }

    private WantedModel Check(Order order, ModelEntry model, DateOnly asOf)
    {
        var facts = Dossier.From(
            TakenToBeWell
                .Concat(model.Typical)
                .Append(KeyValuePair.Create("cpu.flags", Flags(model.Typical)))
                .Select(f => new Reading(f.Key, f.Value, "catalogue, by model", Origin.Derived, default))
        );
        var best = search.Find(facts, new RouteQuestion(asOf, null, order))[0];
        var processor = $"{facts.Word("cpu.maker")} {facts.Word("cpu.generation")}".Trim();
        var board = facts.Word("identity.board");
        if (best.System is null)
            return new WantedModel(
                model.Id,
                model.Name,
                processor,
                board,
                null,
                null,
                0,
                [],
                0,
                $"Not for {order.Name}: no route meets what it needs."
            );
        var worth = best.Worth!;
        var upTo = Math.Max(0, Math.Min(worth.Saves ?? 0, (order.HardBudget ?? int.MaxValue) - best.Money));
        var system = catalogue.System(best.System)!.FullName;
        return new WantedModel(
            model.Id,
            model.Name,
            processor,
            board,
            best.System,
            best.School,
            best.Money,
            [.. best.Cures.Where(c => c.Kind == Outcome.Part).Select(c => c.Does)],
            upTo,
            upTo > 0
                ? $"Wanted for {order.Name}, up to {Numbers.Money(upTo)}: gets {system}{(best.Money > 0 ? $" with {Numbers.Money(best.Money)} of parts" : "")}."
                : $"Serves {order.Name} as a gift: gets {system}, and the work costs as much as a bought one."
        );
    }
}
