using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Takes machines in and carries runs out over HTTP, the way a person does.</summary>
internal sealed class RunDriver(HttpClient client)
{
    private static readonly (string Key, string Value)[] Answers =
    [
        ("release.owner", "given"),
        ("release.data", "not-wanted"),
        ("release.encryption", "none"),
        ("release.managed", "free"),
        ("parts.battery", "sound"),
        ("parts.storage", "sound"),
        ("tpm.version", "absent"),
    ];

    public async Task EnterAsync(string tag, string key, string value) =>
        (
            await client.PutAsJsonAsync(
                $"/api/machines/{tag}/facts/{key}",
                new
                {
                    value,
                    source = "seen",
                    by = "Pim",
                }
            )
        ).EnsureSuccessStatusCode();

    public async Task MachineAsync(string tag)
    {
        var answer = await client.PostAsync("/api/machines/import", TestWorkshop.BundleOf(tag));
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        foreach (var (key, value) in Answers)
            await EnterAsync(tag, key, value);
    }

    public Task<HttpResponseMessage> PostRunAsync(string tag, string route) =>
        client.PostAsJsonAsync($"/api/machines/{tag}/runs", new { routeId = route, by = "Pim" });

    public async Task<JsonElement> BeginAsync(string tag, string system, string school)
    {
        await MachineAsync(tag);
        var route = (await client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("system").GetString() == system && r.GetProperty("school").GetString() == school);
        var answer = await PostRunAsync(tag, route.GetProperty("id").GetString()!);
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    public Task<HttpResponseMessage> SayAsync(
        JsonElement run,
        string kind,
        string step,
        object? data = null,
        string? eventId = null
    ) =>
        client.PostAsJsonAsync(
            $"/api/runs/{run.GetProperty("id").GetString()}/events",
            new
            {
                eventId = eventId ?? Guid.NewGuid().ToString(),
                expectedSeq = run.GetProperty("seq").GetInt32(),
                kind,
                stepId = step,
                by = "Pim",
                data,
            }
        );

    /// <summary>Carries a run out up to a step; where something is missing it goes on for a reason.</summary>
    public async Task<JsonElement> UntilAsync(JsonElement run, string until, string despite = "made elsewhere")
    {
        var tag = run.GetProperty("tag").GetString()!;
        foreach (var step in run.GetProperty("steps").EnumerateArray().ToArray())
        {
            var id = step.GetProperty("id").GetString()!;
            if (id == until)
                return run;
            if (step.GetProperty("kind").GetString() == "wait")
                run = await (await SayAsync(run, "begun", id)).JsonAsync();
            if (step.GetProperty("wants").GetString() is { } key)
                await EnterAsync(tag, key, "Tessaly 6, release 2");
            var answer = await SayAsync(run, "done", id, new { tag, despite });
            answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
            run = await answer.JsonAsync();
        }
        return run;
    }
}
