using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Tests.Discs;

/// <summary>Small images of every kind that is read. Those of other programs' making are kept packed beside the tests.</summary>
internal static class SeedImages
{
    public static byte[] Of(string kind) =>
        kind switch
        {
            "iso" => new MadeIso()
                .Folder(18, ("A.TXT;1", 19, 5, false), ("SUB", 20, 2048, true))
                .Folder(20, ("B.;1", 19, 5, false))
                .Bytes(),
            "fat" => Fat(("EFI/BOOT/BOOTX64.EFI", Pe(0x8664)), ("a long name with spaces.txt", "hello"u8.ToArray())),
            _ => Unpacked(kind),
        };

    /// <summary>A FAT32 file system as the writer makes it.</summary>
    public static byte[] Fat(params (string Path, byte[] Content)[] files)
    {
        var medium = new MemoryMedium(40 << 20);
        FatWriter.Write(
            medium,
            medium.SizeBytes - FatWriter.FirstByte,
            "SEED",
            [.. files.Select(f => new FatWriter.Source(f.Path, f.Content.Length, () => new MemoryStream(f.Content)))],
            null,
            _ => { },
            default
        );
        return medium.Bytes;
    }

    /// <summary>The head of a UEFI program for a machine (PE/COFF).</summary>
    public static byte[] Pe(ushort machine)
    {
        var bytes = new byte[512];
        (bytes[0], bytes[1], bytes[60]) = ((byte)'M', (byte)'Z', 64);
        "PE\0\0"u8.CopyTo(bytes.AsSpan(64));
        BitConverter.TryWriteBytes(bytes.AsSpan(68), machine);
        BitConverter.TryWriteBytes(bytes.AsSpan(64 + 24), (ushort)0x20b);
        BitConverter.TryWriteBytes(bytes.AsSpan(64 + 24 + 68), (ushort)10);
        return bytes;
    }

    private static byte[] Unpacked(string name)
    {
        using var packed = File.OpenRead(Path.Combine(AppContext.BaseDirectory, "Discs", "seeds", $"{name}.gz"));
        using var gzip = new System.IO.Compression.GZipStream(packed, System.IO.Compression.CompressionMode.Decompress);
        using var all = new MemoryStream();
        gzip.CopyTo(all);
        return all.ToArray();
    }
}

/// <summary>A medium in memory.</summary>
internal sealed class MemoryMedium(int size) : IBlockDevice
{
    public byte[] Bytes { get; } = new byte[size];
    public long SizeBytes => Bytes.Length;

    public void Write(long offset, ReadOnlySpan<byte> bytes) => bytes.CopyTo(Bytes.AsSpan((int)offset));

    public void Read(long offset, Span<byte> into) => Bytes.AsSpan((int)offset, into.Length).CopyTo(into);

    public void Flush() { }

    public void Dispose() { }
}
