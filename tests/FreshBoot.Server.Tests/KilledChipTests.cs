using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests;

/// <summary>The server as a process of its own, killed while it writes a chip: what it says afterwards is what is on the chip.</summary>
public sealed class KilledChipTests : IDisposable
{
    private const string Tag = "MR-0711";
    private const int Size = 4 << 20;
    private static readonly int Kills = EveryStart.Of(6, 3);
    private readonly ServerProcess _server = new();
    private readonly HttpClient _client;

    public KilledChipTests() => _client = _server.Client;

    public void Dispose() => _server.Dispose();

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task What_is_said_of_a_chip_after_a_kill_is_what_is_on_it_and_it_is_always_brought_back()
    {
        var random = new Random(711);
        await _server.StartAsync();
        using (
            var table = new StringContent(
                $"tag,identity.board,cpu.model,cpu.arch,firmware.kind,identity.serial\n{Tag},WAGTAIL,Corvane C7-1,x86,locked,S-711\n",
                Encoding.UTF8,
                "text/csv"
            )
        )
            (await _client.PostAsync("/api/machines/csv?by=Pim", table)).EnsureSuccessStatusCode();
        var id = (
            await (
                await _client.PostAsJsonAsync(
                    "/api/chips",
                    new
                    {
                        tag = Tag,
                        by = "Pim",
                        // So slow that a kill falls into the writing or the reading back.
                        faults = new { @protected = false, bytesPerSecond = 20_000_000 },
                    }
                )
            ).JsonAsync()
        ).GetProperty("id").GetInt32();
        using var form = new MultipartFormDataContent
        {
            { new StringContent("Full UEFI"), "name" },
            { new StringContent("Pim"), "by" },
            {
                new ByteArrayContent(SimulatedRom.Make(Size, "WAGTAIL full", "1.4 of 2026-09", ""))
                {
                    Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") },
                },
                "file",
                "full.rom"
            },
        };
        var rom = (await (await _client.PostAsync("/api/roms", form)).JsonAsync()).GetProperty("id").GetInt32();
        var path = Path.Combine(_server.Data, "media", $"{Tag}.chip");
        var original = await File.ReadAllBytesAsync(path);
        var outcomes = new List<string>();

        for (var kill = 0; kill < Kills; kill++)
        {
            await ReadyAsync(id, rom);
            var begun = await _client.PostAsJsonAsync($"/api/chips/{id}/write", new { by = "Pim", tag = Tag });
            begun.StatusCode.ShouldBe(HttpStatusCode.Accepted);
            // Every other kill waits until something was written: a busy machine takes its time to begin.
            if (kill % 2 == 0)
                await WrittenAsync((await begun.JsonAsync()).GetProperty("id").GetInt32());
            else
                await Task.Delay(random.Next(0, 500));
            _server.Kill();
            await _server.StartAsync();

            var state = (await ChipAsync(id)).GetProperty("state");
            var content = state.GetProperty("content").GetString()!;
            outcomes.Add(content);
            var bytes = await File.ReadAllBytesAsync(path);
            if (content == "maker")
                bytes.ShouldBe(original);
            else if (content == "replaced")
                Convert.ToHexStringLower(SHA256.HashData(bytes)).ShouldBe(state.GetProperty("holds").GetString());
            else
            {
                content.ShouldBe("broken");
                var facts = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}");
                facts.FactText("os.works").ShouldBe("no");
                // Nobody knows whether it still runs: only the programmer is sure.
                await SayAsync(id, "confirm", new { by = "Pim", what = "programmer" });
                (await DoAsync(id, "restore", new { by = "Pim", tag = Tag })).ShouldBe("done");
                (await File.ReadAllBytesAsync(path)).ShouldBe(original);
            }
            if (content == "replaced")
            {
                await SayAsync(id, "confirm", new { by = "Pim", what = "mains" });
                (await DoAsync(id, "restore", new { by = "Pim", tag = Tag })).ShouldBe("done");
            }
        }
        // Where no kill fell into the writing, the test has shown nothing.
        outcomes.ShouldContain(o => o == "broken" || o == "replaced");
    }

    /// <summary>Waits until a job has got somewhere, or is over.</summary>
    private async Task WrittenAsync(int job)
    {
        JsonElement seen;
        do
        {
            await Task.Delay(10);
            seen = await _client.GetFromJsonAsync<JsonElement>($"/api/jobs/{job}");
        } while (
            seen.GetProperty("state").GetString() is "queued" or "running" && seen.GetProperty("part").GetDouble() <= 0
        );
    }

    /// <summary>Whatever has to hold before a chip is written, said or done; what holds already is refused or done again.</summary>
    private async Task ReadyAsync(int id, int rom)
    {
        await DoAsync(id, "read", new { by = "Pim" });
        await DoAsync(id, "read", new { by = "Pim" });
        await DoAsync(id, "backup", new { by = "Pim", medium = "Stick 3" });
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
        await SayAsync(id, "image", new { by = "Pim", romId = rom });
        await SayAsync(id, "confirm", new { by = "Pim", what = "mains" });
        (await ChipAsync(id))
            .GetProperty("beforeWrite")
            .EnumerateArray()
            .ShouldAllBe(c => c.GetProperty("holds").GetBoolean());
    }

    private async Task<JsonElement> ChipAsync(int id) =>
        (await _client.GetFromJsonAsync<JsonElement>("/api/chips"))
            .EnumerateArray()
            .Single(c => c.GetProperty("id").GetInt32() == id);

    private Task<HttpResponseMessage> SayAsync(int id, string verb, object body) =>
        _client.PostAsJsonAsync($"/api/chips/{id}/{verb}", body);

    private async Task<string> DoAsync(int id, string verb, object body)
    {
        var begun = await SayAsync(id, verb, body);
        if (begun.StatusCode != HttpStatusCode.Accepted)
            return await begun.Content.ReadAsStringAsync();
        var job = (await begun.JsonAsync()).GetProperty("id").GetInt32();
        while (true)
        {
            var now = await _client.GetFromJsonAsync<JsonElement>($"/api/jobs/{job}");
            if (now.GetProperty("state").GetString() is var state and not ("queued" or "running"))
                return state!;
            await Task.Delay(20);
        }
    }
}
