using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.Firmware;

/// <summary>A firmware volume (UEFI PI 1.8, volume 3, section 3.2.1).</summary>
/// <param name="Offset">Where it begins in the image, in bytes.</param>
/// <param name="Length">Its length in bytes.</param>
/// <param name="FileSystem">GUID of its file system.</param>
/// <param name="FileSystemName">What that is; null where it is not one of the specification's.</param>
/// <param name="ChecksumOk">Whether its header's checksum is right.</param>
/// <param name="Files">Its files, in their order.</param>
public sealed record FirmwareVolume(
    long Offset,
    long Length,
    Guid FileSystem,
    string? FileSystemName,
    bool ChecksumOk,
    IReadOnlyList<FirmwareFile> Files
);

/// <summary>A file of a firmware volume (UEFI PI 1.8, volume 3, section 3.2.3).</summary>
/// <param name="Offset">Where it begins in the image.</param>
/// <param name="Length">Its length with its header.</param>
/// <param name="Name">Its GUID.</param>
/// <param name="Type">Its type, as the specification names it.</param>
/// <param name="ChecksumOk">Whether its header's checksum is right.</param>
/// <param name="Sections">Types of its sections, where it has such.</param>
public sealed record FirmwareFile(
    long Offset,
    long Length,
    Guid Name,
    string Type,
    bool ChecksumOk,
    IReadOnlyList<string> Sections
);

/// <summary>An area of a flash map.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Offset">Where it begins in the chip.</param>
/// <param name="Length">Its length.</param>
public sealed record FlashArea(string Name, long Offset, long Length);

/// <summary>A map of the chip that the image carries under <c>__FMAP__</c>.</summary>
/// <param name="Offset">Where the map lies.</param>
/// <param name="Name">Its name.</param>
/// <param name="Length">Length of the chip that it describes.</param>
/// <param name="Areas">Its areas.</param>
public sealed record FlashMap(long Offset, string Name, long Length, IReadOnlyList<FlashArea> Areas);

/// <summary>An option ROM (PCI Firmware Specification 3.2, section 5.1).</summary>
/// <param name="Offset">Where it begins.</param>
/// <param name="Length">Its length in bytes.</param>
/// <param name="Vendor">The vendor that it is for.</param>
/// <param name="Device">The device that it is for.</param>
/// <param name="ChecksumOk">Whether all of its bytes sum to nought; null where it is one for EFI, which carries no sum.</param>
public sealed record OptionRom(long Offset, long Length, int Vendor, int Device, bool? ChecksumOk);

/// <summary>A stretch of the image that differs from another.</summary>
/// <param name="Offset">Where it begins.</param>
/// <param name="Length">Its length.</param>
/// <param name="Region">The area or volume that it lies in; null for none.</param>
public sealed record RomDifference(long Offset, long Length, string? Region);

