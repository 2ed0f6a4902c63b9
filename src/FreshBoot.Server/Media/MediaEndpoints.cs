using FreshBoot.Core.Media;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using Microsoft.AspNetCore.Http.HttpResults;

namespace FreshBoot.Server.Media;

internal static class MediaEndpoints
{
    public static void MapMedia(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/media", ListAsync).WithSummary("The shelf of sticks, cards and discs");

        app.MapPost("/api/media", (MediumIn medium, AddMedium add, CancellationToken stop) => add.DoAsync(medium, stop))
            .WithSummary("Puts a medium on the shelf: a simulated one, or an image file for download")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/media/{id:int}/plan",
                (int id, PlanIn plan, WriteMedium write, CancellationToken stop) => write.PlanAsync(id, plan, stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("How an image goes onto a medium for some machines, why so, and how long it takes")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/media/{id:int}/write",
                async (int id, WriteIn wish, WriteMedium write, CancellationToken stop) =>
                    Accepted(await write.DoAsync(id, wish, stop))
            )
            .WithSummary("Erases a medium, writes an image onto it and reads it back; its label must be typed")
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapPost(
                "/api/media/{id:int}/test-capacity",
                async (int id, CapacityIn wish, TestCapacity test, CancellationToken stop) =>
                    Accepted(await test.DoAsync(id, wish, stop))
            )
            .WithSummary("Finds the true size of a medium by stamped blocks; it erases it, so its label must be typed")
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/media/{id:int}/look",
                async (int id, CapacityIn wish, WriteMedium write, CancellationToken stop) =>
                    Accepted(await write.LookAsync(id, wish.By, stop))
            )
            .WithSummary(
                "After records were taken from a back-up: reads a medium and compares it with the image that they name"
            )
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet("/api/media/{id:int}/content", ContentAsync)
            .WithSummary("An image file that was written and found right")
            .Produces<byte[]>(contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static Accepted<JobSheet> Accepted(JobSheet job) => TypedResults.Accepted($"/api/jobs/{job.Id}", job);

    private static async Task<IReadOnlyList<MediumSheet>> ListAsync(
        MediumStore store,
        ImageStore images,
        JobRunner jobs,
        CancellationToken stop
    )
    {
        const int remembered = 200;
        var names = (await images.ListAsync(stop)).ToDictionary(i => i.Id);
        var work = (await jobs.ListAsync(null, null, null, null, remembered, stop))
            .Where(j => j is { MediumId: not null, State: JobState.Queued or JobState.Running })
            .ToLookup(j => j.MediumId);
        return
        [
            .. (await store.ListAsync(stop)).Select(m =>
                MediumSheet.Of(m, m.ImageId is { } id ? names.GetValueOrDefault(id) : null, work[m.Id].FirstOrDefault())
            ),
        ];
    }

    private static async Task<IResult> ContentAsync(int id, MediumStore store, CancellationToken stop)
    {
        var medium = await store.GetAsync(id, stop);
        if (medium.Kind != nameof(MediumKind.File))
            throw new RefusedException(
                RefusalKind.Conflict,
                "Only image files are downloaded.",
                "id",
                "A medium of the kind “file”."
            );
        if (medium.State != "ready" || !File.Exists(store.PathOf(id)))
            throw new RefusedException(
                RefusalKind.Conflict,
                $"There is nothing whole to download: {medium.Says}",
                "id",
                "Write it, to the end."
            );
        return Results.File(
            store.PathOf(id),
            "application/octet-stream",
            $"{medium.Label}.img",
            enableRangeProcessing: true
        );
    }
}
