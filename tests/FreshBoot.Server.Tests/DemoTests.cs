using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

public class DemoTests
{
    [Fact]
    public async Task The_demo_fleet_shows_all_ten_outcomes_and_all_seven_schools()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var machines = (await workshop.CreateClient().GetFromJsonAsync<JsonElement>("/api/machines"))
            .EnumerateArray()
            .ToArray();

        machines.Select(m => m.GetProperty("outcome").GetString()).Distinct().Count().ShouldBe(10);
        machines.Length.ShouldBeGreaterThanOrEqualTo(10);
        var runs = machines.Select(m => m.GetProperty("run")).Where(r => r.ValueKind == JsonValueKind.Object).ToArray();
        runs.ShouldContain(r => r.GetProperty("waiting").ValueKind == JsonValueKind.Object);
        runs.ShouldContain(r => r.GetProperty("finishedAt").ValueKind == JsonValueKind.String);

        var client = workshop.CreateClient();
        var schools = new HashSet<string?>(StringComparer.Ordinal);
        foreach (var machine in machines)
        foreach (
            var route in (
                await client.GetFromJsonAsync<JsonElement>(
                    $"/api/machines/{machine.GetProperty("tag").GetString()}/routes"
                )
            ).EnumerateArray()
        )
            schools.Add(route.GetProperty("school").GetString());
        schools.Count.ShouldBe(7);
        (await client.GetAsync("/api/machines/MR-0406/handover")).EnsureSuccessStatusCode();
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task The_demo_afternoon_is_the_same_whenever_it_is_shown()
    {
        await using var workshop = new TestWorkshop { Demo = true };
        var health = await workshop.CreateClient().GetFromJsonAsync<JsonElement>("/api/health");

        health.GetProperty("now").GetString()!.ShouldStartWith("2026-12-03T14:2");
    }
}
