using System.Buffers.Binary;

namespace FreshBoot.Formats.Pictures;

/// <summary>
/// A photograph without what tells where, when and with what it was taken: metadata go (Exif, XMP, IPTC, comments and texts), and of
/// them only how it is turned comes back, which whatever shows it follows. Its pixels stay as they are, bit for bit.
/// </summary>
public static class PictureWithoutPlace
{
    private const ushort OrientationTag = 0x0112;

    /// <summary>The picture without them. It has to be one that <see cref="PictureKind.Of"/> knows.</summary>
    public static byte[] Of(ReadOnlySpan<byte> picture, PictureKind kind) =>
        kind.MediaType switch
        {
            "image/jpeg" => Jpeg(picture),
            "image/png" => Png(picture),
            _ => WebP(picture),
        };

    /// <summary>Segments of a JPEG (ITU-T T.81, B.1.1.4): application data but JFIF, colour profile and colour transform go, and comments.</summary>
    private static byte[] Jpeg(ReadOnlySpan<byte> picture)
    {
        using var kept = new MemoryStream(picture.Length);
        kept.Write(picture[..2]);
        var turned = 1;
        var at = 2;
        using var rest = new MemoryStream(picture.Length);
        while (at + 4 <= picture.Length && picture[at] == 0xff && picture[at + 1] is not (0xda or 0xd9))
        {
            // Fill bytes may stand before a marker.
            if (picture[at + 1] == 0xff)
            {
                at++;
                continue;
            }
            var marker = picture[at + 1];
            var length = 2 + BinaryPrimitives.ReadUInt16BigEndian(picture[(at + 2)..]);
            if (length < 4 || at + length > picture.Length)
                break;
            var segment = picture.Slice(at, length);
            if (marker == 0xe1 && segment[4..].StartsWith("Exif\0\0"u8))
                turned = Orientation(segment[10..]) is > 1 and <= 8 and var found ? found : turned;
            if (marker is not (>= 0xe0 and <= 0xef or 0xfe) || marker is 0xe0 or 0xe2 or 0xee)
                rest.Write(segment);
            at += length;
        }
        if (turned != 1)
        {
            var tiff = Tiff(turned);
            Span<byte> head = [0xff, 0xe1, 0, 0, .. "Exif\0\0"u8];
            BinaryPrimitives.WriteUInt16BigEndian(head[2..], (ushort)(8 + tiff.Length));
            kept.Write(head);
            kept.Write(tiff);
        }
        rest.WriteTo(kept);
        kept.Write(picture[at..]);
        return kept.ToArray();
    }

    /// <summary>Chunks of a PNG (ISO/IEC 15948, clause 11): texts, times and Exif go.</summary>
    private static byte[] Png(ReadOnlySpan<byte> picture)
    {
        using var kept = new MemoryStream(picture.Length);
        kept.Write(picture[..8]);
        var at = 8;
        while (at + 12 <= picture.Length)
        {
            var length = BinaryPrimitives.ReadUInt32BigEndian(picture[at..]);
            if (length > picture.Length - at - 12)
                break;
            var chunk = picture.Slice(at, (int)length + 12);
            var type = chunk.Slice(4, 4);
            if (type.SequenceEqual("eXIf"u8) && Orientation(chunk[8..^4]) is > 1 and <= 8 and var turned)
                WriteChunk(kept, Tiff(turned));
            else if (
                !type.SequenceEqual("eXIf"u8)
                && !type.SequenceEqual("tEXt"u8)
                && !type.SequenceEqual("zTXt"u8)
                && !type.SequenceEqual("iTXt"u8)
                && !type.SequenceEqual("tIME"u8)
            )
                kept.Write(chunk);
            at += chunk.Length;
        }
        return kept.ToArray();
    }

