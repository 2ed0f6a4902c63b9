namespace FreshBoot.Server.Scheduling;

internal static class PlanEndpoints
{
    public static void MapPlans(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/plans", (MakePlan plans, CancellationToken stop) => plans.ViewAsync(stop))
            .WithSummary("The plan in force, what everybody does now by it, and what the shop has to plan with");
        app.MapPost(
                "/api/plans",
                async (BenchPlanIn wish, MakePlan plans, CancellationToken stop) =>
                {
                    var job = await plans.BeginAsync(wish, stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Plans which machine goes to which order, and who does what when")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
