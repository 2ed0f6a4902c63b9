using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.Tests.Discs;

/// <summary>
/// Makes small ISO 9660 images to the letter, hostile ones too: what an honest program refuses to write. Sectors are set where
/// the test wants them.
/// </summary>
internal sealed class MadeIso
{
    private const int Sector = 2048;
    private readonly Dictionary<int, byte[]> _sectors = [];
    private int _size = 20;

    public MadeIso(int root = 18, int rootBytes = Sector)
    {
        var primary = new byte[Sector];
        primary[0] = 1;
        "CD001"u8.CopyTo(primary.AsSpan(1));
        primary[6] = 1;
        "MADE".PadRight(32).Select(c => (byte)c).ToArray().CopyTo(primary, 40);
        BinaryPrimitives.WriteUInt32LittleEndian(primary.AsSpan(80), 20);
        BinaryPrimitives.WriteUInt16LittleEndian(primary.AsSpan(128), Sector);
        Record(primary.AsSpan(156), "\0", root, rootBytes, folder: true);
        Put(16, primary);
        var end = new byte[Sector];
        end[0] = 255;
        "CD001"u8.CopyTo(end.AsSpan(1));
        Put(17, end);
    }

    public MadeIso Put(int sector, byte[] content)
    {
        _sectors[sector] = content;
        _size = Math.Max(_size, sector + (content.Length + Sector - 1) / Sector);
        return this;
    }

    /// <summary>A folder with entries: name, sector, size, and whether it is a folder.</summary>
    public MadeIso Folder(int sector, params (string Name, int At, uint Bytes, bool Folder)[] entries)
    {
        var content = new byte[Sector];
        var at = Record(content, "\0", sector, Sector, true);
        at += Record(content.AsSpan(at), "\u0001", sector, Sector, true);
        foreach (var (name, where, bytes, folder) in entries)
            at += Record(content.AsSpan(at), name, where, bytes, folder);
        return Put(sector, content);
    }

    /// <summary>A boot record that points to a catalogue.</summary>
    public MadeIso Boot(uint catalogue)
    {
        var boot = new byte[Sector];
        "CD001"u8.CopyTo(boot.AsSpan(1));
        "EL TORITO SPECIFICATION"u8.CopyTo(boot.AsSpan(7));
        BinaryPrimitives.WriteUInt32LittleEndian(boot.AsSpan(0x47), catalogue);
        var end = _sectors[17];
        Put(17, boot);
        // It must not fall on a folder of the test.
        Put(18, end);
        return this;
    }

    public byte[] Bytes()
    {
        var all = new byte[_size * Sector];
        foreach (var (sector, content) in _sectors)
            content.CopyTo(all, sector * Sector);
        return all;
    }

    private static int Record(Span<byte> into, string name, int at, long bytes, bool folder)
    {
        var id = Encoding.Latin1.GetBytes(name);
        var length = 33 + id.Length + (id.Length % 2 == 0 ? 1 : 0);
        into[0] = (byte)length;
        BinaryPrimitives.WriteUInt32LittleEndian(into[2..], (uint)at);
        BinaryPrimitives.WriteUInt32LittleEndian(into[10..], (uint)bytes);
        into[25] = (byte)(folder ? 2 : 0);
        into[32] = (byte)id.Length;
        id.CopyTo(into[33..]);
        return length;
    }
}
