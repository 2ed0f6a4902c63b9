using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Microsoft.Data.Sqlite;

namespace FreshBoot.Server.Tests;

public sealed class ApiTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;

    public ApiTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private Task<HttpResponseMessage> Import(string tag) =>
        _client.PostAsync("/api/machines/import", TestWorkshop.BundleOf(tag));

    private Task<HttpResponseMessage> Enter(
        string tag,
        string key,
        object? value,
        string source = "seen",
        string by = "Pim"
    ) =>
        _client.PutAsJsonAsync(
            $"/api/machines/{tag}/facts/{key}",
            new
            {
                value,
                source,
                by,
            }
        );

    private async Task<JsonElement> Get(string path) => await _client.GetFromJsonAsync<JsonElement>(path);

    private static async Task ShouldRefuse(HttpResponseMessage answer, HttpStatusCode status)
    {
        answer.StatusCode.ShouldBe(status);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        var problem = await answer.JsonAsync();
        problem.GetProperty("detail").GetString().ShouldNotBeNullOrWhiteSpace();
        problem.GetProperty("where").GetString().ShouldNotBeNullOrWhiteSpace();
        problem.GetProperty("wanted").GetString().ShouldNotBeNullOrWhiteSpace();
    }

    private long Count(string table)
    {
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(_workshop.Data, "fresh-boot.db")};Mode=ReadOnly"
        );
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT COUNT(*) FROM {table}";
        return (long)command.ExecuteScalar()!;
    }

    [Fact]
    public async Task Health_tells_version_time_and_catalogue()
    {
        var health = await Get("/api/health");

        health.GetProperty("status").GetString().ShouldBe("ok");
        health.GetProperty("catalogue").GetString()!.Length.ShouldBe(64);
    }

    [Fact]
    public async Task A_machine_is_taken_in_and_stands_in_the_list_with_its_ladder()
    {
        var answer = await Import("mr-0900");

        answer.StatusCode.ShouldBe(HttpStatusCode.Created);
        answer.Headers.Location!.ToString().ShouldBe("/api/machines/MR-0900");
        var taken = await answer.JsonAsync();
        taken.GetProperty("tag").GetString().ShouldBe("MR-0900");
        taken.FactText("cpu.level").ShouldBe("x86-64-v3");
        var memory = taken.Fact("memory.installedMiB")!.Value;
        memory.GetProperty("value").GetInt64().ShouldBe(4096);
        memory.GetProperty("unit").GetString().ShouldBe("MiB");
        memory.GetProperty("source").GetString().ShouldBe("smbios type 17");
        memory
            .GetProperty("takenAt")
            .GetDateTimeOffset()
            .ShouldBe(new DateTimeOffset(2026, 12, 3, 12, 0, 0, TimeSpan.Zero));
        taken
            .GetProperty("warnings")
            .EnumerateArray()
            .ShouldContain(w => w.GetString()!.StartsWith("tpm.txt is missing"));

        var listed = (await Get("/api/machines")).EnumerateArray().ShouldHaveSingleItem();
        listed.GetProperty("rungs").GetArrayLength().ShouldBe(10);
        listed.GetProperty("next").GetProperty("rung").GetString().ShouldBe("release");
    }

    [Fact]
    public async Task Every_system_has_ten_rungs_bottom_first_with_findings_in_numbers()
    {
        await Import("MR-0900");
        var tessaly = (await Get("/api/machines/MR-0900/systems")).System("tessaly-6-r2");

        tessaly
            .GetProperty("rungs")
            .EnumerateArray()
            .Select(r => r.GetProperty("rung").GetString())
            .ShouldBe([
                "release",
                "parts",
                "firmware",
                "medium",
                "setup",
                "disk",
                "kernel",
                "devices",
                "use",
                "upkeep",
            ]);
        var findings = tessaly.Rung("setup").GetProperty("findings").EnumerateArray().ToArray();
        var memory = findings.Single(f => f.GetProperty("requirement").GetString() == "memory-gate");
        memory.GetProperty("kind").GetString().ShouldBe("gate");
        memory.GetProperty("needed").GetString().ShouldBe("6 GiB");
        memory.GetProperty("found").GetString().ShouldBe("4 GiB in one of two slots");
        memory.GetProperty("outcome").GetString().ShouldBe("part");
        memory.GetProperty("cures")[0].GetProperty("money").GetInt32().ShouldBe(1400);
        var tpm = findings.Single(f => f.GetProperty("requirement").GetString() == "tpm");
        tpm.GetProperty("outcome").GetString().ShouldBe("unknown");
        tpm.GetProperty("undecidedBy")[0].GetString().ShouldBe("tpm.version");
    }

    [Fact]
    public async Task A_fact_entered_by_hand_changes_the_rung()
    {
        await Import("MR-0900");
        var answer = await Enter("MR-0900", "tpm.version", "off", "firmware set-up");

        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var fact = (await answer.JsonAsync()).Fact("tpm.version")!.Value;
        fact.GetProperty("origin").GetString().ShouldBe("entered");
        fact.GetProperty("by").GetString().ShouldBe("Pim");
        var tpm = (await Get("/api/machines/MR-0900/systems"))
            .System("tessaly-6-r2")
            .Rung("setup")
            .GetProperty("findings")
            .EnumerateArray()
            .Single(f => f.GetProperty("requirement").GetString() == "tpm");
        tpm.GetProperty("outcome").GetString().ShouldBe("setting");
    }

    [Fact]
    public async Task Sources_that_disagree_are_kept_until_a_person_chooses()
    {
        await Import("MR-0900");
        var entered = (await (await Enter("MR-0900", "memory.installedMiB", "8 GB")).JsonAsync())
            .Fact("memory.installedMiB")!
            .Value;
        entered.GetProperty("value").GetInt64().ShouldBe(4096, "what was probed wins over what was entered");
        entered.GetProperty("disagreeing")[0].GetProperty("value").GetInt64().ShouldBe(8192);

        var chosen = (await (await Enter("MR-0900", "memory.installedMiB", 8192, "chosen")).JsonAsync())
            .Fact("memory.installedMiB")!
            .Value;
        chosen.GetProperty("value").GetInt64().ShouldBe(8192);
        chosen.GetProperty("origin").GetString().ShouldBe("chosen");
    }

    [Fact]
    public async Task A_further_probe_goes_to_the_known_machine()
    {
        await Import("MR-0900");
        await Enter("MR-0900", "release.owner", "given");
        var more = TestWorkshop.Stile("MR-0900") with { Slots = [new(4096), new(4096)], Tpm = "2.0" };
        var bundle = FreshBoot.Workshop.Simulated.SimulatedProbe.Bundle(more, DateTimeOffset.UnixEpoch);

        var answer = await _client.PostAsync(
            "/api/machines/MR-0900/bundles",
            TestWorkshop.Form(null, ("b.tar.gz", bundle))
        );

        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var machine = await Get("/api/machines/MR-0900");
        machine.FactText("memory.installedMiB").ShouldBe("8192");
        machine.FactText("tpm.version").ShouldBe("2.0");
        machine.FactText("release.owner").ShouldBe("given");
        await ShouldRefuse(
            await _client.PostAsync("/api/machines/MR-9999/bundles", TestWorkshop.Form(null, ("b.tar.gz", bundle))),
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task Single_files_are_taken_too()
    {
        var sources = FreshBoot.Workshop.Simulated.SimulatedProbe.Sources(TestWorkshop.Stile("X"));
        var answer = await _client.PostAsync(
            "/api/machines/import",
            TestWorkshop.Form("MR-0901", ("cpu", sources["lscpu.json"]), ("meminfo.txt", sources["meminfo.txt"]))
        );

        answer.StatusCode.ShouldBe(HttpStatusCode.Created);
        (await answer.JsonAsync()).FactText("cpu.cores").ShouldBe("2");
    }

    public static TheoryData<string, byte[], HttpStatusCode> BadFiles()
    {
        var good = FreshBoot.Workshop.Simulated.SimulatedProbe.Bundle(
            TestWorkshop.Stile("X"),
            DateTimeOffset.UnixEpoch
        );
        return new()
        {
            { "hello.txt", "hello"u8.ToArray(), HttpStatusCode.UnprocessableEntity },
            { "empty.tar.gz", [], HttpStatusCode.UnprocessableEntity },
            { "cut.tar.gz", good[..(good.Length / 2)], HttpStatusCode.UnprocessableEntity },
            { "tail.tar.gz", good[..^4], HttpStatusCode.UnprocessableEntity },
            { "gzip-of-nothing.tar.gz", [0x1f, 0x8b, 8, 0], HttpStatusCode.UnprocessableEntity },
            { "lscpu.json", "{ \"lscpu\": [ {"u8.ToArray(), HttpStatusCode.UnprocessableEntity },
        };
    }

    [Theory]
    [MemberData(nameof(BadFiles))]
    public async Task What_cannot_be_read_is_refused_and_nothing_is_stored(
        string name,
        byte[] content,
        HttpStatusCode status
    )
    {
        await ShouldRefuse(
            await _client.PostAsync("/api/machines/import", TestWorkshop.Form("MR-0902", (name, content))),
            status
        );

        Count("machines").ShouldBe(0);
        Count("fact_history").ShouldBe(0);
        Directory.Exists(Path.Combine(_workshop.Data, "files")).ShouldBeFalse();
    }

    [Fact]
    public async Task One_bad_file_among_good_ones_stores_none_of_them()
    {
        var sources = FreshBoot.Workshop.Simulated.SimulatedProbe.Sources(TestWorkshop.Stile("X"));
        await ShouldRefuse(
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(
                    "MR-0902",
                    ("lscpu.json", sources["lscpu.json"]),
                    ("lsblk.json", "{ \"blockdevices\": ["u8.ToArray())
                )
            ),
            HttpStatusCode.UnprocessableEntity
        );

        Count("machines").ShouldBe(0);
    }

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("no tag at all!")]
    [InlineData("../../etc")]
    public async Task A_tag_that_is_none_is_refused(string? tag) =>
        await ShouldRefuse(
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(tag, ("meminfo.txt", "MemTotal: 1024000 kB\n"u8.ToArray()))
            ),
            HttpStatusCode.BadRequest
        );

    [Fact]
    public async Task No_file_a_bundle_among_files_and_a_body_of_another_kind_are_refused()
    {
        await ShouldRefuse(
            await _client.PostAsync("/api/machines/import", TestWorkshop.Form("MR-0903")),
            HttpStatusCode.BadRequest
        );
        var bundle = FreshBoot.Workshop.Simulated.SimulatedProbe.Bundle(
            TestWorkshop.Stile("X"),
            DateTimeOffset.UnixEpoch
        );
        await ShouldRefuse(
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(
                    "MR-0903",
                    ("a.tar.gz", bundle),
                    ("meminfo.txt", "MemTotal: 1024000 kB\n"u8.ToArray())
                )
            ),
            HttpStatusCode.BadRequest
        );
        await ShouldRefuse(
            await _client.PostAsync("/api/machines/import", new StringContent("{}", Encoding.UTF8, "application/json")),
            HttpStatusCode.NotFound
        );
        Count("machines").ShouldBe(0);
    }

    [Fact]
    public async Task A_tag_used_twice_is_refused_also_when_both_come_at_once()
    {
        var answers = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Import("MR-0904")));

        answers.Count(a => a.StatusCode == HttpStatusCode.Created).ShouldBe(1);
        foreach (var answer in answers.Where(a => a.StatusCode != HttpStatusCode.Created))
            await ShouldRefuse(answer, HttpStatusCode.Conflict);
        Count("machines").ShouldBe(1);
    }

    [Theory]
    [InlineData("memory.installedMiB", "8 kg", HttpStatusCode.BadRequest)]
    [InlineData("memory.installedMiB", 0, HttpStatusCode.BadRequest)]
    [InlineData("tpm.version", "3.0", HttpStatusCode.BadRequest)]
    [InlineData("tpm.version", null, HttpStatusCode.BadRequest)]
    [InlineData("tpm.versoin", "2.0", HttpStatusCode.NotFound)]
    public async Task A_fact_that_does_not_fit_is_refused_and_nothing_changes(
        string key,
        object? value,
        HttpStatusCode status
    )
    {
        await Import("MR-0905");
        var before = await Get("/api/machines/MR-0905");
        await ShouldRefuse(await Enter("MR-0905", key, value), status);

        (await Get("/api/machines/MR-0905"))
            .GetProperty("version")
            .GetInt32()
            .ShouldBe(before.GetProperty("version").GetInt32());
    }

    [Fact]
    public async Task A_fact_without_a_source_or_a_name_or_a_machine_is_refused()
    {
        await Import("MR-0905");
        await ShouldRefuse(await Enter("MR-0905", "tpm.version", "2.0", source: " "), HttpStatusCode.BadRequest);
        await ShouldRefuse(await Enter("MR-0905", "tpm.version", "2.0", by: ""), HttpStatusCode.BadRequest);
        await ShouldRefuse(await Enter("MR-0999", "tpm.version", "2.0"), HttpStatusCode.NotFound);
        await ShouldRefuse(
            await _client.PutAsync(
                "/api/machines/MR-0905/facts/tpm.version",
                new StringContent("{\"value\":", Encoding.UTF8, "application/json")
            ),
            HttpStatusCode.BadRequest
        );
        await ShouldRefuse(await _client.GetAsync("/api/machines/MR-0999"), HttpStatusCode.NotFound);
        await ShouldRefuse(await _client.GetAsync("/api/machines/MR-0999/systems"), HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Two_people_at_once_lose_no_word_and_history_keeps_all()
    {
        await Import("MR-0906");
        var history = Count("fact_history");
        string[] keys =
        [
            "release.owner",
            "release.data",
            "release.encryption",
            "release.managed",
            "parts.battery",
            "parts.storage",
        ];
        string[] values = ["given", "saved", "none", "free", "sound", "sound"];

        var answers = await Task.WhenAll(keys.Select((key, i) => Enter("MR-0906", key, values[i])));

        answers.ShouldAllBe(a => a.StatusCode == HttpStatusCode.OK);
        var machine = await Get("/api/machines/MR-0906");
        for (var i = 0; i < keys.Length; i++)
            machine.FactText(keys[i]).ShouldBe(values[i]);
        await Enter("MR-0906", "parts.battery", "swollen");
        Count("fact_history").ShouldBe(history + keys.Length + 1);
    }

    [Fact]
    public async Task A_bay_holds_one_machine()
    {
        await Import("MR-0907");
        await Import("MR-0908");
        Task<HttpResponseMessage> Place(string tag, int? bay) =>
            _client.PutAsJsonAsync($"/api/machines/{tag}/bay", new { bay, by = "Pim" });

        (await Place("MR-0907", 2)).StatusCode.ShouldBe(HttpStatusCode.OK);
        await ShouldRefuse(await Place("MR-0908", 2), HttpStatusCode.Conflict);
        await ShouldRefuse(await Place("MR-0908", 7), HttpStatusCode.BadRequest);
        (await Place("MR-0907", null)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await (await Place("MR-0908", 2)).JsonAsync()).GetProperty("bay").GetInt32().ShouldBe(2);
    }

    [Fact]
    public async Task The_aim_is_the_best_outcome_until_somebody_chooses()
    {
        await Import("MR-0909");
        (await Get("/api/machines/MR-0909")).GetProperty("aim").GetString().ShouldNotBeNull();
        var answer = await _client.PutAsJsonAsync(
            "/api/machines/MR-0909/aim",
            new { system = "tessaly-6-r2", by = "Pim" }
        );

        (await answer.JsonAsync()).GetProperty("aim").GetString().ShouldBe("tessaly-6-r2");
        await ShouldRefuse(
            await _client.PutAsJsonAsync("/api/machines/MR-0909/aim", new { system = "tessaly-9", by = "Pim" }),
            HttpStatusCode.BadRequest
        );
    }

    [Fact]
    public async Task The_etag_goes_up_with_every_change()
    {
        await Import("MR-0910");
        var first = (await _client.GetAsync("/api/machines/MR-0910")).Headers.ETag!.Tag;
        var second = (await Enter("MR-0910", "tpm.version", "off")).Headers.ETag!.Tag;

        second.ShouldNotBe(first);
        (await _client.GetAsync("/api/machines/MR-0910")).Headers.ETag!.Tag.ShouldBe(second);
    }

    [Fact]
    public async Task Other_sites_other_hosts_and_other_paths_get_nothing()
    {
        using var foreign = new HttpRequestMessage(HttpMethod.Get, "/api/machines")
        {
            Headers = { { "Origin", "http://elsewhere.example" } },
        };
        (await _client.SendAsync(foreign)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        using var rebound = new HttpRequestMessage(HttpMethod.Get, "/api/machines")
        {
            Headers = { Host = "elsewhere.example" },
        };
        (await _client.SendAsync(rebound)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        await ShouldRefuse(await _client.GetAsync("/api/nothing/here"), HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Fact_keys_and_systems_are_served_with_what_people_need()
    {
        var keys = (await Get("/api/fact-keys")).EnumerateArray().ToDictionary(k => k.GetProperty("key").GetString()!);
        keys["tpm.version"].GetProperty("choices").GetArrayLength().ShouldBe(5);
        keys["memory.installedMiB"].GetProperty("unit").GetString().ShouldBe("MiB");

        var tessaly = (await Get("/api/systems"))
            .EnumerateArray()
            .Single(s => s.GetProperty("id").GetString() == "tessaly-6-r2");
        tessaly.GetProperty("supportEnds").GetString().ShouldBe("2029-11-30");
        tessaly
            .GetProperty("requirements")
            .EnumerateArray()
            .ShouldContain(r => r.GetProperty("needed").GetString() == "TPM 2.0");
    }

    [Fact]
    public async Task The_openapi_document_in_the_web_folder_is_the_one_that_is_served()
    {
        var served = await _client.GetStringAsync("/openapi/v1.json");
        var kept = Path.Combine(TestWorkshop.Home, "web", "openapi.json");
        if (Environment.GetEnvironmentVariable("FRESHBOOT_UPDATE_OPENAPI") == "1")
            await File.WriteAllTextAsync(kept, served);

        served.ShouldBe(await File.ReadAllTextAsync(kept), "run ./test.sh --update-api after a change of the API");
    }
}
