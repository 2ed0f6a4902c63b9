using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Runs;

internal static class RunEndpoints
{
    public static void MapRuns(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/machines/{tag}/runs",
                async (
                    string tag,
                    Beginning beginning,
                    MachineStore machines,
                    BeginRun begin,
                    FollowRun follow,
                    CancellationToken stop
                ) =>
                {
                    var run = await begin.DoAsync(
                        await machines.GetAsync(Given.Tag(tag, "tag"), stop),
                        beginning,
                        stop
                    );
                    return TypedResults.Created($"/api/runs/{run.Id}", await follow.ShowAsync(run, stop));
                }
            )
            .WithSummary("Begins a run of a route")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/runs/{id}",
                async (string id, RunStore runs, FollowRun follow, CancellationToken stop) =>
                    await follow.ShowAsync(await runs.GetAsync(id, stop), stop)
            )
            .WithSummary("A run: its sheet, what has happened, where it stands")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/runs/{id}/events",
                (string id, RunEventIn said, FollowRun follow, CancellationToken stop) =>
                    follow.SayAsync(id, said, stop)
            )
            .WithSummary("Says what has happened at the step whose turn it is")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet("/api/offers", (RunStore runs, CancellationToken stop) => runs.OffersAsync(stop))
            .WithSummary("Steps that read otherwise on a machine and are offered to the catalogue, newest first");

        app.MapGet("/api/bench", (MachineIndex index, CancellationToken stop) => index.HandsAsync(stop))
            .WithSummary("The machines in bays that want hands, what is best begun first at the front");

        app.MapGet(
                "/api/events",
                (Changes changes, HttpContext context) =>
                    TypedResults.ServerSentEvents(
                        changes.Listen(
                            context.Request.Headers["Last-Event-ID"].FirstOrDefault(),
                            context.RequestAborted
                        )
                    )
            )
            .WithSummary("Server-sent events: what changed, as it changes");
    }
}
