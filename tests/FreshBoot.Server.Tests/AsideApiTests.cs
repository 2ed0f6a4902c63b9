using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace FreshBoot.Server.Tests;

/// <summary>What is said of a run beside that its steps are done, over HTTP, and what others learn from it.</summary>
public sealed class AsideApiTests : IDisposable
{
    private const string Boot = "start-installer.boot";
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;
    private readonly RunDriver _runs;

    public AsideApiTests()
    {
        _client = _workshop.CreateClient();
        _runs = new RunDriver(_client);
    }

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private async Task<JsonElement> SayAsync(JsonElement run, string kind, object data)
    {
        var steps = run.GetProperty("steps");
        var at = steps[run.GetProperty("state").GetProperty("current").GetInt32()].GetProperty("id").GetString()!;
        var answer = await _runs.SayAsync(run, kind, at, data);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    [Fact]
    public async Task The_next_machine_of_that_board_sees_what_worked_last_time()
    {
        var first = await _runs.UntilAsync(await _runs.BeginAsync("MR-0860"), Boot);
        first.GetProperty("worked").ValueKind.ShouldBe(JsonValueKind.Null);
        first = await SayAsync(first, "tried", new { what = "the first entry" });
        first = await SayAsync(first, "done", new { worked = "the second entry", despite = RunDriver.Elsewhere });
        first.GetProperty("state").GetProperty("trials").GetArrayLength().ShouldBe(2);

        var next = await _runs.UntilAsync(await _runs.BeginAsync("MR-0861"), Boot);
        next.GetProperty("worked").GetProperty("tag").GetString().ShouldBe("MR-0860");
        next.GetProperty("worked").GetProperty("what").GetString().ShouldBe("the second entry");
    }

    [Fact]
    public async Task What_was_left_out_and_done_otherwise_is_told_at_the_hand_over()
    {
        var run = await _runs.BeginAsync("MR-0862");
        run = await SayAsync(run, "skipped", new { text = "The casing has no tag; its board was read." });
        run = await SayAsync(run, "deviated", new { text = "By telephone, noted by Pim." });
        run = await SayAsync(run, "undone", new { });
        run = await SayAsync(run, "deviated", new { text = "By letter, noted by Pim." });
        var otherwise = run.GetProperty("state")
            .GetProperty("otherwise")
            .EnumerateArray()
            .Select(o => o.GetString()!)
            .ToArray();
        otherwise.Length.ShouldBe(2, "what was taken back is told no more");
        otherwise[0].ShouldStartWith("Left out: Read the tag on the casing");
        otherwise[0].ShouldEndWith("The casing has no tag; its board was read.");
        otherwise[1].ShouldEndWith("By letter, noted by Pim.");
        await ShouldRefuse(run, "photo", new { photo = "77" }, HttpStatusCode.NotFound);
        await ShouldRefuse(run, "photo", new { photo = "the left hinge" }, HttpStatusCode.NotFound);
        await ShouldRefuse(run, "note", new { }, HttpStatusCode.BadRequest);
        await ShouldRefuse(run, "sung", new { }, HttpStatusCode.BadRequest);
        run.GetProperty("chain").GetString().ShouldBe("whole");
    }

    private async Task ShouldRefuse(JsonElement run, string kind, object data, HttpStatusCode status)
    {
        var steps = run.GetProperty("steps");
        var at = steps[run.GetProperty("state").GetProperty("current").GetInt32()].GetProperty("id").GetString()!;
        (await _runs.SayAsync(run, kind, at, data)).StatusCode.ShouldBe(status);
    }

    [Fact]
    public async Task The_bench_orders_what_wants_hands_and_the_machine_keeps_the_aim_of_its_run()
    {
        var run = await _runs.BeginAsync("MR-0863");
        await _client.PutAsJsonAsync("/api/machines/MR-0863/bay", new { bay = 2, by = "Pim" });
        var hands = await _client.GetFromJsonAsync<JsonElement>("/api/bench");
        hands.GetArrayLength().ShouldBe(1);
        hands[0].GetProperty("ahead").GetProperty("waitMinutes").GetInt32().ShouldBeGreaterThan(5);
        var aim = await _client.PutAsJsonAsync("/api/machines/MR-0863/aim", new { system = "driftway", by = "Pim" });
        aim.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0863"))
            .GetProperty("aim")
            .GetString()
            .ShouldBe("tessaly-6-r2");

        run = await SayAsync(run, "paused", new { text = "waits for the module" });
        run = await SayAsync(run, "handed", new { to = "Odalys" });
        (await _client.GetFromJsonAsync<JsonElement>("/api/bench")).GetArrayLength().ShouldBe(0);
        var glance = (await _client.GetFromJsonAsync<JsonElement>("/api/machines?find=MR-0863"))[0].GetProperty("run");
        glance.GetProperty("paused").GetString().ShouldBe("waits for the module");
        glance.GetProperty("with").GetString().ShouldBe("Odalys");
    }

    [Fact]
    public async Task A_step_in_better_words_is_read_on_this_machine_offered_to_all_and_tried_before_it_is_saved()
    {
        var run = await _runs.BeginAsync("MR-0864");
        run = await SayAsync(
            run,
            "edited",
            new
            {
                step = "bench.off",
                words = "Shut it down, and count to ten after its light is out.",
                text = "The light goes out too early.",
                offer = "yes",
            }
        );
        Text(run, "bench.off").ShouldStartWith("Shut it down, and count");
        var page = await _client.GetStringAsync($"/api/runs/{run.GetProperty("id").GetString()}/sheet");
        page.ShouldContain("count to ten after its light is out");
        // In short a stop is one line, and a caution stands there as ever.
        var brief = await _client.GetStringAsync($"/api/runs/{run.GetProperty("id").GetString()}/sheet?inShort=true");
        brief.Length.ShouldBeLessThan(page.Length);
        Regex.Count(brief, "<b>Caution.</b>").ShouldBe(Regex.Count(page, "<b>Caution.</b>"));
        Regex.Count(brief, "<li class=\"step\">").ShouldBeLessThan(Regex.Count(page, "<li class=\"step\">"));
        var offer = (await _client.GetFromJsonAsync<JsonElement>("/api/offers"))[0];
        offer.GetProperty("was").GetString()!.ShouldStartWith("Shut it down in the ordinary way");
        offer.GetProperty("edit").GetProperty("reason").GetString().ShouldBe("The light goes out too early.");

        var known = JsonNode.Parse(await _client.GetStringAsync("/api/catalogue/procedures/bench"))!;
        var entry = known["entry"]!.DeepClone();
        var off = entry["steps"]!.AsArray().Single(s => s!["id"]!.GetValue<string>() == "off")!;
        off["text"] = "Shut {tag} down, and count to ten.";
        var tried = await PreviewAsync("MR-0864", entry);
        tried
            .GetProperty("steps")
            .EnumerateArray()
            .Last()
            .GetProperty("text")
            .GetString()
            .ShouldBe("Shut MR-0864 down, and count to ten.");
        off["text"] = "Shut {nothing} down, and count to ten.";
        var answer = await _client.PostAsJsonAsync(
            "/api/catalogue/procedures/bench/preview",
            new { tag = "MR-0864", entry }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await answer.Content.ReadAsStringAsync()).ShouldContain("nothing");
        entry["when"] = JsonNode.Parse("""{"fact":"route.system","oneOf":["no-such-system"]}""");
        off["text"] = "Shut it down, and count to ten.";
        (await PreviewAsync("MR-0864", entry)).GetProperty("school").ValueKind.ShouldBe(JsonValueKind.Null);
    }

    [Fact]
    public async Task The_log_of_a_machine_has_words_probes_and_runs_with_their_notes_latest_first()
    {
        var run = await _runs.BeginAsync("MR-0865");
        run = await SayAsync(run, "note", new { text = "The hinge is loose." });
        await SayAsync(run, "skipped", new { text = "The casing has no tag; its board was read." });
        await _runs.EnterAsync("MR-0865", "layout.sleep", "yes");

        var log = (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0865/log")).EnumerateArray().ToArray();
        log.Select(l => l.GetProperty("at").GetDateTimeOffset()).ShouldBeInOrder(SortDirection.Descending);
        log[0].GetProperty("says").GetString().ShouldBe("yes (seen).");
        log[0].GetProperty("by").GetString().ShouldBe("Pim");
        var says = log.Select(l => l.GetProperty("says").GetString()!).ToArray();
        says.ShouldContain("The hinge is loose.");
        says.ShouldContain("Left out: The casing has no tag; its board was read.");
        says.ShouldContain(s => s.StartsWith("Begun: Tessaly 6, release 2", StringComparison.Ordinal));
        says.ShouldContain(s => s.EndsWith(" facts.", StringComparison.Ordinal));
        (await _client.GetAsync("/api/machines/MR-9865/log")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    private async Task<JsonElement> PreviewAsync(string tag, JsonNode entry)
    {
        var answer = await _client.PostAsJsonAsync("/api/catalogue/procedures/bench/preview", new { tag, entry });
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    private static string Text(JsonElement run, string step) =>
        run.GetProperty("steps")
            .EnumerateArray()
            .Single(s => s.GetProperty("id").GetString() == step)
            .GetProperty("text")
            .GetString()!;
}
