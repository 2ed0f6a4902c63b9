using System.Buffers.Binary;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Discs;

/// <summary>An entry of an El Torito boot catalogue.</summary>
/// <param name="Platform"><c>bios</c> (0), <c>powerpc</c> (1), <c>mac</c> (2), <c>uefi</c> (0xEF), or the number in hexadecimal.</param>
/// <param name="Bootable">Whether it says that it can be started.</param>
/// <param name="Emulation"><c>none</c>, <c>floppy</c> or <c>disk</c>.</param>
/// <param name="LoadSegment">Segment to load to; 0 means 0x7C0.</param>
/// <param name="LoadSectors">Sectors of 512 bytes to load.</param>
/// <param name="Offset">Where its image begins, in bytes.</param>
public sealed record ElToritoEntry(
    string Platform,
    bool Bootable,
    string Emulation,
    int LoadSegment,
    int LoadSectors,
    long Offset
);

/// <summary>Reads the boot catalogue of "El Torito" Bootable CD-ROM Format Specification 1.0, section 2.</summary>
internal static class ElTorito
{
    private const int Entry = 32;
    private const int MostEntries = 64;

    public static IReadOnlyList<ElToritoEntry> Read(ImageBytes image, uint sector, List<ImageFinding> findings)
    {
        var where = $"boot catalogue, sector {sector}";
        var start = (long)sector * Iso9660.Sector;
        if (image.Read(start, Entry) is not { } validation)
        {
            findings.Fault("The boot catalogue lies beyond the end of the image.", where);
            return [];
        }
        if (validation[0] != 1 || validation[30] != 0x55 || validation[31] != 0xaa)
        {
            findings.Fault("What the boot record points to is no boot catalogue.", where);
            return [];
        }
        ushort sum = 0;
        for (var i = 0; i < Entry; i += 2)
            sum += BinaryPrimitives.ReadUInt16LittleEndian(validation.AsSpan(i));
        if (sum != 0)
            findings.Fault("The checksum of the boot catalogue is wrong; some firmware refuses it.", where);

        var entries = new List<ElToritoEntry>();
        var next = 1;
        if (Take() is not { } initial || !Add(validation[1], initial))
            return entries;
        // Sections follow: 0x90 says that more come after it, 0x91 that it is the last one.
        while (Take() is { } header && header[0] is 0x90 or 0x91)
        {
            for (var left = BinaryPrimitives.ReadUInt16LittleEndian(header.AsSpan(2)); left > 0; left--)
            {
                byte[]? bytes;
                do bytes = Take();
                while (bytes is [0x44, ..]); // an extension of the entry before
                if (bytes is null || !Add(header[1], bytes))
                    return entries;
            }
            if (header[0] == 0x91)
                break;
        }
        return entries;

        byte[]? Take()
        {
            if (next < MostEntries && image.Read(start + (long)next++ * Entry, Entry) is { } bytes)
                return bytes;
            findings.Fault("The boot catalogue is cut off, or has no end.", where);
            return null;
        }

        bool Add(byte platform, byte[] bytes)
        {
            if (bytes[0] is not (0x88 or 0))
            {
                findings.Fault($"An entry begins with {bytes[0]:X2}; it must be 88 or 00.", where);
                return false;
            }
            var entry = new ElToritoEntry(
                platform switch
                {
                    0 => "bios",
                    1 => "powerpc",
                    2 => "mac",
                    0xef => "uefi",
                    _ => $"{platform:X2}",
                },
                bytes[0] == 0x88,
                (bytes[1] & 15) switch
                {
                    0 => "none",
                    1 or 2 or 3 => "floppy",
                    _ => "disk",
                },
                BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(2)),
                BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(6)),
                (long)BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(8)) * Iso9660.Sector
            );
            if (entry.Offset >= image.Length)
                findings.Fault($"The {entry.Platform} entry points beyond the end of the image.", where);
            entries.Add(entry);
            return true;
        }
    }
}
