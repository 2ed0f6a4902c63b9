using FreshBoot.Core.Patching;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Workshop.Media;

namespace FreshBoot.Workshop.Images;

/// <summary>Makes a stick image by file copy from an image that cannot be rewritten, and proves what a patch has made.</summary>
public static class PatchedStick
{
    /// <summary>Writes the stick image: FAT32 with the image's files, the changed ones in their new form.</summary>
    /// <exception cref="RefusedException">A file is too large for FAT32, or has a name that it cannot hold.</exception>
    public static void Write(
        string image,
        InspectedImage seen,
        IReadOnlyList<FileDifference> changes,
        string target,
        Action<double> progress,
        CancellationToken stop
    )
    {
        using var file = File.OpenRead(image);
        var changed = changes.ToDictionary(c => c.Path, StringComparer.Ordinal);
        var sources = FatWriter
            .Sources(file, seen.Main!, split: false)
            .Where(s => !changed.ContainsKey(s.Path))
            .Concat(
                changes
                    .Where(c => c.Content is not null)
                    .Select(c => new FatWriter.Source(
                        c.Path,
                        c.Content!.Length,
                        () => new MemoryStream(c.Content!, writable: false)
                    ))
            )
            .ToList();
        if (seen.Inspection.LargestFile is { SizeBytes: > FatWriter.LargestFile } large)
            throw new RefusedException(
                RefusalKind.Conflict,
                "FAT32 holds less than 4 GiB in a file.",
                large.Path,
                "The medium's page, which writes it in parts or in two partitions."
            );
        var bytes = FatWriter.BytesFor(sources);
        using var medium = new FileMedium(target, bytes);
        var total = Math.Max(1, sources.Sum(s => s.SizeBytes));
        FatWriter.Write(
            medium,
            bytes - FatWriter.FirstByte,
            seen.Inspection.Label,
            sources,
            null,
            done => progress((double)done / total),
            stop
        );
    }

    /// <summary>
    /// Proves a patched image against the one it came from: it starts in every way that it did, holds the same files, and the
    /// changed ones have the content that they should.
    /// </summary>
    /// <exception cref="RefusedException">It does not; whoever made it throws it away.</exception>
    public static void Prove(
        InspectedImage before,
        InspectedImage after,
        Stream content,
        IReadOnlyList<FileDifference> changes,
        string method
    )
    {
        if (method == "rewrite" && before.Inspection.Starts.LostIn(after.Inspection.Starts) is { Count: > 0 } lost)
            throw Refuse($"The new image would no longer start by {Numbers.Join(lost, "and")}.");
        if (method == "stick" && !after.Inspection.Starts.Uefi64Stick.Can)
            throw Refuse($"The stick image would not start by UEFI: {after.Inspection.Starts.Uefi64Stick.Why}");
        if (after.Main is not { } tree)
            throw Refuse("The new image has no file system that can be read.");
        foreach (var change in changes)
        {
            var found = tree.Find(change.Path);
            if (change.Content is null)
            {
                if (found is not null)
                    throw Refuse($"{change.Path} is still there.");
                continue;
            }
            if (found is not { Kind: EntryKind.File } || found.SizeBytes != change.Content.Length)
                throw Refuse($"{change.Path} is missing, or has another size.");
            using var file = new ExtentStream(content, found);
            var bytes = new byte[found.SizeBytes];
            file.ReadExactly(bytes);
            if (!bytes.AsSpan().SequenceEqual(change.Content))
                throw Refuse($"{change.Path} has another content.");
        }
        var touched = changes.Select(c => c.Path).ToHashSet(StringComparer.Ordinal);
        foreach (var entry in before.Main!.Entries.Where(e => e.Kind == EntryKind.File && !touched.Contains(e.Path)))
            if (tree.Find(entry.Path) is not { } same || same.SizeBytes != entry.SizeBytes)
                throw Refuse($"{entry.Path}, which was not to change, is missing or has another size.");
    }

    private static RefusedException Refuse(string what) =>
        new(
            RefusalKind.Conflict,
            $"The writer of images made something else: {what} It was thrown away.",
            "image",
            "A file copy onto a stick, or another image."
        );
}
