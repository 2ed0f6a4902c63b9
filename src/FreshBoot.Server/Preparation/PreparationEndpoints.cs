using FreshBoot.Core.Preparation;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Sheets;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Preparation;

/// <summary>What is made ready for a machine.</summary>
/// <param name="RouteId">The route that it is made ready for; of a run under way the one that it began from. Null where no route leads to the aim.</param>
/// <param name="System">Id of the system.</param>
/// <param name="School">The route's school.</param>
/// <param name="RunId">The run under way that uses it; null for none.</param>
/// <param name="Items">The work items, in the order in which they are made.</param>
/// <param name="Asks">Open questions on whose answers the sheet's steps depend; none once a run is under way.</param>
internal sealed record WorkSheet(
    string? RouteId,
    string? System,
    School? School,
    string? RunId,
    IReadOnlyList<WorkItem> Items,
    IReadOnlyList<PlanAsk> Asks
);

/// <summary>Who asks for something to be made.</summary>
internal sealed record MakeIn([property: Line(60)] string By);

/// <summary>A recipe that was made.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Version">Its version.</param>
internal sealed record RecipeMade(string Id, int Version);

internal static class PreparationEndpoints
{
    public static void MapPreparation(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/machines/{tag}/work-items", ItemsAsync)
            .WithSummary(
                "What a route needs made: of the run under way, of the route that is named, else of the best one to the aim"
            )
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/machines/{tag}/routes/{route}/recipe",
                async (
                    string tag,
                    string route,
                    MakeIn make,
                    MachineStore machines,
                    Shop shop,
                    MachineWork work,
                    CancellationToken stop
                ) =>
                {
                    var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
                    var made = await work.MakeRecipeAsync(
                        shop.Stand(machine).Route(route, stop),
                        Given.Text(make.By, "by", 60),
                        stop
                    );
                    return TypedResults.Created(
                        $"/api/recipes/{made.Recipe.Id}",
                        new RecipeMade(made.Recipe.Id, made.Version)
                    );
                }
            )
            .WithSummary("Makes the recipe that passes over the gates of a route that no recipe of the book lifts")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static async Task<WorkSheet> ItemsAsync(
        string tag,
        string? route,
        MachineStore machines,
        RunStore runs,
        Shop shop,
        ComposeSheet sheets,
        CancellationToken stop
    )
    {
        var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
        var run = await runs.LatestOfAsync(machine.Tag, stop);
        var open = run is { State.IsOpen: true } && (route is null || route == run.Route.Id) ? run : null;
        var standing = shop.Stand(machine);
        Route? chosen =
            open?.Route
            ?? (
                route is not null
                    ? standing.Route(route, stop)
                    : standing.RoutesNow(stop).FirstOrDefault(r => r.System == standing.Aim.System)
            );
        if (chosen is null)
            return new WorkSheet(null, standing.Aim.System, null, null, [], []);
        var question = await sheets.QuestionAsync(standing, chosen, stop);
        return new WorkSheet(
            chosen.Id,
            chosen.System,
            chosen.School,
            open?.Id,
            RunSheet.Named(question.Items, open?.Steps ?? RunSheet.Of(question).Steps),
            open is null ? PlanAsk.Of(question) : []
        );
    }
}
