using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;

namespace FreshBoot.Formats.FileSystems;

/// <summary>
/// Writes a FAT32 file system with a set of files onto a medium, behind an MBR: what UEFI starts from (UEFI Specification 2.10,
/// section 13.3). Files stream through; nothing is held but the directory. Layout after "FAT: General Overview of On-Disk Format" 1.03.
/// </summary>
public static class FatWriter
{
    /// <summary>The partition begins at 1 MiB, so that it is aligned for every medium.</summary>
    public const long FirstByte = 1 << 20;

    /// <summary>Size of a part of a file that is split: 3.5 GiB, well below the limit.</summary>
    public const long PartBytes = 3_758_096_384;
    private const int Sector = 512;
    private const int Reserved = 32;
    private const int Chunk = 4 << 20;

    /// <summary>FAT32 has at least so many clusters; with fewer it would be taken for FAT16.</summary>
    private const long FewestClusters = 65_525;

    /// <summary>Largest file: one byte less than 4 GiB, since its size has 32 bits.</summary>
    public const long LargestFile = uint.MaxValue;

    /// <summary>Clusters as large as the specification recommends for a size, but so many that it is FAT32.</summary>
    private static readonly (uint MostSectors, int PerCluster)[] Bands =
    [
        (532_480, 1),
        (16_777_216, 8),
        (33_554_432, 16),
        (67_108_864, 32),
        (uint.MaxValue - (uint)(FirstByte / Sector), 64),
    ];

    /// <summary>A file as FAT32 is to hold it.</summary>
    /// <param name="Path">Its path.</param>
    /// <param name="SizeBytes">Its size.</param>
    public record Listed(string Path, long SizeBytes);

    /// <summary>A file to write.</summary>
    /// <param name="Path">Its path.</param>
    /// <param name="SizeBytes">Its size.</param>
    /// <param name="Open">Opens its content.</param>
    public sealed record Source(string Path, long SizeBytes, Func<Stream> Open) : Listed(Path, SizeBytes);

    /// <summary>The files of a tree as FAT32 can hold them: too large ones in parts, or left out.</summary>
    public static IReadOnlyList<Listed> List(FileTree tree, bool split) => Sources(Stream.Null, tree, split);

    /// <summary>The files of an image as FAT32 can hold them: too large ones in parts, or left out.</summary>
    public static IReadOnlyList<Source> Sources(Stream image, FileTree tree, bool split) =>
        [.. tree.Entries.Where(e => e.Kind == EntryKind.File).SelectMany(e => Parts(image, e, split))];

    private static IEnumerable<Source> Parts(Stream image, TreeEntry entry, bool split)
    {
        if (entry.SizeBytes <= LargestFile)
            yield return new Source(entry.Path, entry.SizeBytes, () => new ExtentStream(image, entry));
        else if (split)
            for (var i = 0; i * PartBytes < entry.SizeBytes; i++)
            {
                var at = i * PartBytes;
                var size = Math.Min(PartBytes, entry.SizeBytes - at);
                yield return new Source(
                    $"{entry.Path}.{i + 1:000}",
                    size,
                    () => new ExtentStream(image, entry) { Position = at }
                );
            }
    }

    /// <summary>
    /// Bytes that a medium must have for these files, with tables and the space before the partition, up to a whole MiB. A
    /// larger one may have larger clusters, and then hold fewer small files: ask <see cref="Holds"/> of a certain one.
    /// </summary>
    /// <exception cref="FormatRefusedException">A name or a size that FAT32 cannot hold, or more than 2 TiB.</exception>
    public static long BytesFor(IReadOnlyList<Listed> files)
    {
        var root = Tree(files);
        long least = 0;
        foreach (var (most, perCluster) in Bands)
        {
            var data = Math.Max(ClustersOf(root, perCluster * Sector, isRoot: true), FewestClusters) * perCluster;
            // The tables grow with what they describe: taken again until nothing changes.
            long sectors = 0;
            for (var next = Math.Max(least, Reserved + data); next != sectors; )
            {
                sectors = next;
                next = Math.Max(least, Reserved + 2 * FatSectors(sectors, perCluster) + data);
            }
            const long mib = 1 << 20;
            if (sectors <= most)
                return FirstByte + (sectors * Sector + mib - 1) / mib * mib;
            least = most + 1L;
        }
        throw new FormatRefusedException(
            "The files take more than FAT32 behind an MBR can hold.",
            "size",
            "Less than 2 TiB, in fewer or larger files."
        );
    }

