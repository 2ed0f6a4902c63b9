using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Workshop.Simulated;

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
        ("plan.account", "maker"),
        ("plan.edition", "Home"),
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

    public async Task MachineAsync(string tag, bool released = true)
    {
        var answer = await client.PostAsync("/api/machines/import", TestWorkshop.BundleOf(tag));
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        foreach (
            var (key, value) in Answers.Where(a => released || !a.Key.StartsWith("release", StringComparison.Ordinal))
        )
            await EnterAsync(tag, key, value);
    }

    public async Task<JsonElement> RouteAsync(string tag, string system, string school) =>
        (await client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("system").GetString() == system && r.GetProperty("school").GetString() == school);

    public Task<HttpResponseMessage> PostRunAsync(string tag, JsonElement route) =>
        client.PostAsJsonAsync(
            $"/api/machines/{tag}/runs",
            new { routeId = route.GetProperty("id").GetString(), by = "Pim" }
        );

    public async Task<JsonElement> BeginAsync(string tag, string system = "tessaly-6-r2", string school = "patch")
    {
        await MachineAsync(tag);
        var answer = await PostRunAsync(tag, await RouteAsync(tag, system, school));
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    public Task<HttpResponseMessage> SayAsync(
        JsonElement run,
        string kind,
        string step,
        object? data = null,
        string? eventId = null,
        int? seq = null
    ) =>
        client.PostAsJsonAsync(
            $"/api/runs/{run.GetProperty("id").GetString()}/events",
            new
            {
                eventId = eventId ?? Guid.NewGuid().ToString(),
                expectedSeq = seq ?? run.GetProperty("seq").GetInt32(),
                kind,
                stepId = step,
                by = "Pim",
                data,
            }
        );

    /// <summary>What is measured of facts that a plan takes for granted.</summary>
    private static readonly Dictionary<string, string> AsAssumed = new(StringComparer.Ordinal)
    {
        ["parts.battery"] = "sound",
        ["parts.storage"] = "sound",
        ["parts.memoryTest"] = "passed",
        ["firmware.secureBoot"] = "able",
        ["firmware.kind"] = "uefi64",
        ["firmware.startedBy"] = "uefi",
        ["tpm.version"] = "2.0",
        ["memory.type"] = "DDR4 SO-DIMM",
        ["graphics.0.model"] = "Corvane C8 graphics",
        ["network.0.model"] = "Netherby NB-12",
    };

    /// <summary>The reason for which a run goes on where nothing was made ready in this workshop.</summary>
    public const string Elsewhere = "the stick was made elsewhere";

    /// <summary>Measures what a plan took for granted: it turns out so.</summary>
    public Task MeasureAsync(string tag, string key) => EnterAsync(tag, key, AsAssumed.GetValueOrDefault(key, "yes"));

    /// <summary>Carries a run out up to a step, or to its end; where something is missing it goes on for a reason.</summary>
    public async Task<JsonElement> UntilAsync(JsonElement run, string? until = null)
    {
        var tag = run.GetProperty("tag").GetString()!;
        foreach (
            var step in run.GetProperty("steps")
                .EnumerateArray()
                .Where(s => s.GetProperty("on").ValueKind == JsonValueKind.Null)
                .ToArray()
        )
        {
            var id = step.GetProperty("id").GetString()!;
            if (id == until)
                return run;
            if (step.GetProperty("kind").GetString() == "wait" || step.GetProperty("wants").GetString() == "probe")
                run = await (await SayAsync(run, "begun", id)).JsonAsync();
            switch (step.GetProperty("wants").GetString())
            {
                case "probe":
                    await ProbeAsync(tag, run.GetProperty("state").GetProperty("code").GetString());
                    break;
                case "os.name":
                    await EnterAsync(tag, "os.name", "Tessaly 6, release 2");
                    break;
                case { } key:
                    await MeasureAsync(tag, key);
                    break;
            }
            var answer = await SayAsync(run, "done", id, Data(step, tag));
            answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
            run = await answer.JsonAsync();
        }
        return run;
    }

    /// <summary>What goes with a step that went as it should.</summary>
    public static object Data(JsonElement step, string tag) =>
        step.GetProperty("kind").GetString() switch
        {
            "confirm" => new { tag },
            "choose" => new { chosen = step.GetProperty("options")[0].GetString() },
            "trial" => new { worked = step.GetProperty("options")[0].GetString(), despite = Elsewhere },
            _ => new { despite = Elsewhere },
        };

    private async Task ProbeAsync(string tag, string? code) =>
        (
            await client.PostAsync(
                $"/api/machines/{tag}/bundles",
                TestWorkshop.Form(
                    null,
                    ("b.tar.gz", SimulatedProbe.Bundle(TestWorkshop.Stile(tag), DateTimeOffset.UnixEpoch, code))
                )
            )
        ).EnsureSuccessStatusCode();
}
