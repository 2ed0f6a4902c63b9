using System.Collections.Concurrent;
using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Backups;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Parts;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Runs;

/// <summary>A run as it stands in the database.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Tag">The machine.</param>
/// <param name="Route">The route as it was chosen; what catalogue and prices say today does not change it.</param>
/// <param name="Steps">The sheet, as it reads after what was changed for this machine.</param>
/// <param name="Events">What has happened.</param>
/// <param name="State">Where it stands.</param>
/// <param name="BrokenAt">
/// The first event that does not fit the chain, <see cref="EventChain.AtRow"/> where the run's own row was changed; null when the
/// chain is whole.
/// </param>
/// <param name="By">Who began it.</param>
/// <param name="StartedAt">When it began.</param>
/// <param name="ReceiptAtStart">Readings received from here on are new.</param>
/// <param name="Readings">The readings when it began.</param>
/// <param name="Override">Why it began although the release rung was open; null where it was not.</param>
/// <param name="Number">Its place among all runs: the later has the greater.</param>
/// <param name="Head">The end of its chain.</param>
/// <param name="RowSealed">Whether route, sheet and dossier are sealed too, or, in a run of an older version, its events only.</param>
public sealed record StoredRun(
    string Id,
    string Tag,
    Route Route,
    IReadOnlyList<Step> Steps,
    IReadOnlyList<RunEvent> Events,
    RunState State,
    int? BrokenAt,
    string By,
    DateTimeOffset StartedAt,
    long ReceiptAtStart,
    IReadOnlyList<Reading> Readings,
    string? Override,
    long Number,
    string Head,
    bool RowSealed
);

/// <summary>What worked at a step, on another machine or an earlier day.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="What">What worked.</param>
/// <param name="At">When.</param>
public sealed record WorkedBefore(string Tag, string What, DateTimeOffset At);

/// <summary>A step that reads otherwise on a machine, offered to the shop's catalogue.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Was">The step as it read before.</param>
/// <param name="Edit">How it reads there, and why.</param>
public sealed record OfferedStep(string Tag, string Was, StepEdit Edit);

/// <summary>Runs and their events. An event is on the disk before it is answered.</summary>
public sealed class RunStore(IDbContextFactory<FreshBootDb> databases, PartStore parts, TimeProvider clock)
{
    private readonly List<Action<StoredRun>> _watchers = [];

    /// <summary>A turn for each run: its events are taken, and told of, one after the other.</summary>
    private readonly ConcurrentDictionary<string, SemaphoreSlim> _turns = new(StringComparer.Ordinal);

    /// <summary>Has somebody told after each write, with the run as it stands now. For the time of the start only.</summary>
    public void Watch(Action<StoredRun> watcher) => _watchers.Add(watcher);

    private StoredRun Told(StoredRun run)
    {
        foreach (var watcher in _watchers)
            watcher(run);
        return run;
    }

