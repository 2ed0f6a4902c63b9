using System.Buffers.Binary;

namespace FreshBoot.Formats.Pictures;

/// <summary>What a picture file is, judged by its content.</summary>
/// <param name="MediaType">Its media type.</param>
/// <param name="Width">Width in pixels.</param>
/// <param name="Height">Height in pixels.</param>
public sealed record PictureKind(string MediaType, int Width, int Height)
{
    /// <summary>Most bytes that a photo may have: 10 MB.</summary>
    public const int LargestBytes = 10_000_000;

    /// <summary>Most pixels that a photo may have: whoever shows it holds four bytes for each in memory.</summary>
    public const long MostPixels = 120_000_000;

    /// <summary>
    /// Reads a picture's head and end: JPEG (ITU-T T.81, start-of-frame segment), PNG (ISO/IEC 15948, IHDR and IEND) or WebP
    /// (RFC 9649, VP8, VP8L or VP8X chunk).
    /// </summary>
    /// <exception cref="FormatRefusedException">It is none of these, or cut off.</exception>
    public static PictureKind Of(ReadOnlySpan<byte> bytes, string name)
    {
        var kind =
            bytes.StartsWith((ReadOnlySpan<byte>)[0xff, 0xd8, 0xff]) ? Jpeg(bytes)
            : bytes.StartsWith((ReadOnlySpan<byte>)[0x89, (byte)'P', (byte)'N', (byte)'G', 13, 10, 26, 10]) ? Png(bytes)
            : bytes.Length > 30 && bytes.StartsWith("RIFF"u8) && bytes[8..].StartsWith("WEBP"u8) ? WebP(bytes)
            : null;
        if (kind is not null && (long)kind.Width * kind.Height > MostPixels)
            throw new FormatRefusedException(
                $"The picture says that it has {kind.Width} by {kind.Height} pixels.",
                name,
                $"At most {MostPixels / 1_000_000} million pixels."
            );
        return kind is { Width: > 0, Height: > 0 }
            ? kind
            : throw new FormatRefusedException(
                "The file is no picture that is known here, or it is cut off.",
                name,
                "A whole JPEG, PNG or WebP picture."
            );
    }

    private static PictureKind? Jpeg(ReadOnlySpan<byte> bytes)
    {
        if (!bytes[^2..].SequenceEqual((ReadOnlySpan<byte>)[0xff, 0xd9]))
            return null;
        var at = 2;
        while (at + 9 < bytes.Length && bytes[at] == 0xff)
        {
            var marker = bytes[at + 1];
            var length = BinaryPrimitives.ReadUInt16BigEndian(bytes[(at + 2)..]);
            // All start-of-frame markers but DHT, JPG and DAC, which share their row of the table.
            if (marker is >= 0xc0 and <= 0xcf and not (0xc4 or 0xc8 or 0xcc))
                return new PictureKind(
                    "image/jpeg",
                    BinaryPrimitives.ReadUInt16BigEndian(bytes[(at + 7)..]),
                    BinaryPrimitives.ReadUInt16BigEndian(bytes[(at + 5)..])
                );
            at += 2 + length;
        }
        return null;
    }

    private static PictureKind? Png(ReadOnlySpan<byte> bytes) =>
        bytes.Length >= 45
        && bytes[12..].StartsWith("IHDR"u8)
        && bytes[^8..].StartsWith("IEND"u8)
        && BinaryPrimitives.ReadUInt32BigEndian(bytes[16..]) is <= int.MaxValue and var width
        && BinaryPrimitives.ReadUInt32BigEndian(bytes[20..]) is <= int.MaxValue and var height
            ? new PictureKind("image/png", (int)width, (int)height)
            : null;

    private static PictureKind? WebP(ReadOnlySpan<byte> bytes)
    {
        if (BinaryPrimitives.ReadUInt32LittleEndian(bytes[4..]) + 8L > bytes.Length)
            return null;
        var chunk = bytes[12..16];
        if (chunk.SequenceEqual("VP8 "u8))
            return new PictureKind(
                "image/webp",
                BinaryPrimitives.ReadUInt16LittleEndian(bytes[26..]) & 0x3fff,
                BinaryPrimitives.ReadUInt16LittleEndian(bytes[28..]) & 0x3fff
            );
        if (chunk.SequenceEqual("VP8L"u8))
        {
            var bits = BinaryPrimitives.ReadUInt32LittleEndian(bytes[21..]);
            return new PictureKind("image/webp", (int)(bits & 0x3fff) + 1, (int)(bits >> 14 & 0x3fff) + 1);
        }
        return chunk.SequenceEqual("VP8X"u8)
            ? new PictureKind(
                "image/webp",
                (bytes[24] | bytes[25] << 8 | bytes[26] << 16) + 1,
                (bytes[27] | bytes[28] << 8 | bytes[29] << 16) + 1
            )
            : null;
    }
}
