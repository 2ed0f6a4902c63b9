using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Server.Kestrel.Core.Features;

namespace FreshBoot.Server.Images;

internal static class ImageEndpoints
{
    /// <summary>Largest image that comes whole in a form, in bytes.</summary>
    private const long LargestForm = 1L << 30;

    /// <summary>Largest text of a file that is shown, in bytes.</summary>
    private const int LargestText = 256 << 10;

    public static void MapImages(this IEndpointRouteBuilder app)
    {
        MapShelf(app);
        MapContent(app);
        MapInside(app);
        app.MapGet("/api/machines/{tag}/images", OnMachineAsync)
            .WithSummary("The images held against a machine: what starts, from which port, by which key and entry")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static void MapShelf(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/images", (ImageShelf shelf, CancellationToken stop) => shelf.ListAsync(stop))
            .WithSummary("The shelf of installer images, and files in the folder of images that nobody named yet");

        app.MapPost("/api/images", AddAsync)
            .WithSummary(
                "Announces an image, whose bytes come by PUT to its content; or names a file in the folder of images"
            )
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
                async (int id, BringImage bring, CancellationToken stop) =>
                {
                    await bring.RemoveAsync(id, stop);
                    return TypedResults.NoContent();
                }
            )
            .WithSummary("Takes an image off the shelf, with its file")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static void MapContent(IEndpointRouteBuilder app)
    {
        app.MapMethods(
                "/api/images/{id:int}/content",
                ["HEAD"],
                async (int id, ImageStore store, ImageUploads uploads, HttpContext context, CancellationToken stop) =>
                {
                    var image = await store.GetAsync(id, stop);
                    var headers = context.Response.Headers;
                    headers["Upload-Offset"] = image.Received.ToString(CultureInfo.InvariantCulture);
                    headers["Upload-Length"] = image.SizeBytes.ToString(CultureInfo.InvariantCulture);
                    headers["Upload-Complete"] = image.Sha256 is null ? "?0" : "?1";
                    if (await uploads.EndsAsync(image, stop) is { } ends)
                        headers["Upload-Ends"] = ends;
                    return TypedResults.Ok();
                }
            )
            .WithSummary(
                "How much of an image is here: headers Upload-Offset, Upload-Length and Upload-Complete, and Upload-Ends: SHA-256 over the first and the last MiB of it"
            )
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut("/api/images/{id:int}/content", PutAsync)
            .WithMetadata(new OnlyReads(), new DisableRequestSizeLimitAttribute())
            .TakesBody(
                "application/octet-stream",
                "Bytes of the image from the offset that Content-Range names, or all of it without one; with “bytes */SIZE” none, to finish an image whose last byte is here."
            )
            .WithSummary("Takes bytes of an image; they follow on what is here")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapGet(
                "/api/images/{id:int}/content",
                async (int id, ImageStore store, CancellationToken stop) =>
                {
                    var image = await store.GetWholeAsync(id, stop);
                    return Results.File(
                        store.PathOf(id),
                        "application/octet-stream",
                        image.Name,
                        enableRangeProcessing: true
                    );
                }
            )
            .WithSummary("The bytes of an image, in ranges if wanted")
            .Produces<byte[]>(contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static void MapInside(IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/images/{id:int}/inspection",
                async (int id, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
                    shelf.Findings(await store.GetWholeAsync(id, stop))
            )
            .WithSummary("What is on an image, and how it starts")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/images/{id:int}/tree",
                async (int id, string? path, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
                    Folder(shelf.Tree(await store.GetWholeAsync(id, stop)), path?.Trim('/') ?? "")
            )
            .WithSummary("A folder of an image")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet("/api/images/{id:int}/file", FileAsync)
            .WithSummary("A file of an image, with its text where it is one")
            .ProducesProblem(StatusCodes.Status404NotFound);
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

    private static async Task<ImageSheet> PutAsync(
        int id,
        HttpRequest request,
        ImageStore store,
        ImageUploads uploads,
        ImageShelf shelf,
        Changes changes,
        CancellationToken stop
    )
    {
        // A line of the workshop may be slow: what counts is that bytes come at all.
        if (request.HttpContext.Features.Get<IHttpMinRequestBodyDataRateFeature>() is { } rate)
            rate.MinDataRate = null;
        var stored = await uploads.TakeAsync(id, await OffsetAsync(id, request, store, stop), request.Body, stop);
        if (stored.Whole)
            changes.Tell("all", "");
        return await shelf.OneAsync(stored.Id, CancellationToken.None);
    }

    /// <summary>Where the bytes of a request begin, after its Content-Range (RFC 9110, section 14.4); null where it only wants to finish.</summary>
    private static async Task<long?> OffsetAsync(int id, HttpRequest request, ImageStore store, CancellationToken stop)
    {
        if (request.Headers.ContentRange.ToString() is not { Length: > 0 } text)
            return 0;
        var image = await store.GetAsync(id, stop);
        if (
            System.Net.Http.Headers.ContentRangeHeaderValue.TryParse(text, out var range)
            && range.Unit == "bytes"
            && (range.Length ?? image.SizeBytes) == image.SizeBytes
            && (range.HasRange || request.ContentLength is null or 0)
        )
            return range.From;
        throw new RefusedException(
            RefusalKind.Invalid,
            $"“{text}” is no range of this image.",
            "Content-Range",
            $"bytes {image.Received}-…/{image.SizeBytes}"
        );
    }

    private static FolderSheet Folder(FileTree tree, string folder)
    {
        if (folder.Length > 0 && tree.Find(folder) is not { Kind: EntryKind.Folder })
            throw new RefusedException(
                RefusalKind.Missing,
                $"There is no folder “{folder}” on the image.",
                "path",
                "A folder of the image, or none for its root."
            );
        return new FolderSheet(
            tree.FileSystem,
            folder,
            [
                .. tree.In(folder)
                    .OrderByDescending(e => e.Kind == EntryKind.Folder)
                    .ThenBy(e => e.Path, StringComparer.Ordinal)
                    .Select(e => new FolderEntry(e.Path, e.Kind, e.SizeBytes)),
            ]
        );
    }

    private static async Task<FileSheet> FileAsync(
        int id,
        string path,
        ImageStore store,
        ImageShelf shelf,
        CancellationToken stop
    )
    {
        var image = await store.GetWholeAsync(id, stop);
        if (shelf.Tree(image).Find(path) is not { Kind: EntryKind.File } entry)
            throw new RefusedException(
                RefusalKind.Missing,
                $"There is no file “{path}” on the image.",
                "path",
                "A file of the image."
            );
        if (entry.SizeBytes > PatchFiles.Largest)
            return new FileSheet(entry.Path, entry.SizeBytes, null, null);
        await using var file = shelf.Open(image);
        var bytes = PatchFiles.Read(file, entry);
        return new FileSheet(
            entry.Path,
            entry.SizeBytes,
            Convert.ToHexStringLower(SHA256.HashData(bytes)),
            bytes.Length <= LargestText && !bytes.AsSpan().Contains((byte)0) ? Encoding.UTF8.GetString(bytes) : null
        );
    }

    private static async Task<IReadOnlyList<ImageOnMachine>> OnMachineAsync(
        string tag,
        ImageStore store,
        ImageShelf shelf,
        MachineStore machines,
        Shop shop,
        JobRunner jobs,
        CancellationToken stop
    )
    {
        const int remembered = 200;
        const int shown = 6;
        var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
        var standing = shop.Stand(machine);
        var maker = shop.Catalogue.Maker(standing.Dossier.Word("identity.maker"));
        var starts = (await jobs.ListAsync(JobKind.Twin, null, machine.Tag, null, remembered, stop)).ToLookup(j =>
            j.ImageId
        );
        return
        [
            .. (await store.ListAsync(stop))
                .Where(shelf.Has)
                .Select(i => new ImageOnMachine(
                    i,
                    StartOn.Ways(shelf.Findings(i), standing.Dossier, maker),
                    [.. starts[i.Id].Take(shown).Select(job => new StartSeen(job, Seen(job, i)))]
                ))
                .OrderByDescending(i => i.Image.System is { } system && system == standing.Aim.System)
                .ThenBy(i => i.Ways.Any(w => w.Can == true) ? 0 : 1),
        ];

        // Of the machine as it is: its own identity, and the start that it was asked for.
        RehearsalSeen? Seen(JobSheet job, StoredImage image) =>
            job is { State: JobState.Done, Result.Rehearsal: { } record }
                ? RehearsalSeen.Of(
                    record,
                    new RehearsalAsked(
                        image.Sha256!,
                        standing.Dossier,
                        machine.DossierVersion,
                        null,
                        null,
                        null,
                        FirmwareWays.Of(standing.Dossier).Now
                    )
                )
                : null;
    }
}
