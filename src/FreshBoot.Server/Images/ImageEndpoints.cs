using System.Globalization;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Images;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Patching;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Patching;
using FreshBoot.Workshop.Emulation;
using FreshBoot.Workshop.Images;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Images;

/// <summary>An image that is announced, or a file of the folder of images that is named.</summary>
/// <param name="Name">Its file name.</param>
/// <param name="System">Id of the system it installs.</param>
/// <param name="SizeBytes">Its size in bytes; of a file in the folder its own size counts.</param>
/// <param name="File">A file in the folder of images, instead of an upload.</param>
/// <param name="Build">Its build.</param>
/// <param name="From">Where it came from.</param>
/// <param name="Trust">Who made it: maker, community, thirdParty, own.</param>
/// <param name="Notes">Notes.</param>
/// <param name="By">Who puts it there.</param>
internal sealed record ImageIn(
    string Name,
    string? System = null,
    long SizeBytes = 0,
    string? File = null,
    string? Build = null,
    string From = "",
    Trust Trust = Trust.ThirdParty,
    string Notes = "",
    string By = "nobody"
);

/// <summary>What is said of an image, changed.</summary>
internal sealed record ImageChange(ImageIn Image, int Version);

/// <summary>An image on the shelf.</summary>
/// <param name="Image">The image.</param>
/// <param name="Checksum">What checksum lists say.</param>
/// <param name="Starts">How it starts; null while it is not whole.</param>
/// <param name="LargestFile">Its largest file.</param>
/// <param name="Manifest">What was patched; null for an image as it came.</param>
internal sealed record ImageSheet(
    StoredImage Image,
    ChecksumSays Checksum,
    Starts? Starts,
    LargestFile? LargestFile,
    PatchManifest? Manifest
);

/// <summary>A file in the folder of images that nobody named yet.</summary>
internal sealed record FolderFile(string Name, long SizeBytes);

/// <summary>The shelf of images.</summary>
/// <param name="Images">The images, the latest first.</param>
/// <param name="Folder">Path of the folder of images.</param>
/// <param name="Unnamed">Files in it that nobody named yet.</param>
/// <param name="FreeBytes">Bytes that are free there.</param>
/// <param name="Install">What has to be installed so that everything works: Debian packages.</param>
internal sealed record ImagesSheet(
    IReadOnlyList<ImageSheet> Images,
    string Folder,
    IReadOnlyList<FolderFile> Unnamed,
    long FreeBytes,
    IReadOnlyList<string> Install
);

/// <summary>A list of checksums.</summary>
/// <param name="Text">Its text, as sha256sum prints it.</param>
/// <param name="From">Where it came from.</param>
internal sealed record ChecksumList(string Text, string From);

/// <summary>How many lines of a list were read.</summary>
internal sealed record ChecksumsTaken(int Lines);

/// <summary>A folder of an image.</summary>
/// <param name="FileSystem">Its file system.</param>
/// <param name="Path">The folder; empty for the root.</param>
/// <param name="Entries">What lies in it.</param>
internal sealed record FolderSheet(string FileSystem, string Path, IReadOnlyList<FolderEntry> Entries);

/// <summary>An entry of a folder.</summary>
internal sealed record FolderEntry(string Path, EntryKind Kind, long SizeBytes);

/// <summary>A file of an image.</summary>
/// <param name="Path">Its path.</param>
/// <param name="SizeBytes">Its size.</param>
/// <param name="Sha256">SHA-256 of its content; null where it is larger than 64 MiB.</param>
/// <param name="Text">Its text; null where it is none, or larger than 256 KiB.</param>
internal sealed record FileSheet(string Path, long SizeBytes, string? Sha256, string? Text);

/// <summary>What a patch is to do.</summary>
/// <param name="Recipe">Id of a recipe; null for a draft.</param>
/// <param name="Draft">A recipe as JSON text, to see what it would do; only for a dry run.</param>
/// <param name="By">Who asks.</param>
internal sealed record PatchIn(string? Recipe = null, string? Draft = null, string By = "nobody");

