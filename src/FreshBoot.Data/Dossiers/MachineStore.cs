using System.Collections.Concurrent;
using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Data.Intake;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Dossiers;

/// <summary>A machine as it stands in the database.</summary>
/// <param name="Tag">Its asset tag.</param>
/// <param name="Version">Goes up with every change.</param>
/// <param name="Bay">The bay it stands in, 1 to 6; null on the shelf.</param>
/// <param name="Aim">The system chosen for it; null while nobody chose.</param>
/// <param name="TakenInAt">When it was taken in.</param>
/// <param name="Readings">The current readings, without derived ones.</param>
public sealed record StoredMachine(
    string Tag,
    int Version,
    int? Bay,
    string? Aim,
    DateTimeOffset TakenInAt,
    IReadOnlyList<Reading> Readings
)
{
    /// <summary>The dossier's own version: how many readings ever came in. A move to another bay does not change it.</summary>
    public long DossierVersion { get; init; }

    /// <summary>Codes of run steps that new bundles of this machine carried: each proves that it was made for its step.</summary>
    public IReadOnlyList<string> Codes { get; init; } = [];
}

/// <summary>A probe as it comes in: what was read, from which files, and what they carry.</summary>
/// <param name="Readings">What was read.</param>
/// <param name="Files">The files.</param>
/// <param name="Warnings">What was left out and why.</param>
/// <param name="Code">The code of a run step that the bundle carries; null for none.</param>
/// <param name="Arrival">The arrival that it waited as; null where it came with a tag.</param>
public sealed record IncomingProbe(
    IReadOnlyList<Reading> Readings,
    IReadOnlyList<IncomingFile> Files,
    IReadOnlyList<string> Warnings,
    string? Code = null,
    int? Arrival = null
);

/// <summary>A reading of a fact as it came in.</summary>
/// <param name="Value">The value; null where what people had said was taken back.</param>
/// <param name="Source">What it was read from.</param>
/// <param name="Origin">How it came in.</param>
/// <param name="TakenAt">When it was measured.</param>
/// <param name="ReceivedAt">When it came in.</param>
/// <param name="By">Who entered or chose it.</param>
/// <param name="TakenBackBy">Who took the probe back that it came with; null while it counts.</param>
public sealed record PastReading(
    FactValue? Value,
    string Source,
    Origin Origin,
    DateTimeOffset TakenAt,
    DateTimeOffset ReceivedAt,
    string? By,
    string? TakenBackBy = null
);

/// <summary>A probe as it was taken in.</summary>
/// <param name="Id">Its id: the place of its first reading in the order of receipt.</param>
/// <param name="Files">The names of its files.</param>
/// <param name="ReceivedAt">When it came in.</param>
/// <param name="Facts">How many readings it brought.</param>
/// <param name="Warnings">What was left out and why.</param>
/// <param name="TakenBackBy">Who took it back; null while it counts.</param>
public sealed record PastProbe(
    long Id,
    IReadOnlyList<string> Files,
    DateTimeOffset ReceivedAt,
    long Facts,
    IReadOnlyList<string> Warnings,
    string? TakenBackBy
);

/// <summary>A file that came in with readings.</summary>
public sealed record IncomingFile(string Name, ReadOnlyMemory<byte> Content);

