using System.Globalization;
using System.Text;

namespace FreshBoot.Formats.FileSystems;

/// <summary>
/// Writes a cpio archive in the new format, as a Linux kernel unpacks it at its start ("initramfs buffer format" of the kernel's
/// documentation). Several one after another count as one, so that a small one can be put behind a large one that stays as it is.
/// </summary>
public static class CpioArchive
{
    /// <summary>A plain file that everybody may read (POSIX, st_mode).</summary>
    private const int FileMode = 0x81a4;

    /// <summary>The archive with one file in its root. The same content gives the same bytes: it carries no time.</summary>
    /// <param name="name">Its name, without folders.</param>
    /// <param name="content">What is in it; under 4 GiB, which its field of eight digits holds.</param>
    /// <exception cref="FormatRefusedException">The name is empty, has a slash or a zero, or is longer than 255 bytes.</exception>
    public static byte[] Of(string name, ReadOnlySpan<byte> content)
    {
        if (
            name.Length == 0
            || name is "." or ".."
            || name.AsSpan().IndexOfAny('/', '\0') >= 0
            || Encoding.UTF8.GetByteCount(name) > 255
        )
            throw new FormatRefusedException(
                $"“{name}” is no name of a file in an archive.",
                "name",
                "A name without folders, at most 255 bytes."
            );
        using var archive = new MemoryStream();
        Entry(archive, 1, FileMode, name, content);
        // The last entry has this name by the format.
        Entry(archive, 0, 0, "TRAILER!!!", []);
        return archive.ToArray();
    }

    private static void Entry(MemoryStream archive, int number, int mode, string name, ReadOnlySpan<byte> content)
    {
        var bytes = Encoding.UTF8.GetBytes(name);
        // inode, mode, user, group, links, time, size, device, device of a device file, length of the name with its zero, checksum
        int[] fields = [number, mode, 0, 0, 1, 0, content.Length, 0, 0, 0, 0, bytes.Length + 1, 0];
        archive.Write("070701"u8);
        foreach (var field in fields)
            archive.Write(Encoding.ASCII.GetBytes(field.ToString("x8", CultureInfo.InvariantCulture)));
        archive.Write(bytes);
        archive.WriteByte(0);
        Pad(archive);
        archive.Write(content);
        Pad(archive);
    }

    private static void Pad(MemoryStream archive)
    {
        while (archive.Length % 4 != 0)
            archive.WriteByte(0);
    }
}
