using System.Security.Cryptography;
using System.Text.Json;
using FreshBoot.Core.BootKits;
using FreshBoot.Core.Images;
using FreshBoot.Core.Patching;
using FreshBoot.Data;
using FreshBoot.Data.BootKits;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Images;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.BootKits;
using FreshBoot.Workshop.Images;

namespace FreshBoot.Server.BootKits;

/// <summary>Onto which image a kit is put, and who asks.</summary>
/// <param name="ImageId">The installer's image.</param>
/// <param name="By">Who asks.</param>
internal sealed record PutKitIn(int ImageId, [property: Line(60)] string By = "nobody");

/// <summary>
/// Makes one stick image of an installer's image and a kit, as it is written and started: FAT with the installer's files, the kit, the kit's boot
/// manager where the firmware looks for a loader, and the installer's own loader behind it. It is read again and compared before it is kept.
/// </summary>
internal sealed class PutKit(
    KitStore kits,
    BuildKit build,
    ImageStore images,
    ImageUploads uploads,
    ImageShelf shelf,
    JobRunner jobs,
    DataFolder folder,
    TimeProvider clock
)
{
    /// <summary>Room beside the files for tables and the kit, in bytes.</summary>
    private const long Beside = 128L << 20;

    /// <summary>Begins it.</summary>
    /// <exception cref="RefusedException">The kit has faults, the image is another system's or starts by no UEFI, or a program is missing.</exception>
    public async Task<JobSheet> DoAsync(int id, PutKitIn wish, CancellationToken stop)
    {
        var by = Given.Text(wish.By, "by", 60);
        var row = await kits.GetAsync(id, stop);
        var sheet = await build.SheetAsync(row, stop);
        if (sheet.Findings.Count > 0)
            throw Refuse(
                $"Its check finds {Numbers.Count(sheet.Findings.Count, "fault", "faults")}.",
                "id",
                "A kit in which the check finds nothing."
            );
        var image = await images.GetWholeAsync(wish.ImageId, stop);
        if (image.System != row.System)
            throw Refuse(
                $"{image.Name} is not of the system that the kit is for.",
                "imageId",
                $"An image of {row.System ?? "the kit's system"}."
            );
        if (ImageShelf.ManifestOf(image) is { } manifest && KitFiles.IsApplied(manifest.RecipeId))
            throw Refuse(
                $"{image.Name} carries a kit already.",
                "imageId",
                "The image that it was made from, without one."
            );
        if (KitImage.Missing() is { } program)
            throw new RefusedException(
                RefusalKind.Missing,
                $"The program {program} is not installed.",
                program,
                "./demo.sh, which installs it."
            );
        var seen = shelf.Look(image);
        if (seen.Main is null || LoaderOf(seen) is null)
            throw Refuse(
                $"{image.Name} has no loader for 64-bit UEFI, which the kit hands over to.",
                "imageId",
                $"An image with {KitImage.BootManager}."
            );
        folder.CheckRoom(2 * image.SizeBytes + Beside);
        return await jobs.BeginAsync(
            new JobWish(JobKind.Patch, $"Kit {row.Id} onto {image.Name}", by, row.Tag, image.Id),
            (working, running) => MakeAsync(working, row, sheet, image, seen, by, running),
            stop: CancellationToken.None
        );
    }

    private async Task<(string, JobResult)> MakeAsync(
        JobRunner.Working working,
        KitRow row,
        KitSheet sheet,
        StoredImage image,
        InspectedImage seen,
        string by,
        CancellationToken stop
    )
    {
        working.Progress(0.05, "The kit and the installer's loader are put together.");
        var changes = await ChangesAsync(row, sheet, image, seen, stop);
        var told = ImageLosses.Ahead(seen.Inspection, "stick");
        var target = images.PathOf(image.Id) + $".{Guid.NewGuid():N}.part";
        try
        {
            PatchedStick.Write(
                images.PathOf(image.Id),
                seen,
                changes,
                target,
                p => working.Progress(0.1 + p / 2, "The files are copied."),
                stop
            );
            working.Progress(0.65, "It is looked into again.");
            InspectedImage after;
            await using (var file = File.OpenRead(target))
            {
                after = ImageInspector.Look(file);
                PatchedStick.Prove(seen, after, file, changes, told);
            }
            var manifest = new PatchManifest(
                KitFiles.AppliedTo(row.Tag),
                row.Id,
                image.Sha256!,
                by,
                clock.GetUtcNow(),
                [.. changes.Select(c => new PatchedFile(c.Path, c.Change, c.OldSha256, c.NewSha256))],
                row.Sha256
            );
            var made = await uploads.TakeFileAsync(
                target,
                new ImageEntry(
                    $"{Path.GetFileNameWithoutExtension(image.Name)}-kit-{row.Id}.img",
                    image.System,
                    0,
                    image.Build,
                    $"{image.Name}, with a boot kit put on it here",
                    "own",
                    $"Boot kit {row.Id}{(row.Tag is null ? "" : $" of {row.Tag}")}.",
                    by
                ),
                image.Id,
                JsonSerializer.Serialize(manifest, JsonSerializerOptions.Web),
                copy: false,
                p => working.Progress(0.7 + p * 0.3, "Its checksum is worked out."),
                stop
            );
            return (
                $"{made.Name} is on the shelf: {Numbers.Count(changes.Count, "file", "files")} of the kit beside the installer's, read again and equal. It has what starts it by {Numbers.Join(after.Inspection.Starts.All().Where(w => w.Start.Can).Select(w => w.Name), "and")}, and no other way.",
                new JobResult(ImageId: made.Id)
            );
        }
        finally
        {
            File.Delete(target);
        }
    }

    /// <summary>What is added to the installer's files: those of its EFI system partition that the disc's own tree lacks, and the kit.</summary>
    private async Task<IReadOnlyList<FileDifference>> ChangesAsync(
        KitRow row,
        KitSheet sheet,
        StoredImage image,
        InspectedImage seen,
        CancellationToken stop
    )
    {
        var main = seen.Main!;
        var added = new SortedDictionary<string, byte[]>(StringComparer.Ordinal);
        await using (var file = shelf.Open(image))
        {
            var loader = LoaderOf(seen)!.Value;
            foreach (var entry in loader.Tree.Entries.Where(e => e.Kind == EntryKind.File && main.Find(e.Path) is null))
                added[entry.Path] = PatchFiles.Read(file, entry);
            var onMedium = await KitImage.OnMediumAsync(
                await build.FilesAsync(row, stop),
                sheet.Components,
                PatchFiles.Read(file, loader.Entry),
                folder.Work,
                stop
            );
            foreach (var (path, content) in onMedium)
                added[path] = content;
            return
            [
                .. added.Select(a =>
                    main.Find(a.Key) is { } old
                        ? Difference(old.Path, "changed", PatchFiles.Read(file, old), a.Value)
                        : Difference(a.Key, "added", null, a.Value)
                ),
            ];
        }
    }

    private static FileDifference Difference(string path, string change, byte[]? before, byte[] after) =>
        new(path, change, before is null ? null : Hash(before), Hash(after), before?.Length ?? 0, after.Length, [])
        {
            Content = after,
        };

    private static string Hash(byte[] bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    /// <summary>The installer's loader for 64-bit UEFI, in its own tree or in its EFI system partition.</summary>
    private static (FileTree Tree, TreeEntry Entry)? LoaderOf(InspectedImage seen)
    {
        foreach (var (_, tree) in seen.Trees)
            if (tree.Find(KitImage.BootManager) is { Kind: EntryKind.File } entry)
                return (tree, entry);
        return null;
    }

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Conflict, what, where, wanted);
}
