using System.Globalization;
using System.Text;
using FreshBoot.Core.Exchange;
using FreshBoot.Core.Figures;
using FreshBoot.Server.Handover;

namespace FreshBoot.Server.Figures;

internal static class FigureEndpoints
{
    public static void MapFigures(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/figures", (AddUp add, CancellationToken stop) => add.OfAsync(stop))
            .WithSummary(
                "What came of the work: by month, system and school, causes, money for a month of updates, kilograms"
            );
        app.MapGet(
                "/api/figures.csv",
                async (AddUp add, CancellationToken stop) =>
                    Results.File(
                        Encoding.UTF8.GetBytes(Table(await add.OfAsync(stop))),
                        "text/csv; charset=utf-8",
                        "fresh-boot-months.csv"
                    )
            )
            .WithSummary("The months as a table")
            .Produces<string>(contentType: "text/csv");
        app.MapGet(
                "/api/figures/report",
                async (AddUp add, CancellationToken stop) =>
                    Results.Content(HandoverPage.Of(await add.ReportAsync(stop)), "text/html; charset=utf-8")
            )
            .WithSummary("A report for whoever pays for the shop, as a page that prints")
            .Produces<string>(contentType: "text/html");
        app.MapGet(
                "/api/figures/report.pdf",
                async (AddUp add, CancellationToken stop) =>
                    Results.File(await add.PdfAsync(stop), "application/pdf", "fresh-boot-report.pdf")
            )
            .WithSummary("The same as PDF")
            .Produces<byte[]>(contentType: "application/pdf");
    }

    private static string Table(FiguresSheet sheet) =>
        MachineCsv.Table(
            ["month", "begun", "finished", "givenUp", "steps", "plannedMinutes", "tookMinutes", "pace"],
            sheet.Months.Select(m =>
                (IReadOnlyList<string>)
                    [
                        m.Month.ToString("yyyy-MM", CultureInfo.InvariantCulture),
                        Text(m.Begun),
                        Text(m.Finished),
                        Text(m.GivenUp),
                        Text(m.Steps),
                        Text(m.PlannedMinutes),
                        Text(m.TookMinutes),
                        m.Pace?.ToString("0.00", CultureInfo.InvariantCulture) ?? "",
                    ]
            )
        );

    private static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);
}
