using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;

namespace FreshBoot.Formats.FileSystems;

/// <summary>
/// Reads ISO 9660 (ECMA-119) with the names of Joliet (escape sequences of ISO/IEC 2022) or Rock Ridge (IEEE P1282 over SUSP,
/// IEEE P1281), and files in several extents. The names of Rock Ridge are taken first, then those of Joliet, then the plain ones.
/// </summary>
internal static class Iso9660
{
    /// <summary>Size of a sector, ECMA-119 section 6.1.2.</summary>
    public const int Sector = 2048;

    /// <summary>The volume descriptors begin after the system area of 16 sectors, section 6.2.1.</summary>
    private const int FirstDescriptor = 16;
    private const int MostDescriptors = 64;

    /// <summary>A volume descriptor set, as far as it is used.</summary>
    /// <param name="Primary">The primary descriptor.</param>
    /// <param name="Joliet">A supplementary descriptor with UCS-2 names.</param>
    /// <param name="BootCatalogue">Sector of the El Torito catalogue.</param>
    /// <param name="VolumeBytes">Size of the volume as it names it.</param>
    public sealed record Descriptors(byte[] Primary, byte[]? Joliet, uint? BootCatalogue, long VolumeBytes);

    public static Descriptors? Find(ImageBytes image, List<ImageFinding> findings)
    {
        byte[]? primary = null,
            joliet = null;
        uint? boot = null;
        var ended = false;
        for (var i = 0; i < MostDescriptors && !ended; i++)
        {
            var at = (long)(FirstDescriptor + i) * Sector;
            if (image.Read(at, Sector) is not { } sector || !sector.AsSpan(1, 5).SequenceEqual("CD001"u8))
                break;
            switch (sector[0])
            {
                case 0 when sector.AsSpan(7, 23).SequenceEqual("EL TORITO SPECIFICATION"u8):
                    boot ??= BinaryPrimitives.ReadUInt32LittleEndian(sector.AsSpan(0x47));
                    break;
                case 1:
                    primary ??= sector;
                    break;
                case 2 when sector.AsSpan(88, 3) is [0x25, 0x2f, 0x40 or 0x43 or 0x45]:
                    joliet ??= sector;
                    break;
                case 255:
                    ended = true;
                    break;
            }
        }
        if (primary is null)
            return null;
        if (!ended)
            findings.Fault("The volume descriptors have no end.", "sector 16");
        var block = BinaryPrimitives.ReadUInt16LittleEndian(primary.AsSpan(128));
        if (block is not (512 or 1024 or 2048))
        {
            findings.Fault($"The block size is {block}; ISO 9660 knows 512, 1024 and 2048.", "sector 16");
            return null;
        }
        var size = (long)BinaryPrimitives.ReadUInt32LittleEndian(primary.AsSpan(80)) * block;
        if (size > image.Length)
            findings.Fault(
                $"The volume says that it has {size} bytes, the file has {image.Length}: its end is missing.",
                "sector 16"
            );
        return new Descriptors(primary, joliet, boot, size);
    }

    public static FileTree Read(ImageBytes image, Descriptors descriptors, List<ImageFinding> findings)
    {
        var block = BinaryPrimitives.ReadUInt16LittleEndian(descriptors.Primary.AsSpan(128));
        var label = Encoding.ASCII.GetString(descriptors.Primary, 40, 32).TrimEnd(' ', '\0');
        var root = new Record(descriptors.Primary.AsSpan(156, 34));
        var skip = RockRidgeSkip(image, root, block);
        if (skip is null && descriptors.Joliet is { } joliet)
            return new Walk(image, block, null, joliet: true, findings).Run(
                new Record(joliet.AsSpan(156, 34)),
                "ISO 9660 with Joliet",
                Encoding.BigEndianUnicode.GetString(joliet, 40, 32).TrimEnd(' ', '\0') is { Length: > 0 } wide
                    ? wide
                    : label
            );
        return new Walk(image, block, skip, joliet: false, findings).Run(
            root,
            skip is null ? "ISO 9660" : "ISO 9660 with Rock Ridge",
            label
        );
    }

