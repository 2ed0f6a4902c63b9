using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using FreshBoot.Data.Runs;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Backups;

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

/// <summary>A folder among the back-ups that is none.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Fault">What is wrong with it.</param>
public sealed record BadBackup(string Id, string Fault);

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
    private const string DatabaseName = BackupManifest.DatabaseName;

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

    /// <summary>All of them, the latest first.</summary>
    public IReadOnlyList<BackupManifest> List() =>
        [
            .. Folders()
                .Select(f => BackupManifest.Read(f, out _) is { } m && m.Id == Path.GetFileName(f) ? m : null)
                .OfType<BackupManifest>()
                .OrderByDescending(m => m.At)
                .ThenByDescending(m => m.Id, StringComparer.Ordinal),
        ];

    /// <summary>Those that are none: the name of each folder, and what is wrong with it.</summary>
    public IReadOnlyList<BadBackup> Bad()
    {
        var bad = new List<BadBackup>();
        foreach (var path in Folders())
        {
            var name = Path.GetFileName(path);
            if (BackupManifest.Read(path, out var fault) is not { } manifest)
                bad.Add(new BadBackup(name, fault!));
            else if (manifest.Id != name)
                bad.Add(new BadBackup(name, $"it says that it is {manifest.Id}"));
        }
        return bad;
    }

    private IEnumerable<string> Folders() =>
        Directory.Exists(Root)
            ? Directory
                .GetDirectories(Root)
                .Where(f => f != Pool && !Path.GetFileName(f).StartsWith('.'))
                .Order(StringComparer.Ordinal)
            : [];

    /// <summary>Takes away what a killed server left half made: nothing of it was ever offered.</summary>
    public void Sweep()
    {
        if (!Directory.Exists(Root))
            return;
        foreach (var half in Directory.GetDirectories(Root, ".*"))
            Directory.Delete(half, recursive: true);
        if (Directory.Exists(Pool))
            foreach (var half in Directory.GetFiles(Pool, "*.part", SearchOption.AllDirectories))
                File.Delete(half);
    }

    /// <summary>The one that lies ready for the next start; null where none does.</summary>
    public BackupManifest? Ready =>
        File.Exists(RestoreAtStart.Marker(folder)) ? BackupManifest.Read(RestoreAtStart.Ready(folder), out _) : null;

    /// <summary>Makes one.</summary>
    /// <param name="by">Who asks.</param>
    /// <param name="progress">Told how far it is, 0 to 1.</param>
    /// <param name="stop">Stops it; nothing half-made is offered.</param>
    /// <param name="job">The job that makes it; in the copy it has ended.</param>
    /// <exception cref="RefusedException">There is no room.</exception>
    public async Task<BackupManifest> MakeAsync(
        string by,
        Action<double> progress,
        CancellationToken stop,
        int? job = null
    )
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
                    await CopyDatabaseAsync(folder.Database, database, job, stop);
                    progress(0.2);
                    files = await KeepFilesAsync(progress, stop);
                }
                await using var db = await databases.CreateDbContextAsync(stop);
                // Of the copy, not of what has come since.
                var (machines, events, images, heads) = await CountAsync(database, stop);
                var manifest = new BackupManifest(
                    id,
                    at,
                    by,
                    db.Database.GetMigrations().Last(),
                    new BackupFile(DatabaseName, await HashAsync(database, stop), new FileInfo(database).Length),
                    files,
                    machines,
                    events,
                    images,
                    heads
                );
                WholeFile.Flush(database);
                await WholeFile.WriteAsync(
                    Path.Combine(part, BackupManifest.FileName),
                    file => file.WriteAsync(Encoding.UTF8.GetBytes(manifest.Write()), stop).AsTask()
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
        else
            faults.AddRange(
                (await BackupCheck.FaultsAsync(database, manifest, folder.Work, stop)).Select(f =>
                    $"{DatabaseName}: {f}"
                )
            );
        for (var i = 0; i < manifest.Files.Count; i++)
        {
            if (await FaultAsync(Pooled(manifest.Files[i].Sha256), manifest.Files[i], stop) is { } damaged)
                faults.Add(damaged);
            progress((double)i / manifest.Files.Count);
        }
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
            var ready = Directory.CreateDirectory(RestoreAtStart.Ready(folder)).FullName;
            var staged = Path.Combine(ready, DatabaseName);
            await WholeFile.CopyAsync(Path.Combine(Root, id, DatabaseName), staged, stop);
            await using (var db = new SqliteConnection($"Data Source={staged};Pooling=False"))
            {
                // The first look at a database only reads, and cannot change how it writes.
                await db.OpenAsync(stop);
                await SetJournalAsync(db, "WAL", stop);
            }
            for (var i = 0; i < manifest.Files.Count; i++)
            {
                stop.ThrowIfCancellationRequested();
                var target = Path.Combine(ready, "tree", manifest.Files[i].Path);
                await WholeFile.CopyAsync(Pooled(manifest.Files[i].Sha256), target, stop);
                progress(0.5 + 0.5 * i / manifest.Files.Count);
            }
            await WholeFile.CopyAsync(
                Path.Combine(Root, id, BackupManifest.FileName),
                Path.Combine(ready, BackupManifest.FileName),
                stop
            );
            WholeFile.Flush(staged);
            // Only with this it counts.
            await WholeFile.WriteAsync(
                RestoreAtStart.Marker(folder),
                file => file.WriteAsync(Encoding.UTF8.GetBytes(id), stop).AsTask()
            );
            return manifest;
        }
        catch
        {
            Discard();
            throw;
        }
        finally
        {
            _one.Release();
        }
    }

    /// <summary>Takes back what lies ready: the present data stay.</summary>
    public void Discard()
    {
        if (!Directory.Exists(RestoreAtStart.Ready(folder)))
            return;
        // Without the mark it counts no more, whatever is left of it.
        File.Delete(RestoreAtStart.Marker(folder));
        Directory.Delete(RestoreAtStart.Ready(folder), recursive: true);
    }

    /// <inheritdoc/>
    public void Dispose() => _one.Dispose();

    private string Pooled(string sha256) => Path.Combine(Pool, sha256[..2], sha256);

    private BackupManifest Get(string id) =>
        List().FirstOrDefault(m => m.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no back-up “{id}”.",
            "id",
            "One of GET /api/backups."
        );

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
    private static async Task CopyDatabaseAsync(string from, string to, int? job, CancellationToken stop)
    {
        await using var source = new SqliteConnection($"Data Source={from};Pooling=False");
        await using var target = new SqliteConnection($"Data Source={to};Pooling=False");
        await source.OpenAsync(stop);
        await target.OpenAsync(stop);
        source.BackupDatabase(target);
        if (job is { } id)
        {
            // In the copy the job that makes it has ended: it is there, so it was made.
            await using var done = target.CreateCommand();
            done.CommandText =
                "UPDATE Jobs SET State = 'done', Says = 'Made: this is it.', EndedAt = At WHERE Id = $id";
            done.Parameters.AddWithValue("$id", id);
            await done.ExecuteNonQueryAsync(stop);
        }
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
            .. Directory.GetFiles(folder.Root).Where(f => BackupManifest.IsPlain(Path.GetFileName(f))),
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
                await WholeFile.CopyAsync(paths[i], Pooled(sha256), stop);
            }
            files.Add(new BackupFile(Path.GetRelativePath(folder.Root, paths[i]), sha256, size));
            progress(0.2 + 0.8 * i / paths.Length);
        }
        return [.. files.OrderBy(f => f.Path, StringComparer.Ordinal)];
    }

    private static async Task<(int Machines, int Events, int Images, IReadOnlyList<RunHead> Heads)> CountAsync(
        string database,
        CancellationToken stop
    )
    {
        await using var db = new FreshBootDb(
            new DbContextOptionsBuilder<FreshBootDb>()
                .UseSqlite($"Data Source={database};Mode=ReadOnly;Pooling=False")
                .Options
        );
        return (
            await db.Machines.CountAsync(stop),
            await db.RunEvents.CountAsync(stop),
            await db.Images.CountAsync(stop),
            await RunStore.HeadsAsync(db, stop)
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