    /// <summary>Begins a run, with what it takes from the shelf: all of it or nothing.</summary>
    /// <param name="machine">The machine as the route was worked out for.</param>
    /// <param name="route">The route.</param>
    /// <param name="steps">Its sheet.</param>
    /// <param name="takes">What it takes from the shelf.</param>
    /// <param name="catalogueHash">The catalogue that it was worked out with.</param>
    /// <param name="by">Who begins.</param>
    /// <param name="because">Why, where the release rung was still open.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">
    /// Another run of the machine is under way, the machine has changed since the route was worked out, or the shelf lacks what
    /// it takes.
    /// </exception>
    public async Task<StoredRun> BeginAsync(
        StoredMachine machine,
        Route route,
        IReadOnlyList<Step> steps,
        IReadOnlyList<ModuleWish> takes,
        string catalogueHash,
        string by,
        string? because,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var row = await db.Machines.SingleAsync(m => m.Tag == machine.Tag, stop);
        if (row.Version != machine.Version)
            throw new RefusedException(
                RefusalKind.Conflict,
                "The machine has changed since this route was worked out.",
                "routeId",
                "An id from the routes as they are now."
            );
        foreach (var other in await db.Runs.Where(r => r.MachineId == row.Id).ToListAsync(stop))
            if ((await LoadAsync(db, other, machine.Tag, stop)).State.IsOpen)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    "A run of this machine is under way.",
                    "routeId",
                    $"The run {other.Id} finished, or stopped and given up."
                );
        var run = new RunRow
        {
            Id = Guid.CreateVersion7().ToString("N"),
            Number = await db.Runs.MaxAsync(r => (long?)r.Number, stop) + 1 ?? 1,
            MachineId = row.Id,
            Route = JsonSerializer.Serialize(route, JsonSerializerOptions.Web),
            Steps = JsonSerializer.Serialize(steps, JsonSerializerOptions.Web),
            Dossier = row.Dossier,
            ReceiptAtStart = row.NextReceipt,
            CatalogueHash = catalogueHash,
            By = by,
            Override = because,
            StartedAt = Milliseconds(clock.GetUtcNow()),
        };
        run.Seal = run.SealNow;
        db.Runs.Add(run);
        foreach (var wish in takes)
            await PartStore.ReserveAsync(db, machine.Tag, wish, by, run.StartedAt, stop);
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(CancellationToken.None);
        if (takes.Count > 0)
            await parts.LoadAsync();
        return Told(await LoadAsync(db, run, machine.Tag, stop));
    }

    /// <summary>The latest run of a machine; null where it has none.</summary>
    public async Task<StoredRun?> LatestOfAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var snapshot = await db.SnapshotAsync(stop);
        var row = await db
            .Runs.Where(r => db.Machines.Any(m => m.Id == r.MachineId && m.Tag == tag))
            .OrderByDescending(r => r.Number)
            .FirstOrDefaultAsync(stop);
        return row is null ? null : await LoadAsync(db, row, tag, stop);
    }

    /// <summary>Every run of a machine, oldest first.</summary>
    public async Task<IReadOnlyList<StoredRun>> AllOfAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var snapshot = await db.SnapshotAsync(stop);
        var rows = await db
            .Runs.Where(r => db.Machines.Any(m => m.Id == r.MachineId && m.Tag == tag))
            .OrderBy(r => r.Number)
            .ToListAsync(stop);
        var runs = new List<StoredRun>();
        foreach (var row in rows)
            runs.Add(await LoadAsync(db, row, tag, stop));
        return runs;
    }

    /// <summary>The codes of second probes on which a step of a run of this machine rests.</summary>
    public async Task<IReadOnlySet<string>> ProofsOfAsync(string tag, CancellationToken stop)
    {
        var codes = new HashSet<string>(StringComparer.Ordinal);
        foreach (var run in await AllOfAsync(tag, stop))
        {
            var proving = run.Steps.Where(s => s.Wants == RunRules.Probe).Select(s => s.Id).ToHashSet();
            if (
                run.State.Code is { } code
                && run.Events.Any(e => e.Kind == RunEventKinds.Done && proving.Contains(e.StepId))
            )
                codes.Add(code);
        }
        return codes;
    }

    /// <summary>One run.</summary>
    /// <exception cref="RefusedException">There is none with this id.</exception>
    public async Task<StoredRun> GetAsync(string id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var snapshot = await db.SnapshotAsync(stop);
        var (run, tag) = await FindAsync(db, id, stop);
        return await LoadAsync(db, run, tag, stop);
    }

    /// <summary>Every run of every machine, oldest first.</summary>
    public async Task<IReadOnlyList<StoredRun>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var snapshot = await db.SnapshotAsync(stop);
        var rows = await db
            .Runs.Join(db.Machines, r => r.MachineId, m => m.Id, (run, m) => new { run, m.Tag })
            .OrderBy(r => r.run.Number)
            .ToListAsync(stop);
        var runs = new List<StoredRun>(rows.Count);
        foreach (var row in rows)
            runs.Add(await LoadAsync(db, row.run, row.Tag, stop));
        return runs;
    }

    /// <summary>What worked last at a step, on a machine that counts as alike; null where nothing is known.</summary>
    /// <param name="stepId">The step; its id is the same in every sheet that has it.</param>
    /// <param name="alike">Whether a machine counts, by its tag.</param>
    /// <param name="stop">Stops it.</param>
    public async Task<WorkedBefore?> WorkedAsync(string stepId, Func<string, bool> alike, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = db
            .RunEvents.AsNoTracking()
            .Where(e => e.StepId == stepId && e.Kind == RunEventKinds.Done)
            .OrderByDescending(e => e.At)
            .Join(
                db.Runs.Join(db.Machines, r => r.MachineId, m => m.Id, (r, m) => new { r.Id, m.Tag }),
                e => e.RunId,
                r => r.Id,
                (e, r) =>
                    new
                    {
                        e.Data,
                        e.At,
                        r.Tag,
                    }
            )
            .AsAsyncEnumerable();
        await foreach (var row in rows.WithCancellation(stop))
            if (
                alike(row.Tag)
                && JsonSerializer
                    .Deserialize<Dictionary<string, string>>(row.Data, JsonSerializerOptions.Web)!
                    .GetValueOrDefault(RunRules.Worked)
                    is { } what
            )
                return new WorkedBefore(row.Tag, what, row.At);
        return null;
    }

    /// <summary>Steps that were changed on a machine and offered to the catalogue, newest first.</summary>
    public async Task<IReadOnlyList<OfferedStep>> OffersAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var snapshot = await db.SnapshotAsync(stop);
        var runs = await db
            .RunEvents.Where(e => e.Kind == RunEventKinds.Edited)
            .Select(e => e.RunId)
            .Distinct()
            .ToListAsync(stop);
        var offers = new List<OfferedStep>();
        foreach (var id in runs)
        {
            var (row, tag) = await FindAsync(db, id, stop);
            var run = await LoadAsync(db, row, tag, stop);
            var was = JsonSerializer
                .Deserialize<Step[]>(row.Steps, JsonSerializerOptions.Web)!
                .ToDictionary(s => s.Id, s => s.Text, StringComparer.Ordinal);
            offers.AddRange(
                run.Events.Select(StepEdit.Of)
                    .OfType<StepEdit>()
                    .Where(e => e.Offered)
                    .Select(e => new OfferedStep(tag, was[e.StepId], e))
            );
        }
        return [.. offers.OrderByDescending(o => o.Edit.At)];
    }

    /// <summary>
    /// Takes an event. The same event again gets the same answer; a teller that has not seen all events before it is refused.
    /// </summary>
    /// <param name="id">The run.</param>
    /// <param name="said">What is said.</param>
    /// <param name="context">What is known when it comes in.</param>
    /// <param name="adds">What the server adds to it, under keys of <see cref="RunRules.AddedByServer"/>.</param>
    /// <param name="stop">Stops it.</param>
    public async Task<StoredRun> TakeAsync(
        string id,
        RunEventIn said,
        Func<StoredRun, RunContext> context,
        Func<StoredRun, IReadOnlyDictionary<string, string>> adds,
        CancellationToken stop
    )
    {
        var turn = _turns.GetOrAdd(id, _ => new SemaphoreSlim(1, 1));
        await turn.WaitAsync(stop);
        try
        {
            return await TakeInTurnAsync(id, said, context, adds, stop);
        }
        finally
        {
            turn.Release();
        }
    }

    /// <summary>What recorded runs say of the times of steps: the latest of them, and how many runs there are.</summary>
    public async Task<(IReadOnlyList<TimedStep> Times, int Runs)> TimesAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return (
            [.. (await TimedAsync(stop)).Select(t => t.Step)],
            await db.StepTimes.Select(t => t.RunId).Distinct().CountAsync(stop)
        );
    }

    /// <summary>The same with the day on which each was recorded, the latest first.</summary>
    public async Task<IReadOnlyList<(TimedStep Step, DateTimeOffset At)>> TimedAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db
            .StepTimes.AsNoTracking()
            .OrderByDescending(t => t.Id)
            .Take(MostTimes)
            .Select(t => new
            {
                t.Step,
                t.UsualMinutes,
                t.TookMinutes,
                t.At,
            })
            .ToListAsync(stop);
        return [.. rows.Select(t => (new TimedStep(t.Step, t.UsualMinutes, t.TookMinutes), t.At))];
    }

    /// <summary>A shop’s pace of years ago is not its pace today.</summary>
    private const int MostTimes = 20_000;

    private async Task<StoredRun> TakeInTurnAsync(
        string id,
        RunEventIn said,
        Func<StoredRun, RunContext> context,
        Func<StoredRun, IReadOnlyDictionary<string, string>> adds,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var (row, tag) = await FindAsync(db, id, stop);
        var run = await LoadAsync(db, row, tag, stop);
        if (run.BrokenAt is { } broken)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The record is broken at {EventChain.Place(broken)}.",
                $"run {id}, event {broken}",
                "The record as it was written: restore it from a backup."
            );
        if (Before(run, said) is { } same)
            return same;
        if (said.ExpectedSeq != run.Events.Count)
            throw Late(said.ExpectedSeq, run.Events.Count);
        RunRules.Check(run.Steps, run.State, said, context(run));

        var data = new Dictionary<string, string>(
            said.Data ?? new Dictionary<string, string>(StringComparer.Ordinal),
            StringComparer.Ordinal
        );
        foreach (var (key, value) in adds(run))
            data[key] = value;
        var bare = new RunEvent(
            run.Events.Count + 1,
            said.EventId,
            said.Kind,
            said.StepId,
            said.By,
            data,
            Milliseconds(clock.GetUtcNow()),
            ""
        );
        var sealedEvent = EventChain.Seal(bare, run.Head);
        db.RunEvents.Add(
            new RunEventRow
            {
                RunId = id,
                Seq = sealedEvent.Seq,
                EventId = sealedEvent.EventId,
                Kind = sealedEvent.Kind,
                StepId = sealedEvent.StepId,
                By = sealedEvent.By,
                Data = JsonSerializer.Serialize(data, JsonSerializerOptions.Web),
                At = sealedEvent.At,
                Hash = sealedEvent.Hash,
            }
        );
        row.Events = sealedEvent.Seq;
        IReadOnlyList<RunEvent> events = [.. run.Events, sealedEvent];
        if (StepTimer.Of(run.Steps, events) is { } timed)
            db.StepTimes.Add(
                new StepTimeRow
                {
                    Step = timed.Step,
                    UsualMinutes = timed.Usual,
                    TookMinutes = timed.Took,
                    RunId = id,
                    At = sealedEvent.At,
                }
            );
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(CancellationToken.None);
        var steps = StepEdit.Apply(run.Steps, events);
        return Told(
            run with
            {
                Steps = steps,
                Events = events,
                State = RunState.Fold(steps, events),
                Head = sealedEvent.Hash,
            }
        );
    }

    /// <summary>The run, where this event is in it already; null where it is not.</summary>
    /// <exception cref="RefusedException">Another event has its id.</exception>
    private static StoredRun? Before(StoredRun run, RunEventIn said)
    {
        if (run.Events.FirstOrDefault(e => e.EventId == said.EventId) is not { } before)
            return null;
        var data = said.Data ?? new Dictionary<string, string>(StringComparer.Ordinal);
        return
            before.Kind == said.Kind
            && before.StepId == said.StepId
            && before.By == said.By
            // What the server adds to an event is not said by its teller.
            && data.All(d => before.Data.TryGetValue(d.Key, out var value) && value == d.Value)
            && before.Data.Keys.All(k => data.ContainsKey(k) || RunRules.AddedByServer.Contains(k))
            ? run
            : throw new RefusedException(
                RefusalKind.Conflict,
                "Another event has this id.",
                "eventId",
                "A fresh id for each event."
            );
    }

    private static RefusedException Late(int expected, int there) =>
        new(
            RefusalKind.Conflict,
            "Somebody else was quicker: the run has moved on.",
            "expectedSeq",
            $"{there} instead of {expected}; look at the run again first."
        );

    /// <summary>The database keeps milliseconds, and the hash is over what it keeps.</summary>
    private static DateTimeOffset Milliseconds(DateTimeOffset time) =>
        DateTimeOffset.FromUnixTimeMilliseconds(time.ToUnixTimeMilliseconds());

    private static async Task<(RunRow Run, string Tag)> FindAsync(FreshBootDb db, string id, CancellationToken stop)
    {
        var run =
            await db.Runs.SingleOrDefaultAsync(r => r.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                "There is no such run.",
                "id",
                "The id that began the run."
            );
        return (run, (await db.Machines.SingleAsync(m => m.Id == run.MachineId, stop)).Tag);
    }

    private static async Task<StoredRun> LoadAsync(FreshBootDb db, RunRow row, string tag, CancellationToken stop)
    {
        var rows = await db
            .RunEvents.AsNoTracking()
            .Where(e => e.RunId == row.Id)
            .OrderBy(e => e.Seq)
            .ToListAsync(stop);
        RunEvent[] events =
        [
            .. rows.Select(e => new RunEvent(
                e.Seq,
                e.EventId,
                e.Kind,
                e.StepId,
                e.By,
                JsonSerializer.Deserialize<Dictionary<string, string>>(e.Data, JsonSerializerOptions.Web)!,
                e.At,
                e.Hash
            )),
        ];
        var route = JsonSerializer.Deserialize<Route>(row.Route, JsonSerializerOptions.Web)!;
        var root = EventChain.Root(row.Id, row.Seal);
        var broken =
            row.Seal is { } seal && seal != row.SealNow
                ? EventChain.AtRow
                : EventChain.Broken(root, events, row.Events);
        // What stands before the break still counts; what comes after it proves nothing.
        var whole = broken is { } at ? events[..Math.Clamp(at - 1, 0, events.Length)] : events;
        var steps = StepEdit.Apply(JsonSerializer.Deserialize<Step[]>(row.Steps, JsonSerializerOptions.Web)!, whole);
        return new StoredRun(
            row.Id,
            tag,
            route,
            steps,
            events,
            RunState.Fold(steps, whole),
            broken,
            row.By,
            row.StartedAt,
            row.ReceiptAtStart,
            JsonSerializer.Deserialize<Reading[]>(row.Dossier, JsonSerializerOptions.Web)!,
            row.Override,
            row.Number,
            events.Length == 0 ? root : events[^1].Hash,
            row.Seal is not null
        );
    }

    /// <summary>Every run of a database, for those who check one.</summary>
    internal static async Task<IReadOnlyList<StoredRun>> AllAsync(FreshBootDb db, CancellationToken stop)
    {
        var rows = await db
            .Runs.AsNoTracking()
            .Join(db.Machines, r => r.MachineId, m => m.Id, (run, m) => new { run, m.Tag })
            .OrderBy(r => r.run.Number)
            .ToListAsync(stop);
        var runs = new List<StoredRun>(rows.Count);
        foreach (var row in rows)
            runs.Add(await LoadAsync(db, row.run, row.Tag, stop));
        return runs;
    }

    /// <summary>The ends of the chains of all runs, as a back-up keeps them.</summary>
    internal static async Task<IReadOnlyList<RunHead>> HeadsAsync(FreshBootDb db, CancellationToken stop)
    {
        var runs = await db
            .Runs.AsNoTracking()
            .OrderBy(r => r.Number)
            .Select(r => new
            {
                r.Id,
                r.Seal,
                r.Events,
                Last = db
                    .RunEvents.Where(e => e.RunId == r.Id)
                    .OrderByDescending(e => e.Seq)
                    .Select(e => e.Hash)
                    .FirstOrDefault(),
            })
            .ToListAsync(stop);
        return [.. runs.Select(r => new RunHead(r.Id, r.Events, r.Last ?? EventChain.Root(r.Id, r.Seal)))];
    }

    /// <summary>Whether a run's chain ends as was written down, or went on from there.</summary>
    internal static async Task<bool> EndsWithAsync(FreshBootDb db, RunHead head, CancellationToken stop) =>
        head.Events == 0
            ? await db.Runs.AsNoTracking().SingleOrDefaultAsync(r => r.Id == head.Run, stop) is { } run
                && EventChain.Root(run.Id, run.Seal) == head.Head
            : await db.RunEvents.AnyAsync(
                e => e.RunId == head.Run && e.Seq == head.Events && e.Hash == head.Head,
                stop
            );
}
