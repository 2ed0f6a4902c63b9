using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Server.Tests;

/// <summary>
/// Sixteen runs that practitioners named, asked for as anybody would: a table of machines in, a route, its sheet. Each sheet is
/// also walked here by its own <c>needs</c> and <c>does</c>, with nothing of the composer's or checker's.
/// </summary>
public sealed class SheetCaseTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private int _machines;

    /// <summary>The machine that was taken in last.</summary>
    private string Tag => $"MR-{850 + _machines:0000}";

    private readonly HttpClient _client;

    public SheetCaseTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private static readonly Dictionary<string, string> Good = new(StringComparer.Ordinal)
    {
        ["release.owner"] = "given",
        ["release.managed"] = "free",
        ["release.data"] = "not-wanted",
        ["release.encryption"] = "none",
        ["parts.powersOn"] = "yes",
        ["parts.battery"] = "sound",
        ["parts.storage"] = "sound",
        ["cpu.model"] = "Corvane C8-350",
        ["cpu.arch"] = "x86",
        ["cpu.flags"] = string.Join(
            ' ',
            CpuLevel.Levels.Take(3).SelectMany(l => l.Adds.Select(f => f.Flag)).Append("lm")
        ),
        ["memory.installedMiB"] = "8192",
        ["memory.maxMiB"] = "16384",
        ["memory.slots"] = "2",
        ["memory.slotsUsed"] = "1",
        ["memory.type"] = "DDR4 SO-DIMM",
        ["storage.0.sizeBytes"] = "250000000000",
        ["storage.0.bus"] = "sata",
        ["storage.0.kind"] = "flash",
        ["firmware.startedBy"] = "uefi",
        ["firmware.kind"] = "uefi64",
        ["firmware.secureBoot"] = "able",
        ["tpm.version"] = "2.0",
        ["graphics.0.model"] = "Corvane C8 graphics",
        ["network.0.model"] = "Netherby NB-12",
    };

    private static readonly (string, string)[] Ottavine =
    [
        ("identity.maker", "Ottavine"),
        ("identity.model", "Plinth PL-06B"),
    ];

    private static readonly (string, string)[] Upgradable =
    [
        ("plan.install", "inPlace"),
        ("os.name", "Tessaly 5"),
        ("os.edition", "Home"),
        ("os.language", "en"),
        ("os.freeBytes", "90000000000"),
        ("os.works", "yes"),
    ];

    private async Task MachineAsync(params (string Key, string Value)[] changes)
    {
        var facts = new Dictionary<string, string>(Good, StringComparer.Ordinal);
        foreach (var (key, value) in changes)
            facts[key] = value;
        _machines++;
        var table =
            $"tag,{string.Join(',', facts.Keys)}\n{Tag},{string.Join(',', facts.Values.Select(v => $"\"{v}\""))}\n";
        using var body = new StringContent(table, Encoding.UTF8, "text/csv");
        var answer = await _client.PostAsync("/api/machines/csv?by=Pim", body);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
    }

    private async Task OrderAsync(bool newOwner) =>
        (
            await _client.PostAsJsonAsync(
                "/api/orders",
                new
                {
                    order = new
                    {
                        id = "",
                        name = "Brackwater Library",
                        about = "A desk.",
                        machines = 1,
                        due = (string?)null,
                        newOwner,
                        shared = false,
                        everyday = false,
                        lookedAfterBy = "owner",
                        needs = Array.Empty<object>(),
                    },
                    by = "Pim",
                }
            )
        ).EnsureSuccessStatusCode();

    private async Task<JsonElement> SheetAsync(string? system, string school, Func<JsonElement, bool>? which = null)
    {
        var routes = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes");
        var route = routes
            .EnumerateArray()
            .FirstOrDefault(r =>
                r.GetProperty("system").GetString() == system
                && r.GetProperty("school").GetString() == school
                && which?.Invoke(r) != false
            );
        route.ValueKind.ShouldBe(
            JsonValueKind.Object,
            $"no such route among {string.Join(", ", routes.EnumerateArray().Select(r => $"{r.GetProperty("system")} {r.GetProperty("school")}"))}"
        );
        var sheet = await _client.GetFromJsonAsync<JsonElement>(
            $"/api/machines/{Tag}/routes/{route.GetProperty("id").GetString()}/sheet"
        );
        Walk(sheet);
        return sheet;
    }

    private static IEnumerable<string> CuresOf(JsonElement route) =>
        route.GetProperty("cures").EnumerateArray().Select(c => c.GetProperty("id").GetString()!);

    private static JsonElement[] Steps(JsonElement sheet) => [.. sheet.GetProperty("steps").EnumerateArray()];

    private static string Id(JsonElement step) => step.GetProperty("id").GetString()!;

    private static JsonElement Step(JsonElement sheet, string id) => Steps(sheet).Single(s => Id(s) == id);

    private static void InOrder(JsonElement sheet, params string[] ids)
    {
        var all = Steps(sheet).Select(Id).ToList();
        ids.Select(i => all.IndexOf(i)).ShouldAllBe(i => i >= 0, string.Join(' ', all));
        ids.Select(i => all.IndexOf(i)).ShouldBeInOrder(SortDirection.Ascending);
    }

    private static void Without(JsonElement sheet, params string[] beginnings) =>
        Steps(sheet).Select(Id).ShouldNotContain(id => beginnings.Any(b => id.StartsWith(b, StringComparison.Ordinal)));

    /// <summary>Every need holds when its step comes, and the way ends with a machine that is handed over or retired.</summary>
    private static void Walk(JsonElement sheet)
    {
        if (sheet.GetProperty("missing").GetArrayLength() > 0)
            return;
        var world = sheet
            .GetProperty("start")
            .EnumerateObject()
            .ToDictionary(p => p.Name, p => p.Value.GetString()!, StringComparer.Ordinal);
        foreach (var step in Steps(sheet).Where(s => s.GetProperty("on").ValueKind == JsonValueKind.Null))
        {
            foreach (var need in step.GetProperty("needs").EnumerateObject())
                need.Value.EnumerateArray()
                    .Select(v => v.GetString())
                    .ShouldContain(world[need.Name], $"{Id(step)} needs {need.Name}");
            foreach (var does in step.GetProperty("does").EnumerateObject())
                world[does.Name] = does.Value.GetString()!;
        }
        world["state"].ShouldBeOneOf("ready", "retired");
        world["usbStart"].ShouldNotBe("allowed");
        world["scripts"].ShouldBe("closed");
        world["case"].ShouldBe("closed");
    }

    [Fact]
    public async Task A_drive_swap_with_a_firmware_update_first()
    {
        await MachineAsync(
            ("identity.maker", "Brackwater"),
            ("identity.model", "Stile 14"),
            ("tpm.version", "absent"),
            ("parts.storage", "replace"),
            ("os.name", "Tessaly 5"),
            ("os.works", "yes")
        );
        var sheet = await SheetAsync(
            "tessaly-6-r2",
            "comply",
            r => CuresOf(r).Contains("firmware-update") && CuresOf(r).Contains("drive-sata-240")
        );
        InOrder(
            sheet,
            "start-outgoing.start",
            "update-firmware.firmware-update.write",
            "swap-drive.drive-sata-240.out"
        );
    }

    [Fact]
    public async Task A_reflash_with_the_old_drive_in()
    {
        await MachineAsync(("identity.board", "WAGTAIL"), ("firmware.kind", "locked"));
        InOrder(
            await SheetAsync("wickerwork-26", "reflash"),
            "reflash.reflash-wagtail.protection",
            "reflash.reflash-wagtail.copy",
            "reflash.reflash-wagtail.write",
            "start-installer.boot",
            "protection-on.on"
        );
    }

    [Fact]
    public async Task A_loader_on_the_stick()
    {
        await MachineAsync(Ottavine);
        var sheet = await SheetAsync("canzona-6", "spoof");
        Without(sheet, "copy.out");
        InOrder(sheet, "copy.stay-in", "move-loader.move", "move-loader.without", "prove.probe");
    }

    [Fact]
    public async Task In_place_from_inside_with_the_script_policy_opened_and_closed()
    {
        await OrderAsync(newOwner: false);
        await MachineAsync([.. Upgradable, ("order.name", "Brackwater Library")]);
        // As its maker made it, no script runs: none is allowed.
        var plain = await SheetAsync("tessaly-6-r2", "comply");
        Without(plain, "take-stick", "erase-drive", "start-installer", "upgrade.scripts");

        await MachineAsync([.. Upgradable, ("order.name", "Brackwater Library"), ("tpm.version", "absent")]);
        var sheet = await SheetAsync("tessaly-6-r1", "patch");
        Without(sheet, "take-stick", "erase-drive", "start-installer");
        var open = Steps(sheet)
            .Single(s => s.GetProperty("opens").GetRawText().Contains("script", StringComparison.Ordinal));
        var close = Steps(sheet)
            .Last(s => s.GetProperty("closes").GetRawText().Contains("script", StringComparison.Ordinal));
        InOrder(sheet, "backup.open", Id(open), Id(close), "prove.probe");
    }

    [Fact]
    public async Task In_place_from_the_medium_keeps_what_is_there()
    {
        await OrderAsync(newOwner: false);
        await MachineAsync([
            .. Upgradable,
            ("identity.maker", "Ottavine"),
            ("identity.model", "Plinth PL-08A"),
            ("os.name", "Canzona 5"),
            ("os.edition", ""),
            ("order.name", "Brackwater Library"),
        ]);
        var sheet = await SheetAsync("canzona-6", "comply");
        Without(sheet, "upgrade.", "erase-drive", "first-start", "data-unwanted");
        InOrder(
            sheet,
            "backup.open",
            "start-outgoing.start",
            "make-room.room",
            "stop-outgoing.down",
            "start-installer.boot",
            "keep-over.way",
            "keep-over.over",
            "copy.wait",
            "first-kept.files",
            "prove.probe"
        );
        Step(sheet, "keep-over.over").GetProperty("kind").GetString().ShouldBe("confirm");
    }

    [Fact]
    public async Task In_place_refused_for_a_new_owner()
    {
        await OrderAsync(newOwner: true);
        await MachineAsync([.. Upgradable, ("order.name", "Brackwater Library")]);
        var sheet = await SheetAsync("tessaly-6-r2", "comply");
        Steps(sheet).ShouldBeEmpty();
        sheet.GetProperty("missing")[0].GetProperty("says").GetString()!.ShouldContain("changes hands");
        var route = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes"))
            .EnumerateArray()
            .First(r => r.GetProperty("system").GetString() == "tessaly-6-r2");
        var begun = await _client.PostAsJsonAsync(
            $"/api/machines/{Tag}/runs",
            new { routeId = route.GetProperty("id").GetString(), by = "Pim" }
        );
        begun.StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task In_place_that_the_verdict_forbids()
    {
        await OrderAsync(newOwner: false);
        await MachineAsync([.. Upgradable.SkipLast(1), ("os.works", "no"), ("order.name", "Brackwater Library")]);
        (await SheetAsync("tessaly-6-r2", "comply"))
            .GetProperty("missing")[0]
            .GetProperty("says")
            .GetString()!
            .ShouldContain("cannot be done over what is there");
    }

    [Fact]
    public async Task Secure_Boot_with_an_unsigned_loader()
    {
        await MachineAsync(
            ("identity.maker", "Brackwater"),
            ("identity.model", "Stile 15"),
            ("identity.board", "ST15-7"),
            ("cpu.model", "Corvane C7-310"),
            ("graphics.0.model", "Corvane C7 graphics"),
            ("firmware.secureBoot", "on"),
            ("firmware.usbStart", "yes")
        );
        InOrder(
            await SheetAsync("canzona-6", "spoof"),
            "settings.secureBoot-off-set-stays",
            "settings.save",
            "start-installer.boot"
        );
        // This maker's firmware has no settings: nobody can switch it off, and there is no such way.
        await MachineAsync([.. Ottavine, ("firmware.secureBoot", "on")]);
        (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes"))
            .EnumerateArray()
            .Select(r => r.GetProperty("school").GetString())
            .ShouldNotContain("spoof");
    }

    [Fact]
    public async Task Keep_the_makers_firmware_and_add_legacy_boot()
    {
        await MachineAsync(
            ("identity.board", "WAGTAIL"),
            ("firmware.kind", "locked"),
            ("plan.firmware", "keep"),
            ("storage.0.sizeBytes", "26000000000")
        );
        var sheet = await SheetAsync("driftway", "reflash");
        Without(sheet, "reflash.reflash-wagtail-keep.write");
        Step(sheet, "reflash.reflash-wagtail-keep.add").GetProperty("text").GetString()!.ShouldContain("only the part");
    }

    [Fact]
    public async Task A_disc_behind_firmware_that_starts_no_stick()
    {
        await MachineAsync(("firmware.usbStart", "no"), ("optical.reads", "cd"));
        var sheet = await SheetAsync("pebblemoss-32", "lighten");
        Without(sheet, "take-stick", "settings.usbStart", "helper-disc");
        InOrder(sheet, "take-disc.take", "take-disc.tray", "start-installer.boot");
    }

    [Fact]
    public async Task A_helper_disc_where_the_image_goes_onto_no_disc_that_its_drive_reads()
    {
        await MachineAsync(("firmware.year", "2003"), ("optical.reads", "cd"));
        var sheet = await SheetAsync("driftway", "lighten");
        Without(sheet, "take-disc", "settings.usbStart", "start-installer.boot");
        InOrder(sheet, "helper-disc.tray", "start-installer.hand-over", "helper-out.out", "prove.restarts");
        InOrder(sheet, "take-stick.plug", "start-installer.hand-over");
    }

    [Fact]
    public async Task What_a_person_saw_of_the_boot_menu_counts_before_the_year_of_the_firmware()
    {
        await MachineAsync(("firmware.year", "2003"), ("firmware.usbStart", "yes"), ("optical.reads", "cd"));
        InOrder(await SheetAsync("driftway", "lighten"), "take-stick.plug", "start-installer.boot");
    }

    [Fact]
    public async Task Secure_Boot_off_for_an_unsigned_installer_and_on_again()
    {
        await MachineAsync(("firmware.secureBoot", "on"));
        var sheet = await SheetAsync("tessaly-6-fieldcut", "comply");
        InOrder(
            sheet,
            "settings.secureBoot-off-set",
            "start-installer.boot",
            "settings-back.secureBoot-on-set",
            "prove.probe"
        );
    }

    [Fact]
    public async Task Secure_Boot_that_has_to_stay_off_is_said_so()
    {
        await MachineAsync(("firmware.secureBoot", "on"));
        var sheet = await SheetAsync("pebblemoss-32", "lighten");
        Without(sheet, "settings-back.secureBoot");
        InOrder(sheet, "settings.secureBoot-off-set-stays", "start-installer.boot");
        var routes = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes?system=pebblemoss-32");
        routes[0]
            .GetProperty("caveats")
            .EnumerateArray()
            .Select(c => c.GetString()!)
            .ShouldContain(c => c.Contains("Secure Boot stays off", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_board_with_its_one_medium()
    {
        await MachineAsync(
            ("identity.maker", "Thimble"),
            ("identity.model", "Board Q"),
            ("identity.board", "THIMBLE-Q"),
            ("identity.chassis", "board"),
            ("cpu.model", "Marrow M4"),
            ("cpu.arch", "arm"),
            ("cpu.flags", ""),
            ("firmware.kind", "board"),
            ("firmware.secureBoot", "absent"),
            ("firmware.startedBy", ""),
            ("tpm.version", "absent"),
            ("parts.battery", "none"),
            ("graphics.0.model", "")
        );
        var sheet = await SheetAsync("thimble-desk", "comply");
        Without(sheet, "erase-drive", "copy", "start-installer");
        InOrder(sheet, "write-card.which", "write-card.in", "write-card.start");
    }

    [Fact]
    public async Task Two_equal_drives()
    {
        await MachineAsync(
            ("storage.0.model", "Sill S250"),
            ("storage.0.serial", "SS-2231-4471"),
            ("storage.1.sizeBytes", "250000000000"),
            ("storage.1.model", "Sill S250"),
            ("storage.1.serial", "SS-2231-9902")
        );
        var sheet = await SheetAsync("wickerwork-26", "comply");
        InOrder(sheet, "unplug-others.pull", "erase-drive.erase", "plug-others.in");
        Step(sheet, "unplug-others.pull").GetProperty("text").GetString()!.ShouldContain("…9902");
        Step(sheet, "erase-drive.erase").GetProperty("text").GetString()!.ShouldContain("…4471");
    }

    [Fact]
    public async Task A_battery_taken_out()
    {
        await MachineAsync(("parts.battery", "swollen"));
        InOrder(
            await SheetAsync("wickerwork-26", "comply"),
            "new-battery.battery-new.swap",
            "bench.adapter",
            "start-installer.boot"
        );
    }

    [Fact]
    public async Task A_large_image_to_a_stick_begins_early_and_says_how_long()
    {
        await MachineAsync(Ottavine);
        var sheet = await SheetAsync("canzona-6", "spoof");
        var write = Step(sheet, "write-medium.begin");
        var minutes = Step(sheet, "take-stick.still").GetProperty("minutes");
        var usual = minutes.GetProperty("usual").GetInt32();
        usual.ShouldBeGreaterThan(20);
        minutes.GetProperty("worry").GetInt32().ShouldBe(3 * usual);
        write
            .GetProperty("text")
            .GetString()!
            .ShouldContain(string.Create(CultureInfo.InvariantCulture, $"for about {usual} min"));
        InOrder(sheet, "write-medium.begin", "bench.off", "take-stick.take", "start-installer.boot");
    }

    [Fact]
    public async Task A_paid_extension()
    {
        await MachineAsync(("os.name", "Tessaly 5"), ("os.works", "yes"));
        var sheet = await SheetAsync("tessaly-5", "stay", r => r.GetProperty("cures").GetArrayLength() > 0);
        InOrder(sheet, "stay.is-it", "extension.key", "extension.proof", "prove.probe");
        Steps(sheet).ShouldNotContain(s => s.GetProperty("kind").GetString() == "confirm");
    }

    [Fact]
    public async Task A_machine_that_is_retired()
    {
        await MachineAsync();
        InOrder(await SheetAsync(null, "retire"), "retire.method", "retire.erase", "retire.verify", "retire.recycle");
    }

    [Fact]
    public async Task Two_untested_modules()
    {
        await MachineAsync(
            ("memory.installedMiB", "2048"),
            ("memory.group", "2"),
            ("memory.slots", "4"),
            ("memory.slotsUsed", "2")
        );
        var sheet = await SheetAsync(
            "tessaly-6-r2",
            "comply",
            r => CuresOf(r).Any(c => c.StartsWith("memory-add-2x", StringComparison.Ordinal))
        );
        var one = Steps(sheet).Select(Id).First(i => i.EndsWith(".one", StringComparison.Ordinal))[..^4];
        InOrder(sheet, $"{one}.one", $"{one}.count", $"{one}.two", $"{one}.count-2");
    }

    [Fact]
    public async Task A_new_build_with_a_known_defect_that_the_shop_wrote_down()
    {
        const string Entry = "/api/catalogue/systems/wickerwork-26";
        var known = JsonNode.Parse(await _client.GetStringAsync(Entry))!;
        var entry = known["entry"]!.DeepClone();
        entry["installer"]!["defects"] = JsonNode.Parse(
            """
            [{"sees":"It asks for a network that is there.","workaround":"Choose “later”.",
              "evidence":{"source":"tried in the shop","date":"2026-11-20","sure":"tried"}}]
            """
        );
        var saved = await _client.PutAsJsonAsync(
            Entry,
            new
            {
                entry,
                version = known["version"]!.GetValue<int>(),
                by = "Pim",
                reason = "seen twice",
            }
        );
        saved.IsSuccessStatusCode.ShouldBeTrue(await saved.Content.ReadAsStringAsync());
        await MachineAsync();
        var sheet = await SheetAsync("wickerwork-26", "comply");
        Step(sheet, "known-defect.seen")
            .GetProperty("text")
            .GetString()!
            .ShouldContain("It asks for a network that is there. Choose “later”.");
        InOrder(sheet, "known-defect.seen", "erase-drive.erase");
    }

    [Fact]
    public async Task A_sheet_is_a_page_for_whoever_asks_for_one()
    {
        await MachineAsync();
        var routes = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes");
        using var asked = new HttpRequestMessage(
            HttpMethod.Get,
            $"/api/machines/{Tag}/routes/{routes[0].GetProperty("id").GetString()}/sheet"
        );
        asked.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("text/html"));
        var answer = await _client.SendAsync(asked);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/html");
        var page = await answer.Content.ReadAsStringAsync();
        page.ShouldContain("Opened on the way: closed again?");
        page.ShouldContain("<b>Caution.</b>");
    }
}