    /// <summary>Whether a partition of so many bytes holds these files: what <see cref="Write"/> would find.</summary>
    public static bool Holds(IReadOnlyList<Listed> files, long partitionBytes)
    {
        var size = Geometry.Of(partitionBytes);
        return size.Clusters >= FewestClusters
            && ClustersOf(Tree(files), size.PerCluster * Sector, isRoot: true) <= size.Clusters;
    }

    /// <summary>Sectors of one table; a little too large is harmless, too small is not.</summary>
    private static long FatSectors(long sectors, int perCluster) =>
        ((sectors - Reserved) / perCluster + 2) * 4 / Sector + 1;

    [StructLayout(LayoutKind.Auto)]
    private readonly record struct Geometry(uint Sectors, int PerCluster, uint FatSectors, long Clusters)
    {
        public static Geometry Of(long bytes)
        {
            var sectors = (uint)Math.Clamp(bytes / Sector, 0, Bands[^1].MostSectors);
            var perCluster = Bands.First(b => sectors <= b.MostSectors).PerCluster;
            var fat = FatWriter.FatSectors(sectors, perCluster);
            return new Geometry(sectors, perCluster, (uint)fat, (sectors - Reserved - 2 * fat) / perCluster);
        }
    }

    /// <summary>Clusters that a folder with all below it takes, or a file.</summary>
    private static long ClustersOf(Node node, int clusterBytes, bool isRoot) =>
        node.File is { } file
            ? (file.SizeBytes + clusterBytes - 1) / clusterBytes
            : ListingBytes(node, clusterBytes, isRoot) / clusterBytes
                + node.Children.Values.Sum(c => ClustersOf(c, clusterBytes, isRoot: false));

    /// <summary>Bytes of a folder's own listing, in whole clusters.</summary>
    private static int ListingBytes(Node node, int clusterBytes, bool isRoot)
    {
        var entries = node.Children.Values.Sum(c => 1 + LongEntries(c.Name)) + (isRoot ? 1 : 2);
        return (entries * 32 + clusterBytes - 1) / clusterBytes * clusterBytes;
    }

    private sealed class Node(string name)
    {
        public string Name { get; } = name;
        public SortedDictionary<string, Node> Children { get; } = new(StringComparer.OrdinalIgnoreCase);
        public Listed? File { get; set; }
        public Source? Source => File as Source;
        public uint Cluster { get; set; }
        public byte[] Listing { get; set; } = [];
    }

