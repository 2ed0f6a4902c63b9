using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Core.Identity;
using FreshBoot.Data;
using FreshBoot.Data.Backups;
using FreshBoot.Data.Identity;
using FreshBoot.Workshop.Simulated;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Server.Tests;

/// <summary>Back-ups of a server that goes on working: given back to the last event, refused where damaged, never a serial twice.</summary>
public sealed class BackupTests : IDisposable
{
    private readonly ServerProcess _server = new();
    private readonly HttpClient _client;

    public BackupTests() => _client = _server.Client;

    public void Dispose() => _server.Dispose();

    private string Backups => Path.Combine(_server.Data, "backups");

    private async Task TakeInAsync(string tag) =>
        (
            await _client.PostAsync(
                "/api/machines/import",
                TestWorkshop.Form(
                    tag,
                    ("a.tar.gz", SimulatedProbe.Bundle(TestWorkshop.Stile(tag), DateTimeOffset.UnixEpoch))
                )
            )
        ).EnsureSuccessStatusCode();

    private Task<HttpResponseMessage> SayAsync(string tag, string key, string value) =>
        _client.PutAsJsonAsync(
            $"/api/machines/{tag}/facts/{key}",
            new
            {
                value,
                source = "asked",
                by = "Pim",
            }
        );

    private async Task<JsonElement> JobAsync(string path)
    {
        var answer = await _client.PostAsJsonAsync(path, new { by = "Pim" });
        Assert.Equal(HttpStatusCode.Accepted, answer.StatusCode);
        return await _client.DoneAsync(await answer.JsonAsync());
    }

    private async Task<JsonElement> ListAsync() => await _client.GetFromJsonAsync<JsonElement>("/api/backups");

    private async Task<string[]> TagsAsync() =>
        [
            .. (await _client.GetFromJsonAsync<JsonElement>("/api/machines"))
                .EnumerateArray()
                .Select(m => m.GetProperty("tag").GetString()!)
                .Order(StringComparer.Ordinal),
        ];

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task Made_under_load_it_gives_back_what_was_answered_before_and_a_damaged_one_is_refused()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0701");
        await TakeInAsync("MR-0702");

        // Somebody writes all the while.
        using var enough = new CancellationTokenSource();
        var written = 0;
        var load = Task.Run(async () =>
        {
            while (!enough.IsCancellationRequested)
            {
                var answer = await SayAsync("MR-0701", "firmware.reachBytes", $"{1_000_000 + written}");
                if (answer.IsSuccessStatusCode)
                    Interlocked.Increment(ref written);
            }
        });
        while (Volatile.Read(ref written) < 20)
            await Task.Yield();
        var before = Volatile.Read(ref written);
        var made = await JobAsync("/api/backups");
        var after = Volatile.Read(ref written);
        await enough.CancelAsync();
        await load;
        Assert.Equal("done", made.GetProperty("state").GetString());
        Assert.True(after > before, "nothing was written while it was made");

        var list = await ListAsync();
        var one = list.GetProperty("backups").EnumerateArray().Single();
        Assert.Equal(2, one.GetProperty("machines").GetInt32());
        Assert.True(list.GetProperty("onSameDisk").GetBoolean());
        var id = one.GetProperty("id").GetString()!;

        // Changed since: a machine more, a fact less.
        await TakeInAsync("MR-0703");
        Assert.Equal(["MR-0701", "MR-0702", "MR-0703"], await TagsAsync());

        // One bit of a file, of the database: each is found, named, and nothing is laid ready.
        var pooled = Directory.GetFiles(Path.Combine(Backups, "pool"), "*", SearchOption.AllDirectories)[0];
        foreach (var path in new[] { pooled, Path.Combine(Backups, id, "fresh-boot.db") })
        {
            await FlipAsync(path);
            var refused = await JobAsync($"/api/backups/{id}/restore");
            Assert.Equal("failed", refused.GetProperty("state").GetString());
            Assert.Contains("is damaged", refused.GetProperty("says").GetString(), StringComparison.Ordinal);
            Assert.Equal(JsonValueKind.Null, (await ListAsync()).GetProperty("ready").ValueKind);
            await FlipAsync(path);
        }
        Assert.Equal(["MR-0701", "MR-0702", "MR-0703"], await TagsAsync());

