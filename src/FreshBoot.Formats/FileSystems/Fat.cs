using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.FileSystems;

/// <summary>
/// Reads FAT12, FAT16 and FAT32 with long names (ECMA-107 and its extension to 32 bits, "FAT: General Overview of On-Disk Format" 1.03). Which of the three it is
/// follows from the number of clusters alone.
/// </summary>
internal static class Fat
{
    private const int EntrySize = 32;
    private const int LargestFolder = 65536 * EntrySize;

    /// <summary>Whether a sector is the first one of a FAT file system.</summary>
    public static bool LooksLike(ReadOnlySpan<byte> sector) =>
        sector.Length >= 512
        && sector[510] == 0x55
        && sector[511] == 0xaa
        && sector[0] is 0xeb or 0xe9
        && BinaryPrimitives.ReadUInt16LittleEndian(sector[11..]) is 512 or 1024 or 2048 or 4096
        && sector[13] is 1 or 2 or 4 or 8 or 16 or 32 or 64 or 128
        && BinaryPrimitives.ReadUInt16LittleEndian(sector[14..]) > 0
        && sector[16] is 1 or 2;

    /// <summary>The tree, or null where the stretch is no FAT file system.</summary>
    public static FileTree? Read(ImageBytes volume, List<ImageFinding> findings)
    {
        if (volume.Read(0, 512) is not { } boot || !LooksLike(boot))
            return null;
        return new Volume(volume, boot, findings).Read();
    }

    private sealed class Volume
    {
        private readonly ImageBytes _volume;
        private readonly List<ImageFinding> _findings;
        private readonly int _bits;
        private readonly long _fatAt;
        private readonly long _dataAt;
        private readonly long _rootAt;
        private readonly int _rootBytes;
        private readonly uint _rootCluster;
        private readonly int _clusterBytes;
        private readonly uint _clusters;
        private readonly string _label;
        private readonly bool _possible;

        public Volume(ImageBytes volume, byte[] boot, List<ImageFinding> findings)
        {
            (_volume, _findings) = (volume, findings);
            var sector = BinaryPrimitives.ReadUInt16LittleEndian(boot.AsSpan(11));
            _clusterBytes = boot[13] * sector;
            var reserved = BinaryPrimitives.ReadUInt16LittleEndian(boot.AsSpan(14));
            var rootEntries = BinaryPrimitives.ReadUInt16LittleEndian(boot.AsSpan(17));
            var small = BinaryPrimitives.ReadUInt16LittleEndian(boot.AsSpan(19));
            long total = small != 0 ? small : BinaryPrimitives.ReadUInt32LittleEndian(boot.AsSpan(32));
            long fatSectors = BinaryPrimitives.ReadUInt16LittleEndian(boot.AsSpan(22));
            var wide = fatSectors == 0;
            if (wide)
                fatSectors = BinaryPrimitives.ReadUInt32LittleEndian(boot.AsSpan(36));
            _fatAt = (long)reserved * sector;
            _rootAt = _fatAt + boot[16] * fatSectors * sector;
            _rootBytes = rootEntries * EntrySize;
            _dataAt = _rootAt + (_rootBytes + sector - 1) / sector * sector;
            var data = total * sector - _dataAt;
            _clusters = data > 0 ? (uint)Math.Min(data / _clusterBytes, 0x0fff_fff5) : 0;
            // The limits stand in the specification as they are here.
            _bits =
                _clusters < 4085 ? 12
                : _clusters < 65525 ? 16
                : 32;
            if (wide)
                _bits = 32;
            _rootCluster = _bits == 32 ? BinaryPrimitives.ReadUInt32LittleEndian(boot.AsSpan(44)) & 0x0fff_ffff : 0;
            _label = Encoding.Latin1.GetString(boot, _bits == 32 ? 71 : 43, 11).TrimEnd();
            _possible = data > 0 && fatSectors > 0;
            if (total * sector > volume.Length)
                findings.Fault("The FAT file system is larger than where it lies.", $"byte {volume.Start}");
        }

        public FileTree Read()
        {
            var tree = new FileTree($"FAT{_bits}", _label is "NO NAME" ? "" : _label, _findings);
            if (!_possible)
            {
                tree.Fault("The FAT file system has no room for files.", $"byte {_volume.Start}");
                return tree;
            }
            var seen = new HashSet<uint>();
            var open = new Stack<(string Path, uint Cluster, int Depth)>();
            open.Push(("", _rootCluster, 0));
            while (open.TryPop(out var folder))
            {
                if (!seen.Add(folder.Cluster))
                {
                    tree.Fault("A folder leads back to one that was read already.", $"/{folder.Path}");
                    continue;
                }
                if (folder.Depth > FileTree.MostDepth)
                {
                    tree.CutAt($"Folders lie more than {FileTree.MostDepth} deep.", $"/{folder.Path[..80]}…");
                    continue;
                }
                var bytes =
                    folder.Cluster == 0 && _bits != 32
                        ? _volume.Read(_rootAt, _rootBytes) ?? []
                        : Bytes(tree, folder.Path, folder.Cluster);
                Folder(tree, folder.Path, bytes, (path, cluster) => open.Push((path, cluster, folder.Depth + 1)));
                if (tree.Cut)
                    break;
            }
            return tree;
        }