    /// <summary>Writes MBR, file system and files.</summary>
    /// <param name="medium">The medium; what lies beyond the partition is left.</param>
    /// <param name="bytes">Size of the partition in bytes.</param>
    /// <param name="label">Label of the volume.</param>
    /// <param name="sources">The files.</param>
    /// <param name="second">Where a second partition begins and its size; null for none.</param>
    /// <param name="progress">Told how many bytes of files have been written.</param>
    /// <param name="stop">Stops it between two chunks.</param>
    /// <exception cref="FormatRefusedException">The files do not fit.</exception>
    public static void Write(
        IBlockDevice medium,
        long bytes,
        string label,
        IReadOnlyList<Source> sources,
        (long Offset, long SizeBytes)? second,
        Action<long> progress,
        CancellationToken stop
    )
    {
        var (sectors, perCluster, fatSectors, clusters) = Geometry.Of(bytes);
        var clusterBytes = perCluster * Sector;
        var dataSector = Reserved + 2 * fatSectors;
        if (clusters < FewestClusters)
            throw new FormatRefusedException("The medium is too small for FAT32.", "medium", "At least 40 MiB.");

        var root = Tree(sources);
        var next = 2u;
        var order = new List<Node>();
        Place(root, isRoot: true);
        if (next - 2 > clusters)
            throw new FormatRefusedException(
                $"The files take {(next - 2L) * clusterBytes} bytes; the file system has {clusters * clusterBytes}.",
                "medium",
                "A larger medium."
            );

        var volume = (uint)label.Aggregate(17, (h, c) => h * 31 + c);
        // The first sector last: until then firmware finds nothing that it could start.
        medium.Write(0, new byte[Sector]);
        WriteTables();
        foreach (var node in order.Where(n => n.Source is null))
            WriteAt(node.Cluster, node.Listing);
        long done = 0;
        var chunk = new byte[Chunk];
        foreach (var node in order.Where(n => n.Source is not null))
        {
            using var content = node.Source!.Open();
            var left = node.Source.SizeBytes;
            var at = ByteOf(node.Cluster);
            while (left > 0)
            {
                stop.ThrowIfCancellationRequested();
                var want = (int)Math.Min(Chunk, left);
                content.ReadExactly(chunk, 0, want);
                medium.Write(at, chunk.AsSpan(0, want));
                at += want;
                left -= want;
                progress(done += want);
            }
        }
        medium.Flush();
        medium.Write(0, Mbr());
        medium.Flush();

        long ByteOf(uint cluster) => FirstByte + dataSector * (long)Sector + (cluster - 2L) * clusterBytes;

        void WriteAt(uint cluster, byte[] content) => medium.Write(ByteOf(cluster), content);

        // Folders and files lie one after the other, each in one piece.
        void Place(Node node, bool isRoot)
        {
            if (node.Source is { } source)
            {
                var count = (uint)((source.SizeBytes + clusterBytes - 1) / clusterBytes);
                node.Cluster = count == 0 ? 0 : next;
                next += count;
                order.Add(node);
                return;
            }
            var size = ListingBytes(node, clusterBytes, isRoot);
            node.Cluster = next;
            next += (uint)(size / clusterBytes);
            order.Add(node);
            foreach (var child in node.Children.Values)
                Place(child, isRoot: false);
            node.Listing = new byte[size];
            List(node, isRoot);
        }

        void List(Node node, bool isRoot)
        {
            var at = 0;
            var taken = new HashSet<string>(StringComparer.Ordinal);
            if (isRoot)
                Entry(ShortLabel(label), 8, 0, 0);
            else
            {
                Entry(".          ", 0x10, node.Cluster, 0);
                Entry("..         ", 0x10, 0, 0);
            }
            foreach (var child in node.Children.Values)
            {
                var shortName = ShortName(child.Name, taken);
                Long(child.Name, shortName);
                Entry(
                    shortName,
                    (byte)(child.Source is null ? 0x10 : 0x20),
                    child.Cluster,
                    (uint)(child.Source?.SizeBytes ?? 0)
                );
                if (child.Source is null)
                    // The folder above; 0 where that is the root.
                    Cluster(child.Listing.AsSpan(32, 32), isRoot ? 0 : node.Cluster);
            }

            void Entry(string name, byte attributes, uint cluster, uint size)
            {
                var entry = node.Listing.AsSpan(at, 32);
                Encoding.ASCII.GetBytes(name, entry);
                entry[11] = attributes;
                // 1 December 2025: a time that says nothing of when it was written keeps the bytes the same.
                BinaryPrimitives.WriteUInt16LittleEndian(entry[24..], (2025 - 1980) << 9 | 12 << 5 | 1);
                BinaryPrimitives.WriteUInt32LittleEndian(entry[28..], size);
                Cluster(entry, cluster);
                at += 32;
            }

            void Long(string name, string shortName)
            {
                byte sum = 0;
                foreach (var c in shortName)
                    sum = (byte)((sum >> 1 | sum << 7) + c);
                var count = LongEntries(name);
                for (var i = count; i >= 1; i--, at += 32)
                {
                    var entry = node.Listing.AsSpan(at, 32);
                    entry[0] = (byte)(i | (i == count ? 0x40 : 0));
                    entry[11] = 0x0f;
                    entry[13] = sum;
                    for (var j = 0; j < 13; j++)
                    {
                        var index = (i - 1) * 13 + j;
                        var c =
                            index < name.Length ? name[index]
                            : index == name.Length ? '\0'
                            : '\uffff';
                        BinaryPrimitives.WriteUInt16LittleEndian(
                            entry[
                                (
                                    j < 5 ? 1 + j * 2
                                    : j < 11 ? 14 + (j - 5) * 2
                                    : 28 + (j - 11) * 2
                                )..
                            ],
                            c
                        );
                    }
                }
            }
        }

        static void Cluster(Span<byte> entry, uint cluster)
        {
            BinaryPrimitives.WriteUInt16LittleEndian(entry[20..], (ushort)(cluster >> 16));
            BinaryPrimitives.WriteUInt16LittleEndian(entry[26..], (ushort)cluster);
        }

        void WriteTables()
        {
            var boot = new byte[Sector];
            byte[] head = [0xeb, 0x58, 0x90];
            head.CopyTo(boot, 0);
            "FRESHBT "u8.CopyTo(boot.AsSpan(3));
            BinaryPrimitives.WriteUInt16LittleEndian(boot.AsSpan(11), Sector);
            boot[13] = (byte)perCluster;
            BinaryPrimitives.WriteUInt16LittleEndian(boot.AsSpan(14), Reserved);
            boot[16] = 2;
            boot[21] = 0xf8;
            BinaryPrimitives.WriteUInt16LittleEndian(boot.AsSpan(24), 63);
            BinaryPrimitives.WriteUInt16LittleEndian(boot.AsSpan(26), 255);
            BinaryPrimitives.WriteUInt32LittleEndian(boot.AsSpan(28), (uint)(FirstByte / Sector));
            BinaryPrimitives.WriteUInt32LittleEndian(boot.AsSpan(32), sectors);
            BinaryPrimitives.WriteUInt32LittleEndian(boot.AsSpan(36), fatSectors);
            BinaryPrimitives.WriteUInt32LittleEndian(boot.AsSpan(44), 2);
            BinaryPrimitives.WriteUInt16LittleEndian(boot.AsSpan(48), 1);
            BinaryPrimitives.WriteUInt16LittleEndian(boot.AsSpan(50), 6);
            boot[64] = 0x80;
            boot[66] = 0x29;
            BinaryPrimitives.WriteUInt32LittleEndian(boot.AsSpan(67), volume);
            Encoding.ASCII.GetBytes(ShortLabel(label), boot.AsSpan(71));
            "FAT32   "u8.CopyTo(boot.AsSpan(82));
            (boot[510], boot[511]) = (0x55, 0xaa);
            var info = new byte[Sector];
            BinaryPrimitives.WriteUInt32LittleEndian(info, 0x41615252);
            BinaryPrimitives.WriteUInt32LittleEndian(info.AsSpan(484), 0x61417272);
            BinaryPrimitives.WriteUInt32LittleEndian(info.AsSpan(488), (uint)(clusters - (next - 2)));
            BinaryPrimitives.WriteUInt32LittleEndian(info.AsSpan(492), next);
            BinaryPrimitives.WriteUInt32LittleEndian(info.AsSpan(508), 0xaa550000);
            var reserved = new byte[Reserved * Sector];
            foreach (var copy in (int[])[0, 6])
            {
                boot.CopyTo(reserved, copy * Sector);
                info.CopyTo(reserved, (copy + 1) * Sector);
            }
            medium.Write(FirstByte, reserved);

            var fat = new byte[fatSectors * (long)Sector];
            Set(0, 0x0ffffff8);
            Set(1, 0x0fffffff);
            foreach (var node in order.Where(n => n.Cluster != 0))
            {
                var size = node.Source?.SizeBytes ?? node.Listing.Length;
                var count = (uint)((size + clusterBytes - 1) / clusterBytes);
                for (var i = 0u; i < count; i++)
                    Set(node.Cluster + i, i + 1 == count ? 0x0fffffff : node.Cluster + i + 1);
            }
            for (var copy = 0; copy < 2; copy++)
            for (var at = 0; at < fat.Length; at += Chunk)
            {
                stop.ThrowIfCancellationRequested();
                medium.Write(
                    FirstByte + (Reserved + copy * (long)fatSectors) * Sector + at,
                    fat.AsSpan(at, Math.Min(Chunk, fat.Length - at))
                );
            }

            void Set(uint cluster, uint value) =>
                BinaryPrimitives.WriteUInt32LittleEndian(fat.AsSpan((int)(cluster * 4)), value);
        }

        byte[] Mbr()
        {
            var mbr = new byte[Sector];
            BinaryPrimitives.WriteUInt32LittleEndian(mbr.AsSpan(440), volume);
            Partition(0, 0x0c, FirstByte, sectors * (long)Sector);
            if (second is { } other)
                Partition(1, 0x83, other.Offset, other.SizeBytes);
            (mbr[510], mbr[511]) = (0x55, 0xaa);
            return mbr;

            void Partition(int slot, byte type, long offset, long size)
            {
                var entry = mbr.AsSpan(446 + slot * 16, 16);
                // Addresses by cylinder are out of use: the largest that the fields hold.
                byte[] largest = [0xfe, 0xff, 0xff];
                largest.CopyTo(entry[1..]);
                entry[4] = type;
                largest.CopyTo(entry[5..]);
                BinaryPrimitives.WriteUInt32LittleEndian(entry[8..], (uint)(offset / Sector));
                BinaryPrimitives.WriteUInt32LittleEndian(entry[12..], (uint)((size + Sector - 1) / Sector));
            }
        }
    }

