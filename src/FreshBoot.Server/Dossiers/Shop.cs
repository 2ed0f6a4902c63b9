using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Routes;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Server.Catalogue;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Dossiers;

/// <summary>The catalogue in force, the parts shelf, the orders, and the day on which support is counted.</summary>
internal sealed class Shop(
    CatalogueKeeper keeper,
    PartStore parts,
    OrderStore orders,
    ShopName name,
    TimeProvider clock
)
{
    public InForce Now => keeper.Now;

    public ShopCatalogue Catalogue => keeper.Now.Catalogue;

    public string Name => name.Value;

    /// <summary>The rule of data protection that the shop works under; null where none is named.</summary>
    public string? DataRule => name.DataRule;

    /// <summary>Which day of the workshop an instant falls on.</summary>
    public WorkshopCalendar Calendar => new(clock.LocalTimeZone);

    public DateOnly Today => Calendar.Day(clock.GetUtcNow());

    /// <summary>The dossier with all that follows from it.</summary>
    public Dossier Dossier(StoredMachine machine) => Derivation.Complete(machine.Readings, Catalogue);

    /// <summary>How a machine stands today, for the order that it names or another.</summary>
    public MachineStanding Stand(StoredMachine machine, Order? order = null) => Stand(machine, keeper.Now, order);

    /// <summary>How it would stand with a catalogue that is not in force.</summary>
    public MachineStanding Stand(StoredMachine machine, InForce now, Order? order = null)
    {
        var dossier = Derivation.Complete(machine.Readings, now.Catalogue);
        return new MachineStanding(
            now,
            machine,
            dossier,
            parts.For(machine.Tag),
            order ?? orders.Named(dossier.Word("order.name")),
            Today
        );
    }

    /// <summary>The machines as the fleet is judged.</summary>
    public IReadOnlyList<FleetMachine> Fleet(IEnumerable<StoredMachine> machines) =>
        [
            .. machines.Select(m => new FleetMachine(
                m.Tag,
                m.Readings,
                parts.For(m.Tag),
                orders.Named(m.Readings.LastOrDefault(r => r.Key == "order.name")?.Value.ToString())
            )),
        ];
}

/// <summary>What letters and labels are headed with, and the rule that certificates of data treatment name.</summary>
internal sealed record ShopName(string Value, string? DataRule = null);

/// <summary>How a machine stands today: its dossier held against every system, worked out as far as somebody asks.</summary>
internal sealed class MachineStanding(
    InForce now,
    StoredMachine machine,
    Dossier dossier,
    PartsShelf shelf,
    Order? order,
    DateOnly today
)
{
    private IReadOnlyList<Assessment>? _all;
    private Assessment? _aim;

    public InForce Now => now;

    public StoredMachine Machine => machine;

    public PartsShelf Shelf => shelf;

    public Order? Order => order;

    /// <summary>What its routes are asked for.</summary>
    public RouteQuestion Question { get; } = new(today, shelf, order);

    /// <summary>The dossier with all that follows from it.</summary>
    public Dossier Dossier => dossier;

    /// <summary>Every system on the machine with no cures taken, in the order of the catalogue.</summary>
    public IReadOnlyList<Assessment> All =>
        _all ??= [
            .. Now.Catalogue.Systems.Select(s => Now.Evaluator.Assess(Dossier, s, new Plan(today, null, Shelf, Order))),
        ];

    /// <summary>
    /// The system that the machine's ladder is drawn for: the chosen one; while nobody chose, that of the best route. Where
    /// nothing is left but to end the machine it is the one that comes nearest. A machine of which too little is known has none:
    /// its name is empty.
    /// </summary>
    public Assessment Aim =>
        _aim ??=
            All.FirstOrDefault(a => a.System == Machine.Aim)
            ?? (TooLittle.IsKnownOf(Dossier) ? TooLittle.Standing(All[0]) : null)
            ?? OfBestRoute()
            ?? All.OrderBy(a => a.Outcome)
                .ThenByDescending(a => a.Rungs.Count(r => r.Outcome <= Outcome.Caveat))
                .ThenByDescending(a => Now.Catalogue.System(a.System)!.EndsFor(Dossier, false) ?? DateOnly.MaxValue)
                .ThenBy(a => a.System, StringComparer.Ordinal)
                .First();

    private Assessment? OfBestRoute()
    {
        var best = Now.Search.Best(Dossier, Question).System;
        return best is null ? null : All.First(a => a.System == best);
    }

    /// <summary>The release rung, which is the same for every system.</summary>
    public RungStanding Release => All[0].Rungs[(int)Rung.Release];

    /// <summary>
    /// The machine as it is when the installer of a system starts: by its best route to that system, and as it is today where there is
    /// none. What is made or tried for that start is judged by this one: firmware may have been replaced by then.
    /// </summary>
    /// <param name="system">Id of the system; null for none in particular.</param>
    /// <param name="stop">Stops the search.</param>
    public IFacts AtInstaller(string? system, CancellationToken stop) =>
        system is null
            ? Dossier
            : (_routes ??= RoutesNow(stop))
                .FirstOrDefault(r => r.System == system && r.School != School.Stay)
                ?.AtInstaller(Dossier)
                ?? Dossier;

    private IReadOnlyList<Route>? _routes;

    /// <summary>The routes of the machine, best score first.</summary>
    /// <param name="stop">Stops the search.</param>
    public IReadOnlyList<Route> RoutesNow(CancellationToken stop) => RoutesFor(Question with { Stop = stop });

    /// <summary>The same for another question.</summary>
    public IReadOnlyList<Route> RoutesFor(RouteQuestion question)
    {
        var found = Now.Search.Find(Dossier, question);
        // Where nothing is known only retiring it assumes nothing.
        return TooLittle.IsKnownOf(Dossier) ? [.. found.Where(r => r.School == School.Retire)] : found;
    }

    /// <summary>The route with this id, which is gone when facts, catalogue or prices have moved on.</summary>
    public Route Route(string id, CancellationToken stop) =>
        RoutesNow(stop).FirstOrDefault(r => r.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Conflict,
            "This route no longer fits the machine: facts, choices or prices have changed.",
            "routeId",
            "An id from the routes as they are now."
        );
}
