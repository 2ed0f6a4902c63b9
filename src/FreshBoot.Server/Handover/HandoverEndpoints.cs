using FreshBoot.Core.Handover;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Handover;

/// <summary>A language that owners can read in.</summary>
/// <param name="Code">Its tag by BCP 47.</param>
/// <param name="Name">What it calls itself.</param>
internal sealed record OwnerLanguage(string Code, string Name);

internal static class HandoverEndpoints
{
    public static void MapHandover(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/handover",
                async (string tag, string? lang, MakeHandover handover, HttpContext context) =>
                {
                    var stop = context.RequestAborted;
                    var accepts = context.Request.GetTypedHeaders().Accept;
                    return accepts.Any(a => a.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase))
                        ? Results.Content(
                            HandoverPage.Of(await handover.ForOwnerAsync(Given.Tag(tag, "tag"), lang, stop)),
                            "text/html; charset=utf-8"
                        )
                        : Results.Json(await handover.MakeAsync(Given.Tag(tag, "tag"), stop));
                }
            )
            .WithSummary(
                "What the shop knows of a machine that may leave, as JSON; the sheet for its owner as HTML for print, by the Accept header"
            )
            .Produces<HandoverSheet>(StatusCodes.Status200OK, "application/json", "text/html")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/handover.json",
                async (string tag, string? lang, MakeHandover handover, CancellationToken stop) =>
                    await handover.ForOwnerAsync(Given.Tag(tag, "tag"), lang, stop)
            )
            .WithSummary("The sheet for the new owner in plain words, in a language of GET /api/languages or in theirs")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/handover.pdf",
                async (
                    string tag,
                    string? lang,
                    MakeHandover handover,
                    OwnerLanguages languages,
                    CancellationToken stop
                ) =>
                {
                    var sheet = await handover.ForOwnerAsync(Given.Tag(tag, "tag"), lang, stop);
                    return Results.File(
                        HandoverPdf.Of(sheet, languages.Of(sheet.Language)),
                        "application/pdf",
                        $"{sheet.Tag}.pdf"
                    );
                }
            )
            .WithSummary("The same as PDF")
            .Produces<string>(StatusCodes.Status200OK, "application/pdf")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/data-treatment",
                async (string tag, string? lang, MakeHandover handover, HttpContext context) =>
                    context
                        .Request.GetTypedHeaders()
                        .Accept.Any(a => a.MediaType.Equals("text/html", StringComparison.OrdinalIgnoreCase))
                        ? Results.Content(
                            HandoverPage.Of(
                                await handover.DataCertificateAsync(Given.Tag(tag, "tag"), lang, context.RequestAborted)
                            ),
                            "text/html; charset=utf-8"
                        )
                        : Results.Json(await handover.DataAsync(Given.Tag(tag, "tag"), context.RequestAborted))
            )
            .WithSummary(
                "What was done with the data on a machine, as JSON; as a certificate for print by the Accept header, in a language of GET /api/languages"
            )
            .Produces<DataTreatment>(StatusCodes.Status200OK, "application/json", "text/html")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/data-treatment.pdf",
                async (
                    string tag,
                    string? lang,
                    MakeHandover handover,
                    OwnerLanguages languages,
                    CancellationToken stop
                ) =>
                {
                    var sheet = await handover.DataCertificateAsync(Given.Tag(tag, "tag"), lang, stop);
                    return Results.File(
                        HandoverPdf.Of(sheet, languages.Of(sheet.Language)),
                        "application/pdf",
                        $"{sheet.Tag}-data.pdf"
                    );
                }
            )
            .WithSummary("The same certificate as PDF")
            .Produces<string>(StatusCodes.Status200OK, "application/pdf")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/languages",
                (OwnerLanguages languages) => languages.All.Select(l => new OwnerLanguage(l.Code, l.Name))
            )
            .WithSummary("The languages that owners can read in");

        app.MapGet(
                "/api/machines/{tag}/acceptance",
                (string tag, MakeHandover handover, CancellationToken stop) =>
                    handover.AcceptanceAsync(Given.Tag(tag, "tag"), stop)
            )
            .WithSummary("The acceptance list of the latest run: each line, how it stands, what proves it")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/measured",
                (string tag, MakeHandover handover, CancellationToken stop) =>
                    handover.MeasuredAsync(Given.Tag(tag, "tag"), stop)
            )
            .WithSummary("How well the finished machine runs, in numbers, beside others of its model")
            .ProducesProblem(StatusCodes.Status404NotFound);

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
                async (
                    string tag,
                    Leaving leaving,
                    LeaveShop leave,
                    Shop shop,
                    MachineIndex index,
                    HttpContext context
                ) =>
                    await MachineSheets.ShowAsync(
                        await leave.SayAsync(Given.Tag(tag, "tag"), leaving, context.RequestAborted),
                        shop,
                        index,
                        context
                    )
            )
            .WithSummary("A machine leaves the shop with its hand-over, or comes back")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
