using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Backups;

/// <summary>A file of a back-up.</summary>
/// <param name="Path">Its path below the data folder.</param>
/// <param name="Sha256">SHA-256 of its bytes.</param>
/// <param name="Bytes">Its size.</param>
public sealed record BackupFile(string Path, string Sha256, long Bytes);

/// <summary>What a back-up is: written last, so that one without it is none.</summary>
/// <param name="Id">Its id, which is the name of its folder.</param>
/// <param name="At">When it was begun.</param>
/// <param name="By">Who asked for it.</param>
/// <param name="Version">The last migration of the database.</param>
/// <param name="Database">The database.</param>
/// <param name="Files">The files that go with it: what came in, and pictures that are evidence.</param>
/// <param name="Machines">Machines in it.</param>
/// <param name="Events">Events of runs in it.</param>
/// <param name="ImagesLeftOut">Installer images that are not in it: they can be fetched and made again.</param>
public sealed record BackupManifest(
    string Id,
    DateTimeOffset At,
    string By,
    string Version,
    BackupFile Database,
    IReadOnlyList<BackupFile> Files,
    int Machines,
    int Events,
    int ImagesLeftOut
)
{
    /// <summary>Its size, in bytes; files are kept once for all back-ups.</summary>
    public long Bytes => Database.Bytes + Files.Sum(f => f.Bytes);
}

/// <summary>Where back-ups lie, and how often one is made by itself.</summary>
/// <param name="Folder">The folder; null for one in the data folder, which protects from mistakes and not from a dead disk.</param>
/// <param name="EveryHours">Hours between those that are made by themselves; 0 for none.</param>
public sealed record BackupOptions(string? Folder, int EveryHours)
{
    /// <summary>Who makes those.</summary>
    public const string Schedule = "schedule";

    /// <summary>How many of those are kept.</summary>
    public const int KeptOfSchedule = 14;
}

