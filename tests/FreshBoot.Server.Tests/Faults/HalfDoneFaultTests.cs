using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>Faults of what was left half done, each under its number.</summary>
public sealed class HalfDoneFaultTests
{
    private static async Task<int> AnnounceAsync(HttpClient client, string name, long size) => (
            await (
                await client.PostAsJsonAsync(
                    "/api/images",
                    new
                    {
                        name,
                        sizeBytes = size,
                        by = "Pim",
                    }
                )
            ).JsonAsync()
        ).GetProperty("image").GetProperty("id").GetInt32();

    private static async Task<HttpResponseHeaders> HeadAsync(HttpClient client, int id)
    {
        using var answer = await client.SendAsync(new HttpRequestMessage(HttpMethod.Head, $"/api/images/{id}/content"));
        return answer.Headers;
    }

    [Fact]
    public async Task F8_A_line_that_breaks_after_the_last_byte_leaves_a_whole_image()
    {
        using var server = new ServerProcess();
        await server.StartAsync();
        var bytes = new byte[2 << 20];
        Random.Shared.NextBytes(bytes);
        for (var round = 0; round < EveryStart.Of(5, 2); round++)
        {
            bytes[0] = (byte)round;
            var id = await AnnounceAsync(server.Client, $"cut-{round}.iso", bytes.Length);
            using (var line = new TcpClient("localhost", server.Client.BaseAddress!.Port))
            {
                var stream = line.GetStream();
                await stream.WriteAsync(
                    Encoding.ASCII.GetBytes(
                        $"PUT /api/images/{id}/content HTTP/1.1\r\nHost: localhost:{server.Client.BaseAddress.Port}\r\nContent-Length: {bytes.Length}\r\n\r\n"
                    )
                );
                await stream.WriteAsync(bytes);
                // Reset, not said good-bye: the last byte is on its way and nobody waits for the answer.
                line.LingerState = new LingerOption(enable: round % 2 == 1, seconds: 0);
            }
            // Whatever had come: the sender asks, and goes on from there, if only to finish.
            await FinishAsync(server.Client, id, bytes);
            (await server.Client.GetFromJsonAsync<JsonElement>($"/api/images/{id}"))
                .GetProperty("image")
                .GetProperty("sha256")
                .GetString()
                .ShouldBe(Convert.ToHexStringLower(SHA256.HashData(bytes)));
        }
    }

    /// <summary>Goes on with an upload, as a page does: while the broken line is still being read it is told so, and asks again.</summary>
    private static async Task FinishAsync(HttpClient client, int id, byte[] bytes)
    {
        while (true)
        {
            var headers = await HeadAsync(client, id);
            if (headers.GetValues("Upload-Complete").Single() == "?1")
                return;
            var offset = int.Parse(headers.GetValues("Upload-Offset").Single());
            using var rest = new ByteArrayContent(bytes[offset..]);
            rest.Headers.ContentRange =
                offset == bytes.Length
                    ? new ContentRangeHeaderValue(bytes.Length)
                    : new ContentRangeHeaderValue(offset, bytes.Length - 1, bytes.Length);
            using var answer = await client.PutAsync($"/api/images/{id}/content", rest);
            if (answer.IsSuccessStatusCode)
                return;
            answer.StatusCode.ShouldBe(HttpStatusCode.Conflict, await answer.Content.ReadAsStringAsync());
            await Task.Delay(100);
        }
    }

