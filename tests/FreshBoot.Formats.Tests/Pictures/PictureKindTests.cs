using CsCheck;
using FreshBoot.Formats.Pictures;

namespace FreshBoot.Formats.Tests.Pictures;

public class PictureKindTests
{
    private static readonly byte[] Png = Convert.FromHexString(
        "89504e470d0a1a0a0000000d4948445200000003000000020802000000" + "12167147" + "0000000049454e44ae426082"
    );
    private static readonly byte[] Jpeg = Convert.FromHexString(
        "ffd8ffe000104a46494600010100000100010000" + "ffc0001108000200030301110002110103110100" + "ffd9"
    );
    private static readonly byte[] WebP = Convert.FromHexString(
        "524946462200000057454250"
            + "56503858"
            + "0a000000"
            + "00000000"
            + "020000"
            + "010000"
            + "000000000000000000000000"
    );

    [Fact]
    public void Each_kind_is_known_by_its_content_with_its_size()
    {
        PictureKind.Of(Png, "a").ShouldBe(new PictureKind("image/png", 3, 2));
        PictureKind.Of(Jpeg, "a").ShouldBe(new PictureKind("image/jpeg", 3, 2));
        PictureKind.Of(WebP, "a").ShouldBe(new PictureKind("image/webp", 3, 2));
    }

    [Fact]
    public void One_that_is_cut_off_or_something_else_is_refused()
    {
        foreach (var picture in new[] { Png, Jpeg, WebP })
            Should.Throw<FormatRefusedException>(() => PictureKind.Of(picture.AsSpan(0, picture.Length - 4), "cut"));
        Should.Throw<FormatRefusedException>(() => PictureKind.Of("<svg onload='x'/>"u8, "no.png"));
        Should.Throw<FormatRefusedException>(() => PictureKind.Of([], "empty"));
    }

    [Fact]
    public void No_bytes_bring_it_down() =>
        Gen.Select(Pick.From(Png, Jpeg, WebP), Gen.Int[0, 60], Gen.Byte)
            .Sample(
                (picture, at, noise) =>
                {
                    byte[] bad = [.. picture];
                    bad[at % bad.Length] ^= noise;
                    try
                    {
                        var kind = PictureKind.Of(bad, "x");
                        return kind is { Width: > 0, Height: > 0 };
                    }
                    catch (FormatRefusedException)
                    {
                        return true;
                    }
                }
            );
}
