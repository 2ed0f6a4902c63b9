using FreshBoot.Core.Diagnosis;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Diagnosis;

/// <summary>How far a machine got.</summary>
/// <param name="Rung">The rung that it does not get past.</param>
/// <param name="Sees">What one sees then.</param>
internal sealed record HowFarSheet(Rung Rung, string Sees);

internal static class DiagnosisEndpoints
{
    public static void MapDiagnosis(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/diagnoses/how-far",
                () => TypedResults.Ok(HowFar.All.Select(h => new HowFarSheet(h.Rung, h.Sees)).ToArray())
            )
            .WithSummary("How far a machine got, in words of what one sees");

        app.MapPost(
                "/api/diagnoses",
                async (DiagnosisIn asked, FindFault find, CancellationToken stop) =>
                {
                    var begun = await find.BeginAsync(asked, stop);
                    return TypedResults.Created($"/api/diagnoses/{begun.Id}", begun);
                }
            )
            .WithSummary("Begins to search why a machine stopped: its causes, and what to look at next")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/diagnoses/{id:int}",
                async (int id, FindFault find, CancellationToken stop) => TypedResults.Ok(await find.GetAsync(id, stop))
            )
            .WithSummary("A search as it stands")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/diagnoses",
                async (string tag, FindFault find, CancellationToken stop) =>
                    TypedResults.Ok(await find.OpenAsync(Given.Tag(tag, "tag"), stop))
            )
            .WithSummary("The open search of a machine, if there is one")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/diagnoses/{id:int}/answers",
                async (int id, AnswerIn answer, FindFault find, CancellationToken stop) =>
                    TypedResults.Ok(await find.AnswerAsync(id, answer, stop))
            )
            .WithSummary("Takes what a check showed")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/diagnoses/{id:int}/mend",
                async (int id, MendIn mend, FindFault find, CancellationToken stop) =>
                    TypedResults.Ok(await find.MendAsync(id, mend, stop))
            )
            .WithSummary("Ends a search with its cause; what mends it becomes the next step of the run")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
