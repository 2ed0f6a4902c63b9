using System.Text.Json;
using FreshBoot.Core.Images;
using FreshBoot.Core.Patching;
using FreshBoot.Data;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Patching;
using FreshBoot.Formats.Discs;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Images;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Images;

namespace FreshBoot.Server.Patching;

/// <summary>What a patch is to do.</summary>
/// <param name="Recipe">Id of a recipe; null for a draft.</param>
/// <param name="Draft">A recipe as JSON text, to see what it would do; only for a dry run.</param>
/// <param name="By">Who asks.</param>
/// <param name="DryRun">Only tells what it would do; in the query it means the same.</param>
/// <param name="Accept">Whether that person takes the loss of a way of starting, as the dry run told it.</param>
internal sealed record PatchIn(
    string? Recipe = null,
    string? Draft = null,
    [property: Line(60)] string By = "nobody",
    bool? DryRun = null,
    bool? Accept = null
);

/// <summary>What a patch does.</summary>
/// <param name="AlreadyApplied">Whether all of it is there already.</param>
/// <param name="Files">The differences.</param>
/// <param name="Method"><c>rewrite</c> (a new image), <c>stick</c> (a stick image by file copy, where the image cannot be rewritten).</param>
/// <param name="Because">Why it is a stick image; null for a new image.</param>
/// <param name="Job">The job that makes it; null for a dry run or where nothing is to do.</param>
/// <param name="Losses">What the image has and the new one will not have.</param>
internal sealed record PatchAnswer(
    bool AlreadyApplied,
    IReadOnlyList<FileDifference> Files,
    string Method,
    string? Because,
    JobSheet? Job,
    IReadOnlyList<ImageLoss> Losses
);

