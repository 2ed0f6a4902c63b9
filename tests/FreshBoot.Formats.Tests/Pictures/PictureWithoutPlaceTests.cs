using System.Buffers.Binary;
using System.Text;
using CsCheck;
using FreshBoot.Formats.Pictures;

namespace FreshBoot.Formats.Tests.Pictures;

/// <summary>What tells where a photograph was taken goes, how it is turned stays, and its pixels are the same bytes.</summary>
public class PictureWithoutPlaceTests
{
    private const string Place = "48.137154 N";

    /// <summary>An Exif block (TIFF 6.0) that is turned by 6 and has a text where a camera keeps its place.</summary>
    private static byte[] Exif(bool big)
    {
        var tiff = new byte[26 + Place.Length];
        (big ? "MM\0*"u8 : "II*\0"u8).CopyTo(tiff);
        void Short(int at, ushort value)
        {
            if (big)
                BinaryPrimitives.WriteUInt16BigEndian(tiff.AsSpan(at), value);
            else
                BinaryPrimitives.WriteUInt16LittleEndian(tiff.AsSpan(at), value);
        }
        void Long(int at, uint value)
        {
            if (big)
                BinaryPrimitives.WriteUInt32BigEndian(tiff.AsSpan(at), value);
            else
                BinaryPrimitives.WriteUInt32LittleEndian(tiff.AsSpan(at), value);
        }
        Long(4, 8);
        Short(8, 1);
        Short(10, 0x0112);
        Short(12, 3);
        Long(14, 1);
        Short(18, 6);
        Encoding.ASCII.GetBytes(Place, tiff.AsSpan(26));
        return tiff;
    }

    private static byte[] Segment(byte marker, byte[] content)
    {
        byte[] segment = [0xff, marker, 0, 0, .. content];
        BinaryPrimitives.WriteUInt16BigEndian(segment.AsSpan(2), (ushort)(content.Length + 2));
        return segment;
    }

    private static byte[] Chunk(string type, byte[] content)
    {
        byte[] chunk = [0, 0, 0, 0, .. Encoding.ASCII.GetBytes(type), .. content, 0, 0, 0, 0];
        BinaryPrimitives.WriteUInt32BigEndian(chunk, (uint)content.Length);
        BinaryPrimitives.WriteUInt32BigEndian(
            chunk.AsSpan(chunk.Length - 4),
            System.IO.Hashing.Crc32.HashToUInt32(chunk.AsSpan(4, content.Length + 4))
        );
        return chunk;
    }

    private static readonly byte[] Frame = [0xff, 0xc0, 0, 0x11, 8, 0, 2, 0, 3, 3, 1, 0x11, 0, 2, 0x11, 1, 3, 0x11, 1];
    private static readonly byte[] Scan = [0xff, 0xda, 0, 8, 1, 1, 0, 0, 63, 0, 1, 2, 3, 0xff, 0xd9];

    private static bool Tells(byte[] picture) => Encoding.Latin1.GetString(picture).Contains(Place);

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void A_jpeg_loses_its_place_and_keeps_how_it_is_turned(bool big)
    {
        byte[] exif = [.. "Exif\0\0"u8, .. Exif(big)];
        byte[] profile = Segment(0xe2, Encoding.ASCII.GetBytes("ICC_PROFILE"));
        byte[] picture =
        [
            0xff,
            0xd8,
            .. Segment(0xe1, exif),
            .. Segment(0xe1, Encoding.ASCII.GetBytes($"http://ns.example/xap {Place}")),
            .. profile,
            .. Segment(0xed, Encoding.ASCII.GetBytes(Place)),
            .. Segment(0xfe, Encoding.ASCII.GetBytes(Place)),
            .. Frame,
            .. Scan,
        ];
        var kind = PictureKind.Of(picture, "a");
        var clean = PictureWithoutPlace.Of(picture, kind);
        Tells(picture).ShouldBeTrue();
        Tells(clean).ShouldBeFalse();
        PictureKind.Of(clean, "a").ShouldBe(kind);
        byte[] pixels = [.. Frame, .. Scan];
        clean.AsSpan(clean.Length - pixels.Length).SequenceEqual(pixels).ShouldBeTrue();
        clean.AsSpan().IndexOf(profile).ShouldBeGreaterThan(0);
        // The orientation, in a block of its own.
        byte[] turned = [0x12, 0x01, 3, 0, 1, 0, 0, 0, 6];
        clean.AsSpan().IndexOf(turned).ShouldBeGreaterThan(0);
        PictureWithoutPlace.Of(clean, kind).ShouldBe(clean);
    }

    [Fact]
    public void A_png_loses_texts_and_place_and_its_chunks_stay_whole()
    {
        byte[] head = Chunk("IHDR", [0, 0, 0, 3, 0, 0, 0, 2, 8, 2, 0, 0, 0]);
        byte[] data = Chunk("IDAT", [1, 2, 3]);
        byte[] picture =
        [
            0x89,
            (byte)'P',
            (byte)'N',
            (byte)'G',
            13,
            10,
            26,
            10,
            .. head,
            .. Chunk("eXIf", Exif(false)),
            .. Chunk("tEXt", Encoding.ASCII.GetBytes($"Place\0{Place}")),
            .. data,
            .. Chunk("IEND", []),
        ];
        var kind = PictureKind.Of(picture, "a");
        var clean = PictureWithoutPlace.Of(picture, kind);
        Tells(clean).ShouldBeFalse();
        PictureKind.Of(clean, "a").ShouldBe(kind);
        clean.AsSpan().IndexOf(data).ShouldBeGreaterThan(0);
        var exif = clean.AsSpan().IndexOf("eXIf"u8);
        System
            .IO.Hashing.Crc32.HashToUInt32(clean.AsSpan(exif, 4 + 26))
            .ShouldBe(BinaryPrimitives.ReadUInt32BigEndian(clean.AsSpan(exif + 30)));
    }

    [Fact]
    public void A_picture_of_more_pixels_than_anybody_can_show_is_refused()
    {
        byte[] huge =
        [
            0x89,
            (byte)'P',
            (byte)'N',
            (byte)'G',
            13,
            10,
            26,
            10,
            .. Chunk("IHDR", [0, 0, 0xc3, 0x50, 0, 0, 0xc3, 0x50, 8, 2, 0, 0, 0]),
            .. Chunk("IEND", []),
        ];
        Should.Throw<FormatRefusedException>(() => PictureKind.Of(huge, "a")).Message.ShouldContain("50000 by 50000");
    }

    [Fact]
    public void Whatever_the_bytes_say_it_ends_and_grows_by_no_more_than_one_block() =>
        Gen.Select(Gen.Byte.Array[0, 400], Gen.Int[0, 2])
            .Sample(
                (bytes, i) =>
                {
                    byte[] head = i switch
                    {
                        0 => [0xff, 0xd8, 0xff],
                        1 => [0x89, (byte)'P', (byte)'N', (byte)'G', 13, 10, 26, 10],
                        _ => [.. "RIFF\0\0\0\0WEBP"u8],
                    };
                    var type = i switch
                    {
                        0 => "image/jpeg",
                        1 => "image/png",
                        _ => "image/webp",
                    };
                    byte[] all = [.. head, .. bytes];
                    PictureWithoutPlace.Of(all, new PictureKind(type, 1, 1)).Length.ShouldBeLessThan(all.Length + 100);
                },
                iter: 5_000
            );
}
