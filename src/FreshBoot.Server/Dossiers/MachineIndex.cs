using System.Collections.Concurrent;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Fleet;

namespace FreshBoot.Server.Dossiers;

/// <summary>
/// All machines in memory, so that the bench and a search answer at once however many there are. Read from the database once,
/// then kept by what the stores tell after each write. How a machine stands is worked out when somebody first asks, and again
/// after its facts, the catalogue, the shelf or the day have changed.
/// </summary>
internal sealed class MachineIndex : IDisposable
{
    private readonly MachineStore _machines;
    private readonly RunStore _runs;
    private readonly PartStore _parts;
    private readonly OrderStore _orders;
    private readonly Shop _shop;
    private readonly ConcurrentDictionary<string, Indexed> _entries = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, StoredRun> _latest = new(StringComparer.Ordinal);
    private readonly SemaphoreSlim _loading = new(1, 1);
    private volatile bool _loaded;

    public MachineIndex(MachineStore machines, RunStore runs, PartStore parts, OrderStore orders, Shop shop)
    {
        (_machines, _runs, _parts, _orders, _shop) = (machines, runs, parts, orders, shop);
        machines.Watch(Take);
        runs.Watch(Take);
    }

    private sealed record KnownRow(string Catalogue, int Changes, DateOnly Day, MatrixRow Row);

    /// <summary>A machine with what it is found by.</summary>
    private sealed class Indexed(StoredMachine machine)
    {
        private readonly string _text = Text(machine);
        private volatile KnownRow? _row;
        private (string Catalogue, int Shelf, DateOnly Day, MachineSummary Summary)? _stands;

        public StoredMachine Machine => machine;

        public bool Has(string word) => _text.Contains(word, StringComparison.Ordinal);

        public MachineSummary Summary(Shop shop, int shelf)
        {
            if (
                _stands is { } now
                && now.Catalogue == shop.Catalogue.Hash
                && now.Shelf == shelf
                && now.Day == shop.Today
            )
                return now.Summary;
            var summary = MachineEndpoints.Summarise(machine, shop);
            _stands = (shop.Catalogue.Hash, shelf, shop.Today, summary);
            return summary;
        }

        /// <summary>How every system stands on it; kept until facts, catalogue, shelf, orders or the day change.</summary>
        public MatrixRow Row(InForce now, FleetMachine fleet, int changes, DateOnly day)
        {
            if (
                _row is { } known
                && known.Catalogue == now.Catalogue.Hash
                && known.Changes == changes
                && known.Day == day
            )
                return known.Row;
            var facts = Derivation.Complete(machine.Readings, now.Catalogue);
            var plan = new Plan(day, null, fleet.Shelf, fleet.Order);
            var row = new MatrixRow(
                machine.Tag,
                facts.Word("identity.maker"),
                facts.Word("identity.model"),
                facts.Word("order.name"),
                machine.Bay,
                [.. now.Catalogue.Systems.Select(s => now.Evaluator.Grade(facts, s, plan))]
            );
            _row = new KnownRow(now.Catalogue.Hash, changes, day, row);
            return row;
        }

        private static string Text(StoredMachine machine)
        {
            string[] keys =
            [
                "identity.maker",
                "identity.model",
                "identity.serial",
                "identity.boardSerial",
                "identity.board",
                "order.name",
            ];
            var words = machine.Readings.Where(r => keys.Contains(r.Key)).Select(r => r.Value.ToString());
            return string.Join('\n', words.Prepend(machine.Tag).Distinct()).ToLowerInvariant();
        }
    }

    /// <summary>
    /// The machines that every word fits: a part of tag, maker, model, serial, board or order; or the rung it hangs at, its
    /// outcome, or where it is (bench, shelf, running, waiting, finished). Those in bays first, then those that are
    /// running, then the latest.
    /// </summary>
    public async Task<IReadOnlyList<MachineSummary>> FindAsync(string find, int take, CancellationToken stop)
    {
        await LoadAsync(stop);
        var words = find.ToLowerInvariant().Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        var shelf = Changes;
        return
        [
            .. _entries
                .Values.Where(e => words.All(w => e.Has(w) || Stands(e, w, shelf)))
                .OrderBy(e => e.Machine.Bay ?? int.MaxValue)
                .ThenBy(e => !_latest.TryGetValue(e.Machine.Tag, out var run) || run.State.FinishedAt is not null)
                .ThenByDescending(e => e.Machine.TakenInAt)
                .ThenBy(e => e.Machine.Tag, StringComparer.Ordinal)
                .Take(take)
                .Select(e =>
                    e.Summary(_shop, shelf) with
                    {
                        Run = _latest.TryGetValue(e.Machine.Tag, out var run) ? MachineEndpoints.Glance(run) : null,
                    }
                ),
        ];
    }

