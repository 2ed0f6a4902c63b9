using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>The command of a typed step on its way to the machine, and what it printed on its way back.</summary>
public sealed class CourierTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;
    private readonly RunDriver _runs;

    public CourierTests()
    {
        _client = _workshop.CreateClient();
        _runs = new RunDriver(_client);
    }

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private const string Typed = "extension.key";

    /// <summary>A run that stands at a step which types a command: the key of a paid extension.</summary>
    private async Task<JsonElement> AtTypedAsync(string tag)
    {
        await _runs.MachineAsync(tag);
        await _runs.EnterAsync(tag, "os.name", "Tessaly 5");
        await _runs.EnterAsync(tag, "os.works", "yes");
        var route = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("school").GetString() == "stay" && r.GetProperty("cures").GetArrayLength() > 0);
        var answer = await _runs.PostRunAsync(tag, route);
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        return await _runs.UntilAsync(await answer.JsonAsync(), Typed);
    }

    [Fact]
    public async Task The_command_goes_out_under_a_code_and_its_output_comes_back_and_is_judged()
    {
        var run = await AtTypedAsync("MR-0820");
        var id = run.GetProperty("id").GetString();
        var code = (await (await _client.PostAsync($"/api/runs/{id}/courier", null)).JsonAsync()).GetProperty("code");
        (await (await _client.PostAsync($"/api/runs/{id}/courier", null)).JsonAsync())
            .GetProperty("code")
            .GetString()
            .ShouldBe(code.GetString(), "the code of a step stays as long as it is good");

        var text = await _client.GetStringAsync($"/c/{code}");
        text.Split('\n')[0].ShouldBe("updates extend --key KEY-OF-THE-ORDER");
        (await _client.GetStringAsync($"/c/{code}/qr.svg")).ShouldStartWith("<svg");

        var answer = await _client.PostAsync($"/c/{code}", new StringContent("error: this key is used\n"));
        (await answer.Content.ReadAsStringAsync()).ShouldBe("Wrong: error: this key is used\n");
        run = await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{id}");
        run.GetProperty("state").GetProperty("output").GetProperty("verdict").GetString().ShouldBe("wrong");
        var refused = await _runs.SayAsync(run, "done", Typed);
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain("this key is used");

        await _client.PostAsync($"/c/{code}", new StringContent(new string('x', 900_000) + "\nextension active\n"));
        run = await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{id}");
        (await _runs.SayAsync(run, "done", Typed)).StatusCode.ShouldBe(HttpStatusCode.OK);
        // The step is done: what comes now belongs to none.
        (await _client.PostAsync($"/c/{code}", new StringContent("extension active"))).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );
    }

    [Fact]
    public async Task A_code_that_is_not_known_and_a_step_that_types_nothing_are_refused()
    {
        (await _client.GetAsync("/c/aaaaaaaa")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        var run = await _runs.BeginAsync("MR-0821");
        (await _client.PostAsync($"/api/runs/{run.GetProperty("id").GetString()}/courier", null)).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );
    }

    [Fact]
    public async Task The_sheet_of_a_route_can_be_walked_by_anybody()
    {
        await _runs.MachineAsync("MR-0822");
        var route = await _runs.RouteAsync("MR-0822", "wickerwork-26", "comply");
        var sheet = await _client.GetFromJsonAsync<JsonElement>(
            $"/api/machines/MR-0822/routes/{route.GetProperty("id").GetString()}/sheet"
        );
        sheet.GetProperty("missing").GetArrayLength().ShouldBe(0);
        var world = sheet.GetProperty("start").EnumerateObject().ToDictionary(p => p.Name, p => p.Value.GetString());
        foreach (
            var step in sheet
                .GetProperty("steps")
                .EnumerateArray()
                .Where(s => s.GetProperty("on").ValueKind == JsonValueKind.Null)
        )
        {
            foreach (var need in step.GetProperty("needs").EnumerateObject())
                need.Value.EnumerateArray()
                    .Select(v => v.GetString())
                    .ShouldContain(world[need.Name], step.GetProperty("id").GetString());
            foreach (var does in step.GetProperty("does").EnumerateObject())
                world[does.Name] = does.Value.GetString();
        }
        world["state"].ShouldBe("ready");
        world["usbStart"].ShouldBe("forbidden");
        sheet
            .GetProperty("ends")
            .EnumerateArray()
            .Count(e => e.GetProperty("stopped").ValueKind == JsonValueKind.Null)
            .ShouldBe(1);
    }
}
