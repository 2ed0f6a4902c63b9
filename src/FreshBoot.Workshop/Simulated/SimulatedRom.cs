using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Workshop.Simulated;

/// <summary>
/// Makes the content of a made-up firmware chip: a flash map, an area with what belongs to one machine, a firmware volume (UEFI PI
/// 1.8, volume 3, 3.2) and a reset vector. Nothing in it runs; everything in it can be read.
/// </summary>
public static class SimulatedRom
{
    /// <summary>The area that belongs to one machine.</summary>
    public const string Vital = "VITAL";

    private const int MapAt = 0x1_0000;
    private const int VolumeAt = 0x2_0000;
    private const int StartBytes = 0x1_0000;

    /// <summary>Makes one.</summary>
    /// <param name="sizeBytes">Size of the chip: a power of two of at least 512 KiB.</param>
    /// <param name="name">What stands in its map.</param>
    /// <param name="version">Its version, as a text in the volume.</param>
    /// <param name="vital">What belongs to the machine; empty for an image that is given out.</param>
    public static byte[] Make(int sizeBytes, string name, string version, string vital)
    {
        var rom = new byte[sizeBytes];
        rom.AsSpan().Fill(0xff);
        Encoding.ASCII.GetBytes(vital, rom.AsSpan(0, MapAt));
        var volumeBytes = sizeBytes - VolumeAt - StartBytes;
        Map(
            rom.AsSpan(MapAt),
            name,
            sizeBytes,
            [
                (Vital, 0, MapAt),
                ("MAP", MapAt, VolumeAt - MapAt),
                ("MAIN", VolumeAt, volumeBytes),
                ("START", sizeBytes - StartBytes, StartBytes),
            ]
        );
        Volume(rom.AsSpan(VolumeAt, volumeBytes), version);
        // The processor begins sixteen bytes before the end: a near jump backwards.
        rom[sizeBytes - 16] = 0xe9;
        BinaryPrimitives.WriteInt16LittleEndian(rom.AsSpan(sizeBytes - 15), -0x400);
        return rom;
    }

    private static void Map(Span<byte> at, string name, int size, (string Name, int Offset, int Length)[] areas)
    {
        Encoding.ASCII.GetBytes("__FMAP__", at);
        (at[8], at[9]) = (1, 0);
        BinaryPrimitives.WriteUInt64LittleEndian(at[10..], 0);
        BinaryPrimitives.WriteUInt32LittleEndian(at[18..], (uint)size);
        Name(at.Slice(22, 32), name);
        BinaryPrimitives.WriteUInt16LittleEndian(at[54..], (ushort)areas.Length);
        for (var i = 0; i < areas.Length; i++)
        {
            var area = at[(56 + i * 42)..];
            BinaryPrimitives.WriteUInt32LittleEndian(area, (uint)areas[i].Offset);
            BinaryPrimitives.WriteUInt32LittleEndian(area[4..], (uint)areas[i].Length);
            Name(area.Slice(8, 32), areas[i].Name);
            BinaryPrimitives.WriteUInt16LittleEndian(area[40..], 0);
        }
    }

    private static void Name(Span<byte> at, string name)
    {
        at.Clear();
        Encoding.ASCII.GetBytes(name, at);
    }

    private static void Volume(Span<byte> volume, string version)
    {
        const int header = 0x48;
        volume[..header].Clear();
        new Guid("8c8ce578-8a3d-4f1c-9935-896185c32dd3").TryWriteBytes(volume[16..]);
        BinaryPrimitives.WriteUInt64LittleEndian(volume[32..], (ulong)volume.Length);
        Encoding.ASCII.GetBytes("_FVH", volume[40..]);
        // Erase polarity one: what is erased reads as ones.
        BinaryPrimitives.WriteUInt32LittleEndian(volume[44..], 0x800);
        BinaryPrimitives.WriteUInt16LittleEndian(volume[48..], header);
        volume[55] = 2;
        BinaryPrimitives.WriteUInt32LittleEndian(volume[56..], (uint)(volume.Length / SimulatedChip.BlockBytes));
        BinaryPrimitives.WriteUInt32LittleEndian(volume[60..], SimulatedChip.BlockBytes);
        var sum = 0;
        for (var i = 0; i < header; i += 2)
            sum += BinaryPrimitives.ReadUInt16LittleEndian(volume[i..]);
        BinaryPrimitives.WriteUInt16LittleEndian(volume[50..], (ushort)-sum);

        // One raw file that fills half of it, as compressed code looks; the rest is free.
        var file = volume.Slice(header, volume.Length / 2 & ~7);
        file[..24].Clear();
        new Guid("6d1f5a30-52c1-4c0e-9a55-2f6f0a11c7e4").TryWriteBytes(file);
        file[18] = 0x01;
        (file[20], file[21], file[22]) = ((byte)file.Length, (byte)(file.Length >> 8), (byte)(file.Length >> 16));
        byte checksum = 0;
        foreach (var b in file[..23])
            checksum += b;
        file[16] = (byte)-checksum;
        file[17] = 0xaa;
        file[23] = 0xf8;
        var seed = 2166136261u;
        foreach (var c in version)
            seed = (seed ^ c) * 16777619;
        for (var i = 24; i < file.Length; i++)
        {
            seed ^= seed << 13;
            seed ^= seed >> 17;
            seed ^= seed << 5;
            file[i] = (byte)seed;
        }
        file.Slice(0x1000, 0x1000).Clear();
        Encoding.ASCII.GetBytes($"version {version}", file[0x1000..]);
    }
}