    /// <summary>Bytes to skip in each system use area where the root says that SUSP is in use (its SP entry), else null.</summary>
    private static int? RockRidgeSkip(ImageBytes image, Record root, int block)
    {
        if (image.Read((long)root.Extent * block, 34) is not { } head || head[0] < 34)
            return null;
        if (image.Read((long)root.Extent * block, head[0]) is not { } dot)
            return null;
        var use = dot.AsSpan(34);
        return use.Length >= 7 && use[..2].SequenceEqual("SP"u8) && use[4] == 0xbe && use[5] == 0xef ? use[6] : null;
    }

    /// <summary>A directory record, ECMA-119 section 9.1.</summary>
    [StructLayout(LayoutKind.Auto)]
    private readonly struct Record(ReadOnlySpan<byte> bytes)
    {
        public uint Extent { get; } = BinaryPrimitives.ReadUInt32LittleEndian(bytes[2..]) + bytes[1];
        public uint Size { get; } = BinaryPrimitives.ReadUInt32LittleEndian(bytes[10..]);
        private byte Flags { get; } = bytes[25];
        public bool IsFolder => (Flags & 2) != 0;
        public bool IsAssociated => (Flags & 4) != 0;

        /// <summary>A further record with the same name follows: a file in several extents, section 6.5.1.</summary>
        public bool GoesOn => (Flags & 0x80) != 0;
    }

    private sealed class Walk(ImageBytes image, int block, int? skip, bool joliet, List<ImageFinding> findings)
    {
        private readonly HashSet<uint> _seen = [];
        private readonly Stack<(string Path, uint Extent, uint Size, int Depth)> _open = new();

        public FileTree Run(Record root, string fileSystem, string label)
        {
            var tree = new FileTree(fileSystem, label, findings);
            _open.Push(("", root.Extent, root.Size, 0));
            while (_open.TryPop(out var folder))
            {
                if (!_seen.Add(folder.Extent))
                {
                    tree.Fault("A folder leads back to one that was read already.", $"/{folder.Path}");
                    continue;
                }
                if (folder.Depth > FileTree.MostDepth)
                {
                    tree.CutAt(
                        $"Folders lie more than {FileTree.MostDepth} deep; what is below is not read.",
                        $"/{folder.Path[..Math.Min(80, folder.Path.Length)]}…"
                    );
                    continue;
                }
                if (!Folder(tree, folder.Path, folder.Extent, folder.Size, folder.Depth))
                    break;
            }
            return tree;
        }

        private bool Folder(FileTree tree, string path, uint extent, uint size, int depth)
        {
            var start = (long)extent * block;
            if (start > image.Length || size > image.Length - start)
                tree.Fault("A folder reaches beyond the end of the image.", $"/{path}, sector {extent}");
            var runs = new List<Extent>();
            var index = 0;
            for (long at = 0; at < size; at += Sector)
            {
                var left = (int)Math.Min(Sector, size - at);
                if (image.Read(start + at, left) is not { } sector)
                    return true;
                // Records do not cross sectors; the rest of one is zero, section 6.8.1.1.
                for (var o = 0; o < left && sector[o] != 0; o += sector[o])
                {
                    var length = sector[o];
                    if (length < 34 || o + length > left || 33 + sector[o + 32] > length)
                    {
                        tree.Fault(
                            "A directory record is longer than its sector, or too short.",
                            $"/{path}, sector {extent + at / Sector}"
                        );
                        break;
                    }
                    if (index++ < 2)
                        continue; // the folder itself and the one above it
                    var bytes = sector.AsSpan(o, length);
                    var record = new Record(bytes);
                    if (record.IsAssociated)
                        continue;
                    var use = SystemUse(bytes);
                    if (use.Moved)
                        continue; // it is read where it belongs
                    var full = tree.PathOf(path, use.Name ?? PlainName(bytes.Slice(33, bytes[32])));
                    if (use.ChildAt is { } child)
                    {
                        // A folder too deep for ISO 9660 lies elsewhere; its own first record knows its size.
                        var own = image.Read((long)child * block, 34);
                        if (!tree.Add(new TreeEntry(full, EntryKind.Folder, 0, [])))
                            return !tree.Cut;
                        if (own is not null)
                            _open.Push((full, child, new Record(own).Size, depth + 1));
                    }
                    else if (record.IsFolder)
                    {
                        if (!tree.Add(new TreeEntry(full, EntryKind.Folder, 0, [])))
                            return !tree.Cut;
                        _open.Push((full, record.Extent, record.Size, depth + 1));
                    }
                    else if (use.IsLink)
                    {
                        if (!tree.Add(new TreeEntry(full, EntryKind.Link, 0, [])))
                            return !tree.Cut;
                    }
                    else
                    {
                        var offset = (long)record.Extent * block;
                        if (record.Size > 0 && (offset > image.Length || record.Size > image.Length - offset))
                            tree.Fault(
                                "A file reaches beyond the end of the image.",
                                $"/{full}, sector {record.Extent}"
                            );
                        runs.Add(new Extent(offset, record.Size));
                        if (record.GoesOn)
                            continue;
                        if (!tree.Add(new TreeEntry(full, EntryKind.File, runs.Sum(r => r.Length), [.. runs])))
                            return !tree.Cut;
                        runs.Clear();
                    }
                }
            }
            return true;
        }

