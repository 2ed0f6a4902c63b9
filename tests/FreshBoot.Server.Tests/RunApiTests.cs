using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Data;
using FreshBoot.Workshop.Simulated;
using Microsoft.Data.Sqlite;

namespace FreshBoot.Server.Tests;

public sealed class RunApiTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;
    private readonly RunDriver _runs;

    public RunApiTests()
    {
        _client = _workshop.CreateClient();
        _runs = new RunDriver(_client);
    }

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private static string First(JsonElement run) => run.GetProperty("steps")[0].GetProperty("id").GetString()!;

    private static async Task ShouldConflict(HttpResponseMessage answer)
    {
        answer.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await answer.JsonAsync()).GetProperty("wanted").GetString().ShouldNotBeNullOrWhiteSpace();
    }

    [Fact]
    public async Task A_patch_route_is_prepared_run_proved_and_handed_over()
    {
        var run = await _runs.BeginAsync("MR-0800");
        await ShouldConflict(await _client.GetAsync("/api/machines/MR-0800/handover"));
        run = await _runs.UntilAsync(run);
        run.GetProperty("chain").GetString().ShouldBe("whole");
        run.GetProperty("acceptance")
            .EnumerateArray()
            .Select(l => l.GetProperty("proof").GetString())
            .ShouldAllBe(p => p == "proved");
        run.GetProperty("acceptance").GetArrayLength().ShouldBeGreaterThan(25);

        var sheet = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0800/handover");
        sheet.GetProperty("system").GetString().ShouldBe("Tessaly 6, release 2");
        sheet.GetProperty("changed")[0].GetProperty("what").GetString().ShouldBe("Lift the installer's gates");
        sheet.GetProperty("despite")[0].GetString().ShouldBe(RunDriver.Elsewhere);
        using var page = new HttpRequestMessage(HttpMethod.Get, "/api/machines/MR-0800/handover")
        {
            Headers = { { "Accept", "text/html" } },
        };
        var html = await (await _client.SendAsync(page)).Content.ReadAsStringAsync();
        WebUtility.HtmlDecode(html).Replace('\u00a0', ' ').ShouldContain("Your computer runs Tessaly 6, release 2.");
        html.ShouldContain("Nothing is left open");
    }

    [Fact]
    public async Task What_the_new_probe_lacks_holds_the_run_until_it_is_mended_and_probed_again()
    {
        var run = await _runs.UntilAsync(await _runs.BeginAsync("MR-0813"), until: "prove.probe");
        run = await (await _runs.SayAsync(run, "begun", "prove.probe")).JsonAsync();
        var code = run.GetProperty("state").GetProperty("code").GetString();
        var whole = TestWorkshop.Stile("MR-0813");
        await Bring(whole with { Slots = [new(2048), new(0)], Devices = [new("0300", "Corvane", "C8 graphics")] }, 1);

        var held = await _runs.SayAsync(run, "done", "prove.probe");
        held.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var what = (await held.JsonAsync()).GetProperty("detail").GetString()!;
        what.ShouldContain("All memory is seen");
        what.ShouldContain("gone since: Network: Netherby NB-12");
        await ShouldConflict(await _client.GetAsync("/api/machines/MR-0813/handover"));

        // The network card is not needed any more: somebody answers for it, and for nothing that is as planned.
        await ShouldConflict(
            await _runs.SayAsync(run, "accepted", "prove.probe", new { accepts = "drive", text = "it will do" })
        );
        run = await (
            await _runs.SayAsync(run, "accepted", "prove.probe", new { accepts = "devices", text = "sold without it" })
        ).JsonAsync();
        Line(run, "devices").GetProperty("proof").GetString().ShouldBe("accepted");
        Line(run, "devices").GetProperty("says").GetString()!.ShouldEndWith("Pim answers for it: sold without it");
        (await _runs.SayAsync(run, "done", "prove.probe")).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        run = await (await _runs.SayAsync(run, "stopped", "prove.probe", new { text = "memory is gone" })).JsonAsync();
        run = await (await _runs.SayAsync(run, "resumed", "prove.probe")).JsonAsync();
        await Bring(whole, 2);
        run = await (await _runs.SayAsync(run, "done", "prove.probe")).JsonAsync();
        Line(run, "memory").GetProperty("proof").GetString().ShouldBe("proved");
        Line(run, "devices").GetProperty("proof").GetString().ShouldBe("proved");

        async Task Bring(SimulatedMachine machine, int hour) =>
            (
                await _client.PostAsync(
                    "/api/machines/MR-0813/bundles",
                    TestWorkshop.Form(
                        null,
                        ("b.tar.gz", SimulatedProbe.Bundle(machine, DateTimeOffset.UnixEpoch.AddHours(hour), code))
                    )
                )
            ).EnsureSuccessStatusCode();
        static JsonElement Line(JsonElement run, string id) =>
            run.GetProperty("acceptance").EnumerateArray().Single(l => l.GetProperty("id").GetString() == id);
    }

    [Fact]
    public async Task A_machine_that_comes_back_opens_with_what_it_left_with_and_nothing_is_begun_by_the_leave_of_before()
    {
        (await _client.GetAsync("/api/machines/MR-0816/stay")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        var run = await _runs.UntilAsync(await _runs.BeginAsync("MR-0816"));
        (await _client.GetAsync("/api/machines/MR-0816/stay")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await Left(false)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await Left(true)).EnsureSuccessStatusCode();
        var away = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0816/stay");
        away.GetProperty("backAt").ValueKind.ShouldBe(JsonValueKind.Null);
        away.GetProperty("run").GetString().ShouldBe(run.GetProperty("id").GetString());
        away.GetProperty("system").GetString().ShouldBe("Tessaly 6, release 2");
        away.GetProperty("asks").GetArrayLength().ShouldBe(0);
        // What the owner read, in the words of the sheet.
        away.GetProperty("told").EnumerateArray().ShouldContain(t => t.GetString()!.Contains("(encryption)"));

        var unsaid = await _runs.PostRunAsync("MR-0816", await _runs.RouteAsync("MR-0816", "tessaly-6-r2", "patch"));
        unsaid.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await unsaid.Content.ReadAsStringAsync()).ShouldContain("It has left the shop.");
        (await RunAsync()).ValueKind.ShouldBe(JsonValueKind.Object);

        (await Left(false)).EnsureSuccessStatusCode();
        (await Left(false)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        // The run with which it left is history: nothing is begun on it.
        (await RunAsync()).ValueKind.ShouldBe(JsonValueKind.Null);
        var back = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0816/stay");
        back.GetProperty("backBy").GetString().ShouldBe("Pim");
        back.GetProperty("begun").GetBoolean().ShouldBeFalse();
        string[] asked = ["Owner's leave", "The owner's data", "Battery"];
        asked.ShouldBeSubsetOf(Labels(back));

        // The drive holds what its owner has written since: no route of it may be begun until they were asked.
        var route = await _runs.RouteAsync("MR-0816", "tessaly-6-r2", "patch");
        var begun = await _runs.PostRunAsync("MR-0816", route);
        begun.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await begun.Content.ReadAsStringAsync()).ShouldContain("leave", Case.Insensitive);
        // What was said before stays in the history.
        var said = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0816/facts/release.data/history");
        said.EnumerateArray().ShouldContain(r => r.GetProperty("value").ToString() == "not-wanted");

        async Task<JsonElement> RunAsync() =>
            (await _client.GetFromJsonAsync<JsonElement>("/api/machines?find=MR-0816"))[0].GetProperty("run");
        async Task<HttpResponseMessage> Left(bool left) =>
            await _client.PutAsJsonAsync("/api/machines/MR-0816/left", new { left, by = "Pim" });
        static string?[] Labels(JsonElement stay) =>
            [.. stay.GetProperty("asks").EnumerateArray().Select(a => a.GetString())];
    }

    [Fact]
    public async Task What_an_update_did_to_the_canary_reaches_the_owner_and_nothing_before_it_was_tried()
    {
        await _runs.UntilAsync(await _runs.BeginAsync("MR-0814"));
        await _runs.EnterAsync("MR-0814", "handover.language", "de");
        (
            await _client.PutAsJsonAsync("/api/machines/MR-0814/left", new { left = true, by = "Pim" })
        ).EnsureSuccessStatusCode();
        (await Watched()).GetProperty("canary").ValueKind.ShouldBe(JsonValueKind.Null);

        await _runs.UntilAsync(await _runs.BeginAsync("MR-0815"));
        await _runs.EnterAsync("MR-0815", "upkeep.canary", "yes");
        var watched = await Watched();
        watched.GetProperty("canary").GetProperty("tag").GetString().ShouldBe("MR-0815");
        Owner(watched).GetProperty("letter").ValueKind.ShouldBe(JsonValueKind.Null);

        (
            await _client.PutAsJsonAsync(
                "/api/machines/MR-0815/facts/upkeep.verdict",
                new
                {
                    value = "again",
                    source = "update of January",
                    by = "Wen",
                }
            )
        ).EnsureSuccessStatusCode();
        watched = await Watched();
        watched.GetProperty("canary").GetProperty("last").GetProperty("by").GetString().ShouldBe("Wen");
        var letter = Owner(watched).GetProperty("letter").GetString()!;
        letter.ShouldContain("MR-0814");
        letter.ShouldContain("update of January");
        letter.ShouldContain("Sie nimmt zurück, was geändert wurde.");

        async Task<JsonElement> Watched() =>
            (await _client.GetFromJsonAsync<JsonElement>("/api/canaries"))
                .EnumerateArray()
                .Single(w =>
                    w.GetProperty("what").GetString()!.EndsWith("Lift the installer's gates", StringComparison.Ordinal)
                );
        static JsonElement Owner(JsonElement watched) => watched.GetProperty("owners").EnumerateArray().Single();
    }

    [Fact]
    public async Task A_run_does_not_begin_while_the_release_rung_is_open_or_the_route_no_longer_fits_or_another_is_under_way()
    {
        await _runs.MachineAsync("MR-0802", released: false);
        var route = await _runs.RouteAsync("MR-0802", "tessaly-6-r2", "patch");
        await ShouldConflict(await _runs.PostRunAsync("MR-0802", route));

        await _runs.BeginAsync("MR-0803");
        await ShouldConflict(
            await _runs.PostRunAsync("MR-0803", await _runs.RouteAsync("MR-0803", "wickerwork-26", "comply"))
        );

        await _runs.MachineAsync("MR-0804");
        var stale = await _runs.RouteAsync("MR-0804", "tessaly-6-r2", "patch");
        await _runs.EnterAsync("MR-0804", "tpm.version", "off");
        await _runs.EnterAsync("MR-0804", "parts.battery", "swollen");
        await ShouldConflict(await _runs.PostRunAsync("MR-0804", stale));
        await ShouldConflict(
            await _client.GetAsync($"/api/machines/MR-0804/routes/{stale.GetProperty("id").GetString()}/files")
        );
    }

    [Fact]
    public async Task Events_out_of_order_twice_or_for_another_step_change_nothing()
    {
        var run = await _runs.BeginAsync("MR-0805");
        await ShouldConflict(await _runs.SayAsync(run, "done", "erase-drive.erase"));
        await ShouldConflict(await _runs.SayAsync(run, "done", First(run), seq: 3));

        var once = await _runs.SayAsync(run, "done", First(run), eventId: "e-1");
        var again = await _runs.SayAsync(run, "done", First(run), eventId: "e-1");
        (await again.Content.ReadAsStringAsync()).ShouldBe(await once.Content.ReadAsStringAsync());
        await ShouldConflict(await _runs.SayAsync(run, "note", First(run), eventId: "e-1"));
        (await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{run.GetProperty("id").GetString()}"))
            .GetProperty("seq")
            .GetInt32()
            .ShouldBe(1);
    }

    [Fact]
    public async Task A_danger_step_wants_the_tag_and_a_measurement_the_second_probe()
    {
        var run = await _runs.UntilAsync(await _runs.BeginAsync("MR-0806"), until: "erase-drive.erase");
        await ShouldConflict(await _runs.SayAsync(run, "done", "erase-drive.erase"));
        await ShouldConflict(await _runs.SayAsync(run, "done", "erase-drive.erase", new { tag = "MR-0800" }));

        run = await _runs.UntilAsync(await _runs.BeginAsync("MR-0807"), until: "prove.probe");
        await ShouldConflict(await _runs.SayAsync(run, "done", "prove.probe"));
        await ShouldConflict(await _client.GetAsync("/api/machines/MR-0807/handover"));
    }

    [Fact]
    public async Task A_step_that_many_take_at_once_is_taken_once()
    {
        var run = await _runs.BeginAsync("MR-0808");
        var answers = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => _runs.SayAsync(run, "done", First(run))));

        answers.Count(a => a.StatusCode == HttpStatusCode.OK).ShouldBe(1);
        answers.Count(a => a.StatusCode == HttpStatusCode.Conflict).ShouldBe(7);
    }

    [Theory]
    [InlineData("UPDATE run_events SET \"By\" = 'Odalys' WHERE Seq = 2", 2)]
    [InlineData("DELETE FROM run_events WHERE Seq = 1", 1)]
    [InlineData("DELETE FROM run_events WHERE Seq = 3", 3)]
    public async Task A_changed_or_removed_row_is_reported_as_a_broken_chain(string sql, int at)
    {
        var run = await _runs.BeginAsync("MR-0809");
        for (var i = 0; i < 3; i++)
        {
            var step = run.GetProperty("steps")[i];
            run = await (
                await _runs.SayAsync(
                    run,
                    "done",
                    step.GetProperty("id").GetString()!,
                    new { tag = "MR-0809", despite = RunDriver.Elsewhere }
                )
            ).JsonAsync();
        }
        await using (
            var connection = new SqliteConnection($"Data Source={Path.Combine(_workshop.Data, "fresh-boot.db")}")
        )
        {
            await connection.OpenAsync();
            await using var command = connection.CreateCommand();
            command.CommandText = sql;
            (await command.ExecuteNonQueryAsync()).ShouldBe(1);
        }

        var now = await _client.GetFromJsonAsync<JsonElement>($"/api/runs/{run.GetProperty("id").GetString()}");
        now.GetProperty("chain").GetString().ShouldBe($"broken at event {at}");
        await ShouldConflict(
            await _runs.SayAsync(run, "done", run.GetProperty("steps")[3].GetProperty("id").GetString()!)
        );
        await ShouldConflict(await _client.GetAsync("/api/machines/MR-0809/handover"));
    }

    [Fact]
    public async Task Open_pages_are_told_what_changed_within_a_second()
    {
        var run = await _runs.BeginAsync("MR-0810");
        using var stream = await _client.GetStreamAsync("/api/events");
        using var reader = new StreamReader(stream);
        await _runs.SayAsync(run, "done", First(run));

        using var soon = new CancellationTokenSource(TimeSpan.FromSeconds(1));
        string? line;
        do line = await reader.ReadLineAsync(soon.Token);
        while (line is not null && !line.StartsWith("event: change", StringComparison.Ordinal));
        line.ShouldNotBeNull();
    }

    [Fact]
    public async Task What_was_done_stays_what_was_done_when_the_catalogue_moves_on()
    {
        await _runs.UntilAsync(await _runs.BeginAsync("MR-0811"));
        var before = await _client.GetStringAsync("/api/machines/MR-0811/handover");

        // The same data under a catalogue that does not know the recipe any more.
        var packs = Directory.CreateDirectory(Path.Combine(_workshop.Data, "later", "catalogue", "packs")).FullName;
        var schemas = Directory.CreateDirectory(Path.Combine(_workshop.Data, "later", "catalogue", "schemas")).FullName;
        var catalogue = Path.Combine(TestWorkshop.Home, "catalogue");
        File.Copy(Path.Combine(catalogue, "schemas", "pack.schema.json"), Path.Combine(schemas, "pack.schema.json"));
        var words = Directory.CreateDirectory(Path.Combine(_workshop.Data, "later", "catalogue", "words")).FullName;
        File.Copy(Path.Combine(catalogue, "words", "en.json"), Path.Combine(words, "en.json"));
        foreach (
            var pack in Directory
                .GetFiles(Path.Combine(catalogue, "packs"))
                .Where(p => Path.GetFileName(p) is not ("workshop.json" or "procedures.json"))
        )
            File.Copy(pack, Path.Combine(packs, Path.GetFileName(pack)));
        // A copy of the folder: one process holds the one that is in use.
        var copy = Directory.CreateTempSubdirectory("fresh-boot-later-").FullName;
        foreach (
            var file in Directory
                .GetFiles(_workshop.Data, "*", SearchOption.AllDirectories)
                .Where(f => Path.GetFileName(f) != FolderLock.FileName)
        )
        {
            var target = Path.Combine(copy, Path.GetRelativePath(_workshop.Data, file));
            Directory.CreateDirectory(Path.GetDirectoryName(target)!);
            File.Copy(file, target);
        }
        await using var later = new TestWorkshop { Data = copy, Place = Path.Combine(copy, "later") };
        var after = JsonDocument
            .Parse(await later.CreateClient().GetStringAsync("/api/machines/MR-0811/handover"))
            .RootElement;

        var first = JsonDocument.Parse(before).RootElement;
        after.GetProperty("changed")[0].GetProperty("what").GetString().ShouldBe("Lift the installer's gates");
        after.GetProperty("toKnow").GetRawText().ShouldBe(first.GetProperty("toKnow").GetRawText());
        after.GetProperty("acceptance").GetRawText().ShouldBe(first.GetProperty("acceptance").GetRawText());
    }
}
