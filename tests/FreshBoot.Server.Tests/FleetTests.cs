using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>What is asked of machines together, of orders, and of a machine on paper.</summary>
public class FleetTests
{
    [Fact]
    public async Task The_matrix_is_the_ladders_of_every_machine_as_json_and_as_a_table()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        var matrix = await client.GetFromJsonAsync<JsonElement>("/api/matrix");
        var systems = matrix
            .GetProperty("systems")
            .EnumerateArray()
            .Select(s => s.GetProperty("id").GetString())
            .ToArray();
        var rows = matrix.GetProperty("machines").EnumerateArray().ToArray();

        systems.Length.ShouldBe(16);
        rows.Length.ShouldBe(26);
        var row = rows.Single(r => r.GetProperty("tag").GetString() == "MR-0409");
        (await client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0409/systems"))
            .EnumerateArray()
            .Select(a => a.GetProperty("outcome").GetString())
            .ShouldBe(row.GetProperty("outcomes").EnumerateArray().Select(o => o.GetString()));

        using var asked = new HttpRequestMessage(HttpMethod.Get, "/api/matrix");
        asked.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("text/csv"));
        var table = await (await client.SendAsync(asked)).Content.ReadAsStringAsync();
        var lines = table.TrimEnd().Split('\n');
        lines.Length.ShouldBe(27);
        lines[0].Trim().ShouldBe($"tag,maker,model,order,{string.Join(',', systems)}");
        lines.ShouldContain(l => l.StartsWith("MR-0409,Brackwater,Stile 12,Seed Library,"));