    /// <summary>Goes up with every change of the shelf or the orders.</summary>
    private int Changes => _parts.Changes + _orders.Changes;

    /// <summary>Reads the machines before anybody asks; what fails will fail again, and be told, when somebody does.</summary>
    public async Task WarmAsync(CancellationToken stop)
    {
        try
        {
            await MatrixAsync(stop);
        }
        catch (Exception e)
            when (e is OperationCanceledException or System.Data.Common.DbException or ObjectDisposedException)
        {
            // Nobody waits for it.
        }
    }

    /// <summary>Every machine against every system, by tag.</summary>
    public async Task<(InForce Now, IReadOnlyList<MatrixRow> Rows)> MatrixAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        var (now, changes, day) = (_shop.Now, Changes, _shop.Today);
        var entries = _entries.Values.OrderBy(e => e.Machine.Tag, StringComparer.Ordinal).ToArray();
        var fleet = _shop.Fleet(entries.Select(e => e.Machine));
        return (now, [.. entries.AsParallel().AsOrdered().Select((e, i) => e.Row(now, fleet[i], changes, day))]);
    }

    /// <summary>Every machine, by tag.</summary>
    public async Task<IReadOnlyList<StoredMachine>> AllAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        return [.. _entries.Values.Select(e => e.Machine).OrderBy(m => m.Tag, StringComparer.Ordinal)];
    }

    /// <summary>The machine with this serial number of casing or board; null for none.</summary>
    public async Task<string?> TagOfSerialAsync(string serial, CancellationToken stop)
    {
        await LoadAsync(stop);
        return _entries
            .Values.FirstOrDefault(e =>
                e.Machine.Readings.Any(r =>
                    r.Key is "identity.serial" or "identity.boardSerial" && r.Value.ToString() == serial
                )
            )
            ?.Machine.Tag;
    }

    private bool Stands(Indexed entry, string word, int shelf)
    {
        _latest.TryGetValue(entry.Machine.Tag, out var run);
        return word switch
        {
            "bench" => entry.Machine.Bay is not null,
            "shelf" => entry.Machine.Bay is null,
            "running" => run is { State.FinishedAt: null },
            "waiting" => run is { State.Waiting: not null },
            "finished" => run is { State.FinishedAt: not null },
            _ => (
                Enum.TryParse<Rung>(word, ignoreCase: true, out var rung)
                && !char.IsDigit(word[0])
                && entry.Summary(_shop, shelf).Next.Rung == rung
            )
                || (
                    Enum.TryParse<Outcome>(word, ignoreCase: true, out var outcome)
                    && !char.IsDigit(word[0])
                    && entry.Summary(_shop, shelf).Outcome == outcome
                ),
        };
    }

    public void Dispose() => _loading.Dispose();

    private void Take(StoredMachine machine) =>
        _entries.AddOrUpdate(
            machine.Tag,
            _ => new Indexed(machine),
            // Two writes may be told in either order: the later version stays.
            (_, known) => known.Machine.Version > machine.Version ? known : new Indexed(machine)
        );

    private void Take(StoredRun run) =>
        _latest.AddOrUpdate(
            run.Tag,
            run,
            // Two events may be told in either order: of one run the longer record stays.
            (_, known) => known.Id == run.Id && known.Events.Count > run.Events.Count ? known : run
        );

    private async Task LoadAsync(CancellationToken stop)
    {
        if (_loaded)
            return;
        await _loading.WaitAsync(stop);
        try
        {
            if (_loaded)
                return;
            foreach (var machine in await _machines.ListAsync(stop))
                Take(machine);
            foreach (var (tag, run) in await _runs.LatestAsync(stop))
                _latest.TryAdd(tag, run);
            _loaded = true;
        }
        finally
        {
            _loading.Release();
        }
    }
}
