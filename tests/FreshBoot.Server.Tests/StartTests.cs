using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Media;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Formats.Discs;
using FreshBoot.Workshop.Emulation;
using FreshBoot.Workshop.Images;

namespace FreshBoot.Server.Tests;

/// <summary>Real starts: images that other packages ship go on starting after a recipe has added a file to them.</summary>
[Collection("Emulator")]
public sealed class StartTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-start-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static readonly string[] Packaged =
    [
        "/usr/lib/memtest86+/memtest86+x64.iso",
        "/usr/lib/memtest86+/memtest86+ia32.iso",
        "/usr/lib/ipxe/ipxe.iso",
        "/usr/lib/grub-rescue/grub-rescue-cdrom.iso",
    ];

    private static readonly Recipe AddNote = new()
    {
        Id = "note",
        Name = "Add a note",
        For = new RecipeFor("any", [], []),
        Operations = [new AddFile { Path = "shop/note.txt", Text = "Millrace\n" }],
    };

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task Packaged_images_start_as_before_after_a_file_was_added()
    {
        await Parallel.ForEachAsync(
            Packaged,
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (path, stop) =>
            {
                var target = Path.Combine(_folder, Path.GetFileName(path));
                InspectedImage before,
                    after;
                await using (var file = File.OpenRead(path))
                {
                    before = ImageInspector.Look(file);
                    ImageRewriter.Obstacle(before).ShouldBeNull(path);
                    var outcome = Patcher.Run(AddNote, PatchFiles.On(file, before.Main!));
                    await ImageRewriter.WriteAsync(
                        path,
                        target,
                        _folder,
                        outcome.Files,
                        before.Inspection.Marks.Joliet,
                        stop
                    );
                    await using var made = File.OpenRead(target);
                    after = ImageInspector.Look(made);
                    PatchedStick.Prove(
                        before,
                        after,
                        made,
                        outcome.Files,
                        ImageLosses.Ahead(before.Inspection, "rewrite")
                    );
                }
                before.Inspection.Starts.LostIn(after.Inspection.Starts).ShouldBeEmpty(path);
                before.Inspection.Starts.BiosDisc.Can.ShouldBeTrue(path);
                // Seen to run as a disc; as a stick too with FRESHBOOT_EVERY_START=1.
                bool[] media = before.Inspection.Starts.BiosStick.Can && EveryStart.IsWanted ? [false, true] : [false];
                foreach (var asStick in media)
                {
                    var start = await Emulator.StartAsync(
                        target,
                        asStick ? TwinForm.Stick : TwinForm.Disc,
                        TwinMachine.Of(Dossier.Empty, "bios", null),
                        null,
                        Directory.CreateTempSubdirectory("screens-").FullName,
                        _folder,
                        TimeSpan.FromSeconds(60),
                        _ => { },
                        stop
                    );
                    start.Verdict.Verdict.ShouldBe("loader", $"{path}, {(asStick ? "stick" : "disc")}: {start.Text}");
                    start.Screens.ShouldNotBeEmpty();
                }
            }
        );
    }

    [Fact]
    public async Task A_twin_says_why_it_is_refused_can_be_cancelled_and_takes_another_identity()
    {
        DemoImages.All();
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        var images = (await client.GetFromJsonAsync<JsonElement>("/api/images"))
            .GetProperty("images")
            .EnumerateArray()
            .ToDictionary(
                i => i.GetProperty("image").GetProperty("name").GetString()!,
                i => i.GetProperty("image").GetProperty("id").GetInt32()
            );
        async Task<JsonElement> BeginAsync(string image, object twin)
        {
            var answer = await client.PostAsJsonAsync($"/api/images/{images[image]}/twin", twin);
            answer.StatusCode.ShouldBe(HttpStatusCode.Accepted, await answer.Content.ReadAsStringAsync());
            return await answer.JsonAsync();
        }
        // An old terminal: 32 bits, legacy BIOS.
        var till = await client.DoneAsync(await BeginAsync("tessaly-6-r1.iso", new { tag = "MR-0402", @as = "stick" }));
        till.GetProperty("result").GetProperty("rehearsal").GetProperty("verdict").GetString().ShouldBe("refused");
        till.GetProperty("result").GetProperty("text").GetString()!.ShouldContain("needs a 64-bit processor");
        var light = await client.DoneAsync(
            await BeginAsync("pebblemoss-32.iso", new { tag = "MR-0402", @as = "disc" })
        );
        light
            .GetProperty("result")
            .GetProperty("rehearsal")
            .GetProperty("verdict")
            .GetString()
            .ShouldBe("letIn", light.ToString());
        var screen = await client.GetByteArrayAsync(light.GetProperty("result").GetProperty("screens")[0].GetString());
        screen[..4].ShouldBe((byte[])[0x89, (byte)'P', (byte)'N', (byte)'G']);
        (
            await client.PostAsJsonAsync(
                $"/api/images/{images["pebblemoss-32.iso"]}/twin",
                new
                {
                    tag = "MR-0402",
                    @as = "stick",
                    firmware = "uefi64",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        // A model-locked system: refused as what it is, accepted as a later model of its line.
        var own = await client.DoneAsync(
            await BeginAsync(
                "canzona-6.iso",
                new
                {
                    tag = "MR-0422",
                    @as = "disc",
                    firmware = "bios",
                }
            )
        );
        own.GetProperty("result")
            .GetProperty("rehearsal")
            .GetProperty("why")
            .GetString()!
            .ShouldContain("the model (Plinth PL-06B) is not on the list");
        var given = await (
            await client.PostAsJsonAsync(
                "/api/machines/MR-0422/identity",
                new
                {
                    donor = "PL-08A",
                    level = "full",
                    by = "Pim",
                }
            )
        ).JsonAsync();
        var later = await client.DoneAsync(
            await BeginAsync(
                "canzona-6.iso",
                new
                {
                    tag = "MR-0422",
                    @as = "disc",
                    firmware = "bios",
                    identity = given.GetProperty("id").GetInt32().ToString(CultureInfo.InvariantCulture),
                }
            )
        );
        later
            .GetProperty("result")
            .GetProperty("rehearsal")
            .GetProperty("verdict")
            .GetString()
            .ShouldBe("letIn", later.ToString());

        // Held against the machine, the start is its evidence.
        var held = (await client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0402/images"))
            .EnumerateArray()
            .First(i => i.GetProperty("image").GetProperty("name").GetString() == "pebblemoss-32.iso");
        held.GetProperty("starts")[0]
            .GetProperty("job")
            .GetProperty("result")
            .GetProperty("rehearsal")
            .GetProperty("verdict")
            .GetString()
            .ShouldBe("letIn");

        var running = await BeginAsync("tessaly-6-r1.iso", new { tag = "MR-0409", @as = "disc" });
        await Task.Delay(1000);
        (await (await client.DeleteAsync($"/api/jobs/{running.GetProperty("id").GetInt32()}")).JsonAsync())
            .GetProperty("state")
            .GetString()
            .ShouldBe("cancelled");
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_six_gibibyte_image_with_a_file_of_four_and_a_half_is_looked_into_at_once_and_planned()
    {
        var tree = Directory.CreateDirectory(Path.Combine(_folder, "tree", "EFI", "BOOT")).Parent!.Parent!.FullName;
        await ProgramOutput.Of(
            "mcopy",
            "-i",
            DemoImages.EfiOf("tessaly-6-r1"),
            "::/EFI/BOOT/BOOTX64.EFI",
            Path.Combine(tree, "EFI", "BOOT")
        );
        foreach (var (name, size) in new[] { ("payload.pak", 4_831_838_208L), ("more.pak", 1_610_612_736L) })
            await using (var file = File.Create(Path.Combine(tree, name)))
                file.SetLength(size);
        // Zeros are written as holes: the disk beneath is small.
        await Task.WhenAll(
            ProgramOutput.Of(
                "sh",
                "-c",
                $"xorriso -as mkisofs -quiet -iso-level 3 -r -V BIG3 {tree} 2> /dev/null | dd conv=sparse bs=1M iflag=fullblock status=none of={_folder}/iso3"
            ),
            ProgramOutput.Of(
                "sh",
                "-c",
                $"genisoimage -quiet -udf -allow-limited-size -V BIGUDF {tree} 2> /dev/null | dd conv=sparse bs=1M iflag=fullblock status=none of={_folder}/udf"
            )
        );
        foreach (var (name, fileSystem) in new[] { ("iso3", "ISO 9660 with Rock Ridge"), ("udf", "UDF 1.02") })
        {
            await using var file = new FileStream(
                Path.Combine(_folder, name),
                FileMode.Open,
                FileAccess.Read,
                FileShare.Read,
                1 << 16
            );
            file.Length.ShouldBeGreaterThan(6_400_000_000);
            var best = TimeSpan.MaxValue;
            InspectedImage seen = null!;
            for (var i = 0; i < 3; i++)
            {
                var time = Stopwatch.StartNew();
                seen = ImageInspector.Look(file);
                best = time.Elapsed < best ? time.Elapsed : best;
            }
            best.ShouldBeLessThan(TimeSpan.FromMilliseconds(100));
            seen.Inspection.FileSystems[0].Kind.ShouldBe(fileSystem);
            seen.Inspection.LargestFile.ShouldBe(new LargestFile("payload.pak", 4_831_838_208));
            seen.Main!.Find("payload.pak")!.Extents.Sum(e => e.Length).ShouldBe(4_831_838_208);
            seen.Inspection.Findings.Where(f => f.Fault).ShouldBeEmpty();
            var plan = WritePlan.Make(
                seen,
                new MediumFacts(MediumKind.Stick, 16_000_000_000, 3, 20_000_000, 90_000_000),
                new WriteWish(["uefi64"], LargeFiles.Parts, 3, null, 0, 1)
            );
            plan.Method.ShouldBe(CopyMethod.FilesInParts);
            plan.Why.ShouldContain("payload.pak has 4.5 GiB");
        }
    }
}
