using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.FileSystems;

/// <summary>
/// Reads UDF: ECMA-167 (3rd edition) as OSTA UDF 1.02 to 2.01 uses it. Section numbers are those of ECMA-167 unless said
/// otherwise. Partitions of type 1 and sparable ones are read; virtual (write-once) and metadata partitions are told, not read.
/// </summary>
internal static class Udf
{
    private const int LargestFolder = 64 << 20;
    private const int MostDescriptors = 256;

    /// <summary>The tree, or null where there is no UDF.</summary>
    public static FileTree? Read(ImageBytes image, List<ImageFinding> findings)
    {
        if (!HasNsr(image))
            return null;
        // Discs have blocks of 2048 bytes; images of drives those of the drive.
        foreach (var block in (int[])[2048, 512, 4096])
        {
            var blocks = image.Length / block;
            foreach (var anchor in (long[])[256, blocks - 1, blocks - 257])
                if (
                    Tag(image.Read(anchor * block, 512)) == 2
                    && image.Read(anchor * block, 512) is { } bytes
                    && new Volume(image, block, findings).Read(bytes) is { } tree
                )
                    return tree;
        }
        findings.Fault("The disc says that it holds UDF; its anchor cannot be found.", "sectors 256 and last");
        return null;
    }

    /// <summary>The volume recognition sequence, part 2, 9.1, names NSR02 or NSR03.</summary>
    private static bool HasNsr(ImageBytes image)
    {
        for (var i = 16; i < 16 + 64; i++)
        {
            if (image.Read((long)i * 2048, 8) is not { } bytes)
                return false;
            var id = bytes.AsSpan(1, 5);
            if (id.SequenceEqual("NSR02"u8) || id.SequenceEqual("NSR03"u8))
                return true;
            if (!id.SequenceEqual("CD001"u8) && !id.SequenceEqual("BEA01"u8) && !id.SequenceEqual("BOOT2"u8))
                return false;
        }
        return false;
    }

    /// <summary>The tag of a descriptor (part 3, 7.2) whose checksum holds, else 0.</summary>
    private static int Tag(byte[]? bytes)
    {
        if (bytes is null || bytes.Length < 16)
            return 0;
        var sum = 0;
        for (var i = 0; i < 16; i++)
            sum += i == 4 ? 0 : bytes[i];
        return (byte)sum == bytes[4] ? BinaryPrimitives.ReadUInt16LittleEndian(bytes) : 0;
    }

    private static uint U32(ReadOnlySpan<byte> bytes, int at) => BinaryPrimitives.ReadUInt32LittleEndian(bytes[at..]);

    private static ushort U16(ReadOnlySpan<byte> bytes, int at) => BinaryPrimitives.ReadUInt16LittleEndian(bytes[at..]);

    /// <summary>OSTA compressed Unicode (UDF 2.1.1): a first byte of 8 or 16 tells how wide the characters are.</summary>
    private static string Text(ReadOnlySpan<byte> bytes) =>
        bytes.Length < 2 ? ""
        : bytes[0] is 8 or 254 ? Encoding.Latin1.GetString(bytes[1..])
        : bytes[0] is 16 or 255 ? Encoding.BigEndianUnicode.GetString(bytes[1..])
        : "";

    /// <summary>A dstring: the last byte of the field is the length in use (part 1, 7.2.12).</summary>
    private static string Field(ReadOnlySpan<byte> bytes) =>
        bytes[^1] < bytes.Length ? Text(bytes[..bytes[^1]]).TrimEnd('\0') : "";

    private sealed class Volume(ImageBytes image, int block, List<ImageFinding> findings)
    {
        private readonly List<(long At, long Blocks)?> _partitions = [];

        public FileTree? Read(byte[] anchor)
        {
            var (label, revision, files) = Volumes((long)U32(anchor, 20) * block, U32(anchor, 16));
            if (files is null)
                (label, revision, files) = Volumes((long)U32(anchor, 28) * block, U32(anchor, 24));
            if (files is null)
            {
                findings.Fault("The volume descriptors of UDF cannot be read.", $"sector {U32(anchor, 20)}");
                return null;
            }
            var name = revision == 0 ? "UDF" : $"UDF {revision >> 8}.{revision & 0xff:x2}";
            var tree = new FileTree(name, label, findings);
            var set = At(files.Value.Partition, files.Value.Block) is { } at ? image.Read(at, 512) : null;
            if (Tag(set) != 256)
            {
                if (_partitions.TrueForAll(p => p is not null))
                    tree.Fault("The file set descriptor of UDF cannot be read.", "UDF");
                return tree;
            }
            var open = new Stack<(string Path, ushort Partition, uint Block, int Depth)>();
            open.Push(("", U16(set, 408), U32(set, 404), 0));
            var seen = new HashSet<(ushort, uint)>();
            while (open.TryPop(out var folder))
            {
                if (!seen.Add((folder.Partition, folder.Block)))
                {
                    tree.Fault("A folder leads back to one that was read already.", $"/{folder.Path}");
                    continue;
                }
                if (folder.Depth > FileTree.MostDepth)
                {
                    tree.CutAt($"Folders lie more than {FileTree.MostDepth} deep.", $"/{folder.Path[..80]}…");
                    continue;
                }
                if (File(folder.Partition, folder.Block) is not { } entry)
                {
                    tree.Fault("A folder's entry cannot be read.", $"/{folder.Path}");
                    continue;
                }
                Folder(tree, folder.Path, folder.Depth, Content(tree, folder.Path, entry), open);
                if (tree.Cut)
                    break;
            }
            return tree;
        }

