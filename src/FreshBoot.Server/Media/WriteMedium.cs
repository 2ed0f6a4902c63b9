using System.Collections.Concurrent;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Media;
using FreshBoot.Core.Preparation;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Images;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Media;

namespace FreshBoot.Server.Media;

/// <summary>Plans how an image gets onto a medium for some machines, writes it and reads it back.</summary>
internal sealed class WriteMedium(
    MediumStore media,
    ImageStore images,
    ImageShelf shelf,
    MachineStore machines,
    Shop shop,
    JobRunner jobs,
    DataFolder folder
)
{
    /// <summary>
    /// Looks what is on a medium whose record is a back-up's: reads it back and compares it with the image that the record names, in every
    /// way in which that image could have been written.
    /// </summary>
    public async Task<JobSheet> LookAsync(int id, string by, CancellationToken stop)
    {
        by = Given.Text(by, "by", 60);
        var medium = await media.GetAsync(id, stop);
        if (medium.State != "unknown")
            throw new RefusedException(
                RefusalKind.Conflict,
                "What is on it is known.",
                "id",
                "A medium whose state is unknown."
            );
        if (medium.ImageId is not { } imageId)
            throw new RefusedException(
                RefusalKind.Conflict,
                "The record names no image to compare it with.",
                "id",
                "Write an image onto it."
            );
        var image = await images.GetWholeAsync(imageId, stop);
        return await jobs.BeginAsync(
            new JobWish(JobKind.Write, $"Look what is on {medium.Label}", by, null, imageId, id),
            async (working, running) =>
            {
                using var looking = Looking(id);
                string[][] ways =
                [
                    ["uefi64"],
                    ["bios"],
                    ["bios", "uefi64"],
                    ["uefi32"],
                ];
                using IBlockDevice? device = File.Exists(media.PathOf(id))
                    ? medium.Kind == nameof(MediumKind.File)
                        ? new FileMedium(media.PathOf(id), new FileInfo(media.PathOf(id)).Length)
                        : Plug(medium, media)
                    : null;
                if (device is null)
                    throw new IOException("The simulated medium is not on this computer. Write it again.");
                var seen = shelf.Look(image);
                foreach (var way in ways)
                {
                    running.ThrowIfCancellationRequested();
                    var plan = Plan(
                        seen,
                        medium,
                        image,
                        new SortedSet<string>(way, StringComparer.Ordinal),
                        null,
                        new PlanIn(imageId)
                    );
                    if (plan.Method == CopyMethod.None || !plan.Fits)
                        continue;
                    await using var file = shelf.Open(image);
                    if (
                        MediumWriter.Verify(file, seen, plan, device, p => working.Progress(p, "It is read."), running)
                        is null
                    )
                    {
                        await media.LookedAsync(medium, $"{image.Name}: looked at after the restore, read and equal.");
                        return ($"{medium.Label} holds {image.Name}: read and equal.", new JobResult(ImageId: imageId));
                    }
                }
                throw new IOException($"What is on it is not {image.Name} as this shop writes it. Write it again.");
            },
            stop: CancellationToken.None
        );
    }

    private readonly ConcurrentDictionary<int, int> _looking = new();

    /// <summary>Nothing is written onto a medium as long as somebody looks what is on it.</summary>
    private Over Looking(int id)
    {
        _looking.AddOrUpdate(id, 1, (_, n) => n + 1);
        return new Over(() => _looking.AddOrUpdate(id, 0, (_, n) => n - 1));
    }

    private sealed class Over(Action end) : IDisposable
    {
        public void Dispose() => end();
    }

    private sealed record Planned(WritePlan Plan, StoredImage Image, MediumRow Medium, InspectedImage Seen);

    /// <summary>How it would be written, why so, and how long it takes; nothing is written.</summary>
    public async Task<WritePlan> PlanAsync(int id, PlanIn wish, CancellationToken stop) =>
        (await WorkOutAsync(id, wish, stop)).Plan;

    /// <summary>Erases the medium, writes the image and reads it back, in the background.</summary>
    public async Task<JobSheet> DoAsync(int id, WriteIn write, CancellationToken stop)
    {
        var by = Given.Text(write.By, "by", 60);
        var planned = await WorkOutAsync(id, new PlanIn(write.ImageId, write.Tags, 0, write.Port), stop);
        var (plan, image, medium, _) = planned;
        CheckLabel(write.Label, medium);
        if (plan.Method == CopyMethod.None || !plan.Fits)
            throw new RefusedException(RefusalKind.Conflict, plan.Why, "medium", "Another medium, or another image.");
        if (medium is { TrueBytes: { } found } && found < medium.SizeBytes)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"This medium lies about its size: it has {found} bytes. It is not written.",
                "medium",
                "Another medium."
            );
        folder.CheckRoom(plan.NeededBytes);
        if (_looking.GetValueOrDefault(id) > 0)
            throw new RefusedException(
                RefusalKind.Conflict,
                "This medium is being read just now.",
                "id",
                "Wait for that, or cancel it."
            );
        // What it says is true from here on, whatever happens to this server.
        await media.BeginAsync(id, $"{image.Name} is being written: not to be used.", image.Id, stop);
        try
        {
            return await jobs.BeginAsync(
                new JobWish(JobKind.Write, $"Write {image.Name} onto {medium.Label}", by, null, image.Id, id),
                (working, running) => RunAsync(working, planned, running),
                why => BrokenAsync(id, $"{why} It is not whole until it is written again."),
                CancellationToken.None
            );
        }
        catch
        {
            await BrokenAsync(id, "The writing did not begin.");
            throw;
        }
    }

    private Task BrokenAsync(int id, string why) => media.SetAsync(id, "unusable", why, null, verified: false);

    private async Task<(string, JobResult)> RunAsync(JobRunner.Working working, Planned planned, CancellationToken stop)
    {
        var (plan, image, medium, seen) = planned;
        var isFile = medium.Kind == nameof(MediumKind.File);
        var path = media.PathOf(medium.Id);
        var part = isFile ? path + ".part" : path;
        var begun = DateTime.UtcNow;
        try
        {
            if (isFile)
                File.Delete(path);
            await using var file = shelf.Open(image);
            using (IBlockDevice target = isFile ? new FileMedium(part, plan.NeededBytes) : Plug(medium, media))
            {
                MediumWriter.Write(file, seen, plan, target, p => working.Progress(p * 0.6, "It is written."), stop);
                working.Progress(0.6, "It is read back.");
                if (
                    MediumWriter.Verify(
                        file,
                        seen,
                        plan,
                        target,
                        p => working.Progress(0.6 + p * 0.4, "It is read back."),
                        stop
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
        await media.SetAsync(
            medium.Id,
            "ready",
            $"{image.Name}: {(isFile ? "made" : "written")}, read back and equal.",
            image.Id,
            verified: true
        );
        return (
            isFile
                ? $"{medium.Label} is made: read back and equal. Download it, and copy it onto a stick."
                : $"{medium.Label} is written, read back and equal. {ShelfMedium.SimulatedSays}",
            new JobResult(ImageId: image.Id, Seconds: Math.Round((DateTime.UtcNow - begun).TotalSeconds, 1))
        );
    }

    private async Task<Planned> WorkOutAsync(int id, PlanIn wish, CancellationToken stop)
    {
        if (wish.Port is < 1 or > 3 || wish.LineBytesPerSecond < 0)
            throw new RefusedException(
                RefusalKind.Invalid,
                "Port or line makes no sense.",
                "port",
                "A port of USB 1, 2 or 3; a line of 0 or more bytes a second."
            );
        var medium = await media.GetAsync(id, stop);
        var image = await images.GetWholeAsync(wish.ImageId, stop);
        var seen = shelf.Look(image);
        var firmware = new SortedSet<string>(StringComparer.Ordinal);
        string? reads = null;
        foreach (var text in wish.Tags ?? [])
        {
            // As it is when it is started from this image: a locked one starts other systems once its chip was written.
            var facts = shop.Stand(await machines.GetAsync(Given.Tag(text, "tags"), stop))
                .AtInstaller(image.System, stop);
            if (FirmwareWays.Of(facts).Now is { } way)
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
        // A board starts from its card by no firmware: the image is the card.
        var board = image.System is { } name && shop.Catalogue.System(name) is { Class: SystemClass.SingleBoard };
        if (firmware.Count == 0 && !board)
        {
            // For nobody in particular: what the image starts by at all.
            var starts = seen.Inspection.Starts;
            if (starts.Uefi64Stick.Can || starts.Uefi64Disc.Can || !starts.BiosStick.Can)
                firmware.Add("uefi64");
            if (starts.BiosStick.Can)
                firmware.Add("bios");
        }
        return new Planned(Plan(seen, medium, image, firmware, reads, wish), image, medium, seen);
    }

    private WritePlan Plan(
        InspectedImage seen,
        MediumRow medium,
        StoredImage image,
        SortedSet<string> firmware,
        string? reads,
        PlanIn wish
    )
    {
        var rule = image.System is null
            ? LargeFiles.Whole
            : shop.Catalogue.System(image.System)?.Installer?.LargeFiles ?? LargeFiles.Whole;
        return WritePlan.Make(
            seen,
            new MediumFacts(
                Enum.Parse<MediumKind>(medium.Kind),
                Math.Min(medium.SizeBytes, medium.TrueBytes ?? medium.SizeBytes),
                medium.UsbGeneration,
                medium.WriteBytesPerSecond,
                medium.ReadBytesPerSecond
            ),
            new WriteWish(
                [.. firmware],
                rule,
                wish.Port,
                reads,
                wish.LineBytesPerSecond,
                Math.Max(1, wish.Tags?.Count ?? 1)
            )
        );
    }

    /// <summary>A simulated stick, with what is wrong with it.</summary>
    public static SimulatedStick Plug(MediumRow medium, MediumStore store) =>
        new(
            store.PathOf(medium.Id),
            medium.SizeBytes,
            JsonSerializer.Deserialize<StickFaults>(medium.Faults, JsonSerializerOptions.Web)!
        );

    /// <summary>Refuses to erase a medium whose label was not typed.</summary>
    public static void CheckLabel(string typed, MediumRow medium)
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
