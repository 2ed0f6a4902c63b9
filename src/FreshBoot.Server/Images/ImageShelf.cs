using System.Collections.Concurrent;
using System.Text.Json;
using FreshBoot.Core.Patching;
using FreshBoot.Data;
using FreshBoot.Data.Images;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Workshop.Emulation;
using FreshBoot.Workshop.Images;

namespace FreshBoot.Server.Images;

/// <summary>
/// Images that were looked into. What is found follows from the bytes, so it is kept under their checksum: findings of all, since
/// they are small, and the trees of those that were asked for last.
/// </summary>
internal sealed class ImageShelf(ImageStore store, ImageUploads uploads, ChecksumStore checksums, DataFolder folder)
{
    private const int MostTrees = 24;
    private readonly ConcurrentDictionary<string, Inspection> _findings = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, InspectedImage> _trees = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, Lock> _looking = new(StringComparer.Ordinal);

    /// <summary>What is found on an image that is whole, with its trees.</summary>
    public InspectedImage Look(StoredImage image)
    {
        var key = image.Sha256!;
        if (_trees.TryGetValue(key, out var seen))
            return seen;
        // Of several who ask at once one looks.
        lock (_looking.GetOrAdd(key, _ => new Lock()))
        {
            if (_trees.TryGetValue(key, out seen))
                return seen;
            using var file = Open(image);
            seen = ImageInspector.Look(file);
            seen = seen with { Inspection = seen.Inspection with { Sha256 = key } };
            if (_trees.Count >= MostTrees)
                _trees.Clear();
            _trees[key] = seen;
            _findings[key] = seen.Inspection;
            return seen;
        }
    }

    /// <summary>What is found on an image that is whole.</summary>
    public Inspection Findings(StoredImage image) =>
        _findings.TryGetValue(image.Sha256!, out var known) ? known : Look(image).Inspection;

    /// <summary>Whether the file of an image that is whole lies at its place.</summary>
    public bool Has(StoredImage image) => image.Whole && File.Exists(store.PathOf(image.Id));

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

    /// <summary>The shelf as its page shows it.</summary>
    public async Task<ImagesSheet> ListAsync(CancellationToken stop)
    {
        var images = await store.ListAsync(stop);
        var says = await checksums.ChecksumsAsync(images, stop);
        List<string> install = [];
        if (!ImageRewriter.IsInstalled)
            install.Add("xorriso");
        foreach (var firmware in (string[])["bios", "uefi64"])
            if (Emulator.Missing(firmware) is { } package && !install.Contains(package))
                install.Add(package);
        return new ImagesSheet(
            [.. images.Where(i => !i.Undone).Select(i => Sheet(i, says[i.Id]))],
            folder.Images,
            [.. uploads.Unnamed().Select(f => new FolderFile(f.Name, f.SizeBytes))],
            folder.FreeBytes,
            install
        );
    }

    /// <summary>One image as its page shows it.</summary>
    public async Task<ImageSheet> OneAsync(int id, CancellationToken stop)
    {
        var image = await store.GetAsync(id, stop);
        return Sheet(image, (await checksums.ChecksumsAsync([image], stop))[id]);
    }

    private ImageSheet Sheet(StoredImage image, ChecksumSays checksum)
    {
        var seen = Has(image) ? Findings(image) : null;
        return new ImageSheet(image, checksum, seen?.Starts, seen?.LargestFile, ManifestOf(image));
    }

    /// <summary>What was patched; null for an image as it came.</summary>
    public static PatchManifest? ManifestOf(StoredImage image) =>
        image.Manifest is null
            ? null
            : JsonSerializer.Deserialize<PatchManifest>(image.Manifest, JsonSerializerOptions.Web);
}
