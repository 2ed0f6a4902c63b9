using System.Buffers.Binary;
using System.IO.Hashing;
using System.Text;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Partitions;

/// <summary>A partition as a table names it.</summary>
/// <param name="Table"><c>mbr</c> or <c>gpt</c>.</param>
/// <param name="Number">Its number in the table, from 1.</param>
/// <param name="Type">MBR: two hexadecimal digits; GPT: its type GUID.</param>
/// <param name="Name">What the type means, or the name in the GPT.</param>
/// <param name="Active">Whether it is marked to be started (MBR).</param>
/// <param name="OffsetBytes">Where it begins, in bytes.</param>
/// <param name="SizeBytes">Its size in bytes.</param>
public sealed record ImagePartition(
    string Table,
    int Number,
    string Type,
    string Name,
    bool Active,
    long OffsetBytes,
    long SizeBytes
);

/// <summary>Reads an MBR with its extended partitions, and a GPT (UEFI Specification 2.10, section 5.3).</summary>
public static class PartitionTables
{
    private const int Block = 512;

    /// <summary>Type of an EFI system partition in an MBR (UEFI Specification 2.10, table 5.4).</summary>
    public const string EfiSystemMbr = "ef";

    /// <summary>Type GUID of an EFI system partition, UEFI Specification, table 5.7.</summary>
    public const string EfiSystemGpt = "c12a7328-f81f-11d2-ba4b-00a0c93ec93b";
    private const int MostLogical = 64;
    private const int MostGptEntries = 1024;

    /// <summary>Whether the first sector has the mark 55 AA, without which legacy firmware passes it over.</summary>
    public static bool HasBootMark(ReadOnlySpan<byte> sector) => sector[510] == 0x55 && sector[511] == 0xaa;

    /// <summary>
    /// Whether the first sector holds what starts something: the mark 55 AA, and code that reads on. One sector holds no system; what it
    /// starts is read by INT 13h (CD 13), and code without that prints "not a bootable disk" and waits. A jump over the parameters of a
    /// file system is no code, and neither are those parameters.
    /// </summary>
    public static bool HasBootCode(ReadOnlySpan<byte> sector)
    {
        if (!HasBootMark(sector))
            return false;
        // A short or a near jump at the beginning tells where the code is; what lies between is data.
        var from = sector[0] switch
        {
            0xeb => 2 + (sbyte)sector[1],
            0xe9 => 3 + BinaryPrimitives.ReadInt16LittleEndian(sector[1..]),
            _ => 0,
        };
        ReadOnlySpan<byte> reads = [0xcd, 0x13];
        return sector[(from is > 0 and < 510 ? from : 0)..510].IndexOf(reads) >= 0;
    }

    /// <summary>The disk's number in its MBR (byte 440); null where it has none, or no MBR.</summary>
    internal static string? DiskNumber(ImageBytes image) =>
        image.Read(0, Block) is { } mbr
        && HasBootMark(mbr)
        && !Fat.LooksLike(mbr)
        && BinaryPrimitives.ReadUInt32LittleEndian(mbr.AsSpan(440)) is not 0 and var number
            ? $"{number:x8}"
            : null;

    /// <summary>The disk's GUID in its GPT (UEFI 2.10, table 5.5, byte 56); null where it has none.</summary>
    internal static string? DiskGuid(ImageBytes image) =>
        Header(image, Block) is { } header ? new Guid(header.AsSpan(56, 16)).ToString() : null;

    /// <summary>Where the second header of its GPT lies; null where there is none where the first one says.</summary>
    internal static long? SecondHeader(ImageBytes image) =>
        Header(image, Block) is { } first
        && BinaryPrimitives.ReadUInt64LittleEndian(first.AsSpan(32)) is var at
        && at <= (ulong)(image.Length / Block)
        && Header(image, (long)at * Block) is not null
            ? (long)at * Block
            : null;

    private static byte[]? Header(ImageBytes image, long at) =>
        image.Read(at, Block) is { } header && header.AsSpan(0, 8).SequenceEqual("EFI PART"u8) ? header : null;

    internal static IReadOnlyList<ImagePartition> Read(ImageBytes image, List<ImageFinding> findings)
    {
        var all = new List<ImagePartition>();
        if (image.Read(0, Block) is not { } mbr || mbr[510] != 0x55 || mbr[511] != 0xaa || Fat.LooksLike(mbr))
            return all;
        var protective = false;
        for (var i = 0; i < 4; i++)
        {
            var entry = mbr.AsSpan(446 + i * 16, 16);
            if (entry[0] is not (0 or 0x80))
            {
                // The first sector of a bare file system looks like this; it has no table.
                return all.Count == 0 ? [] : all;
            }
            // Some hybrids name their partition with type 00; an entry that is not used has no size.
            if (entry[4] == 0 && BinaryPrimitives.ReadUInt32LittleEndian(entry[12..]) == 0)
                continue;
            protective |= entry[4] == 0xee;
            var partition = Mbr(i + 1, entry, 0);
            Check(image, partition, findings);
            all.Add(partition);
            if (entry[4] is 0x05 or 0x0f or 0x85)
                Logical(image, partition.OffsetBytes, all, findings);
        }
        // A hybrid keeps a GPT beside an MBR that is not only protective.
        if (Gpt(image, findings, wanted: protective) is { Count: > 0 } gpt)
            all.AddRange(gpt);
        return all;
    }

