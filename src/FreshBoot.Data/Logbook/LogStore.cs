using FreshBoot.Data.Jobs;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Logbook;

/// <summary>How far the logbook has been read: the last row of each table that only grows.</summary>
/// <param name="Facts">Of what people said.</param>
/// <param name="Bundles">Of probes.</param>
/// <param name="Runs">Of runs.</param>
/// <param name="Events">Of their events.</param>
/// <param name="Photos">Of photographs.</param>
/// <param name="Jobs">Of long work, up to the first that has not ended.</param>
/// <param name="TakenBack">Probes that were taken back: the one thing that changes later.</param>
public sealed record LogMark(long Facts, int Bundles, long Runs, long Events, int Photos, int Jobs, int TakenBack)
{
    /// <summary>Nothing has been read.</summary>
    public static LogMark Start { get; } = new(0, 0, 0, 0, 0, 0, 0);
}

/// <summary>Something that a person said of a machine.</summary>
public sealed record LoggedFact(
    string Tag,
    string Key,
    string Value,
    string Source,
    string Origin,
    string? By,
    DateTimeOffset At
);

/// <summary>A probe that came in, file by file.</summary>
public sealed record LoggedProbe(
    string Tag,
    long Probe,
    string Name,
    int Facts,
    string? TakenBackBy,
    DateTimeOffset At
);

/// <summary>A run that was begun.</summary>
public sealed record LoggedRun(
    string Id,
    string Tag,
    string Route,
    string Steps,
    string By,
    string? Override,
    DateTimeOffset At,
    long Number
);

/// <summary>An event of a run.</summary>
public sealed record LoggedEvent(
    string RunId,
    int Seq,
    string Kind,
    string StepId,
    string By,
    string Data,
    DateTimeOffset At
);

/// <summary>A photograph.</summary>
public sealed record LoggedPhoto(string Tag, int Id, string Note, string By, DateTimeOffset At);

/// <summary>Long work that has ended, or goes on.</summary>
public sealed record LoggedJob(
    int Id,
    string? Tag,
    string About,
    string Says,
    string By,
    JobState State,
    DateTimeOffset At
);

/// <summary>What the logbook has not read yet.</summary>
public sealed record LogNews(
    LogMark Mark,
    bool Anew,
    IReadOnlyList<LoggedFact> Facts,
    IReadOnlyList<LoggedProbe> Probes,
    IReadOnlyList<LoggedRun> Runs,
    IReadOnlyList<LoggedEvent> Events,
    IReadOnlyList<LoggedPhoto> Photos,
    IReadOnlyList<LoggedJob> Jobs
);

/// <summary>Reads what happened, from where it was last read on.</summary>
public sealed class LogStore(IDbContextFactory<FreshBootDb> databases)
{
    /// <summary>What came after a mark. Where a probe was taken back meanwhile all is read anew.</summary>
    public async Task<LogNews> AfterAsync(LogMark mark, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var snapshot = await db.SnapshotAsync(stop);
        var takenBack = await db.Bundles.CountAsync(b => b.TakenBackBy != null, stop);
        var anew = takenBack != mark.TakenBack;
        var from = anew ? LogMark.Start : mark;
        var tags = db.Machines.AsNoTracking();

        var facts = await db
            .FactHistory.AsNoTracking()
            .Where(f => f.Id > from.Facts && f.Origin != "Probed")
            .OrderBy(f => f.Id)
            .Join(tags, f => f.MachineId, m => m.Id, (f, m) => new { f, m.Tag })
            .ToListAsync(stop);
        var bundles = await db
            .Bundles.AsNoTracking()
            .Where(b => b.Id > from.Bundles)
            .OrderBy(b => b.Id)
            .Join(tags, b => b.MachineId, m => m.Id, (b, m) => new { b, m.Tag })
            .ToListAsync(stop);
        var runs = await db
            .Runs.AsNoTracking()
            .Where(r => r.Number > from.Runs)
            .OrderBy(r => r.Number)
            .Join(
                tags,
                r => r.MachineId,
                m => m.Id,
                (r, m) => new LoggedRun(r.Id, m.Tag, r.Route, r.Steps, r.By, r.Override, r.StartedAt, r.Number)
            )
            .ToListAsync(stop);
        var events = await db
            .RunEvents.AsNoTracking()
            .Where(e => e.Id > from.Events)
            .OrderBy(e => e.Id)
            .ToListAsync(stop);
        var photos = await db
            .Photos.AsNoTracking()
            .Where(p => p.Id > from.Photos)
            .OrderBy(p => p.Id)
            .Join(tags, p => p.MachineId, m => m.Id, (p, m) => new LoggedPhoto(m.Tag, p.Id, p.Note, p.By, p.At))
            .ToListAsync(stop);
        var jobs = await db
            .Jobs.AsNoTracking()
            .Where(j => j.Id > from.Jobs)
            .OrderBy(j => j.Id)
            .Select(j => new LoggedJob(j.Id, j.Tag, j.About, j.Says, j.By, j.State, j.EndedAt ?? j.At))
            .ToListAsync(stop);
        var ended = jobs.TakeWhile(j => j.State is not (JobState.Queued or JobState.Running)).LastOrDefault();
        return new LogNews(
            new LogMark(
                facts.Count > 0 ? facts[^1].f.Id : from.Facts,
                bundles.Count > 0 ? bundles[^1].b.Id : from.Bundles,
                runs.Count > 0 ? runs[^1].Number : from.Runs,
                events.Count > 0 ? events[^1].Id : from.Events,
                photos.Count > 0 ? photos[^1].Id : from.Photos,
                ended?.Id ?? from.Jobs,
                takenBack
            ),
            anew,
            [
                .. facts.Select(x => new LoggedFact(
                    x.Tag,
                    x.f.Key,
                    x.f.Value,
                    x.f.Source,
                    x.f.Origin,
                    x.f.By,
                    x.f.ReceivedAt
                )),
            ],
            [
                .. bundles
                    .Where(x => x.b.FirstReceipt > 0)
                    .Select(x => new LoggedProbe(
                        x.Tag,
                        x.b.FirstReceipt,
                        x.b.Name,
                        (int)(x.b.LastReceipt - x.b.FirstReceipt + 1),
                        x.b.TakenBackBy,
                        x.b.ReceivedAt
                    )),
            ],
            runs,
            [.. events.Select(e => new LoggedEvent(e.RunId, e.Seq, e.Kind, e.StepId, e.By, e.Data, e.At))],
            photos,
            jobs
        );
    }
}
