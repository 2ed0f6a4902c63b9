using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>The order of switches over HTTP, for machines of the demo shop.</summary>
public sealed class SwitchesApiTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>
{
    private readonly HttpClient _client = demo.Client;

    private async Task<JsonElement> PlanAsync(string tag, object body, HttpStatusCode wanted = HttpStatusCode.OK)
    {
        var answer = await _client.PostAsJsonAsync($"/api/machines/{tag}/firmware-plan", body);
        Assert.Equal(wanted, answer.StatusCode);
        return await answer.Content.ReadFromJsonAsync<JsonElement>();
    }

    [Fact]
    public async Task A_machine_that_needs_three_switches_gets_them_in_order_by_its_makers_names()
    {
        var plan = await PlanAsync("MR-0423", new { });
        Assert.Equal(
            ["mode", "compatibility", "tpm", "usbStart"],
            plan.GetProperty("steps").EnumerateArray().Select(s => s.GetProperty("switch").GetString())
        );
        Assert.Equal(
            "“Trusted module” on the page Peripherals",
            plan.GetProperty("steps")[2].GetProperty("where").GetString()
        );
        var paper = await _client.GetStringAsync("/api/machines/MR-0423/firmware-plan");
        Assert.Contains("as it was, by hand", paper, StringComparison.Ordinal);
        Assert.DoesNotContain("Drive encryption", paper, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_cannot_be_is_told_with_what_would_be_right()
    {
        var none = await PlanAsync("MR-0423", new { wanted = new { mode = "bios", secureBoot = "on" } });
        Assert.Equal(JsonValueKind.Null, none.GetProperty("steps").ValueKind);
        Assert.NotEmpty(none.GetProperty("whyNone").GetString()!);
        var odd = await PlanAsync("MR-0423", new { wanted = new { tpm = "cleared" } }, HttpStatusCode.BadRequest);
        Assert.Equal("wanted.tpm", odd.GetProperty("where").GetString());
        var locked = await PlanAsync("MR-0411", new { }, HttpStatusCode.UnprocessableEntity);
        Assert.Contains("locked", locked.GetProperty("detail").GetString(), StringComparison.Ordinal);
        await PlanAsync("MR-0423", new { route = "gone" }, HttpStatusCode.Conflict);
        await PlanAsync("MR-7777", new { }, HttpStatusCode.NotFound);
    }
}
