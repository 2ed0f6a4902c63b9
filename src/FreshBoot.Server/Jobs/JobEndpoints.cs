using FreshBoot.Data.Jobs;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Jobs;

internal static class JobEndpoints
{
    public static void MapJobs(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/jobs",
                (
                    string? kind,
                    int? image,
                    string? tag,
                    int? medium,
                    int? take,
                    JobRunner jobs,
                    CancellationToken stop
                ) =>
                    jobs.ListAsync(
                        KindOf(kind),
                        image,
                        tag is null ? null : Given.Tag(tag, "tag"),
                        medium,
                        Math.Clamp(take ?? 50, 1, 500),
                        stop
                    )
            )
            .WithSummary("Long work, the latest first: all, or of one kind, image, machine or medium")
            .ProducesProblem(StatusCodes.Status400BadRequest);
        app.MapGet("/api/jobs/{id:int}", (int id, JobRunner jobs, CancellationToken stop) => jobs.GetAsync(id, stop))
            .WithSummary("One piece of long work: how far it is, or what came of it")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapDelete(
                "/api/jobs/{id:int}",
                (int id, JobRunner jobs, CancellationToken stop) => jobs.CancelAsync(id, stop)
            )
            .WithSummary("Cancels it; when the answer comes it has ended")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapGet(
                "/api/jobs/{id:int}/events",
                async (int id, JobRunner jobs, CancellationToken stop) =>
                {
                    await jobs.GetAsync(id, stop);
                    return TypedResults.ServerSentEvents(jobs.FollowAsync(id, stop));
                }
            )
            .WithSummary("It as it goes on, as server-sent events, to its end")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapGet(
                "/api/jobs/{id:int}/screens/{number:int}",
                (int id, int number, Data.DataFolder folder) =>
                    Path.Combine(folder.Jobs, $"{id}", $"screen-{number}.png") is var path && File.Exists(path)
                        ? Results.File(path, "image/png")
                        : throw new RefusedException(
                            RefusalKind.Missing,
                            "There is no such picture.",
                            "number",
                            "An address from the job's result."
                        )
            )
            .WithSummary("A picture of a twin's screen")
            .Produces<byte[]>(contentType: "image/png")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    /// <summary>A kind as answers write it; the framework itself would take only the name of the code.</summary>
    private static JobKind? KindOf(string? text) =>
        text is null ? null
        : Enum.TryParse<JobKind>(text, ignoreCase: true, out var kind) && !char.IsAsciiDigit(text[0]) ? kind
        : throw new RefusedException(
            RefusalKind.Invalid,
            $"There is no kind of work “{text}”.",
            "kind",
            $"{Numbers.Join(Enum.GetNames<JobKind>().Select(n => $"“{char.ToLowerInvariant(n[0])}{n[1..]}”"), "or")}."
        );
}
