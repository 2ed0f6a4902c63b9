using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Everything that happened in the demo shop, found by words and days.</summary>
public sealed class LogApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private readonly HttpClient _client = demo.Client;

    private async Task<JsonElement> FindAsync(string query) =>
        await _client.GetFromJsonAsync<JsonElement>($"/api/log?{query}");

    private static string[] Says(JsonElement found) =>
        [.. found.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("says").GetString()!)];

    [Fact]
    public async Task Every_word_narrows_and_what_is_said_next_is_found_at_once_and_once()
    {
        var driver = new RunDriver(_client);
        await driver.EnterAsync("MR-0404", "os.name", "Quince 4");
        var found = await FindAsync("find=QUINCE%20mr-0404%20pim");
        found.GetProperty("found").GetInt32().ShouldBe(1);
        Says(found).ShouldBe(["Quince 4 (seen)."]);
        (await FindAsync("find=quince%20mr-0405")).GetProperty("found").GetInt32().ShouldBe(0);
        // Said again it is another line, the latest first.
        await driver.EnterAsync("MR-0404", "os.name", "Quince 4, release 2");
        Says(await FindAsync("find=quince")).ShouldBe(["Quince 4, release 2 (seen).", "Quince 4 (seen)."]);
        // The machine’s own log has the same lines.
        var own = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0404/log");
        own.EnumerateArray()
            .Count(l => l.GetProperty("says").GetString()!.StartsWith("Quince", StringComparison.Ordinal))
            .ShouldBe(2);
    }

    [Fact]
    public async Task The_latest_stand_first_and_steps_that_went_as_written_only_where_asked_for()
    {
        var plain = await FindAsync("take=5000");
        var times = plain.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("at").GetDateTimeOffset());
        times.ShouldBe(times.OrderDescending());
        var whole = await FindAsync("everything=true&take=5000");
        whole.GetProperty("found").GetInt32().ShouldBeGreaterThan(plain.GetProperty("found").GetInt32());
        whole.GetProperty("found").GetInt32().ShouldBe(whole.GetProperty("all").GetInt32());
        plain.GetProperty("lines").EnumerateArray().ShouldAllBe(l => !l.GetProperty("minor").GetBoolean());
        // Where fewer are asked for, the rest is counted.
        var few = await FindAsync("take=3");
        few.GetProperty("lines").GetArrayLength().ShouldBe(3);
        few.GetProperty("found").GetInt32().ShouldBe(plain.GetProperty("found").GetInt32());
    }

    [Fact]
    public async Task Days_are_the_workshops_own_and_the_last_one_counts_whole()
    {
        var now = (await _client.GetFromJsonAsync<JsonElement>("/api/health")).GetProperty("now").GetDateTimeOffset();
        var all = (await FindAsync("everything=true")).GetProperty("all").GetInt32();
        int Upto(JsonElement found) => found.GetProperty("found").GetInt32();
        Upto(await FindAsync($"everything=true&to={now:yyyy-MM-dd}")).ShouldBe(all);
        Upto(await FindAsync($"everything=true&from={now.AddDays(1):yyyy-MM-dd}")).ShouldBe(0);
        var before = Upto(await FindAsync($"everything=true&to={now.AddDays(-1):yyyy-MM-dd}"));
        var today = Upto(await FindAsync($"everything=true&from={now:yyyy-MM-dd}"));
        (before + today).ShouldBe(all);
        var wrong = await _client.GetAsync("/api/log?from=2026-12-02&to=2026-12-01");
        wrong.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await wrong.JsonAsync()).GetProperty("where").GetString().ShouldBe("from");
    }

    [Fact]
    public async Task All_of_it_comes_out_as_a_table_in_which_nothing_runs()
    {
        await new RunDriver(_client).EnterAsync("MR-0405", "os.name", "=2+2");
        var table = await _client.GetStringAsync("/api/log.csv?everything=true");
        var lines = table.Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        lines[0].ShouldBe("at,tag,by,about,says");
        lines.Length.ShouldBeGreaterThan((await FindAsync("everything=true")).GetProperty("all").GetInt32());
        table.ShouldContain("'=2+2");
    }

    [Fact]
    public async Task What_came_of_the_work_is_told_in_figures_as_a_table_a_page_and_a_pdf()
    {
        var figures = await _client.GetFromJsonAsync<JsonElement>("/api/figures");
        figures.GetProperty("inUse").GetInt32().ShouldBeGreaterThan(0);
        var came = figures.GetProperty("bySchool").EnumerateArray().ToArray();
        int Sum(string name) => came.Sum(c => c.GetProperty(name).GetInt32());
        var runs = (await _client.GetFromJsonAsync<JsonElement>("/api/machines?take=500"))
            .EnumerateArray()
            .Count(m => m.GetProperty("run").ValueKind != JsonValueKind.Null);
        (Sum("finished") + Sum("open")).ShouldBe(runs);
        figures.GetProperty("grams").GetInt64().ShouldBeGreaterThan(500);
        (await _client.GetStringAsync("/api/figures.csv")).ShouldStartWith("month,begun,finished,");
        var page = WebUtility.HtmlDecode(await _client.GetStringAsync("/api/figures/report"));
        page.ShouldContain("kept in use.");
        page.ShouldContain("the shop's own scales");
        var pdf = await _client.GetByteArrayAsync("/api/figures/report.pdf");
        System.Text.Encoding.ASCII.GetString(pdf, 0, 5).ShouldBe("%PDF-");
    }

    [Fact]
    public async Task A_run_that_was_given_up_counts_although_another_was_begun_after_it()
    {
        async Task<(int GivenUp, int Open)> CameAsync()
        {
            var came = (await _client.GetFromJsonAsync<JsonElement>("/api/figures"))
                .GetProperty("bySchool")
                .EnumerateArray()
                .Where(c => c.GetProperty("name").GetString() == "patch")
                .ToArray();
            return (
                came.Sum(c => c.GetProperty("givenUp").GetInt32()),
                came.Sum(c => c.GetProperty("open").GetInt32())
            );
        }

        var before = await CameAsync();
        var runs = new RunDriver(_client);
        var run = await runs.BeginAsync("MR-0921");
        var step = run.GetProperty("steps")[0].GetProperty("id").GetString()!;
        run = await (await runs.SayAsync(run, "stopped", step, new { text = "it starts nothing" })).JsonAsync();
        var given = await runs.SayAsync(run, "givenUp", step, new { text = "the wrong stick", starts = "yes" });
        given.IsSuccessStatusCode.ShouldBeTrue(await given.Content.ReadAsStringAsync());
        (await CameAsync()).ShouldBe((before.GivenUp + 1, before.Open));
        (
            await runs.PostRunAsync("MR-0921", await runs.RouteAsync("MR-0921", "tessaly-6-r2", "patch"))
        ).IsSuccessStatusCode.ShouldBeTrue();
        (await CameAsync()).ShouldBe((before.GivenUp + 1, before.Open + 1));
    }
}
