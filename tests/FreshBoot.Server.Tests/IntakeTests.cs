using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests;

/// <summary>Intake beyond one bundle: codes, arrivals, tables, photos, parts, release, history, search.</summary>
public sealed class IntakeTests : IDisposable
{
    private readonly HandClock _clock = new();
    private readonly TestWorkshop _workshop;
    private readonly HttpClient _client;

    public IntakeTests()
    {
        _workshop = new TestWorkshop { Clock = _clock, BenchPort = FreePort() };
        _client = _workshop.CreateClient();
    }

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    /// <summary>A clock that a hand moves.</summary>
    private sealed class HandClock : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = new(2026, 12, 3, 12, 0, 0, TimeSpan.Zero);

        public override DateTimeOffset GetUtcNow() => Now;
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private static ByteArrayContent Bundle(string serial) =>
        new(
            SimulatedProbe.Bundle(
                TestWorkshop.Stile("X") with
                {
                    Serial = serial,
                },
                new DateTimeOffset(2026, 12, 3, 12, 0, 0, TimeSpan.Zero)
            )
        );

    private async Task<string> Code(string? tag = null) =>
        (await (await _client.PostAsJsonAsync("/api/probe-codes", new { tag })).JsonAsync())
            .GetProperty("code")
            .GetString()!;

    private Task<JsonElement> Get(string path) => _client.GetFromJsonAsync<JsonElement>(path)!;

    private async Task TakeIn(string tag) =>
        (await _client.PostAsync("/api/machines/import", TestWorkshop.BundleOf(tag))).StatusCode.ShouldBe(
            HttpStatusCode.Created
        );

    private static async Task<string> Wanted(HttpResponseMessage answer)
    {
        var problem = await answer.JsonAsync();
        problem.GetProperty("detail").GetString().ShouldNotBeNullOrEmpty();
        problem.GetProperty("where").GetString().ShouldNotBeNullOrEmpty();
        return problem.GetProperty("wanted").GetString()!;
    }

    [Fact]
    public async Task A_code_takes_one_bundle_and_is_then_over()
    {
        var code = await Code("MR-0700");
        code.Length.ShouldBeGreaterThanOrEqualTo(13, "13 signs of 32 are 65 bits");
        (await _client.GetStringAsync($"/probe/{code}")).ShouldStartWith($"FRESHBOOT_POST='http");

        // A broken transfer leaves the code open.
        (await _client.PostAsync($"/api/probe/{code}", new ByteArrayContent([1, 2, 3]))).StatusCode.ShouldBe(
            HttpStatusCode.UnprocessableEntity
        );
        var taken = await _client.PostAsync($"/api/probe/{code}", Bundle("S-1"));
        taken.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await taken.JsonAsync()).GetProperty("tag").GetString().ShouldBe("MR-0700");
        (await Get("/api/machines/MR-0700")).FactText("identity.serial").ShouldBe("S-1");

