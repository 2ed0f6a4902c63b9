using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Jobs;

/// <summary>What a piece of long work does.</summary>
[JsonConverter(typeof(CamelCaseNames<JobKind>))]
public enum JobKind
{
    /// <summary>Takes an image onto the shelf.</summary>
    Take,

    /// <summary>Makes a patched image.</summary>
    Patch,

    /// <summary>Starts an image in the twin of a machine.</summary>
    Twin,

    /// <summary>Walks a whole installation in the twin of a machine.</summary>
    WholeWay,

    /// <summary>Writes a medium and reads it back.</summary>
    Write,

    /// <summary>Finds the true size of a medium.</summary>
    Capacity,

    /// <summary>Reads, writes or restores a firmware chip.</summary>
    Chip,

    /// <summary>Makes a back-up, or lays one ready.</summary>
    Backup,

    /// <summary>Plans which machine goes to whom, and who does what when.</summary>
    Plan,
}

/// <summary>How a piece of long work stands.</summary>
[JsonConverter(typeof(CamelCaseNames<JobState>))]
public enum JobState
{
    /// <summary>It waits for its turn.</summary>
    Queued,

    /// <summary>It is being done.</summary>
    Running,

    /// <summary>It is done.</summary>
    Done,

    /// <summary>It failed, and says why.</summary>
    Failed,

    /// <summary>Somebody cancelled it.</summary>
    Cancelled,

    /// <summary>The server was stopped before it was done.</summary>
    Interrupted,
}

/// <summary>What a piece of long work is about.</summary>
/// <param name="Kind">What it does.</param>
/// <param name="About">What it is about, in words.</param>
/// <param name="By">Who asks for it.</param>
/// <param name="Tag">The machine; null for none.</param>
/// <param name="Image">The image; null for none.</param>
/// <param name="Medium">The medium; null for none.</param>
public sealed record JobWish(
    JobKind Kind,
    string About,
    string By,
    string? Tag = null,
    int? Image = null,
    int? Medium = null
);

/// <summary>Long work: what was asked for, and what came of it. Progress is kept in memory by whoever does it.</summary>
public sealed class JobStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock)
{
    /// <summary>Writes down that something is to be done.</summary>
    /// <exception cref="RefusedException">The image that it is about was taken away.</exception>
    public async Task<JobRow> AddAsync(JobWish wish, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (wish.Image is { } image && !await db.Images.AnyAsync(i => i.Id == image && !i.Undone, stop))
            throw new RefusedException(
                RefusalKind.Gone,
                "The image was taken away meanwhile.",
                $"image {image}",
                "An image that is on the shelf."
            );
        var row = new JobRow
        {
            Kind = wish.Kind,
            About = wish.About,
            Tag = wish.Tag,
            ImageId = wish.Image,
            MediumId = wish.Medium,
            State = JobState.Queued,
            By = wish.By,
            At = clock.GetUtcNow(),
        };
        db.Jobs.Add(row);
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(CancellationToken.None);
        return row;
    }

    /// <summary>Sets the state that a job has reached.</summary>
    public async Task<JobRow> SetAsync(int id, JobState state, string says, string? result)
    {
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        var row = await db.Jobs.SingleAsync(j => j.Id == id, CancellationToken.None);
        (row.State, row.Says, row.Result) = (state, says, result);
        if (state is not (JobState.Queued or JobState.Running))
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
        JobKind? kind,
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
            .Jobs.Where(j => j.State == JobState.Queued || j.State == JobState.Running)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(j => j.State, JobState.Interrupted)
                        .SetProperty(j => j.Says, "The server was stopped before it was done.")
                        .SetProperty(j => j.EndedAt, (DateTimeOffset?)now),
                stop
            );
    }
}
