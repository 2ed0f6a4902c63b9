using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Machines of the demo that must not be begun: each says in one sentence why, and what to do.</summary>
public class BlockedMachinesTests
{
    private static readonly (string Tag, string Why, string WhatToDo)[] Machines =
    [
        ("MR-0412", "claims itself again", "write to it with both serial numbers"),
        ("MR-0428", "swollen or leaking", "have it taken out"),
        ("MR-0420", "failing", "put in another drive"),
        ("MR-0421", "no recovery key", "Get the recovery key from the owner"),
    ];

    [Fact]
    public async Task None_of_them_starts_a_run_by_any_route_and_each_says_why_and_what_to_do()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var client = workshop.CreateClient();
        foreach (var (tag, why, what) in Machines)
        {
            var sheet = await client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/release");
            sheet.GetProperty("mayBegin").GetBoolean().ShouldBeFalse(tag);
            var stops = sheet
                .GetProperty("stops")
                .EnumerateArray()
                .Select(s => s.GetProperty("text").GetString()!)
                .ToArray();
            stops.ShouldContain(s => s.Contains(why) && s.Contains(what), $"{tag}: {string.Join(" | ", stops)}");

            // A machine whose data is decided fails for its own reason alone.
            if (tag == "MR-0420")
                await client.PutAsJsonAsync($"/api/machines/{tag}/release", new { by = "Pim", data = "not-wanted" });
            foreach (
                var route in (
                    await client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/routes")
                ).EnumerateArray()
            )
            {
                // A drive may be failing in a machine that is taken apart.
                if (tag == "MR-0420" && route.GetProperty("school").GetString() == "retire")
                    continue;
                var answer = await client.PostAsJsonAsync(
                    $"/api/machines/{tag}/runs",
                    new
                    {
                        routeId = route.GetProperty("id").GetString(),
                        by = "Pim",
                        @override = new { reason = "hurry", by = "Pim" },
                    }
                );
                answer.StatusCode.ShouldBe(HttpStatusCode.Conflict, tag);
                (await answer.JsonAsync()).GetProperty("detail").GetString()!.ShouldContain(why);
            }
        }
    }
}
