using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>The practice bench over the API: played to its end, refused where a move cannot be made, and without a trace in the shop.</summary>
public sealed class PracticeApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private readonly HttpClient _client = demo.Client;

    private async Task<(HttpStatusCode Code, JsonElement Sheet)> PlayAsync(string id, params object[] moves)
    {
        var answer = await _client.PostAsJsonAsync($"/api/practice/{id}", new { moves, seed = 1 });
        return (answer.StatusCode, await answer.JsonAsync());
    }

    [Fact]
    public async Task Ten_machines_can_be_practised_on()
    {
        var all = (await _client.GetFromJsonAsync<JsonElement>("/api/practice")).EnumerateArray().ToArray();
        Assert.Equal(10, all.Length);
        Assert.All(all, p => Assert.Equal(JsonValueKind.Null, p.GetProperty("unfit").ValueKind));
        Assert.All(all, p => Assert.True(p.GetProperty("steps").GetInt32() >= 3));
    }

    [Fact]
    public async Task A_fault_is_found_mended_and_debriefed_and_the_shop_knows_nothing_of_it()
    {
        var before = await ShopAsync();
        object[] toTheFault =
        [
            new { kind = "chosen", what = "Look under Media what was read back" },
            new { kind = "done" },
        ];
        var (_, stopped) = await PlayAsync("practice-unfinished-stick", toTheFault);
        Assert.Contains(
            stopped.GetProperty("screen").EnumerateArray(),
            l => l.GetString()!.Contains("cannot read the sector", StringComparison.Ordinal)
        );
        var (_, looking) = await PlayAsync(
            "practice-unfinished-stick",
            [.. toTheFault, new { kind = "stopped", what = "medium" }]
        );
        // Without help nobody is told how likely a cause is, nor what to look at first.
        Assert.All(
            looking.GetProperty("causes").EnumerateArray(),
            c => Assert.Equal(0, c.GetProperty("chance").GetDouble())
        );
        Assert.All(
            looking.GetProperty("checks").EnumerateArray(),
            c => Assert.Equal(0, c.GetProperty("gain").GetDouble())
        );
        object[] found =
        [
            .. toTheFault,
            new { kind = "stopped", what = "medium" },
            new { kind = "check", what = "read-back" },
            new { kind = "mend", what = "write-incomplete" },
        ];
        var (_, mended) = await PlayAsync("practice-unfinished-stick", found);
        Assert.Equal("step", mended.GetProperty("stage").GetString());
        Assert.Equal(JsonValueKind.Null, mended.GetProperty("debriefing").ValueKind);
        object[] all = [.. found];
        JsonElement ended = mended;
        for (var i = 0; i < 20 && ended.GetProperty("stage").GetString() != "ended"; i++)
        {
            var options = ended
                .GetProperty("step")
                .GetProperty("options")
                .EnumerateArray()
                .Select(o => o.GetString())
                .ToArray();
            all = [.. all, new { kind = "done", what = options.FirstOrDefault() }];
            (_, ended) = await PlayAsync("practice-unfinished-stick", all);
        }
        var told = ended.GetProperty("debriefing");
        Assert.True(told.GetProperty("endedWell").GetBoolean());
        Assert.Equal("The medium was not written to its end", told.GetProperty("fault").GetString());
        Assert.Equal(100, told.GetProperty("score").GetProperty("safety").GetInt32());
        Assert.Equal(before, await ShopAsync());
    }

    [Fact]
    public async Task A_move_that_cannot_be_made_is_refused_with_what_can()
    {
        var (code, told) = await PlayAsync("practice-first-clean", new { kind = "check", what = "read-back" });
        Assert.Equal(HttpStatusCode.Conflict, code);
        Assert.Contains(
            "Who says that nothing is wanted?",
            told.GetProperty("detail").GetString(),
            StringComparison.Ordinal
        );
        (code, _) = await PlayAsync("practice-of-nothing");
        Assert.Equal(HttpStatusCode.NotFound, code);
        var many = Enumerable.Repeat(new { kind = "help" }, 501).ToArray<object>();
        (code, _) = await PlayAsync("practice-first-clean", many);
        Assert.Equal(HttpStatusCode.BadRequest, code);
    }

    /// <summary>What practice may not touch: machines, searches, what was found, times.</summary>
    private async Task<string> ShopAsync() =>
        string.Join(
            '\n',
            await _client.GetStringAsync("/api/machines"),
            await _client.GetStringAsync("/api/machines/MR-0417"),
            await _client.GetStringAsync("/api/jobs")
        );
}
