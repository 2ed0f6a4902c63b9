using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Data.Media;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Server.Tests;

/// <summary>Media over HTTP: what is said of a stick is true whatever happens to it, and nothing half-written is offered.</summary>
public sealed class MediaApiTests : IAsyncLifetime
{
    private readonly TestWorkshop _workshop = new();
    private HttpClient _client = null!;
    private int _image;

    public async Task InitializeAsync()
    {
        _client = _workshop.CreateClient();
        _image = (await _client.PutImageAsync(DemoImages.Of("wickerwork-26"), "wickerwork-26"))
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
    }

    public async Task DisposeAsync() => await _workshop.DisposeAsync();

    private static async Task<int> AddAsync(
        HttpClient client,
        string label,
        object? faults = null,
        string kind = "stick",
        long size = 64 << 20
    )
    {
        var answer = await client.PostAsJsonAsync(
            "/api/media",
            new
            {
                label,
                kind,
                sizeBytes = size,
                faults,
            }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
        return (await answer.JsonAsync()).GetProperty("id").GetInt32();
    }

    private static async Task<JsonElement> StateAsync(HttpClient client, int id) =>
        (await client.GetFromJsonAsync<JsonElement>("/api/media"))
            .EnumerateArray()
            .Single(m => m.GetProperty("id").GetInt32() == id);

    private static async Task<JsonElement> WriteAsync(HttpClient client, int medium, int image, string label)
    {
        var answer = await client.PostAsJsonAsync(
            $"/api/media/{medium}/write",
            new
            {
                imageId = image,
                label,
                by = "Pim",
            }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.Accepted, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    [Fact]
    public async Task A_sound_stick_is_written_read_back_and_ready()
    {
        var stick = await AddAsync(_client, "Blue");
        (
            await _client.PostAsJsonAsync(
                $"/api/media/{stick}/write",
                new
                {
                    imageId = _image,
                    label = "blue",
                    by = "Pim",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest, "the label is typed as it stands on it");
        var job = await _client.DoneAsync(await WriteAsync(_client, stick, _image, "Blue"));
        job.GetProperty("state").GetString().ShouldBe("done", job.ToString());
        var state = await StateAsync(_client, stick);
        state.GetProperty("state").GetString().ShouldBe("ready");
        state.GetProperty("verifiedAt").ValueKind.ShouldNotBe(JsonValueKind.Null);
        var image = await File.ReadAllBytesAsync(DemoImages.Of("wickerwork-26"));
        await using var medium = File.OpenRead(Path.Combine(_workshop.Data, "media", $"{stick}.medium"));
        var written = new byte[image.Length];
        await medium.ReadExactlyAsync(written);
        written.ShouldBe(image);
        (
            await _client.PostAsJsonAsync(
                "/api/media",
                new
                {
                    label = "Blue",
                    kind = "stick",
                    sizeBytes = 64 << 20,
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task After_a_restore_a_stick_is_what_is_read_from_it_and_nothing_else()
    {
        var media = _workshop.Services.GetRequiredService<MediumStore>();
        var stick = await AddAsync(_client, "Green", new { bytesPerSecond = 20_000_000 });
        (await _client.DoneAsync(await WriteAsync(_client, stick, _image, "Green")))
            .GetProperty("state")
            .GetString()
            .ShouldBe("done");
        (await LookAsync()).StatusCode.ShouldBe(HttpStatusCode.Conflict, "what is on it is known");

        // As it was written.
        await media.DoubtAsync("2026-12-01");
        (await StateAsync(_client, stick)).GetProperty("state").GetString().ShouldBe("unknown");
        (await EndAsync(await LookAsync())).ShouldBe("done");
        (await StateAsync(_client, stick)).GetProperty("state").GetString().ShouldBe("ready");

        // Written on elsewhere since: one byte in the middle is enough.
        await media.DoubtAsync("2026-12-01");
        var path = Path.Combine(_workshop.Data, "media", $"{stick}.medium");
        await using (var medium = new FileStream(path, FileMode.Open, FileAccess.ReadWrite))
        {
            medium.Position = new FileInfo(DemoImages.Of("wickerwork-26")).Length / 2;
            var there = medium.ReadByte();
            medium.Position--;
            medium.WriteByte((byte)(there ^ 1));
        }
        (await EndAsync(await LookAsync())).ShouldBe("failed");
        (await StateAsync(_client, stick)).GetProperty("state").GetString().ShouldBe("unknown");

        // Nobody writes onto it while it is read; where somebody did all the same, what was read says nothing of what is on it.
        (await _client.DoneAsync(await WriteAsync(_client, stick, _image, "Green")))
            .GetProperty("state")
            .GetString()
            .ShouldBe("done");
        await media.DoubtAsync("2026-12-01");
        var before = await media.GetAsync(stick, CancellationToken.None);
        var refused = 0;
        for (var tries = 0; refused == 0 && tries < 8; tries++)
        {
            var looking = await (await LookAsync()).JsonAsync();
            var at = $"/api/jobs/{looking.GetProperty("id").GetInt32()}";
            while ((await _client.GetFromJsonAsync<JsonElement>(at)).GetProperty("state").GetString() == "queued")
                await Task.Yield();
            var wish = new
            {
                imageId = _image,
                label = "Green",
                by = "Pim",
            };
            var write = await _client.PostAsJsonAsync($"/api/media/{stick}/write", wish);
            // It may have been looked at to its end by then.
            if (write.StatusCode == HttpStatusCode.Conflict)
                refused++;
            else
                await _client.DoneAsync(await write.JsonAsync());
            await _client.DoneAsync(looking);
            await media.DoubtAsync("2026-12-01");
        }
        refused.ShouldBe(1);
        await Should.ThrowAsync<RefusedException>(() => media.LookedAsync(before, "equal"));

        Task<HttpResponseMessage> LookAsync() =>
            _client.PostAsJsonAsync($"/api/media/{stick}/look", new { label = "Green", by = "Pim" });

        async Task<string?> EndAsync(HttpResponseMessage begun)
        {
            begun.StatusCode.ShouldBe(HttpStatusCode.Accepted, await begun.Content.ReadAsStringAsync());
            return (await _client.DoneAsync(await begun.JsonAsync())).GetProperty("state").GetString();
        }
    }

    [Fact]
    public async Task A_stick_pulled_out_or_cancelled_is_unusable_until_it_is_written_again()
    {
        var loose = await AddAsync(_client, "Loose", new { pulledAfterBytes = 2_000_000 });
        var job = await _client.DoneAsync(await WriteAsync(_client, loose, _image, "Loose"));
        job.GetProperty("state").GetString().ShouldBe("failed");
        job.GetProperty("says").GetString()!.ShouldContain("no longer there");
        var state = await StateAsync(_client, loose);
        state.GetProperty("state").GetString().ShouldBe("unusable");
        state.GetProperty("imageId").ValueKind.ShouldBe(JsonValueKind.Null);
        state.GetProperty("says").GetString()!.ShouldContain("not whole until it is written again");

        var slow = await AddAsync(_client, "Slow", new { bytesPerSecond = 1_000_000 });
        var running = await WriteAsync(_client, slow, _image, "Slow");
        // Of two at once one is refused.
        (
            await _client.PostAsJsonAsync(
                $"/api/media/{slow}/write",
                new
                {
                    imageId = _image,
                    label = "Slow",
                    by = "Odalys",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await _client.DeleteAsync($"/api/images/{_image}")).StatusCode.ShouldBe(
            HttpStatusCode.Conflict,
            "it is being written"
        );
        await Task.Delay(300);
        var cancelled = await (
            await _client.DeleteAsync($"/api/jobs/{running.GetProperty("id").GetInt32()}")
        ).JsonAsync();
        cancelled.GetProperty("state").GetString().ShouldBe("cancelled");
        (await StateAsync(_client, slow)).GetProperty("state").GetString().ShouldBe("unusable");
        // It is followed to its end as server-sent events too.
        (await _client.GetStringAsync($"/api/jobs/{running.GetProperty("id").GetInt32()}/events")).ShouldContain(
            "\"state\":\"cancelled\""
        );
    }

    [Fact]
    public async Task A_stick_that_lies_is_found_out_and_then_refused()
    {
        var market = await AddAsync(_client, "Market", new { trueBytes = 20 << 20 });
        var job = await _client.DoneAsync(
            await (
                await _client.PostAsJsonAsync(
                    $"/api/media/{market}/test-capacity",
                    new { label = "Market", by = "Pim" }
                )
            ).JsonAsync()
        );
        job.GetProperty("result").GetProperty("capacity").GetProperty("manner").GetString().ShouldBe("wraps");
        var state = await StateAsync(_client, market);
        state.GetProperty("trueBytes").GetInt64().ShouldBe(20 << 20);
        state.GetProperty("state").GetString().ShouldBe("unusable");
        var refused = await _client.PostAsJsonAsync(
            $"/api/media/{market}/write",
            new
            {
                imageId = _image,
                label = "Market",
                by = "Pim",
            }
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("lies about its size");

        // Nobody tested this one: reading back finds it out all the same.
        var small = await AddAsync(_client, "Small", new { trueBytes = 1 << 20 });
        var written = await _client.DoneAsync(await WriteAsync(_client, small, _image, "Small"));
        written.GetProperty("state").GetString().ShouldBe("failed");
        written.GetProperty("says").GetString()!.ShouldContain("not what was written");
    }

    [Fact]
    public async Task Files_copied_to_fat32_are_what_other_programs_read_there()
    {
        var tree = Directory
            .CreateDirectory(Path.Combine(_workshop.Data, "tree", "EFI", "BOOT"))
            .Parent!.Parent!.FullName;
        await ProgramOutput.Of(
            "mcopy",
            "-i",
            DemoImages.EfiOf("tessaly-6-r1"),
            "::/EFI/BOOT/BOOTX64.EFI",
            Path.Combine(tree, "EFI", "BOOT")
        );
        await File.WriteAllTextAsync(Path.Combine(tree, "A long name, with spaces.txt"), "hello\n");
        var path = Path.Combine(_workshop.Data, "files.iso");
        await ProgramOutput.Of("genisoimage", "-quiet", "-R", "-V", "FILES", "-o", path, tree);
        var image = (await _client.PutImageAsync(path, null)).GetProperty("image").GetProperty("id").GetInt32();
        var file = await AddAsync(_client, "download", kind: "file");
        (await _client.GetAsync($"/api/media/{file}/content")).StatusCode.ShouldBe(
            HttpStatusCode.Conflict,
            "nothing is on it yet"
        );
        var plan = await (
            await _client.PostAsJsonAsync($"/api/media/{file}/plan", new { imageId = image })
        ).JsonAsync();
        plan.GetProperty("method").GetString().ShouldBe("files");
        var job = await _client.DoneAsync(await WriteAsync(_client, file, image, "download"));
        job.GetProperty("state").GetString().ShouldBe("done", job.ToString());
        var disk = Path.Combine(_workshop.Data, "disk.img");
        await File.WriteAllBytesAsync(disk, await _client.GetByteArrayAsync($"/api/media/{file}/content"));
        (await ProgramOutput.Of("mtype", "-i", $"{disk}@@1048576", "::/A long name, with spaces.txt")).ShouldBe(
            "hello\n"
        );
        await ImageApiTests.FatAgreesAsync(disk);
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_killed_server_leaves_what_is_true_and_an_upload_goes_on_where_it_was()
    {
        using var server = new ServerProcess();
        await server.StartAsync();
        var client = server.Client;
        var path = DemoImages.Of("wickerwork-26");
        var image = (await client.PutImageAsync(path, "wickerwork-26"))
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
        var stick = await AddAsync(client, "Slow", new { bytesPerSecond = 500_000 });
        var job = await WriteAsync(client, stick, image, "Slow");
        var other = await File.ReadAllBytesAsync(DemoImages.Of("driftway"));
        var half = (
            await (
                await client.PostAsJsonAsync("/api/images", new { name = "half.iso", sizeBytes = other.Length })
            ).JsonAsync()
        )
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
        (
            await client.PutAsync($"/api/images/{half}/content", new ByteArrayContent(other[..3_000_000]))
        ).EnsureSuccessStatusCode();
        server.Kill();
        await server.StartAsync();

        var state = await StateAsync(client, stick);
        state.GetProperty("state").GetString().ShouldBe("unusable");
        state.GetProperty("says").GetString()!.ShouldContain("interrupted");
        (await client.GetFromJsonAsync<JsonElement>($"/api/jobs/{job.GetProperty("id").GetInt32()}"))
            .GetProperty("state")
            .GetString()
            .ShouldBe("interrupted");
        // The hash so far was in memory: it is made again from what is here.
        using var rest = new ByteArrayContent(other[3_000_000..]);
        rest.Headers.ContentRange = new(3_000_000, other.Length - 1, other.Length);
        var whole = await (await client.PutAsync($"/api/images/{half}/content", rest)).JsonAsync();
        whole
            .GetProperty("image")
            .GetProperty("sha256")
            .GetString()
            .ShouldBe((await ProgramOutput.Of("sha256sum", DemoImages.Of("driftway")))[..64]);
        // Written again, it may be used.
        (await client.DoneAsync(await WriteAsync(client, await AddAsync(client, "Other"), image, "Other")))
            .GetProperty("state")
            .GetString()
            .ShouldBe("done");
    }

    [Fact]
    public async Task A_full_disk_is_told_keeps_what_is_flushed_and_offers_nothing_half_made()
    {
        using var server = new ServerProcess(diskMiB: 300);
        await server.StartAsync();
        var client = server.Client;
        var image = (await client.PutImageAsync(DemoImages.Of("tessaly-6-r1"), "tessaly-6-r1", "61140"))
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
        var file = await AddAsync(client, "download", kind: "file");
        var more = (
            await (
                await client.PostAsJsonAsync("/api/images", new { name = "more.iso", sizeBytes = 20_000_000 })
            ).JsonAsync()
        )
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();

        // Somebody else fills the disk after the room was checked.
        var filler = Path.Combine(server.DataInside, "filler");
        await using (var fill = File.Create(filler))
            try
            {
                var block = new byte[64 << 10];
                for (var i = 0; i < 300 * 16 - 48; i++)
                    await fill.WriteAsync(block);
                await fill.FlushAsync();
            }
            catch (IOException)
            {
                // It is full: that is what is wanted.
            }
        var full = await client.PutAsync($"/api/images/{more}/content", new ByteArrayContent(new byte[20_000_000]));
        full.StatusCode.ShouldBe(HttpStatusCode.InsufficientStorage, await full.Content.ReadAsStringAsync());
        (
            await client.PostAsJsonAsync(
                $"/api/images/{image}/patch",
                new { recipe = "tessaly-6-r1-gates", by = "Pim" }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.InsufficientStorage);
        (
            await client.PostAsJsonAsync(
                $"/api/media/{file}/write",
                new
                {
                    imageId = image,
                    label = "download",
                    by = "Pim",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.InsufficientStorage);
        (await StateAsync(client, file)).GetProperty("state").GetString().ShouldBe("blank");
        Directory
            .GetFiles(Path.Combine(server.DataInside, "images"))
            .ShouldAllBe(f => f.EndsWith(".image") || f.EndsWith($"/{more}.part"));

        File.Delete(filler);
        using var head = await client.SendAsync(new HttpRequestMessage(HttpMethod.Head, $"/api/images/{more}/content"));
        var offset = int.Parse(head.Headers.GetValues("Upload-Offset").Single());
        offset.ShouldBeLessThan(20_000_000);
        using var rest = new ByteArrayContent(new byte[20_000_000 - offset]);
        rest.Headers.ContentRange = new(offset, 19_999_999, 20_000_000);
        var whole = await client.PutAsync($"/api/images/{more}/content", rest);
        whole.StatusCode.ShouldBe(HttpStatusCode.OK, await whole.Content.ReadAsStringAsync());
        (await whole.JsonAsync())
            .GetProperty("image")
            .GetProperty("sha256")
            .GetString()
            .ShouldBe(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(new byte[20_000_000])));
    }
}
