using CsCheck;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Tests.Discs;

/// <summary>The readers on images of other programs' making, and the FAT writer against the reader.</summary>
public class ReaderTests
{
    private static InspectedImage Look(byte[] bytes) => ImageInspector.Look(new MemoryStream(bytes, writable: false));

    private static string Text(byte[] image, TreeEntry entry)
    {
        using var reader = new StreamReader(new ExtentStream(new MemoryStream(image), entry));
        return reader.ReadToEnd();
    }

    [Fact]
    public void A_udf_bridge_gives_names_and_content_of_both_trees()
    {
        var image = SeedImages.Of("udf");
        var seen = Look(image);
        var udf = seen.Trees.Single(t => t.Tree.FileSystem == "UDF 1.02").Tree;
        udf.Label.ShouldBe("SEEDUDF");
        udf.Entries.Select(e => e.Path).ShouldContain("sub/a long name that ISO has not.txt");
        Text(image, udf.Find("readme.txt")!).ShouldBe("hello\n");
        Text(image, udf.Find("sub/a long name that ISO has not.txt")!)
            .ShouldBe(string.Concat(Enumerable.Range(1, 2000).Select(i => $"{i}\n")));
        udf.Entries.Where(e => e.Kind == EntryKind.File)
            .Sum(e => e.SizeBytes)
            .ShouldBe(seen.Trees.Single(t => t.Tree.FileSystem == "ISO 9660").Tree.Entries.Sum(e => e.SizeBytes));
        seen.Inspection.Findings.ShouldBeEmpty();
    }

    [Fact]
    public void A_hybrid_gives_rock_ridge_names_tables_and_what_starts()
    {
        var seen = Look(SeedImages.Of("hybrid")).Inspection;
        seen.FileSystems[0].Kind.ShouldBe("ISO 9660 with Rock Ridge");
        seen.ElTorito.Select(e => e.Platform).ShouldBe(["bios", "uefi"]);
        seen.Partitions.ShouldContain(p => p.Table == "gpt" && p.Type == "c12a7328-f81f-11d2-ba4b-00a0c93ec93b");
        seen.Starts.BiosStick.Can.ShouldBeTrue();
        seen.Starts.Uefi64Stick.Can.ShouldBeFalse("its EFI partition is empty");
    }

    [Theory]
    [InlineData((ushort)0x8664, true, "BOOTX64.EFI for x64")]
    [InlineData((ushort)0x014c, false, "for ia32, not x64")]
    [InlineData((ushort)0xaa64, false, "for aa64, not x64")]
    public void The_loader_counts_by_the_machine_in_its_header_not_by_its_name(ushort machine, bool can, string why)
    {
        var start = Look(
            SeedImages.Fat(("EFI/BOOT/BOOTX64.EFI", SeedImages.Pe(machine)))
        ).Inspection.Starts.Uefi64Stick;
        start.Can.ShouldBe(can);
        start.Why.ShouldContain(why);
    }

    [Fact]
    public void A_loader_that_is_no_program_is_told()
    {
        var seen = Look(SeedImages.Of("fat12")).Inspection;
        seen.Starts.Uefi64Stick.Why.ShouldContain("no UEFI program");
        seen.Findings.ShouldContain(f => f.What.Contains("no PE file"));
    }

    [Fact]
    public void Whatever_files_the_fat_writer_is_given_the_reader_finds_again()
    {
        var name = Pick.From(
            "A",
            "readme.TXT",
            "with space",
            "ünïcode",
            "a-very-long-name-that-needs-several-entries.config",
            "x.y.z",
            "UPPER.low"
        );
        Gen.Select(name, name, Gen.Byte.Array[0, 5000])
            .Array[1, 12]
            .Sample(
                files =>
                {
                    var wanted = files
                        .Select(f => (Path: $"{f.Item1}/{f.Item2}", Content: f.Item3))
                        .DistinctBy(f => f.Path, StringComparer.OrdinalIgnoreCase)
                        .ToArray();
                    var image = SeedImages.Fat(wanted);
                    var tree = Look(image).Main!;
                    tree.FileSystem.ShouldBe("FAT32");
                    tree.Entries.Count(e => e.Kind == EntryKind.File).ShouldBe(wanted.Length);
                    foreach (var (path, content) in wanted)
                    {
                        using var file = new ExtentStream(new MemoryStream(image), tree.Find(path)!);
                        var bytes = new byte[file.Length];
                        file.ReadExactly(bytes);
                        bytes.ShouldBe(content);
                    }
                },
                iter: 25
            );
    }
}
