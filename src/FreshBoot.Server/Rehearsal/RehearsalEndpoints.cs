using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Rehearsal;

internal static class RehearsalEndpoints
{
    public static void MapRehearsal(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/images/{id:int}/twin",
                async (int id, TwinIn twin, StartTwin start, CancellationToken stop) =>
                {
                    var job = await start.DoAsync(id, twin, stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Starts an image in an emulated twin of a machine")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/machines/{tag}/routes/{route}/rehearsal",
                async (string tag, string route, RehearsalIn asked, Rehearse rehearse, CancellationToken stop) =>
                    TypedResults.Ok(await rehearse.DoAsync(tag, route, asked, stop))
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("Calculates a route: where it would stop, how long it takes, and what may go wrong")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/machines/{tag}/routes/{route}/whole-way",
                async (string tag, string route, WholeWayIn wish, WalkWholeWay walk, CancellationToken stop) =>
                {
                    var job = await walk.DoAsync(tag, route, wish, stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary(
                "Walks a route whole in an emulated twin: installs it, starts it from its drive, and probes it"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
