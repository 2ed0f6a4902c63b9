using System.Net.Http.Json;
using System.Text.Json;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>The demo on a disk of its own, which can be made as full as a test wants.</summary>
public sealed class SmallDisk : IAsyncLifetime
{
    /// <summary>The demo, the room that long work wants ahead, and what is always left free.</summary>
    private const int DiskMiB = 1400;

    internal ServerProcess Server { get; } = new(DiskMiB, demo: true);

    /// <inheritdoc/>
    public Task InitializeAsync() => Server.StartAsync();

    /// <inheritdoc/>
    public Task DisposeAsync()
    {
        Server.Dispose();
        return Task.CompletedTask;
    }
}

/// <summary>
/// The disk runs full in the middle of each kind of long work, after it was let begin: it ends and says so, it claims nothing, nothing
/// half-made lies about or is offered, and when there is room again the same work is done.
/// </summary>
public sealed class FullDiskTests(SmallDisk disk) : IClassFixture<SmallDisk>
{
    private readonly HttpClient _client = disk.Server.Client;

    /// <summary>Of the bytes that are left free in the middle.</summary>
    private const long Little = 64 << 10;

    /// <summary>A full disk may be met a moment too late: the work was done by then, and is begun again.</summary>
    private const int Tries = 8;

    private string Inside(params string[] path) => Path.Combine([disk.Server.DataInside, .. path]);

    private async Task<JsonElement> GetAsync(string path) => await _client.GetFromJsonAsync<JsonElement>(path);

    private async Task<JsonElement> PostAsync(string path, object body)
    {
        var answer = await _client.PostAsJsonAsync(path, body);
        answer.IsSuccessStatusCode.ShouldBeTrue($"{path}: {await answer.Content.ReadAsStringAsync()}");
        return await answer.JsonAsync();
    }

    private async Task<int> ImageAsync(string system) =>
        (await GetAsync("/api/images"))
            .GetProperty("images")
            .EnumerateArray()
            .Select(i => i.GetProperty("image"))
            .First(i =>
                i.GetProperty("system").GetString() == system
                && i.GetProperty("whole").GetBoolean()
                && i.GetProperty("parent").ValueKind == JsonValueKind.Null
            )
            .GetProperty("id")
            .GetInt32();

    /// <summary>A stick so slow that the disk fills while it is written.</summary>
    private async Task<int> SlowStickAsync(string label) => (
            await PostAsync(
                "/api/media",
                new
                {
                    label,
                    kind = "stick",
                    sizeBytes = 64 << 20,
                    faults = new { bytesPerSecond = 8_000_000 },
                }
            )
        ).GetProperty("id").GetInt32();

    private async Task<string?> StateOfAsync(int medium) =>
        (await GetAsync("/api/media"))
            .EnumerateArray()
            .Single(m => m.GetProperty("id").GetInt32() == medium)
            .GetProperty("state")
            .GetString();

    private async Task<bool> IsUnderWayAsync(int job) =>
        (await GetAsync($"/api/jobs/{job}")).GetProperty("part").GetDouble() > 0.02;

    private bool Lies(string folder, string pattern = "*") =>
        Directory.Exists(Inside(folder)) && Directory.EnumerateFileSystemEntries(Inside(folder), pattern).Any();

