using FreshBoot.Core.Firmware;
using FreshBoot.Core.Preparation;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Firmware;

/// <summary>What is wanted of the switches.</summary>
/// <param name="Wanted">A value for each switch that matters; what the route wants where nothing is said.</param>
/// <param name="Route">Id of the route; the best one to the machine's aim where nothing is said.</param>
internal sealed record SwitchesBody(IReadOnlyDictionary<string, string>? Wanted = null, string? Route = null);

/// <summary>A switch of this firmware.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Called">How this maker calls it, and where it stands.</param>
/// <param name="Present">How it stands.</param>
/// <param name="PresentSays">The same in words.</param>
/// <param name="Wanted">How it is wanted; null where nobody minds.</param>
/// <param name="May">The values that may be wanted.</param>
/// <param name="InSettings">Whether it stands on a page of the settings.</param>
internal sealed record SwitchLine(
    string Key,
    string Called,
    string Present,
    string PresentSays,
    string? Wanted,
    IReadOnlyList<SwitchValue> May,
    bool InSettings
);

/// <summary>A value of a switch.</summary>
/// <param name="Value">Its name.</param>
/// <param name="Says">What it means.</param>
internal sealed record SwitchValue(string Value, string Says);

/// <summary>A step of the plan.</summary>
/// <param name="Does">What the hand does.</param>
/// <param name="Where">The switch as this maker calls it.</param>
/// <param name="Why">Why it comes here.</param>
/// <param name="Caution">What could be lost.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="Switch">The switch.</param>
/// <param name="From">How it stood.</param>
/// <param name="To">How it stands then.</param>
internal sealed record SwitchStepSheet(
    string Does,
    string? Where,
    string Why,
    string? Caution,
    int Minutes,
    string Switch,
    string From,
    string To
);

/// <summary>The switches of a machine, and the order in which they are turned.</summary>
/// <param name="Switches">Every switch.</param>
/// <param name="Steps">The steps; null where no order leads there.</param>
/// <param name="WhyNone">Why there is none.</param>
/// <param name="Back">The way back; null where nothing is changed or no way leads back.</param>
/// <param name="Unmeasured">Facts that nobody measured, and that were taken as they usually are.</param>
/// <param name="Notes">What to know.</param>
/// <param name="Setup">How the settings are opened.</param>
/// <param name="SetupFromSystem">The way into them from a running system.</param>
/// <param name="BootMenu">How the boot menu is opened.</param>
internal sealed record SwitchesSheet(
    IReadOnlyList<SwitchLine> Switches,
    IReadOnlyList<SwitchStepSheet>? Steps,
    string? WhyNone,
    IReadOnlyList<SwitchStepSheet>? Back,
    IReadOnlyList<string> Unmeasured,
    IReadOnlyList<string> Notes,
    string? Setup,
    string? SetupFromSystem,
    string? BootMenu
);

/// <summary>Puts the switches of a machine's firmware in the order in which they may be turned.</summary>
internal sealed class PlanSwitches(MachineStore machines, Shop shop)
{
    /// <summary>Plans them.</summary>
    /// <exception cref="RefusedException">It has no settings, what is known contradicts itself, or nobody knows what is wanted.</exception>
    public async Task<SwitchesSheet> OfAsync(string tag, SwitchesBody asked, CancellationToken stop)
    {
        var standing = shop.Stand(await machines.GetAsync(tag, stop));
        var facts = standing.Dossier;
        var menus = shop.Catalogue.Menus(facts);
        if (menus.WhyNone is { } none)
            throw new RefusedException(
                RefusalKind.Impossible,
                none,
                "firmware",
                "A machine whose firmware has settings; what a maker's has stands in its entry."
            );
        var route = RouteOf(standing, asked.Route, stop);
        var plan = SwitchesOfRoute.Of(route, facts, shop.Catalogue, asked.Wanted);
        return new SwitchesSheet(
            [
                .. FirmwareSwitches.All.Select(s => new SwitchLine(
                    s.Key,
                    MachineSwitches.Called(s.Key, plan.Labels),
                    plan.Now.Present[s.Key],
                    s.Says(plan.Now.Present[s.Key]),
                    plan.Wanted.GetValueOrDefault(s.Key),
                    [.. s.Wanted.Select(w => new SwitchValue(w, s.Says(w)))],
                    s.InSettings
                )),
            ],
            plan.Plan.Steps is { } steps ? [.. steps.Select(s => Sheet(s, plan))] : null,
            plan.Plan.WhyNone,
            plan.Back?.Steps is { } back ? [.. back.Select(s => Sheet(s, plan))] : null,
            plan.Now.Unmeasured,
            [.. plan.Now.Notes, .. shop.Catalogue.Model(facts)?.Notes.Select(n => n.Text) ?? []],
            menus.Setup,
            menus.SetupFromSystem,
            menus.BootMenu
        );
    }

    private static Core.Routes.Route? RouteOf(MachineStanding standing, string? id, CancellationToken stop)
    {
        var routes = standing.RoutesNow(stop);
        return id is null
            ? routes.FirstOrDefault(r => r.System == standing.Aim.System)
            : routes.FirstOrDefault(r => r.Id == id)
                ?? throw new RefusedException(
                    RefusalKind.Conflict,
                    "There is no such route any more: the dossier or the catalogue has changed.",
                    "route",
                    "A route of the machine as it is now."
                );
    }

    private static SwitchStepSheet Sheet(SwitchStep step, SwitchesOfRoute plan)
    {
        var s = FirmwareSwitches.Find(step.Switch)!;
        return new SwitchStepSheet(
            step.Does,
            s.InSettings ? MachineSwitches.Called(step.Switch, plan.Labels) : null,
            step.Why,
            step.Caution,
            step.Minutes,
            step.Switch,
            s.Says(step.From),
            s.Says(step.To)
        );
    }
}

internal static class SwitchEndpoints
{
    public static void MapSwitches(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/machines/{tag}/firmware-plan",
                (string tag, SwitchesBody? asked, PlanSwitches plan, CancellationToken stop) =>
                    plan.OfAsync(Given.Tag(tag, "tag"), asked ?? new SwitchesBody(), stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary(
                "The order in which the switches of its firmware are turned, or why there is none; nothing is stored"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/machines/{tag}/firmware-plan",
                async (string tag, string? route, PlanSwitches plan, CancellationToken stop) =>
                    Results.Content(
                        SwitchPaper.Page(
                            tag,
                            await plan.OfAsync(Given.Tag(tag, "tag"), new SwitchesBody(Route: route), stop)
                        ),
                        "text/html; charset=utf-8"
                    )
            )
            .WithSummary("The paper of the switches, for print: each old value is noted on it before one is turned")
            .Produces<string>(StatusCodes.Status200OK, "text/html")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
    }
}
