using FreshBoot.Core.Catalogue;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Catalogue;

/// <summary>A change of the shop to an entry of the catalogue.</summary>
/// <param name="Version">1 for the first change.</param>
/// <param name="Edit">The entry as it was left; without JSON where it was taken out.</param>
/// <param name="By">Who changed it.</param>
/// <param name="Reason">Why.</param>
/// <param name="At">When.</param>
public sealed record EntryVersion(int Version, EntryEdit Edit, string By, string Reason, DateTimeOffset At);

/// <summary>The shop's changes to the catalogue. Nothing is ever changed or taken away: going back is a further change.</summary>
public sealed class EntryVersionStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock)
{
    /// <summary>All changes in the order in which they were made.</summary>
    public async Task<IReadOnlyList<EntryVersion>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db.EntryVersions.AsNoTracking().OrderBy(v => v.Id).ToListAsync(stop);
        return [.. rows.Select(Stored)];
    }

    /// <summary>The changes of one entry, the first one first.</summary>
    public async Task<IReadOnlyList<EntryVersion>> OfAsync(string kind, string id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db
            .EntryVersions.AsNoTracking()
            .Where(v => v.Kind == kind && v.EntryId == id)
            .OrderBy(v => v.Version)
            .ToListAsync(stop);
        return [.. rows.Select(Stored)];
    }

    /// <summary>Writes changes down, all or none.</summary>
    /// <param name="edits">The changes.</param>
    /// <param name="version">For a single change the version that it was made from, 0 for none; null not to ask.</param>
    /// <param name="by">Who makes them.</param>
    /// <param name="reason">Why.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">Somebody changed the entry meanwhile.</exception>
    public async Task AddAsync(
        IReadOnlyList<EntryEdit> edits,
        int? version,
        string by,
        string reason,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        foreach (var edit in edits)
        {
            var last =
                await db
                    .EntryVersions.Where(v => v.Kind == edit.Kind && v.EntryId == edit.Id)
                    .MaxAsync(v => (int?)v.Version, stop)
                ?? 0;
            if (version is { } from && from != last)
                throw Changed();
            db.EntryVersions.Add(
                new EntryVersionRow
                {
                    Kind = edit.Kind,
                    EntryId = edit.Id,
                    Version = last + 1,
                    Entry = edit.Entry,
                    By = by,
                    Reason = reason,
                    At = clock.GetUtcNow(),
                }
            );
        }
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e)
            when (e.InnerException is Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 })
        {
            throw Changed();
        }
    }

    private static EntryVersion Stored(EntryVersionRow row) =>
        new(row.Version, new EntryEdit(row.Kind, row.EntryId, row.Entry), row.By, row.Reason, row.At);

    private static RefusedException Changed() =>
        new(
            RefusalKind.Conflict,
            "Somebody else changed this entry meanwhile.",
            "version",
            "Look at it again, and change it from there."
        );
}
