using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Whatever page one looks at says the same of a machine: its aim, its outcome, where it hangs.</summary>
public sealed class OneWordTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;

    public OneWordTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
    }

    private Task<JsonElement> GetAsync(string path) => _client.GetFromJsonAsync<JsonElement>(path);

    private async Task TableAsync(int seed, int machines)
    {
        // Facts as a random shop has them; a gap is a fact that nobody measured.
        (string Key, string[] Values)[] space =
        [
            ("release.owner", ["given", "given", "given", ""]),
            ("release.managed", ["free", "free", "claimed", ""]),
            ("release.data", ["not-wanted", "saved", ""]),
            ("release.encryption", ["none", "none", ""]),
            ("parts.powersOn", ["yes", "yes", "yes", ""]),
            ("parts.battery", ["sound", "swollen", ""]),
            ("parts.storage", ["sound", "sound", "replace", ""]),
            ("identity.maker", ["Brackwater", "Ottavine", ""]),
            ("cpu.model", ["Corvane C8-350", "Corvane C5-210", "Corvane C2-100", ""]),
            ("cpu.arch", ["x86", "x86", "x86", "arm", ""]),
            ("memory.installedMiB", ["1024", "4096", "8192", ""]),
            ("memory.maxMiB", ["8192", "16384", ""]),
            ("memory.slots", ["2", "4", ""]),
            ("memory.slotsUsed", ["1", "2", ""]),
            ("memory.type", ["DDR4 SO-DIMM", ""]),
            ("storage.0.sizeBytes", ["32000000000", "128000000000", "500000000000", ""]),
            ("firmware.kind", ["bios", "uefi64", "uefi32", "locked", ""]),
            ("firmware.startedBy", ["bios", "uefi", ""]),
            ("firmware.secureBoot", ["absent", "able", "on", ""]),
            ("tpm.version", ["absent", "off", "2.0", ""]),
            ("graphics.0.model", ["Corvane C8 graphics", ""]),
            ("network.0.model", ["Netherby NB-12", "Airlath AL-43", ""]),
            ("order.name", ["Brackwater Library", "", ""]),
        ];
        var random = new Random(seed);
        var table = new StringBuilder($"tag,{string.Join(',', space.Select(s => s.Key))}\n");
        for (var i = 0; i < machines; i++)
            table.AppendLine(
                CultureInfo.InvariantCulture,
                $"MR-{1000 + i},{string.Join(',', space.Select(s => $"\"{s.Values[random.Next(s.Values.Length)]}\""))}"
            );
        using var body = new StringContent(table.ToString(), Encoding.UTF8, "text/csv");
        var answer = await _client.PostAsync("/api/machines/csv?by=Pim", body);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK, await answer.Content.ReadAsStringAsync());
    }

    private async Task OrderAsync()
    {
        (
            await _client.PostAsJsonAsync(
                "/api/orders",
                new
                {
                    order = new
                    {
                        id = "",
                        name = "Brackwater Library",
                        about = "Desks.",
                        machines = 10,
                        due = "2020-01-01",
                        newOwner = true,
                        shared = false,
                        everyday = true,
                        lookedAfterBy = "owner",
                        needs = new[]
                        {
                            new
                            {
                                kind = "noAccount",
                                hard = true,
                                purpose = (string?)null,
                                until = (string?)null,
                                money = (int?)null,
                            },
                        },
                    },
                    by = "Pim",
                }
            )
        ).EnsureSuccessStatusCode();
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public async Task Bench_plate_ladder_routes_search_and_order_agree(int seed)
    {
        await OrderAsync();
        await TableAsync(seed, 60);
        var bench = await GetAsync("/api/machines");
        bench.GetArrayLength().ShouldBe(60);
        foreach (var machine in bench.EnumerateArray())
        {
            var tag = machine.GetProperty("tag").GetString()!;
            var aim = machine.GetProperty("aim").GetString()!;
            (await GetAsync($"/api/machines/{tag}")).GetProperty("aim").GetString().ShouldBe(aim, tag);
            var best = (await GetAsync($"/api/machines/{tag}/routes"))[0];
            if (aim.Length == 0)
                best.GetProperty("school").GetString().ShouldBe("retire", tag);
            else if (best.GetProperty("system").GetString() is { } system)
                system.ShouldBe(aim, tag);
            if (aim.Length > 0)
            {
                var ladder = (await GetAsync($"/api/machines/{tag}/systems")).System(aim);
                Text(ladder, "outcome").ShouldBe(Text(machine, "outcome"), tag);
                ladder
                    .GetProperty("rungs")
                    .EnumerateArray()
                    .Select(r => Text(r, "outcome"))
                    .ShouldBe(machine.GetProperty("rungs").EnumerateArray().Select(r => r.GetString()!), tag);
            }
            var found = (await GetAsync($"/api/machines?find={tag}")).EnumerateArray().Single();
            found.GetRawText().ShouldBe(machine.GetRawText(), tag);
            if (machine.GetProperty("order").GetString() is { } order)
                (await GetAsync($"/api/machines?find={Uri.EscapeDataString($"{order} late")}"))
                    .EnumerateArray()
                    .ShouldContain(m => Text(m, "tag") == tag);
        }
        var matrix = await GetAsync("/api/matrix");
        foreach (var row in matrix.GetProperty("machines").EnumerateArray())
        {
            var machine = bench.EnumerateArray().Single(m => Text(m, "tag") == Text(row, "tag"));
            var aim = Text(machine, "aim");
            var column = matrix
                .GetProperty("systems")
                .EnumerateArray()
                .Select(s => Text(s, "id"))
                .ToList()
                .IndexOf(aim);
            if (column >= 0)
                row.GetProperty("outcomes")[column].GetString().ShouldBe(Text(machine, "outcome"));
        }
    }

    [Fact]
    public async Task An_order_counts_what_is_ready_and_says_what_fits_it()
    {
        await OrderAsync();
        await TableAsync(3, 40);
        var bench = (await GetAsync("/api/machines")).EnumerateArray().ToArray();
        var mine = bench.Count(m => m.GetProperty("order").GetString() == "Brackwater Library");
        var order = (await GetAsync("/api/orders"))[0];
        order.GetProperty("aside").GetInt32().ShouldBe(mine);
        order.GetProperty("missing").GetInt32().ShouldBe(Math.Max(0, 10 - mine));
        order.GetProperty("daysLeft").GetInt32().ShouldBeLessThan(0);

        var fits = (await GetAsync($"/api/orders/{order.GetProperty("order").GetProperty("id").GetString()}/fitting"))
            .EnumerateArray()
            .ToArray();
        fits.ShouldNotBeEmpty();
        fits.Select(f => f.GetProperty("route").GetProperty("score").GetDouble())
            .ShouldBeInOrder(SortDirection.Descending);
        var best = Text(fits[0], "tag");
        bench.Single(m => Text(m, "tag") == best).GetProperty("order").ValueKind.ShouldBe(JsonValueKind.Null);

        foreach (var (value, aside) in ((string, int)[])[("Brackwater Library", mine + 1), ("nobody", mine)])
        {
            (
                await _client.PutAsJsonAsync(
                    $"/api/machines/{best}/facts/order.name",
                    new
                    {
                        value,
                        source = "said",
                        by = "Pim",
                    }
                )
            ).EnsureSuccessStatusCode();
            (await GetAsync("/api/orders"))[0].GetProperty("aside").GetInt32().ShouldBe(aside);
        }
        (await _client.GetAsync("/api/orders/none/fitting")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_machine_leaves_only_with_its_hand_over()
    {
        await TableAsync(4, 1);
        (
            await _client.PutAsJsonAsync("/api/machines/MR-1000/left", new { left = true, by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await GetAsync("/api/machines?find=left")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task Who_chooses_an_aim_says_why_and_the_plate_says_that_it_was_chosen()
    {
        await TableAsync(5, 1);
        (await GetAsync("/api/machines/MR-1000")).GetProperty("aimChosen").GetBoolean().ShouldBeFalse();
        var chosen = await (
            await _client.PutAsJsonAsync(
                "/api/machines/MR-1000/aim",
                new
                {
                    system = "plover-light-5",
                    by = "Odalys",
                    why = "the school has it",
                }
            )
        ).JsonAsync();
        chosen.GetProperty("aim").GetString().ShouldBe("plover-light-5");
        chosen.GetProperty("aimChosen").GetBoolean().ShouldBeTrue();
        chosen.FactText("plan.aimWhy").ShouldBe("the school has it");
    }

    private static string Text(JsonElement of, string name) => of.GetProperty(name).GetString() ?? "";
}
