using FreshBoot.Core.Sheets;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Preparation;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Sheets;

/// <summary>Gathers what a sheet is composed from: the machine as it stands, its route, the work items, the order.</summary>
internal sealed class ComposeSheet(MachineWork work)
{
    /// <summary>What the sheet of a route is asked for.</summary>
    public async Task<SheetQuestion> QuestionAsync(MachineStanding standing, Route route, CancellationToken stop) =>
        new(
            standing.Machine.Tag,
            standing.Dossier,
            route,
            route.System is { } system ? standing.Now.Catalogue.System(system) : null,
            standing.Now.Catalogue,
            await work.ItemsAsync(standing.Machine, route, stop),
            standing.Order
        );
}
