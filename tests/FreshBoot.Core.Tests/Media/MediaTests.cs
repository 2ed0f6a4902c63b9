using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Media;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Formats.Tests.Discs;
using FreshBoot.Workshop.Media;

namespace FreshBoot.Core.Tests.Media;

public sealed class MediaTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-media-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private SimulatedStick Stick(long size, StickFaults faults) =>
        new(Path.Combine(_folder, $"{Guid.NewGuid():N}"), size, faults);

    [Theory]
    [InlineData(null, false, "sound", 64L << 20)]
    [InlineData(24L << 20, false, "wraps", 24L << 20)]
    [InlineData(24L << 20, true, "loses", 24L << 20)]
    public void A_stick_that_lies_about_its_size_is_found_out(long? really, bool loses, string manner, long found)
    {
        using var stick = Stick(64 << 20, new StickFaults(TrueBytes: really, LosesBeyond: loses));
        var finding = CapacityTest.Run(stick, 64 << 10, 7, _ => { }, default);
        finding.Manner.ShouldBe(manner);
        finding.TrueBytes.ShouldBe(found);
        finding.ClaimedBytes.ShouldBe(64L << 20);
    }

    [Fact]
    public void Of_a_bad_place_in_the_middle_it_is_not_said_that_the_size_is_false()
    {
        using var stick = Stick(64 << 20, new StickFaults(BadFrom: 20 << 20, BadBytes: 1 << 20));
        var finding = CapacityTest.Run(stick, 64 << 10, 7, _ => { }, default);
        finding.Manner.ShouldBe("bad");
        finding.BadAt[0].ShouldBe(20 << 20);
        finding.Says.ShouldContain("dying");
    }

    [Fact]
    public void Stamps_of_another_test_are_not_taken_for_this_ones()
    {
        using var stick = Stick(16 << 20, new StickFaults(TrueBytes: 8 << 20, LosesBeyond: true));
        CapacityTest.Run(stick, 64 << 10, 1, _ => { }, default).Manner.ShouldBe("loses");
        CapacityTest.Run(stick, 64 << 10, 2, _ => { }, default).TrueBytes.ShouldBe(8 << 20);
    }

    [Fact]
    public void A_stick_that_is_pulled_out_is_gone_and_keeps_what_went_through()
    {
        using var stick = Stick(16 << 20, new StickFaults(PulledAfterBytes: 5000));
        stick.Write(0, new byte[4096]);
        Should.Throw<MediumGoneException>(() => stick.Write(4096, new byte[4096]));
        Should.Throw<MediumGoneException>(() => stick.Read(0, new byte[1]));
    }

    private static readonly MediumFacts Sixteen = new(MediumKind.Stick, 16_000_000_000, 3, 20_000_000, 100_000_000);

    private static WriteWish Wish(
        string firmware,
        LargeFiles large = LargeFiles.Whole,
        string? reads = null,
        int port = 3
    ) => new([firmware], large, port, reads, 0, 1);

    /// <summary>An image with a file tree and ways to start, as an inspection would find it.</summary>
    private static InspectedImage Image(bool hybrid, long largest)
    {
        var yes = new Start(true, "it does");
        var no = new Start(false, "it does not");
        var tree = new FileTree("UDF 1.02", "BIG", []);
        tree.Add(new TreeEntry("EFI/BOOT/BOOTX64.EFI", EntryKind.File, 1 << 20, [new Extent(0, 1 << 20)]));
        tree.Add(new TreeEntry("sources/payload.pak", EntryKind.File, largest, [new Extent(1 << 20, largest)]));
        return new InspectedImage(
            new Inspection(
                "BIG",
                largest + (2 << 20),
                new LargestFile("sources/payload.pak", largest),
                [new ImageFileSystem("UDF 1.02", "BIG", "disc", 0, 2)],
                [],
                [],
                [],
                new Starts(yes, hybrid ? yes : no, yes, hybrid ? yes : no, no, no),
                []
            ),
            [("disc", tree)]
        );
    }

    [Fact]
    public void A_hybrid_goes_block_by_block_whatever_the_size_of_its_files()
    {
        var plan = WritePlan.Make(Image(hybrid: true, 4_831_838_208), Sixteen, Wish("uefi64"));
        plan.Method.ShouldBe(CopyMethod.Blocks);
        plan.Why.ShouldContain("files of any size stay whole");
        plan.WriteSeconds.ShouldBe((plan.NeededBytes + 19_999_999) / 20_000_000);
        plan.Stretches.Sum(s => s.SizeBytes).ShouldBe(Sixteen.SizeBytes);
    }

    [Theory]
    [InlineData(LargeFiles.Parts, CopyMethod.FilesInParts, "split")]
    [InlineData(LargeFiles.SecondPartition, CopyMethod.TwoPartitions, "second partition")]
    [InlineData(LargeFiles.Whole, CopyMethod.None, "neither parts nor a second partition")]
    public void A_file_of_four_gibibytes_is_split_or_set_apart_and_it_says_why(
        LargeFiles rule,
        CopyMethod method,
        string says
    )
    {
        var plan = WritePlan.Make(Image(hybrid: false, 4_831_838_208), Sixteen, Wish("uefi64", rule));
        plan.Method.ShouldBe(method);
        plan.Why.ShouldContain("4.5 GiB");
        plan.Why.ShouldContain(says);
        plan.Fits.ShouldBe(method != CopyMethod.None);
    }

    [Fact]
    public void A_file_of_four_gibibytes_less_one_byte_is_copied_whole() =>
        WritePlan.Make(Image(hybrid: false, uint.MaxValue), Sixteen, Wish("uefi64")).Method.ShouldBe(CopyMethod.Files);

    [Fact]
    public void What_bios_does_not_start_no_file_copy_mends() =>
        WritePlan.Make(Image(hybrid: false, 1000), Sixteen, Wish("bios")).Why.ShouldContain("does not help BIOS");

    [Theory]
    [InlineData(MediumKind.Dvd, "cd", "reads CDs only")]
    [InlineData(MediumKind.Cd, "", "no disc drive")]
    public void A_disc_that_the_drive_does_not_read_is_none(MediumKind kind, string reads, string says)
    {
        var disc = Sixteen with { Kind = kind, SizeBytes = MediumFacts.DiscBytes(kind) };
        WritePlan.Make(Image(true, 1000), disc, Wish("bios", reads: reads)).Why.ShouldContain(says);
    }

    [Fact]
    public void The_slow_port_limits_a_fast_stick()
    {
        var fast = Sixteen with { WriteBytesPerSecond = 200_000_000 };
        var plan = WritePlan.Make(Image(true, 700_000_000), fast, Wish("uefi64", port: 2));
        plan.Slowest.ShouldBe("port");
        plan.WriteSeconds.ShouldBe((plan.NeededBytes + 34_999_999) / 35_000_000);
        WritePlan
            .Make(Image(true, 700_000_000), Sixteen with { SizeBytes = 500_000_000 }, Wish("uefi64"))
            .Fits.ShouldBeFalse();
    }

    [Fact]
    public void What_is_written_is_read_back_and_a_flipped_bit_is_found()
    {
        var image = SeedImages.Of("hybrid");
        var seen = ImageInspector.Look(new MemoryStream(image));
        seen = seen with
        {
            Inspection = seen.Inspection with
            {
                Starts = seen.Inspection.Starts with { Uefi64Stick = new Start(true, "") },
            },
        };
        var medium = new MemoryMedium(8 << 20);
        var plan = WritePlan.Make(seen, Sixteen with { SizeBytes = medium.SizeBytes }, Wish("uefi64"));
        MediumWriter.Write(new MemoryStream(image), seen, plan, medium, _ => { }, default);
        MediumWriter.Verify(new MemoryStream(image), seen, plan, medium, _ => { }, default).ShouldBeNull();
        medium.Bytes[300_000] ^= 1;
        MediumWriter
            .Verify(new MemoryStream(image), seen, plan, medium, _ => { }, default)!
            .ShouldContain("byte 300000");
    }

    [Fact]
    public void In_two_partitions_the_files_lie_in_the_first_and_the_image_as_it_is_in_the_second()
    {
        var image = SeedImages.Of("hybrid");
        var seen = ImageInspector.Look(new MemoryStream(image));
        var needed = FatWriter.BytesFor(FatWriter.List(seen.Main!, split: false)) + image.Length;
        var plan = new WritePlan(CopyMethod.TwoPartitions, "", "", "", true, needed, [], 0, 0, 0, "", []);
        var medium = new MemoryMedium(64 << 20);
        MediumWriter.Write(new MemoryStream(image), seen, plan, medium, _ => { }, default);
        MediumWriter.Verify(new MemoryStream(image), seen, plan, medium, _ => { }, default).ShouldBeNull();
        var back = ImageInspector.Look(new MemoryStream(medium.Bytes));
        var second = back.Inspection.Partitions.Single(p => p.Number == 2);
        medium.Bytes.AsSpan((int)second.OffsetBytes, image.Length).SequenceEqual(image).ShouldBeTrue();
        medium.Bytes[second.OffsetBytes + 300_000] ^= 1;
        MediumWriter
            .Verify(new MemoryStream(image), seen, plan, medium, _ => { }, default)!
            .ShouldContain("second partition");
    }

    [Fact]
    public void A_large_file_is_split_into_parts_that_follow_one_another()
    {
        var parts = FatWriter.Sources(Stream.Null, Image(false, 4_831_838_208).Main!, split: true);
        parts
            .Select(p => (p.Path, p.SizeBytes))
            .ShouldBe([
                ("EFI/BOOT/BOOTX64.EFI", 1L << 20),
                ("sources/payload.pak.001", FatWriter.PartBytes),
                ("sources/payload.pak.002", 4_831_838_208 - FatWriter.PartBytes),
            ]);
    }

    [Fact]
    public void A_copy_that_breaks_off_does_not_begin_like_one_that_starts()
    {
        var image = SeedImages.Of("hybrid").Concat(new byte[12 << 20]).ToArray();
        image[^1] = 1;
        var seen = ImageInspector.Look(new MemoryStream(image));
        var plan = new WritePlan(CopyMethod.Blocks, "", "", "", true, image.Length, [], 0, 0, 0, "", []);
        var medium = new MemoryMedium(image.Length);
        image.AsSpan(0, 512).CopyTo(medium.Bytes); // what an earlier write left
        using var stop = new CancellationTokenSource();
        Should.Throw<OperationCanceledException>(() =>
            MediumWriter.Write(new MemoryStream(image), seen, plan, medium, _ => stop.Cancel(), stop.Token)
        );
        medium.Bytes.AsSpan(0, 512).ContainsAnyExcept((byte)0).ShouldBeFalse();
    }
}
