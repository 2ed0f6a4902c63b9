using FreshBoot.Core.Images;
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
    /// Proves a patched image against the one it came from: nothing is lost but what was told, it holds the same files, and the changed
    /// ones have the content that they should.
    /// </summary>
    /// <exception cref="RefusedException">It does not; whoever made it throws it away.</exception>
    /// <param name="before">The image that it was made from.</param>
    /// <param name="after">The new one.</param>
    /// <param name="content">The bytes of the new one.</param>
    /// <param name="changes">What was to change.</param>
    /// <param name="told">What will be lost, as whoever asked was told.</param>
    /// <returns>What the first had and the second has no more.</returns>
    public static IReadOnlyList<ImageLoss> Prove(
        InspectedImage before,
        InspectedImage after,
        Stream content,
        IReadOnlyList<FileDifference> changes,
        IReadOnlyList<ImageLoss> told
    )
    {
        var lost = ImageLosses.Of(before.Inspection, after.Inspection);
        // What was told and taken may be lost; a way of starting, a partition or a file system beyond that may not.
        if (
            ImageLosses
                .Untold(told, lost)
                .Where(l => !l.What.StartsWith("the disk's", StringComparison.Ordinal))
                .ToArray() is
            { Length: > 0 } untold
        )
            throw Refuse($"It would lose what nobody was told of: {Numbers.Join(untold.Select(l => l.What), "and")}.");
        if (after.Inspection.Starts.All().All(s => !s.Start.Can))
            throw Refuse("It would start in no way at all.");
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
        return lost;
    }

    private static RefusedException Refuse(string what) =>
        new(
            RefusalKind.Conflict,
            $"The writer of images made something else: {what} It was thrown away.",
            "image",
            "A file copy onto a stick, or another image."
        );
}
