using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Sheets;

/// <summary>The times of a step, in minutes.</summary>
/// <param name="Hands">Minutes of work.</param>
/// <param name="Shortest">The shortest sensible time.</param>
/// <param name="Usual">The usual time.</param>
/// <param name="Worry">When to worry.</param>
internal sealed record StepMinutes(int Hands, int Shortest, int Usual, int Worry);

/// <summary>A step as anybody may walk it.</summary>
/// <param name="Id">Unique in the sheet.</param>
/// <param name="Rung">The rung it climbs.</param>
/// <param name="Kind">What it asks.</param>
/// <param name="Where">Where it is done.</param>
/// <param name="Text">The instruction.</param>
/// <param name="Caution">What could be hurt or lost.</param>
/// <param name="Expect">What one should see.</param>
/// <param name="Command">The line to type.</param>
/// <param name="Harmless">What may be seen as well, and means nothing.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="Uses">Ids of the work items that it uses.</param>
/// <param name="Needs">What must hold when it comes, in the words of the small world.</param>
/// <param name="Does">What it changes.</param>
/// <param name="Leaves">Facts that hold once it is done.</param>
/// <param name="Ends">Facts that end with it.</param>
/// <param name="Opens">Relaxations that it opens.</param>
/// <param name="Closes">Relaxations that it closes.</param>
/// <param name="Branches">What follows where it goes otherwise.</param>
/// <param name="On">The branch that it stands on; null on the main way.</param>
/// <param name="Fragment">The procedure that it comes from.</param>
internal sealed record SheetStep(
    string Id,
    Rung Rung,
    StepKind Kind,
    StepPlace Where,
    string Text,
    string? Caution,
    string? Expect,
    string? Command,
    IReadOnlyList<string> Harmless,
    StepMinutes Minutes,
    IReadOnlyList<string> Uses,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Needs,
    IReadOnlyDictionary<string, string> Does,
    IReadOnlyDictionary<string, FactValue> Leaves,
    IReadOnlyList<string> Ends,
    IReadOnlyList<string> Opens,
    IReadOnlyList<string> Closes,
    IReadOnlyList<StepBranch> Branches,
    BranchPlace? On,
    string Fragment
)
{
    public static SheetStep Of(Step step)
    {
        var waits = step.Kind == StepKind.Wait;
        return new SheetStep(
            step.Id,
            step.Rung,
            step.Kind,
            step.Where,
            step.Text,
            step.Caution,
            step.Expect,
            step.Command,
            step.Harmless,
            new StepMinutes(
                waits ? 0 : step.UsualMinutes,
                step.ShortestMinutes,
                step.UsualMinutes,
                step.WorryMinutes > 0 ? step.WorryMinutes : 2 * step.UsualMinutes
            ),
            step.Uses,
            step.Needs,
            step.Does,
            step.Leaves,
            step.Ends,
            step.Opens is { } opens ? [opens] : [],
            step.Closes is { } closes ? [closes] : [],
            step.Branches,
            step.On,
            step.Fragment
        );
    }
}

/// <summary>The sheet of a route.</summary>
/// <param name="Steps">Its steps; none where something is missing.</param>
/// <param name="Start">The small world before the first step.</param>
/// <param name="Ends">How it can end.</param>
/// <param name="Missing">What it cannot do as things are.</param>
/// <param name="HandsOnMinutes">Minutes with hands on it, on the main way.</param>
/// <param name="WaitMinutes">Minutes of waiting, on the main way.</param>
internal sealed record SheetView(
    IReadOnlyList<SheetStep> Steps,
    IReadOnlyDictionary<string, string> Start,
    IReadOnlyList<SheetEnd> Ends,
    IReadOnlyList<SheetMissing> Missing,
    int HandsOnMinutes,
    int WaitMinutes
);

internal static class SheetEndpoints
{
    public static void MapSheets(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/routes/{id}/sheet",
                async (
                    string tag,
                    string id,
                    MachineStore machines,
                    ComposeSheet sheets,
                    Shop shop,
                    HttpRequest request,
                    CancellationToken stop
                ) =>
                {
                    var standing = shop.Stand(await machines.GetAsync(Given.Tag(tag, "tag"), stop));
                    var question = await sheets.QuestionAsync(standing, standing.Route(id, stop), stop);
                    var sheet = RunSheet.Of(question);
                    return AsPage(request)
                        ? Page(standing.Dossier, tag, question.Route, sheet.OrRefused(), shop)
                        : Results.Json(
                            new SheetView(
                                [.. sheet.Steps.Select(SheetStep.Of)],
                                sheet.Start,
                                sheet.Ends,
                                sheet.Missing,
                                sheet.HandsOnMinutes,
                                sheet.WaitMinutes
                            )
                        );
                }
            )
            .Produces<SheetView>(StatusCodes.Status200OK, "application/json", "text/html")
            .WithSummary("The sheet of a route: composed from procedures, walked along every branch before it is shown")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/catalogue/procedures/{id}/preview",
                (string id, ProcedureOnMachine asked, PreviewProcedure preview, CancellationToken stop) =>
                    preview.DoAsync(Given.Tag(asked.Tag, "tag"), id, asked.Entry, stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("How a procedure would read on a machine, or its faults; nothing is stored")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/runs/{id}/sheet",
                async (
                    string id,
                    bool? inShort,
                    RunStore runs,
                    MachineStore machines,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var run = await runs.GetAsync(id, stop);
                    var machine = await machines.GetAsync(run.Tag, stop);
                    return Page(shop.Dossier(machine), run.Tag, run.Route, run.Steps, shop, inShort == true);
                }
            )
            .WithSummary("The sheet of a run as it reads on this machine, for print")
            .Produces<string>(contentType: "text/html")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static bool AsPage(HttpRequest request) =>
        request.GetTypedHeaders().Accept.Any(a => a.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase));

    private static IResult Page(
        Dossier facts,
        string tag,
        Route route,
        IReadOnlyList<Step> steps,
        Shop shop,
        bool inShort = false
    ) =>
        Results.Content(
            SheetPage.Of(
                new SheetHead(
                    tag,
                    string.Join(
                        ' ',
                        new[] { facts.Word("identity.maker"), facts.Word("identity.model") }.OfType<string>()
                    ),
                    route.System is { } system
                        ? $"{shop.Catalogue.System(system)?.FullName ?? system}, by the school “{route.School.ToString().ToLowerInvariant()}”"
                        : "This machine is retired",
                    shop.Name,
                    shop.Today
                ),
                steps,
                inShort
            ),
            "text/html; charset=utf-8"
        );
}
