using FreshBoot.Core.Runs;
using FreshBoot.Data.Runs;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

namespace FreshBoot.Data.Backups;

/// <summary>
/// What a database of a back-up means, beyond its bytes: its tables are those that its version makes and no others, nothing in it
/// acts by itself, and the chains of its runs are whole.
/// </summary>
internal static class BackupCheck
{
    /// <summary>What is wrong with it; empty where nothing is.</summary>
    /// <param name="database">The database; it is only read.</param>
    /// <param name="manifest">What the back-up says of it.</param>
    /// <param name="work">A folder for a copy, which is brought up to date to see that it can be.</param>
    /// <param name="stop">Stops it.</param>
    public static async Task<IReadOnlyList<string>> FaultsAsync(
        string database,
        BackupManifest manifest,
        string work,
        CancellationToken stop
    )
    {
        try
        {
            await using var db = new SqliteConnection($"Data Source={database};Mode=ReadOnly;Pooling=False");
            await db.OpenAsync(stop);
            if (await TextAsync(db, "PRAGMA integrity_check;", stop) is var says && says != "ok")
                return [says ?? "it cannot be checked"];
            var known = Known();
            var applied = await ListAsync(db, "SELECT MigrationId FROM __EFMigrationsHistory ORDER BY 1", stop);
            if (
                applied.Except(known, StringComparer.Ordinal).Order(StringComparer.Ordinal).LastOrDefault() is { } newer
            )
                return [$"it was made by a newer version ({newer})"];
            var last = applied.Count > 0 ? applied[^1] : "none";
            if (last != manifest.Version)
                return [$"it is of version {last}, and the back-up says {manifest.Version}"];
            if (!known.Take(applied.Count).SequenceEqual(applied, StringComparer.Ordinal))
                return ["its versions have a gap"];
            var (there, wanted) = (await SchemaAsync(db, stop), await ReferenceAsync(manifest.Version, stop));
            string[] faults =
            [
                .. there.Except(wanted, StringComparer.Ordinal).Select(s => $"it holds {s}, which no version makes"),
                .. wanted.Except(there, StringComparer.Ordinal).Select(s => $"it lacks {s}"),
            ];
            return faults.Length > 0 ? faults : await BroughtUpAsync(database, manifest, work, stop);
        }
        catch (SqliteException e)
        {
            return [e.Message];
        }
    }

    /// <summary>A copy is brought up to date, and its runs are read: what fails here would fail at the start after it was taken.</summary>
    private static async Task<IReadOnlyList<string>> BroughtUpAsync(
        string database,
        BackupManifest manifest,
        string work,
        CancellationToken stop
    )
    {
        var copy = Path.Combine(work, $"{Guid.NewGuid():N}.db");
        try
        {
            File.Copy(database, copy);
            await using var db = Open($"Data Source={copy};Pooling=False");
            await db.Database.MigrateAsync(stop);
            var faults = new List<string>();
            foreach (var run in await RunStore.AllAsync(db, stop))
                if (run.BrokenAt is { } at)
                    faults.Add($"the record of run {run.Id} of {run.Tag} is broken at {EventChain.Place(at)}");
            foreach (var head in manifest.Heads ?? [])
                if (!await RunStore.EndsWithAsync(db, head, stop))
                    faults.Add($"the record of run {head.Run} does not end as the back-up says");
            return faults;
        }
        finally
        {
            File.Delete(copy);
            File.Delete($"{copy}-wal");
            File.Delete($"{copy}-shm");
        }
    }

    private static FreshBootDb Open(string source) =>
        new(new DbContextOptionsBuilder<FreshBootDb>().UseSqlite(source).Options);

    private static string[] Known()
    {
        using var db = Open("Data Source=:memory:");
        return [.. db.Database.GetMigrations()];
    }

    /// <summary>Tables with their columns, indexes, triggers and views, a line each.</summary>
    private static async Task<List<string>> SchemaAsync(SqliteConnection db, CancellationToken stop) =>
        await ListAsync(
            db,
            """
            SELECT m.type || ' ' || m.name FROM sqlite_master m WHERE m.type <> 'table' AND m.name NOT LIKE 'sqlite_%'
            UNION ALL
            SELECT 'table ' || m.name || ' with ' || c.name || ' ' || c.type FROM sqlite_master m, pragma_table_xinfo(m.name) c
            WHERE m.type = 'table' AND m.name NOT LIKE 'sqlite_%' AND m.name NOT LIKE '__EF%'
            """,
            stop
        );

    private static async Task<IReadOnlyList<string>> ReferenceAsync(string version, CancellationToken stop)
    {
        await using var connection = new SqliteConnection("Data Source=:memory:");
        await connection.OpenAsync(stop);
        await using var db = new FreshBootDb(new DbContextOptionsBuilder<FreshBootDb>().UseSqlite(connection).Options);
        await db.GetService<IMigrator>().MigrateAsync(version, stop);
        return await SchemaAsync(connection, stop);
    }

    private static async Task<string?> TextAsync(SqliteConnection db, string sql, CancellationToken stop)
    {
        await using var command = db.CreateCommand();
        command.CommandText = sql;
        return (string?)await command.ExecuteScalarAsync(stop);
    }

    private static async Task<List<string>> ListAsync(SqliteConnection db, string sql, CancellationToken stop)
    {
        await using var command = db.CreateCommand();
        command.CommandText = sql;
        await using var reader = await command.ExecuteReaderAsync(stop);
        var lines = new List<string>();
        while (await reader.ReadAsync(stop))
            lines.Add(reader.GetString(0));
        return lines;
    }
}
