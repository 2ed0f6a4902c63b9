using System.Collections.Concurrent;
using FreshBoot.Data.Images;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Server.Images;

/// <summary>Images that were looked into. What is found follows from the bytes, so it is kept under their checksum.</summary>
internal sealed class ImageShelf(ImageStore store)
{
    private const int MostKept = 32;
    private readonly ConcurrentDictionary<string, InspectedImage> _seen = new(StringComparer.Ordinal);

    /// <summary>What is found on an image that is whole.</summary>
    public InspectedImage Look(StoredImage image)
    {
        if (_seen.TryGetValue(image.Sha256!, out var seen))
            return seen;
        using var file = Open(image);
        seen = ImageInspector.Look(file);
        seen = seen with { Inspection = seen.Inspection with { Sha256 = image.Sha256 } };
        if (_seen.Count >= MostKept)
            _seen.Clear();
        _seen[image.Sha256!] = seen;
        return seen;
    }

    /// <summary>The bytes of an image; reading a header should not fetch a megabyte.</summary>
    public FileStream Open(StoredImage image) =>
        new(store.PathOf(image.Id), FileMode.Open, FileAccess.Read, FileShare.Read | FileShare.Delete, 1 << 16);

    /// <summary>The tree with the installer's files.</summary>
    /// <exception cref="RefusedException">None was found.</exception>
    public FileTree Tree(StoredImage image) =>
        Look(image).Main
        ?? throw new RefusedException(
            RefusalKind.Unreadable,
            "No file system was found on this image that can be read here.",
            image.Name,
            "An image with ISO 9660, UDF or FAT."
        );
}
