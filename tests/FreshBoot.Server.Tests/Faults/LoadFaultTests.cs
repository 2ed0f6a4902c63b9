using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>Faults under many at once, each under its number.</summary>
public sealed class LoadFaultTests : IAsyncLifetime
{
    private readonly TestWorkshop _workshop = new();
    private HttpClient _client = null!;

    public Task InitializeAsync()
    {
        _client = _workshop.CreateClient();
        return Task.CompletedTask;
    }

    public async Task DisposeAsync() => await _workshop.DisposeAsync();

    [Fact]
    public async Task F22_What_was_written_is_read_whoever_hangs_up_meanwhile()
    {
        for (var round = 0; round < 30; round++)
        {
            using var hangsUp = new CancellationTokenSource();
            var writes = new List<Task>();
            for (var i = 0; i < 4; i++)
            {
                var stop = i == 0 ? hangsUp.Token : CancellationToken.None;
                writes.Add(WriteAsync($"/api/parts", TestWorkshop.Module($"module {round}-{i}"), stop));
            }
            if (round % 2 == 0)
                await hangsUp.CancelAsync();
            await Task.WhenAll(writes);
            // What the page reads is what the database has, without another write to bring it up to date.
            var shown = (await _client.GetFromJsonAsync<JsonElement>("/api/parts"))
                .EnumerateArray()
                .Select(p => p.GetProperty("part").GetProperty("about").GetString())
                .ToArray();
            for (var i = 1; i < 4; i++)
                shown.ShouldContain($"module {round}-{i}");
        }

        async Task WriteAsync(string path, object body, CancellationToken stop)
        {
            try
            {
                (await _client.PostAsJsonAsync(path, body, stop)).EnsureSuccessStatusCode();
            }
            catch (OperationCanceledException)
            {
                // That one hung up.
            }
        }
    }

    [Fact]
    public async Task F24_Five_hundred_writes_on_one_machine_by_twenty_writers_are_all_taken()
    {
        (await _client.PostAsync("/api/machines/import", TestWorkshop.BundleOf("MR-0871"))).EnsureSuccessStatusCode();
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(async writer =>
                {
                    var codes = new List<HttpStatusCode>();
                    for (var i = 0; i < 25; i++)
                        codes.Add(
                            (
                                await _client.PutAsJsonAsync(
                                    "/api/machines/MR-0871/facts/identity.model",
                                    new
                                    {
                                        value = $"Stile {writer}-{i}",
                                        source = "seen",
                                        by = $"writer {writer}",
                                    }
                                )
                            ).StatusCode
                        );
                    return codes;
                })
        );
        answers.SelectMany(a => a).ShouldAllBe(c => c == HttpStatusCode.OK);
        (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0871/facts/identity.model/history"))
            .EnumerateArray()
            .Count(f => f.GetProperty("value").GetString()!.StartsWith("Stile ", StringComparison.Ordinal))
            .ShouldBeGreaterThanOrEqualTo(500);
    }
}