    private static ImagePartition Mbr(int number, ReadOnlySpan<byte> entry, long origin) =>
        new(
            "mbr",
            number,
            $"{entry[4]:x2}",
            entry[4] switch
            {
                0x01 or 0x04 or 0x06 or 0x0e => "FAT16",
                0x0b or 0x0c => "FAT32",
                0x05 or 0x0f or 0x85 => "extended",
                0x07 => "exFAT or other",
                0x17 or 0x96 or 0x00 => "ISO 9660",
                0xcd => "ISO 9660",
                0x83 => "Linux",
                0xee => "protects a GPT",
                0xef => "EFI system",
                _ => "",
            },
            (entry[0] & 0x80) != 0,
            origin + (long)BinaryPrimitives.ReadUInt32LittleEndian(entry[8..]) * Block,
            (long)BinaryPrimitives.ReadUInt32LittleEndian(entry[12..]) * Block
        );

    private static void Logical(ImageBytes image, long first, List<ImagePartition> all, List<ImageFinding> findings)
    {
        var at = first;
        var seen = new HashSet<long>();
        for (var number = 5; number < 5 + MostLogical; number++)
        {
            if (!seen.Add(at) || image.Read(at, Block) is not { } sector || sector[510] != 0x55 || sector[511] != 0xaa)
            {
                findings.Fault("The chain of logical partitions is broken.", $"byte {at}");
                return;
            }
            if (sector[446 + 4] != 0)
            {
                var partition = Mbr(number, sector.AsSpan(446, 16), at);
                Check(image, partition, findings);
                all.Add(partition);
            }
            var next = sector.AsSpan(462, 16);
            if (next[4] == 0)
                return;
            at = first + (long)BinaryPrimitives.ReadUInt32LittleEndian(next[8..]) * Block;
        }
        findings.Fault($"There are more than {MostLogical} logical partitions; the rest is not read.", "MBR");
    }

    private static List<ImagePartition>? Gpt(ImageBytes image, List<ImageFinding> findings, bool wanted)
    {
        var header = image.Read(Block, Block);
        if (header is null || !header.AsSpan(0, 8).SequenceEqual("EFI PART"u8))
        {
            if (wanted)
                findings.Fault("The MBR says that a GPT follows; there is none.", "sector 1");
            return null;
        }
        var size = BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(12));
        if (size is < 92 or > Block)
        {
            findings.Fault($"The GPT header says that it has {size} bytes.", "sector 1");
            return null;
        }
        var crc = BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(16));
        var zeroed = header.AsSpan(0, (int)size).ToArray();
        zeroed.AsSpan(16, 4).Clear();
        if (Crc32.HashToUInt32(zeroed) != crc)
            findings.Fault("The checksum of the GPT header is wrong.", "sector 1");
        var table = BinaryPrimitives.ReadUInt64LittleEndian(header.AsSpan(72));
        var count = BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(80));
        var entrySize = BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(84));
        if (
            entrySize is < 128 or > 4096
            || count > MostGptEntries
            || table > (ulong)(image.Length / Block)
            || image.Read((long)table * Block, (int)(count * entrySize)) is not { } entries
        )
        {
            findings.Fault("The entries of the GPT lie beyond the end of the image, or make no sense.", "sector 1");
            return null;
        }
        if (Crc32.HashToUInt32(entries) != BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(88)))
            findings.Fault("The checksum of the GPT entries is wrong.", $"sector {table}");
        var backup = BinaryPrimitives.ReadUInt64LittleEndian(header.AsSpan(32));
        if (
            backup > (ulong)(image.Length / Block)
            || image.Read((long)backup * Block, 8) is not { } mark
            || !mark.AsSpan().SequenceEqual("EFI PART"u8)
        )
            findings.Remark("The GPT has no second copy where it says; repair it after writing.", $"sector {backup}");
        var all = new List<ImagePartition>();
        for (var i = 0; i < count; i++)
        {
            var entry = entries.AsSpan(i * (int)entrySize, 128);
            if (!entry[..16].ContainsAnyExcept((byte)0))
                continue;
            var first = BinaryPrimitives.ReadUInt64LittleEndian(entry[32..]);
            var last = BinaryPrimitives.ReadUInt64LittleEndian(entry[40..]);
            if (last < first || last > long.MaxValue / Block)
            {
                findings.Fault("A partition ends before it begins, or beyond all reason.", $"GPT, entry {i + 1}");
                continue;
            }
            var partition = new ImagePartition(
                "gpt",
                i + 1,
                new Guid(entry[..16]).ToString(),
                Encoding.Unicode.GetString(entry[56..128]).TrimEnd('\0'),
                false,
                (long)first * Block,
                (long)(last - first + 1) * Block
            );
            Check(image, partition, findings);
            all.Add(partition);
        }
        return all;
    }

    private static void Check(ImageBytes image, ImagePartition partition, List<ImageFinding> findings)
    {
        if (partition.Type == "ee")
            return;
        if (partition.OffsetBytes > image.Length - partition.SizeBytes)
            findings.Fault(
                "A partition reaches beyond the end of the image.",
                $"{partition.Table.ToUpperInvariant()}, entry {partition.Number}"
            );
    }
}
