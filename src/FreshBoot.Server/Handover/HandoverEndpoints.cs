using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Handover;

internal static class HandoverEndpoints
{
    public static void MapHandover(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/handover",
                async (string tag, MakeHandover handover, Shop shop, HttpContext context) =>
                {
                    var sheet = await handover.MakeAsync(Given.Tag(tag, "tag"), context.RequestAborted);
                    var accepts = context.Request.GetTypedHeaders().Accept;
                    return accepts.Any(a => a.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase))
                        ? Results.Content(HandoverPage.Of(sheet, shop.Name), "text/html; charset=utf-8")
                        : Results.Json(sheet);
                }
            )
            .WithSummary("The sheet for the new owner: HTML for print, or JSON, by the Accept header")
            .Produces<HandoverSheet>()
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/handover.zip",
                async (string tag, PackHandover pack, CancellationToken stop) =>
                    Results.File(await pack.DoAsync(Given.Tag(tag, "tag"), stop), "application/zip", $"{tag}.zip")
            )
            .WithSummary("The whole record of a machine that may leave; sha256sum -c SHA256SUMS verifies it")
            .Produces<string>(StatusCodes.Status200OK, "application/zip")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPut(
                "/api/machines/{tag}/left",
                async (string tag, Leaving leaving, LeaveShop leave, Shop shop, HttpContext context) =>
                    MachineSheets.Show(
                        await leave.SayAsync(Given.Tag(tag, "tag"), leaving, context.RequestAborted),
                        shop,
                        context
                    )
            )
            .WithSummary("A machine leaves the shop with its hand-over, or comes back")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
