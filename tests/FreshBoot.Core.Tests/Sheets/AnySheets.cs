using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>Short ways to a sheet.</summary>
internal static class AnySheets
{
    public static readonly RouteSearch Search = new(Shipped.Catalogue);
    public static readonly DateOnly Today = new(2026, 12, 3);

    public static SheetQuestion Question(
        IFacts facts,
        Route route,
        IReadOnlyList<WorkItem>? items = null,
        Order? order = null
    ) =>
        new(
            "MR-0417",
            facts,
            route,
            route.System is { } system ? Shipped.Catalogue.System(system) : null,
            Shipped.Catalogue,
            items ?? [],
            order
        );

    public static RunSheet Of(IFacts facts, Route route, IReadOnlyList<WorkItem>? items = null, Order? order = null) =>
        RunSheet.Of(Question(facts, route, items, order));

    /// <summary>What a failing case has to tell: the faults, the route, the machine and its steps.</summary>
    public static string Told(Dossier facts, Route route, RunSheet sheet) =>
        string.Join(
            '\n',
            [
                .. sheet.Faults.Select(f => $"{f}"),
                $"route: {route.System} {route.School} {string.Join(" + ", route.Cures.Select(c => c.Id))}",
                $"machine: {string.Join("; ", facts.Facts.Select(f => $"{f.Key}={f.Value}"))}",
                .. sheet.Composed.Select(s =>
                    $"{s.Id}: {s.Text} [{string.Join(" ", s.Does.Select(d => $"{d.Key}={d.Value}"))}]"
                ),
            ]
        );

    /// <summary>A dossier with an answer to one of the questions of the schools.</summary>
    public static Dossier Chosen(Dossier facts, string key, string value) =>
        facts.WithWord(new Reading(key, FactValue.Of(value), "chosen", Origin.Chosen, Facts.Noon, null, long.MaxValue));
}
