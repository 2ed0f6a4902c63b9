using System.Buffers.Binary;
using System.Text;
using CsCheck;
using FreshBoot.Formats.Firmware;

namespace FreshBoot.Formats.Tests.Firmware;

/// <summary>The reader of firmware images, on files of Debian packages and on whatever a hostile hand makes of them.</summary>
public sealed class RomImageTests
{
    private static byte[] Real(string path) => File.ReadAllBytes(path);

    public static TheoryData<string> Files =>
        [
            "/usr/share/OVMF/OVMF_CODE_4M.fd",
            "/usr/share/OVMF/OVMF_VARS_4M.fd",
            "/usr/share/OVMF/OVMF_CODE.fd",
            "/usr/share/OVMF/OVMF32_CODE_4M.secboot.fd",
        ];

    [Theory]
    [MemberData(nameof(Files))]
    public void Volumes_and_files_are_those_that_another_reading_finds(string path)
    {
        var bytes = Real(path);
        var image = RomImage.Read(bytes);
        var expected = Volumes(bytes);
        image
            .Volumes.Select(v => (v.Offset, v.Length, v.Files.Count))
            .ShouldBe(expected.Select(v => (v.Offset, v.Length, v.Files.Count)));
        image.Volumes.ShouldAllBe(v => v.ChecksumOk && v.FileSystemName != null);
        image.Volumes.SelectMany(v => v.Files).ShouldAllBe(f => f.ChecksumOk);
        image.Volumes.SelectMany(v => v.Files.Select(f => f.Name)).ShouldBe(expected.SelectMany(v => v.Files));
        image.Entropy.Count.ShouldBe((bytes.Length + 4095) / 4096);
    }

    /// <summary>The same by seeking in a stream, from one header to the next; the files are those of the Debian packages, all sound.</summary>
    private static List<(long Offset, long Length, List<Guid> Files)> Volumes(byte[] bytes)
    {
        using var reader = new BinaryReader(new MemoryStream(bytes));
        var volumes = new List<(long, long, List<Guid>)>();
        long at = 0;
        while (at + 64 <= bytes.Length)
        {
            reader.BaseStream.Position = at + 40;
            if (Encoding.ASCII.GetString(reader.ReadBytes(4)) != "_FVH")
            {
                at += 4096;
                continue;
            }
            reader.BaseStream.Position = at + 16;
            var system = new Guid(reader.ReadBytes(16));
            var length = reader.ReadInt64();
            reader.BaseStream.Position = at + 48;
            long inside = reader.ReadUInt16();
            reader.BaseStream.Position = at + 52;
            long extended = reader.ReadUInt16();
            if (extended > 0)
            {
                reader.BaseStream.Position = at + extended + 16;
                inside = extended + reader.ReadUInt32();
            }
            var files = new List<Guid>();
            while (system.ToString().StartsWith("8c8ce578", StringComparison.Ordinal))
            {
                inside = (inside + 7) / 8 * 8;
                if (inside + 24 > length)
                    break;
                reader.BaseStream.Position = at + inside;
                var name = new Guid(reader.ReadBytes(16));
                reader.BaseStream.Position = at + inside + 20;
                var size = reader.ReadBytes(3);
                var total = size[0] + (size[1] * 256) + (size[2] * 65_536);
                if (total == 0xffffff)
                    break;
                files.Add(name);
                inside += total;
            }
            volumes.Add((at, length, files));
            at += length;
        }
        return volumes;
    }

    [Fact]
    public void A_legacy_image_has_its_reset_vector_and_its_date()
    {
        var image = RomImage.Read(Real("/usr/share/seabios/bios-256k.bin"));
        image.Volumes.ShouldBeEmpty();
        image.ResetVector.ShouldBe("far jump to f000:e05b");
        image.Strings.ShouldContain(s => s.Contains("06/23/99"));
        image.Findings.ShouldBeEmpty();
    }

