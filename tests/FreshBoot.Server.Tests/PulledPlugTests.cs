using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests;

/// <summary>The server as a process of its own, killed without warning.</summary>
public sealed class PulledPlugTests : IDisposable
{
    private readonly ServerProcess _server = new();
    private readonly HttpClient _client;

    public PulledPlugTests() => _client = _server.Client;

    public void Dispose() => _server.Dispose();

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task No_answered_event_is_lost_no_half_event_appears_and_the_countdown_goes_on()
    {
        var random = new Random(20261203);
        await _server.StartAsync();
        (
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(
                    "MR-0700",
                    ("a.tar.gz", SimulatedProbe.Bundle(TestWorkshop.Stile("MR-0700"), DateTimeOffset.UnixEpoch))
                )
            )
        ).EnsureSuccessStatusCode();
        foreach (
            var (key, value) in new[]
            {
                ("release.owner", "given"),
                ("release.data", "not-wanted"),
                ("release.encryption", "none"),
                ("release.managed", "free"),
            }
        )
            (
                await _client.PutAsJsonAsync(
                    $"/api/machines/MR-0700/facts/{key}",
                    new
                    {
                        value,
                        source = "asked",
                        by = "Pim",
                    }
                )
            ).EnsureSuccessStatusCode();
        var route = (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0700/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("system").GetString() == "wickerwork-26");
        var run = await (
            await _client.PostAsJsonAsync(
                "/api/machines/MR-0700/runs",
                new { routeId = route.GetProperty("id").GetString(), by = "Pim" }
            )
        ).JsonAsync();
        var url = $"/api/runs/{run.GetProperty("id").GetString()}";
        string? usualAt = null;

        for (var kills = 0; kills < 6; kills++)
        {
            // Some notes, and the next steps as far as the first wait, which stays under way from then on.
            for (var i = random.Next(6, 12); i > 0; i--)
            {
                var step = run.GetProperty("steps")[run.GetProperty("state").GetProperty("current").GetInt32()];
                if (step.GetProperty("wants").GetString() is { } key and not "probe")
                    await new RunDriver(_client).MeasureAsync("MR-0700", key);
                var wait = step.GetProperty("kind").GetString() == "wait";
                var kind =
                    wait ? (usualAt is null ? "begun" : "note")
                    : random.Next(5) == 0 ? "note"
                    : "done";
                var answer = await _client.PostAsJsonAsync(
                    $"{url}/events",
                    new
                    {
                        eventId = $"e{Guid.NewGuid():N}",
                        expectedSeq = run.GetProperty("seq").GetInt32(),
                        kind,
                        stepId = step.GetProperty("id").GetString(),
                        by = "Pim",
                        data = new
                        {
                            worked = "the first",
                            tag = "MR-0700",
                            text = $"kill {kills}",
                            despite = "no image on this shelf",
                        },
                    }
                );
                answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
                run = await answer.JsonAsync();
                if (kind == "begun")
                    usualAt = run.GetProperty("state").GetProperty("waiting").GetProperty("usualAt").GetString();
            }
            await Task.Delay(random.Next(0, 60));
            _server.Kill();
            await _server.StartAsync();

            var after = await _client.GetFromJsonAsync<JsonElement>(url);
            after.GetProperty("chain").GetString().ShouldBe("whole");
            after.GetProperty("events").GetRawText().ShouldBe(run.GetProperty("events").GetRawText());
            if (usualAt is not null)
                after.GetProperty("state").GetProperty("waiting").GetProperty("usualAt").GetString().ShouldBe(usualAt);
        }
        usualAt.ShouldNotBeNull("the wait was reached");
    }

    [Fact]
    public async Task A_body_that_is_too_large_or_cut_off_is_told_like_any_other_refusal()
    {
        await _server.StartAsync();
        using var large = new HttpRequestMessage(HttpMethod.Post, "/api/machines/import")
        {
            Content = TestWorkshop.Form("MR-0701", ("big.tar.gz", new byte[65 << 20])),
        };
        large.Headers.ExpectContinue = true;
        using var tooLarge = await _client.SendAsync(large);
        tooLarge.StatusCode.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
        (await tooLarge.JsonAsync()).GetProperty("wanted").GetString()!.ShouldContain("64 MiB");

        using var half = new StringContent("--x\r\nContent-Disposition: form-data; name=\"assetTag\"\r\n\r\nMR-0701");
        half.Headers.ContentType = System.Net.Http.Headers.MediaTypeHeaderValue.Parse(
            "multipart/form-data; boundary=x"
        );
        using var cut = await _client.PostAsync("/api/machines/import", half);
        cut.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await cut.JsonAsync()).GetProperty("wanted").GetString()!.ShouldContain("whole form");

        (await (await _client.GetAsync("/api/machines")).JsonAsync()).GetArrayLength().ShouldBe(0);
    }
}
