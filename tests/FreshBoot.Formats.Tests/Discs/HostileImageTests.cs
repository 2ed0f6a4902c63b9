using System.Buffers.Binary;
using System.Diagnostics;
using CsCheck;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Tests.Discs;

/// <summary>Images that lie: a clear finding, in bounded time and memory, and never an exception.</summary>
public class HostileImageTests
{
    private static InspectedImage Look(byte[] bytes) => ImageInspector.Look(new MemoryStream(bytes, writable: false));

    [Fact]
    public void An_honest_one_is_read()
    {
        var seen = Look(
            new MadeIso()
                .Folder(18, ("A.TXT;1", 19, 5, false), ("SUB", 20, 2048, true))
                .Folder(20, ("B.;1", 19, 5, false))
                .Bytes()
        );
        seen.Main!.Entries.Select(e => e.Path).ShouldBe(["A.TXT", "SUB", "SUB/B"]);
        seen.Inspection.Label.ShouldBe("MADE");
        seen.Inspection.Findings.ShouldBeEmpty();
        seen.Inspection.Starts.All().ShouldAllBe(s => !s.Start.Can && s.Start.Why.Length > 0);
    }

    [Fact]
    public void A_folder_that_leads_back_is_told_once_and_read_once()
    {
        var seen = Look(
            new MadeIso()
                .Folder(18, ("SUB", 20, 2048, true))
                .Folder(20, ("UP", 18, 2048, true), ("SELF", 20, 2048, true))
                .Bytes()
        );
        seen.Main!.Entries.Count.ShouldBe(3);
        seen.Inspection.Findings.Count(f => f.Fault && f.What.Contains("leads back")).ShouldBe(2);
    }

    [Fact]
    public void What_reaches_beyond_the_end_is_told_with_its_name()
    {
        var seen = Look(
            new MadeIso()
                .Folder(
                    18,
                    ("FAR.BIN;1", 900_000, 5000, false),
                    ("HUGE;1", 19, 4_000_000_000, false),
                    ("GONE", 800_000, 4096, true)
                )
                .Bytes()
        );
        foreach (var name in (string[])["FAR.BIN", "HUGE", "GONE"])
            seen.Inspection.Findings.ShouldContain(f =>
                f.Fault && f.Where.Contains(name) && f.What.Contains("beyond the end")
            );
        // What is said of its content is cut, too: reading it gives what is there and no more.
        using var file = new ExtentStream(new MemoryStream(), seen.Main!.Find("HUGE")!);
        file.Read(new byte[10]).ShouldBe(0);
    }

    [Fact]
    public void Names_that_lead_elsewhere_are_made_harmless()
    {
        var seen = Look(
            new MadeIso()
                .Folder(
                    18,
                    ("../../etc;1", 19, 5, false),
                    ("A\0B;1", 19, 5, false),
                    ("..", 19, 5, false),
                    ("C\\D;1", 19, 5, false)
                )
                .Bytes()
        );
        seen.Main!.Entries.ShouldAllBe(e =>
            !e.Path.Contains('/') && !e.Path.Contains('\\') && !e.Path.Contains('\0') && e.Path != ".."
        );
        seen.Inspection.Findings.Count(f => f.What.Contains("no name may")).ShouldBe(4);
    }

    [Fact]
    public void A_path_a_hundred_thousand_deep_is_cut_and_told_quickly()
    {
        var image = new MadeIso().Folder(18, ("D", 20, 2048, true));
        for (var i = 0; i < 100_000; i++)
            image.Folder(20 + i, ("D", 21 + i, 2048, true));
        var bytes = image.Bytes();
        var time = Stopwatch.StartNew();
        var before = GC.GetAllocatedBytesForCurrentThread();
        var seen = Look(bytes);
        (GC.GetAllocatedBytesForCurrentThread() - before).ShouldBeLessThan(64L << 20);
        time.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(5));
        seen.Main!.Cut.ShouldBeTrue();
        seen.Main.Entries.Count.ShouldBeLessThan(200);
        seen.Inspection.Findings.ShouldContain(f => f.What.Contains("deep"));
    }

    [Theory]
    [InlineData(19u, "no boot catalogue")]
    [InlineData(4_000_000_000u, "beyond the end")]
    public void A_catalogue_that_points_nowhere_is_told(uint sector, string says)
    {
        var seen = Look(new MadeIso(root: 20).Boot(sector).Folder(20, ("A;1", 19, 5, false)).Bytes());
        seen.Inspection.ElTorito.ShouldBeEmpty();
        seen.Inspection.Findings.ShouldContain(f => f.Fault && f.What.Contains(says));
        seen.Inspection.Starts.BiosDisc.Can.ShouldBeFalse();
    }

    [Fact]
    public void An_endless_boot_catalogue_ends()
    {
        var image = new MadeIso(root: 20).Boot(21).Folder(20);
        var catalogue = new byte[1 << 20];
        catalogue[0] = 1;
        catalogue[30] = 0x55;
        catalogue[31] = 0xaa;
        BinaryPrimitives.WriteUInt16LittleEndian(catalogue.AsSpan(28), unchecked((ushort)-(1 + 0xaa55)));
        catalogue[32] = 0x88;
        for (var i = 64; i < catalogue.Length; i += 32)
            (catalogue[i], catalogue[i + 2]) = (0x90, 0);
        var seen = Look(image.Put(21, catalogue).Bytes());
        seen.Inspection.ElTorito.Count.ShouldBe(1);
        seen.Inspection.Findings.ShouldContain(f => f.What.Contains("has no end"));
    }

    /// <summary>What the fuzzing starts from: an ISO, a FAT file system behind an MBR, a UDF bridge and a GPT.</summary>
    public static TheoryData<string> Seeds => ["iso", "fat", "fat12", "udf", "hybrid"];

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Cut_anywhere_or_flipped_anywhere_it_never_throws_and_ends(string seed)
    {
        var good = SeedImages.Of(seed);
        var seen = Look(good);
        seen.Main.ShouldNotBeNull();
        // Where the tables lie, which is where a flipped bit does something.
        var near = Enumerable.Range(0, good.Length).Where(i => good[i] != 0).ToArray();
        Gen.Select(Gen.Int[0, 3], Gen.Int[0, good.Length], Gen.Int[0, near.Length - 1].Array[1, 12], Gen.Byte)
            .Sample(
                (kind, cut, places, value) =>
                {
                    var bad = kind == 0 ? good[..cut] : good.ToArray();
                    if (kind > 0)
                        foreach (var place in places)
                            bad[near[place]] = kind == 1 ? value : (byte)(bad[near[place]] ^ (value | 1));
                    var look = Look(bad);
                    foreach (var (_, tree) in look.Trees)
                    {
                        tree.Entries.Count.ShouldBeLessThanOrEqualTo(FileTree.MostEntries);
                        foreach (var entry in tree.Entries.Take(20))
                        {
                            using var file = new ExtentStream(new MemoryStream(bad, writable: false), entry);
                            file.ReadAtLeast(new byte[512], 512, throwOnEndOfStream: false)
                                .ShouldBeLessThanOrEqualTo(512);
                        }
                    }
                },
                iter: good.Length > 4 << 20 ? 120 : 4000
            );
    }
}