    [Fact]
    public async Task F8_Another_file_of_the_same_name_and_size_is_told_from_what_is_here()
    {
        await using var workshop = new TestWorkshop();
        var client = workshop.CreateClient();
        var bytes = new byte[3 << 20];
        Random.Shared.NextBytes(bytes);
        var id = await AnnounceAsync(client, "a.iso", bytes.Length);
        (
            await client.PutAsync($"/api/images/{id}/content", new ByteArrayContent(bytes[..(2 << 20)]))
        ).EnsureSuccessStatusCode();
        var ends = (await HeadAsync(client, id)).GetValues("Upload-Ends").Single();
        ends.ShouldBe(Convert.ToHexStringLower(SHA256.HashData(bytes.AsSpan(0, 2 << 20))));
        var other = bytes.ToArray();
        other[100]++;
        ends.ShouldNotBe(Convert.ToHexStringLower(SHA256.HashData(other.AsSpan(0, 2 << 20))));
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task F9_F10_After_a_kill_no_file_is_out_of_sight_no_row_is_a_ghost_and_nothing_half_made_lies_about()
    {
        using var server = new ServerProcess();
        await server.StartAsync();
        var random = new Random(42);
        var bytes = new byte[6 << 20];
        for (var round = 0; round < EveryStart.Of(6, 2); round++)
        {
            random.NextBytes(bytes);
            var client = server.Client;
            var image = (await client.PutImageAsync(DemoImages.Of("tessaly-6-r1"), "tessaly-6-r1", "61140"))
                .GetProperty("image")
                .GetProperty("id")
                .GetInt32();
            await File.WriteAllBytesAsync(Path.Combine(server.Data, "images", $"left-{round}.iso"), bytes);
            var work = new[]
            {
                client.PostAsJsonAsync($"/api/images/{image}/patch", new { recipe = "tessaly-6-r1-gates", by = "Pim" }),
                client.PostAsJsonAsync(
                    "/api/images",
                    new
                    {
                        name = $"left-{round}.iso",
                        file = $"left-{round}.iso",
                        by = "Pim",
                    }
                ),
            };
            await Task.Delay(random.Next(5, 400));
            server.Kill();
            foreach (var one in work)
                try
                {
                    await one;
                }
                catch (HttpRequestException)
                {
                    // It was killed before it answered.
                }
            await server.StartAsync();

            var shelf = await server.Client.GetFromJsonAsync<JsonElement>("/api/images");
            var whole = shelf
                .GetProperty("images")
                .EnumerateArray()
                .Select(i => i.GetProperty("image"))
                .Where(i => i.GetProperty("whole").GetBoolean())
                .ToArray();
            foreach (var i in whole)
                (
                    await server.Client.GetAsync(
                        $"/api/images/{i.GetProperty("id").GetInt32()}/content",
                        HttpCompletionOption.ResponseHeadersRead
                    )
                ).StatusCode.ShouldBe(HttpStatusCode.OK, "a row whose file is gone");
            var files = Directory.GetFiles(Path.Combine(server.Data, "images")).Select(Path.GetFileName).ToArray();
            files.Count(f => f!.EndsWith(".image", StringComparison.Ordinal)).ShouldBe(whole.Length);
            files.ShouldAllBe(f => !f!.EndsWith(".part", StringComparison.Ordinal));
            var ours = Convert.ToHexStringLower(SHA256.HashData(bytes));
            (
                files.Contains($"left-{round}.iso") || whole.Any(i => i.GetProperty("sha256").GetString() == ours)
            ).ShouldBeTrue("the file that was being taken is in its folder or on the shelf");
            var work2 = Path.Combine(server.Data, "work");
            if (Directory.Exists(work2))
                Directory.GetFileSystemEntries(work2).ShouldBeEmpty();
        }
    }

    [Fact]
    public async Task F13_A_capacity_test_without_a_name_is_refused_and_the_medium_stays_as_it_was()
    {
        await using var workshop = new TestWorkshop();
        var client = workshop.CreateClient();
        var medium = (
            await (
                await client.PostAsJsonAsync(
                    "/api/media",
                    new
                    {
                        label = "Blue",
                        kind = "stick",
                        sizeBytes = 64 << 20,
                    }
                )
            ).JsonAsync()
        ).GetProperty("id").GetInt32();
        (
            await client.PostAsJsonAsync($"/api/media/{medium}/test-capacity", new { label = "Blue", by = "" })
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await client.GetFromJsonAsync<JsonElement>("/api/media"))[0]
            .GetProperty("state")
            .GetString()
            .ShouldBe("blank");
        var job = await (
            await client.PostAsJsonAsync($"/api/media/{medium}/test-capacity", new { label = "Blue", by = "Pim" })
        ).JsonAsync();
        (await client.DoneAsync(job)).GetProperty("state").GetString().ShouldBe("done");
    }
}