/// <summary>
/// What stands in the image of a firmware chip: volumes with their files, a flash map, the reset vector, option ROMs, texts that
/// look like versions, and how full each 4 KiB are. Reads only; whatever the bytes claim, time and memory are bounded by their number.
/// </summary>
/// <param name="Length">Its length in bytes.</param>
/// <param name="Volumes">Volumes, in their order.</param>
/// <param name="Map">The flash map; null where it carries none.</param>
/// <param name="ResetVector">How the processor begins, in words; null where nothing stands there.</param>
/// <param name="OptionRoms">Option ROMs.</param>
/// <param name="Strings">Texts that look like versions or dates.</param>
/// <param name="Entropy">For each 4 KiB its entropy in bits a byte, 0 to 8.</param>
/// <param name="Findings">What is odd, in sentences.</param>
public sealed record RomImage(
    long Length,
    IReadOnlyList<FirmwareVolume> Volumes,
    FlashMap? Map,
    string? ResetVector,
    IReadOnlyList<OptionRom> OptionRoms,
    IReadOnlyList<string> Strings,
    IReadOnlyList<double> Entropy,
    IReadOnlyList<string> Findings
)
{
    /// <summary>The largest image that is read: chips of this trade have 512 KiB to 64 MiB.</summary>
    public const int LargestBytes = 64 << 20;
    private const int EntropyBlock = 4096;
    private const double Compressed = 7.4;
    private const int MostFiles = 20_000;
    private const int MostSections = 64;
    private const int MostStrings = 60;
    private const int MostVolumes = 1_000;

    private static readonly Dictionary<Guid, string> FileSystems = new()
    {
        // UEFI PI 1.8, volume 3, section 3.2.2, and EDK II's variable store.
        [new Guid("8c8ce578-8a3d-4f1c-9935-896185c32dd3")] = "firmware file system 2",
        [new Guid("5473c07a-3dcb-4dca-bd6f-1e9689e7349a")] = "firmware file system 3",
        [new Guid("fff12b8d-7696-4c8b-a985-2747075b4f50")] = "variables",
    };

    private static readonly Dictionary<byte, string> FileTypes = new()
    {
        // UEFI PI 1.8, volume 3, table 3-3.
        [0x01] = "raw",
        [0x02] = "freeform",
        [0x03] = "security core",
        [0x04] = "PEI core",
        [0x05] = "DXE core",
        [0x06] = "PEIM",
        [0x07] = "driver",
        [0x08] = "combined PEIM and driver",
        [0x09] = "application",
        [0x0a] = "MM driver",
        [0x0b] = "volume image",
        [0x0d] = "MM core",
        [0xf0] = "padding",
    };

    private static readonly Dictionary<byte, string> SectionTypes = new()
    {
        // UEFI PI 1.8, volume 3, section 3.2.4.
        [0x01] = "compressed",
        [0x02] = "GUID-defined",
        [0x03] = "disposable",
        [0x10] = "PE32",
        [0x11] = "PIC",
        [0x12] = "TE",
        [0x13] = "DXE depex",
        [0x14] = "version",
        [0x15] = "name",
        [0x16] = "compatibility16",
        [0x17] = "volume",
        [0x18] = "freeform",
        [0x19] = "raw",
        [0x1b] = "PEI depex",
        [0x1c] = "MM depex",
    };

    /// <summary>Reads an image.</summary>
    /// <exception cref="FormatRefusedException">It is empty, or larger than any chip.</exception>
    public static RomImage Read(ReadOnlySpan<byte> image)
    {
        if (image.Length is 0 or > LargestBytes)
            throw new FormatRefusedException(
                $"The image has {image.Length} bytes.",
                "file",
                $"1 to {LargestBytes} bytes, as they were read from the chip."
            );
        var findings = new List<string>();
        if (!int.IsPow2(image.Length))
            findings.Add(
                $"Its length, {image.Length} bytes, is no power of two: it is a part of a chip, or was cut off."
            );
        var volumes = VolumesOf(image, findings);
        var map = MapOf(image, findings);
        var entropy = EntropyOf(image);
        var reset = ResetOf(image, volumes);
        var options = OptionRomsOf(image);
        Emptiness(
            image,
            entropy,
            volumes.Count > 0 || map is not null || reset is not null || options.Count > 0,
            findings
        );
        return new RomImage(image.Length, volumes, map, reset, options, StringsOf(image, entropy), entropy, findings);
    }

    /// <summary>Where two images differ, in stretches of whole 4 KiB; what is longer than the other differs from nothing.</summary>
    public IReadOnlyList<RomDifference> Differences(ReadOnlySpan<byte> own, ReadOnlySpan<byte> other)
    {
        var differences = new List<RomDifference>();
        var longest = Math.Max(own.Length, other.Length);
        long? from = null;
        // One block beyond the last, whole or not: a stretch that reaches the end ends there.
        for (long at = 0; at < longest + EntropyBlock; at += EntropyBlock)
        {
            var differs = at < longest && !Block(own, at).SequenceEqual(Block(other, at));
            if (differs && from is null)
                from = at;
            if (!differs && from is { } start)
            {
                differences.Add(new RomDifference(start, Math.Min(at, longest) - start, RegionAt(start)));
                from = null;
            }
        }
        return differences;
    }

    private static ReadOnlySpan<byte> Block(ReadOnlySpan<byte> image, long at) =>
        at >= image.Length ? [] : image[(int)at..(int)Math.Min(image.Length, at + EntropyBlock)];

    /// <summary>The smallest area of the map that holds a place, or the volume.</summary>
    private string? RegionAt(long at) =>
        Map?.Areas.Where(a => a.Offset <= at && at < a.Offset + a.Length).MinBy(a => a.Length)?.Name
        ?? (
            Volumes.FirstOrDefault(v => v.Offset <= at && at < v.Offset + v.Length) is { } volume
                ? $"volume at 0x{volume.Offset:x}"
                : null
        );

    private static List<FirmwareVolume> VolumesOf(ReadOnlySpan<byte> image, List<string> findings)
    {
        const int signatureAt = 40;
        var volumes = new List<FirmwareVolume>();
        var files = 0;
        var at = 0;
        while (volumes.Count < MostVolumes && image[at..].IndexOf("_FVH"u8) is >= 0 and var found)
        {
            var offset = at + found - signatureAt;
            at += found + 4;
            if (offset < 0 || !Header(image[offset..], out var length, out var header, out var blocks))
                continue;
            var ok = Sum16(image.Slice(offset, header)) == 0;
            if (!ok)
                findings.Add($"The checksum of the volume at 0x{offset:x} is wrong.");
            if (blocks != length)
                findings.Add($"The block map of the volume at 0x{offset:x} tells {blocks} bytes, its header {length}.");
            var system = new Guid(image.Slice(offset + 16, 16));
            var name = FileSystems.GetValueOrDefault(system);
            var inside =
                name?.StartsWith("firmware", StringComparison.Ordinal) == true
                    ? FilesOf(image.Slice(offset, (int)length), offset, header, ref files)
                    : [];
            volumes.Add(new FirmwareVolume(offset, length, system, name, ok, inside));
            // A volume within a file of this one belongs to that file.
            at = (int)Math.Max(at, offset + length);
        }
        return volumes;
    }

    /// <summary>Whether a header makes sense at all: text that only looks like one is common in firmware's own code.</summary>
    private static bool Header(ReadOnlySpan<byte> at, out long length, out int header, out long blocks)
    {
        (length, header, blocks) = (0, 0, 0);
        if (at.Length < 72)
            return false;
        var total = BinaryPrimitives.ReadUInt64LittleEndian(at[32..]);
        header = BinaryPrimitives.ReadUInt16LittleEndian(at[48..]);
        if (total > (ulong)at.Length || header < 72 || header > 4096 || (ulong)header > total || at[55] is not (1 or 2))
            return false;
        length = (long)total;
        for (var map = 56; map + 8 <= header; map += 8)
        {
            var (count, size) = (
                BinaryPrimitives.ReadUInt32LittleEndian(at[map..]),
                BinaryPrimitives.ReadUInt32LittleEndian(at[(map + 4)..])
            );
            if (count == 0 && size == 0)
                break;
            blocks += (long)Math.Min((ulong)count * size, long.MaxValue / 4096);
        }
        return true;
    }

    private static List<FirmwareFile> FilesOf(ReadOnlySpan<byte> volume, int offset, int header, ref int seen)
    {
        var files = new List<FirmwareFile>();
        long at = header;
        // An extended header stands before the files (section 3.2.1.1).
        var extended = BinaryPrimitives.ReadUInt16LittleEndian(volume[52..]);
        if (extended >= header && extended + 20 <= volume.Length)
            at = extended + (long)BinaryPrimitives.ReadUInt32LittleEndian(volume[(extended + 16)..]);
        for (at = Up8(at); at + 24 <= volume.Length && seen < MostFiles; )
        {
            var file = volume[(int)at..];
            if (file[..24].IndexOfAnyExcept((byte)0xff) < 0)
                break;
            long size = file[20] | (file[21] << 8) | (file[22] << 16);
            var head = 24;
            // FFS3: a file of 16 MiB or more keeps its size behind the usual header.
            if ((file[19] & 1) != 0 && file.Length >= 32)
                (size, head) = ((long)Math.Min(BinaryPrimitives.ReadUInt64LittleEndian(file[24..]), int.MaxValue), 32);
            if (size < head || size > file.Length)
                break;
            seen++;
            files.Add(
                new FirmwareFile(
                    offset + at,
                    size,
                    new Guid(file[..16]),
                    FileTypes.GetValueOrDefault(file[18]) ?? $"type 0x{file[18]:x2}",
                    HeaderSum(file[..head]) == 0,
                    file[18] is 0x01 or 0xf0 ? [] : SectionsOf(file[head..(int)size])
                )
            );
            at = Up8(at + size);
        }
        return files;
    }

    private static List<string> SectionsOf(ReadOnlySpan<byte> content)
    {
        var sections = new List<string>();
        var at = 0;
        while (at + 4 <= content.Length && sections.Count < MostSections)
        {
            long size = content[at] | (content[at + 1] << 8) | (content[at + 2] << 16);
            if (size == 0xffffff && at + 8 <= content.Length)
                size = BinaryPrimitives.ReadUInt32LittleEndian(content[(at + 4)..]);
            if (size < 4 || size > content.Length - at)
                break;
            sections.Add(SectionTypes.GetValueOrDefault(content[at + 3]) ?? $"type 0x{content[at + 3]:x2}");
            at += (int)((size + 3) & ~3L);
        }
        return sections;
    }

    /// <summary>The header's own sum: state and the file's checksum count as nought (section 3.2.3.1).</summary>
    private static byte HeaderSum(ReadOnlySpan<byte> header)
    {
        byte sum = 0;
        for (var i = 0; i < header.Length; i++)
            if (i is not (17 or 23))
                sum += header[i];
        return sum;
    }

    private static ushort Sum16(ReadOnlySpan<byte> header)
    {
        ushort sum = 0;
        for (var i = 0; i + 1 < header.Length; i += 2)
            sum += BinaryPrimitives.ReadUInt16LittleEndian(header[i..]);
        return sum;
    }

    private static long Up8(long at) => (at + 7) & ~7L;

    private static FlashMap? MapOf(ReadOnlySpan<byte> image, List<string> findings)
    {
        const int head = 56;
        const int area = 42;
        var at = 0;
        while (image[at..].IndexOf("__FMAP__"u8) is >= 0 and var found)
        {
            var offset = at + found;
            at = offset + 8;
            if (image.Length - offset < head || image[offset + 8] != 1)
                continue;
            var map = image[offset..];
            var length = BinaryPrimitives.ReadUInt32LittleEndian(map[18..]);
            var count = BinaryPrimitives.ReadUInt16LittleEndian(map[54..]);
            if (count == 0 || head + (count * area) > map.Length || Text(map.Slice(22, 32)) is not { } name)
                continue;
            var areas = new List<FlashArea>();
            for (var i = 0; i < count; i++)
            {
                var entry = map.Slice(head + (i * area), area);
                areas.Add(
                    new FlashArea(
                        Text(entry.Slice(8, 32)) ?? $"area {i + 1}",
                        BinaryPrimitives.ReadUInt32LittleEndian(entry),
                        BinaryPrimitives.ReadUInt32LittleEndian(entry[4..])
                    )
                );
            }
            foreach (var beyond in areas.Where(a => a.Offset + a.Length > length))
                findings.Add($"The area {beyond.Name} of the flash map ends beyond its chip.");
            if (length != image.Length)
                findings.Add($"The flash map is for a chip of {length} bytes; the image has {image.Length}.");
            return new FlashMap(offset, name, length, areas);
        }
        return null;
    }

    /// <summary>A name of at most 32 characters that ends with nought; null where it is none.</summary>
    private static string? Text(ReadOnlySpan<byte> bytes)
    {
        var end = bytes.IndexOf((byte)0);
        var text = end < 0 ? bytes : bytes[..end];
        return text.Length > 0 && text.IndexOfAnyExceptInRange((byte)0x20, (byte)0x7e) < 0
            ? Encoding.ASCII.GetString(text)
            : null;
    }

    /// <summary>The processor begins 16 bytes before the end of the chip (the reset vector of x86 at 4 GiB less 16 bytes; UEFI PI 1.8, volume 1, section 3.1), with a jump.</summary>
    private static string? ResetOf(ReadOnlySpan<byte> image, List<FirmwareVolume> volumes)
    {
        if (image.Length < 16)
            return null;
        var last = image[^16..];
        var jump = last switch
        {
            [0xea, ..] =>
                $"far jump to {BinaryPrimitives.ReadUInt16LittleEndian(last[3..]):x4}:{BinaryPrimitives.ReadUInt16LittleEndian(last[1..]):x4}",
            [0xe9, ..] => "near jump into the block before it",
            [0xeb, ..] => "short jump into the block before it",
            _ => null,
        };
        if (jump is not null)
            return jump;
        // Cache and pipeline are put in order first (NOP, WBINVD, CLI): the jump stands behind that.
        var at = 0;
        while (at < 10)
            if (last[at] is 0x90 or 0xfa or 0xfc)
                at++;
            else if (last[at] == 0x0f && last[at + 1] is 0x09 or 0x08)
                at += 2;
            else
                break;
        if (at > 0 && last[at] is 0xe9 or 0xea or 0xeb)
            return "jump behind instructions that put cache and flags in order";
        // A whole file of the Platform Initialization kind: the last volume holds the vector (UEFI PI 1.8, volume 3, section 3.2.2.1).
        return
            volumes.Count > 0
            && volumes[^1] is var end
            && end.Offset + end.Length == image.Length
            && end.Files.Count > 0
            && last.IndexOfAnyExcept((byte)0x00, (byte)0xff) >= 0
            ? "code of the volume that ends the image"
            : null;
    }

    private static List<OptionRom> OptionRomsOf(ReadOnlySpan<byte> image)
    {
        var roms = new List<OptionRom>();
        for (var at = 0; at + 512 <= image.Length && roms.Count < 64; at += 512)
        {
            if (image[at] != 0x55 || image[at + 1] != 0xaa)
                continue;
            var data = BinaryPrimitives.ReadUInt16LittleEndian(image[(at + 0x18)..]);
            if (data < 0x1a || at + data + 24 > image.Length)
                continue;
            var pci = image[(at + data)..];
            if (!pci.StartsWith("PCIR"u8))
                continue;
            // Byte 2 is the length of a ROM for legacy BIOS (code type 0) alone; in one for EFI it is a part of another field, and the length
            // stands in the data structure (PCI Firmware Specification 3.2, sections 5.1.2 and 5.1.3; UEFI 2.10, section 14.4.2).
            var legacy = pci[0x14] == 0;
            var stated = BinaryPrimitives.ReadUInt16LittleEndian(pci[0x10..]) * 512;
            var length = legacy && image[at + 2] != 0 ? image[at + 2] * 512 : stated;
            if (length == 0 || at + length > image.Length || data + 24 > length)
                continue;
            byte sum = 0;
            foreach (var b in image.Slice(at, length))
                sum += b;
            roms.Add(
                new OptionRom(
                    at,
                    length,
                    BinaryPrimitives.ReadUInt16LittleEndian(pci[4..]),
                    BinaryPrimitives.ReadUInt16LittleEndian(pci[6..]),
                    // Only a ROM for legacy BIOS is summed up; one for EFI carries no sum.
                    legacy ? sum == 0 : null
                )
            );
        }
        return roms;
    }

    /// <summary>Texts with a digit, a full stop or a slash, and a digit again: versions and dates look so.</summary>
    private static List<string> StringsOf(ReadOnlySpan<byte> image, double[] entropy)
    {
        var texts = new List<string>();
        var seen = new HashSet<string>(StringComparer.Ordinal);
        var at = 0;
        while (at < image.Length && texts.Count < MostStrings)
        {
            var start = image[at..].IndexOfAnyInRange((byte)0x20, (byte)0x7e);
            if (start < 0)
                break;
            start += at;
            var run = image[start..].IndexOfAnyExceptInRange((byte)0x20, (byte)0x7e);
            var end = run < 0 ? image.Length : start + run;
            at = end + 1;
            // What is compressed looks like any text now and then.
            if (end - start is < 6 or > 80 || entropy[start / EntropyBlock] > Compressed)
                continue;
            var text = image[start..end];
            for (var i = 1; i + 1 < text.Length; i++)
                if (
                    text[i] is (byte)'.' or (byte)'/'
                    && char.IsAsciiDigit((char)text[i - 1])
                    && char.IsAsciiDigit((char)text[i + 1])
                )
                {
                    var said = Encoding.ASCII.GetString(text).Trim();
                    if (seen.Add(said))
                        texts.Add(said);
                    break;
                }
        }
        return texts;
    }

    private static double[] EntropyOf(ReadOnlySpan<byte> image)
    {
        var blocks = new double[(image.Length + EntropyBlock - 1) / EntropyBlock];
        Span<int> counts = stackalloc int[256];
        for (var i = 0; i < blocks.Length; i++)
        {
            var block = Block(image, (long)i * EntropyBlock);
            counts.Clear();
            foreach (var b in block)
                counts[b]++;
            var bits = 0.0;
            foreach (var count in counts)
                if (count > 0)
                    bits -= (double)count / block.Length * Math.Log2((double)count / block.Length);
            blocks[i] = Math.Round(Math.Max(0, bits), 2);
        }
        return blocks;
    }

    private static void Emptiness(ReadOnlySpan<byte> image, double[] entropy, bool known, List<string> findings)
    {
        if (image.IndexOfAnyExcept((byte)0xff) < 0 || image.IndexOfAnyExcept((byte)0) < 0)
            findings.Add("All of its bytes are alike: the chip is empty, or was not read.");
        else if (!known && entropy.Average() > 7.6)
            findings.Add(
                "Nothing in it is known, and its bytes are as good as random: it looks encrypted or compressed."
            );
        else if (!known)
            findings.Add("Neither volumes nor a flash map, a reset vector or an option ROM stand in it.");
    }
}
