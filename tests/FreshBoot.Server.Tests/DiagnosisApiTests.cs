using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

public sealed class DiagnosisApiTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;
    private readonly RunDriver _runs;

    public DiagnosisApiTests()
    {
        _client = _workshop.CreateClient();
        _runs = new RunDriver(_client);
    }

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private Task<HttpResponseMessage> BeginAsync(string tag, string rung, string? run = null, string? message = null) =>
        _client.PostAsJsonAsync(
            "/api/diagnoses",
            new
            {
                tag,
                rung,
                run,
                message,
                by = "Pim",
            }
        );

    private Task<HttpResponseMessage> AnswerAsync(int id, string check, string seen) =>
        _client.PostAsJsonAsync($"/api/diagnoses/{id}/answers", new { check, seen });

    private static double ChanceOf(JsonElement search, string cause) =>
        search
            .GetProperty("causes")
            .EnumerateArray()
            .Where(c => c.GetProperty("cause").GetString() == cause)
            .Select(c => c.GetProperty("chance").GetDouble())
            .FirstOrDefault();

    [Fact]
    public async Task Answers_move_the_chances_with_the_reason_until_one_cause_is_sure()
    {
        await _runs.MachineAsync("MR-0901");
        var begun = await BeginAsync("MR-0901", "medium");
        begun.StatusCode.ShouldBe(HttpStatusCode.Created, await begun.Content.ReadAsStringAsync());
        var search = await begun.JsonAsync();
        var id = search.GetProperty("id").GetInt32();
        search.GetProperty("next").GetProperty("shows").GetArrayLength().ShouldBeGreaterThan(1);
        search.GetProperty("sees").GetString()!.ShouldContain("not listed");
        var before = ChanceOf(search, "lying-stick");

        search = await (await AnswerAsync(id, "capacity", "yes")).JsonAsync();
        ChanceOf(search, "lying-stick").ShouldBeGreaterThan(before + 0.3);
        var cause = search.GetProperty("causes")[0];
        cause.GetProperty("cause").GetString().ShouldBe("lying-stick");
        cause
            .GetProperty("why")
            .EnumerateArray()
            .Select(w => w.GetString())
            .ShouldContain(w => w!.Contains('→') && w.EndsWith("it lies", StringComparison.Ordinal));
        search = await (await AnswerAsync(id, "read-back", "yes")).JsonAsync();
        // The same check again takes the place of what was said before.
        search = await (await AnswerAsync(id, "capacity", "no")).JsonAsync();
        ChanceOf(search, "lying-stick").ShouldBeLessThan(0.2);
        search.GetProperty("answers").GetArrayLength().ShouldBe(2);
        (await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0901/diagnoses"))[0]
            .GetProperty("id")
            .GetInt32()
            .ShouldBe(id);
    }

    [Fact]
    public async Task What_is_no_machine_run_check_or_sight_is_refused_with_what_would_do()
    {
        await _runs.MachineAsync("MR-0902");
        (await BeginAsync("MR-0999", "medium")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await BeginAsync("MR-0902", "attic")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await BeginAsync("MR-0902", "medium", "no-such-run")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await BeginAsync("MR-0902", "medium", message: new string('x', 20_001))).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );
        var run = await _runs.BeginAsync("MR-0903");
        var going = await BeginAsync("MR-0903", "medium", run.GetProperty("id").GetString());
        going.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await going.JsonAsync()).GetProperty("wanted").GetString()!.ShouldContain("stopped");
        (await BeginAsync("MR-0902", "medium", run.GetProperty("id").GetString())).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );
        var id = (await (await BeginAsync("MR-0902", "medium")).JsonAsync()).GetProperty("id").GetInt32();
        foreach (var (check, seen) in new[] { ("no-such", "yes"), ("capacity", "perhaps") })
        {
            var refused = await AnswerAsync(id, check, seen);
            refused.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
            (await refused.JsonAsync()).GetProperty("wanted").GetString().ShouldNotBeNullOrWhiteSpace();
        }
        (await AnswerAsync(4711, "capacity", "yes")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task What_mends_it_becomes_the_next_step_the_run_goes_on_and_the_shop_learns()
    {
        var run = await _runs.UntilAsync(await _runs.BeginAsync("MR-0904"), until: "start-installer.boot");
        var step = run.GetProperty("steps")[run.GetProperty("state").GetProperty("current").GetInt32()];
        (
            await _runs.SayAsync(
                run,
                "stopped",
                step.GetProperty("id").GetString()!,
                new { text = "nothing is listed" }
            )
        ).EnsureSuccessStatusCode();
        var runId = run.GetProperty("id").GetString()!;
        var search = await (await BeginAsync("MR-0904", "medium", runId)).JsonAsync();
        var mended = await _client.PostAsJsonAsync(
            $"/api/diagnoses/{search.GetProperty("id").GetInt32()}/mend",
            new { cause = "wrong-port", by = "Pim" }
        );
        mended.StatusCode.ShouldBe(HttpStatusCode.OK, await mended.Content.ReadAsStringAsync());

        var now = await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{runId}");
        now.GetProperty("chain").GetString().ShouldBe("whole");
        now.GetProperty("state").GetProperty("stopped").GetBoolean().ShouldBeFalse();
        var current = now.GetProperty("state").GetProperty("current").GetInt32();
        now.GetProperty("steps")[current].GetProperty("text").GetString()!.ShouldContain("slow port");
        now.GetProperty("steps")[current + 1].GetProperty("id").GetString().ShouldBe("start-installer.boot");
        var steps = now.GetProperty("steps").GetArrayLength();

        // Done, and the step at which it stopped is the one whose turn it is; a second read shows the same sheet.
        (
            await _runs.SayAsync(now, "done", now.GetProperty("steps")[current].GetProperty("id").GetString()!)
        ).EnsureSuccessStatusCode();
        now = await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{runId}");
        now.GetProperty("steps").GetArrayLength().ShouldBe(steps);
        now.GetProperty("steps")[now.GetProperty("state").GetProperty("current").GetInt32()]
            .GetProperty("id")
            .GetString()
            .ShouldBe("start-installer.boot");

        await _runs.MachineAsync("MR-0905");
        var other = await (await BeginAsync("MR-0905", "medium")).JsonAsync();
        other.GetProperty("recorded").GetInt32().ShouldBe(1);
        other
            .GetProperty("causes")
            .EnumerateArray()
            .First(c => c.GetProperty("cause").GetString() == "wrong-port")
            .GetProperty("found")
            .GetInt32()
            .ShouldBe(1);

        // It stops again at the same step: two things have changed by now, and none of them teaches.
        (
            await _runs.SayAsync(now, "stopped", "start-installer.boot", new { text = "again" })
        ).EnsureSuccessStatusCode();
        search = await (await BeginAsync("MR-0904", "medium", runId)).JsonAsync();
        (
            await _client.PostAsJsonAsync(
                $"/api/diagnoses/{search.GetProperty("id").GetInt32()}/mend",
                new { cause = "write-incomplete", by = "Pim" }
            )
        ).EnsureSuccessStatusCode();
        (await (await BeginAsync("MR-0905", "medium")).JsonAsync()).GetProperty("recorded").GetInt32().ShouldBe(0);
        // An ended search takes nothing more.
        (await AnswerAsync(search.GetProperty("id").GetInt32(), "capacity", "yes")).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );
    }

    [Fact]
    public async Task A_message_from_the_serial_line_speaks_for_its_cause()
    {
        await _runs.MachineAsync("MR-0906");
        var search = await (
            await BeginAsync("MR-0906", "kernel", message: "init: CPU ISA level is lower than required")
        ).JsonAsync();
        search.GetProperty("causes")[0].GetProperty("cause").GetString().ShouldBe("instruction-missing");
        search
            .GetProperty("causes")[0]
            .GetProperty("why")
            .EnumerateArray()
            .Select(w => w.GetString())
            .ShouldContain("it says “CPU ISA level is lower than required”");
    }
}
