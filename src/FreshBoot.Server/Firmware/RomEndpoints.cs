using FreshBoot.Core.Firmware;
using FreshBoot.Data.Firmware;
using FreshBoot.Formats.Firmware;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Firmware;

/// <summary>An image of a firmware chip in a list.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What it is called.</param>
/// <param name="SizeBytes">Its size.</param>
/// <param name="Sha256">SHA-256 of its bytes.</param>
/// <param name="By">Who brought it.</param>
/// <param name="At">When.</param>
/// <param name="Board">The board that was named when it came in; null where nobody did.</param>
internal sealed record RomItem(
    int Id,
    string Name,
    long SizeBytes,
    string Sha256,
    string By,
    DateTimeOffset At,
    string? Board
);

/// <summary>A firmware volume as a page shows it.</summary>
/// <param name="Offset">Where it begins, in bytes.</param>
/// <param name="Length">Its length.</param>
/// <param name="Guid">GUID of its file system.</param>
/// <param name="FileSystem">What that is; null where nobody knows.</param>
/// <param name="ChecksumOk">Whether its header's checksum is right.</param>
/// <param name="Files">Its files.</param>
internal sealed record RomVolume(
    long Offset,
    long Length,
    Guid Guid,
    string? FileSystem,
    bool ChecksumOk,
    IReadOnlyList<FirmwareFile> Files
);

/// <summary>What stands in an image.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What it is called.</param>
/// <param name="SizeBytes">Its size.</param>
/// <param name="Sha256">SHA-256 of its bytes.</param>
/// <param name="By">Who brought it.</param>
/// <param name="At">When.</param>
/// <param name="Board">For which board it is, as far as the image or somebody says.</param>
/// <param name="BoardSays">The same in a sentence.</param>
/// <param name="Volumes">Firmware volumes.</param>
/// <param name="FlashMap">The flash map; null where it carries none.</param>
/// <param name="ResetVector">How the processor begins; null where nothing stands there.</param>
/// <param name="OptionRoms">Option ROMs.</param>
/// <param name="Strings">Texts that look like versions or dates.</param>
/// <param name="Entropy">For each 4 KiB its entropy in bits a byte.</param>
/// <param name="Findings">What is odd.</param>
internal sealed record RomSheet(
    int Id,
    string Name,
    long SizeBytes,
    string Sha256,
    string By,
    DateTimeOffset At,
    RomBoard Board,
    string BoardSays,
    IReadOnlyList<RomVolume> Volumes,
    FlashMap? FlashMap,
    string? ResetVector,
    IReadOnlyList<OptionRom> OptionRoms,
    IReadOnlyList<string> Strings,
    IReadOnlyList<double> Entropy,
    IReadOnlyList<string> Findings
);

/// <summary>Where two images differ.</summary>
/// <param name="Differences">The stretches, each with the area or volume of the first image that it lies in.</param>
/// <param name="Findings">What is odd about comparing them.</param>
internal sealed record RomComparison(IReadOnlyList<RomDifference> Differences, IReadOnlyList<string> Findings);

internal static class RomEndpoints
{
    private const long FormBytes = 1L << 20;
    private static readonly SemaphoreSlim Turn = new(1, 1);

    private static async Task<IDisposable> OneAtATimeAsync(CancellationToken stop)
    {
        await Turn.WaitAsync(stop);
        return new Release();
    }

    private sealed class Release : IDisposable
    {
        public void Dispose() => Turn.Release();
    }

    public static void MapRoms(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/roms",
                async (RomStore roms, CancellationToken stop) => (await roms.ListAsync(stop)).Select(Item).ToArray()
            )
            .WithSummary("Images of firmware chips, the latest first");

