using System.Globalization;
using System.Text;
using FreshBoot.Core.Exchange;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Logbook;

internal static class LogEndpoints
{
    private const int Usual = 200;
    private const int Most = 5000;

    public static void MapLog(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/log",
                async (
                    string? find,
                    DateOnly? from,
                    DateOnly? to,
                    bool? everything,
                    int? take,
                    ShopLog log,
                    CancellationToken stop
                ) => await log.FindAsync(Question(find, from, to, everything), Math.Clamp(take ?? Usual, 1, Most), stop)
            )
            .WithSummary("Everything that happened, the latest first: by words and days")
            .ProducesProblem(StatusCodes.Status400BadRequest);
        app.MapGet(
                "/api/log.csv",
                async (
                    string? find,
                    DateOnly? from,
                    DateOnly? to,
                    bool? everything,
                    ShopLog log,
                    CancellationToken stop
                ) => Csv(await log.EachAsync(Question(find, from, to, everything), stop))
            )
            .WithSummary("The same as a table, all of it")
            .Produces<string>(contentType: "text/csv")
            .ProducesProblem(StatusCodes.Status400BadRequest);
        app.MapGet(
                "/api/machines/{tag}/log",
                async (string tag, MachineStore machines, ShopLog log, CancellationToken stop) =>
                    await log.OfAsync((await machines.GetAsync(Given.Tag(tag, "tag"), stop)).Tag, stop)
            )
            .WithSummary("What happened to a machine, the latest first: said, read, made and done")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static LogQuestion Question(string? find, DateOnly? from, DateOnly? to, bool? everything) =>
        from > to
            ? throw new RefusedException(
                RefusalKind.Invalid,
                $"{from:yyyy-MM-dd} is later than {to:yyyy-MM-dd}.",
                "from",
                "A first day that is not after the last one."
            )
            : new LogQuestion(find, from, to, everything ?? false);

    private static IResult Csv(IEnumerable<LogLine> lines) =>
        Results.File(
            Encoding.UTF8.GetBytes(
                MachineCsv.Table(
                    ["at", "tag", "by", "about", "says"],
                    lines.Select(l =>
                        (IReadOnlyList<string>)
                            [l.At.ToString("O", CultureInfo.InvariantCulture), l.Tag ?? "", l.By ?? "", l.About, l.Says]
                    )
                )
            ),
            "text/csv; charset=utf-8",
            "fresh-boot-log.csv"
        );
}