/// <summary>
/// Makes, checks and gives back back-ups while the application runs. The database is copied as it was at one moment (SQLite's online
/// backup API), files under their SHA-256 into a pool that all back-ups share. Nothing is written over: a back-up that is to
/// be taken is checked, laid ready, and takes the place of the present data at the next start; those are kept beside.
/// </summary>
public sealed class BackupStore(
    IDbContextFactory<FreshBootDb> databases,
    DataFolder folder,
    BackupOptions options,
    TimeProvider clock
) : IDisposable
{
    private const string ManifestName = "backup.json";
    private const string DatabaseName = "fresh-boot.db";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    /// <summary>Folders of the data folder that go into a back-up, and plain files that lie beside the database.</summary>
    private static readonly string[] Kept = ["files", "jobs"];

    private readonly SemaphoreSlim _one = new(1, 1);

    /// <summary>Where they lie.</summary>
    public string Root => Path.GetFullPath(options.Folder ?? Path.Combine(folder.Root, "backups"));

    /// <summary>Whether they lie on the disk that they are to protect from.</summary>
    public bool OnSameDisk => DiskOf(Root) == DiskOf(folder.Root);

    /// <summary>The mount point under which a path lies: the longest that it begins with.</summary>
    private static string DiskOf(string path) =>
        DriveInfo
            .GetDrives()
            .Select(d => d.RootDirectory.FullName)
            .Where(r => path == r || path.StartsWith(r.EndsWith('/') ? r : $"{r}/", StringComparison.Ordinal))
            .MaxBy(r => r.Length)
        ?? "/";

    private string Pool => Path.Combine(Root, "pool");

    private static string Restore(DataFolder folder) => Path.Combine(folder.Root, "restore");

    /// <summary>All of them, the latest first.</summary>
    public IReadOnlyList<BackupManifest> List() =>
        Directory.Exists(Root)
            ?
            [
                .. Directory
                    .GetDirectories(Root)
                    .Select(Read)
                    .OfType<BackupManifest>()
                    .OrderByDescending(m => m.At)
                    .ThenByDescending(m => m.Id, StringComparer.Ordinal),
            ]
            : [];

    /// <summary>The one that lies ready for the next start; null where none does.</summary>
    public BackupManifest? Ready => File.Exists(Marker(folder)) ? Read(Restore(folder)) : null;

    /// <summary>Makes one.</summary>
    /// <param name="by">Who asks.</param>
    /// <param name="progress">Told how far it is, 0 to 1.</param>
    /// <param name="stop">Stops it; nothing half-made is offered.</param>
    /// <exception cref="RefusedException">There is no room.</exception>
    public async Task<BackupManifest> MakeAsync(string by, Action<double> progress, CancellationToken stop)
    {
        await _one.WaitAsync(stop);
        try
        {
            Directory.CreateDirectory(Pool);
            var at = clock.GetLocalNow();
            var id = Free(at.UtcDateTime.ToString("yyyyMMdd-HHmmss", CultureInfo.InvariantCulture));
            var part = Directory.CreateDirectory(Path.Combine(Root, $".{id}")).FullName;
            try
            {
                BackupFile[] files;
                var database = Path.Combine(part, DatabaseName);
                // What the database names is there as long as nobody takes files away.
                using (await folder.HoldFilesAsync(stop))
                {
                    CheckRoom(new FileInfo(folder.Database).Length);
                    await CopyDatabaseAsync(folder.Database, database, stop);
                    progress(0.2);
                    files = await KeepFilesAsync(progress, stop);
                }
                var (machines, events, images) = await CountAsync(stop);
                await using var db = await databases.CreateDbContextAsync(stop);
                var manifest = new BackupManifest(
                    id,
                    at,
                    by,
                    db.Database.GetMigrations().Last(),
                    new BackupFile(DatabaseName, await HashAsync(database, stop), new FileInfo(database).Length),
                    files,
                    machines,
                    events,
                    images
                );
                await File.WriteAllTextAsync(
                    Path.Combine(part, ManifestName),
                    JsonSerializer.Serialize(manifest, Json),
                    stop
                );
                Directory.Move(part, Path.Combine(Root, id));
                Thin();
                return manifest;
            }
            catch
            {
                Directory.Delete(part, recursive: true);
                throw;
            }
        }
        finally
        {
            _one.Release();
        }
    }

    /// <summary>What is wrong with one: each fault with its place; empty where it is whole.</summary>
    /// <exception cref="RefusedException">There is none such.</exception>
    public async Task<IReadOnlyList<string>> CheckAsync(string id, Action<double> progress, CancellationToken stop)
    {
        var manifest = Get(id);
        var faults = new List<string>();
        var database = Path.Combine(Root, id, DatabaseName);
        if (await FaultAsync(database, manifest.Database, stop) is { } fault)
            faults.Add(fault);
        else if (await BrokenAsync(database, stop) is { } broken)
            faults.Add($"{DatabaseName}: {broken}");
        for (var i = 0; i < manifest.Files.Count; i++)
        {
            if (await FaultAsync(Pooled(manifest.Files[i].Sha256), manifest.Files[i], stop) is { } damaged)
                faults.Add(damaged);
            progress((double)i / manifest.Files.Count);
        }
        await using var db = await databases.CreateDbContextAsync(stop);
        if (!db.Database.GetMigrations().Contains(manifest.Version))
            faults.Add($"{DatabaseName}: it was made by a newer version ({manifest.Version})");
        return faults;
    }

    /// <summary>Checks one and lays it ready: at the next start it takes the place of the present data, which are kept beside.</summary>
    /// <exception cref="RefusedException">It is damaged; the present data stay as they are.</exception>
    public async Task<BackupManifest> LayReadyAsync(string id, Action<double> progress, CancellationToken stop)
    {
        var manifest = Get(id);
        var faults = await CheckAsync(id, p => progress(p / 2), stop);
        if (faults.Count > 0)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"This back-up is damaged: {string.Join("; ", faults.Take(3))}{(faults.Count > 3 ? $"; and {faults.Count - 3} more" : "")}.",
                "id",
                "A back-up that is whole. The present data stay as they are."
            );
        await _one.WaitAsync(stop);
        try
        {
            Discard();
            folder.CheckRoom(manifest.Bytes);
            var ready = Directory.CreateDirectory(Restore(folder)).FullName;
            var staged = Path.Combine(ready, DatabaseName);
            File.Copy(Path.Combine(Root, id, DatabaseName), staged);
            await using (var db = new SqliteConnection($"Data Source={staged};Pooling=False"))
            {
                // The first look at a database only reads, and cannot change how it writes.
                await db.OpenAsync(stop);
                await SetJournalAsync(db, "WAL", stop);
            }
            for (var i = 0; i < manifest.Files.Count; i++)
            {
                stop.ThrowIfCancellationRequested();
                var target = Path.Combine(ready, "tree", Inside(manifest.Files[i].Path));
                Directory.CreateDirectory(Path.GetDirectoryName(target)!);
                File.Copy(Pooled(manifest.Files[i].Sha256), target);
                progress(0.5 + 0.5 * i / manifest.Files.Count);
            }
            File.Copy(Path.Combine(Root, id, ManifestName), Path.Combine(ready, ManifestName));
            // Only with this it counts.
            await File.WriteAllTextAsync(Marker(folder), id, stop);
            return manifest;
        }
        finally
        {
            _one.Release();
        }
    }

    /// <summary>Takes back what lies ready: the present data stay.</summary>
    public void Discard()
    {
        if (!Directory.Exists(Restore(folder)))
            return;
        // Without the mark it counts no more, whatever is left of it.
        File.Delete(Marker(folder));
        Directory.Delete(Restore(folder), recursive: true);
    }

    /// <summary>
    /// Puts what lies ready in the place of the present data; called before the database is opened. Each move can be made again, so that a
    /// plug that is pulled in the middle leaves either of the two. Serial numbers that were given since are written down, and
    /// not given again.
    /// </summary>
    /// <returns>Where the data lie that were there before; null where nothing lay ready.</returns>
    public static string? TakeReady(DataFolder folder)
    {
        if (!File.Exists(Marker(folder)))
            return null;
        var ready = Restore(folder);
        var id = File.ReadAllText(Marker(folder)).Trim();
        var before = Directory
            .CreateDirectory(Path.Combine(folder.Root, "before-restore", Path.GetFileName(id)))
            .FullName;
        var staged = Path.Combine(ready, DatabaseName);
        if (File.Exists(staged))
        {
            if (File.Exists(folder.Database))
            {
                GivenSerials.Remember(folder, folder.Database);
                // The log belongs to its database: the three move together, the database last.
                foreach (var end in new[] { "-shm", "-wal", "" })
                    if (File.Exists(folder.Database + end))
                        File.Move(folder.Database + end, Path.Combine(before, DatabaseName + end), overwrite: true);
            }
            File.Move(staged, folder.Database);
        }
        var tree = Path.Combine(ready, "tree");
        if (Directory.Exists(tree))
            foreach (var file in Directory.GetFiles(tree, "*", SearchOption.AllDirectories))
            {
                var target = Path.Combine(folder.Root, Path.GetRelativePath(tree, file));
                Directory.CreateDirectory(Path.GetDirectoryName(target)!);
                File.Move(file, target, overwrite: true);
            }
        File.Delete(Marker(folder));
        Directory.Delete(ready, recursive: true);
        return before;
    }

    /// <inheritdoc/>
    public void Dispose() => _one.Dispose();

    private static string Marker(DataFolder folder) => Path.Combine(Restore(folder), "ready");

    private string Pooled(string sha256) => Path.Combine(Pool, sha256[..2], sha256);

    /// <summary>A path that stays inside, whatever a manifest says.</summary>
    private static string Inside(string path) =>
        Path.IsPathRooted(path) || path.Split('/').Contains("..")
            ? throw new RefusedException(
                RefusalKind.Unreadable,
                $"“{path}” leads out of the data folder.",
                "files",
                "A manifest as it was written."
            )
            : path;

    private BackupManifest Get(string id) =>
        List().FirstOrDefault(m => m.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no back-up “{id}”.",
            "id",
            "One of GET /api/backups."
        );

    private static BackupManifest? Read(string path)
    {
        try
        {
            var manifest = JsonSerializer.Deserialize<BackupManifest>(
                File.ReadAllText(Path.Combine(path, ManifestName)),
                Json
            );
            // Hashes become paths: what is none is no manifest of ours.
            return
                manifest?.Files.All(f => f.Sha256 is { Length: 64 } && f.Sha256.All(char.IsAsciiHexDigitLower)) == true
                ? manifest
                : null;
        }
        catch (Exception e) when (e is IOException or JsonException)
        {
            return null;
        }
    }

    private string Free(string id)
    {
        var free = id;
        for (var i = 2; Directory.Exists(Path.Combine(Root, free)); i++)
            free = $"{id}-{i}";
        return free;
    }

    private void CheckRoom(long bytes)
    {
        var free = new DriveInfo(Root).AvailableFreeSpace;
        if (bytes + DataFolder.KeptFree > free)
            throw new RefusedException(
                RefusalKind.Full,
                $"It needs {bytes} bytes; {Math.Max(0, free - DataFolder.KeptFree)} are free where back-ups lie.",
                "sizeBytes",
                "Room on that disk, or another folder for back-ups."
            );
    }

    /// <summary>As it was at one moment, whoever writes meanwhile (SQLite, "Online Backup API").</summary>
    private static async Task CopyDatabaseAsync(string from, string to, CancellationToken stop)
    {
        await using var source = new SqliteConnection($"Data Source={from};Pooling=False");
        await using var target = new SqliteConnection($"Data Source={to};Pooling=False");
        await source.OpenAsync(stop);
        await target.OpenAsync(stop);
        source.BackupDatabase(target);
        // One file, without a log beside it: what is hashed is all there is.
        await SetJournalAsync(target, "DELETE", stop);
    }

    private static async Task SetJournalAsync(SqliteConnection db, string mode, CancellationToken stop)
    {
        await using var command = db.CreateCommand();
        command.CommandText = $"PRAGMA journal_mode={mode};";
        await command.ExecuteNonQueryAsync(stop);
    }

    private async Task<BackupFile[]> KeepFilesAsync(Action<double> progress, CancellationToken stop)
    {
        string[] paths =
        [
            .. Kept.Select(k => Path.Combine(folder.Root, k))
                .Where(Directory.Exists)
                .SelectMany(k => Directory.GetFiles(k, "*", SearchOption.AllDirectories)),
            .. Directory
                .GetFiles(folder.Root)
                .Where(f => !Path.GetFileName(f).StartsWith(DatabaseName, StringComparison.Ordinal)),
        ];
        var files = new List<BackupFile>(paths.Length);
        for (var i = 0; i < paths.Length; i++)
        {
            if (paths[i].EndsWith(".part", StringComparison.Ordinal))
                continue;
            // What came in lies under its SHA-256: what the pool has of it already is not read once more.
            var name = Path.GetFileName(paths[i]);
            var sha256 =
                paths[i].StartsWith(Path.Combine(folder.Root, "files") + "/", StringComparison.Ordinal)
                && File.Exists(Pooled(name))
                    ? name
                    : await HashAsync(paths[i], stop);
            var size = new FileInfo(paths[i]).Length;
            if (!File.Exists(Pooled(sha256)))
            {
                CheckRoom(size);
                Directory.CreateDirectory(Path.GetDirectoryName(Pooled(sha256))!);
                var part = $"{Pooled(sha256)}.part";
                File.Copy(paths[i], part, overwrite: true);
                File.Move(part, Pooled(sha256), overwrite: true);
            }
            files.Add(new BackupFile(Path.GetRelativePath(folder.Root, paths[i]), sha256, size));
            progress(0.2 + 0.8 * i / paths.Length);
        }
        return [.. files.OrderBy(f => f.Path, StringComparer.Ordinal)];
    }

    private async Task<(int Machines, int Events, int Images)> CountAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return (
            await db.Machines.CountAsync(stop),
            await db.RunEvents.CountAsync(stop),
            await db.Images.CountAsync(stop)
        );
    }

    private static async Task<string> HashAsync(string path, CancellationToken stop)
    {
        await using var file = File.OpenRead(path);
        return Convert.ToHexStringLower(await SHA256.HashDataAsync(file, stop));
    }

    private static async Task<string?> FaultAsync(string path, BackupFile file, CancellationToken stop) =>
        !File.Exists(path) ? $"{file.Path} is missing"
        : await HashAsync(path, stop) != file.Sha256 ? $"{file.Path} has another checksum than was written down"
        : null;

    private static async Task<string?> BrokenAsync(string database, CancellationToken stop)
    {
        try
        {
            await using var db = new SqliteConnection($"Data Source={database};Mode=ReadOnly;Pooling=False");
            await db.OpenAsync(stop);
            await using var command = db.CreateCommand();
            command.CommandText = "PRAGMA integrity_check;";
            var says = (string?)await command.ExecuteScalarAsync(stop);
            return says == "ok" ? null : says;
        }
        catch (SqliteException e)
        {
            return e.Message;
        }
    }

    /// <summary>Of those that were made by themselves the latest stay; what no back-up names any more goes out of the pool.</summary>
    private void Thin()
    {
        var old = List().Where(m => m.By == BackupOptions.Schedule).Skip(BackupOptions.KeptOfSchedule).ToArray();
        foreach (var manifest in old)
            Directory.Delete(Path.Combine(Root, manifest.Id), recursive: true);
        if (old.Length == 0)
            return;
        var named = List().SelectMany(m => m.Files).Select(f => f.Sha256).ToHashSet(StringComparer.Ordinal);
        foreach (
            var file in old.SelectMany(m => m.Files).Select(f => f.Sha256).Where(s => !named.Contains(s)).Distinct()
        )
            File.Delete(Pooled(file));
    }
}