        /// <summary>The volume descriptor sequence, part 3, 8.4.2: label, revision, and where the file set lies.</summary>
        private (string Label, int Revision, (ushort Partition, uint Block)? Files) Volumes(long start, uint bytes)
        {
            byte[]? logical = null;
            var physical = new Dictionary<ushort, (long At, long Blocks)>();
            for (var i = 0; i < Math.Min(bytes / (uint)block, MostDescriptors); i++)
            {
                if (image.Read(start + (long)i * block, 512) is not { } descriptor)
                    break;
                switch (Tag(descriptor))
                {
                    case 5:
                        physical[U16(descriptor, 22)] = ((long)U32(descriptor, 188) * block, U32(descriptor, 192));
                        break;
                    case 6 when logical is null || U32(descriptor, 16) >= U32(logical, 16):
                        // The maps may go on beyond the first 512 bytes.
                        logical = image.Read(start + (long)i * block, block);
                        break;
                    case 8:
                        i = MostDescriptors;
                        break;
                }
            }
            if (logical is null || U32(logical, 212) != block)
                return ("", 0, null);
            _partitions.Clear();
            var at = 440;
            for (var i = 0; i < U32(logical, 268) && i < 64 && at + 6 <= logical.Length; i++)
            {
                var map = logical.AsSpan(at, Math.Min(logical.Length - at, Math.Max(6, (int)logical[at + 1])));
                if (map[0] == 1)
                    _partitions.Add(physical.TryGetValue(U16(map, 4), out var plain) ? plain : null);
                else if (map[0] == 2 && map.Length >= 40)
                {
                    var kind = Encoding.Latin1.GetString(map.Slice(5, 23)).TrimEnd('\0');
                    var sparable = kind == "*UDF Sparable Partition";
                    _partitions.Add(sparable && physical.TryGetValue(U16(map, 38), out var under) ? under : null);
                    findings.Remark(
                        sparable
                            ? "UDF with a sparing table: the table is not applied; blocks that were moved read as they were."
                            : $"UDF with a {(kind.Contains("Virtual", StringComparison.Ordinal) ? "virtual (write-once)" : "metadata")} partition: its tree is not read.",
                        "UDF"
                    );
                }
                else
                    _partitions.Add(null);
                at += Math.Max(6, (int)logical[at + 1]);
            }
            return (Field(logical.AsSpan(84, 128)), U16(logical, 240), (U16(logical, 256), U32(logical, 252)));
        }

        /// <summary>Where a block of a partition lies in the image.</summary>
        private long? At(ushort partition, uint number) =>
            partition < _partitions.Count && _partitions[partition] is { } p && number < p.Blocks
                ? p.At + (long)number * block
                : null;

        /// <summary>A file entry (part 4, 14.9) or extended file entry (14.17).</summary>
        private sealed record Entry(
            int FileType,
            long Size,
            ushort Partition,
            int Kind,
            byte[] Allocation,
            long AllocationAt
        );

        private Entry? File(ushort partition, uint number)
        {
            if (At(partition, number) is not { } at || image.Read(at, block) is not { } bytes)
                return null;
            var (attributes, lengths) = Tag(bytes) switch
            {
                261 => (176, 168),
                266 => (216, 208),
                _ => (0, 0),
            };
            if (attributes == 0)
                return null;
            var begin = attributes + (long)U32(bytes, lengths);
            var length = U32(bytes, lengths + 4);
            if (begin > block || length > block - begin)
                return null;
            return new Entry(
                bytes[27],
                (long)Math.Min(BinaryPrimitives.ReadUInt64LittleEndian(bytes.AsSpan(56)), long.MaxValue),
                partition,
                U16(bytes, 34) & 7,
                bytes.AsSpan((int)begin, (int)length).ToArray(),
                at + begin
            );
        }

