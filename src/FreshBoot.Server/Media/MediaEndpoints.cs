using System.Security.Cryptography;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Media;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Media;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Images;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Media;

namespace FreshBoot.Server.Media;

/// <summary>A medium that goes onto the shelf.</summary>
/// <param name="Label">What is written on it.</param>
/// <param name="Kind">What it is.</param>
/// <param name="SizeBytes">Size that it claims; of discs their type counts, of a file what is written to it.</param>
/// <param name="UsbGeneration">USB generation: 1, 2, 3.</param>
/// <param name="WriteBytesPerSecond">How fast it writes.</param>
/// <param name="ReadBytesPerSecond">How fast it reads.</param>
/// <param name="Faults">What is wrong with it, as a simulated one.</param>
internal sealed record MediumIn(
    string Label,
    MediumKind Kind,
    long SizeBytes,
    int UsbGeneration = 3,
    long WriteBytesPerSecond = 20_000_000,
    long ReadBytesPerSecond = 90_000_000,
    StickFaults? Faults = null
);

/// <summary>A medium on the shelf.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Label">What is written on it.</param>
/// <param name="Kind">What it is.</param>
/// <param name="SizeBytes">Size that it claims.</param>
/// <param name="TrueBytes">Size that a test found; null while none was made.</param>
/// <param name="UsbGeneration">USB generation.</param>
/// <param name="WriteBytesPerSecond">How fast it writes.</param>
/// <param name="ReadBytesPerSecond">How fast it reads.</param>
/// <param name="State"><c>blank</c>, <c>writing</c>, <c>ready</c> or <c>unusable</c>.</param>
/// <param name="Says">Why.</param>
/// <param name="ImageId">The image on it.</param>
/// <param name="ImageName">Its name.</param>
/// <param name="VerifiedAt">When it was read back and found right.</param>
/// <param name="Job">The work under way on it; null for none.</param>
internal sealed record MediumSheet(
    int Id,
    string Label,
    MediumKind Kind,
    long SizeBytes,
    long? TrueBytes,
    int UsbGeneration,
    long WriteBytesPerSecond,
    long ReadBytesPerSecond,
    string State,
    string Says,
    int? ImageId,
    string? ImageName,
    DateTimeOffset? VerifiedAt,
    JobSheet? Job
);

/// <summary>What a plan is made for.</summary>
/// <param name="ImageId">The image.</param>
/// <param name="Tags">The machines that it is to serve; empty for any of 64-bit UEFI and BIOS that the image starts.</param>
/// <param name="LineBytesPerSecond">Speed of the line; 0 where the image is here.</param>
/// <param name="Port">USB generation of the port here; 3 if nothing is said.</param>
internal sealed record PlanIn(
    int ImageId,
    IReadOnlyList<string>? Tags = null,
    long LineBytesPerSecond = 0,
    int Port = 3
);

/// <summary>What is to be written.</summary>
/// <param name="ImageId">The image.</param>
/// <param name="Label">The label of the medium, typed by whoever erases it.</param>
/// <param name="By">Who writes it.</param>
/// <param name="Tags">The machines that it is to serve.</param>
/// <param name="Port">USB generation of the port here.</param>
internal sealed record WriteIn(int ImageId, string Label, string By, IReadOnlyList<string>? Tags = null, int Port = 3);

/// <summary>A test of a medium, which erases it.</summary>
/// <param name="Label">The label of the medium, typed by whoever erases it.</param>
/// <param name="By">Who tests it.</param>
internal sealed record CapacityIn(string Label, string By);

internal static class MediaEndpoints
{
    public static void MapMedia(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/media",
                async (MediumStore store, ImageStore images, JobRunner jobs, CancellationToken stop) =>
                {
                    var names = (await images.ListAsync(stop)).ToDictionary(i => i.Id, i => i.Name);
                    var work = (await jobs.ListAsync(null, null, null, null, 200, stop))
                        .Where(j => j.MediumId is not null && j.State is "queued" or "running")
                        .ToLookup(j => j.MediumId);
                    return (await store.ListAsync(stop))
                        .Select(m => Sheet(m, names, work[m.Id].FirstOrDefault()))
                        .ToList();
                }
            )
            .WithSummary("The shelf of sticks, cards and discs");