    private static Node Tree(IReadOnlyList<Listed> files)
    {
        var root = new Node("");
        foreach (var source in files)
        {
            if (source.SizeBytes > LargestFile)
                throw new FormatRefusedException(
                    "FAT32 holds less than 4 GiB in a file.",
                    source.Path,
                    "The file in parts, or a second partition."
                );
            var at = root;
            foreach (var part in source.Path.Split('/'))
            {
                if (
                    part.Length > 255
                    || part.Any(c => c is '"' or '*' or ':' or '<' or '>' or '?' or '|' or '\\' || c < ' ')
                )
                    throw new FormatRefusedException(
                        "FAT32 cannot hold this name.",
                        source.Path,
                        "A name without \" * : < > ? | and control characters."
                    );
                if (!at.Children.TryGetValue(part, out var next))
                    at.Children[part] = next = new Node(part);
                at = next;
            }
            at.File = source;
        }
        return root;
    }

    private static int LongEntries(string name) => (name.Length + 12) / 13;

    private static string ShortLabel(string label)
    {
        var clean = string.Concat(
            label.ToUpperInvariant().Where(c => c is >= 'A' and <= 'Z' or >= '0' and <= '9' or ' ' or '_' or '-')
        );
        return (
            clean.Length > 11 ? clean[..11]
            : clean.Length == 0 ? "NO NAME"
            : clean
        ).PadRight(11);
    }