        private string PlainName(ReadOnlySpan<byte> name)
        {
            if (joliet)
                return Encoding.BigEndianUnicode.GetString(name) is var wide && wide.LastIndexOf(';') is > 0 and var v
                    ? wide[..v]
                    : Encoding.BigEndianUnicode.GetString(name);
            var text = Encoding.Latin1.GetString(name);
            var version = text.LastIndexOf(';');
            return (version > 0 ? text[..version] : text).TrimEnd('.');
        }

        /// <summary>What the system use area says: Rock Ridge's NM, SL, CL and RE, with continuations (CE).</summary>
        private (string? Name, uint? ChildAt, bool Moved, bool IsLink) SystemUse(ReadOnlySpan<byte> record)
        {
            if (skip is not { } leave)
                return default;
            var begin = 33 + record[32] + (record[32] % 2 == 0 ? 1 : 0) + leave;
            byte[] area = begin < record.Length ? record[begin..].ToArray() : [];
            MemoryStream? name = null;
            uint? child = null;
            bool moved = false,
                link = false;
            // A chain of continuations is cut after a few: a real one has one.
            for (var rounds = 0; rounds < 8 && area.Length > 0; rounds++)
            {
                byte[] next = [];
                for (
                    var o = 0;
                    o + 4 <= area.Length && area[o + 2] >= 4 && o + area[o + 2] <= area.Length;
                    o += area[o + 2]
                )
                {
                    var entry = area.AsSpan(o, area[o + 2]);
                    if (entry.StartsWith("NM"u8) && entry.Length >= 5 && (entry[4] & 6) == 0)
                        (name ??= new MemoryStream()).Write(entry[5..]);
                    else if (entry.StartsWith("CL"u8) && entry.Length >= 8)
                        child = BinaryPrimitives.ReadUInt32LittleEndian(entry[4..]);
                    else if (entry.StartsWith("RE"u8))
                        moved = true;
                    else if (entry.StartsWith("SL"u8))
                        link = true;
                    else if (entry.StartsWith("CE"u8) && entry.Length >= 28)
                        next =
                            image.Read(
                                (long)BinaryPrimitives.ReadUInt32LittleEndian(entry[4..]) * block
                                    + BinaryPrimitives.ReadUInt32LittleEndian(entry[12..]),
                                (int)Math.Min(Sector, BinaryPrimitives.ReadUInt32LittleEndian(entry[20..]))
                            ) ?? [];
                    else if (entry.StartsWith("ST"u8))
                        break;
                }
                area = next;
            }
            return (name is null ? null : Encoding.UTF8.GetString(name.ToArray()), child, moved, link);
        }
    }
}
