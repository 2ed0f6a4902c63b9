using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests;

/// <summary>A further probe is taken only where it is one of this machine, and can be taken back.</summary>
public sealed class SameMachineTests : IDisposable
{
    private const string Tag = "MR-0861";
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;

    public SameMachineTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private static byte[] Bundle(SimulatedMachine machine, int hour = 15) =>
        SimulatedProbe.Bundle(machine, new DateTimeOffset(2026, 12, 3, hour, 0, 0, TimeSpan.Zero));

    private async Task TakeInAsync(string tag, SimulatedMachine? machine = null) =>
        (
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(tag, ("a.tar.gz", Bundle(machine ?? TestWorkshop.Stile(tag), 12)))
            )
        ).EnsureSuccessStatusCode();

    private Task<HttpResponseMessage> AgainAsync(SimulatedMachine machine, string? sameBy = null)
    {
        var form = TestWorkshop.Form(null, ("b.tar.gz", Bundle(machine)));
        if (sameBy is not null)
            form.Add(new StringContent(sameBy), "sameBy");
        return _client.PostAsync($"/api/machines/{Tag}/bundles", form);
    }

    private async Task<JsonElement> MachineAsync() =>
        await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}");

    [Fact]
    public async Task The_probe_of_another_machine_is_refused_and_named_and_changes_nothing()
    {
        await TakeInAsync(Tag);
        var other = TestWorkshop.Stile("MR-0862") with { Serial = "BW-14C8-2" };
        await TakeInAsync("MR-0862", other);
        var before = (await MachineAsync()).GetRawText();

        var answer = await AgainAsync(other, sameBy: "Pim");

        answer.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var problem = await answer.JsonAsync();
        problem.GetProperty("detail").GetString()!.ShouldContain("BW-14C8-2, and it was BW-14C8-1");
        problem.GetProperty("whose").GetString().ShouldBe("MR-0862");
        problem.GetProperty("mayBe").ValueKind.ShouldBe(JsonValueKind.Null);
        (await MachineAsync()).GetRawText().ShouldBe(before);
    }

    [Fact]
    public async Task Where_something_differs_a_person_says_what_was_changed()
    {
        await TakeInAsync(Tag);
        var repaired = TestWorkshop.Stile(Tag) with { BoardSerial = "NEW-BOARD" };

        var asked = await AgainAsync(repaired);
        asked.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await asked.JsonAsync()).GetProperty("mayBe").GetString().ShouldBe("another board");

        (await AgainAsync(repaired, sameBy: "Odalys")).StatusCode.ShouldBe(HttpStatusCode.OK);
        var machine = await MachineAsync();
        machine.FactText("identity.boardSerial").ShouldBe("NEW-BOARD");
        machine.Fact("identity.looked")!.Value.GetProperty("by").GetString().ShouldBe("Odalys");
    }

    [Fact]
    public async Task A_probe_that_was_taken_back_counts_for_nothing_and_stays_in_the_history()
    {
        await TakeInAsync(Tag);
        var before = await MachineAsync();
        (await AgainAsync(TestWorkshop.Stile(Tag) with { Slots = [new(4096), new(8192)] })).EnsureSuccessStatusCode();
        await _client.PutAsJsonAsync(
            $"/api/machines/{Tag}/facts/parts.battery",
            new
            {
                value = "sound",
                source = "seen",
                by = "Pim",
            }
        );
        (await MachineAsync()).FactText("memory.installedMiB").ShouldBe("12288");
        var probes = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/bundles");
        probes.GetArrayLength().ShouldBe(2);
        var path = $"/api/machines/{Tag}/bundles/{probes[0].GetProperty("id").GetInt64()}/take-back";

        var after = await (await _client.PostAsJsonAsync(path, new { by = "Pim" })).JsonAsync();

        after[0].GetProperty("takenBackBy").GetString().ShouldBe("Pim");
        var machine = await MachineAsync();
        machine.FactText("memory.installedMiB").ShouldBe(before.FactText("memory.installedMiB"));
        machine.FactText("parts.battery").ShouldBe("sound");
        machine.GetProperty("version").GetInt32().ShouldBeGreaterThan(before.GetProperty("version").GetInt32());
        var history = await _client.GetFromJsonAsync<JsonElement>(
            $"/api/machines/{Tag}/facts/memory.installedMiB/history"
        );
        history[0].GetProperty("takenBackBy").GetString().ShouldBe("Pim");
        (await _client.PostAsJsonAsync(path, new { by = "Pim" })).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (
            await _client.PostAsJsonAsync($"/api/machines/{Tag}/bundles/999/take-back", new { by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_foreign_probe_that_comes_by_code_waits_until_somebody_says_whose_it_is()
    {
        await TakeInAsync(Tag);
        var given = await (await _client.PostAsync($"/api/probe-codes?tag={Tag}", null)).JsonAsync();
        using var body = new ByteArrayContent(Bundle(TestWorkshop.Stile("MR-0863") with { Serial = "BW-14C8-3" }));
        var taken = await (
            await _client.PostAsync($"/api/probe/{given.GetProperty("code").GetString()}", body)
        ).JsonAsync();
        taken.GetProperty("tag").ValueKind.ShouldBe(JsonValueKind.Null);
        taken.GetProperty("warnings")[0].GetString()!.ShouldContain($"does not look like {Tag}");
        var arrival = taken.GetProperty("arrival").GetInt32();
        (
            await _client.PostAsJsonAsync(
                $"/api/arrivals/{arrival}/take",
                new
                {
                    tag = Tag,
                    by = "Pim",
                    same = true,
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (
            await _client.PostAsJsonAsync($"/api/arrivals/{arrival}/take", new { tag = "MR-0863", by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_word_that_was_wrong_is_taken_back_and_its_question_comes_again()
    {
        await TakeInAsync(Tag);
        await SayAsync("release.owner", "given");
        await SayAsync("memory.installedMiB", "16 GiB");
        (await QuestionAsync()).ShouldNotBe("owner");

        var back = await BackAsync("release.owner");
        back.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await back.JsonAsync()).Fact("release.owner").ShouldBeNull();
        (await QuestionAsync()).ShouldBe("owner");
        (await BackAsync("release.owner")).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        // What a probe says stands again, and a probe that is taken back later brings no word back.
        (await (await BackAsync("memory.installedMiB")).JsonAsync())
            .FactText("memory.installedMiB")
            .ShouldBe("4096");
        (await AgainAsync(TestWorkshop.Stile(Tag))).EnsureSuccessStatusCode();
        var probes = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/bundles");
        await _client.PostAsJsonAsync(
            $"/api/machines/{Tag}/bundles/{probes[0].GetProperty("id").GetInt64()}/take-back",
            new { by = "Pim" }
        );
        (await MachineAsync()).Fact("release.owner").ShouldBeNull();
        var history = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/facts/release.owner/history");
        history.GetArrayLength().ShouldBe(2);
        history[0].GetProperty("value").ValueKind.ShouldBe(JsonValueKind.Null);

        Task<HttpResponseMessage> BackAsync(string key) =>
            _client.PostAsJsonAsync($"/api/machines/{Tag}/facts/{key}/take-back", new { by = "Pim" });

        async Task SayAsync(string key, string value) =>
            (
                await _client.PutAsJsonAsync(
                    $"/api/machines/{Tag}/facts/{key}",
                    new
                    {
                        value,
                        source = "chosen",
                        by = "Pim",
                    }
                )
            ).EnsureSuccessStatusCode();

        async Task<string?> QuestionAsync() =>
            (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/release"))
                .GetProperty("question")
                .GetProperty("id")
                .GetString();
    }

    [Fact]
    public async Task Two_machines_change_bays_at_once()
    {
        await TakeInAsync(Tag);
        await TakeInAsync("MR-0862", TestWorkshop.Stile("MR-0862") with { Serial = "BW-14C8-2" });
        await PlaceAsync(Tag, 1, false);
        await PlaceAsync("MR-0862", 2, false);
        (await PlaceAsync(Tag, 2, false)).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        (await PlaceAsync(Tag, 2, true)).StatusCode.ShouldBe(HttpStatusCode.OK);

        var bays = (await _client.GetFromJsonAsync<JsonElement>("/api/machines"))
            .EnumerateArray()
            .ToDictionary(m => m.GetProperty("tag").GetString()!, m => m.GetProperty("bay").GetInt32());
        bays.ShouldBe(new Dictionary<string, int> { [Tag] = 2, ["MR-0862"] = 1 }, ignoreOrder: true);

        Task<HttpResponseMessage> PlaceAsync(string tag, int bay, bool swap) =>
            _client.PutAsJsonAsync(
                $"/api/machines/{tag}/bay",
                new
                {
                    bay,
                    by = "Pim",
                    swap,
                }
            );
    }
}
