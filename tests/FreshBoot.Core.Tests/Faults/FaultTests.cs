using System.Diagnostics;
using System.Formats.Tar;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Exchange;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Probes;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Faults;

/// <summary>Faults that a review and a hostile trial found, each under its number.</summary>
public class FaultTests
{
    private static readonly Recipe Harmless = new()
    {
        Id = "harmless",
        Name = "Harmless",
        Acts = PatchPlace.Afterwards,
        For = new RecipeFor("tessaly-6-r1", [], []),
        Operations = [new AddFile { Path = "etc/note", Text = "hello\n" }],
    };

    [Fact]
    public void F5_The_script_adds_only_the_arguments_that_are_not_there_as_the_operation_does()
    {
        var operation = new AppendArguments
        {
            Path = "boot/loader.cfg",
            Command = "linux",
            Arguments = ["quiet", "nomodeset", "splash"],
            Count = 2,
        };
        const string before = "set timeout=5\n  linux /vmlinuz quiet  \nlinux /other splash nomodeset\n";
        var files = new PatchFiles(
            new Dictionary<string, byte[]>(StringComparer.Ordinal) { [operation.Path] = Encoding.UTF8.GetBytes(before) }
        );
        operation.Look(files).ShouldBe(Fitting.Fits);
        operation.Apply(files);

        var folder = Directory.CreateTempSubdirectory("fresh-boot-f5-").FullName;
        Directory.CreateDirectory(Path.Combine(folder, "boot"));
        File.WriteAllText(Path.Combine(folder, operation.Path), before);
        var script = Path.Combine(folder, "script.sh");
        File.WriteAllText(script, PatchScript.Of(Harmless with { Operations = [operation] }, 1).Script);
        using var run = Process.Start("sh", [script, folder]);
        run.WaitForExit();
        run.ExitCode.ShouldBe(0);
        File.ReadAllText(Path.Combine(folder, operation.Path)).ShouldBe(files.Text(operation.Path));
        Directory.Delete(folder, recursive: true);
    }

    [Fact]
    public void F6_A_processors_name_adds_no_options_and_whose_maker_it_names_is_said()
    {
        var twin = TwinMachine.Of(
            Facts.Of(
                ("firmware.kind", "bios"),
                ("cpu.maker", "Palisade"),
                ("cpu.model", "Palisade P3,-lm,+vmx,model-id=x")
            ),
            null,
            null
        );
        twin.Processor.ShouldNotContain(",");
        // What it calls its maker is the emulator's, and it says so.
        twin.Differs.ShouldContain(d => d.Contains("the emulator's maker", StringComparison.Ordinal));
    }

    public static TheoryData<string> Texts =>
        ["id", "name", "about", "build", "cost", "relaxation", "close", "lift", "cure", "system"];

    [Theory]
    [MemberData(nameof(Texts))]
    public void F7_A_line_feed_in_a_text_of_a_recipe_is_refused_by_the_reader(string where)
    {
        const string evil = "harmless\nrm -rf /";
        var recipe = where switch
        {
            "id" => Harmless with { Id = "harmless\n" },
            "name" => Harmless with { Name = evil },
            "about" => Harmless with { About = evil },
            "build" => Harmless with { For = Harmless.For with { Builds = [evil] } },
            "cost" => Harmless with { Costs = [evil] },
            "relaxation" => Harmless with { Relaxations = [new Relaxation(evil, "close it")] },
            "close" => Harmless with { Relaxations = [new Relaxation("open", evil)] },
            "lift" => Harmless with { Lifts = [evil] },
            "cure" => Harmless with { Cure = evil },
            _ => Harmless with { For = Harmless.For with { System = evil } },
        };
        Should
            .Throw<RefusedException>(() => RecipeReader.Read(recipe.Write()))
            .Refusal.Kind.ShouldBe(RefusalKind.Invalid);
        if (where is "id")
            return;
        // And should one have come in before, the writer of the script makes one line of it.
        PatchScript.Of(recipe, 1).Script.Split('\n').ShouldNotContain("rm -rf /");
    }

    [Fact]
    public void F7_A_line_feed_in_a_component_or_anywhere_in_a_pack_is_a_fault_with_its_pointer()
    {
        var pack = """
            { "pack": "x", "about": "y", "makers": [ { "id": "m", "maker": "Brack\nwater", "bootMenu": "Press F10" } ] }
            """;
        Should
            .Throw<PackFaultsException>(() => PackReader.Read(Shipped.Schema, [("x.json", pack)]))
            .Faults.ShouldContain(f => f.At == "/makers/0/maker" && f.What.Contains("control character"));

        SystemComponent[] components =
        [
            new("assistant", "Assistant", [], "Talking\nreboot", 1, 1, [], false),
            new("core", "Core", [], "All", 1, 1, [], true),
        ];
        TrimPlan.Make("tessaly-6-r1", null, components, ["assistant"]).Script.Split('\n').ShouldNotContain("reboot");
    }

