using FreshBoot.Data;
using FreshBoot.Data.Images;
using FreshBoot.Server.Dossiers;
using FreshBoot.Workshop;
using FreshBoot.Workshop.Images;

namespace FreshBoot.Server.Images;

/// <summary>An image to be made from a kernel and its archive.</summary>
/// <param name="Image">What is said of it, its name first.</param>
/// <param name="Line">What the kernel is told.</param>
internal sealed record MadeIn(ImageIn Image, string Line);

/// <summary>Makes an image that starts in every way from what some installers are handed out as: a kernel and an archive.</summary>
internal sealed class MakeImage(BringImage bring, DataFolder folder, Shop shop)
{
    public async Task<StoredImage> DoAsync(MadeIn made, Stream kernel, Stream archive, CancellationToken stop)
    {
        if (MadeImage.Missing() is { } program)
            throw new RefusedException(
                RefusalKind.Missing,
                $"Making an image needs {program}.",
                program,
                "The Debian packages of ./demo.sh, which installs them."
            );
        // What is said of it is looked at before the bytes are.
        var name = made.Image.Entry(0, shop.Catalogue).Name;
        var work = WorkFolder.Make(folder.Work);
        try
        {
            var (kernelFile, archiveFile) = (Path.Combine(work, "kernel"), Path.Combine(work, "archive"));
            await SaveAsync(kernel, kernelFile, stop);
            await SaveAsync(archive, archiveFile, stop);
            var image = Path.Combine(work, "image.iso");
            await MadeImage.MakeAsync(
                new ImageParts(kernelFile, archiveFile, made.Line.Trim(), LabelOf(name)),
                image,
                folder.Work,
                stop
            );
            return await bring.CopyAsync(made.Image, image, stop);
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    private static async Task SaveAsync(Stream from, string to, CancellationToken stop)
    {
        await using var file = File.Create(to);
        await from.CopyToAsync(file, stop);
    }

    /// <summary>A label that ISO 9660 allows (ECMA-119, 8.4.8): 32 characters, capitals, digits and the underscore.</summary>
    private static string LabelOf(string name)
    {
        var label = string.Concat(
            Path.GetFileNameWithoutExtension(name)
                .ToUpperInvariant()
                .Select(c => char.IsAsciiLetterUpper(c) || char.IsAsciiDigit(c) ? c : '_')
                .Take(32)
        );
        return label.Length > 0 ? label : "INSTALLER";
    }
}