    /// <summary>An 8.3 name that nothing else in the folder has: the beginning, a tilde and a number.</summary>
    private static string ShortName(string name, HashSet<string> taken)
    {
        var dot = name.LastIndexOf('.');
        var (stem, type) = dot > 0 ? (name[..dot], name[(dot + 1)..]) : (name, "");
        var (cleanStem, cleanType) = (Clean(stem, 8), Clean(type, 3));
        if (
            cleanStem.Length > 0
            && string.Equals(cleanStem, stem, StringComparison.OrdinalIgnoreCase)
            && string.Equals(cleanType, type, StringComparison.OrdinalIgnoreCase)
        )
        {
            var plain = cleanStem.PadRight(8) + cleanType.PadRight(3);
            if (taken.Add(plain))
                return plain;
        }
        for (var i = 1; ; i++)
        {
            var tail = $"~{i}";
            var shortened = cleanStem[..Math.Min(cleanStem.Length, 8 - tail.Length)] + tail;
            var made = shortened.PadRight(8) + cleanType.PadRight(3);
            if (taken.Add(made))
                return made;
        }
    }

    private static string Clean(string text, int length)
    {
        var clean = string.Concat(
            text.ToUpperInvariant().Where(c => c is >= 'A' and <= 'Z' or >= '0' and <= '9' or '_' or '-')
        );
        return clean[..Math.Min(clean.Length, length)];
    }
}
