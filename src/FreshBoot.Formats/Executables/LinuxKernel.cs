using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.Executables;

/// <summary>
/// The header of a Linux kernel for x86: "The Linux/x86 Boot Protocol" of the kernel's documentation. It says what may load it, and
/// which build it is.
/// </summary>
/// <param name="Protocol">Version of the boot protocol, such as 2.15.</param>
/// <param name="Has64Bit">Whether it has an entry in 64-bit mode (<c>XLF_KERNEL_64</c>): it then runs on 64-bit processors only.</param>
/// <param name="Build">The build that it names; null where it names none.</param>
public sealed record LinuxKernel(Version Protocol, bool Has64Bit, string? Build)
{
    /// <summary>How much of the file's beginning is looked at, in bytes.</summary>
    public const int HeadBytes = 64 * 1024;

    private const int Magic = 0x202;
    private const int LoadFlags = 0x236;

    /// <summary>Reads the header from the beginning of the file.</summary>
    /// <exception cref="FormatRefusedException">It is no kernel, or of a protocol older than 2.02 (kernels before 2.4.0).</exception>
    public static LinuxKernel Read(ReadOnlySpan<byte> head)
    {
        if (head.Length < 0x250 || !head[Magic..(Magic + 4)].SequenceEqual("HdrS"u8))
            throw new FormatRefusedException(
                "It is no kernel: the mark HdrS is not at byte 514.",
                "byte 514",
                "A Linux kernel for x86 (bzImage)."
            );
        var version = BinaryPrimitives.ReadUInt16LittleEndian(head[0x206..]);
        if (version < 0x0202)
            throw new FormatRefusedException(
                $"Its boot protocol is {version >> 8}.{version & 0xff:00}.",
                "byte 518",
                "Boot protocol 2.02 or newer."
            );
        var flags = version >= 0x020c ? BinaryPrimitives.ReadUInt16LittleEndian(head[LoadFlags..]) : 0;
        return new LinuxKernel(new Version(version >> 8, version & 0xff), (flags & 1) != 0, BuildOf(head));
    }

    /// <summary>A text that ends in zero, at 512 bytes beyond what the header says.</summary>
    private static string? BuildOf(ReadOnlySpan<byte> head)
    {
        var at = BinaryPrimitives.ReadUInt16LittleEndian(head[0x20e..]);
        if (at == 0 || at + 0x200 >= head.Length)
            return null;
        var text = head[(at + 0x200)..];
        var end = text[..Math.Min(text.Length, 200)].IndexOf((byte)0);
        if (end <= 0)
            return null;
        var build = Encoding.ASCII.GetString(text[..end]);
        return build.All(c => c is >= ' ' and < (char)127) ? build : null;
    }

    /// <summary>What an archive for a kernel's start is packed with, by its first bytes; null where it is none that a kernel reads.</summary>
    /// <param name="head">Its first bytes.</param>
    /// <remarks>A cpio archive in the new format, plain or packed: "initramfs buffer format" of the kernel's documentation.</remarks>
    public static string? ArchiveKind(ReadOnlySpan<byte> head) =>
        head.StartsWith("070701"u8) || head.StartsWith("070702"u8) ? "cpio"
        : head.StartsWith((ReadOnlySpan<byte>)[0x1f, 0x8b]) ? "gzip"
        : head.StartsWith((ReadOnlySpan<byte>)[0xfd, (byte)'7', (byte)'z', (byte)'X', (byte)'Z', 0]) ? "xz"
        : head.StartsWith((ReadOnlySpan<byte>)[0x28, 0xb5, 0x2f, 0xfd]) ? "zstd"
        : head.StartsWith((ReadOnlySpan<byte>)[0x02, 0x21, 0x4c, 0x18]) ? "lz4"
        : head.StartsWith("BZh"u8) ? "bzip2"
        : null;
}
