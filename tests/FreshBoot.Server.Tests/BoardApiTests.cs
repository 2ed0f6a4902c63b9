using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Small boards over HTTP: what they are, and their settings checked, set and kept.</summary>
public sealed class BoardApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private const string Tag = "MR-0419";
    private readonly HttpClient _client = demo.Client;

    [Fact]
    public async Task Settings_are_checked_set_and_kept_for_the_machine()
    {
        var sheet = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/board");
        sheet.GetProperty("board").GetProperty("id").GetString().ShouldBe("thimble-q");
        sheet.GetProperty("own").GetBoolean().ShouldBeFalse();
        sheet.GetProperty("verdict").GetProperty("findings").GetArrayLength().ShouldBe(0);
        var text = sheet.GetProperty("text").GetString()!;

        var set = await (
            await _client.PostAsJsonAsync(
                "/api/boards/config/set",
                new
                {
                    board = "thimble-q",
                    text,
                    key = "cpu.clock",
                    value = "2150",
                }
            )
        ).JsonAsync();
        var after = set.GetProperty("text").GetString()!;
        after.ShouldBe(text.Replace("cpu.clock=1800", "cpu.clock=2150", StringComparison.Ordinal));
        var verdict = await (
            await _client.PostAsJsonAsync("/api/boards/config/check", new { board = "thimble-q", text = after })
        ).JsonAsync();
        verdict.GetProperty("findings").GetArrayLength().ShouldBe(2);
        verdict.GetProperty("effective")[0].GetProperty("value").GetString().ShouldBe("2150");

        (
            await _client.PutAsJsonAsync(
                $"/api/machines/{Tag}/facts/board.settings",
                new
                {
                    value = after,
                    source = "written on its page",
                    by = "Pim",
                }
            )
        ).EnsureSuccessStatusCode();
        var kept = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/board");
        kept.GetProperty("text").GetString().ShouldBe(after.Trim());
        kept.GetProperty("own").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task What_is_no_board_is_said_and_the_sheet_of_one_names_supply_port_fault_and_cap()
    {
        (await _client.GetAsync("/api/machines/MR-0417/board")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (
            await _client.PostAsJsonAsync("/api/boards/config/check", new { board = "nothing", text = "" })
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest);

        var route = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("system").GetString() == "thimble-desk");
        var sheet = await _client.GetStringAsync(
            $"/api/machines/{Tag}/routes/{route.GetProperty("id").GetString()}/sheet"
        );
        foreach (
            var says in (string[])
                [
                    "3000 mA at 5 V",
                    "the two blue ports beside the network",
                    "setup-reset --first-start",
                    "use all memory",
                    "config.txt",
                ]
        )
            sheet.ShouldContain(says);
    }
}