        /// <summary>The extents of a file, cut to its size and to what the image holds.</summary>
        private (List<Extent> Extents, bool Whole) Extents(Entry entry)
        {
            var extents = new List<Extent>();
            var left = entry.Size;
            if (entry.Kind == 3)
            {
                var there = Math.Min(left, entry.Allocation.Length);
                return ([new Extent(image.Start + entry.AllocationAt, there)], there == left);
            }
            var width = entry.Kind switch
            {
                0 => 8,
                1 => 16,
                _ => 0,
            };
            var descriptors = entry.Allocation;
            // Continuations (part 4, 14.5) are followed a bounded number of times: 1 GiB an extent, 4,096 of them are enough.
            for (var rounds = 0; rounds < 4096 && width > 0 && left > 0; rounds++)
            {
                byte[]? next = null;
                for (var o = 0; o + width <= descriptors.Length && left > 0; o += width)
                {
                    var kind = U32(descriptors, o) >> 30;
                    long length = U32(descriptors, o) & 0x3fff_ffff;
                    if (length == 0)
                        break;
                    var partition = width == 16 ? U16(descriptors, o + 8) : entry.Partition;
                    var at = At(partition, U32(descriptors, o + 4));
                    if (kind == 3)
                    {
                        next =
                            at is { } from
                            && image.Read(from, (int)Math.Min(length, block)) is { } more
                            && Tag(more) == 258
                                ? more.AsSpan(
                                        24,
                                        Math.Min((int)Math.Min(U32(more, 20), int.MaxValue), more.Length - 24)
                                    )
                                    .ToArray()
                                : null;
                        break;
                    }
                    length = Math.Min(length, left);
                    left -= length;
                    if (kind != 0)
                        extents.Add(new Extent(-1, length));
                    else if (at is not { } start || length > image.Length - start)
                        return (extents, false);
                    // An extent holds less than 1 GiB: what follows on the one before belongs to it.
                    else if (
                        extents.Count > 0
                        && extents[^1].Offset >= 0
                        && extents[^1].Offset + extents[^1].Length == image.Start + start
                    )
                        extents[^1] = extents[^1] with { Length = extents[^1].Length + length };
                    else
                        extents.Add(new Extent(image.Start + start, length));
                }
                if (next is null)
                    break;
                descriptors = next;
            }
            return (extents, left == 0);
        }

        private byte[] Content(FileTree tree, string path, Entry entry)
        {
            var (extents, whole) = Extents(entry);
            if (!whole || entry.Size > LargestFolder)
                tree.Fault("A folder reaches beyond the end of the image, or beyond all reason.", $"/{path}");
            using var all = new MemoryStream();
            foreach (var extent in extents)
                if (
                    extent.Offset >= 0
                    && all.Length + extent.Length <= LargestFolder
                    && image.Read(extent.Offset - image.Start, (int)extent.Length) is { } bytes
                )
                    all.Write(bytes);
            return all.ToArray();
        }

        /// <summary>File identifier descriptors, part 4, 14.4.</summary>
        private void Folder(
            FileTree tree,
            string path,
            int depth,
            byte[] content,
            Stack<(string, ushort, uint, int)> open
        )
        {
            for (var o = 0; o + 38 <= content.Length; )
            {
                var descriptor = content.AsSpan(o);
                if (Tag(descriptor[..16].ToArray()) != 257)
                {
                    tree.Fault("The folder holds what is no entry; the rest of it is not read.", $"/{path}");
                    return;
                }
                int nameLength = descriptor[19],
                    implementation = U16(descriptor, 36);
                if (38 + implementation + nameLength > descriptor.Length)
                {
                    tree.Fault("An entry is longer than its folder.", $"/{path}");
                    return;
                }
                o += (38 + implementation + nameLength + 3) & ~3;
                // Deleted, or the folder above.
                if ((descriptor[18] & 0x0c) != 0)
                    continue;
                var full = tree.PathOf(path, Text(descriptor.Slice(38 + implementation, nameLength)));
                var (at, partition) = (U32(descriptor, 24), U16(descriptor, 28));
                if (File(partition, at) is not { } entry)
                {
                    tree.Fault("An entry points where no file is.", $"/{full}");
                    continue;
                }
                if ((descriptor[18] & 2) != 0)
                {
                    if (!tree.Add(new TreeEntry(full, EntryKind.Folder, 0, [])))
                        return;
                    open.Push((full, partition, at, depth + 1));
                    continue;
                }
                if (entry.FileType == 12)
                {
                    if (!tree.Add(new TreeEntry(full, EntryKind.Link, 0, [])))
                        return;
                    continue;
                }
                var (extents, whole) = Extents(entry);
                if (!whole)
                    tree.Fault("A file reaches beyond the end of the image.", $"/{full}");
                if (!tree.Add(new TreeEntry(full, EntryKind.File, extents.Sum(e => e.Length), extents)))
                    return;
            }
        }
    }
}
