using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace FreshBoot.Server.Tests;

/// <summary>The editor: what an edit would do, what it did, and what is refused.</summary>
public class CatalogueTests
{
    private static async Task<JsonObject> EntryAsync(HttpClient client, string kind, string id) =>
        JsonNode.Parse(await client.GetStringAsync($"/api/catalogue/{kind}/{id}"))!["entry"]!.AsObject();

    private static Task<HttpResponseMessage> PutAsync(
        HttpClient client,
        string kind,
        string id,
        JsonNode? entry,
        int version = 0
    ) =>
        client.PutAsJsonAsync(
            $"/api/catalogue/{kind}/{id}",
            new
            {
                entry = entry?.DeepClone(),
                version,
                by = "Odalys Brandt",
                reason = "tried it",
            }
        );

    private static async Task<Dictionary<(string Tag, string System), string>> OutcomesAsync(HttpClient client)
    {
        var matrix = await client.GetFromJsonAsync<JsonElement>("/api/matrix");
        var systems = matrix
            .GetProperty("systems")
            .EnumerateArray()
            .Select(s => s.GetProperty("id").GetString()!)
            .ToArray();
        return matrix
            .GetProperty("machines")
            .EnumerateArray()
            .SelectMany(m =>
                m.GetProperty("outcomes")
                    .EnumerateArray()
                    .Select((o, i) => (Key: (m.GetProperty("tag").GetString()!, systems[i]), Outcome: o.GetString()!))
            )
            .ToDictionary(x => x.Key, x => x.Outcome);
    }

    [Fact]
    public async Task What_the_preview_shows_is_what_saving_does_and_going_back_undoes_it()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        var before = await OutcomesAsync(client);
        var version = 0;
        foreach (var (id, change) in Edits)
        {
            var entry = await EntryAsync(client, "systems", id);
            change(entry);
            var now = await OutcomesAsync(client);
            var preview = await (
                await client.PostAsJsonAsync(
                    "/api/catalogue/preview",
                    new
                    {
                        kind = "systems",
                        id,
                        entry,
                    }
                )
            ).Content.ReadFromJsonAsync<JsonElement>();
            preview.GetProperty("faults").GetArrayLength().ShouldBe(0, preview.ToString());
            (await OutcomesAsync(client)).ShouldBe(now, "a preview stores nothing");

            (await PutAsync(client, "systems", id, entry)).StatusCode.ShouldBe(HttpStatusCode.OK);
            var after = await OutcomesAsync(client);
            var changed = after.Where(o => now.GetValueOrDefault(o.Key) != o.Value).ToDictionary();
            changed.ShouldNotBeEmpty();
            preview
                .GetProperty("changes")
                .EnumerateArray()
                .ToDictionary(
                    c => (c.GetProperty("tag").GetString()!, c.GetProperty("system").GetString()!),
                    c => c.GetProperty("to").GetString()!
                )
                .ShouldBe(changed, ignoreOrder: true);
            version++;
        }

