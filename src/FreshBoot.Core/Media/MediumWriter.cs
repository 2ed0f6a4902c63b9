using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Core.Media;

/// <summary>Writes an image onto a medium as a plan says, and reads it back.</summary>
public static class MediumWriter
{
    private const int Chunk = 4 << 20;

    /// <summary>Writes an image.</summary>
    /// <param name="image">The image, open.</param>
    /// <param name="seen">What was found on it.</param>
    /// <param name="plan">The plan.</param>
    /// <param name="medium">The medium.</param>
    /// <param name="progress">Told the part that is done, 0 to 1.</param>
    /// <param name="stop">Stops it between two chunks; what is on the medium then is not whole.</param>
    /// <exception cref="IOException">The medium failed.</exception>
    public static void Write(
        Stream image,
        InspectedImage seen,
        WritePlan plan,
        IBlockDevice medium,
        Action<double> progress,
        CancellationToken stop
    )
    {
        switch (plan.Method)
        {
            case CopyMethod.Blocks:
                Copy(image, image.Length, medium, 0, d => progress((double)d / image.Length), stop);
                break;
            case CopyMethod.Files or CopyMethod.FilesInParts:
            {
                var sources = FatWriter.Sources(image, seen.Main!, split: plan.Method == CopyMethod.FilesInParts);
                var total = Math.Max(1, sources.Sum(s => s.SizeBytes));
                FatWriter.Write(
                    medium,
                    medium.SizeBytes - FatWriter.FirstByte,
                    Label(seen),
                    sources,
                    null,
                    d => progress((double)d / total),
                    stop
                );
                break;
            }
            case CopyMethod.TwoPartitions:
            {
                var sources = FatWriter.Sources(image, seen.Main!, split: false);
                var first = WritePlan.SecondPartition(plan.NeededBytes, image.Length);
                var total = sources.Sum(s => s.SizeBytes) + image.Length;
                Copy(image, image.Length, medium, first, d => progress((double)d / total), stop);
                FatWriter.Write(
                    medium,
                    first - FatWriter.FirstByte,
                    Label(seen),
                    sources,
                    (first, image.Length),
                    d => progress((double)(image.Length + d) / total),
                    stop
                );
                break;
            }
            default:
                throw new RefusedException(RefusalKind.Conflict, plan.Why, "medium", "Another medium or image.");
        }
        medium.Flush();
    }

    /// <summary>Reads a medium back and compares it with the image.</summary>
    /// <returns>Null where all is as it should be; else what differs.</returns>
    public static string? Verify(
        Stream image,
        InspectedImage seen,
        WritePlan plan,
        IBlockDevice medium,
        Action<double> progress,
        CancellationToken stop
    )
    {
        if (plan.Method == CopyMethod.Blocks)
            return Compare(image, image.Length, medium, 0, d => progress((double)d / image.Length), stop) is { } at
                ? $"byte {at} is not what was written"
                : null;
        // Read through our own reader: the tables are proved with the files.
        using var stream = new BlockDeviceStream(medium);
        var back = ImageInspector.Look(stream);
        var fat = back.Trees.Select(t => t.Tree).FirstOrDefault(t => t.FileSystem == "FAT32");
        if (fat is null)
            return "no FAT32 file system can be found on it";
        var sources = FatWriter.Sources(image, seen.Main!, split: plan.Method == CopyMethod.FilesInParts);
        var total = Math.Max(1, sources.Sum(s => s.SizeBytes));
        long done = 0;
        foreach (var source in sources)
        {
            if (fat.Find(source.Path) is not { } entry || entry.SizeBytes != source.SizeBytes)
                return $"{source.Path} is missing or short";
            using var wanted = source.Open();
            using var found = new ExtentStream(stream, entry);
            var (a, b) = (new byte[Chunk], new byte[Chunk]);
            for (var left = source.SizeBytes; left > 0; )
            {
                stop.ThrowIfCancellationRequested();
                var want = (int)Math.Min(Chunk, left);
                wanted.ReadExactly(a, 0, want);
                if (
                    found.ReadAtLeast(b.AsSpan(0, want), want, throwOnEndOfStream: false) < want
                    || !a.AsSpan(0, want).SequenceEqual(b.AsSpan(0, want))
                )
                    return $"{source.Path} is not what was written";
                left -= want;
                progress((double)(done += want) / total);
            }
        }
        if (plan.Method == CopyMethod.TwoPartitions)
        {
            var second = back.Inspection.Partitions.Single(p => p.Number == 2);
            if (Compare(image, image.Length, medium, second.OffsetBytes, _ => { }, stop) is { } at)
                return $"byte {at} of the second partition is not what was written";
        }
        return null;
    }

    private static string Label(InspectedImage seen) =>
        seen.Inspection.Label.Length > 0 ? seen.Inspection.Label : "INSTALLER";

    private static void Copy(
        Stream image,
        long length,
        IBlockDevice medium,
        long to,
        Action<long> progress,
        CancellationToken stop
    )
    {
        var chunk = new byte[Chunk];
        image.Position = 0;
        // The first chunk last: a stick that was pulled out half-way does not look like one that starts.
        var first = (int)Math.Min(Chunk, length);
        image.Position = first;
        medium.Write(to, new byte[Math.Min(4096, first)]);
        for (long at = first; at < length; )
        {
            stop.ThrowIfCancellationRequested();
            var want = (int)Math.Min(Chunk, length - at);
            image.ReadExactly(chunk, 0, want);
            medium.Write(to + at, chunk.AsSpan(0, want));
            at += want;
            progress(at - first);
        }
        stop.ThrowIfCancellationRequested();
        image.Position = 0;
        image.ReadExactly(chunk, 0, first);
        medium.Flush();
        medium.Write(to, chunk.AsSpan(0, first));
        progress(length);
    }

    private static long? Compare(
        Stream image,
        long length,
        IBlockDevice medium,
        long from,
        Action<long> progress,
        CancellationToken stop
    )
    {
        var (a, b) = (new byte[Chunk], new byte[Chunk]);
        image.Position = 0;
        for (long at = 0; at < length; )
        {
            stop.ThrowIfCancellationRequested();
            var want = (int)Math.Min(Chunk, length - at);
            image.ReadExactly(a, 0, want);
            medium.Read(from + at, b.AsSpan(0, want));
            var same = a.AsSpan(0, want).CommonPrefixLength(b.AsSpan(0, want));
            if (same < want)
                return at + same;
            at += want;
            progress(at);
        }
        return null;
    }
}