    /// <summary>
    /// Begins work, takes the room away in the middle of it, and looks at what is left; then with room again to its end.
    /// </summary>
    /// <param name="begin">Begins it: the job, which was let begin.</param>
    /// <param name="middle">Whether it is in the middle of it.</param>
    /// <param name="after">What has to hold after it failed.</param>
    /// <param name="writesFiles">
    /// Whether it writes files. What only the database keeps may find room in its log, and then was really done.
    /// </param>
    private async Task RunsFullAsync(
        Func<Task<JsonElement>> begin,
        Func<int, Task<bool>> middle,
        Func<Task>? after = null,
        bool writesFiles = true
    )
    {
        var before = Halves();
        for (var tries = 1; ; tries++)
        {
            var job = await begin();
            var id = job.GetProperty("id").GetInt32();
            while (!await middle(id) && IsGoingOn(await GetAsync($"/api/jobs/{id}")))
                await Task.Yield();
            disk.Server.Leave(Little);
            try
            {
                // The end of a job is told though it cannot be written down.
                job = JsonOf(
                    (await _client.GetStringAsync($"/api/jobs/{id}/events"))
                        .Split('\n')
                        .Last(l => l.StartsWith("data:", StringComparison.Ordinal))[5..]
                );
            }
            finally
            {
                disk.Server.Leave(null);
            }
            if (job.GetProperty("state").GetString() == "failed")
            {
                job.GetProperty("says").GetString()!.ShouldMatch("^The disk is full|are free");
                while (IsGoingOn(JsonOf(await _client.GetStringAsync($"/api/jobs/{id}"))) || await IsWrittenAsync())
                    await Task.Delay(50);
                if (after is not null)
                    await after();
                break;
            }
            job.GetProperty("state").GetString().ShouldBe("done", job.ToString());
            if (!writesFiles)
                break;
            tries.ShouldBeLessThan(Tries, "the disk was never full in the middle of it");
        }
        Halves().ShouldBe(before);
        var done = await _client.DoneAsync(await begin());
        done.GetProperty("state").GetString().ShouldBe("done", done.ToString());
        Halves().ShouldBe(before);
        (await GetAsync("/api/jobs")).EnumerateArray().Where(IsGoingOn).ShouldBeEmpty();

        static JsonElement JsonOf(string text) => JsonDocument.Parse(text).RootElement;

        // What a medium has become is written down as soon as there is room.
        async Task<bool> IsWrittenAsync() =>
            (await GetAsync("/api/media")).EnumerateArray().Any(m => m.GetProperty("state").GetString() == "writing");

        static bool IsGoingOn(JsonElement job) => job.GetProperty("state").GetString() is "queued" or "running";

        string[] Halves() =>
            [
                .. Directory
                    .EnumerateFileSystemEntries(Inside(), "*", SearchOption.AllDirectories)
                    .Where(f =>
                        f.EndsWith(".part", StringComparison.Ordinal)
                        || f.Contains("/work/", StringComparison.Ordinal)
                        || f.Contains("/backups/.", StringComparison.Ordinal)
                    )
                    .Order(StringComparer.Ordinal),
            ];
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task An_image_that_is_taken_from_the_folder_stays_where_it_was()
    {
        var number = 0;
        await RunsFullAsync(
            async () =>
            {
                var name = $"brought-{++number}.iso";
                File.Copy(DemoImages.Of("tessaly-6-r1"), Inside("images", name));
                return await PostAsync(
                    "/api/images",
                    new
                    {
                        name,
                        file = name,
                        system = "tessaly-6-r1",
                        by = "Pim",
                    }
                );
            },
            _ => Task.FromResult(true),
            () =>
            {
                File.Exists(Inside("images", $"brought-{number}.iso")).ShouldBeTrue();
                return Task.CompletedTask;
            },
            writesFiles: false
        );
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_patched_image_is_not_on_the_shelf()
    {
        var image = await ImageAsync("tessaly-6-r1");
        var images = (await GetAsync("/api/images")).GetProperty("images").GetArrayLength();
        await RunsFullAsync(
            async () =>
                (
                    await PostAsync($"/api/images/{image}/patch", new { recipe = "tessaly-6-r1-gates", by = "Pim" })
                ).GetProperty("job"),
            _ => Task.FromResult(Lies("images", "*.part")),
            async () => (await GetAsync("/api/images")).GetProperty("images").GetArrayLength().ShouldBe(images)
        );
    }

    [Fact]
    public async Task A_stick_that_was_being_written_is_not_ready()
    {
        var image = await ImageAsync("tessaly-6-r1");
        var stick = await SlowStickAsync("Slow one");
        await RunsFullAsync(
            () =>
                PostAsync(
                    $"/api/media/{stick}/write",
                    new
                    {
                        imageId = image,
                        label = "Slow one",
                        by = "Pim",
                    }
                ),
            IsUnderWayAsync,
            async () => (await StateOfAsync(stick)).ShouldBe("unusable")
        );
        (await StateOfAsync(stick)).ShouldBe("ready");
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_stick_whose_capacity_was_being_tested_is_no_sound_one()
    {
        var stick = await SlowStickAsync("Slow two");
        await RunsFullAsync(
            () => PostAsync($"/api/media/{stick}/test-capacity", new { label = "Slow two", by = "Pim" }),
            IsUnderWayAsync,
            async () => (await StateOfAsync(stick)).ShouldBe("unusable")
        );
        (await StateOfAsync(stick)).ShouldBe("blank");
    }

    [Fact]
    public async Task A_start_in_the_twin_gives_no_verdict()
    {
        var image = await ImageAsync("wickerwork-26");
        await RunsFullAsync(
            () =>
                PostAsync(
                    $"/api/images/{image}/twin",
                    new
                    {
                        tag = "MR-0405",
                        @as = "disc",
                        by = "Pim",
                        limitSeconds = 600,
                    }
                ),
            _ => Task.FromResult(Lies("work"))
        );
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_whole_way_gives_no_verdict_and_no_cause()
    {
        var route = (await new RunDriver(_client).RouteAsync("MR-0405", "wickerwork-26", "comply"))
            .GetProperty("id")
            .GetString();
        await RunsFullAsync(
            () => PostAsync($"/api/machines/MR-0405/routes/{route}/whole-way", new { by = "Pim" }),
            _ => Task.FromResult(Lies("work")),
            async () =>
                (await GetAsync($"/api/machines/MR-0405/work-items?route={route}"))
                    .GetProperty("items")
                    .EnumerateArray()
                    .First(i => i.GetProperty("id").GetString() == "image")
                    .GetProperty("evidence")
                    .GetArrayLength()
                    .ShouldBe(0)
        );
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_divided_drive_is_there_whole_or_not_at_all()
    {
        await RunsFullAsync(
            () => PostAsync("/api/machines/MR-0417/layout/drive", new { by = "Pim" }),
            _ => Task.FromResult(Lies("work"))
        );
        File.Exists(Inside("media", "MR-0417.drive")).ShouldBeTrue();
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_chip_that_was_being_backed_up_has_no_backup()
    {
        var chip = (
            await PostAsync(
                "/api/chips",
                new
                {
                    tag = "MR-0405",
                    by = "Pim",
                    faults = new { bytesPerSecond = 8_000_000 },
                }
            )
        ).GetProperty("id").GetInt32();
        for (var read = 0; read < 2; read++)
            await _client.DoneAsync(await PostAsync($"/api/chips/{chip}/read", new { by = "Pim" }));
        await RunsFullAsync(
            () => PostAsync($"/api/chips/{chip}/backup", new { by = "Pim", medium = "Stick 9" }),
            IsUnderWayAsync,
            async () =>
                (await GetAsync("/api/chips"))
                    .EnumerateArray()
                    .Single(c => c.GetProperty("id").GetInt32() == chip)
                    .GetProperty("state")
                    .GetProperty("backupRom")
                    .ValueKind.ShouldBe(JsonValueKind.Null)
        );
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_backup_that_was_being_made_is_not_listed_and_one_that_was_being_laid_ready_does_not_count()
    {
        var made = 0;
        await RunsFullAsync(
            async () =>
            {
                // New bytes, so that there is something to copy.
                await PostAsync(
                    "/api/orders",
                    new
                    {
                        order = new
                        {
                            id = "",
                            name = $"Order {++made}",
                            about = "x",
                            machines = 1,
                            due = (string?)null,
                            newOwner = true,
                            shared = false,
                            everyday = true,
                            lookedAfterBy = "owner",
                            needs = Array.Empty<string>(),
                        },
                        by = "Pim",
                    }
                );
                return await PostAsync("/api/backups", new { by = "Pim" });
            },
            _ => Task.FromResult(Lies("backups", ".*")),
            async () =>
                (await GetAsync("/api/backups")).GetProperty("backups").EnumerateArray().Count().ShouldBe(made - 1)
        );
        var id = (await GetAsync("/api/backups")).GetProperty("backups")[0].GetProperty("id").GetString();
        await RunsFullAsync(
            async () =>
            {
                (await _client.DeleteAsync("/api/backups/ready")).EnsureSuccessStatusCode();
                return await PostAsync($"/api/backups/{id}/restore", new { by = "Pim" });
            },
            _ => Task.FromResult(Lies("restore")),
            async () => (await GetAsync("/api/backups")).GetProperty("ready").ValueKind.ShouldBe(JsonValueKind.Null)
        );
        (await GetAsync("/api/backups")).GetProperty("ready").GetProperty("id").GetString().ShouldBe(id);
        (await _client.DeleteAsync("/api/backups/ready")).EnsureSuccessStatusCode();
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task The_plan_in_force_stays()
    {
        // The plan in force is the latest that was made.
        var made = "";
        await RunsFullAsync(
            async () =>
            {
                made = await InForceAsync();
                return await PostAsync(
                    "/api/plans",
                    new
                    {
                        people = new[]
                        {
                            new
                            {
                                name = "Pim Achterberg",
                                from = "09:00:00",
                                to = "17:00:00",
                                skills = new[] { "casing", "programmer" },
                            },
                        },
                        seconds = 5,
                        by = "Pim",
                    }
                );
            },
            _ => Task.FromResult(true),
            async () => (await InForceAsync()).ShouldBe(made),
            writesFiles: false
        );

        async Task<string> InForceAsync() => (await GetAsync("/api/plans")).GetProperty("jobId").ToString();
    }
}