/// <summary>Works a recipe out over an image, and makes the new one: all of it fits, or nothing is made.</summary>
internal sealed class PatchImage(
    ImageStore images,
    ImageUploads uploads,
    ImageShelf shelf,
    RecipeBook recipes,
    JobRunner jobs,
    DataFolder folder,
    TimeProvider clock
)
{
    /// <summary>Room beside the new image for what its writer adds, in bytes.</summary>
    private const long Beside = 64L << 20;

    private sealed record WorkedOut(
        StoredRecipe Recipe,
        StoredImage Image,
        InspectedImage Seen,
        PatchOutcome Outcome,
        string Method,
        string? Because,
        IReadOnlyList<ImageLoss> Losses
    )
    {
        public PatchAnswer Answer(JobSheet? job) =>
            new(Outcome.AlreadyApplied, Outcome.Files, Method, Because, job, Losses);
    }

    /// <summary>What a recipe or a draft would change; nothing is made.</summary>
    public async Task<PatchAnswer> PreviewAsync(int id, PatchIn patch, CancellationToken stop) =>
        (await WorkOutAsync(id, patch, stop)).Answer(null);

    /// <summary>Makes the new image in the background.</summary>
    public async Task<PatchAnswer> DoAsync(int id, PatchIn patch, CancellationToken stop)
    {
        if (patch.Draft is not null)
            throw new RefusedException(
                RefusalKind.Invalid,
                "A draft cannot be applied: nobody could say later what was done.",
                "draft",
                "Save the recipe first."
            );
        var worked = await WorkOutAsync(id, patch, stop);
        var (recipe, image, _, outcome, method, _, losses) = worked;
        if (outcome.AlreadyApplied)
            return worked.Answer(null);
        if (method == "rewrite" && !ImageRewriter.IsInstalled)
            throw new RefusedException(
                RefusalKind.Missing,
                "The writer of images is not installed.",
                "xorriso",
                "apt-get install xorriso, or ./demo.sh, which does."
            );
        var ways = losses.Where(l => l.IsStart).Select(l => l.What).ToArray();
        if (ways.Length > 0 && (patch.Accept != true || patch.By is "nobody" or Given.Nobody))
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The new image would lose what this one does: {Numbers.Join(ways, "and")}.",
                patch.Accept == true ? "by" : "accept",
                "Another image; or a named person who takes that loss."
            );
        folder.CheckRoom(image.SizeBytes + outcome.Files.Sum(f => f.NewSizeBytes) + Beside);
        var by = Given.Text(patch.By, "by", 60);
        var manifest = new PatchManifest(
            recipe.Recipe.Id,
            recipe.Version,
            image.Sha256!,
            by,
            clock.GetUtcNow(),
            [.. outcome.Files.Select(f => new PatchedFile(f.Path, f.Change, f.OldSha256, f.NewSha256))],
            recipe.Recipe.Sha256()
        );
        var job = await jobs.BeginAsync(
            new JobWish(JobKind.Patch, $"{recipe.Recipe.Name}: {image.Name}", by, Image: id),
            (working, running) => MakeAsync(working, worked, manifest, running),
            stop: stop
        );
        return worked.Answer(job);
    }

    private async Task<WorkedOut> WorkOutAsync(int id, PatchIn patch, CancellationToken stop)
    {
        var image = await images.GetWholeAsync(id, stop);
        var stored = patch.Draft is { } draft
            ? new StoredRecipe(-1, RecipeReader.Read(draft), patch.By, null)
            : await recipes.GetAsync(
                patch.Recipe
                    ?? throw new RefusedException(
                        RefusalKind.Invalid,
                        "There is no recipe.",
                        "recipe",
                        "A recipe that is in the book, or a draft."
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
        var (seen, tree) = (shelf.Look(image), shelf.Tree(image));
        await using var file = shelf.Open(image);
        var outcome = Patcher.Run(stored.Recipe, PatchFiles.On(file, tree));
        var obstacle = ImageRewriter.Obstacle(seen);
        var method = obstacle is null ? "rewrite" : "stick";
        return new WorkedOut(
            stored,
            image,
            seen,
            outcome,
            method,
            Because(obstacle, seen),
            ImageLosses.Ahead(seen.Inspection, method)
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

    private async Task<(string, JobResult)> MakeAsync(
        JobRunner.Working working,
        WorkedOut worked,
        PatchManifest manifest,
        CancellationToken stop
    )
    {
        var (recipe, image, seen, outcome, method, _, told) = worked;
        IReadOnlyList<ImageLoss> lost;
        InspectedImage after;
        // Beside the images, so that the finished file only has to be renamed.
        var target = images.PathOf(image.Id) + $".{Guid.NewGuid():N}.part";
        try
        {
            working.Progress(0.05, "The new image is written.");
            if (method == "rewrite")
                await ImageRewriter.WriteAsync(
                    images.PathOf(image.Id),
                    target,
                    folder.Work,
                    outcome.Files,
                    seen.Inspection.Marks.Joliet,
                    stop
                );
            else
                PatchedStick.Write(
                    images.PathOf(image.Id),
                    seen,
                    outcome.Files,
                    target,
                    p => working.Progress(0.05 + p / 2, "The files are copied."),
                    stop
                );
            working.Progress(0.6, "It is looked into again.");
            await using (var file = File.OpenRead(target))
            {
                after = ImageInspector.Look(file);
                lost = PatchedStick.Prove(seen, after, file, outcome.Files, told);
            }
            var stem = Path.GetFileNameWithoutExtension(image.Name);
            var made = await uploads.TakeFileAsync(
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
                $"{made.Name} is on the shelf. {Compared(seen.Inspection, after.Inspection, lost)}",
                new JobResult(ImageId: made.Id)
            );
        }
        finally
        {
            File.Delete(target);
        }
    }

    /// <summary>What comparing the two images showed: ways of starting by name, and what is lost. As they read, not as a start shows it.</summary>
    private static string Compared(Inspection before, Inspection after, IReadOnlyList<ImageLoss> lost)
    {
        string[] kept =
        [
            .. before
                .Starts.All()
                .Zip(after.Starts.All())
                .Where(p => p.First.Start.Can && p.Second.Start.Can)
                .Select(p => p.First.Name),
        ];
        return (
                kept.Length == 0
                    ? "Compared: no way of starting of the old one is left."
                    : $"Compared: it has what starts it by {Numbers.Join(kept, "and")}, as before."
            ) + (lost.Count == 0 ? "" : $" Lost: {string.Join("; ", lost.Select(l => l.What))}.");
    }
}
