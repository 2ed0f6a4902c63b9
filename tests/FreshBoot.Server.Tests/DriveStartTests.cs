using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>Planned layouts, written by sfdisk to simulated drives and started for real in the twin.</summary>
public sealed class DriveStartTests(DemoWorkshop demo) : IClassFixture<DemoWorkshop>, IDisposable
{
    private readonly HttpClient _client = demo.Client;
    private readonly string _folder = Directory.CreateTempSubdirectory("drives-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private async Task<JsonElement> StartAsync(string tag)
    {
        var begun = await _client.PostAsJsonAsync($"/api/machines/{tag}/layout/drive", new { by = "Pim" });
        Assert.True(begun.StatusCode == HttpStatusCode.Accepted, await begun.Content.ReadAsStringAsync());
        var id = (await begun.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("id").GetInt32();
        while (true)
        {
            var job = await _client.GetFromJsonAsync<JsonElement>($"/api/jobs/{id}");
            if (job.GetProperty("state").GetString() is not ("queued" or "running"))
                return job;
            await Task.Delay(100);
        }
    }

    [Theory]
    [InlineData("MR-0417", "uefi64", "gpt")]
    [InlineData("MR-0401", "bios", "dos")]
    [InlineData("MR-0402", "bios", "gpt")]
    public async Task A_planned_layout_starts_in_the_twin_and_its_drive_is_what_was_planned(
        string tag,
        string firmware,
        string label
    )
    {
        if (label == "gpt" && firmware == "bios")
            await _client.PutAsJsonAsync(
                $"/api/machines/{tag}/facts/plan.scheme",
                new
                {
                    value = "gpt",
                    source = "wished",
                    by = "Pim",
                }
            );
        var job = await StartAsync(tag);
        Assert.True(
            job.GetProperty("state").GetString() == "done",
            $"{job.GetProperty("says").GetString()} {job.GetProperty("result")}"
        );
        Assert.Equal(firmware, job.GetProperty("result").GetProperty("firmware").GetString());
        Assert.NotEmpty(job.GetProperty("result").GetProperty("screens").EnumerateArray());

        // Downloaded, the drive is small; unpacked, it has its size, and sfdisk reads the plan back from it.
        var packed = Path.Combine(_folder, "drive.tar.gz");
        await File.WriteAllBytesAsync(packed, await _client.GetByteArrayAsync($"/api/machines/{tag}/layout/drive"));
        Assert.InRange(new FileInfo(packed).Length, 100_000, 40_000_000);
        await ProgramOutput.Of("tar", "-xSzf", packed, "-C", _folder);
        var drive = Path.Combine(_folder, $"{tag}.drive");
        var table = JsonDocument
            .Parse(await ProgramOutput.Of("sfdisk", "-J", drive))
            .RootElement.GetProperty("partitiontable");
        Assert.Equal(label, table.GetProperty("label").GetString());
        var sheet = await (
            await _client.PostAsJsonAsync($"/api/machines/{tag}/layout", new { })
        ).Content.ReadFromJsonAsync<JsonElement>();
        Assert.Equal(sheet.GetProperty("sectors").GetInt64() * 512, new FileInfo(drive).Length);
        Assert.Equal(
            sheet
                .GetProperty("partitions")
                .EnumerateArray()
                .Select(p => (p.GetProperty("startLba").GetInt64(), p.GetProperty("sizeLba").GetInt64())),
            table
                .GetProperty("partitions")
                .EnumerateArray()
                .Select(p => (p.GetProperty("start").GetInt64(), p.GetProperty("size").GetInt64()))
        );
    }

    [Fact]
    public async Task Where_a_system_stays_or_nothing_was_divided_it_says_so()
    {
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await _client.GetAsync("/api/machines/MR-0424/layout/drive")).StatusCode
        );
        await _client.PutAsJsonAsync(
            "/api/machines/MR-0424/facts/layout.keepBytes",
            new
            {
                value = "50 GB",
                source = "looked",
                by = "Pim",
            }
        );
        var job = await StartAsync("MR-0424");
        Assert.Equal("failed", job.GetProperty("state").GetString());
        Assert.Contains("A system stays", job.GetProperty("says").GetString(), StringComparison.Ordinal);
    }
}
