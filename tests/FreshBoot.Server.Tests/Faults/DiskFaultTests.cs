using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>Faults of a full disk, each under its number.</summary>
public sealed class DiskFaultTests
{
    private const int DiskMiB = 320;

    /// <summary>Fills the disk beneath the server to its last byte.</summary>
    private static async Task<string> FillAsync(ServerProcess server)
    {
        var filler = Path.Combine(server.DataInside, "filler");
        await using var fill = new FileStream(filler, FileMode.Append, FileAccess.Write, FileShare.None, 0);
        foreach (var size in (int[])[1 << 20, 64 << 10, 4096])
            try
            {
                var block = new byte[size];
                for (var i = 0; i < DiskMiB * 256; i++)
                    await fill.WriteAsync(block);
            }
            catch (IOException)
            {
                // Full for blocks of this size: that is what is wanted.
            }
        return filler;
    }

    [Fact]
    public async Task F15_A_full_disk_is_said_says_what_to_free_and_loses_nothing()
    {
        using var server = new ServerProcess(diskMiB: DiskMiB);
        await server.StartAsync();
        var runs = new RunDriver(server.Client);
        var run = await runs.BeginAsync("MR-0861", "tessaly-6-r2", "patch");
        var first = run.GetProperty("steps")[0].GetProperty("id").GetString()!;
        var before = await server.Client.GetStringAsync("/api/machines/MR-0861");
        var filler = await FillAsync(server);

        // The log of the database has room for some of them; in the end each is refused, and says the same.
        var said = new List<(HttpStatusCode Status, JsonElement Body)>();
        for (var i = 0; i < 400 && said.Count == 0; i++)
            await NoteAsync(
                await runs.SayAsync(run, "note", first, new { text = new string('x', 1900) }, $"e-{i}"),
                async answer => run = await answer.JsonAsync()
            );
        said.Count.ShouldBe(1, "the disk never was full");
        await NoteAsync(
            await server.Client.PutAsJsonAsync(
                "/api/machines/MR-0861/facts/identity.model",
                new
                {
                    value = "Stile 15",
                    source = new string('s', 100),
                    by = "Pim",
                }
            )
        );
        await NoteAsync(await server.Client.PostAsync("/api/machines/import", TestWorkshop.BundleOf("MR-0862")));
        await NoteAsync(
            await server.Client.PostAsync(
                "/api/machines/csv?by=Pim",
                new StringContent(
                    "tag\n" + string.Concat(Enumerable.Range(1000, 400).Select(i => $"MR-{i}\n")),
                    Encoding.UTF8,
                    "text/csv"
                )
            )
        );
        said.ShouldAllBe(s => s.Status == HttpStatusCode.InsufficientStorage);
        said.ShouldAllBe(s =>
            s.Body.GetProperty("wanted").GetString()!.StartsWith("Room on the disk", StringComparison.Ordinal)
        );

        File.Delete(filler);
        (await server.Client.GetStringAsync("/api/machines/MR-0861")).ShouldBe(before);
        (await server.Client.GetAsync("/api/machines/MR-0862")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        run = await server.Client.GetFromJsonAsync<JsonElement>($"/api/runs/{run.GetProperty("id").GetString()}");
        run.GetProperty("chain").GetString().ShouldBe("whole");
        (await runs.SayAsync(run, "note", first, new { text = "room again" })).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await server.Client.PostAsync("/api/machines/import", TestWorkshop.BundleOf("MR-0862"))).StatusCode.ShouldBe(
            HttpStatusCode.Created
        );

        async Task NoteAsync(HttpResponseMessage answer, Func<HttpResponseMessage, Task>? taken = null)
        {
            if (!answer.IsSuccessStatusCode)
                said.Add((answer.StatusCode, await answer.JsonAsync()));
            else if (taken is not null)
                await taken(answer);
        }
    }

    [Fact]
    public async Task F14_A_job_that_ends_on_a_full_disk_ends_on_every_page()
    {
        using var server = new ServerProcess(diskMiB: DiskMiB);
        await server.StartAsync();
        var client = server.Client;
        var image = (await client.PutImageAsync(DemoImages.Of("tessaly-6-r1"), "tessaly-6-r1", "61140"))
            .GetProperty("image")
            .GetProperty("id")
            .GetInt32();
        var medium = (
            await (
                await client.PostAsJsonAsync(
                    "/api/media",
                    new
                    {
                        label = "Slow",
                        kind = "stick",
                        sizeBytes = 32 << 20,
                        faults = new { bytesPerSecond = 2_000_000 },
                    }
                )
            ).JsonAsync()
        ).GetProperty("id").GetInt32();
        var job = await (
            await client.PostAsJsonAsync(
                $"/api/media/{medium}/write",
                new
                {
                    imageId = image,
                    label = "Slow",
                    by = "Pim",
                }
            )
        ).JsonAsync();
        var filler = await FillAsync(server);
        // Followed to its end as events: the stream ends though nothing can be written down.
        var events = await client.GetStringAsync($"/api/jobs/{job.GetProperty("id").GetInt32()}/events");
        events.ShouldMatch("\"state\":\"(failed|done)\"");
        (await client.GetFromJsonAsync<JsonElement>($"/api/jobs/{job.GetProperty("id").GetInt32()}"))
            .GetProperty("state")
            .GetString()
            .ShouldBeOneOf("failed", "done");
        File.Delete(filler);
        // As soon as there is room the medium is said to be what it is.
        while (await StateAsync() == "writing")
            await Task.Delay(100);
        (await StateAsync()).ShouldBeOneOf("unusable", "ready");

        async Task<string?> StateAsync() =>
            (await client.GetFromJsonAsync<JsonElement>("/api/media"))
                .EnumerateArray()
                .Single(m => m.GetProperty("id").GetInt32() == medium)
                .GetProperty("state")
                .GetString();
    }
}
