using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Firmware;
using FreshBoot.Data.Firmware;
using FreshBoot.Workshop.Simulated;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Server.Tests;

/// <summary>The chip bench over HTTP: the order is the server's, whoever asks.</summary>
public sealed class ChipApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private const int Size = 4 << 20;
    private readonly HttpClient _client = demo.Client;

    private async Task<JsonElement> SayAsync(
        int id,
        string verb,
        object body,
        HttpStatusCode wanted = HttpStatusCode.OK
    )
    {
        var answer = await _client.PostAsJsonAsync($"/api/chips/{id}/{verb}", body);
        Assert.True(
            answer.StatusCode == wanted,
            $"{verb}: {answer.StatusCode} {await answer.Content.ReadAsStringAsync()}"
        );
        return await answer.Content.ReadFromJsonAsync<JsonElement>();
    }

    /// <summary>Begins a job and waits until it has ended.</summary>
    private async Task<(string State, string Says)> DoAsync(int id, string verb, object? body = null)
    {
        var job = await SayAsync(id, verb, body ?? new { by = "Pim" }, HttpStatusCode.Accepted);
        while (true)
        {
            var now = await _client.GetFromJsonAsync<JsonElement>($"/api/jobs/{job.GetProperty("id").GetInt32()}");
            if (now.GetProperty("state").GetString() is var state and not ("queued" or "running"))
                return (state!, now.GetProperty("says").GetString()!);
            await Task.Delay(20);
        }
    }

    private async Task<JsonElement> ChipAsync(string tag) =>
        (await _client.GetFromJsonAsync<JsonElement>("/api/chips"))
            .EnumerateArray()
            .Single(c => c.GetProperty("tag").GetString() == tag);

    private async Task<int> RomAsync(string name) =>
        (await _client.GetFromJsonAsync<JsonElement>("/api/roms"))
            .EnumerateArray()
            .Single(r => r.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt32();

    private byte[] OnChip(string tag) =>
        File.ReadAllBytes(demo.Workshop.Services.GetRequiredService<ChipStore>().PathOf(tag));

    [Fact]
    public async Task A_chip_is_read_backed_up_written_and_restored_and_nothing_goes_out_of_order()
    {
        var id = (await ChipAsync("MR-0411")).GetProperty("id").GetInt32();
        var before = OnChip("MR-0411");
        var image = await RomAsync("Full UEFI 1.4 for WAGTAIL");

        // Out of order: each is refused, and the chip is as it was.
        async Task Refused(string verb, object body, string says) =>
            Assert.Contains(
                says,
                (await SayAsync(id, verb, body, HttpStatusCode.Conflict)).GetProperty("detail").GetString(),
                StringComparison.Ordinal
            );
        var write = new { by = "Pim", tag = "MR-0411" };
        await Refused("write", write, "two reads");
        await Refused("restore", write, "backup");
        await Refused("backup", new { by = "Pim", medium = "Stick 3" }, "no two equal reads");
        await Refused("image", new { by = "Pim", romId = image }, "there is none yet");
        await Refused("confirm", new { by = "Pim", what = "programmer" }, "still starts");
        Assert.Equal(before, OnChip("MR-0411"));

        // The first read has a flaky contact: the second differs, the third is equal to the second.
        Assert.Equal("done", (await DoAsync(id, "read")).State);
        Assert.Contains("differs", (await DoAsync(id, "read")).Says, StringComparison.Ordinal);
        await Refused("backup", new { by = "Pim", medium = "Stick 3" }, "no two equal reads");
        Assert.Contains("equal to the read before", (await DoAsync(id, "read")).Says, StringComparison.Ordinal);
        await Refused("write", write, "backup is stored");
        Assert.Equal("done", (await DoAsync(id, "backup", new { by = "Pim", medium = "Stick 3" })).State);
        var kept = (await ChipAsync("MR-0411")).GetProperty("state");
        var backup = await _client.GetByteArrayAsync($"/api/roms/{kept.GetProperty("backupRom").GetInt32()}/content");
        Assert.Equal(before, backup);
        Assert.Equal(Convert.ToHexStringLower(SHA256.HashData(backup)), kept.GetProperty("backupSha256").GetString());

        await Refused("write", write, "revision on the board");
        await Refused(
            "confirm",
            new
            {
                by = "Pim",
                what = "board",
                board = "WAGTAIL",
                revision = "D",
            },
            "support list"
        );
        await Refused(
            "confirm",
            new
            {
                by = "Pim",
                what = "board",
                board = "DIPPER",
                revision = "A",
            },
            "the dossier WAGTAIL"
        );
        await SayAsync(
            id,
            "confirm",
            new
            {
                by = "Pim",
                what = "board",
                board = "WAGTAIL",
                revision = "B",
            }
        );
        await Refused("write", write, "image is for this board");
        var other = await RomAsync("Full UEFI 1.2 for an 8 MiB chip");
        Assert.Contains(
            "and the chip 4194304",
            (await SayAsync(id, "image", new { by = "Pim", romId = other }, HttpStatusCode.UnprocessableEntity))
                .GetProperty("detail")
                .GetString(),
            StringComparison.Ordinal
        );
        // As large, whole, and for another board: it is refused, and the chip stays as it is.
        var dipper = await RomAsync("Full UEFI 1.4 for DIPPER");
        Assert.Contains(
            "is for DIPPER",
            (await SayAsync(id, "image", new { by = "Pim", romId = dipper }, HttpStatusCode.UnprocessableEntity))
                .GetProperty("detail")
                .GetString(),
            StringComparison.Ordinal
        );
        // The emulator's own firmware names no board: only a named person takes it, with a reason, and it stays not proved.
        var foreign = await ForeignAsync();
        await Refused("image", new { by = "Pim", romId = foreign }, "nobody knows for which it is");
        await Refused(
            "image",
            new
            {
                by = "no name picked",
                romId = foreign,
                reason = "why not",
            },
            "nobody knows for which it is"
        );
        var taken = await SayAsync(
            id,
            "image",
            new
            {
                by = "Pim",
                romId = foreign,
                reason = "tried on a board of the same print",
            }
        );
        Assert.Contains(
            "Not proved that it is for WAGTAIL",
            taken.GetProperty("log")[0].GetProperty("says").GetString(),
            StringComparison.Ordinal
        );
        Assert.Equal(before, OnChip("MR-0411"));
        await SayAsync(id, "image", new { by = "Pim", romId = image });
        await Refused("write", write, "ains is on");
        await SayAsync(id, "confirm", new { by = "Pim", what = "mains" });
        var wrongTag = await SayAsync(id, "write", new { by = "Pim", tag = "MR-0416" }, HttpStatusCode.BadRequest);
        Assert.Equal("tag", wrongTag.GetProperty("where").GetString());

        // Protection: still on, then another screw, then the right one.
        Assert.Contains("protection is still on", (await DoAsync(id, "write", write)).Says, StringComparison.Ordinal);
        // A rehearsal knows of it, and stops there.
        Assert.Contains("protection-still-on", await StopsAsync("MR-0411"));
        await SayAsync(id, "confirm", new { by = "Pim", what = "protection" });
        Assert.Equal("failed", (await DoAsync(id, "write", write)).State);
        Assert.Equal(before, OnChip("MR-0411"));
        Assert.True((await ChipAsync("MR-0411")).GetProperty("starts").GetBoolean());
        await SayAsync(id, "confirm", new { by = "Pim", what = "protection" });
        Assert.Equal(
            ("done", "Written, read back and equal. The first start takes longer."),
            await DoAsync(id, "write", write)
        );
        // From now on it is another machine: no way replaces its firmware, and what it is comes from the work, not from a measurement.
        Assert.Equal(("uefi64", "work"), await FirmwareAsync("MR-0411"));
        Assert.DoesNotContain("reflash", await SchoolsAsync("MR-0411"));
        Assert.Contains("comply", await SchoolsAsync("MR-0411"));

        // What has to stay stayed; the rest is the image.
        var after = OnChip("MR-0411");
        Assert.Equal(before[..0x1_0000], after[..0x1_0000]);
        Assert.Contains("network=02:", Encoding.ASCII.GetString(after, 0, 200), StringComparison.Ordinal);
        Assert.Equal(SimulatedRom.Make(Size, "WAGTAIL full", "1.4 of 2026-09", "")[0x1_0000..], after[0x1_0000..]);
        Assert.Equal("done", (await DoAsync(id, "verify")).State);
        await Refused("read", new { by = "Pim" }, "not its maker's");

        // Each write wants its power looked at.
        await Refused("restore", write, "ains is on");
        await SayAsync(id, "confirm", new { by = "Pim", what = "mains" });
        Assert.Equal("done", (await DoAsync(id, "restore", write)).State);
        Assert.Equal(before, OnChip("MR-0411"));
        Assert.Equal(("locked", "work"), await FirmwareAsync("MR-0411"));
        Assert.Contains("reflash", await SchoolsAsync("MR-0411"));
    }

    private async Task<(string? Kind, string? Origin)> FirmwareAsync(string tag)
    {
        var fact = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}"))
            .GetProperty("facts")
            .EnumerateArray()
            .Single(f => f.GetProperty("key").GetString() == "firmware.kind");
        return (fact.GetProperty("value").GetString(), fact.GetProperty("origin").GetString());
    }

    private async Task<string[]> SchoolsAsync(string tag) =>
        [
            .. (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes"))
                .EnumerateArray()
                .Select(r => r.GetProperty("school").GetString()!),
        ];

    private async Task<string?> BoardProofAsync(string tag) =>
        (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}"))
            .GetProperty("facts")
            .EnumerateArray()
            .Where(f => f.GetProperty("key").GetString() == "firmware.boardProof")
            .Select(f => f.GetProperty("value").GetString())
            .SingleOrDefault();

    /// <summary>The emulator's own firmware, as large as the chip.</summary>
    private static async Task<byte[]> ForeignBytesAsync()
    {
        var bytes = new byte[Size];
        bytes.AsSpan().Fill(0xff);
        var ovmf = await File.ReadAllBytesAsync("/usr/share/ovmf/OVMF.fd");
        ovmf.CopyTo(bytes, Size - ovmf.Length);
        return bytes;
    }

    private async Task<int> ForeignAsync()
    {
        var answer = await _client.PostAsync(
            "/api/roms",
            new MultipartFormDataContent
            {
                { new StringContent("the emulator's own"), "name" },
                { new StringContent("Pim"), "by" },
                { new ByteArrayContent(await ForeignBytesAsync()), "file", "ovmf.fd" },
            }
        );
        Assert.Equal(HttpStatusCode.Created, answer.StatusCode);
        return (await answer.JsonAsync()).GetProperty("id").GetInt32();
    }

    [Fact]
    public async Task After_a_restore_a_chip_is_looked_at_before_anything_is_done_and_its_backup_is_never_replaced()
    {
        await _client.PostAsJsonAsync("/api/chips", new { tag = "MR-0412", by = "Pim" });
        var id = (await ChipAsync("MR-0412")).GetProperty("id").GetInt32();
        var chips = demo.Workshop.Services.GetRequiredService<ChipStore>();
        var path = chips.PathOf("MR-0412");
        var maker = OnChip("MR-0412");

        // The records are of a day on which there was no backup yet; meanwhile the chip was replaced.
        var replaced = SimulatedRom.Make(Size, "WAGTAIL full", "1.4 of 2026-09", "");
        maker.AsSpan(0, 0x1_0000).CopyTo(replaced);
        await File.WriteAllBytesAsync(path, replaced);
        await chips.DoubtAsync(DateTimeOffset.UnixEpoch, "2026-12-01");
        Assert.StartsWith(
            "Unknown: look again",
            (await ChipAsync("MR-0412")).GetProperty("says").GetString(),
            StringComparison.Ordinal
        );
        Assert.False((await ChipAsync("MR-0412")).GetProperty("starts").GetBoolean());
        await SayAsync(id, "read", new { by = "Pim" }, HttpStatusCode.Conflict);
        await SayAsync(
            id,
            "confirm",
            new
            {
                by = "Pim",
                what = "maker",
                reason = "I say so",
            },
            HttpStatusCode.Conflict
        );
        Assert.Contains("it was replaced", (await DoAsync(id, "look")).Says, StringComparison.Ordinal);
        Assert.Equal("replaced", (await ChipAsync("MR-0412")).GetProperty("state").GetProperty("content").GetString());
        Assert.Equal("yes", await BoardProofAsync("MR-0412"));

        // The same of an image of which nobody knows for which board it is: that it was written proves nothing.
        await ForeignAsync();
        await File.WriteAllBytesAsync(path, await ForeignBytesAsync());
        await chips.DoubtAsync(DateTimeOffset.UnixEpoch, "2026-12-01");
        Assert.Contains("it was replaced", (await DoAsync(id, "look")).Says, StringComparison.Ordinal);
        Assert.Contains(
            "Not proved that it is for this board",
            (await ChipAsync("MR-0412")).GetProperty("says").GetString(),
            StringComparison.Ordinal
        );
        Assert.Equal("no", await BoardProofAsync("MR-0412"));

        // Something that nobody knows stays unknown until a named person takes it on.
        maker[^0x2000] ^= 1;
        await File.WriteAllBytesAsync(path, maker);
        await chips.DoubtAsync(DateTimeOffset.UnixEpoch, "2026-12-01");
        Assert.Contains("no backup to compare", (await DoAsync(id, "look")).Says, StringComparison.Ordinal);
        await SayAsync(id, "confirm", new { by = "Pim", what = "maker" }, HttpStatusCode.BadRequest);
        await SayAsync(
            id,
            "confirm",
            new
            {
                by = "Pim",
                what = "maker",
                reason = "it came in yesterday",
            }
        );
        Assert.Null(await BoardProofAsync("MR-0412"));
        await DoAsync(id, "read");
        await DoAsync(id, "read");
        Assert.Equal("done", (await DoAsync(id, "backup", new { by = "Pim", medium = "Stick 3" })).State);

        // With a backup a look compares with it, and no later read takes its place.
        await chips.DoubtAsync(DateTimeOffset.UnixEpoch, "2026-12-01");
        Assert.Contains("equal to the backup", (await DoAsync(id, "look")).Says, StringComparison.Ordinal);
        await DoAsync(id, "read");
        await DoAsync(id, "read");
        await SayAsync(id, "backup", new { by = "Pim", medium = "Stick 4" }, HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task A_chip_that_loses_power_marks_its_machine_and_is_rescued_by_a_programmer()
    {
        var id = (await ChipAsync("MR-0416")).GetProperty("id").GetInt32();
        var before = OnChip("MR-0416");
        var word = new { by = "Pim", tag = "MR-0416" };
        await DoAsync(id, "read");
        await DoAsync(id, "read");
        await DoAsync(id, "backup", new { by = "Pim", medium = "Stick 3" });
        await SayAsync(
            id,
            "confirm",
            new
            {
                by = "Pim",
                what = "board",
                board = "DIPPER",
                revision = "A",
            }
        );
        await SayAsync(id, "image", new { by = "Pim", romId = await RomAsync("Full UEFI 1.4 for DIPPER") });
        await SayAsync(id, "confirm", new { by = "Pim", what = "mains" });
        await SayAsync(id, "confirm", new { by = "Pim", what = "protection" });
        var lost = await DoAsync(id, "write", word);
        Assert.Contains("The power went", lost.Says, StringComparison.Ordinal);
        var chip = await ChipAsync("MR-0416");
        Assert.False(chip.GetProperty("starts").GetBoolean());
        Assert.NotEqual(before, OnChip("MR-0416"));
        Assert.Equal("no", await WorksAsync());

        // Mains on a dead machine is refused; the programmer brings the backup back.
        await SayAsync(id, "confirm", new { by = "Pim", what = "mains" }, HttpStatusCode.Conflict);
        await SayAsync(id, "restore", word, HttpStatusCode.Conflict);
        await SayAsync(id, "confirm", new { by = "Pim", what = "programmer" });
        Assert.Equal("done", (await DoAsync(id, "restore", word)).State);
        Assert.Equal(before, OnChip("MR-0416"));
        // That it starts again is shown by a start: until then nothing is claimed.
        Assert.Null(await WorksAsync());

        async Task<string?> WorksAsync() =>
            (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0416"))
                .GetProperty("facts")
                .EnumerateArray()
                .Where(f => f.GetProperty("key").GetString() == "os.works")
                .Select(f => f.GetProperty("value").GetString())
                .SingleOrDefault();
    }

    [Fact]
    public async Task Of_two_jobs_at_once_one_is_refused_and_boards_off_the_list_are_never_written()
    {
        var slow = await _client.PostAsJsonAsync(
            "/api/chips",
            new
            {
                tag = "MR-0414",
                by = "Pim",
                // So slow that it is still read when the second one asks, however busy the computer is.
                faults = new { bytesPerSecond = 100_000 },
            }
        );
        Assert.Equal(HttpStatusCode.Created, slow.StatusCode);
        var id = (await ChipAsync("MR-0414")).GetProperty("id").GetInt32();
        await SayAsync(id, "read", new { by = "Pim" }, HttpStatusCode.Accepted);
        await SayAsync(id, "read", new { by = "Odalys" }, HttpStatusCode.Conflict);
        Assert.Contains(
            "not on the support list",
            (await ChipAsync("MR-0414")).GetProperty("whyUnsupported").GetString(),
            StringComparison.Ordinal
        );
        await SayAsync(
            id,
            "confirm",
            new
            {
                by = "Pim",
                what = "board",
                board = "SISKIN",
                revision = "A",
            },
            HttpStatusCode.Conflict
        );
        var twice = await _client.PostAsJsonAsync("/api/chips", new { tag = "MR-0414", by = "Pim" });
        Assert.Equal(HttpStatusCode.Conflict, twice.StatusCode);
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_hundred_kills_at_random_moments_leave_a_state_that_says_what_is_true()
    {
        // A kill leaves what was on the disk: the record up to some event, and the bytes up to some block.
        var chips = demo.Workshop.Services.GetRequiredService<ChipStore>();
        var random = new Random(42);
        await _client.PostAsJsonAsync("/api/chips", new { tag = "MR-0413", by = "Pim" });
        var id = (await ChipAsync("MR-0413")).GetProperty("id").GetInt32();
        var path = chips.PathOf("MR-0413");
        var maker = OnChip("MR-0413");
        var target = SimulatedRom.Make(Size, "WAGTAIL full", "1.4", "serial=1");
        string Hash(byte[] bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));
        ChipEvent Did(ChipDeed deed, string? sha = null) => new(deed, DateTimeOffset.UnixEpoch, "Pim", "", sha, 1);
        for (var round = 0; round < 100; round++)
        {
            await File.WriteAllBytesAsync(path, maker);
            await chips.SayAsync(id, Did(ChipDeed.Restored, Hash(maker)));
            var killedAt = random.NextInt64(-Size / 4, Size + Size / 4);
            // Said before the first byte moves; killed even before that, nothing has begun.
            if (killedAt >= 0)
            {
                await chips.SayAsync(id, Did(ChipDeed.Begun, Hash(target)));
                try
                {
                    using var chip = new SimulatedChip(
                        path,
                        new ChipFaults(Protected: false, PowerLostAfterBytes: killedAt)
                    );
                    chip.Write(0, target);
                }
                catch (PowerLostException)
                {
                    // Killed here: nobody writes down what happened.
                }
            }
            if (killedAt >= Size + Size / 8)
                await chips.SayAsync(id, Did(ChipDeed.Written, Hash(target)));

            var state = (await chips.GetAsync(id, default)).State;
            var now = Hash(OnChip("MR-0413"));
            switch (state.Content)
            {
                case ChipContent.Maker:
                    Assert.Equal(Hash(maker), now);
                    break;
                case ChipContent.Replaced:
                    Assert.Equal(Hash(target), now);
                    break;
                default:
                    // It never says that it starts where nobody has read it back.
                    Assert.False(state.Starts);
                    break;
            }
        }
    }

    /// <summary>The causes by which a replacement of its firmware would stop, by reckoning.</summary>
    private async Task<string[]> StopsAsync(string tag)
    {
        var route = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("school").GetString() == "reflash");
        var walked = await _client.PostAsJsonAsync(
            $"/api/machines/{tag}/routes/{route.GetProperty("id").GetString()}/rehearsal",
            new { walks = 100 }
        );
        return
        [
            .. (await walked.JsonAsync())
                .GetProperty("stopsAt")
                .EnumerateArray()
                .Select(s => s.GetProperty("cause").GetString()!),
        ];
    }
}