        app.MapPost(
                "/api/roms",
                async (
                    [FromForm] string? name,
                    [FromForm] string? by,
                    [FromForm] string? board,
                    IFormFile? file,
                    RomStore roms,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    if (file is null)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            "No file came with it.",
                            "file",
                            "The bytes of the chip as one file."
                        );
                    if (file.Length > RomImage.LargestBytes)
                        throw new RefusedException(
                            RefusalKind.TooLarge,
                            $"The image has {file.Length} bytes.",
                            "file",
                            $"At most {RomImage.LargestBytes} bytes."
                        );
                    // One at a time is held in memory whole: a dozen at once would take all there is.
                    using var turn = await OneAtATimeAsync(stop);
                    var bytes = new byte[file.Length];
                    await using (var content = file.OpenReadStream())
                        await content.ReadExactlyAsync(bytes, stop);
                    // What cannot be read is not kept.
                    var image = RomImage.Read(bytes);
                    var who = string.IsNullOrWhiteSpace(by) ? Given.Nobody : Given.Text(by, "by", 60);
                    var said = string.IsNullOrWhiteSpace(board) ? null : Given.Text(board, "board", 60);
                    if (said is not null && shop.Catalogue.Boards.All(b => b.Id != said))
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"There is no board “{said}” on the support list.",
                            "board",
                            string.Join(", ", shop.Catalogue.Boards.Select(b => b.Id).Distinct())
                        );
                    if (said is not null && who == Given.Nobody)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            "Nobody says for which board it is.",
                            "by",
                            "The name of the person who says so."
                        );
                    RomBoard.Of(bytes, image, shop.Catalogue.Boards, said, who).CheckSaid();
                    var row = await roms.AddAsync(
                        bytes,
                        Given.Text(
                            string.IsNullOrWhiteSpace(name) ? Path.GetFileName(file.FileName) : name,
                            "name",
                            100
                        ),
                        who,
                        said,
                        stop
                    );
                    return TypedResults.Created($"/api/roms/{row.Id}", Sheet(row, image, bytes, shop));
                }
            )
            .DisableAntiforgery()
            // The largest chip, and what the form needs around it.
            .WithMetadata(new RequestSizeLimitAttribute(RomImage.LargestBytes + FormBytes))
            .WithFormOptions(multipartBodyLengthLimit: RomImage.LargestBytes + FormBytes)
            .WithSummary(
                "Takes the image of a firmware chip in: volumes, flash map, reset vector, texts, entropy, findings"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/roms/{id:int}",
                async (int id, RomStore roms, Shop shop, CancellationToken stop) =>
                {
                    var row = await roms.GetAsync(id, stop);
                    var bytes = await roms.BytesAsync(row, stop);
                    return Sheet(row, RomImage.Read(bytes), bytes, shop);
                }
            )
            .WithSummary("What stands in an image")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/roms/{id:int}/content",
                async (int id, RomStore roms, CancellationToken stop) =>
                {
                    var row = await roms.GetAsync(id, stop);
                    return Results.File(roms.PathOf(row), "application/octet-stream", $"{row.Sha256[..12]}.rom");
                }
            )
            .WithSummary("The bytes of an image")
            .Produces<byte[]>(contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/roms/{id:int}/compare/{other:int}",
                async (int id, int other, RomStore roms, CancellationToken stop) =>
                {
                    var (one, two) = (await roms.GetAsync(id, stop), await roms.GetAsync(other, stop));
                    var (own, theirs) = (await roms.BytesAsync(one, stop), await roms.BytesAsync(two, stop));
                    var (image, there) = (RomImage.Read(own), RomImage.Read(theirs));
                    string?[] findings =
                    [
                        own.Length == theirs.Length
                            ? null
                            : $"{one.Name} has {own.Length} bytes and {two.Name} {theirs.Length}: they are not of one chip.",
                        RomAge.Beside(image, there),
                    ];
                    return new RomComparison(image.Differences(own, theirs), [.. findings.OfType<string>()]);
                }
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("Where two images differ, in stretches of 4 KiB, by region")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static RomItem Item(RomRow row) =>
        new(row.Id, row.Name, row.SizeBytes, row.Sha256, row.By, row.At, row.Board);

    private static RomSheet Sheet(RomRow row, RomImage image, byte[] bytes, Shop shop)
    {
        var board = RomBoard.Of(bytes, image, shop.Catalogue.Boards, row.Board, row.BoardBy);
        return new(
            row.Id,
            row.Name,
            row.SizeBytes,
            row.Sha256,
            row.By,
            row.At,
            board,
            board.Says,
            [
                .. image.Volumes.Select(v => new RomVolume(
                    v.Offset,
                    v.Length,
                    v.FileSystem,
                    v.FileSystemName,
                    v.ChecksumOk,
                    v.Files
                )),
            ],
            image.Map,
            image.ResetVector,
            image.OptionRoms,
            image.Strings,
            image.Entropy,
            image.Findings
        );
    }
}
