using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Server.Tests;

public sealed class RehearsalApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private readonly HttpClient _client = demo.Client;
    private readonly RunDriver _runs = new(demo.Client);

    private async Task<HttpResponseMessage> RehearseAsync(string tag, string route, object body) =>
        await _client.PostAsJsonAsync($"/api/machines/{tag}/routes/{route}/rehearsal", body);

    [Fact]
    public async Task A_plan_is_walked_ten_thousand_times_the_same_seed_the_same_walks()
    {
        var route = (await _runs.RouteAsync("MR-0405", "wickerwork-26", "comply")).GetProperty("id").GetString()!;
        var one = await (await RehearseAsync("MR-0405", route, new { walks = 10_000, seed = 7 })).JsonAsync();
        one.GetProperty("stopsAt").GetArrayLength().ShouldBe(0);
        var minutes = one.GetProperty("minutes");
        minutes.GetProperty("p10").GetInt32().ShouldBeLessThan(minutes.GetProperty("p50").GetInt32());
        minutes.GetProperty("p50").GetInt32().ShouldBeLessThan(minutes.GetProperty("p90").GetInt32());
        one.GetProperty("by").GetArrayLength().ShouldBe(20);
        // The sheet's own time stands beside it, the one that the route tells.
        one.GetProperty("sheetHandsOn")
            .GetInt32()
            .ShouldBe(
                (await _runs.RouteAsync("MR-0405", "wickerwork-26", "comply")).GetProperty("handsOnMinutes").GetInt32()
            );
        one.GetProperty("sheetInAll").GetInt32().ShouldBeGreaterThan(one.GetProperty("sheetHandsOn").GetInt32());
        one.GetProperty("failures").GetArrayLength().ShouldBeGreaterThan(10);
        var again = await (await RehearseAsync("MR-0405", route, new { walks = 10_000, seed = 7 })).JsonAsync();
        again.GetProperty("failures").ToString().ShouldBe(one.GetProperty("failures").ToString());
        (await RehearseAsync("MR-0405", route, new { walks = 5 })).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await RehearseAsync("MR-0405", "no-such", new { })).StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task A_plan_whose_image_is_not_patched_stops_at_setup_and_is_not_walked_for_real()
    {
        var route = (await _runs.RouteAsync("MR-0409", "tessaly-6-r1", "patch")).GetProperty("id").GetString()!;
        var walked = await (await RehearseAsync("MR-0409", route, new { walks = 200 })).JsonAsync();
        var stop = walked.GetProperty("stopsAt")[0];
        stop.GetProperty("rung").GetString().ShouldBe("setup");
        stop.GetProperty("cause").GetString().ShouldBe("gate-checked");
        var refused = await _client.PostAsJsonAsync(
            $"/api/machines/MR-0409/routes/{route}/whole-way",
            new { by = "Pim" }
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("not ready");
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task An_upgrade_in_place_is_walked_inside_the_system_that_it_replaces()
    {
        var facts = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["tag"] = "MR-0891",
            ["release.owner"] = "given",
            ["release.managed"] = "free",
            ["release.data"] = "saved",
            ["release.encryption"] = "key-seen",
            ["parts.powersOn"] = "yes",
            ["parts.battery"] = "sound",
            ["parts.storage"] = "sound",
            ["identity.maker"] = "Brackwater",
            ["identity.model"] = "Stile 14",
            ["cpu.model"] = "Corvane C8-350",
            ["cpu.arch"] = "x86",
            ["cpu.flags"] = string.Join(
                ' ',
                CpuLevel.Levels.Take(3).SelectMany(l => l.Adds.Select(f => f.Flag)).Append("lm")
            ),
            ["memory.installedMiB"] = "8192",
            ["memory.maxMiB"] = "16384",
            ["storage.0.sizeBytes"] = "250000000000",
            ["storage.0.bus"] = "sata",
            ["storage.0.kind"] = "flash",
            ["storage.0.table"] = "gpt",
            ["firmware.startedBy"] = "uefi",
            ["firmware.kind"] = "uefi64",
            ["firmware.secureBoot"] = "able",
            ["tpm.version"] = "off",
            ["graphics.0.model"] = "Corvane C8 graphics",
            ["network.0.model"] = "Netherby NB-12",
            ["plan.install"] = "inPlace",
            ["os.name"] = "Tessaly 5",
            ["os.edition"] = "Home",
            ["os.language"] = "en",
            ["os.freeBytes"] = "90000000000",
            ["os.works"] = "yes",
        };
        using var body = new StringContent(
            $"{string.Join(',', facts.Keys)}\n{string.Join(',', facts.Values.Select(v => $"\"{v}\""))}\n",
            Encoding.UTF8,
            "text/csv"
        );
        (await _client.PostAsync("/api/machines/csv?by=Pim", body)).EnsureSuccessStatusCode();
        var route = (await _runs.RouteAsync("MR-0891", "tessaly-6-r1", "comply")).GetProperty("id").GetString()!;
        var job = await WalkAsync("MR-0891", route);
        job.GetProperty("state").GetString().ShouldBe("done", job.GetProperty("says").GetString());
        var result = job.GetProperty("result");
        var way = result.GetProperty("wholeWay");
        way.GetProperty("reached")
            .GetString()
            .ShouldBe("use", $"{job.GetProperty("says")}\n{result.GetProperty("text")}");
        job.GetProperty("says").GetString()!.ShouldContain("Upgraded inside Tessaly 5");
        string[] pictured =
        [
            "The system that it comes with, from its medium",
            "The system that it comes with",
            "In the running system",
            "From the drive",
        ];
        pictured.ShouldBeSubsetOf(
            way.GetProperty("screens").EnumerateArray().Select(s => s.GetProperty("says").GetString()!.Split(':')[0])
        );
        result
            .GetProperty("differs")
            .EnumerateArray()
            .Select(d => d.GetString())
            .ShouldContain(d => d!.StartsWith("The twin's drive is not encrypted", StringComparison.Ordinal));
    }

    private async Task<JsonElement> WalkAsync(string tag, string route)
    {
        var begun = await _client.PostAsJsonAsync($"/api/machines/{tag}/routes/{route}/whole-way", new { by = "Pim" });
        begun.StatusCode.ShouldBe(HttpStatusCode.Accepted, await begun.Content.ReadAsStringAsync());
        return await _client.EndOfAsync(await begun.JsonAsync());
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task The_whole_way_of_a_plan_is_walked_as_a_job_and_is_evidence_for_exactly_this_plan()
    {
        var route = (await _runs.RouteAsync("MR-0405", "wickerwork-26", "comply")).GetProperty("id").GetString()!;
        var job = await WalkAsync("MR-0405", route);
        job.GetProperty("state").GetString().ShouldBe("done", job.GetProperty("says").GetString());
        var result = job.GetProperty("result");
        var way = result.GetProperty("wholeWay");
        way.GetProperty("startedFromDrive").GetBoolean().ShouldBeTrue(job.GetProperty("says").GetString());
        way.GetProperty("reached")
            .GetString()
            .ShouldBe("use", $"{job.GetProperty("says")} {way.GetProperty("acceptance")}");
        way.GetProperty("acceptance")
            .EnumerateArray()
            .Select(l =>
                $"{l.GetProperty("proof").GetString()} {l.GetProperty("line").GetString()} {l.GetProperty("says").GetString()}"
            )
            .ShouldAllBe(l => l.StartsWith("proved", StringComparison.Ordinal));
        way.GetProperty("screens").GetArrayLength().ShouldBeGreaterThan(5);
        (
            await _client.GetAsync(way.GetProperty("screens")[0].GetProperty("url").GetString())
        ).Content.Headers.ContentType!.MediaType.ShouldBe("image/png");
        result
            .GetProperty("differs")
            .EnumerateArray()
            .Select(d => d.GetString())
            .ShouldContain(d => d!.Contains("one core", StringComparison.Ordinal));
        // It says nothing of the machine itself: its dossier is as it was.
        (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0405"))
            .FactText("os.name")
            .ShouldNotBe("Wickerwork 26");

        async Task<JsonElement> EvidenceAsync() =>
            (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/MR-0405/work-items?route={route}"))
                .GetProperty("items")
                .EnumerateArray()
                .First(i => i.GetProperty("id").GetString() == "image")
                .GetProperty("evidence")[0];
        (await EvidenceAsync()).GetProperty("isEvidence").GetBoolean().ShouldBeTrue();
        (await _client.GetFromJsonAsync<JsonElement>("/api/jobs?kind=wholeWay&tag=MR-0405"))
            .GetArrayLength()
            .ShouldBe(1);
        (await _client.GetAsync("/api/jobs?kind=holiday")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }
}
