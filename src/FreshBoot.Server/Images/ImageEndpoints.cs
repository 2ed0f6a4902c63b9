using FreshBoot.Data.Images;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Images;

internal static class ImageEndpoints
{
    /// <summary>Largest image that comes whole in a form, in bytes.</summary>
    private const long LargestForm = 1L << 30;

    public static void MapImages(this IEndpointRouteBuilder app)
    {
        MapShelf(app);
        app.MapImageContent();
        app.MapImageInside();
        app.MapMachineImages();
    }

    private static void MapShelf(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/images", (ImageShelf shelf, CancellationToken stop) => shelf.ListAsync(stop))
            .WithSummary("The shelf of installer images, and files in the folder of images that nobody named yet");

        app.MapPost("/api/images", AddAsync)
            .WithSummary(
                "Announces an image, whose bytes come by PUT to its content; or names a file in the folder of images"
            )
            .Produces<ImageSheet>()
            .Produces<ImageSheet>(StatusCodes.Status201Created)
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapPost("/api/images", FormAsync)
            .DisableAntiforgery()
            .WithMetadata(
                new RequestSizeLimitAttribute(LargestForm),
                new RequestFormLimitsAttribute { MultipartBodyLengthLimit = LargestForm }
            )
            // By its media type it is another endpoint than the one above; a description has room for one.
            .ExcludeFromDescription();

        app.MapPost("/api/images/made", MadeAsync)
            .DisableAntiforgery()
            .WithMetadata(
                new RequestSizeLimitAttribute(LargestForm),
                new RequestFormLimitsAttribute { MultipartBodyLengthLimit = LargestForm }
            )
            .WithSummary("Makes an image that starts in every way from a kernel and its archive")
            .Produces<ImageSheet>(StatusCodes.Status201Created)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapPost(
                "/api/images/checksums",
                async (ChecksumList list, ChecksumStore store, CancellationToken stop) =>
                    new ChecksumsTaken(await store.TakeListAsync(list.Text, list.From.Trim(), stop))
            )
            .WithSummary("Reads a list of checksums as sha256sum prints it")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/images/{id:int}",
                (int id, ImageShelf shelf, CancellationToken stop) => shelf.OneAsync(id, stop)
            )
            .WithSummary("One image")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut(
                "/api/images/{id:int}",
                async (
                    int id,
                    ImageChange change,
                    ImageStore store,
                    ImageShelf shelf,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var entry = change.Image.Entry(change.Image.SizeBytes, shop.Catalogue);
                    await store.ChangeAsync(id, change.Version, entry, stop);
                    return await shelf.OneAsync(id, stop);
                }
            )
            .WithSummary("Changes what is said of an image: system, build, where from, trust, notes")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapDelete(
                "/api/images/{id:int}",
                async (int id, bool? last, BringImage bring, CancellationToken stop) =>
                {
                    await bring.RemoveAsync(id, last == true, stop);
                    return TypedResults.NoContent();
                }
            )
            .WithSummary(
                "Takes an image off the shelf, with its file; the last one of a release that its source no longer has with ?last=true"
            )
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static async Task<IResult> AddAsync(
        ImageIn image,
        BringImage bring,
        ImageShelf shelf,
        CancellationToken stop
    )
    {
        if (image.File is { } named)
        {
            var job = await bring.NameAsync(image, named, stop);
            return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
        }
        var stored = await bring.AnnounceAsync(image, stop);
        return TypedResults.Created($"/api/images/{stored.Id}", await shelf.OneAsync(stored.Id, stop));
    }

    private static async Task<IResult> MadeAsync(
        IFormFile kernel,
        IFormFile archive,
        [FromForm] string name,
        [FromForm] string? line,
        [FromForm] string? system,
        [FromForm] string? build,
        [FromForm] string? from,
        [FromForm] string? by,
        MakeImage make,
        ImageShelf shelf,
        CancellationToken stop
    )
    {
        await using var core = kernel.OpenReadStream();
        await using var packed = archive.OpenReadStream();
        var stored = await make.DoAsync(
            new MadeIn(
                new ImageIn(
                    name,
                    string.IsNullOrEmpty(system) ? null : system,
                    Build: build,
                    From: from ?? "",
                    Trust: Core.Catalogue.Trust.Own,
                    By: by ?? "nobody"
                ),
                line ?? ""
            ),
            core,
            packed,
            stop
        );
        return TypedResults.Created($"/api/images/{stored.Id}", await shelf.OneAsync(stored.Id, stop));
    }

    private static async Task<ImageSheet> FormAsync(
        IFormFile file,
        [FromForm] string? system,
        [FromForm] string? build,
        [FromForm] string? from,
        [FromForm] string? by,
        BringImage bring,
        ImageShelf shelf,
        CancellationToken stop
    )
    {
        var image = new ImageIn(
            file.FileName,
            string.IsNullOrEmpty(system) ? null : system,
            file.Length,
            null,
            build,
            from ?? "",
            By: by ?? "nobody"
        );
        await using var content = file.OpenReadStream();
        var stored = await bring.WholeAsync(image, content, stop);
        return await shelf.OneAsync(stored.Id, stop);
    }
}