        app.MapPost("/api/media", AddAsync)
            .WithSummary("Puts a medium on the shelf: a simulated one, or an image file for download")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost(
                "/api/media/{id:int}/plan",
                async (int id, PlanIn plan, Parts parts, CancellationToken stop) =>
                    (await PlanAsync(id, plan.ImageId, plan.Tags, plan.LineBytesPerSecond, plan.Port, parts, stop)).Plan
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("How an image goes onto a medium for some machines, why so, and how long it takes")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPost("/api/media/{id:int}/write", WriteAsync)
            .WithSummary("Erases a medium, writes an image onto it and reads it back; its label must be typed")
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);

        app.MapPost("/api/media/{id:int}/test-capacity", TestAsync)
            .WithSummary("Finds the true size of a medium by stamped blocks; it erases it, so its label must be typed")
            .Produces<JobSheet>(StatusCodes.Status202Accepted)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/media/{id:int}/content",
                async (int id, MediumStore store, CancellationToken stop) =>
                {
                    var medium = await store.GetAsync(id, stop);
                    if (medium.Kind != nameof(MediumKind.File))
                        throw new RefusedException(
                            RefusalKind.Conflict,
                            "Only image files are downloaded.",
                            "id",
                            "A medium of the kind “file”."
                        );
                    if (medium.State != "ready" || !File.Exists(store.PathOf(id)))
                        throw new RefusedException(
                            RefusalKind.Conflict,
                            $"There is nothing whole to download: {medium.Says}",
                            "id",
                            "Write it, to the end."
                        );
                    return Results.File(
                        store.PathOf(id),
                        "application/octet-stream",
                        $"{medium.Label}.img",
                        enableRangeProcessing: true
                    );
                }
            )
            .WithSummary("An image file that was written and found right")
            .Produces<byte[]>(contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    /// <summary>What the endpoints of media need.</summary>
    internal sealed class Parts(
        MediumStore media,
        ImageStore images,
        ImageShelf shelf,
        MachineStore machines,
        Shop shop,
        JobRunner jobs
    )
    {
        public MediumStore Media { get; } = media;
        public ImageStore Images { get; } = images;
        public ImageShelf Shelf { get; } = shelf;
        public MachineStore Machines { get; } = machines;
        public Shop Shop { get; } = shop;
        public JobRunner Jobs { get; } = jobs;
    }

    internal static async Task<MediumSheet> AddAsync(
        MediumIn medium,
        MediumStore store,
        TimeProvider clock,
        CancellationToken stop
    )
    {
        var size =
            MediumFacts.DiscBytes(medium.Kind) is > 0 and var disc ? disc
            : medium.Kind == MediumKind.File ? 0
            : medium.SizeBytes;
        if (medium.Kind is MediumKind.Stick or MediumKind.Card && size is < (8 << 20) or > 1L << 42)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The size is {size} bytes.",
                "sizeBytes",
                "8 MiB to 4 TiB."
            );
        if (medium.UsbGeneration is < 1 or > 3)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no USB {medium.UsbGeneration} here.",
                "usbGeneration",
                "1, 2 or 3."
            );
        if (medium.WriteBytesPerSecond < 1 || medium.ReadBytesPerSecond < 1)
            throw new RefusedException(
                RefusalKind.Invalid,
                "A speed is below one byte a second.",
                "writeBytesPerSecond",
                "Bytes a second."
            );
        var row = await store.AddAsync(
            new MediumRow
            {
                Label = Given.Text(medium.Label, "label", 40),
                Kind = medium.Kind.ToString(),
                SizeBytes = size,
                UsbGeneration = medium.UsbGeneration,
                WriteBytesPerSecond = medium.WriteBytesPerSecond,
                ReadBytesPerSecond = medium.ReadBytesPerSecond,
                State = "blank",
                Says = "Nothing is on it that was written here.",
                Faults = JsonSerializer.Serialize(medium.Faults ?? new StickFaults(), JsonSerializerOptions.Web),
                At = clock.GetUtcNow(),
            },
            stop
        );
        return Sheet(row, new Dictionary<int, string>(), null);
    }

    private static MediumSheet Sheet(MediumRow m, Dictionary<int, string> names, JobSheet? job) =>
        new(
            m.Id,
            m.Label,
            Enum.Parse<MediumKind>(m.Kind),
            m.SizeBytes,
            m.TrueBytes,
            m.UsbGeneration,
            m.WriteBytesPerSecond,
            m.ReadBytesPerSecond,
            m.State,
            m.Says,
            m.ImageId,
            m.ImageId is { } id ? names.GetValueOrDefault(id) : null,
            m.VerifiedAt,
            job
        );

    private static async Task<(WritePlan Plan, StoredImage Image, MediumRow Medium, InspectedImage Seen)> PlanAsync(
        int id,
        int imageId,
        IReadOnlyList<string>? tags,
        long line,
        int port,
        Parts parts,
        CancellationToken stop
    )
    {
        if (port is < 1 or > 3 || line < 0)
            throw new RefusedException(
                RefusalKind.Invalid,
                "Port or line makes no sense.",
                "port",
                "A port of USB 1, 2 or 3; a line of 0 or more bytes a second."
            );
        var medium = await parts.Media.GetAsync(id, stop);
        var image = await parts.Images.GetWholeAsync(imageId, stop);
        var seen = parts.Shelf.Look(image);
        var firmware = new SortedSet<string>(StringComparer.Ordinal);
        string? reads = null;
        foreach (var text in tags ?? [])
        {
            var facts = parts.Shop.Dossier(await parts.Machines.GetAsync(Given.Tag(text, "tags"), stop));
            // A locked one starts by UEFI when its firmware has been replaced; of an unknown one the image decides.
            var ways = FirmwareWays.Of(facts);
            if ((ways.Now ?? (ways.WhyNone is null ? null : "uefi64")) is { } way)
                firmware.Add(way);
            // Of several machines the weakest drive decides.
            reads = facts.Word("optical.reads") switch
            {
                "none" => "",
                "cd" when reads is not "" => "cd",
                "dvd" when reads is null => "dvd",
                _ => reads,
            };
        }
        if (firmware.Count == 0)
        {
            // For nobody in particular: what the image starts by at all.
            if (
                seen.Inspection.Starts.Uefi64Stick.Can
                || seen.Inspection.Starts.Uefi64Disc.Can
                || !seen.Inspection.Starts.BiosStick.Can
            )
                firmware.Add("uefi64");
            if (seen.Inspection.Starts.BiosStick.Can)
                firmware.Add("bios");
        }
        var rule = image.System is null
            ? LargeFiles.Whole
            : parts.Shop.Catalogue.System(image.System)?.Installer?.LargeFiles ?? LargeFiles.Whole;
        var plan = WritePlan.Make(
            seen,
            new MediumFacts(
                Enum.Parse<MediumKind>(medium.Kind),
                Math.Min(medium.SizeBytes, medium.TrueBytes ?? medium.SizeBytes),
                medium.UsbGeneration,
                medium.WriteBytesPerSecond,
                medium.ReadBytesPerSecond
            ),
            new WriteWish([.. firmware], rule, port, reads, line, Math.Max(1, tags?.Count ?? 1))
        );
        return (plan, image, medium, seen);
    }

    private static async Task<IResult> WriteAsync(int id, WriteIn write, Parts parts, CancellationToken stop)
    {
        var (plan, image, medium, seen) = await PlanAsync(id, write.ImageId, write.Tags, 0, write.Port, parts, stop);
        CheckLabel(write.Label, medium);
        var by = Given.Text(write.By, "by", 60);
        if (plan.Method == CopyMethod.None || !plan.Fits)
            throw new RefusedException(RefusalKind.Conflict, plan.Why, "medium", "Another medium, or another image.");
        if (medium is { TrueBytes: { } found } && found < medium.SizeBytes)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"This medium lies about its size: it has {found} bytes. It is not written.",
                "medium",
                "Another medium."
            );
        var isFile = medium.Kind == nameof(MediumKind.File);
        parts.Images.CheckRoom(plan.NeededBytes);
        // What it says is true from here on, whatever happens to this server.
        await parts.Media.BeginAsync(id, $"{image.Name} is being written: not to be used.", image.Id, stop);
        var job = await parts.Jobs.BeginAsync(
            "write",
            $"Write {image.Name} onto {medium.Label}",
            by,
            async (working, running) =>
            {
                var path = parts.Media.PathOf(id);
                var part = isFile ? path + ".part" : path;
                var begun = DateTime.UtcNow;
                try
                {
                    if (isFile)
                        File.Delete(path);
                    await using var file = parts.Shelf.Open(image);
                    using (
                        IBlockDevice target = isFile
                            ? new FileMedium(part, plan.NeededBytes)
                            : Plug(medium, parts.Media)
                    )
                    {
                        MediumWriter.Write(
                            file,
                            seen,
                            plan,
                            target,
                            p => working.Progress(p * 0.6, "It is written."),
                            running
                        );
                        working.Progress(0.6, "It is read back.");
                        if (
                            MediumWriter.Verify(
                                file,
                                seen,
                                plan,
                                target,
                                p => working.Progress(0.6 + p * 0.4, "It is read back."),
                                running
                            ) is
                            { } wrong
                        )
                            throw new IOException($"Read back, {wrong}. Test its capacity.");
                    }
                    if (isFile)
                        File.Move(part, path, overwrite: true);
                }
                finally
                {
                    if (isFile)
                        File.Delete(part);
                }
                await parts.Media.SayAsync(
                    id,
                    "ready",
                    $"{image.Name}, read back and found right.",
                    image.Id,
                    verified: true
                );
                return (
                    $"{medium.Label} is ready: written, read back and found right.",
                    new JobResult(ImageId: image.Id, Seconds: Math.Round((DateTime.UtcNow - begun).TotalSeconds, 1))
                );
            },
            image: image.Id,
            medium: id,
            broken: why =>
                parts.Media.SayAsync(
                    id,
                    "unusable",
                    $"{why} It is not whole until it is written again.",
                    null,
                    verified: false
                ),
            stop: CancellationToken.None
        );
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static async Task<IResult> TestAsync(int id, CapacityIn test, Parts parts, CancellationToken stop)
    {
        var medium = await parts.Media.GetAsync(id, stop);
        CheckLabel(test.Label, medium);
        if (medium.Kind is not (nameof(MediumKind.Stick) or nameof(MediumKind.Card)))
            throw new RefusedException(
                RefusalKind.Conflict,
                "Discs and files are as large as they are.",
                "id",
                "A stick or a card."
            );
        await parts.Media.BeginAsync(id, "Its capacity is being tested: nothing is on it.", null, stop);
        var job = await parts.Jobs.BeginAsync(
            "capacity",
            $"Test the capacity of {medium.Label}",
            Given.Text(test.By, "by", 60),
            async (working, running) =>
            {
                using var stick = Plug(medium, parts.Media);
                // Some thousands of stamps: enough to find the size to a small part, few enough not to take a night.
                var step = Math.Max(
                    CapacityTest.Block,
                    (medium.SizeBytes / 4096 + CapacityTest.Block - 1) / CapacityTest.Block * CapacityTest.Block
                );
                step = Math.Min(step, 1 << 20);
                var found = CapacityTest.Run(
                    stick,
                    step,
                    BitConverter.ToUInt64(RandomNumberGenerator.GetBytes(8)),
                    p => working.Progress(p, p < 0.5 ? "Stamps are written." : "Stamps are read back."),
                    running
                );
                var sound = found.Manner == "sound";
                await parts.Media.MeasuredAsync(id, found.TrueBytes, sound ? "blank" : "unusable", found.Says);
                return (found.Says, new JobResult(Capacity: found));
            },
            medium: id,
            broken: why =>
                parts.Media.SayAsync(id, "unusable", $"{why} The test erased what was on it.", null, verified: false),
            stop: CancellationToken.None
        );
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static SimulatedStick Plug(MediumRow medium, MediumStore store) =>
        new(
            store.PathOf(medium.Id),
            medium.SizeBytes,
            JsonSerializer.Deserialize<StickFaults>(medium.Faults, JsonSerializerOptions.Web)!
        );

    private static void CheckLabel(string typed, MediumRow medium)
    {
        if (typed.Trim() != medium.Label)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{typed}” is not the label of this medium.",
                "label",
                "The label as it stands on the medium: everything on it is erased."
            );
    }
}
