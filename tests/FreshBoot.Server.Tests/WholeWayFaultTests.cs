using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>A whole way on a bad day: the states say what is true, and no emulator is left behind.</summary>
public sealed class WholeWayFaultTests
{
    private static async Task<(string Tag, string Route)> ReadyAsync(ServerProcess server, string tag)
    {
        var runs = new RunDriver(server.Client);
        await runs.MachineAsync(tag);
        await server.Client.PutImageAsync(DemoImages.Of("wickerwork-26"), "wickerwork-26");
        return (tag, (await runs.RouteAsync(tag, "wickerwork-26", "comply")).GetProperty("id").GetString()!);
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_killed_server_says_at_its_next_start_that_the_way_was_interrupted_and_ends_the_emulator()
    {
        using var server = new ServerProcess();
        await server.StartAsync();
        var (tag, route) = await ReadyAsync(server, "MR-0911");
        var begun = await server.Client.PostAsJsonAsync(
            $"/api/machines/{tag}/routes/{route}/whole-way",
            new { by = "Pim" }
        );
        begun.StatusCode.ShouldBe(HttpStatusCode.Accepted, await begun.Content.ReadAsStringAsync());
        var id = (await begun.JsonAsync()).GetProperty("id").GetInt32();
        while ((await EmulatorsAsync(server)).Length == 0)
        {
            (await server.Client.GetFromJsonAsync<JsonElement>($"/api/jobs/{id}"))
                .GetProperty("state")
                .GetString()
                .ShouldBeOneOf("queued", "running");
            await Task.Delay(100);
        }
        server.Kill();
        await server.StartAsync();
        var job = await server.Client.GetFromJsonAsync<JsonElement>($"/api/jobs/{id}");
        job.GetProperty("state").GetString().ShouldBe("interrupted");
        (await EmulatorsAsync(server)).ShouldBeEmpty();
        // Nothing of it counts: the image has no evidence.
        (await server.Client.GetFromJsonAsync<JsonElement>($"/api/machines/{tag}/work-items?route={route}"))
            .GetProperty("items")
            .EnumerateArray()
            .First(i => i.GetProperty("id").GetString() == "image")
            .GetProperty("evidence")
            .GetArrayLength()
            .ShouldBe(0);
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task Where_there_is_no_room_for_a_drive_it_does_not_begin()
    {
        using var server = new ServerProcess(diskMiB: 400);
        await server.StartAsync();
        var (tag, route) = await ReadyAsync(server, "MR-0912");
        var refused = await server.Client.PostAsJsonAsync(
            $"/api/machines/{tag}/routes/{route}/whole-way",
            new { by = "Pim" }
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.InsufficientStorage);
        (await refused.JsonAsync()).GetProperty("wanted").GetString()!.ShouldStartWith("Room on the disk");
        (await server.Client.GetFromJsonAsync<JsonElement>("/api/jobs?kind=wholeWay")).GetArrayLength().ShouldBe(0);
    }

    private static async Task<string[]> EmulatorsAsync(ServerProcess server) =>
        [
            .. (await ProgramOutput.Of("sh", "-c", "ps -eo args | grep '^qemu-system' || true"))
                .Split('\n')
                .Where(l => l.Contains(server.Data, StringComparison.Ordinal)),
        ];
}
