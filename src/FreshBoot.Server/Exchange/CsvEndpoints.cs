using System.Text;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Exchange;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Exchange;

/// <summary>What a table would do, or did.</summary>
/// <param name="Imported">How many machines were taken in; 0 for a preview.</param>
/// <param name="Rows">How many machines the table has.</param>
/// <param name="Columns">What each column was taken for.</param>
/// <param name="First">The first machines, to look at.</param>
/// <param name="Faults">What is wrong; with one fault nothing is taken in.</param>
internal sealed record CsvResult(
    int Imported,
    int Rows,
    IReadOnlyList<CsvColumn> Columns,
    IReadOnlyList<CsvMachine> First,
    IReadOnlyList<CsvFault> Faults
);

internal static class CsvEndpoints
{
    private const int Shown = 10;
    private const string Source = "table";

    public static void MapCsv(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/machines/csv",
                async (
                    HttpRequest request,
                    bool? dryRun,
                    [FromQuery] string[]? map,
                    string? by,
                    MachineStore store,
                    TimeProvider clock,
                    CancellationToken stop
                ) =>
                {
                    var text = await TextAsync(request, stop);
                    var table = MachineCsv.Read(
                        new StringReader(text),
                        Mapping(map ?? []),
                        await store.InUseAsync(stop)
                    );
                    if (dryRun == true)
                        return TypedResults.Ok(Result(table, 0));
                    if (table.Faults.Count > 0)
                        throw new CsvRefusedException(table.Faults);
                    var now = clock.GetUtcNow();
                    var who = by is null ? null : Given.Text(by, "by", 60);
                    await store.TakeInManyAsync(
                        [
                            .. table.Machines.Select(m =>
                                (
                                    m.Tag,
                                    (IReadOnlyList<Reading>)
                                        [
                                            .. m.Facts.Select(f => new Reading(
                                                f.Key,
                                                f.Value,
                                                Source,
                                                Origin.Entered,
                                                now,
                                                who
                                            )),
                                        ]
                                )
                            ),
                        ],
                        stop
                    );
                    return TypedResults.Ok(Result(table, table.Machines.Count));
                }
            )
            .TakesBody("text/csv", "A table in UTF-8 with a header line.")
            .WithSummary(
                "Takes machines in from a table (RFC 4180), all or none; with dryRun only tells what it would do. A column that nobody knows is mapped with map=HEADER:KEY, or left out with map=HEADER:"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/machines.csv",
                async (MachineIndex index, CancellationToken stop) =>
                {
                    using var text = new StringWriter();
                    MachineCsv.Write(text, await index.DossiersAsync(stop));
                    return Results.File(
                        Encoding.UTF8.GetBytes(text.ToString()),
                        "text/csv; charset=utf-8",
                        "machines.csv"
                    );
                }
            )
            .WithSummary("Every machine as a table (RFC 4180), a column for each fact key")
            .Produces<string>(contentType: "text/csv");
    }

    private static async Task<string> TextAsync(HttpRequest request, CancellationToken stop)
    {
        Stream body = request.Body;
        // A script's plain POST calls itself a form too; only multipart is one.
        if (request.ContentType?.StartsWith("multipart/", StringComparison.OrdinalIgnoreCase) == true)
        {
            var form = await request.ReadFormAsync(stop);
            body = form.Files is [var file]
                ? file.OpenReadStream()
                : throw new RefusedException(
                    RefusalKind.Invalid,
                    $"{form.Files.Count} files came with it.",
                    "files",
                    "One table."
                );
        }
        // Bytes that are no UTF-8 would come in as question marks that nobody typed.
        using var reader = new StreamReader(
            body,
            new UTF8Encoding(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true)
        );
        try
        {
            return await reader.ReadToEndAsync(stop);
        }
        catch (DecoderFallbackException)
        {
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The table is not written in UTF-8.",
                "body",
                "Save it as CSV in UTF-8."
            );
        }
    }

    private static Dictionary<string, string> Mapping(string[] map)
    {
        var result = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var pair in map)
        {
            var colon = pair.LastIndexOf(':');
            if (colon < 1)
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{pair}” is no mapping.",
                    "map",
                    "HEADER:KEY, or HEADER: to leave the column out."
                );
            result[pair[..colon]] = pair[(colon + 1)..];
        }
        return result;
    }

    private static CsvResult Result(CsvTable table, int imported) =>
        new(imported, table.Machines.Count, table.Columns, [.. table.Machines.Take(Shown)], table.Faults);
}