        (await client.GetFromJsonAsync<JsonElement>("/api/matrix/parts"))
            .EnumerateArray()
            .Select(p => p.GetProperty("opens").GetInt32())
            .ShouldBeInOrder(SortDirection.Descending);
    }

    [Fact]
    public async Task On_paper_a_part_is_fitted_and_a_fact_changed_and_nothing_is_stored()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        async Task<string?> Outcome(object what) =>
            (
                await (
                    await client.PostAsJsonAsync("/api/machines/MR-0417/what-if", what)
                ).Content.ReadFromJsonAsync<JsonElement>()
            )
                .EnumerateArray()
                .Single(a => a.GetProperty("system").GetString() == "tessaly-6-r2")
                .GetProperty("outcome")
                .GetString();

        (await Outcome(new { })).ShouldBe("part");
        (await Outcome(new { parts = new[] { "memory-add-1xddr4-so-dimm-8g" } })).ShouldBe("driver");
        (await Outcome(new { facts = new Dictionary<string, object> { ["release.owner"] = "refused" } })).ShouldBe(
            "wall"
        );
        (await Outcome(new { })).ShouldBe("part");

        (
            await client.PostAsJsonAsync("/api/machines/MR-0417/what-if", new { parts = new[] { "no-such-part" } })
        ).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (
            await client.PostAsJsonAsync(
                "/api/machines/MR-0417/what-if",
                new { facts = new Dictionary<string, object> { ["no.such"] = 1 } }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_cheapest_way_is_told_or_why_there_is_none()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();

        var way = await client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0423/cheapest?system=tessaly-6-r2");
        way.GetProperty("route").GetProperty("system").GetString().ShouldBe("tessaly-6-r2");
        var none = await client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0409/cheapest?system=tessaly-6-r2");
        none.GetProperty("route").ValueKind.ShouldBe(JsonValueKind.Null);
        none.GetProperty("missing")[0].GetProperty("text").GetString()!.ShouldContain("x86-64-v3");
        (await client.GetAsync("/api/machines/MR-0409/cheapest?system=none")).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task Weights_and_another_order_rank_the_routes_anew()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        async Task<JsonElement[]> Routes(string query) =>
            [.. (await client.GetFromJsonAsync<JsonElement>($"/api/machines/MR-0404/routes{query}")).EnumerateArray()];

        var quick = await Routes("?weights=0,100,0,0,0");
        quick
            .Where(r => r.GetProperty("school").GetString() != "retire")
            .Select(r => r.GetProperty("handsOnMinutes").GetInt32())
            .ShouldBeInOrder();
        (await Routes("?order=weir-keepers")).ShouldNotContain(r => r.GetProperty("system").GetString() == "driftway");
        (await Routes("?system=tessaly-6-r2")).ShouldAllBe(r =>
            r.GetProperty("school").GetString() == "retire" || r.GetProperty("system").GetString() == "tessaly-6-r2"
        );
        foreach (var bad in new[] { "?weights=1,2", "?order=nobody", "?system=none" })
            (await client.GetAsync($"/api/machines/MR-0404/routes{bad}")).IsSuccessStatusCode.ShouldBeFalse(bad);
    }

    [Fact]
    public async Task A_choice_keeps_routes_out_and_is_kept_with_who_made_it()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        (await client.GetFromJsonAsync<JsonElement>("/api/choices")).GetArrayLength().ShouldBe(16);

        (
            await client.PutAsJsonAsync(
                "/api/machines/MR-0404/facts/plan.rules",
                new
                {
                    value = "lift",
                    source = "chosen",
                    by = "Pim Achterberg",
                }
            )
        ).EnsureSuccessStatusCode();
        var schools = (await client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0404/routes"))
            .EnumerateArray()
            .Select(r => r.GetProperty("school").GetString())
            .Distinct()
            .ToArray();

        schools.ShouldBe(["patch", "retire"]);
    }

    [Fact]
    public async Task Orders_are_taken_changed_and_refused()
    {
        await using var workshop = new TestWorkshop();
        var client = workshop.CreateClient();
        object Order(string name, int machines = 3) =>
            new
            {
                id = "",
                name,
                about = "Two desks.",
                machines,
                due = (string?)null,
                newOwner = true,
                shared = false,
                everyday = true,
                lookedAfterBy = "owner",
                needs = new[]
                {
                    new
                    {
                        kind = "program",
                        hard = true,
                        purpose = "web",
                    },
                },
            };

        var taken = await client.PostAsJsonAsync("/api/orders", new { order = Order("Lock Cottage"), by = "Pim" });
        taken.StatusCode.ShouldBe(HttpStatusCode.Created);
        var place = taken.Headers.Location!.ToString();
        // Ids do not come from names, which are written in any script.
        foreach (var name in new[] { "Школа", "学校", "مدرسة", "***" })
        {
            var other = await client.PostAsJsonAsync("/api/orders", new { order = Order(name), by = "Pim" });
            other.StatusCode.ShouldBe(HttpStatusCode.Created);
            (await client.GetAsync($"{other.Headers.Location}/fitting")).StatusCode.ShouldBe(HttpStatusCode.OK);
        }
        (
            await client.PostAsJsonAsync("/api/orders", new { order = Order("Lock Cottage"), by = "Pim" })
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await client.PostAsJsonAsync("/api/orders", new { order = Order("Mill", 0), by = "Pim" })).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest
        );

        Task<HttpResponseMessage> Change(int version) =>
            client.PutAsJsonAsync(
                place,
                new
                {
                    order = Order("Lock Cottage", 5),
                    version,
                    by = "Pim",
                }
            );
        (await Change(1)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await Change(1)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var order = (await client.GetFromJsonAsync<JsonElement>("/api/orders"))
            .EnumerateArray()
            .Single(o => o.GetProperty("order").GetProperty("name").GetString() == "Lock Cottage");
        order.GetProperty("order").GetProperty("machines").GetInt32().ShouldBe(5);
        order.GetProperty("version").GetInt32().ShouldBe(2);
    }

    [Fact]
    public async Task Donors_are_told_what_is_wanted_and_a_machine_at_the_door_is_checked()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();

        var wanted = (await client.GetFromJsonAsync<JsonElement>("/api/wanted")).EnumerateArray().ToArray();
        wanted.Length.ShouldBe(4);
        wanted.Sum(w => w.GetProperty("missing").GetInt32()).ShouldBeGreaterThan(0);
        var door = (await client.GetFromJsonAsync<JsonElement>("/api/wanted/check?model=Stile%2014")).EnumerateArray();
        door.ShouldContain(d =>
            d.GetProperty("order").GetString() == "Pattern Night School"
            && d.GetProperty("model").GetProperty("upTo").GetInt32() > 0
        );
        (await client.GetAsync("/api/wanted/check?model=")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }
}
