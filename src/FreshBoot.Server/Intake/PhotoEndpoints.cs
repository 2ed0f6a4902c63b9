using FreshBoot.Data.Intake;
using FreshBoot.Formats.Pictures;
using FreshBoot.Server.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Intake;

internal static class PhotoEndpoints
{
    private const int MostAtOnce = 20;

    public static void MapPhotos(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/photos",
                (string tag, PhotoStore photos, CancellationToken stop) => photos.ListAsync(Given.Tag(tag, "tag"), stop)
            )
            .WithSummary("The photos of a machine")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/photos",
                async (
                    string tag,
                    [FromForm] string? by,
                    [FromForm] string? note,
                    IFormFileCollection files,
                    PhotoStore photos,
                    CancellationToken stop
                ) =>
                {
                    var known = Given.Tag(tag, "tag");
                    var who = Given.Text(by, "by", 60);
                    var says = string.IsNullOrWhiteSpace(note) ? "" : Given.Text(note, "note", 200);
                    if (files.Count is 0 or > MostAtOnce)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"{files.Count} files came with it.",
                            "files",
                            $"1 to {MostAtOnce} pictures."
                        );
                    // All are looked at before one is kept.
                    var pictures = new List<(byte[] Bytes, PictureKind Kind)>();
                    foreach (var file in files)
                    {
                        if (file.Length > PictureKind.LargestBytes)
                            throw new RefusedException(
                                RefusalKind.TooLarge,
                                $"The picture has {file.Length} bytes.",
                                Path.GetFileName(file.FileName),
                                $"At most {PictureKind.LargestBytes / 1_000_000} MB a picture."
                            );
                        using var content = new MemoryStream();
                        await file.CopyToAsync(content, stop);
                        var bytes = content.ToArray();
                        var kind = PictureKind.Of(bytes, Path.GetFileName(file.FileName));
                        // Where a workshop's people stood when they took it is nobody's business.
                        pictures.Add((PictureWithoutPlace.Of(bytes, kind), kind));
                    }
                    var kept = new List<StoredPhoto>();
                    foreach (var (bytes, kind) in pictures)
                        kept.Add(await photos.AddAsync(known, bytes, kind, says, who, stop));
                    return TypedResults.Created($"/api/machines/{known}/photos", kept);
                }
            )
            .DisableAntiforgery()
            .WithSummary("Attaches photos (JPEG, PNG, WebP; at most 10 MB each) to a machine")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/machines/{tag}/photos/{id:int}",
                async (string tag, int id, PhotoStore photos, CancellationToken stop) =>
                {
                    var (path, mediaType) = await photos.FindAsync(Given.Tag(tag, "tag"), id, stop);
                    return Results.File(path, mediaType);
                }
            )
            .WithSummary("One photo")
            .Produces<byte[]>(StatusCodes.Status200OK, "image/jpeg", "image/png", "image/webp")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }
}
