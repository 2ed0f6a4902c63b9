using FreshBoot.Core.Media;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Media;

/// <summary>Sticks, cards and discs, and what is on them. What is said of a medium is said before the first byte moves.</summary>
public sealed class MediumStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>The file of a simulated medium.</summary>
    public string PathOf(int id) => Path.Combine(folder.Media, $"{id}.medium");

    /// <summary>All media by label.</summary>
    public async Task<IReadOnlyList<MediumRow>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Media.AsNoTracking().OrderBy(m => m.Label).ToListAsync(stop);
    }

    /// <summary>One medium.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<MediumRow> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Media.AsNoTracking().SingleOrDefaultAsync(m => m.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no medium {id}.",
                "id",
                "A stick or disc that is on the list."
            );
    }

    /// <summary>Puts a medium on the shelf.</summary>
    /// <exception cref="RefusedException">Another one has its label.</exception>
    public async Task<MediumRow> AddAsync(MediumRow row, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        db.Media.Add(row);
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e)
            when (e.InnerException is Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 })
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"There is a medium “{row.Label}” already.",
                "label",
                "A label that no other medium has: it is typed before it is erased."
            );
        }
        return row;
    }

    /// <summary>Sets the state that a medium is in.</summary>
    /// <param name="id">The medium.</param>
    /// <param name="state">The state.</param>
    /// <param name="says">Why.</param>
    /// <param name="image">The image on it.</param>
    /// <param name="verified">Whether it was read back and found right.</param>
    public async Task SetAsync(int id, string state, string says, int? image, bool verified)
    {
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        var row = await db.Media.SingleAsync(m => m.Id == id, CancellationToken.None);
        (row.State, row.Says, row.ImageId, row.At) = (state, says, image, clock.GetUtcNow());
        row.VerifiedAt = verified ? row.At : null;
        row.Version++;
        await db.SaveChangesAsync(CancellationToken.None);
    }

    /// <summary>Begins to write: of two at once one is refused.</summary>
    /// <exception cref="RefusedException">It is being written already.</exception>
    public async Task BeginAsync(int id, string says, int? image, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var now = clock.GetUtcNow();
        var taken = await db
            .Media.Where(m => m.Id == id && m.State != "writing")
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(m => m.State, "writing")
                        .SetProperty(m => m.Says, says)
                        .SetProperty(m => m.ImageId, image)
                        .SetProperty(m => m.VerifiedAt, (DateTimeOffset?)null)
                        .SetProperty(m => m.At, now)
                        .SetProperty(m => m.Version, m => m.Version + 1),
                stop
            );
        if (taken == 0)
            throw new RefusedException(
                RefusalKind.Conflict,
                "This medium is being written just now.",
                "id",
                "Wait for that, or cancel it."
            );
    }

    /// <summary>Says that a medium of which nothing was known holds what its record names.</summary>
    /// <param name="medium">The medium as it was when looking at it began.</param>
    /// <param name="says">What was compared.</param>
    /// <exception cref="RefusedException">Something was written onto it meanwhile: what was read is not there any more.</exception>
    public async Task LookedAsync(MediumRow medium, string says)
    {
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        var now = clock.GetUtcNow();
        var known = await db
            .Media.Where(m => m.Id == medium.Id && m.Version == medium.Version && m.State == "unknown")
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(m => m.State, "ready")
                        .SetProperty(m => m.Says, says)
                        .SetProperty(m => m.VerifiedAt, now)
                        .SetProperty(m => m.At, now)
                        .SetProperty(m => m.Version, m => m.Version + 1),
                CancellationToken.None
            );
        if (known == 0)
            throw new RefusedException(
                RefusalKind.Conflict,
                "It was written while it was looked at: what was read says nothing of what is on it now.",
                "id",
                "Look again once that is over."
            );
    }

    /// <summary>Says what a capacity test found.</summary>
    public async Task MeasuredAsync(int id, long trueBytes, string state, string says)
    {
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        var row = await db.Media.SingleAsync(m => m.Id == id, CancellationToken.None);
        (row.TrueBytes, row.State, row.Says, row.ImageId, row.VerifiedAt, row.At) = (
            trueBytes,
            state,
            says,
            null,
            null,
            clock.GetUtcNow()
        );
        row.Version++;
        await db.SaveChangesAsync(CancellationToken.None);
    }

    /// <summary>After the records were taken from a back-up: what was written onto the media since is in none of them.</summary>
    /// <param name="backup">Of when the back-up is, in words.</param>
    public async Task DoubtAsync(string backup)
    {
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        // A file that nobody made is none on any computer.
        foreach (
            var row in await db
                .Media.Where(m => m.State != "unknown" && !(m.State == "blank" && m.Kind == nameof(MediumKind.File)))
                .ToListAsync()
        )
        {
            row.Says =
                $"Unknown: look again. The records were taken from the back-up of {backup} and say: {row.State}. {row.Says}"
                + (row.State == "blank" || File.Exists(PathOf(row.Id)) ? "" : " What it held is not on this computer.");
            (row.State, row.VerifiedAt) = ("unknown", null);
            row.Version++;
        }
        await db.SaveChangesAsync();
    }

    /// <summary>After a start: what was being written is not whole.</summary>
    public async Task RecoverAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await db
            .Media.Where(m => m.State == "writing")
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(m => m.State, "unusable")
                        .SetProperty(
                            m => m.Says,
                            "The writing was interrupted: it is not whole until it is written again."
                        )
                        .SetProperty(m => m.Version, m => m.Version + 1),
                stop
            );
    }
}
