using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Identity;
using FreshBoot.Formats.Smbios;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests;

/// <summary>Donors and identities over HTTP: given once, put into the machine's own table, and still the same machine afterwards.</summary>
public sealed class IdentityApiTests : IDisposable
{
    private const string Tag = "MR-0821";
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;
    private readonly RunDriver _runs;

    public IdentityApiTests() => (_client, _runs) = (_workshop.CreateClient(), new RunDriver(_workshop.CreateClient()));

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private static SimulatedMachine Plinth(string tag) =>
        TestWorkshop.Stile(tag) with
        {
            Maker = "Ottavine",
            Model = "Plinth PL-06B",
            Serial = $"P6-{tag}",
            Board = "OT-PLINTH-6",
            BoardSerial = $"B6-{tag}",
            Cpu = "Corvane C6-1",
            Level = "v2",
            SecureBoot = "",
            Devices = [new("0300", "Corvane", "C6 graphics"), new("0200", "Netherby", "NB-12")],
        };

    private static byte[] Bundle(SimulatedMachine machine, int hour) =>
        SimulatedProbe.Bundle(machine, new DateTimeOffset(2026, 12, 3, hour, 0, 0, TimeSpan.Zero));

    private async Task TakeInAsync(string tag) =>
        (
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(tag, ("a.tar.gz", Bundle(Plinth(tag), 12)))
            )
        ).EnsureSuccessStatusCode();

    private async Task<JsonElement> GiveAsync(string tag, string level = "full", string donor = "PL-08A")
    {
        var answer = await _client.PostAsJsonAsync(
            $"/api/machines/{tag}/identity",
            new
            {
                donor,
                level,
                by = "Pim",
            }
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    [Fact]
    public async Task Donors_come_nearest_first_with_parts_and_what_they_break_and_none_is_a_wall()
    {
        await TakeInAsync(Tag);
        var donors = (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/donors?system=canzona-6"))
            .EnumerateArray()
            .ToArray();

        donors[0].GetProperty("id").GetString().ShouldBe("PL-08A");
        donors.Select(d => d.GetProperty("score").GetInt32()).ShouldBeInOrder(SortDirection.Descending);
        foreach (var donor in donors)
            donor
                .GetProperty("parts")
                .EnumerateArray()
                .Sum(p => p.GetProperty("points").GetInt32())
                .ShouldBe(donor.GetProperty("score").GetInt32());
        (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/donors?system=wickerwork-26"))
            .GetArrayLength()
            .ShouldBe(0);
        (await _client.GetAsync($"/api/machines/{Tag}/donors?system=nothing")).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );
    }

    [Fact]
    public async Task An_identity_stands_in_the_machines_own_table_and_prepare_waits_for_it()
    {
        await TakeInAsync(Tag);
        var route = (await _runs.RouteAsync(Tag, "canzona-6", "spoof")).GetProperty("id").GetString();
        async Task<JsonElement> ItemAsync() =>
            (await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/work-items?route={route}"))
                .GetProperty("items")
                .EnumerateArray()
                .Single(i => i.GetProperty("kind").GetString() == "identity");
        (await ItemAsync()).GetProperty("state").GetString().ShouldBe("missing");

        var given = await GiveAsync(Tag);
        var serial = given.GetProperty("serial").GetString()!;
        SerialScheme.Checks(serial).ShouldBeTrue();
        (await ItemAsync()).GetProperty("state").GetString().ShouldBe("ready");

        var at = $"/api/machines/{Tag}/identity/{given.GetProperty("id").GetInt32()}";
        var own = SmbiosTable.Read(SmbiosTable.Bare(await _client.GetByteArrayAsync($"{at}/smbios.bin?original=true")));
        own.Single(s => s.Type == 1).Text(0x07).ShouldBe($"P6-{Tag}");
        var written = SmbiosTable.Read(SmbiosTable.Bare(await _client.GetByteArrayAsync($"{at}/smbios.bin?entry=32")));
        written.Single(s => s.Type == 1).Text(0x07).ShouldBe(serial);
        written.Count.ShouldBe(own.Count);
        var diff = await _client.GetFromJsonAsync<JsonElement>($"{at}/diff");
        diff.GetProperty("made").GetBoolean().ShouldBeFalse();
        diff.GetProperty("differences")
            .EnumerateArray()
            .Single(d => d.GetProperty("field").GetString() == "Model")
            .GetProperty("before")
            .GetString()
            .ShouldBe("Plinth PL-06B");
        (await _client.GetFromJsonAsync<JsonElement>($"{at}/json")).GetProperty("serial").GetString().ShouldBe(serial);
        (await _client.GetStringAsync($"{at}/plist")).ShouldContain($"<string>{serial}</string>");
        (await _client.GetAsync($"{at}/smbios.bin?entry=16")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await _client.GetAsync($"/api/machines/{Tag}/identity/999/diff")).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        // Another choice afterwards: what was given is no longer what is wanted.
        await _runs.EnterAsync(Tag, "plan.identity", "least");
        (await ItemAsync()).GetProperty("state").GetString().ShouldBe("stale");
    }

    [Fact]
    public async Task Two_technicians_at_once_never_get_one_serial_and_none_that_anybody_named()
    {
        string[] tags = [Tag, "MR-0822"];
        foreach (var tag in tags)
            await TakeInAsync(tag);
        var given = await Task.WhenAll(Enumerable.Range(0, 24).Select(i => GiveAsync(tags[i % 2])));
        given.Select(g => g.GetProperty("serial").GetString()).Distinct().Count().ShouldBe(24);

        // One that a person typed in is somebody's: the store gives it to nobody.
        var store = _workshop.Services.GetService(typeof(Data.Identity.IdentityStore)) as Data.Identity.IdentityStore;
        await _runs.EnterAsync(Tag, "identity.serial", "P8ABCDEFGH9");
        var profile = new IdentityProfile(IdentityLevel.Full, "Ottavine", "x", "y", "P8ABCDEFGH9", Guid.NewGuid());
        (await store!.GiveAsync("MR-0822", "PL-08A", profile, "Pim", DateTimeOffset.UnixEpoch, default)).ShouldBeNull();
        // Nor one that was given before.
        var first = profile with
        {
            Serial = given[0].GetProperty("serial").GetString(),
        };
        (await store.GiveAsync("MR-0822", "PL-08A", first, "Pim", DateTimeOffset.UnixEpoch, default)).ShouldBeNull();
    }

    [Fact]
    public async Task A_second_probe_under_the_taken_identity_is_of_this_machine_and_both_stay_on_record()
    {
        await TakeInAsync(Tag);
        var given = await GiveAsync(Tag);
        var taken = Plinth(Tag) with
        {
            Model = "Plinth PL-08A",
            Serial = given.GetProperty("serial").GetString()!,
            Board = "OT-PLINTH-8",
        };
        var answer = await _client.PostAsync(
            $"/api/machines/{Tag}/bundles",
            TestWorkshop.Form(null, ("b.tar.gz", Bundle(taken, 15)))
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
        var machine = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}");

        machine.FactText("identity.model").ShouldBe("Plinth PL-06B");
        machine.FactText("identity.serial").ShouldBe($"P6-{Tag}");
        machine.FactText("identity.taken").ShouldBe("Plinth PL-08A");
        machine.FactText("identity.takenSerial").ShouldBe(given.GetProperty("serial").GetString());
        machine.FactText("identity.takenBoard").ShouldBe("OT-PLINTH-8");

        // The same probe of a machine that was given nothing is another machine's.
        await TakeInAsync("MR-0823");
        (
            await _client.PostAsync(
                "/api/machines/MR-0823/bundles",
                TestWorkshop.Form(null, ("c.tar.gz", Bundle(taken with { Cpu = "Corvane C6-2" }, 16)))
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task A_level_that_takes_less_keeps_the_serial_and_a_processor_is_mended_alone()
    {
        await TakeInAsync(Tag);
        (await GiveAsync(Tag, "boardId")).GetProperty("serial").ValueKind.ShouldBe(JsonValueKind.Null);
        var mended = await (
            await _client.PostAsJsonAsync(
                $"/api/machines/{Tag}/identity",
                new
                {
                    level = "processor",
                    processor = "Corvane C6-240",
                    by = "Pim",
                }
            )
        ).JsonAsync();
        var diff = await _client.GetFromJsonAsync<JsonElement>(
            $"/api/machines/{Tag}/identity/{mended.GetProperty("id").GetInt32()}/diff"
        );
        diff.GetProperty("differences")[0].GetProperty("after").GetString().ShouldBe("Corvane C6-240");
        diff.GetProperty("differences").GetArrayLength().ShouldBe(1);

        using var nothing = new StringContent(
            """{"level":"full","by":"Pim","donor":"XX-1"}""",
            Encoding.UTF8,
            "application/json"
        );
        (await _client.PostAsync($"/api/machines/{Tag}/identity", nothing)).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );
    }
}