    private static void WriteChunk(MemoryStream kept, byte[] tiff)
    {
        var chunk = new byte[tiff.Length + 12];
        BinaryPrimitives.WriteUInt32BigEndian(chunk, (uint)tiff.Length);
        "eXIf"u8.CopyTo(chunk.AsSpan(4));
        tiff.CopyTo(chunk, 8);
        var crc = new System.IO.Hashing.Crc32();
        crc.Append(chunk.AsSpan(4, tiff.Length + 4));
        BinaryPrimitives.WriteUInt32BigEndian(chunk.AsSpan(chunk.Length - 4), crc.GetCurrentHashAsUInt32());
        kept.Write(chunk);
    }

    /// <summary>Chunks of a WebP (RFC 9649, section 2.7): Exif and XMP go, and the head says so.</summary>
    private static byte[] WebP(ReadOnlySpan<byte> picture)
    {
        using var kept = new MemoryStream(picture.Length);
        kept.Write(picture[..12]);
        var at = 12;
        long head = -1;
        var exif = false;
        while (at + 8 <= picture.Length)
        {
            var length = BinaryPrimitives.ReadUInt32LittleEndian(picture[(at + 4)..]);
            var whole = 8 + (long)length + (length & 1);
            if (whole > picture.Length - at)
                break;
            var chunk = picture.Slice(at, (int)whole);
            if (chunk.StartsWith("VP8X"u8))
                head = kept.Position;
            if (chunk.StartsWith("EXIF"u8))
            {
                var content = chunk.Slice(8, (int)length);
                if (content.StartsWith("Exif\0\0"u8))
                    content = content[6..];
                if (Orientation(content) is > 1 and <= 8 and var turned)
                {
                    var tiff = Tiff(turned);
                    Span<byte> start = [.. "EXIF"u8, 0, 0, 0, 0];
                    BinaryPrimitives.WriteUInt32LittleEndian(start[4..], (uint)tiff.Length);
                    kept.Write(start);
                    kept.Write(tiff);
                    exif = true;
                }
            }
            else if (!chunk.StartsWith("XMP "u8))
                kept.Write(chunk);
            at += chunk.Length;
        }
        var bytes = kept.ToArray();
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(4), (uint)(bytes.Length - 8));
        // Bits of the head: 0x08 Exif, 0x04 XMP.
        if (head >= 0)
            bytes[head + 8] = (byte)((bytes[head + 8] & ~0x0c) | (exif ? 0x08 : 0));
        return bytes;
    }

    /// <summary>How a picture is turned, 1 to 8 (Exif 2.32, 4.6.4 A); null where it does not say.</summary>
    private static int? Orientation(ReadOnlySpan<byte> tiff)
    {
        if (tiff.Length < 8)
            return null;
        var big = tiff.StartsWith("MM"u8);
        if (!big && !tiff.StartsWith("II"u8))
            return null;
        var first = Long(tiff[4..], big);
        if (first > tiff.Length - 2)
            return null;
        var count = Short(tiff[(int)first..], big);
        for (var i = 0; i < count; i++)
        {
            var at = first + 2 + (i * 12L);
            if (at + 12 > tiff.Length)
                return null;
            var entry = tiff.Slice((int)at, 12);
            if (Short(entry, big) == OrientationTag)
                return Short(entry[8..], big);
        }
        return null;
    }

    private static ushort Short(ReadOnlySpan<byte> at, bool big) =>
        big ? BinaryPrimitives.ReadUInt16BigEndian(at) : BinaryPrimitives.ReadUInt16LittleEndian(at);

    private static uint Long(ReadOnlySpan<byte> at, bool big) =>
        big ? BinaryPrimitives.ReadUInt32BigEndian(at) : BinaryPrimitives.ReadUInt32LittleEndian(at);

    /// <summary>A TIFF of one entry (TIFF 6.0, section 2): how it is turned.</summary>
    private static byte[] Tiff(int turned) =>
        [
            (byte)'I',
            (byte)'I',
            42,
            0,
            8,
            0,
            0,
            0,
            1,
            0,
            0x12,
            0x01,
            3,
            0,
            1,
            0,
            0,
            0,
            (byte)turned,
            0,
            0,
            0,
            0,
            0,
            0,
            0,
        ];
}
