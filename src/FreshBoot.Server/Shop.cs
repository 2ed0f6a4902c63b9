using FreshBoot.Core;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;
using FreshBoot.Data;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server;

/// <summary>The catalogue in force, the parts shelf, and the day on which support is counted.</summary>
internal sealed class Shop(ShopCatalogue catalogue, PartStore parts, ShopName name, TimeProvider clock)
{
    public ShopCatalogue Catalogue => catalogue;

    public string Name => name.Value;

    public DateOnly Today => DateOnly.FromDateTime(clock.GetLocalNow().Date);

    public Evaluator Evaluator { get; } = new(catalogue);

    public RouteSearch Search { get; } = new(catalogue);

    public NextMeasurements Measurements { get; } = new(catalogue);

    /// <summary>The dossier with all that follows from it.</summary>
    public Dossier Dossier(StoredMachine machine) => Derivation.Complete(machine.Readings, catalogue);

    /// <summary>How a machine stands today.</summary>
    public Standing Stand(StoredMachine machine) => new(this, machine, parts.For(machine.Tag));
}

/// <summary>What letters and labels are headed with.</summary>
internal sealed record ShopName(string Value);

/// <summary>How a machine stands today: its dossier held against every system, worked out as far as somebody asks.</summary>
internal sealed class Standing(Shop shop, StoredMachine machine, PartsShelf shelf)
{
    private IReadOnlyList<Assessment>? _all;

    public StoredMachine Machine => machine;

    public PartsShelf Shelf => shelf;

    /// <summary>The dossier with all that follows from it.</summary>
    public Dossier Dossier { get; } = shop.Dossier(machine);

    /// <summary>Every system on the machine with no cures taken, in the order of the catalogue.</summary>
    public IReadOnlyList<Assessment> All =>
        _all ??= [
            .. shop.Catalogue.Systems.Select(s => shop.Evaluator.Assess(Dossier, s, new Plan(shop.Today, null, shelf))),
        ];

    /// <summary>The chosen aim; while nobody chose, the best outcome, and among equals the longest support.</summary>
    public Assessment Aim =>
        All.FirstOrDefault(a => a.System == machine.Aim)
        ?? All.OrderBy(a => a.Outcome)
            .ThenByDescending(a => shop.Catalogue.System(a.System)!.SupportEnds ?? DateOnly.MaxValue)
            .ThenBy(a => a.System, StringComparer.Ordinal)
            .First();

    /// <summary>The release rung, which is the same for every system.</summary>
    public RungStanding Release => All[0].Rungs[(int)Rung.Release];

    /// <summary>The routes of the machine, best score first.</summary>
    public IReadOnlyList<Route> Routes => shop.Search.Find(Dossier, new RouteQuestion(shop.Today, shelf));

    /// <summary>The route with this id, which is gone when facts, catalogue or prices have moved on.</summary>
    public Route Route(string id) =>
        Routes.FirstOrDefault(r => r.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Conflict,
            "This route no longer fits the machine: facts or prices have changed.",
            "routeId",
            "An id from the routes as they are now."
        );
}