        // Each goes back to the entry as it ships, as a further version.
        foreach (var (id, _) in Edits)
        {
            var shipped = JsonNode.Parse(await client.GetStringAsync($"/api/catalogue/systems/{id}"))!["shipped"];
            (await PutAsync(client, "systems", id, shipped, 1)).EnsureSuccessStatusCode();
        }
        (await OutcomesAsync(client)).ShouldBe(before);
        var sheet = await client.GetFromJsonAsync<JsonElement>("/api/catalogue/systems/wickerwork-26");
        sheet
            .GetProperty("versions")
            .EnumerateArray()
            .Select(v => v.GetProperty("by").GetString())
            .ShouldBe(["Odalys Brandt", "Odalys Brandt"]);
    }

    [Fact]
    public async Task On_random_edits_the_fleet_becomes_what_the_preview_showed()
    {
        var seed = Random.Shared.Next();
        var random = new Random(seed);
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        var versions = new Dictionary<string, int>(StringComparer.Ordinal);
        var moved = 0;
        for (var i = 0; i < 25; i++)
        {
            var systems = (await client.GetFromJsonAsync<JsonElement>("/api/systems")).EnumerateArray().ToArray();
            var id = systems[random.Next(systems.Length)].GetProperty("id").GetString()!;
            var entry = await EntryAsync(client, "systems", id);
            Change(entry, random);
            var before = await OutcomesAsync(client);
            var preview = await (
                await client.PostAsJsonAsync(
                    "/api/catalogue/preview",
                    new
                    {
                        kind = "systems",
                        id,
                        entry,
                    }
                )
            ).Content.ReadFromJsonAsync<JsonElement>();
            var version = versions.GetValueOrDefault(id);
            var saved = await PutAsync(client, "systems", id, entry, version);
            if (preview.GetProperty("faults").GetArrayLength() > 0)
            {
                saved.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, $"seed {seed}, edit {i}");
                (await OutcomesAsync(client)).ShouldBe(before, $"seed {seed}, edit {i}");
                continue;
            }
            saved.EnsureSuccessStatusCode();
            versions[id] = version + 1;
            var after = await OutcomesAsync(client);
            var told = preview
                .GetProperty("changes")
                .EnumerateArray()
                .ToDictionary(
                    c => (c.GetProperty("tag").GetString()!, c.GetProperty("system").GetString()!),
                    c => (c.GetProperty("from").GetString()!, c.GetProperty("to").GetString()!)
                );
            after
                .Where(o => before[o.Key] != o.Value)
                .ToDictionary(o => o.Key, o => (before[o.Key], o.Value))
                .ShouldBe(told, ignoreOrder: true, customMessage: $"seed {seed}, edit {i}, {id}");
            moved += told.Count;
        }
        moved.ShouldBeGreaterThan(0, $"seed {seed}");
    }

    /// <summary>A threshold, a day, or a requirement gone, as somebody at the editor would.</summary>
    private static void Change(JsonObject system, Random random)
    {
        var requirements = system["requirements"]!.AsArray();
        var one = requirements[random.Next(requirements.Count)]!;
        switch (random.Next(4))
        {
            case 0:
                system["supportEnds"] = $"{random.Next(2026, 2033)}-0{random.Next(1, 10)}-15";
                break;
            case 1 when requirements.Count > 2:
                requirements.Remove(one);
                break;
            case 2:
                one["kind"] = one["kind"]!.ToString() == "comfort" ? "runtime" : "comfort";
                break;
            default:
                one["needs"] = new JsonObject
                {
                    ["fact"] = "memory.installedMiB",
                    ["atLeast"] = 512 << random.Next(0, 7),
                };
                break;
        }
    }

    private static readonly (string Id, Action<JsonObject> Change)[] Edits =
    [
        ("wickerwork-26", e => e["supportEnds"] = "2027-03-01"),
        ("plover-light-5", e => Requirement(e, "memory-comfort")["needs"]!["atLeast"] = 65536),
        ("tessaly-6-r2", e => e["requirements"]!.AsArray().Remove(Requirement(e, "level"))),
    ];

    private static JsonObject Requirement(JsonObject system, string id) =>
        system["requirements"]!.AsArray().Single(r => r!["id"]!.ToString() == id)!.AsObject();

    [Fact]
    public async Task A_system_of_the_shops_own_is_judged_at_once_and_after_a_restart()
    {
        var workshop = new TestWorkshop { Demo = true, Keeps = true };
        var client = workshop.CreateClient();
        var entry = await EntryAsync(client, "systems", "plover-light-5");
        entry["id"] = "heron-2";
        entry["name"] = "Heron 2";
        (await PutAsync(client, "systems", "heron-2", entry)).EnsureSuccessStatusCode();

        (await OutcomesAsync(client)).Keys.ShouldContain(k => k.System == "heron-2");
        (await client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0405/systems"))
            .EnumerateArray()
            .ShouldContain(a => a.GetProperty("system").GetString() == "heron-2");

        await workshop.DisposeAsync();
        await using var again = new TestWorkshop { Data = workshop.Data, Demo = true };
        (await OutcomesAsync(again.CreateClient())).Keys.ShouldContain(k => k.System == "heron-2");
        (await PutAsync(again.CreateClient(), "systems", "heron-2", null, 1)).EnsureSuccessStatusCode();
        (await OutcomesAsync(again.CreateClient())).Keys.ShouldNotContain(k => k.System == "heron-2");
    }

    public static TheoryData<string, string, string, string, string> Faulty =>
        new()
        {
            { "cures", "tpm-module", "money", "\"dear\"", "/money" },
            { "programs", "oriel", "systems", """["tessaly-9"]""", "/systems/0" },
            { "cures", "firmware-update", "after", """["drive-sata-240"]""", "/after" },
            { "systems", "wickerwork-26", "supportEnds", "\"2024-01-31\"", "/supportEnds" },
            { "systems", "tessaly-5", "inPlace", """[{ "from": "tessaly-6-r1", "keeps": ["files"] }]""", "/inPlace" },
        };

    [Theory]
    [MemberData(nameof(Faulty))]
    public async Task A_fault_is_refused_with_its_place_and_the_old_catalogue_stays(
        string kind,
        string id,
        string member,
        string json,
        string at
    )
    {
        await using var workshop = new TestWorkshop();
        var client = workshop.CreateClient();
        var hash = (await client.GetFromJsonAsync<JsonElement>("/api/health")).GetProperty("catalogue").GetString();
        var entry = await EntryAsync(client, kind, id);
        entry[member] = JsonNode.Parse(json);

        var preview = await (
            await client.PostAsJsonAsync(
                "/api/catalogue/preview",
                new
                {
                    kind,
                    id,
                    entry,
                }
            )
        ).Content.ReadFromJsonAsync<JsonElement>();
        preview.GetProperty("faults").EnumerateArray().ShouldContain(f => f.GetProperty("pointer").GetString() == at);

        var refused = await PutAsync(client, kind, id, entry);
        refused.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await refused.Content.ReadFromJsonAsync<JsonElement>())
            .GetProperty("faults")
            .EnumerateArray()
            .ShouldContain(f =>
                f.GetProperty("pointer").GetString() == at && f.GetProperty("file").GetString() == $"{kind}/{id}"
            );
        (await client.GetFromJsonAsync<JsonElement>("/api/health")).GetProperty("catalogue").GetString().ShouldBe(hash);
    }

    [Fact]
    public async Task Two_who_change_an_entry_at_once_do_not_write_over_each_other()
    {
        await using var workshop = new TestWorkshop();
        var client = workshop.CreateClient();
        var entry = await EntryAsync(client, "prices", "hour");
        var answers = await Task.WhenAll(
            Enumerable
                .Range(1, 6)
                .Select(i =>
                {
                    var mine = entry.DeepClone();
                    mine["money"] = 1800 + i;
                    return PutAsync(client, "prices", "hour", mine);
                })
        );

        answers.Count(a => a.StatusCode == HttpStatusCode.OK).ShouldBe(1);
        answers.Count(a => a.StatusCode == HttpStatusCode.Conflict).ShouldBe(5);
    }

    [Fact]
    public async Task A_pack_is_looked_at_first_and_taken_whole_or_not_at_all()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        var pack = JsonNode.Parse(await client.GetStringAsync("/api/catalogue/export?pack=wickerwork.json"))!;
        pack["systems"]![0]!["supportEnds"] = "2027-03-01";

        async Task<(HttpStatusCode Status, JsonElement Body)> Import(bool dryRun)
        {
            using var body = new StringContent(pack.ToJsonString());
            var answer = await client.PostAsync($"/api/catalogue/import?dryRun={dryRun}&by=Pim", body);
            return (answer.StatusCode, await answer.Content.ReadFromJsonAsync<JsonElement>());
        }

        var looked = await Import(true);
        looked.Body.GetProperty("differences").GetArrayLength().ShouldBe(1);
        looked.Body.GetProperty("changes").GetArrayLength().ShouldBeGreaterThan(3);
        (await EntryAsync(client, "systems", "wickerwork-26"))["supportEnds"]!.ToString().ShouldBe("2031-04-30");

        (await Import(false)).Status.ShouldBe(HttpStatusCode.OK);
        (await EntryAsync(client, "systems", "wickerwork-26"))["supportEnds"]!.ToString().ShouldBe("2027-03-01");

        pack["systems"]![0]!["supportEnds"] = "2028-03-01";
        pack["systems"]![0]!["requirements"]![0]!["rung"] = "cellar";
        (await Import(false)).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await EntryAsync(client, "systems", "wickerwork-26"))["supportEnds"]!.ToString().ShouldBe("2027-03-01");
    }

    [Theory]
    [InlineData("GET", "/api/catalogue/doors", HttpStatusCode.NotFound)]
    [InlineData("GET", "/api/catalogue/systems/none", HttpStatusCode.NotFound)]
    [InlineData("GET", "/api/catalogue/export?pack=none.json", HttpStatusCode.NotFound)]
    public async Task What_is_not_there_is_told(string method, string path, HttpStatusCode status)
    {
        await using var workshop = new TestWorkshop();
        using var request = new HttpRequestMessage(new HttpMethod(method), path);

        (await workshop.CreateClient().SendAsync(request)).StatusCode.ShouldBe(status);
    }
}