        var again = await _client.PostAsync($"/api/probe/{code}", Bundle("S-1"));
        again.StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await Wanted(again)).ShouldContain("30 minutes");
        (await _client.GetAsync($"/probe/{code}")).StatusCode.ShouldBe(HttpStatusCode.Gone);
    }

    [Fact]
    public async Task Scripts_may_ask_for_a_code_and_send_a_table_in_the_plainest_way()
    {
        var plain = await _client.PostAsync("/api/probe-codes", null);
        plain.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await _client.PostAsync("/api/probe-codes?tag=%3F", null)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (
            await _client.PostAsync("/api/probe-codes", new StringContent("{", Encoding.UTF8, "application/json"))
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        var table = new StringContent("tag\nMR-0790\n", Encoding.UTF8, "application/x-www-form-urlencoded");
        (await _client.PostAsync("/api/machines/csv", table)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Of_ten_that_use_a_code_at_once_one_is_taken()
    {
        var code = await Code();
        var answers = await Task.WhenAll(
            Enumerable.Range(0, 10).Select(i => _client.PostAsync($"/api/probe/{code}", Bundle($"S-{i}")))
        );

        answers.Count(a => a.StatusCode == HttpStatusCode.OK).ShouldBe(1);
        (await Get("/api/arrivals")).GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task A_wrong_code_and_a_late_one_are_refused()
    {
        (await _client.PostAsync("/api/probe/aaaaaaaaaaaaa", Bundle("S"))).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await _client.PostAsync("/api/probe/..%2f", Bundle("S"))).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        var code = await Code();
        _clock.Now += TimeSpan.FromMinutes(31);
        (await _client.PostAsync($"/api/probe/{code}", Bundle("S"))).StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await Get("/api/arrivals")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task Without_a_tag_it_waits_under_arrivals_and_a_known_serial_is_told()
    {
        await _client.PostAsync($"/api/probe/{await Code()}", Bundle("S-7"));
        var arrival = (await Get("/api/arrivals"))[0];
        arrival.GetProperty("model").GetString().ShouldBe("Brackwater Stile 14");
        arrival.GetProperty("serial").GetString().ShouldBe("S-7");
        arrival.GetProperty("knownTag").ValueKind.ShouldBe(JsonValueKind.Null);

        var path = $"/api/arrivals/{arrival.GetProperty("id").GetInt32()}/take";
        (await _client.PostAsJsonAsync(path, new { tag = "?", by = "Pim" })).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );
        (await _client.PostAsJsonAsync(path, new { tag = "mr-0701", by = "Pim" })).EnsureSuccessStatusCode();
        (await Get("/api/arrivals")).GetArrayLength().ShouldBe(0);
        (await Get("/api/machines/MR-0701")).FactText("identity.serial").ShouldBe("S-7");
        (await _client.PostAsJsonAsync(path, new { tag = "MR-0702", by = "Pim" })).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );

        await _client.PostAsync($"/api/probe/{await Code()}", Bundle("S-7"));
        (await Get("/api/arrivals"))[0].GetProperty("knownTag").GetString().ShouldBe("MR-0701");
    }

    [Fact]
    public async Task The_bench_listener_is_off_until_switched_on_and_serves_nothing_else()
    {
        using var bench = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{_workshop.BenchPort}") };
        await Should.ThrowAsync<HttpRequestException>(() => bench.GetAsync("/"));

        (await _client.PutAsJsonAsync("/api/bench-listener", new { on = true, by = "Pim" })).EnsureSuccessStatusCode();
        var stick = (
            await (
                await _client.PostAsJsonAsync("/api/probe-sticks", new { name = "red stick", by = "Pim" })
            ).JsonAsync()
        )
            .GetProperty("content")
            .GetString()!;
        var key = stick.Split("key=")[1].Trim();
        var answer = await bench.PostAsync("/api/probe-sticks/code", new StringContent(key));
        var code = await answer.Content.ReadAsStringAsync();
        (await bench.PostAsync($"/api/probe/{code}", Bundle("S-9"))).EnsureSuccessStatusCode();
        (await Get("/api/arrivals")).GetArrayLength().ShouldBe(1);

        // The small wget of live systems sends text only.
        var second = await (
            await bench.PostAsync("/api/probe-sticks/code", new StringContent(key))
        ).Content.ReadAsStringAsync();
        var text = Convert.ToBase64String(
            await Bundle("S-10").ReadAsByteArrayAsync(),
            Base64FormattingOptions.InsertLineBreaks
        );
        (await bench.PostAsync($"/api/probe/{second}", new StringContent(text))).EnsureSuccessStatusCode();
        (await Get("/api/arrivals")).GetArrayLength().ShouldBe(2);

        foreach (var path in new[] { "/", "/api/machines", "/api/parts", "/openapi/v1.json", "/api/probe-codes" })
            (await bench.GetAsync(path)).StatusCode.ShouldBe(HttpStatusCode.NotFound, path);
        (await bench.PostAsync("/api/probe-sticks/code", new StringContent(new string('0', 40)))).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );

        var sticks = await Get("/api/probe-sticks");
        await _client.DeleteAsync($"/api/probe-sticks/{sticks[0].GetProperty("id").GetInt32()}");
        (await bench.PostAsync("/api/probe-sticks/code", new StringContent(key))).StatusCode.ShouldBe(
            HttpStatusCode.NotFound,
            "a stick that was lost is barred"
        );
        await _client.PutAsJsonAsync("/api/bench-listener", new { on = false, by = "Pim" });
        await Should.ThrowAsync<HttpRequestException>(() => bench.GetAsync("/"));
    }

    private Task<HttpResponseMessage> Table(string text, bool dryRun = false) =>
        _client.PostAsync(
            $"/api/machines/csv?dryRun={dryRun}&by=Pim",
            new StringContent(text, Encoding.UTF8, "text/csv")
        );

    [Fact]
    public async Task A_table_is_looked_at_first_and_taken_whole_or_not_at_all()
    {
        const string Good = "tag,maker,memory\nMR-0710,Brackwater,8 GB\nMR-0711,Ottavine,4096\n";
        var looked = await Table(Good, dryRun: true);
        looked.StatusCode.ShouldBe(HttpStatusCode.OK, await looked.Content.ReadAsStringAsync());
        var preview = await looked.JsonAsync();
        preview.GetProperty("rows").GetInt32().ShouldBe(2);
        preview.GetProperty("imported").GetInt32().ShouldBe(0);
        (await Get("/api/machines")).GetArrayLength().ShouldBe(0);

        var refused = await Table(Good + "MR-0712,Ottavine,much\n");
        refused.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var problem = await refused.JsonAsync();
        problem.GetProperty("where").GetString().ShouldBe("line 4, column memory");
        problem.GetProperty("faults").GetArrayLength().ShouldBe(1);
        (await Get("/api/machines")).GetArrayLength().ShouldBe(0);

        (await (await Table(Good)).JsonAsync()).GetProperty("imported").GetInt32().ShouldBe(2);
        (await Get("/api/machines/MR-0710")).FactText("memory.installedMiB").ShouldBe("8192");
        (await Table(Good)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, "the tags are in use now");
    }

    [Fact]
    public async Task A_formula_goes_out_as_text_and_no_utf_8_is_refused()
    {
        (await Table("tag,model\nMR-0713,\"=HYPERLINK(\"\"http://x\"\")\"\n")).EnsureSuccessStatusCode();
        (await _client.GetStringAsync("/api/machines.csv")).ShouldContain("\"'=HYPERLINK(\"\"http://x\"\")\"");
        (await Get("/api/machines/MR-0713")).FactText("identity.model").ShouldBe("=HYPERLINK(\"http://x\")");

        var latin = await _client.PostAsync(
            "/api/machines/csv",
            new ByteArrayContent([.. "tag,model\nMR-0714,Caf"u8, 0xe9]) { Headers = { { "Content-Type", "text/csv" } } }
        );
        latin.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Wanted(latin)).ShouldContain("UTF-8");
    }

    private static readonly byte[] Png = Convert.FromHexString(
        "89504e470d0a1a0a0000000d494844520000000300000002080200000012167147" + "0000000049454e44ae426082"
    );

    private async Task<HttpResponseMessage> Photo(string tag, params byte[][] pictures)
    {
        var form = TestWorkshop.Form(null, [.. pictures.Select((p, i) => ($"{i}.png", p))]);
        form.Add(new StringContent("Pim"), "by");
        return await _client.PostAsync($"/api/machines/{tag}/photos", form);
    }

    [Fact]
    public async Task Photos_are_kept_by_content_and_what_is_none_is_refused_whole()
    {
        await TakeIn("MR-0720");
        var bad = await Photo("MR-0720", Png, "<svg/>"u8.ToArray());
        bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Wanted(bad)).ShouldContain("JPEG, PNG or WebP");
        (await Get("/api/machines/MR-0720/photos")).GetArrayLength().ShouldBe(0);

        (await Photo("MR-0720", [.. Png, .. new byte[10_000_000]])).StatusCode.ShouldBe(
            HttpStatusCode.RequestEntityTooLarge
        );
        (await Photo("MR-0720", Png)).StatusCode.ShouldBe(HttpStatusCode.Created);
        (await Photo("MR-0720", Png)).StatusCode.ShouldBe(HttpStatusCode.Created);
        var photo = (await Get("/api/machines/MR-0720/photos")).EnumerateArray().ShouldHaveSingleItem();
        photo.GetProperty("width").GetInt32().ShouldBe(3);
        var back = await _client.GetAsync($"/api/machines/MR-0720/photos/{photo.GetProperty("id").GetInt32()}");
        back.Content.Headers.ContentType!.MediaType.ShouldBe("image/png");
        (await back.Content.ReadAsByteArrayAsync()).ShouldBe(Png);
        (await Photo("MR-9999", Png)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_label_has_the_tag_as_a_code_and_in_letters_and_runs_nothing()
    {
        await Table("tag,model\nMR-0730,<script>alert(1)</script>\n");
        var page = await _client.GetStringAsync("/api/labels?tag=MR-0730&tag=MR-0731");

        page.ShouldContain("<svg");
        page.ShouldContain("MR-0731", customMessage: "labels are printed before a machine is taken in, too");
        page.ShouldNotContain("<script>");
        (await _client.GetAsync("/api/labels?tag=%3Cb%3E")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await _client.GetAsync("/api/labels")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    private Task<HttpResponseMessage> Release(string tag, object answers) =>
        _client.PutAsJsonAsync($"/api/machines/{tag}/release", answers);

    [Fact]
    public async Task The_release_check_goes_from_the_owner_to_free_and_erases_nothing_while_the_data_is_open()
    {
        await TakeIn("MR-0740");
        (await Get("/api/machines/MR-0740/release"))
            .GetProperty("question")
            .GetProperty("id")
            .GetString()
            .ShouldBe("owner");

        var early = await Release(
            "MR-0740",
            new
            {
                by = "Pim",
                owner = "given",
                check = "reset",
            }
        );
        early.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await Get("/api/machines/MR-0740/release")).GetProperty("facts").GetArrayLength().ShouldBe(0, "all or none");
        (await Release("MR-0740", new { by = "Pim", erased = "purge" })).StatusCode.ShouldBe(HttpStatusCode.Conflict);

        var saved = await Release(
            "MR-0740",
            new
            {
                by = "Pim",
                owner = "given",
                data = "saved",
                dataWhere = "blue case",
            }
        );
        saved.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await Wanted(saved)).ShouldContain("dataReopened");
        (
            await Release(
                "MR-0740",
                new
                {
                    by = "Pim",
                    owner = "given",
                    evidence = "slip 17",
                    data = "saved",
                    dataWhere = "blue case",
                    dataReopened = true,
                    encryption = "none",
                    locks = "none",
                }
            )
        ).EnsureSuccessStatusCode();
        (await Release("MR-0740", new { by = "Pim", check = "reset" })).EnsureSuccessStatusCode();
        (await Release("MR-0740", new { by = "Pim", check = "connected" })).EnsureSuccessStatusCode();
        var claimed = await (await Release("MR-0740", new { by = "Pim", managed = "claimed" })).JsonAsync();
        claimed.GetProperty("question").GetProperty("stops").GetBoolean().ShouldBeTrue();
        claimed.GetProperty("letter").GetString()!.ShouldContain("BW-14C8-1");
        var free = await (await Release("MR-0740", new { by = "Pim", managed = "free" })).JsonAsync();
        free.GetProperty("question").ValueKind.ShouldBe(JsonValueKind.Null);
        free.GetProperty("mayBegin").GetBoolean().ShouldBeTrue();

        (
            await Release(
                "MR-0740",
                new
                {
                    by = "Pim",
                    erased = "purge",
                    erasedVerified = true,
                }
            )
        ).EnsureSuccessStatusCode();
        (await Release("MR-0740", new { by = "Pim", owner = "perhaps" })).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );
        (await Release("MR-0740", new { by = "Pim" })).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task An_open_question_may_be_overridden_with_reason_and_name_and_a_no_may_not()
    {
        await TakeIn("MR-0741");
        await Release(
            "MR-0741",
            new
            {
                by = "Pim",
                owner = "given",
                data = "not-wanted",
                encryption = "none",
            }
        );
        foreach (
            var (key, value) in new[]
            {
                ("parts.battery", "sound"),
                ("parts.storage", "sound"),
                ("tpm.version", "absent"),
            }
        )
            await Enter("MR-0741", key, value);
        var route = (await Get("/api/machines/MR-0741/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("school").GetString() == "patch")
            .GetProperty("id")
            .GetString();
        Task<HttpResponseMessage> Begin(object? word) =>
            _client.PostAsJsonAsync(
                "/api/machines/MR-0741/runs",
                new
                {
                    routeId = route,
                    by = "Pim",
                    @override = word,
                }
            );

        var open = await Begin(null);
        open.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await Wanted(open)).ShouldContain("override");
        (await Begin(new { reason = " ", by = "Pim" })).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        await Release("MR-0741", new { by = "Pim", managed = "claimed" });
        route = (await Get("/api/machines/MR-0741/routes"))[0].GetProperty("id").GetString();
        (await Begin(new { reason = "I know it is ours", by = "Pim" })).StatusCode.ShouldBe(
            HttpStatusCode.Conflict,
            "never round an owner's hold"
        );

        await Release("MR-0741", new { by = "Pim", managed = "waiting" });
        route = (await Get("/api/machines/MR-0741/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("school").GetString() == "patch")
            .GetProperty("id")
            .GetString();
        var begun = await Begin(new { reason = "released by letter of today", by = "Odalys" });
        begun.StatusCode.ShouldBe(HttpStatusCode.Created);
        (await begun.JsonAsync()).GetProperty("override").GetString().ShouldBe("released by letter of today (Odalys)");
    }

    private Task<HttpResponseMessage> Enter(string tag, string key, object value) =>
        _client.PutAsJsonAsync(
            $"/api/machines/{tag}/facts/{key}",
            new
            {
                value,
                source = "label",
                by = "Pim",
            }
        );

    [Fact]
    public async Task The_history_of_a_fact_keeps_every_word()
    {
        await TakeIn("MR-0750");
        await Enter("MR-0750", "memory.installedMiB", "8 GB");
        await Enter("MR-0750", "memory.installedMiB", "7.7GiB");
        var history = await Get("/api/machines/MR-0750/facts/memory.installedMiB/history");

        history
            .EnumerateArray()
            .Select(h => (h.GetProperty("value").GetInt32(), h.GetProperty("origin").GetString()))
            .ShouldBe([(7885, "entered"), (8192, "entered"), (4096, "probed")]);
        history[0].GetProperty("by").GetString().ShouldBe("Pim");
        (await _client.GetAsync("/api/machines/MR-0750/facts/no.key/history")).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task Words_find_machines_by_what_they_are_where_they_hang_and_where_they_stand()
    {
        await TakeIn("MR-0760");
        await Table("tag,maker,model,serial,order\nMR-0761,Ottavine,Plinth PL-06B,P6K2M81T,Ferry Museum\n");
        await _client.PutAsJsonAsync("/api/machines/MR-0761/bay", new { bay = 2, by = "Pim" });
        async Task<string[]> Find(string words) =>
            [
                .. (await Get($"/api/machines?find={Uri.EscapeDataString(words)}"))
                    .EnumerateArray()
                    .Select(m => m.GetProperty("tag").GetString()!),
            ];

        (await Find("0761")).ShouldBe(["MR-0761"]);
        (await Find("plinth ferry")).ShouldBe(["MR-0761"]);
        (await Find("p6k2")).ShouldBe(["MR-0761"]);
        (await Find("bench")).ShouldBe(["MR-0761"]);
        (await Find("shelf")).ShouldBe(["MR-0760"]);
        (await Find("release unknown")).ShouldBe(["MR-0761", "MR-0760"]);
        (await Find("stile ottavine")).ShouldBeEmpty();
        (await Find("")).Length.ShouldBe(2);
        (await _client.GetAsync("/api/machines?take=0")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    private Task<HttpResponseMessage> Put(object part) =>
        _client.PostAsJsonAsync("/api/parts", new { part, by = "Pim" });

    private static object Module(string test = "untested", string? reservedFor = null) =>
        new
        {
            kind = "memory",
            about = "4 GiB DDR4 SO-DIMM",
            type = "DDR4 SO-DIMM",
            sizeMiB = 4096,
            sizeBytes = (long?)null,
            from = "MR-0001",
            test,
            reservedFor,
            fittedIn = (string?)null,
        };

    [Fact]
    public async Task An_upgrade_takes_from_the_shelf_and_a_run_keeps_the_part_for_its_machine()
    {
        await TakeIn("MR-0770");
        await TakeIn("MR-0771");
        (await Put(Module())).StatusCode.ShouldBe(HttpStatusCode.Created);
        (await Put(Module(test: "failed"))).StatusCode.ShouldBe(HttpStatusCode.Created);
        var first = (await Get("/api/machines/MR-0770/memory-upgrades")).GetProperty("upgrades")[0];
        first.GetProperty("fromShelf").GetInt32().ShouldBe(1);
        first.GetProperty("cure").GetProperty("money").GetInt32().ShouldBe(0);

        await Release(
            "MR-0770",
            new
            {
                by = "Pim",
                owner = "given",
                data = "not-wanted",
                encryption = "none",
                managed = "free",
            }
        );
        foreach (
            var (key, value) in new[]
            {
                ("parts.battery", "sound"),
                ("parts.storage", "sound"),
                ("tpm.version", "2.0"),
                ("firmware.secureBoot", "on"),
            }
        )
            await Enter("MR-0770", key, value);
        var route = (await Get("/api/machines/MR-0770/routes"))
            .EnumerateArray()
            .First(r =>
                r.GetProperty("cures")
                    .EnumerateArray()
                    .Any(c => c.GetProperty("does").GetString()!.Contains("from the shelf", StringComparison.Ordinal))
            );
        (
            await _client.PostAsJsonAsync(
                "/api/machines/MR-0770/runs",
                new { routeId = route.GetProperty("id").GetString(), by = "Pim" }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Created);

        (await Get("/api/parts"))
            .EnumerateArray()
            .Select(p => p.GetProperty("part").GetProperty("reservedFor").GetString())
            .ShouldBe(["MR-0770", null]);
        (await Get("/api/machines/MR-0771/memory-upgrades"))
            .GetProperty("upgrades")
            .EnumerateArray()
            .ShouldAllBe(u => u.GetProperty("fromShelf").GetInt32() == 0);
    }

    [Fact]
    public async Task Two_who_change_a_part_at_once_do_not_write_over_each_other()
    {
        var part = await (await Put(Module())).JsonAsync();
        var path = $"/api/parts/{part.GetProperty("id").GetInt32()}";
        Task<HttpResponseMessage> Change(string test) =>
            _client.PutAsJsonAsync(
                path,
                new
                {
                    part = Module(test),
                    version = 1,
                    by = "Pim",
                }
            );

        (await Change("passed")).EnsureSuccessStatusCode();
        (await Change("failed")).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await Get("/api/parts"))[0].GetProperty("part").GetProperty("test").GetString().ShouldBe("passed");
        (await Put(new { kind = "memory" })).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }
}
