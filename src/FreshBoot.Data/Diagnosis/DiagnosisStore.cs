using System.Text.Json;
using FreshBoot.Core.Diagnosis;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Diagnosis;

/// <summary>A search for why a machine stopped.</summary>
public sealed class DiagnosisRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Changes with every write.</summary>
    public int Version { get; set; } = 1;

    /// <summary>The machine.</summary>
    public required string Tag { get; init; }

    /// <summary>The run that stopped; null for a machine without one.</summary>
    public string? RunId { get; init; }

    /// <summary>The step at which it stopped; null without a run.</summary>
    public string? StepId { get; init; }

    /// <summary>How far it got.</summary>
    public required Rung Rung { get; init; }

    /// <summary>What it printed; null for nothing.</summary>
    public string? Message { get; init; }

    /// <summary>What was looked at, as JSON: a list of <see cref="CheckAnswer"/>.</summary>
    public string Answers { get; set; } = "[]";

    /// <summary>The cause that was found and mended; null while nobody found it.</summary>
    public string? Cause { get; set; }

    /// <summary>Whether it teaches the shop: one thing was changed, and it went on.</summary>
    public bool Teaches { get; set; }

    /// <summary>Who began it.</summary>
    public required string By { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>When it was found; null until then.</summary>
    public DateTimeOffset? EndedAt { get; set; }

    /// <summary>What was looked at.</summary>
    public IReadOnlyList<CheckAnswer> Seen =>
        JsonSerializer.Deserialize<CheckAnswer[]>(Answers, JsonSerializerOptions.Web) ?? [];
}

/// <summary>Searches for causes.</summary>
public sealed class DiagnosisStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock)
{
    /// <summary>Begins one.</summary>
    public async Task<DiagnosisRow> AddAsync(Func<DateTimeOffset, DiagnosisRow> row, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var added = row(clock.GetUtcNow());
        db.Diagnoses.Add(added);
        await db.SaveChangesAsync(stop);
        return added;
    }

    /// <summary>One of them.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<DiagnosisRow> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Diagnoses.AsNoTracking().SingleOrDefaultAsync(d => d.Id == id, stop) ?? throw None(id);
    }

    /// <summary>Those of a machine, the latest first.</summary>
    public async Task<IReadOnlyList<DiagnosisRow>> OfAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db
            .Diagnoses.AsNoTracking()
            .Where(d => d.Tag == tag)
            .OrderByDescending(d => d.Id)
            .ToListAsync(stop);
    }

    /// <summary>What this shop found before: causes of ended searches in which one thing was changed.</summary>
    public async Task<IReadOnlyList<CauseCount>> FoundAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db
            .Diagnoses.AsNoTracking()
            .Where(d => d.Teaches && d.Cause != null)
            .GroupBy(d => d.Cause!)
            .Select(g => new CauseCount(g.Key, g.Count()))
            .ToListAsync(stop);
    }

    /// <summary>Changes one that is still open, by whoever comes first.</summary>
    /// <exception cref="RefusedException">There is none, it has ended, or somebody else changed it.</exception>
    public async Task<DiagnosisRow> ChangeAsync(
        int id,
        Action<DiagnosisRow, DateTimeOffset> change,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await db.Diagnoses.SingleOrDefaultAsync(d => d.Id == id, stop) ?? throw None(id);
        if (row.EndedAt is not null)
            throw new RefusedException(
                RefusalKind.Conflict,
                "This search has ended: its cause was found.",
                "id",
                "Another search, with what is seen now."
            );
        change(row, clock.GetUtcNow());
        row.Version++;
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                "Somebody else answered at the same moment.",
                "id",
                "The search as it stands now, looked at again."
            );
        }
        return row;
    }

    /// <summary>
    /// What was mended did not help: neither it nor what comes after it at the same step teaches anything, since several things
    /// have changed.
    /// </summary>
    public async Task<bool> UnteachAsync(string runId, string stepId, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db
                .Diagnoses.Where(d => d.RunId == runId && d.StepId == stepId && d.Cause != null)
                .ExecuteUpdateAsync(s => s.SetProperty(d => d.Teaches, false), stop) > 0;
    }

    private static RefusedException None(int id) =>
        new(RefusalKind.Missing, $"There is no search {id}.", "id", "A search that was begun.");
}
