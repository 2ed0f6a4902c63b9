using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Practice;

internal static class PracticeEndpoints
{
    public static void MapPractice(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/practice", (Practise practise) => TypedResults.Ok(practise.All()))
            .WithSummary("What can be practised");

        app.MapPost(
                "/api/practice/{id}",
                (string id, PracticeIn asked, Practise practise) => TypedResults.Ok(practise.Play(id, asked))
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("A practice as it stands after these moves; nothing of it is kept")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