        private void Folder(FileTree tree, string path, byte[] bytes, Action<string, uint> open)
        {
            var parts = new SortedDictionary<int, string>();
            for (var o = 0; o + EntrySize <= bytes.Length && bytes[o] != 0; o += EntrySize)
            {
                var entry = bytes.AsSpan(o, EntrySize);
                if (entry[0] == 0xe5)
                {
                    parts.Clear();
                    continue;
                }
                var attributes = entry[11];
                if ((attributes & 0x3f) == 0x0f)
                {
                    parts[entry[0] & 0x3f] =
                        Encoding.Unicode.GetString(entry.Slice(1, 10))
                        + Encoding.Unicode.GetString(entry.Slice(14, 12))
                        + Encoding.Unicode.GetString(entry.Slice(28, 4));
                    continue;
                }
                var name =
                    parts.Count > 0 ? string.Concat(parts.Values).Split('\0')[0].TrimEnd('\uffff') : Short(entry);
                parts.Clear();
                if ((attributes & 8) != 0 || entry[0] == '.')
                    continue; // the label, or the folder itself and the one above it
                var cluster =
                    (_bits == 32 ? (uint)BinaryPrimitives.ReadUInt16LittleEndian(entry[20..]) << 16 : 0)
                    | BinaryPrimitives.ReadUInt16LittleEndian(entry[26..]);
                var full = tree.PathOf(path, name);
                if ((attributes & 0x10) != 0)
                {
                    if (!tree.Add(new TreeEntry(full, EntryKind.Folder, 0, [])))
                        return;
                    open(full, cluster);
                }
                else
                {
                    var size = BinaryPrimitives.ReadUInt32LittleEndian(entry[28..]);
                    var extents = Chain(tree, full, cluster, size);
                    var there = Math.Min(size, extents.Sum(e => e.Length));
                    if (!tree.Add(new TreeEntry(full, EntryKind.File, there, extents)))
                        return;
                }
            }
        }

        private static string Short(ReadOnlySpan<byte> entry)
        {
            var name = Encoding.Latin1.GetString(entry[..8]).TrimEnd();
            var type = Encoding.Latin1.GetString(entry.Slice(8, 3)).TrimEnd();
            // Bits 3 and 4 of byte 12 say that name or type are shown small.
            if ((entry[12] & 8) != 0)
                name = name.ToLowerInvariant();
            if ((entry[12] & 16) != 0)
                type = type.ToLowerInvariant();
            return type.Length > 0 ? $"{name}.{type}" : name;
        }

        private byte[] Bytes(FileTree tree, string path, uint cluster)
        {
            var extents = Chain(tree, path, cluster, LargestFolder);
            using var all = new MemoryStream();
            foreach (var extent in extents)
                if (_volume.Read(extent.Offset - _volume.Start, (int)extent.Length) is { } bytes)
                    all.Write(bytes);
            return all.ToArray();
        }

        /// <summary>The extents of a chain of clusters, up to so many bytes.</summary>
        private List<Extent> Chain(FileTree tree, string path, uint cluster, long bytes)
        {
            var extents = new List<Extent>();
            var end = _bits switch
            {
                12 => 0xff8u,
                16 => 0xfff8u,
                _ => 0x0fff_fff8u,
            };
            for (uint steps = 0; bytes > 0 && cluster < end; steps++)
            {
                if (cluster < 2 || cluster - 2 >= _clusters || steps > _clusters)
                {
                    tree.Fault("The chain of clusters is broken or goes in a circle.", $"/{path}");
                    break;
                }
                var at = _volume.Start + _dataAt + (cluster - 2L) * _clusterBytes;
                var take = Math.Min(_clusterBytes, bytes);
                if (extents.Count > 0 && extents[^1].Offset + extents[^1].Length == at)
                    extents[^1] = extents[^1] with { Length = extents[^1].Length + take };
                else
                    extents.Add(new Extent(at, take));
                bytes -= take;
                if (Next(cluster) is not { } next)
                {
                    tree.Fault("The table of clusters is cut off.", $"/{path}");
                    break;
                }
                cluster = next;
            }
            return extents;
        }

        // A page of the table at a time: a chain mostly runs straight on.
        private byte[] _page = [];
        private long _pageAt = -1;

        private uint? Next(uint cluster)
        {
            var at = _bits switch
            {
                12 => cluster + cluster / 2,
                16 => cluster * 2L,
                _ => cluster * 4L,
            };
            if (_pageAt < 0 || at < _pageAt || at + 4 > _pageAt + _page.Length)
            {
                _pageAt = at & ~4095L;
                _page =
                    _volume.Part(_fatAt + _pageAt, 4096 + 4) is var part && part.Read(0, (int)part.Length) is { } read
                        ? read
                        : [];
            }
            var o = (int)(at - _pageAt);
            if (o + (_bits == 32 ? 4 : 2) > _page.Length)
                return null;
            return _bits switch
            {
                12 => BinaryPrimitives.ReadUInt16LittleEndian(_page.AsSpan(o)) is var pair && cluster % 2 == 0
                    ? pair & 0xfffu
                    : (uint)pair >> 4,
                16 => BinaryPrimitives.ReadUInt16LittleEndian(_page.AsSpan(o)),
                _ => BinaryPrimitives.ReadUInt32LittleEndian(_page.AsSpan(o)) & 0x0fff_ffff,
            };
        }
    }
}
