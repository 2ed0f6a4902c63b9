using FreshBoot.Core.Layouts;
using FreshBoot.Formats.Partitions;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Layouts;

/// <summary>A layout that somebody made: its partitions, or the table as sfdisk dumps it.</summary>
/// <param name="Scheme">gpt or mbr.</param>
/// <param name="SectorBytes">Bytes of a sector.</param>
/// <param name="Sectors">Sectors of the drive; null where nobody knows.</param>
/// <param name="Partitions">The partitions.</param>
/// <param name="Sfdisk">The table as sfdisk dumps it, or its JSON; counts instead of the partitions.</param>
/// <param name="Firmware">The firmware that shall start it.</param>
/// <param name="ReachBytes">How far legacy firmware reads.</param>
internal sealed record LayoutToCheck(
    PartitionScheme? Scheme = null,
    int? SectorBytes = null,
    long? Sectors = null,
    IReadOnlyList<LayoutPartition>? Partitions = null,
    string? Sfdisk = null,
    string? Firmware = null,
    long? ReachBytes = null
);

/// <summary>What the checks say.</summary>
/// <param name="Scheme">How the drive is divided.</param>
/// <param name="SectorBytes">Bytes of a sector.</param>
/// <param name="Partitions">The partitions as they were understood.</param>
/// <param name="Findings">What speaks against it; empty where nothing does.</param>
/// <param name="Own">The layout as the fact <c>layout.own</c> keeps it; null while the size of the drive is not known.</param>
internal sealed record LayoutVerdict(
    PartitionScheme Scheme,
    int SectorBytes,
    IReadOnlyList<LayoutPartition> Partitions,
    IReadOnlyList<LayoutFinding> Findings,
    string? Own
);

internal static class LayoutEndpoints
{
    public static void MapLayouts(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/machines/{tag}/layout",
                (string tag, LayoutBody? asked, PlanLayout plan, CancellationToken stop) =>
                    plan.OfAsync(Given.Tag(tag, "tag"), asked ?? new LayoutBody(), stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("Divides a drive of the machine, or one that is in mind for it; nothing is stored or written")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapPost(
                "/api/machines/{tag}/layout/drive",
                async (string tag, DriveIn? wish, StartDrive start, CancellationToken stop) =>
                {
                    var job = await start.DoAsync(Given.Tag(tag, "tag"), wish ?? new DriveIn(), stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Divides a simulated drive as the layout says, and starts it in the twin")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/machines/{tag}/layout/drive",
                (string tag, StartDrive start) =>
                    Results.Stream(
                        start.Packed(Given.Tag(tag, "tag")),
                        "application/gzip",
                        $"{Given.Tag(tag, "tag")}-drive.tar.gz"
                    )
            )
            .WithSummary("The divided drive, as a tar that knows of holes")
            .Produces<byte[]>(contentType: "application/gzip")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/drives",
                (string tag, MachineDrives drives, CancellationToken stop) =>
                    drives.OfAsync(Given.Tag(tag, "tag"), stop)
            )
            .WithSummary("The drives of a machine, which of them gets the system and why, and the places for them")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/drives/first",
                async (
                    string tag,
                    FirstDrive wish,
                    MachineDrives drives,
                    Shop shop,
                    MachineIndex index,
                    HttpContext context
                ) =>
                    await MachineSheets.ShowAsync(
                        await drives.PutFirstAsync(Given.Tag(tag, "tag"), wish, context.RequestAborted),
                        shop,
                        index,
                        context
                    )
            )
            .WithSummary("Chooses the drive that gets the system")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/drives/fit",
                (string tag, DriveInHand drive, MachineDrives drives, CancellationToken stop) =>
                    drives.FitAsync(Given.Tag(tag, "tag"), drive, stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary(
                "Whether a drive in the hand goes into the places of a machine, by form, bus, length and notch"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost("/api/layouts/check", Check)
            .WithMetadata(new OnlyReads())
            .WithSummary("Holds a layout, or a table as sfdisk dumps it, against the rules")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
    }

    private static LayoutVerdict Check(LayoutToCheck asked)
    {
        var (scheme, sectorBytes, sectors, partitions) = Understood(asked);
        return new LayoutVerdict(
            scheme,
            sectorBytes,
            partitions,
            LayoutCheck.Of(scheme, sectorBytes, sectors, partitions, asked.Firmware, asked.ReachBytes),
            sectors is { } all ? OwnLayout.Write(scheme, sectorBytes, all, partitions) : null
        );
    }

    private static (PartitionScheme, int, long?, IReadOnlyList<LayoutPartition>) Understood(LayoutToCheck asked)
    {
        if (asked.Sfdisk is { } text)
        {
            var table = SfdiskScript.Read(text);
            var (scheme, partitions) = LayoutScript.From(table);
            // A GPT's last usable sector tells where the drive ends: the backup of the table lies behind it.
            var ends = table.LastLba is { } last
                ? last + 2 + (128 * 128 + table.SectorBytes - 1) / table.SectorBytes
                : (long?)null;
            return (scheme, table.SectorBytes, asked.Sectors ?? ends, partitions);
        }
        return asked is { Scheme: { } known, Partitions: { } list }
            ? asked.SectorBytes is null or 512 or 4096
                ? (known, asked.SectorBytes ?? 512, asked.Sectors, list)
                : throw new RefusedException(
                    RefusalKind.Invalid,
                    $"A sector of {asked.SectorBytes} bytes is none.",
                    "sectorBytes",
                    "512 or 4096."
                )
            : throw new RefusedException(
                RefusalKind.Invalid,
                "There is no layout in it.",
                "body",
                "“scheme” and “partitions”, or “sfdisk” with a table as sfdisk dumps it."
            );
    }
}
