using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Patching;
using FreshBoot.Data.Images;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Server.Images;

/// <summary>What is on an image: how it starts, its folders, its files.</summary>
internal static class InsideEndpoints
{
    /// <summary>Largest text of a file that is shown, in bytes.</summary>
    private const int LargestText = 256 << 10;

    public static void MapImageInside(this IEndpointRouteBuilder app)
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
}