        // Whole again it is laid ready, and can be laid away.
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        Assert.Equal(id, (await ListAsync()).GetProperty("ready").GetProperty("id").GetString());
        (await _client.DeleteAsync("/api/backups/ready")).EnsureSuccessStatusCode();
        Assert.Equal(JsonValueKind.Null, (await ListAsync()).GetProperty("ready").ValueKind);
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());

        // The plug is pulled; at the next start it has taken its place, and what was there before lies beside.
        _server.Kill();
        await _server.StartAsync();
        Assert.Equal(["MR-0701", "MR-0702"], await TagsAsync());
        var sheet = await _client.GetFromJsonAsync<JsonElement>("/api/machines/MR-0701");
        var said =
            sheet
                .GetProperty("facts")
                .EnumerateArray()
                .Single(f => f.GetProperty("key").GetString() == "firmware.reachBytes")
                .GetProperty("value")
                .GetInt64() - 1_000_000;
        // All that was answered before it was begun is in it, and nothing from after its end.
        Assert.InRange(said, before - 1, after + 1);
        Assert.True(File.Exists(Path.Combine(_server.Data, "before-restore", id, "fresh-boot.db")));
        Assert.False(Directory.Exists(Path.Combine(_server.Data, "restore")));
        // And it goes on from there.
        await TakeInAsync("MR-0704");
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await _client.PostAsJsonAsync("/api/backups/none/restore", new { by = "Pim" })).StatusCode
        );
    }

    private static async Task FlipAsync(string path)
    {
        var bytes = await File.ReadAllBytesAsync(path);
        bytes[bytes.Length / 2] ^= 1;
        await File.WriteAllBytesAsync(path, bytes);
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_start_that_was_cut_short_between_its_moves_is_finished_by_the_next()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0711");
        await JobAsync("/api/backups");
        var id = (await ListAsync()).GetProperty("backups")[0].GetProperty("id").GetString()!;
        await TakeInAsync("MR-0712");
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        _server.Kill();

        // As a plug leaves it that is pulled after the first move: the old database is aside, the new one not yet there.
        var aside = Directory.CreateDirectory(Path.Combine(_server.Data, "before-restore", id)).FullName;
        await File.WriteAllTextAsync(Path.Combine(_server.Data, "restore", "ready"), $"{id}\n{id}");
        foreach (var end in new[] { "-shm", "-wal", "" })
            if (File.Exists(Path.Combine(_server.Data, $"fresh-boot.db{end}")))
                File.Move(
                    Path.Combine(_server.Data, $"fresh-boot.db{end}"),
                    Path.Combine(aside, $"fresh-boot.db{end}")
                );
        await _server.StartAsync();
        Assert.Equal(["MR-0711"], await TagsAsync());
        Assert.True(new FileInfo(Path.Combine(aside, "fresh-boot.db")).Length > 0);
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_serial_that_was_given_after_the_backup_is_not_given_again()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0721");
        await JobAsync("/api/backups");
        var id = (await ListAsync()).GetProperty("backups")[0].GetProperty("id").GetString()!;
        await using (var db = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={_server.Data}/fresh-boot.db"))
        {
            await db.OpenAsync();
            await using var command = db.CreateCommand();
            command.CommandText =
                "INSERT INTO Identities (Tag, Serial, Profile, \"By\", At) VALUES ('MR-0721', 'GIVEN-SINCE-1', '{}', 'Pim', 0)";
            await command.ExecuteNonQueryAsync();
        }
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        _server.Kill();
        await _server.StartAsync();
        using var folder = new DataFolder(_server.Data);
        var identities = new IdentityStore(new Databases(folder), folder);
        async Task<bool> GivenAsync(string serial) =>
            await identities.GiveAsync(
                "MR-0721",
                null,
                new IdentityProfile(IdentityLevel.Full, "Ottavine", "Plinth PL-08A", null, serial, null),
                "Pim",
                DateTimeOffset.UnixEpoch,
                CancellationToken.None
            )
                is not null;
        Assert.False(await GivenAsync("GIVEN-SINCE-1"), "given twice");
        Assert.True(await GivenAsync("GIVEN-SINCE-2"));
        // It is in the next back-up too, and another restore forgets nothing.
        await JobAsync("/api/backups");
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        _server.Kill();
        await _server.StartAsync();
        Assert.False(await GivenAsync("GIVEN-SINCE-1"), "forgotten");
        Assert.False(await GivenAsync("GIVEN-SINCE-2"), "given after the first restore, and twice after the second");
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task What_was_put_aside_is_never_written_over_however_often_the_same_backup_is_taken()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0731");
        await JobAsync("/api/backups");
        var id = (await ListAsync()).GetProperty("backups")[0].GetProperty("id").GetString()!;
        foreach (var tag in new[] { "MR-0732", "MR-0733", "MR-0734" })
        {
            await TakeInAsync(tag);
            Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
            _server.Kill();
            await _server.StartAsync();
            Assert.Equal(["MR-0731"], await TagsAsync());
        }
        // Each machine that was answered for lies in one of the three.
        var aside = Directory.GetDirectories(Path.Combine(_server.Data, "before-restore"));
        Assert.Equal(3, aside.Length);
        var tags = new List<string>();
        foreach (var folder in aside)
            tags.AddRange(await TagsInAsync(Path.Combine(folder, "fresh-boot.db")));
        Assert.Equal(["MR-0732", "MR-0733", "MR-0734"], tags.Where(t => t != "MR-0731").Order());
    }

    private static async Task<string[]> TagsInAsync(string database)
    {
        await using var db = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={database};Pooling=False");
        await db.OpenAsync();
        await using var command = db.CreateCommand();
        command.CommandText = "SELECT Tag FROM machines";
        await using var reader = await command.ExecuteReaderAsync();
        var tags = new List<string>();
        while (await reader.ReadAsync())
            tags.Add(reader.GetString(0));
        return [.. tags];
    }

    private static async Task RunSqlAsync(string database, string sql)
    {
        await using var db = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={database};Pooling=False");
        await db.OpenAsync();
        await using var command = db.CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>Changes a back-up and its checksum with it: the bytes are right, what they mean is not.</summary>
    private async Task ForgeAsync(string id, Func<string, Task> change)
    {
        var database = Path.Combine(Backups, id, "fresh-boot.db");
        await change(database);
        var manifest = Path.Combine(Backups, id, "backup.json");
        var json = System.Text.Json.Nodes.JsonNode.Parse(await File.ReadAllTextAsync(manifest))!;
        json["database"]!["sha256"] = Convert.ToHexStringLower(
            System.Security.Cryptography.SHA256.HashData(await File.ReadAllBytesAsync(database))
        );
        await File.WriteAllTextAsync(manifest, json.ToJsonString());
    }

    [Fact]
    public async Task What_a_backup_means_is_checked_before_anything_is_moved()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0741");
        var say = new (string Sql, string Says)[]
        {
            (
                "INSERT INTO __EFMigrationsHistory VALUES ('29990101000000_Future', '99')",
                "newer version (29990101000000_Future)"
            ),
            ("DROP TABLE photos", "it lacks table photos"),
            (
                "CREATE TRIGGER later AFTER INSERT ON run_events BEGIN DELETE FROM run_events; END",
                "it holds trigger later"
            ),
            ("CREATE VIEW look AS SELECT 1", "it holds view look"),
        };
        foreach (var (sql, says) in say)
        {
            await JobAsync("/api/backups");
            var id = (await ListAsync()).GetProperty("backups")[0].GetProperty("id").GetString()!;
            await ForgeAsync(id, database => RunSqlAsync(database, sql));
            var refused = await JobAsync($"/api/backups/{id}/restore");
            Assert.Equal("failed", refused.GetProperty("state").GetString());
            Assert.Contains(says, refused.GetProperty("says").GetString(), StringComparison.Ordinal);
            Assert.Equal(JsonValueKind.Null, (await ListAsync()).GetProperty("ready").ValueKind);
            Directory.Delete(Path.Combine(Backups, id), recursive: true);
        }
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_backup_that_is_none_is_told_as_bad_and_everything_else_goes_on()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0751");
        string[] texts = ["{}", "null", "{ not json"];
        for (var i = 0; i < texts.Length; i++)
        {
            var bad = Directory.CreateDirectory(Path.Combine(Backups, $"bad-{i}")).FullName;
            await File.WriteAllTextAsync(Path.Combine(bad, "backup.json"), texts[i]);
        }
        // What a killed server left half made goes at the next start.
        Directory.CreateDirectory(Path.Combine(Backups, ".20260101-000000"));
        Directory.CreateDirectory(Path.Combine(Backups, "pool", "ab"));
        await File.WriteAllTextAsync(Path.Combine(Backups, "pool", "ab", "abc.part"), "half");
        Assert.Equal("done", (await JobAsync("/api/backups")).GetProperty("state").GetString());
        var list = await ListAsync();
        var told = list.GetProperty("bad").EnumerateArray().ToArray();
        Assert.Equal(["bad-0", "bad-1", "bad-2"], told.Select(b => b.GetProperty("id").GetString()).Order());
        Assert.All(
            told,
            b => Assert.Contains("backup.json", b.GetProperty("fault").GetString(), StringComparison.Ordinal)
        );
        var id = list.GetProperty("backups").EnumerateArray().Single().GetProperty("id").GetString()!;
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        _server.Kill();
        await _server.StartAsync();
        Assert.Equal(["MR-0751"], await TagsAsync());
        Assert.False(Directory.Exists(Path.Combine(Backups, ".20260101-000000")));
        Assert.False(File.Exists(Path.Combine(Backups, "pool", "ab", "abc.part")));
        // In the records that were taken, the job that made them is done, not interrupted.
        var jobs = await _client.GetFromJsonAsync<JsonElement>("/api/jobs");
        Assert.DoesNotContain(
            jobs.EnumerateArray(),
            j => j.GetProperty("kind").GetString() == "backup" && j.GetProperty("state").GetString() == "interrupted"
        );
    }

    [Theory]
    [InlineData("fresh-boot.db")]
    [InlineData("../outside")]
    [InlineData("media/1.medium")]
    [InlineData("files/ab/cd")]
    [InlineData("lock")]
    public void A_file_that_no_backup_holds_makes_it_none(string path)
    {
        var folder = Directory.CreateTempSubdirectory("fresh-boot-manifest-").FullName;
        try
        {
            var file = new BackupFile("fresh-boot.db", new string('a', 64), 1);
            var manifest = new BackupManifest("x", default, "Pim", "v", file, [file with { Path = path }], 0, 0, 0);
            File.WriteAllText(Path.Combine(folder, BackupManifest.FileName), manifest.Write());
            Assert.Null(BackupManifest.Read(folder, out var fault));
            Assert.Contains("no file that a back-up holds", fault, StringComparison.Ordinal);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task A_start_that_fails_after_a_restore_brings_the_data_of_before_back()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0761");
        await JobAsync("/api/backups");
        var id = (await ListAsync()).GetProperty("backups")[0].GetProperty("id").GetString()!;
        await TakeInAsync("MR-0762");
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        _server.Kill();
        // What lies ready is broken after it was checked: the start with it cannot go well.
        await File.WriteAllTextAsync(Path.Combine(_server.Data, "restore", "fresh-boot.db"), "no database");
        await _server.StartAsync();
        Assert.Equal(["MR-0761", "MR-0762"], await TagsAsync());
        Assert.True(File.Exists(Path.Combine(_server.Data, "before-restore", id, "failed", "fresh-boot.db")));
        // The folder is held all the same.
        Assert.Equal(3, (await _server.SecondAsync()).Code);
        // And the next start is an ordinary one.
        _server.Kill();
        await _server.StartAsync();
        Assert.Equal(["MR-0761", "MR-0762"], await TagsAsync());
    }

    [Fact]
    public async Task A_second_start_on_the_same_folder_says_who_holds_it_and_touches_nothing()
    {
        await _server.StartAsync();
        await TakeInAsync("MR-0771");
        await JobAsync("/api/backups");
        var id = (await ListAsync()).GetProperty("backups")[0].GetProperty("id").GetString()!;
        await TakeInAsync("MR-0772");
        Assert.Equal("done", (await JobAsync($"/api/backups/{id}/restore")).GetProperty("state").GetString());
        var before = Names(_server.Data);
        var (code, says) = await _server.SecondAsync();
        Assert.Equal(3, code);
        Assert.Contains("is in use by process", says, StringComparison.Ordinal);
        Assert.Equal(before, Names(_server.Data));
        Assert.Equal(["MR-0771", "MR-0772"], await TagsAsync());
        // A killed one holds nothing any more.
        _server.Kill();
        await _server.StartAsync();
        Assert.Equal(["MR-0771"], await TagsAsync());

        static string[] Names(string folder) =>
            [
                .. Directory
                    .GetFileSystemEntries(folder, "*", SearchOption.AllDirectories)
                    .Where(f =>
                        !f.EndsWith("-wal", StringComparison.Ordinal) && !f.EndsWith("-shm", StringComparison.Ordinal)
                    )
                    .Order(StringComparer.Ordinal),
            ];
    }

    [Fact]
    public async Task Of_those_made_by_themselves_the_latest_stay_and_the_pool_keeps_what_is_still_named()
    {
        using var folder = new DataFolder(Directory.CreateTempSubdirectory("fresh-boot-backups-").FullName);
        try
        {
            var databases = new Databases(folder);
            await using (var db = databases.CreateDbContext())
                await db.Database.MigrateAsync();
            using var store = new BackupStore(databases, folder, new BackupOptions(null, 24), TimeProvider.System);
            async Task<BackupManifest> MakeAsync(string by) =>
                await store.MakeAsync(by, _ => { }, CancellationToken.None);
            var old = await folder.KeepAsync("only the first has it"u8.ToArray(), CancellationToken.None);
            var first = await MakeAsync(BackupOptions.Schedule);
            File.Delete(folder.PathOf(old));
            var kept = await folder.KeepAsync("a person's back-up has it"u8.ToArray(), CancellationToken.None);
            var asked = await MakeAsync("Pim");
            File.Delete(folder.PathOf(kept));
            for (var i = 0; i < BackupOptions.KeptOfSchedule; i++)
                await MakeAsync(BackupOptions.Schedule);

            var list = store.List();
            Assert.Equal(BackupOptions.KeptOfSchedule, list.Count(b => b.By == BackupOptions.Schedule));
            Assert.DoesNotContain(list, b => b.Id == first.Id);
            Assert.Contains(list, b => b.Id == asked.Id);
            foreach (var backup in list)
                Assert.Empty(await store.CheckAsync(backup.Id, _ => { }, CancellationToken.None));
            string Pooled(string sha256) => Path.Combine(store.Root, "pool", sha256[..2], sha256);
            Assert.False(File.Exists(Pooled(old)));
            Assert.True(File.Exists(Pooled(kept)));
        }
        finally
        {
            Directory.Delete(folder.Root, recursive: true);
        }
    }

    private sealed class Databases(DataFolder folder) : IDbContextFactory<FreshBootDb>
    {
        public FreshBootDb CreateDbContext() =>
            new(
                new DbContextOptionsBuilder<FreshBootDb>()
                    .UseSqlite($"Data Source={folder.Database};Pooling=False")
                    .Options
            );
    }
}