/// <summary>
/// Machines and their dossiers. History rows and the current document are written in one transaction; whoever gets an
/// answer finds what it says after a pulled plug.
/// </summary>
public sealed class MachineStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    private const int Tries = 20;

    /// <summary>One writer of a machine at a time: the others wait for their turn instead of trying again and again.</summary>
    private readonly ConcurrentDictionary<string, SemaphoreSlim> _turns = new(StringComparer.OrdinalIgnoreCase);

    private readonly List<Action<StoredMachine>> _watchers = [];

    /// <summary>Has somebody told after each write, with the machine as it stands now. For the time of the start only.</summary>
    public void Watch(Action<StoredMachine> watcher) => _watchers.Add(watcher);

    /// <summary>Every machine, by tag.</summary>
    public async Task<IReadOnlyList<StoredMachine>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db.Machines.AsNoTracking().OrderBy(m => m.Tag).ToListAsync(stop);
        // Reading their documents is most of the work, and each is by itself.
        return [.. rows.AsParallel().AsOrdered().Select(Stored)];
    }

    /// <summary>One machine.</summary>
    /// <exception cref="RefusedException">There is none with this tag.</exception>
    public async Task<StoredMachine> GetAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return Stored(await RowAsync(db, tag, stop));
    }

    /// <summary>Takes a machine in.</summary>
    /// <exception cref="RefusedException">The tag is in use, or the arrival was taken in by somebody else.</exception>
    public async Task<StoredMachine> TakeInAsync(string tag, IncomingProbe probe, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        if (await db.Machines.AnyAsync(m => m.Tag == tag, stop))
            throw TagInUse(tag);
        using var files = await folder.HoldFilesAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var row = new MachineRow { Tag = tag, TakenInAt = clock.GetUtcNow() };
        db.Machines.Add(row);
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: 19 })
        {
            // Somebody else was quicker between the question and the insert.
            throw TagInUse(tag);
        }
        await TakeAsync(db, row, probe, stop);
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(CancellationToken.None);
        return Told(row);
    }

    /// <summary>Takes many machines in at once: all of them or none.</summary>
    /// <exception cref="RefusedException">A tag is in use.</exception>
    public async Task TakeInManyAsync(
        IReadOnlyList<(string Tag, IReadOnlyList<Reading> Readings)> machines,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = clock.GetUtcNow();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        // Prepared once: a hundred thousand rows through change tracking would take minutes.
        await using var insertMachine = connection.CreateCommand();
        insertMachine.CommandText =
            "INSERT INTO machines (Tag, Version, TakenInAt, Dossier, NextReceipt, LastReceivedAt, Codes) VALUES ($tag, 1, $at, $dossier, $next, $at, '') RETURNING Id";
        await using var insertFact = connection.CreateCommand();
        insertFact.CommandText =
            "INSERT INTO fact_history (MachineId, Key, Value, Source, Origin, TakenAt, ReceivedAt, \"By\", Receipt) VALUES ($machine, $key, $value, $source, $origin, $taken, $at, $by, $receipt)";
        var at = now.ToUnixTimeMilliseconds();
        var stored = new List<StoredMachine>(machines.Count);
        foreach (var (tag, readings) in machines)
        {
            stop.ThrowIfCancellationRequested();
            var received = readings.Select((r, i) => r with { Receipt = i + 1 }).ToArray();
            Set(
                insertMachine,
                ("$tag", tag),
                ("$at", at),
                ("$dossier", JsonSerializer.Serialize(received, JsonSerializerOptions.Web)),
                ("$next", received.Length + 1)
            );
            object id;
            try
            {
                id = (await insertMachine.ExecuteScalarAsync(stop))!;
            }
            catch (SqliteException e) when (e.SqliteErrorCode == 19)
            {
                throw TagInUse(tag);
            }
            foreach (var reading in received)
            {
                Set(
                    insertFact,
                    ("$machine", id),
                    ("$key", reading.Key),
                    ("$value", JsonSerializer.Serialize(reading.Value, JsonSerializerOptions.Web)),
                    ("$source", reading.Source),
                    ("$origin", reading.Origin.ToString()),
                    ("$taken", reading.TakenAt.ToUnixTimeMilliseconds()),
                    ("$at", at),
                    ("$by", (object?)reading.By ?? DBNull.Value),
                    ("$receipt", reading.Receipt)
                );
                await insertFact.ExecuteNonQueryAsync(stop);
            }
            stored.Add(new StoredMachine(tag, 1, null, null, now, received) { DossierVersion = received.Length });
        }
        await transaction.CommitAsync(stop);
        foreach (var machine in stored)
            Tell(machine);

        static void Set(SqliteCommand command, params (string Name, object Value)[] values)
        {
            if (command.Parameters.Count == 0)
                foreach (var (name, value) in values)
                    command.Parameters.AddWithValue(name, value);
            else
                for (var i = 0; i < values.Length; i++)
                    command.Parameters[i].Value = values[i].Value;
        }
    }

    /// <summary>Every reading of a fact that ever came in, latest first.</summary>
    public async Task<IReadOnlyList<PastReading>> HistoryAsync(string tag, string key, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var machine = await RowAsync(db, tag, stop);
        key = DriveOrder.Swapped(key, DriveOrder.Target(Core.Dossiers.Dossier.From(Parse(machine.Dossier))));
        var rows = await db
            .FactHistory.AsNoTracking()
            .Where(f => f.MachineId == machine.Id && f.Key == key)
            .OrderByDescending(f => f.Receipt)
            .ToListAsync(stop);
        var back = await TakenBackAsync(db, machine, stop);
        return [.. rows.Select(r => Past(r, back))];
    }

    private static PastReading Past(FactRow row, IReadOnlyList<BundleRow> back) =>
        new(
            JsonSerializer.Deserialize<FactValue>(row.Value, JsonSerializerOptions.Web),
            row.Source,
            Enum.Parse<Origin>(row.Origin),
            row.TakenAt,
            row.ReceivedAt,
            row.By,
            back.FirstOrDefault(b => b.FirstReceipt <= row.Receipt && row.Receipt <= b.LastReceipt)?.TakenBackBy
        );

    /// <summary>The files of every probe of a machine that counts, by name and SHA-256, the oldest first.</summary>
    public async Task<IReadOnlyList<(string Name, string Sha256)>> ProbeFilesAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var machine = await RowAsync(db, tag, stop);
        var rows = await db
            .Bundles.AsNoTracking()
            .Where(b => b.MachineId == machine.Id && b.TakenBackBy == null)
            .OrderBy(b => b.Id)
            .ToListAsync(stop);
        return [.. rows.Select(b => (b.Name, b.Sha256))];
    }

    /// <summary>The probes that were taken in, latest first.</summary>
    public async Task<IReadOnlyList<PastProbe>> ProbesAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var machine = await RowAsync(db, tag, stop);
        var rows = await db
            .Bundles.AsNoTracking()
            .Where(b => b.MachineId == machine.Id && b.FirstReceipt > 0)
            .OrderByDescending(b => b.FirstReceipt)
            .ThenBy(b => b.Id)
            .ToListAsync(stop);
        return
        [
            .. rows.GroupBy(b => b.FirstReceipt)
                .Select(g => new PastProbe(
                    g.Key,
                    [.. g.Select(b => b.Name)],
                    g.First().ReceivedAt,
                    g.First().LastReceipt - g.Key + 1,
                    JsonSerializer.Deserialize<string[]>(g.First().Warnings, JsonSerializerOptions.Web)!,
                    g.First().TakenBackBy
                )),
        ];
    }

    /// <summary>
    /// Takes a probe back that was another machine's, or a wrong one: the dossier is made anew from everything else that ever
    /// came in. Its readings stay in the history, and say who took them back.
    /// </summary>
    /// <param name="tag">The machine.</param>
    /// <param name="probe">The probe, by its id.</param>
    /// <param name="by">Who takes it back.</param>
    /// <param name="needed">Codes of run steps that rest on a probe of this machine.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">There is no such probe, it was taken back, or a proof rests on it.</exception>
    public Task<StoredMachine> TakeBackAsync(
        string tag,
        long probe,
        string by,
        IReadOnlySet<string> needed,
        CancellationToken stop
    ) =>
        ChangeAsync(
            tag,
            async (db, row) =>
            {
                var files = await db
                    .Bundles.Where(b => b.MachineId == row.Id && b.FirstReceipt == probe && b.FirstReceipt > 0)
                    .ToListAsync(stop);
                if (files.Count == 0)
                    throw new RefusedException(
                        RefusalKind.Missing,
                        $"No probe {probe} of {row.Tag} was taken in.",
                        "id",
                        $"A probe that {row.Tag} was read by; its page lists them."
                    );
                if (files[0].TakenBackBy is { } before)
                    throw new RefusedException(RefusalKind.Conflict, $"{before} took it back already.", "id", "");
                if (files.Exists(f => f.Code is { } code && needed.Contains(code)))
                    throw new RefusedException(
                        RefusalKind.Conflict,
                        "A step of a run is proved by this probe.",
                        "id",
                        "The run's record stays as it is; bring a further probe of the right machine."
                    );
                foreach (var file in files)
                    file.TakenBackBy = by;
                await db.SaveChangesAsync(stop);
                var back = await TakenBackAsync(db, row, stop);
                var history = await db
                    .FactHistory.AsNoTracking()
                    .Where(f => f.MachineId == row.Id)
                    .OrderBy(f => f.Receipt)
                    .ToListAsync(stop);
                var firsts = await db
                    .Bundles.Where(b => b.MachineId == row.Id)
                    .Select(b => b.FirstReceipt)
                    .ToListAsync(stop);
                row.Dossier = JsonSerializer.Serialize(
                    Again(
                        history.Where(h =>
                            !back.Exists(b => b.FirstReceipt <= h.Receipt && h.Receipt <= b.LastReceipt)
                        ),
                        firsts.ToHashSet()
                    ),
                    JsonSerializerOptions.Web
                );
                row.Codes = string.Join(
                    ' ',
                    row.Codes.Split(' ', StringSplitOptions.RemoveEmptyEntries)
                        .Except(files.Select(f => f.Code).OfType<string>())
                );
                // What rested on the dossier as it was does not rest on this one.
                row.NextReceipt++;
            },
            stop
        );

    private static async Task<List<BundleRow>> TakenBackAsync(FreshBootDb db, MachineRow row, CancellationToken stop) =>
        await db.Bundles.AsNoTracking().Where(b => b.MachineId == row.Id && b.TakenBackBy != null).ToListAsync(stop);

    /// <summary>The dossier as it became, word by word and probe by probe.</summary>
    /// <param name="history">What counts of it, in the order of receipt.</param>
    /// <param name="firsts">Where a probe begins: two may come in at the same moment. Older ones are told apart by their time.</param>
    private static IReadOnlyList<Reading> Again(IEnumerable<FactRow> history, HashSet<long> firsts)
    {
        var dossier = Core.Dossiers.Dossier.Empty;
        var batch = new List<Reading>();
        FactRow? last = null;
        foreach (var row in history)
        {
            if (
                last is not null
                && (last.Origin != row.Origin || last.ReceivedAt != row.ReceivedAt || firsts.Contains(row.Receipt))
            )
                Close();
            last = row;
            if (row.Value == NoValue)
            {
                dossier = row.Origin == nameof(Origin.Work) ? dossier.Without(row.Key) : dossier.WithoutWord(row.Key);
                continue;
            }
            var reading = new Reading(
                row.Key,
                JsonSerializer.Deserialize<FactValue>(row.Value, JsonSerializerOptions.Web)!,
                row.Source,
                Enum.Parse<Origin>(row.Origin),
                row.TakenAt,
                row.By
            )
            {
                Receipt = row.Receipt,
            };
            if (reading.Origin == Origin.Probed)
                batch.Add(reading);
            else
                dossier = reading.Origin == Origin.Work ? dossier.WithWork(reading) : dossier.WithWord(reading);
        }
        Close();
        return dossier.Readings;

        void Close()
        {
            if (batch.Count > 0)
                dossier = dossier.WithProbe([.. batch]);
            batch.Clear();
        }
    }

    /// <summary>The tags that are in use.</summary>
    public async Task<IReadOnlySet<string>> InUseAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var used = await db.Machines.AsNoTracking().Select(m => m.Tag).ToListAsync(stop);
        return used.ToHashSet(StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>Takes a further probe of a known machine.</summary>
    /// <exception cref="RefusedException">There is no such machine, or the arrival was taken in by somebody else.</exception>
    public async Task<StoredMachine> TakeProbeAsync(string tag, IncomingProbe probe, CancellationToken stop)
    {
        using var files = await folder.HoldFilesAsync(stop);
        return await ChangeAsync(tag, (db, row) => TakeAsync(db, row, probe, stop), stop);
    }

    private async Task TakeAsync(FreshBootDb db, MachineRow row, IncomingProbe probe, CancellationToken stop)
    {
        if (probe.Arrival is { } arrival)
            await ArrivalStore.ClaimAsync(db, arrival, row.Tag, stop);
        var first = row.NextReceipt;
        Write(db, row, d => d.WithProbe(Received(row, probe.Readings)));
        await AddFilesAsync(db, row, probe, first, stop);
    }

    /// <summary>Takes what a person entered or chose.</summary>
    public Task<StoredMachine> EnterAsync(string tag, Reading reading, CancellationToken stop) =>
        EnterAsync(tag, [reading], stop);

    /// <summary>
    /// Takes back what people said of a fact: it is unknown again, or what a probe says of it. What was said stays in the
    /// history, with whoever took it back.
    /// </summary>
    /// <exception cref="RefusedException">Nobody said anything of it.</exception>
    public Task<StoredMachine> UnsayAsync(string tag, string key, string by, CancellationToken stop) =>
        ChangeAsync(
            tag,
            (db, row) =>
            {
                var before = Core.Dossiers.Dossier.From(Parse(row.Dossier));
                // What is said of a drive is said of it in its order, and stored as it was read.
                key = DriveOrder.Swapped(key, DriveOrder.Target(before));
                var after = before.WithoutWord(key);
                if (after.Readings.Count == before.Readings.Count)
                    throw new RefusedException(
                        RefusalKind.Conflict,
                        $"Nobody has said anything of {FactRegistry.Label(key)}.",
                        "key",
                        "A fact that a person entered or chose."
                    );
                Unsay(db, row, after, key, "taken back", by);
                return Task.CompletedTask;
            },
            stop
        );

    /// <summary>
    /// Takes what the work left of facts: what was known of them before holds no longer. All of it or nothing.
    /// </summary>
    /// <param name="tag">The machine.</param>
    /// <param name="left">What holds now, with where it comes from.</param>
    /// <param name="ended">Facts that ended with the work.</param>
    /// <param name="source">Where those come from.</param>
    /// <param name="by">Who did it.</param>
    /// <param name="stop">Stops it.</param>
    public Task<StoredMachine> LeaveAsync(
        string tag,
        IReadOnlyList<Reading> left,
        IReadOnlyList<string> ended,
        string source,
        string by,
        CancellationToken stop
    ) =>
        ChangeAsync(
            tag,
            (db, row) =>
            {
                var before = Core.Dossiers.Dossier.From(Parse(row.Dossier));
                var target = DriveOrder.Target(before);
                foreach (var key in ended.Select(k => DriveOrder.Swapped(k, target)))
                {
                    before = before.Without(key);
                    Unsay(db, row, before, key, source, by, Origin.Work);
                }
                var received = Received(row, [.. left.Select(r => r with { Key = DriveOrder.Swapped(r.Key, target) })]);
                Write(db, row, d => received.Aggregate(d, (dossier, reading) => dossier.WithWork(reading)));
                return Task.CompletedTask;
            },
            stop
        );

    private void Unsay(
        FreshBootDb db,
        MachineRow row,
        Dossier after,
        string key,
        string source,
        string? by,
        Origin origin = Origin.Entered
    )
    {
        row.LastReceivedAt = clock.GetUtcNow();
        db.FactHistory.Add(
            new FactRow
            {
                MachineId = row.Id,
                Key = key,
                Value = NoValue,
                Source = source,
                Origin = origin.ToString(),
                TakenAt = row.LastReceivedAt,
                ReceivedAt = row.LastReceivedAt,
                By = by,
                Receipt = row.NextReceipt++,
            }
        );
        row.Dossier = JsonSerializer.Serialize(after.Readings, JsonSerializerOptions.Web);
    }

    /// <summary>Takes a word of a person, and takes back what people said of other facts: with it they hold no longer.</summary>
    /// <param name="tag">The machine.</param>
    /// <param name="word">What is said.</param>
    /// <param name="may">Refuses it where it cannot be, by the dossier as it is.</param>
    /// <param name="unsaid">The facts, by the dossier before it.</param>
    /// <param name="stop">Stops it.</param>
    public Task<StoredMachine> EnterInsteadAsync(
        string tag,
        Reading word,
        Action<Dossier> may,
        Func<Dossier, IReadOnlyList<string>> unsaid,
        CancellationToken stop
    ) =>
        ChangeAsync(
            tag,
            (db, row) =>
            {
                var before = Core.Dossiers.Dossier.From(Parse(row.Dossier));
                may(before);
                var after = before;
                foreach (var key in unsaid(before))
                    Unsay(db, row, after = after.WithoutWord(key), key, word.Source, word.By);
                var received = Received(row, [word]);
                Write(db, row, d => received.Aggregate(d, (dossier, said) => dossier.WithWord(said)));
                return Task.CompletedTask;
            },
            stop
        );

    /// <summary>What stands in the history where a word was taken back.</summary>
    private const string NoValue = "null";

    /// <summary>Takes several words of a person at once: all of them or none.</summary>
    public Task<StoredMachine> EnterAsync(string tag, IReadOnlyList<Reading> readings, CancellationToken stop) =>
        ChangeAsync(
            tag,
            (db, row) =>
            {
                var target = DriveOrder.Target(Core.Dossiers.Dossier.From(Parse(row.Dossier)));
                var received = Received(
                    row,
                    [.. readings.Select(r => r with { Key = DriveOrder.Swapped(r.Key, target) })]
                );
                Write(db, row, d => received.Aggregate(d, (dossier, word) => dossier.WithWord(word)));
                return Task.CompletedTask;
            },
            stop
        );

    /// <summary>Puts a machine in a bay, or on the shelf with null.</summary>
    /// <param name="tag">The machine.</param>
    /// <param name="bay">The bay.</param>
    /// <param name="swap">Whether one that stands there goes where this one stood.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">Another machine stands there, and they do not change places.</exception>
    public async Task<StoredMachine> PlaceAsync(string tag, int? bay, bool swap, CancellationToken stop)
    {
        MachineRow? other = null;
        try
        {
            var placed = await ChangeAsync(
                tag,
                async (db, row) =>
                {
                    other =
                        swap && bay is not null
                            ? await db.Machines.SingleOrDefaultAsync(m => m.Bay == bay && m.Id != row.Id, stop)
                            : null;
                    var before = row.Bay;
                    if (other is not null)
                    {
                        // A bay holds one machine at any moment, within this transaction too.
                        other.Bay = null;
                        other.Version++;
                        await db.SaveChangesAsync(stop);
                    }
                    row.Bay = bay;
                    if (other is null || before is null)
                        return;
                    await db.SaveChangesAsync(stop);
                    other.Bay = before;
                },
                stop
            );
            if (other is not null)
                Told(other);
            return placed;
        }
        catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: 19 })
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"Another machine stands in bay {bay}.",
                "bay",
                "A free bay, or put the other machine on the shelf first."
            );
        }
    }

    /// <summary>Chooses the system that a machine is to get; null leaves it to the best outcome.</summary>
    public Task<StoredMachine> AimAsync(string tag, string? system, CancellationToken stop) =>
        ChangeAsync(
            tag,
            (_, row) =>
            {
                row.Aim = system;
                return Task.CompletedTask;
            },
            stop
        );

    private async Task<StoredMachine> ChangeAsync(
        string tag,
        Func<FreshBootDb, MachineRow, Task> change,
        CancellationToken stop
    )
    {
        var turn = _turns.GetOrAdd(tag, _ => new SemaphoreSlim(1, 1));
        await turn.WaitAsync(stop);
        try
        {
            for (var attempt = 1; ; attempt++)
            {
                await using var db = await databases.CreateDbContextAsync(stop);
                await using var transaction = await db.Database.BeginTransactionAsync(stop);
                var row = await RowAsync(db, tag, stop);
                await change(db, row);
                row.Version++;
                try
                {
                    await db.SaveChangesAsync(stop);
                    await transaction.CommitAsync(CancellationToken.None);
                    return Told(row);
                }
                catch (DbUpdateConcurrencyException) when (attempt < Tries)
                {
                    // Two people at once: both words count, so this one goes onto the newer dossier.
                }
            }
        }
        finally
        {
            turn.Release();
        }
    }

    private static void Write(FreshBootDb db, MachineRow row, Func<Dossier, Dossier> change)
    {
        var before = Parse(row.Dossier);
        var known = before.Select(r => r.Receipt).ToHashSet();
        var after = change(Dossier.From(before)).Readings;
        foreach (var reading in after.Where(r => !known.Contains(r.Receipt)))
            db.FactHistory.Add(
                new FactRow
                {
                    MachineId = row.Id,
                    Key = reading.Key,
                    Value = JsonSerializer.Serialize(reading.Value, JsonSerializerOptions.Web),
                    Source = reading.Source,
                    Origin = reading.Origin.ToString(),
                    TakenAt = reading.TakenAt,
                    ReceivedAt = row.LastReceivedAt,
                    By = reading.By,
                    Receipt = reading.Receipt,
                }
            );
        row.Dossier = JsonSerializer.Serialize(after, JsonSerializerOptions.Web);
    }

    private Reading[] Received(MachineRow row, IReadOnlyList<Reading> readings)
    {
        row.LastReceivedAt = clock.GetUtcNow();
        return [.. readings.Select(r => r with { Receipt = row.NextReceipt++ })];
    }

    private async Task AddFilesAsync(
        FreshBootDb db,
        MachineRow row,
        IncomingProbe probe,
        long first,
        CancellationToken stop
    )
    {
        var fresh = true;
        foreach (var file in probe.Files)
        {
            var sha256 = await folder.KeepAsync(file.Content, stop);
            fresh &= !await db.Bundles.AnyAsync(b => b.Sha256 == sha256, stop);
            db.Bundles.Add(
                new BundleRow
                {
                    MachineId = row.Id,
                    Name = file.Name,
                    Sha256 = sha256,
                    SizeBytes = file.Content.Length,
                    ReceivedAt = clock.GetUtcNow(),
                    Warnings = JsonSerializer.Serialize(probe.Warnings, JsonSerializerOptions.Web),
                    FirstReceipt = first,
                    LastReceipt = row.NextReceipt - 1,
                    Code = probe.Code,
                }
            );
        }
        // A bundle that was here before proves nothing new, whatever it carries.
        if (fresh && probe is { Code: { } code, Files.Count: > 0 } && !row.Codes.Split(' ').Contains(code))
            row.Codes = $"{row.Codes} {code}".Trim();
    }

    private static async Task<MachineRow> RowAsync(FreshBootDb db, string tag, CancellationToken stop) =>
        await db.Machines.SingleOrDefaultAsync(m => m.Tag == tag, stop)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no machine {tag}.",
            "tag",
            "The tag of a machine that is here, or take the machine in first."
        );

    private StoredMachine Told(MachineRow row)
    {
        var machine = Stored(row);
        Tell(machine);
        return machine;
    }

    private void Tell(StoredMachine machine)
    {
        foreach (var watcher in _watchers)
            watcher(machine);
    }

    private static StoredMachine Stored(MachineRow row) =>
        new(row.Tag, row.Version, row.Bay, row.Aim, row.TakenInAt, Parse(row.Dossier))
        {
            DossierVersion = row.NextReceipt - 1,
            Codes = row.Codes.Split(' ', StringSplitOptions.RemoveEmptyEntries),
        };

    private static Reading[] Parse(string json) =>
        JsonSerializer.Deserialize<Reading[]>(json, JsonSerializerOptions.Web)!;

    private static RefusedException TagInUse(string tag) =>
        new(
            RefusalKind.Conflict,
            $"The tag {tag} is in use.",
            "assetTag",
            $"A new tag; or this as a further probe of {tag}."
        );
}