/// <summary>What a patch does.</summary>
/// <param name="AlreadyApplied">Whether all of it is there already.</param>
/// <param name="Files">The differences.</param>
/// <param name="Method"><c>rewrite</c> (a new image), <c>stick</c> (a stick image by file copy, where the image cannot be rewritten).</param>
/// <param name="Because">Why it is a stick image; null for a new image.</param>
/// <param name="Job">The job that makes it; null for a dry run or where nothing is to do.</param>
internal sealed record PatchAnswer(
    bool AlreadyApplied,
    IReadOnlyList<FileDifference> Files,
    string Method,
    string? Because,
    JobSheet? Job
);

/// <summary>What was patched, kept with the new image.</summary>
/// <param name="RecipeId">The recipe.</param>
/// <param name="RecipeVersion">Its version; 0 for one that ships.</param>
/// <param name="OldSha256">SHA-256 of the image that it was made from.</param>
/// <param name="By">Who made it.</param>
/// <param name="At">When.</param>
/// <param name="Files">The changed files with both checksums.</param>
internal sealed record PatchManifest(
    string RecipeId,
    int RecipeVersion,
    string OldSha256,
    string By,
    DateTimeOffset At,
    IReadOnlyList<PatchedFile> Files
);

/// <summary>A file that was changed.</summary>
internal sealed record PatchedFile(string Path, string Change, string? OldSha256, string? NewSha256);

/// <summary>A start in the twin of a machine.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="As"><c>disc</c> or <c>stick</c>.</param>
/// <param name="Firmware"><c>bios</c>, <c>uefi64</c>, <c>uefi32</c>; null for what the machine is started by.</param>
/// <param name="Identity">Id of a donor model whose identity it takes; null for its own.</param>
/// <param name="LimitSeconds">How long it may run, 5 to 600.</param>
/// <param name="By">Who asks.</param>
internal sealed record TwinIn(
    string Tag,
    string As,
    string? Firmware = null,
    string? Identity = null,
    int LimitSeconds = 90,
    string By = "nobody"
);

/// <summary>An image held against a machine.</summary>
/// <param name="Image">The image.</param>
/// <param name="ForAim">Whether it installs the system that the machine is to get.</param>
/// <param name="Ways">Ways to start it, the ones that work first.</param>
/// <param name="Proof">The last start in the machine's twin; null for none.</param>
internal sealed record ImageOnMachine(
    StoredImage Image,
    bool ForAim,
    IReadOnlyList<WayToStart> Ways,
    IReadOnlyList<JobSheet> Proof
);

internal static class ImageEndpoints
{
    /// <summary>Largest image that comes whole in a form, in bytes.</summary>
    private const long LargestForm = 1L << 30;