    [Fact]
    public void An_option_rom_says_for_whom_it_is()
    {
        var rom = RomImage.Read(Real("/usr/share/seabios/vgabios-stdvga.bin")).OptionRoms.ShouldHaveSingleItem();
        rom.ShouldBe(new OptionRom(0, 39_936, 0x1234, 0x1111, true));
    }

    [Fact]
    public void A_flash_map_names_its_areas_and_a_difference_says_in_which_it_lies()
    {
        var chip = new byte[64 * 1024];
        "__FMAP__"u8.CopyTo(chip.AsSpan(8192));
        (chip[8200], chip[8201]) = (1, 1);
        BinaryPrimitives.WriteUInt32LittleEndian(chip.AsSpan(8192 + 18), (uint)chip.Length);
        "CHIP"u8.CopyTo(chip.AsSpan(8192 + 22));
        BinaryPrimitives.WriteUInt16LittleEndian(chip.AsSpan(8192 + 54), 2);
        void Area(int index, uint offset, uint size, string name)
        {
            var at = chip.AsSpan(8192 + 56 + (index * 42));
            BinaryPrimitives.WriteUInt32LittleEndian(at, offset);
            BinaryPrimitives.WriteUInt32LittleEndian(at[4..], size);
            Encoding.ASCII.GetBytes(name, at[8..]);
        }
        Area(0, 0, 65_536, "ALL");
        Area(1, 16_384, 8192, "RO_VPD");

        var image = RomImage.Read(chip);
        image.Map!.Areas.ShouldBe([new FlashArea("ALL", 0, 65_536), new FlashArea("RO_VPD", 16_384, 8192)]);
        var other = (byte[])chip.Clone();
        other[20_000] = 7;
        image.Differences(chip, other).ShouldBe([new RomDifference(16_384, 4096, "RO_VPD")]);
        image.Differences(chip, chip).ShouldBeEmpty();
        image.Differences(chip, chip.AsSpan(0, 40_000)).ShouldHaveSingleItem().Length.ShouldBe(65_536 - 36_864);
    }

    [Fact]
    public void What_is_odd_is_said()
    {
        RomImage.Read(new byte[4096]).Findings.ShouldContain(f => f.Contains("empty"));
        var random = new byte[1 << 16];
        new Random(1).NextBytes(random);
        random[^16] = 0;
        RomImage.Read(random).Findings.ShouldContain(f => f.Contains("encrypted"));
        var wrong = Real("/usr/share/OVMF/OVMF_VARS_4M.fd");
        wrong[50] ^= 1;
        RomImage.Read(wrong).Findings.ShouldContain("The checksum of the volume at 0x0 is wrong.");
        RomImage.Read(wrong.AsSpan(0, 100_000)).Findings.ShouldContain(f => f.Contains("no power of two"));
        Should.Throw<FormatRefusedException>(() => RomImage.Read([]));
    }

    [Fact]
    public void Ten_thousand_broken_images_are_read_or_refused_and_nothing_else()
    {
        var sound = Real("/usr/share/OVMF/OVMF_CODE.fd").AsSpan(0, 32 * 1024).ToArray();
        // A whole volume of the length that the mutations work on.
        BinaryPrimitives.WriteUInt64LittleEndian(sound.AsSpan(32), (ulong)sound.Length);
        Gen.Select(Gen.Select(Gen.Int[0, 400], Gen.Byte).Array[1, 24], Gen.Int[64, sound.Length])
            .Sample(
                (changes, length) =>
                {
                    var broken = sound.AsSpan(0, length).ToArray();
                    foreach (var (at, value) in changes)
                        broken[at % length] = value;
                    var image = RomImage.Read(broken);
                    image.Volumes.ShouldAllBe(v => v.Offset >= 0 && v.Offset + v.Length <= length);
                    image
                        .Volumes.SelectMany(v => v.Files)
                        .ShouldAllBe(f => f.Offset >= 0 && f.Length >= 24 && f.Offset + f.Length <= length);
                },
                iter: 10_000
            );
    }
}