    [Fact]
    public void F7_A_trailing_line_feed_is_no_part_of_an_id_a_tag_or_an_account()
    {
        AssetTag.Form().IsMatch("MR-0417\n").ShouldBeFalse();
        var rules = new AnswerRules(
            "setup/answers.conf",
            "^[a-z]+$",
            "small letters",
            new Dictionary<string, string>()
        );
        Should
            .Throw<RefusedException>(() =>
                AnswerFile.Write(
                    new Answers(
                        "pim\n",
                        "",
                        "Eddlestow",
                        "en",
                        new Dictionary<string, bool>(),
                        false,
                        "PC-1",
                        true,
                        true
                    ),
                    rules,
                    null,
                    null
                )
            )
            .Refusal.Where.ShouldBe("account");
    }

    private static byte[] Bundle(Action<TarWriter> write)
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        using (var tar = new TarWriter(gzip, TarEntryFormat.Ustar))
            write(tar);
        return packed.ToArray();
    }

    private static void Member(TarWriter tar, string name, string content) =>
        tar.WriteEntry(
            new UstarTarEntry(TarEntryType.RegularFile, name)
            {
                DataStream = new MemoryStream(Encoding.UTF8.GetBytes(content)),
            }
        );

    private static ProbeBundle Read(byte[] bundle) => ProbeBundle.Read(new MemoryStream(bundle), "b.tar.gz");

    private const string Manifest = "fresh-boot-probe 1\ntaken 2026-12-03T12:00:00Z\nroot yes\n";

    [Fact]
    public void F18_A_manifest_of_millions_of_junk_lines_is_refused_and_of_thousands_a_few_are_told()
    {
        var millions = Bundle(t =>
            Member(t, "manifest.txt", Manifest + string.Concat(Enumerable.Repeat("junk\n", 1_500_000)))
        );
        var before = GC.GetAllocatedBytesForCurrentThread();
        Should.Throw<RefusedException>(() => Read(millions)).Refusal.Kind.ShouldBe(RefusalKind.TooLarge);
        (GC.GetAllocatedBytesForCurrentThread() - before).ShouldBeLessThan(8 << 20);

        var thousands = Read(
            Bundle(t => Member(t, "manifest.txt", Manifest + string.Concat(Enumerable.Repeat("junk\n", 5000))))
        );
        thousands.Warnings.Count.ShouldBe(21);
        thousands.Warnings[^1].ShouldContain("4980 more lines");
    }

    [Fact]
    public void F18_What_a_source_makes_us_say_is_bounded()
    {
        var report = new Report(Facts.Noon);
        for (var i = 0; i < 100_000; i++)
            report.Warn(new string('x', 1000));
        report.Warnings.Count.ShouldBe(101);
        report.Warnings.ShouldAllBe(w => w.Length < 400);
    }

    [Theory]
    [InlineData('L')]
    [InlineData('x')]
    public void F18_A_member_with_a_name_of_megabytes_is_refused_before_it_is_held(char kind)
    {
        var header = new byte[512];
        "././@LongLink"u8.CopyTo(header);
        Encoding.ASCII.GetBytes("00357600000\0").CopyTo(header, 124);
        header[156] = (byte)kind;
        Encoding.ASCII.GetBytes("        ").CopyTo(header, 148);
        var sum = header.Sum(b => b);
        Encoding.ASCII.GetBytes($"{Convert.ToString(sum, 8).PadLeft(6, '0')}\0 ").CopyTo(header, 148);
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        {
            gzip.Write(header);
            var chunk = new byte[1 << 20];
            Array.Fill(chunk, (byte)'a');
            for (var i = 0; i < 60; i++)
                gzip.Write(chunk);
        }
        var before = GC.GetAllocatedBytesForCurrentThread();
        Should.Throw<RefusedException>(() => Read(packed.ToArray())).Refusal.Kind.ShouldBe(RefusalKind.TooLarge);
        (GC.GetAllocatedBytesForCurrentThread() - before).ShouldBeLessThan(4 << 20);
    }

    [Fact]
    public void F25_A_sparse_member_is_refused_as_what_it_is()
    {
        var bytes = Bundle(t => Member(t, "manifest.txt", Manifest));
        using var unpacked = new MemoryStream();
        using (var gzip = new GZipStream(new MemoryStream(bytes), CompressionMode.Decompress))
            gzip.CopyTo(unpacked);
        var tar = unpacked.ToArray();
        tar[156] = (byte)'S';
        Encoding.ASCII.GetBytes("        ").CopyTo(tar, 148);
        var sum = tar.Take(512).Sum(b => b);
        Encoding.ASCII.GetBytes($"{Convert.ToString(sum, 8).PadLeft(6, '0')}\0 ").CopyTo(tar, 148);
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal, leaveOpen: true))
            gzip.Write(tar);
        Should.Throw<RefusedException>(() => Read(packed.ToArray())).Refusal.What.ShouldContain("no plain file");
    }

    [Theory]
    [InlineData("NaN,1,1,1,1")]
    [InlineData("Infinity,1,1,1,1")]
    [InlineData("1,1,1,1,-0.1")]
    public void F25_Weights_that_are_no_numbers_are_refused(string text) =>
        Should.Throw<RefusedException>(() => Weights.Parse(text)).Refusal.Where.ShouldBe("weights");

    [Fact]
    public void F25_Numbers_in_other_digits_and_halves_of_pairs_are_no_values()
    {
        Should.Throw<RefusedException>(() => FactEntry.Read("memory.installedMiB", Json("\"٣ GiB\"")));
        Should.Throw<RefusedException>(() => FactEntry.Read("identity.model", Json("\"\\ud800\"")));
        Should.Throw<RefusedException>(() => FactEntry.Read("cpu.flags", Json("[\"\\udc00\"]")));

        static JsonElement Json(string text) => JsonDocument.Parse(text).RootElement;
    }

    [Theory]
    [InlineData(
        "lsblk.json",
        """{"blockdevices":[{"name":"sda\ud800","type":"disk","size":128000000000,"model":"\udc00"}]}"""
    )]
    [InlineData("lscpu.json", """{"lscpu":[{"field":"Model name:","data":"Corvane \ud800"}]}""")]
    [InlineData(
        "smart-sda.json",
        """{"device":{"name":"/dev/sda\ud800"},"model_name":"\ud800","serial_number":"\udc00"}"""
    )]
    public void F25_Half_of_a_surrogate_pair_in_a_source_is_read_over(string name, string text)
    {
        var report = new Report(Facts.Noon);
        try
        {
            ProbeReader.Read(name, Encoding.UTF8.GetBytes(text), report);
        }
        catch (RefusedException)
        {
            // Refused with a reason is as good.
        }
        report.Readings.ShouldAllBe(r => !r.Value.ToString()!.Any(char.IsSurrogate));
    }

    [Theory]
    [InlineData("1e308")]
    [InlineData("9223372036854775808")]
    [InlineData("99999999999")]
    [InlineData("0.5")]
    public void F25_A_number_in_a_pack_that_nobody_can_count_with_is_a_fault(string number)
    {
        var pack = $$"""
            { "pack": "x", "about": "y", "memory": [ { "id": "m", "type": "DDR4", "sizeMiB": 4096, "money": {{number}} } ] }
            """;
        Should
            .Throw<PackFaultsException>(() => PackReader.Read(Shipped.Schema, [("x.json", pack)]))
            .Faults.ShouldContain(f => f.At == "/memory/0/money");
    }

    [Theory]
    [InlineData(
        """{"id":"a","name":"b","for":{"system":"c","builds":[null],"files":[]},"operations":[{"op":"addFile","path":"a","text":"b"}]}"""
    )]
    [InlineData(
        """{"id":"a","name":"b","for":{"system":"c","builds":[],"files":[null]},"operations":[{"op":"addFile","path":"a","text":"b"}]}"""
    )]
    [InlineData("""{"id":"a","name":"b","for":{"system":"c","builds":[],"files":[]},"operations":[null]}""")]
    [InlineData(
        """{"id":"a","name":"b","for":{"system":"c","builds":[],"files":[]},"costs":[null],"operations":[{"op":"addFile","path":"a","text":"b"}]}"""
    )]
    [InlineData(
        """{"id":"a","name":"b","for":{"system":"c","builds":[],"files":[]},"operations":[{"op":"removeLines","path":"a","lines":[null]}]}"""
    )]
    public void F25_A_gap_in_a_list_of_a_recipe_is_refused(string recipe) =>
        Should.Throw<RefusedException>(() => RecipeReader.Read(recipe)).Refusal.Kind.ShouldBe(RefusalKind.Invalid);

    [Theory]
    [InlineData("＝1+1")]
    [InlineData("＠SUM(A1)")]
    [InlineData("＋1")]
    [InlineData("－1")]
    public void F26_A_full_width_sign_begins_no_formula_either(string text)
    {
        var table = MachineCsv.Table(
            ["name"],
            [
                [text],
            ]
        );
        table.Split('\n')[1].Trim().Trim('"').ShouldStartWith("'");
    }

    [Fact]
    public void F23_A_search_for_routes_can_be_stopped() =>
        Should.Throw<OperationCanceledException>(() =>
            new RouteSearch(Shipped.Catalogue).Find(
                Facts.GoodBut(),
                new RouteQuestion(new DateOnly(2026, 12, 3)) { Stop = new CancellationToken(canceled: true) }
            )
        );
}
