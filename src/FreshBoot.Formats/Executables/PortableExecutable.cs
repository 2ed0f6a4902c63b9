using System.Buffers.Binary;

namespace FreshBoot.Formats.Executables;

/// <summary>A UEFI loader found on an image.</summary>
/// <param name="Path">Its path on the file system it lies on.</param>
/// <param name="In">Which file system: <c>disc</c>, <c>El Torito</c>, or a partition.</param>
/// <param name="Machine"><c>x64</c>, <c>ia32</c>, <c>aa64</c>, <c>arm</c>, or the number of its PE header; null where it is no PE file.</param>
/// <param name="HasSignature">Whether it carries a signature; whose is not asked.</param>
/// <param name="FromDisc">Whether firmware finds it on a disc (through El Torito).</param>
/// <param name="FromStick">Whether firmware finds it on a stick (in a FAT file system that a partition table names).</param>
public sealed record UefiLoader(
    string Path,
    string In,
    string? Machine,
    bool HasSignature,
    bool FromDisc,
    bool FromStick
);

/// <summary>Reads what a PE header (PE/COFF specification, sections 2 to 3.4) says of the machine it is for.</summary>
internal static class PortableExecutable
{
    /// <summary>The machine, whether it is a UEFI application, and whether it is signed; null where it is no PE file.</summary>
    public static (string Machine, bool IsUefi, bool HasSignature)? Read(Stream file)
    {
        Span<byte> head = stackalloc byte[64];
        if (file.ReadAtLeast(head, 64, false) < 64 || head[0] != 'M' || head[1] != 'Z')
            return null;
        var at = BinaryPrimitives.ReadUInt32LittleEndian(head[60..]);
        Span<byte> pe = stackalloc byte[24 + 240];
        file.Position = at;
        var read = file.ReadAtLeast(pe, pe.Length, false);
        if (read < 24 + 96 || !pe[..4].SequenceEqual("PE\0\0"u8))
            return null;
        var machine = BinaryPrimitives.ReadUInt16LittleEndian(pe[4..]);
        var optional = pe[24..];
        var plus = BinaryPrimitives.ReadUInt16LittleEndian(optional) == 0x20b;
        var subsystem = BinaryPrimitives.ReadUInt16LittleEndian(optional[68..]);
        // The fifth data directory holds the certificates.
        var certificates = (plus ? 112 : 96) + 4 * 8;
        return (
            machine switch
            {
                0x8664 => "x64",
                0x014c => "ia32",
                0xaa64 => "aa64",
                0x01c0 or 0x01c2 or 0x01c4 => "arm",
                _ => $"{machine:X4}",
            },
            subsystem is 10 or 11 or 12,
            24 + certificates + 8 <= read && BinaryPrimitives.ReadUInt32LittleEndian(optional[(certificates + 4)..]) > 0
        );
    }
}