    public static void MapImages(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/images", ListAsync)
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
            .ExcludeFromDescription()
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapPost(
                "/api/images/checksums",
                async (ChecksumList list, ImageStore store, CancellationToken stop) =>
                    new ChecksumsTaken(await store.TakeListAsync(list.Text, Given.Text(list.From, "from", 120), stop))
            )
            .WithSummary("Reads a list of checksums as sha256sum prints it")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/images/{id:int}",
                (int id, ImageStore store, ImageShelf shelf, CancellationToken stop) => OneAsync(id, store, shelf, stop)
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
                    await store.ChangeAsync(
                        id,
                        change.Version,
                        Checked(change.Image, change.Image.SizeBytes, shop),
                        stop
                    );
                    return await OneAsync(id, store, shelf, stop);
                }
            )
            .WithSummary("Changes what is said of an image: system, build, where from, trust, notes")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapDelete(
                "/api/images/{id:int}",
                async (int id, ImageStore store, CancellationToken stop) =>
                {
                    await store.RemoveAsync(id, stop);
                    return TypedResults.NoContent();
                }
            )
            .WithSummary("Takes an image off the shelf, with its file")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapMethods(
                "/api/images/{id:int}/content",
                ["HEAD"],
                async (int id, ImageStore store, HttpContext context, CancellationToken stop) =>
                {
                    var image = await store.GetAsync(id, stop);
                    context.Response.Headers["Upload-Offset"] = image.Received.ToString(CultureInfo.InvariantCulture);
                    context.Response.Headers["Upload-Length"] = image.SizeBytes.ToString(CultureInfo.InvariantCulture);
                    context.Response.Headers["Upload-Complete"] = image.Sha256 is null ? "?0" : "?1";
                    return TypedResults.Ok();
                }
            )
            .WithSummary("How much of an image is here: headers Upload-Offset, Upload-Length and Upload-Complete")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut("/api/images/{id:int}/content", PutAsync)
            .WithMetadata(new OnlyReads(), new DisableRequestSizeLimitAttribute())
            .TakesBody(
                "application/octet-stream",
                "Bytes of the image from the offset that Content-Range names, or all of it without one."
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

        app.MapGet(
                "/api/images/{id:int}/inspection",
                async (int id, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
                    shelf.Look(await store.GetWholeAsync(id, stop)).Inspection
            )
            .WithSummary("What is on an image, and how it starts")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/images/{id:int}/tree",
                async (int id, string? path, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
                {
                    var tree = shelf.Tree(await store.GetWholeAsync(id, stop));
                    var folder = path?.Trim('/') ?? "";
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
            )
            .WithSummary("A folder of an image")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/images/{id:int}/file",
                async (int id, string path, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
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
                        Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes)),
                        bytes.Length <= 256 << 10 && !bytes.AsSpan().Contains((byte)0)
                            ? System.Text.Encoding.UTF8.GetString(bytes)
                            : null
                    );
                }
            )
            .WithSummary("A file of an image, with its text where it is one")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost("/api/images/{id:int}/patch", PatchAsync)
            .WithSummary("What a recipe changes on an image (dryRun), or the job that makes the new image")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapPost(
                "/api/images/{id:int}/patch/preview",
                (
                    int id,
                    PatchIn patch,
                    ImageStore store,
                    ImageShelf shelf,
                    RecipeBook recipes,
                    CancellationToken stop
                ) => PreviewAsync(id, patch, store, shelf, recipes, stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("What a recipe or a draft would change on an image; nothing is made")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/images/{id:int}/undo",
                async (int id, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
                    await OneAsync((await store.UndoAsync(id, stop)).Id, store, shelf, stop)
            )
            .WithSummary("Takes a patch back: the patched image is given up, and the one it came from is answered")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost("/api/images/{id:int}/twin", TwinAsync)
            .WithSummary("Starts an image in an emulated twin of a machine")
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet("/api/machines/{tag}/images", OnMachineAsync)
            .WithSummary("The images held against a machine: what starts, from which port, by which key and entry")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static async Task<ImagesSheet> ListAsync(
        ImageStore store,
        ImageShelf shelf,
        DataFolder folder,
        CancellationToken stop
    )
    {
        var images = await store.ListAsync(stop);
        var checksums = await store.ChecksumsAsync(images, stop);
        List<string> install = [];
        if (!ImageRewriter.IsInstalled)
            install.Add("xorriso");
        foreach (var firmware in (string[])["bios", "uefi64"])
            if (Emulator.Missing(firmware) is { } package && !install.Contains(package))
                install.Add(package);
        return new ImagesSheet(
            [.. images.Where(i => !i.Undone).Select(i => Sheet(i, checksums[i.Id], store, shelf))],
            folder.Images,
            [.. store.Unnamed().Select(f => new FolderFile(f.Name, f.SizeBytes))],
            folder.FreeBytes,
            install
        );
    }

    private static async Task<ImageSheet> OneAsync(int id, ImageStore store, ImageShelf shelf, CancellationToken stop)
    {
        var image = await store.GetAsync(id, stop);
        return Sheet(image, (await store.ChecksumsAsync([image], stop))[id], store, shelf);
    }

    private static ImageSheet Sheet(StoredImage image, ChecksumSays checksum, ImageStore store, ImageShelf shelf)
    {
        var seen = image.Whole && File.Exists(store.PathOf(image.Id)) ? shelf.Look(image).Inspection : null;
        return new ImageSheet(
            image,
            checksum,
            seen?.Starts,
            seen?.LargestFile,
            image.Manifest is null
                ? null
                : JsonSerializer.Deserialize<PatchManifest>(image.Manifest, JsonSerializerOptions.Web)
        );
    }

    private static ImageEntry Checked(ImageIn image, long size, Shop shop)
    {
        var name = Path.GetFileName(Given.Text(image.Name, "name", 200).Replace('\\', '/'));
        if (image.System is { } system && shop.Catalogue.System(system) is null)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no system “{system}” in the catalogue.",
                "system",
                "An id from /api/systems, or none."
            );
        return new ImageEntry(
            Given.Text(name, "name", 200),
            image.System,
            size,
            string.IsNullOrWhiteSpace(image.Build) ? null : Given.Text(image.Build, "build", 40),
            string.IsNullOrWhiteSpace(image.From) ? "" : Given.Text(image.From, "from", 200),
            JsonNamingPolicy.CamelCase.ConvertName(image.Trust.ToString()),
            image.Notes.Length > 2000
                ? throw new RefusedException(
                    RefusalKind.Invalid,
                    "The notes are too long.",
                    "notes",
                    "At most 2,000 characters."
                )
                : image.Notes,
            Given.Text(image.By, "by", 60)
        );
    }

    private static async Task<IResult> AddAsync(
        ImageIn image,
        ImageStore store,
        ImageShelf shelf,
        JobRunner jobs,
        Shop shop,
        CancellationToken stop
    )
    {
        if (image.File is { } named)
        {
            var path = store.Named(named);
            var known = Checked(image, 0, shop);
            var job = await jobs.BeginAsync(
                "take",
                $"Take {known.Name} onto the shelf",
                known.By,
                async (working, running) =>
                {
                    var taken = await store.TakeFileAsync(
                        path,
                        known,
                        null,
                        null,
                        copy: false,
                        p => working.Progress(p, "Its checksum is worked out."),
                        running
                    );
                    return ($"{taken.Name} is on the shelf.", new JobResult(ImageId: taken.Id));
                },
                stop: stop
            );
            return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
        }
        var stored = await store.AnnounceAsync(Checked(image, image.SizeBytes, shop), stop);
        return TypedResults.Created($"/api/images/{stored.Id}", await OneAsync(stored.Id, store, shelf, stop));
    }

    private static async Task<ImageSheet> FormAsync(
        IFormFile file,
        [FromForm] string? system,
        [FromForm] string? build,
        [FromForm] string? from,
        [FromForm] string? by,
        ImageStore store,
        ImageShelf shelf,
        Shop shop,
        CancellationToken stop
    )
    {
        var known = Checked(
            new ImageIn(
                file.FileName,
                string.IsNullOrEmpty(system) ? null : system,
                file.Length,
                null,
                build,
                from ?? "",
                By: by ?? "nobody"
            ),
            file.Length,
            shop
        );
        var stored = await store.AnnounceAsync(known, stop);
        try
        {
            await using var content = file.OpenReadStream();
            stored = await store.TakeAsync(stored.Id, 0, content, stop);
        }
        catch
        {
            // Nobody knows the id of a form that failed: nothing of it stays.
            await store.RemoveAsync(stored.Id, CancellationToken.None);
            throw;
        }
        return await OneAsync(stored.Id, store, shelf, stop);
    }

    private static async Task<ImageSheet> PutAsync(
        int id,
        HttpRequest request,
        ImageStore store,
        ImageShelf shelf,
        Changes changes,
        CancellationToken stop
    )
    {
        // A line of the workshop may be slow: what counts is that bytes come at all.
        if (
            request.HttpContext.Features.Get<IHttpBodyControlFeature>() is not null
            && request.HttpContext.Features.Get<Microsoft.AspNetCore.Server.Kestrel.Core.Features.IHttpMinRequestBodyDataRateFeature>()
                is { } rate
        )
            rate.MinDataRate = null;
        long offset = 0;
        if (request.Headers.ContentRange.ToString() is { Length: > 0 } text)
        {
            var image = await store.GetAsync(id, stop);
            if (
                !System.Net.Http.Headers.ContentRangeHeaderValue.TryParse(text, out var range)
                || range is not { Unit: "bytes", From: { } start }
                || range.Length is { } length && length != image.SizeBytes
            )
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{text}” is no range of this image.",
                    "Content-Range",
                    $"bytes {image.Received}-…/{image.SizeBytes}"
                );
            offset = start;
        }
        var stored = await store.TakeAsync(id, offset, request.Body, stop);
        if (stored.Sha256 is not null)
            changes.Tell("all", "");
        return await OneAsync(stored.Id, store, shelf, stop);
    }

    private static async Task<(
        StoredRecipe Recipe,
        StoredImage Image,
        PatchOutcome Outcome,
        string? Obstacle
    )> WorkOutAsync(
        int id,
        PatchIn patch,
        ImageStore store,
        ImageShelf shelf,
        RecipeBook recipes,
        CancellationToken stop
    )
    {
        var image = await store.GetWholeAsync(id, stop);
        var stored = patch.Draft is { } draft
            ? new StoredRecipe(-1, RecipeReader.Read(draft), patch.By, null)
            : await recipes.GetAsync(
                patch.Recipe
                    ?? throw new RefusedException(
                        RefusalKind.Invalid,
                        "There is no recipe.",
                        "recipe",
                        "An id from /api/recipes, or a draft."
                    ),
                stop
            );
        if (stored.Recipe.Acts != PatchPlace.Image)
            throw new RefusedException(
                RefusalKind.Conflict,
                "This recipe acts in a running system, not on the image.",
                "recipe",
                $"Its script: /api/recipes/{stored.Recipe.Id}/script"
            );
        Patcher.CheckFor(stored.Recipe, image.System, image.Build);
        var tree = shelf.Tree(image);
        await using var file = shelf.Open(image);
        var outcome = Patcher.Run(stored.Recipe, PatchFiles.On(file, tree));
        return (stored, image, outcome, ImageRewriter.Obstacle(shelf.Look(image)));
    }

    private static async Task<PatchAnswer> PreviewAsync(
        int id,
        PatchIn patch,
        ImageStore store,
        ImageShelf shelf,
        RecipeBook recipes,
        CancellationToken stop
    )
    {
        var (_, image, outcome, obstacle) = await WorkOutAsync(id, patch, store, shelf, recipes, stop);
        return new PatchAnswer(
            outcome.AlreadyApplied,
            outcome.Files,
            obstacle is null ? "rewrite" : "stick",
            Because(obstacle, shelf.Look(image)),
            null
        );
    }

    /// <summary>Why a stick image is made instead of a new image.</summary>
    /// <exception cref="RefusedException">Neither can be made; said before anything is.</exception>
    private static string? Because(string? obstacle, InspectedImage seen)
    {
        if (obstacle is null)
            return null;
        return seen.Main?.Find("EFI/BOOT/BOOTX64.EFI") is not null
            ? $"{obstacle} It is made as a stick image by file copy, which starts by UEFI."
            : throw new RefusedException(
                RefusalKind.Conflict,
                $"{obstacle} It has no UEFI loader among its files either, so that a file copy would not start.",
                "image",
                "An image with ISO 9660 whose tables can be written again."
            );
    }

    private static async Task<PatchAnswer> PatchAsync(
        int id,
        PatchIn patch,
        bool? dryRun,
        ImageStore store,
        ImageShelf shelf,
        RecipeBook recipes,
        JobRunner jobs,
        TimeProvider clock,
        CancellationToken stop
    )
    {
        if (dryRun == true)
            return await PreviewAsync(id, patch, store, shelf, recipes, stop);
        if (patch.Draft is not null)
            throw new RefusedException(
                RefusalKind.Invalid,
                "A draft cannot be applied: nobody could say later what was done.",
                "draft",
                "Save the recipe first."
            );
        var (recipe, image, outcome, obstacle) = await WorkOutAsync(id, patch, store, shelf, recipes, stop);
        var seen = shelf.Look(image);
        var because = Because(obstacle, seen);
        var method = obstacle is null ? "rewrite" : "stick";
        if (outcome.AlreadyApplied)
            return new PatchAnswer(true, [], method, because, null);
        if (obstacle is null && !ImageRewriter.IsInstalled)
            throw new RefusedException(
                RefusalKind.Missing,
                "The writer of images is not installed.",
                "xorriso",
                "apt-get install xorriso, or ./demo.sh, which does."
            );
        store.CheckRoom(image.SizeBytes + outcome.Files.Sum(f => f.NewSizeBytes) + (64L << 20));
        var by = Given.Text(patch.By, "by", 60);
        var manifest = new PatchManifest(
            recipe.Recipe.Id,
            recipe.Version,
            image.Sha256!,
            by,
            clock.GetUtcNow(),
            [.. outcome.Files.Select(f => new PatchedFile(f.Path, f.Change, f.OldSha256, f.NewSha256))]
        );
        var job = await jobs.BeginAsync(
            "patch",
            $"{recipe.Recipe.Name}: {image.Name}",
            by,
            (working, running) => MakeAsync(working, image, seen, recipe, outcome, method, manifest, store, running),
            image: id,
            stop: stop
        );
        return new PatchAnswer(false, outcome.Files, method, because, job);
    }

    private static async Task<(string, JobResult)> MakeAsync(
        JobRunner.Working working,
        StoredImage image,
        InspectedImage seen,
        StoredRecipe recipe,
        PatchOutcome outcome,
        string method,
        PatchManifest manifest,
        ImageStore store,
        CancellationToken stop
    )
    {
        // Beside the images, so that the finished file only has to be renamed.
        var target = store.PathOf(image.Id) + $".{Guid.NewGuid():N}.part";
        try
        {
            working.Progress(0.05, "The new image is written.");
            if (method == "rewrite")
                await ImageRewriter.WriteAsync(store.PathOf(image.Id), target, outcome.Files, stop);
            else
                PatchedStick.Write(
                    store.PathOf(image.Id),
                    seen,
                    outcome.Files,
                    target,
                    p => working.Progress(0.05 + p / 2, "The files are copied."),
                    stop
                );
            working.Progress(0.6, "It is looked into again.");
            await using (var file = File.OpenRead(target))
                PatchedStick.Prove(seen, ImageInspector.Look(file), file, outcome.Files, method);
            var stem = Path.GetFileNameWithoutExtension(image.Name);
            var made = await store.TakeFileAsync(
                target,
                new ImageEntry(
                    $"{stem}-{recipe.Recipe.Id.Replace($"{image.System}-", "", StringComparison.Ordinal)}{(method == "rewrite" ? Path.GetExtension(image.Name) : ".img")}",
                    image.System,
                    0,
                    image.Build,
                    $"{image.Name}, patched here",
                    "own",
                    $"{recipe.Recipe.Name}.",
                    manifest.By
                ),
                image.Id,
                JsonSerializer.Serialize(manifest, JsonSerializerOptions.Web),
                copy: false,
                p => working.Progress(0.7 + p * 0.3, "Its checksum is worked out."),
                stop
            );
            return (
                $"{made.Name} is on the shelf; it starts in every way that it did.",
                new JobResult(ImageId: made.Id)
            );
        }
        finally
        {
            File.Delete(target);
        }
    }

    private static async Task<IResult> TwinAsync(
        int id,
        TwinIn twin,
        ImageStore store,
        MachineStore machines,
        Shop shop,
        JobRunner jobs,
        DataFolder folder,
        CancellationToken stop
    )
    {
        var image = await store.GetWholeAsync(id, stop);
        var tag = Given.Tag(twin.Tag, "tag");
        if (twin.As is not ("disc" or "stick"))
            throw new RefusedException(RefusalKind.Invalid, $"“{twin.As}” is no medium.", "as", "“disc” or “stick”.");
        if (twin.Firmware is not (null or "bios" or "uefi64" or "uefi32"))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{twin.Firmware}” is no kind of firmware.",
                "firmware",
                "“bios”, “uefi64” or “uefi32”."
            );
        if (twin.LimitSeconds is < 5 or > 600)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The limit is {twin.LimitSeconds} seconds.",
                "limitSeconds",
                "5 to 600."
            );
        var machine = await machines.GetAsync(tag, stop);
        IdentityProfile? identity = null;
        if (twin.Identity is { } donorId)
        {
            var donor =
                shop.Catalogue.Donors.FirstOrDefault(d => d.Id == donorId)
                ?? throw new RefusedException(
                    RefusalKind.Invalid,
                    $"There is no donor model “{donorId}”.",
                    "identity",
                    "An id of a donor in the catalogue."
                );
            identity = IdentityProfile.Fresh(donor, tag, new HashSet<string>(StringComparer.Ordinal));
        }
        var setUp = TwinMachine.Of(shop.Dossier(machine), twin.Firmware, identity);
        if (Emulator.Missing(setUp.Firmware) is { } package)
            throw new RefusedException(
                RefusalKind.Missing,
                $"Starts by {setUp.Firmware} need the Debian package {package}.",
                package,
                $"apt-get install {package}, or ./demo.sh, which does."
            );
        var says = image.System is null ? null : shop.Catalogue.System(image.System)?.Installer?.Says;
        var job = await jobs.BeginAsync(
            "twin",
            $"Start {image.Name} as a {twin.As} on the twin of {tag}",
            Given.Text(twin.By, "by", 60),
            async (working, running) =>
            {
                var pictures = Directory.CreateDirectory(Path.Combine(folder.Jobs, $"{working.Row.Id}")).FullName;
                working.Progress(0.02, $"The twin starts by {(setUp.Firmware == "bios" ? "BIOS" : "UEFI")}.");
                IReadOnlyList<string> Urls(IReadOnlyList<string> names) =>
                    [.. names.Select((_, i) => $"/api/jobs/{working.Row.Id}/screens/{i}")];
                var start = await Emulator.StartAsync(
                    store.PathOf(id),
                    twin.As == "stick",
                    setUp,
                    says,
                    pictures,
                    TimeSpan.FromSeconds(twin.LimitSeconds),
                    screens =>
                        working.Show(
                            new JobResult(
                                Screens: Urls(screens),
                                StartedAs: twin.As,
                                Firmware: setUp.Firmware,
                                Differs: setUp.Differs
                            )
                        ),
                    running
                );
                return (
                    start.Verdict.Why,
                    new JobResult(
                        Verdict: start.Verdict.Verdict,
                        Why: start.Verdict.Why,
                        Text: start.Text,
                        Screens: Urls(start.Screens),
                        StartedAs: twin.As,
                        Firmware: setUp.Firmware,
                        Differs: setUp.Differs,
                        Seconds: Math.Round(start.Seconds, 1)
                    )
                );
            },
            tag: tag,
            image: id,
            stop: stop
        );
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
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
        var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
        var standing = shop.Stand(machine);
        var maker = shop.Catalogue.Maker(standing.Dossier.Word("identity.maker"));
        var proofs = (await jobs.ListAsync("twin", null, machine.Tag, null, 200, stop)).ToLookup(j => j.ImageId);
        return
        [
            .. (await store.ListAsync(stop))
                .Where(i => i.Whole && File.Exists(store.PathOf(i.Id)))
                .Select(i => new ImageOnMachine(
                    i,
                    i.System is not null && i.System == standing.Aim.System,
                    StartOn.Ways(shelf.Look(i).Inspection, standing.Dossier, maker),
                    [.. proofs[i.Id].DistinctBy(j => (j.Result?.StartedAs, j.Result?.Firmware)).Take(6)]
                ))
                .OrderByDescending(i => i.ForAim)
                .ThenBy(i => i.Ways.Any(w => w.Can == true) ? 0 : 1),
        ];
    }
}
