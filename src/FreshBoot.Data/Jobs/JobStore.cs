using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Jobs;

/// <summary>Long work: what was asked for, and what came of it. Progress is kept in memory by whoever does it.</summary>
public sealed class JobStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock)
{
    /// <summary>Writes down that something is to be done.</summary>
    public async Task<JobRow> AddAsync(
        string kind,
        string about,
        string? tag,
        int? image,
        int? medium,
        string by,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = new JobRow
        {
            Kind = kind,
            About = about,
            Tag = tag,
            ImageId = image,
            MediumId = medium,
            State = "queued",
            By = by,
            At = clock.GetUtcNow(),
        };
        db.Jobs.Add(row);
        await db.SaveChangesAsync(stop);
        return row;
    }

    /// <summary>Says that a job has reached a state.</summary>
    public async Task<JobRow> SayAsync(int id, string state, string says, string? result)
    {
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        var row = await db.Jobs.SingleAsync(j => j.Id == id, CancellationToken.None);
        (row.State, row.Says, row.Result) = (state, says, result);
        if (state is not ("queued" or "running"))
            row.EndedAt = clock.GetUtcNow();
        await db.SaveChangesAsync(CancellationToken.None);
        return row;
    }

    /// <summary>One job.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<JobRow> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Jobs.AsNoTracking().SingleOrDefaultAsync(j => j.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no job {id}.",
                "id",
                "An id that was given when the work was asked for."
            );
    }

    /// <summary>Jobs, the latest first.</summary>
    /// <param name="kind">Of this kind only; null for all.</param>
    /// <param name="image">About this image only; null for all.</param>
    /// <param name="tag">About this machine only; null for all.</param>
    /// <param name="medium">About this medium only; null for all.</param>
    /// <param name="take">At most so many.</param>
    /// <param name="stop">Stops it.</param>
    public async Task<IReadOnlyList<JobRow>> ListAsync(
        string? kind,
        int? image,
        string? tag,
        int? medium,
        int take,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db
            .Jobs.AsNoTracking()
            .Where(j =>
                (kind == null || j.Kind == kind)
                && (image == null || j.ImageId == image)
                && (tag == null || j.Tag == tag)
                && (medium == null || j.MediumId == medium)
            )
            .OrderByDescending(j => j.Id)
            .Take(take)
            .ToListAsync(stop);
    }

    /// <summary>After a start: what was under way was interrupted.</summary>
    public async Task RecoverAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var now = clock.GetUtcNow();
        await db
            .Jobs.Where(j => j.State == "queued" || j.State == "running")
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(j => j.State, "interrupted")
                        .SetProperty(j => j.Says, "The server was stopped before it was done.")
                        .SetProperty(j => j.EndedAt, (DateTimeOffset?)now),
                stop
            );
    }
}
