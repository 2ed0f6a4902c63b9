using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Formats.Partitions;

namespace FreshBoot.Server.Tests;

/// <summary>Layouts over HTTP, held against the programs that write and check partition tables.</summary>
public sealed class LayoutTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;

    // Sparse files in memory: nothing of a table has to be waited for.
    private readonly string _folder = Directory
        .CreateDirectory(
            Path.Combine(
                Directory.Exists("/dev/shm") ? "/dev/shm" : Path.GetTempPath(),
                $"fresh-boot-{Guid.NewGuid():n}"
            )
        )
        .FullName;

    public LayoutTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
        Directory.Delete(_folder, true);
    }

    private async Task<JsonElement> PlanAsync(object asked, HttpStatusCode status = HttpStatusCode.OK)
    {
        var answer = await _client.PostAsJsonAsync("/api/machines/MR-0870/layout", asked);
        answer.StatusCode.ShouldBe(status, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    private Task MachineAsync() => new RunDriver(_client).MachineAsync("MR-0870");

    /// <summary>Two hundred layouts of every sort, as sfdisk writes them to a drive of that size and reads them back.</summary>
    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task What_is_planned_is_what_sfdisk_writes_and_its_checkers_find_no_fault()
    {
        await MachineAsync();
        var random = new Random(4);
        var written = 0;
        for (var i = 0; i < EveryStart.Of(200, 40); i++)
        {
            var size = random.NextInt64(1_500_000_000, 3_000_000_000_000);
            var answer = await _client.PostAsJsonAsync(
                "/api/machines/MR-0870/layout",
                new
                {
                    drive = new { sizeBytes = size },
                    firmware = random.Next(3) switch
                    {
                        0 => "uefi64",
                        1 => "uefi32",
                        _ => "bios",
                    },
                    reachBytes = new[] { 528_482_304, 8_422_686_720, 137_438_953_472 }[random.Next(3)],
                    memoryMiB = 1 << random.Next(8, 15),
                    scheme = random.Next(3) == 0 ? (random.Next(2) == 0 ? "gpt" : "mbr") : null,
                    system = "pebblemoss-32",
                    wishes = new
                    {
                        home = random.Next(2) == 0,
                        data = random.Next(3) == 0,
                        recovery = random.Next(4) == 0,
                        sleep = random.Next(4) == 0,
                        encrypt = random.Next(4) == 0,
                    },
                }
            );
            if (answer.StatusCode == HttpStatusCode.UnprocessableEntity)
                continue;
            answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
            var sheet = await answer.JsonAsync();
            sheet
                .GetProperty("findings")
                .EnumerateArray()
                .ShouldAllBe(f => f.GetProperty("outcome").GetString() != "wall");
            var drive = Path.Combine(_folder, $"{i}.img");
            await using (var file = File.Create(drive))
                file.SetLength(size / 512 * 512);
            var script = Path.Combine(_folder, $"{i}.sfdisk");
            await File.WriteAllTextAsync(script, sheet.GetProperty("sfdisk").GetString());
            await ProgramOutput.Of("sh", "-c", $"sfdisk --quiet '{drive}' < '{script}'");

            var back = SfdiskScript.Read(await ProgramOutput.Of("sfdisk", "-J", drive));
            back.Partitions.Select(p => (p.Number, p.Start, p.Size, p.Type))
                .ShouldBe(
                    sheet
                        .GetProperty("partitions")
                        .EnumerateArray()
                        .Select(p =>
                            (
                                p.GetProperty("number").GetInt32(),
                                p.GetProperty("startLba").GetInt64(),
                                p.GetProperty("sizeLba").GetInt64(),
                                p.GetProperty("type").GetString()!
                            )
                        ),
                    $"layout {i}"
                );
            if (sheet.GetProperty("scheme").GetString() == "gpt")
                (await ProgramOutput.Of("sgdisk", "-v", drive)).ShouldContain("No problems found");
            else
                await ProgramOutput.Of("sfdisk", "--verify", drive);
            // The dump that sfdisk makes of it passes the product's own checks too.
            var check = await _client.PostAsJsonAsync(
                "/api/layouts/check",
                new { sfdisk = await ProgramOutput.Of("sfdisk", "--dump", drive), sectors = size / 512 }
            );
            (await check.JsonAsync()).GetProperty("findings").GetArrayLength().ShouldBe(0);
            written++;
            File.Delete(drive);
        }
        written.ShouldBeGreaterThan(EveryStart.Of(120, 15));
    }

    [Fact]
    public async Task What_is_given_counts_before_the_dossier_and_a_collision_names_both_with_what_is_missing()
    {
        await MachineAsync();
        var own = await PlanAsync(new { });
        own.GetProperty("reach").GetProperty("from").GetString().ShouldNotBeNullOrEmpty();
        own.GetProperty("drive").GetString()!.ShouldContain("GB");

        var old = await PlanAsync(
            new
            {
                drive = new { sizeBytes = 60_000_000_000, sectorBytes = 512 },
                firmware = "bios",
                reachBytes = 8_422_686_720,
            }
        );
        old.GetProperty("scheme").GetString().ShouldBe("mbr");
        var boot = old.GetProperty("partitions")
            .EnumerateArray()
            .Single(p => p.GetProperty("use").GetString() == "boot");
        (
            (boot.GetProperty("startLba").GetInt64() + boot.GetProperty("sizeLba").GetInt64()) * 512
        ).ShouldBeLessThanOrEqualTo(8_422_686_720);
        old.GetProperty("script").GetString()!.ShouldContain("mkswap");

        var both = await PlanAsync(
            new
            {
                drive = new { sizeBytes = 32_000_000_000 },
                firmware = "uefi64",
                memoryMiB = 16_384,
                wishes = new { sleep = true, home = 20_000_000_000 },
            },
            HttpStatusCode.UnprocessableEntity
        );
        both.GetProperty("collides").EnumerateArray().Select(c => c.GetString()).ShouldBe(["sleep", "home"]);
        both.GetProperty("shortBytes").GetInt64().ShouldBePositive();
        (await PlanAsync(new { firmware = "steam" }, HttpStatusCode.BadRequest))
            .GetProperty("where")
            .GetString()
            .ShouldBe("firmware");
        (await PlanAsync(new { wishes = new { home = "large" } }, HttpStatusCode.BadRequest))
            .GetProperty("where")
            .GetString()
            .ShouldBe("wishes.home");
        (await PlanAsync(new { drive = new { index = 7 } }, HttpStatusCode.UnprocessableEntity))
            .GetProperty("where")
            .GetString()
            .ShouldBe("drive");
    }

    [Fact]
    public async Task A_table_that_cannot_be_read_says_which_line_and_what_would_be_right()
    {
        var answer = await _client.PostAsJsonAsync(
            "/api/layouts/check",
            new { sfdisk = "label: dos\n\nstart=2048, size=many, type=83\n" }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await answer.JsonAsync()).GetProperty("where").GetString().ShouldBe("line 3");
        (await _client.PostAsJsonAsync("/api/layouts/check", new { })).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }
}
