using System.Collections.Concurrent;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Planning;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Fleet;
using FreshBoot.Server.Orders;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Dossiers;

/// <summary>
/// All machines in memory, so that the bench and a search answer at once however many there are. Read from the database once,
/// then kept by what the stores tell after each write. What follows from a machine is worked out when somebody first asks, and
/// again when something under it has changed: its facts, the catalogue, the parts that fit it, its order, or the day.
/// </summary>
internal sealed class MachineIndex : IDisposable
{
    private readonly MachineStore _machines;
    private readonly RunStore _runs;
    private readonly PartStore _parts;
    private readonly OrderStore _orders;
    private readonly IdentityStore _identities;
    private readonly Shop _shop;
    private readonly ConcurrentDictionary<string, Indexed> _entries = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, StoredRun> _all = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, StoredRun> _latest = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<
        (string Catalogue, Order Order, DateOnly Day),
        IReadOnlyList<WantedModel>
    > _models = new();
    private readonly SemaphoreSlim _loading = new(1, 1);
    private volatile bool _loaded;

    public MachineIndex(
        MachineStore machines,
        RunStore runs,
        PartStore parts,
        OrderStore orders,
        IdentityStore identities,
        Shop shop
    )
    {
        (_machines, _runs, _parts, _orders, _identities, _shop) = (machines, runs, parts, orders, identities, shop);
        machines.Watch(Take);
        runs.Watch(Take);
    }

    /// <summary>All that what is known of a machine rests on, beside its own facts.</summary>
    private sealed record Basis(InForce Now, PartsShelf Shelf, Order? Order, DateOnly Day);

    /// <summary>Something that was worked out, with what it rests on; swapped whole, so that threads never see half of it.</summary>
    private sealed record Memo<T>(Basis Basis, T Value);

    /// <summary>A machine with what it is found by, and what was worked out for it.</summary>
    private sealed class Indexed(StoredMachine machine)
    {
        private readonly string _text = Text(machine);
        private readonly string[] _memoryTypes = [.. Words(machine, "memory.type")];
        private volatile Memo<Dossier>? _dossier;
        private volatile Memo<MachineSummary>? _summary;
        private volatile Memo<MatrixRow>? _row;
        private volatile Memo<IReadOnlyList<OpenedOnMachine>>? _opens;
        private volatile Memo<Route>? _best;

        public StoredMachine Machine => machine;

        /// <summary>Whether it has left the shop; one that came back has not.</summary>
        public bool Left { get; } = Words(machine, FactRegistry.Left).LastOrDefault() == "yes";

        /// <summary>When it came back last; null where it never did.</summary>
        public DateTimeOffset? BackAt { get; } =
            machine.Readings.LastOrDefault(r => r.Key == FactRegistry.Left) is { } said
            && said.Value == FactValue.Of("no")
                ? said.TakenAt
                : null;

        public string? OrderName { get; } = Words(machine, "order.name").LastOrDefault();
        public IReadOnlyList<string> Serials { get; } =
        [.. Words(machine, "identity.serial"), .. Words(machine, "identity.boardSerial")];

        public bool Has(string word) => _text.Contains(word, StringComparison.Ordinal);

        public bool HasWhole(string word) => _text.Split((char[]?)null).Contains(word, StringComparer.Ordinal);

        /// <summary>What it rests on now; of the shelf only what fits its memory counts.</summary>
        public Basis On(InForce now, PartsShelf shelf, Order? order, DateOnly day) =>
            new(now, shelf.Of(_memoryTypes), order, day);

        public Dossier Dossier(Basis on)
        {
            // A dossier rests on the catalogue alone.
            if (_dossier is { } known && ReferenceEquals(known.Basis.Now, on.Now))
                return known.Value;
            var made = Derivation.Complete(machine.Readings, on.Now.Catalogue);
            _dossier = new Memo<Dossier>(on, made);
            return made;
        }

        public MachineSummary Summary(Basis on) =>
            Known(_summary, on) ?? (_summary = new Memo<MachineSummary>(on, Summarise(on))).Value;

        public MatrixRow Row(Basis on) => Known(_row, on) ?? (_row = new Memo<MatrixRow>(on, Judge(on))).Value;

        public IReadOnlyList<OpenedOnMachine> Opens(Basis on) =>
            Known(_opens, on)
            ?? (
                _opens = new Memo<IReadOnlyList<OpenedOnMachine>>(
                    on,
                    [.. PartsThatOpen.Of(on.Now.Catalogue, on.Now.Evaluator, Fleet(on), on.Day)]
                )
            ).Value;

        public Route Best(Basis on, CancellationToken stop) =>
            Known(_best, on) ?? (_best = new Memo<Route>(on, on.Now.Wanted.BestOf(Fleet(on), on.Day, stop))).Value;

        public FleetMachine Fleet(Basis on) => new(machine.Tag, machine.Readings, on.Shelf, on.Order);

        private static T? Known<T>(Memo<T>? memo, Basis on)
            where T : class => memo is not null && memo.Basis == on ? memo.Value : null;

        private MachineSummary Summarise(Basis on)
        {
            var standing = new MachineStanding(on.Now, machine, Dossier(on), on.Shelf, on.Order, on.Day);
            return new MachineSummary(
                machine.Tag,
                standing.Dossier.Word("identity.maker"),
                standing.Dossier.Word("identity.model"),
                on.Order?.Name ?? Set(standing.Dossier.Word("order.name")),
                on.Order?.Due,
                Left,
                machine.Bay,
                machine.TakenInAt,
                standing.Aim.System,
                standing.Aim.Outcome,
                [.. standing.Aim.Rungs.Select(r => r.Outcome)],
                NextStep.Of(standing.Aim),
                null
            );
        }

        private MatrixRow Judge(Basis on)
        {
            var facts = Dossier(on);
            var plan = new Plan(on.Day, null, on.Shelf, on.Order);
            return new MatrixRow(
                machine.Tag,
                facts.Word("identity.maker"),
                facts.Word("identity.model"),
                Set(facts.Word("order.name")),
                machine.Bay,
                [.. on.Now.Catalogue.Systems.Select(s => on.Now.Evaluator.Grade(facts, s, plan))]
            );
        }

        /// <summary>The order that a machine is for; whoever took it out of one left a word that it is for nobody.</summary>
        private static string? Set(string? name) => name == Core.Orders.Order.Nobody ? null : name;

        private static IEnumerable<string> Words(StoredMachine machine, string key) =>
            machine.Readings.Where(r => r.Key == key).Select(r => r.Value.ToString()!);

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
            return string.Join('\n', keys.SelectMany(k => Words(machine, k)).Prepend(machine.Tag).Distinct())
                .ToLowerInvariant();
        }
    }

    /// <summary>Words that people put between the others: "needs a part", "in work", "is late".</summary>
    private static readonly HashSet<string> Small = new(StringComparer.Ordinal)
    {
        "a",
        "an",
        "for",
        "in",
        "is",
        "needs",
        "of",
        "on",
        "the",
        "wants",
        "which",
        "with",
    };

    /// <summary>Words that tell how a machine stands: "late" is not looked for within a Slate.</summary>
    private static readonly HashSet<string> States = new(StringComparer.Ordinal)
    {
        "bench",
        "done",
        "finished",
        "late",
        "left",
        "ready",
        "running",
        "shelf",
        "stopped",
        "waiting",
        "waits",
        "work",
    };

    /// <summary>
    /// The machines that every word fits: a part of tag, maker, model, serial, board or order; or the rung it hangs at, its
    /// outcome, or where it is (bench, shelf, in work, waits, stopped, ready, late, left). Those in bays first, then those that are
    /// running, then the latest.
    /// </summary>
    public async Task<IReadOnlyList<MachineSummary>> FindAsync(string find, int take, CancellationToken stop)
    {
        await LoadAsync(stop);
        var words = find.ToLowerInvariant()
            .Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
            .Where(w => !Small.Contains(w))
            .ToArray();
        var basis = Bases();
        return
        [
            .. _entries
                .Values.AsParallel()
                .WithCancellation(stop)
                .Where(e => words.All(w => (States.Contains(w) ? e.HasWhole(w) : e.Has(w)) || Stands(e, w, basis)))
                // Ordering and taking are quick; taken in parallel they would ask for room for all that could be taken.
                .AsSequential()
                .OrderBy(e => e.Machine.Bay ?? int.MaxValue)
                .ThenBy(e => RunOf(e.Machine.Tag)?.State.IsOpen != true)
                .ThenByDescending(e => e.Machine.TakenInAt)
                .ThenBy(e => e.Machine.Tag, StringComparer.Ordinal)
                .Take(take)
                .ToArray()
                .AsParallel()
                .AsOrdered()
                .Select(e =>
                    e.Summary(basis(e)) with
                    {
                        Run = RunOf(e.Machine.Tag) is { } run ? RunGlance.From(run) : null,
                    }
                ),
        ];
    }

    /// <summary>Reads and judges the machines before anybody asks; what fails will fail again, and be told, when somebody does.</summary>
    public async Task WarmAsync(CancellationToken stop)
    {
        try
        {
            await MatrixAsync(stop);
            await OpensAsync(stop);
            await WantedAsync(stop);
            await FindAsync("", int.MaxValue, stop);
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
        var now = _shop.Now;
        var basis = Bases(now);
        return (now, [.. Sorted().AsParallel().AsOrdered().WithCancellation(stop).Select(e => e.Row(basis(e)))]);
    }

    /// <summary>What each part opens on each machine.</summary>
    public async Task<IReadOnlyList<OpenedOnMachine>> OpensAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        var basis = Bases();
        return [.. Sorted().AsParallel().WithCancellation(stop).SelectMany(e => e.Opens(basis(e)))];
    }

    /// <summary>What the orders still want.</summary>
    public async Task<IReadOnlyList<WantedForOrder>> WantedAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        var (now, day, orders) = (_shop.Now, _shop.Today, _orders.Orders);
        var basis = Bases(now);
        var aside = Sorted().Where(e => e.OrderName is not null).ToLookup(e => e.OrderName, StringComparer.Ordinal);
        foreach (var old in _models.Keys.Where(k => k.Catalogue != now.Catalogue.Hash || k.Day != day))
            _models.TryRemove(old, out _);
        return
        [
            .. orders
                .Select(o => o.Order)
                .AsParallel()
                .AsOrdered()
                .WithCancellation(stop)
                .Select(order =>
                    WantedList.Make(
                        order,
                        [
                            .. aside[order.Name]
                                .AsParallel()
                                .AsOrdered()
                                .WithCancellation(stop)
                                .Select(e => e.Best(basis(e), stop)),
                        ],
                        _models.GetOrAdd(
                            (now.Catalogue.Hash, order, day),
                            key => now.Wanted.ModelsFor(key.Order, key.Day)
                        )
                    )
                ),
        ];
    }

    /// <summary>Every machine, by tag.</summary>
    public async Task<IReadOnlyList<StoredMachine>> AllAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        return [.. Sorted().Select(e => e.Machine)];
    }

    /// <summary>The latest run of each machine that has one, given up or not.</summary>
    public async Task<IReadOnlyDictionary<string, StoredRun>> LatestRunsAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        return _latest;
    }

    /// <summary>The run that a machine is in; null where none is begun, or what was begun is over and done with.</summary>
    public async Task<StoredRun?> RunOfAsync(string tag, CancellationToken stop)
    {
        await LoadAsync(stop);
        return RunOf(tag);
    }

    /// <summary>Every run of every machine, given up or not.</summary>
    public async Task<IReadOnlyCollection<StoredRun>> RunsAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        return [.. _all.Values];
    }

    /// <summary>Every machine with its dossier and all that follows from it, by tag.</summary>
    public async Task<IReadOnlyList<(string Tag, Dossier Dossier)>> DossiersAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        var basis = Bases();
        return [.. Sorted().AsParallel().AsOrdered().Select(e => (e.Machine.Tag, e.Dossier(basis(e))))];
    }

    /// <summary>The dossiers of some machines; what is not here is not among them.</summary>
    public async Task<IReadOnlyDictionary<string, Dossier>> DossiersAsync(
        IReadOnlyCollection<string> tags,
        CancellationToken stop
    )
    {
        await LoadAsync(stop);
        var basis = Bases();
        var found = new Dictionary<string, Dossier>(StringComparer.Ordinal);
        foreach (var tag in tags)
            if (_entries.TryGetValue(tag, out var entry))
                found[tag] = entry.Dossier(basis(entry));
        return found;
    }

    /// <summary>The tags of all machines whose dossier says this under a key.</summary>
    public async Task<IReadOnlySet<string>> AlikeAsync(string key, string word, CancellationToken stop)
    {
        await LoadAsync(stop);
        var basis = Bases();
        return _entries
            .Values.Where(e => e.Dossier(basis(e)).Word(key) == word)
            .Select(e => e.Machine.Tag)
            .ToHashSet(StringComparer.Ordinal);
    }

    /// <summary>The dossiers of all other machines that say the same under a key.</summary>
    public async Task<IReadOnlyList<IFacts>> OthersAsync(string tag, string key, string word, CancellationToken stop)
    {
        await LoadAsync(stop);
        var basis = Bases();
        return
        [
            .. _entries
                .Values.Where(e => e.Machine.Tag != tag)
                .Select(e => e.Dossier(basis(e)))
                .Where(d => d.Word(key) == word),
        ];
    }

    /// <summary>
    /// The machines in bays whose runs want hands now, in the order in which all is over soonest: what waits longest by itself is
    /// begun first.
    /// </summary>
    public async Task<IReadOnlyList<WantsHands>> HandsAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        return BenchDay.Order(
            _latest
                .Values.Where(r =>
                    r.State is { IsOpen: true, Stopped: false, Paused: null, Waiting: null }
                    && _entries.TryGetValue(r.Tag, out var e)
                    && e.Machine.Bay is not null
                )
                .Select(r => new WantsHands(r.Tag, Ahead.Of(r.Steps, r.State)))
        );
    }

    /// <summary>The machine with this serial number of casing or board; null for none.</summary>
    public async Task<string?> TagOfSerialAsync(string serial, CancellationToken stop)
    {
        await LoadAsync(stop);
        return _entries.Values.FirstOrDefault(e => e.Serials.Contains(serial))?.Machine.Tag;
    }

    /// <summary>Holds a probe, or a dossier as it is now, against what was known of a machine.</summary>
    public async Task<Sameness> SamenessAsync(string tag, IFacts known, IFacts probed, CancellationToken stop)
    {
        await LoadAsync(stop);
        var given = await _identities.OfAsync(tag, stop);
        return Sameness.Of(known, probed, Mark, (key, value) => given.Any(g => g.Shows(key, value)));

        SerialMark Mark(string serial)
        {
            var mine = known.Word("identity.serial");
            if (serial != mine && given.Any(g => g.Profile.Serial == serial))
                return SerialMark.Given;
            var others = _entries.Values.Where(e => e.Machine.Tag != tag).SelectMany(e => e.Serials);
            return serial == mine && others.Contains(serial) ? SerialMark.Shared : SerialMark.Counts;
        }
    }

    /// <summary>What each machine rests on at one moment: all of them on the same catalogue, shelf, orders and day.</summary>
    private Func<Indexed, Basis> Bases(InForce? inForce = null)
    {
        var (now, day) = (inForce ?? _shop.Now, _shop.Today);
        return entry => entry.On(now, _parts.For(entry.Machine.Tag), _orders.Named(entry.OrderName), day);
    }

    private Indexed[] Sorted() => [.. _entries.Values.OrderBy(e => e.Machine.Tag, StringComparer.Ordinal)];

    private bool Stands(Indexed entry, string word, Func<Indexed, Basis> basis)
    {
        var run = RunOf(entry.Machine.Tag);
        return word switch
        {
            "bench" => entry.Machine.Bay is not null,
            "shelf" => entry.Machine.Bay is null,
            "running" or "work" => run is { State.FinishedAt: null },
            "waiting" or "waits" => run is { State.Waiting: not null },
            "stopped" => run is { State: { Stopped: true, FinishedAt: null } },
            "finished" or "ready" or "done" => run is { State.FinishedAt: not null } && !entry.Left,
            "left" => entry.Left,
            "late" => IsLate(entry, run),
            _ => (
                Enum.TryParse<Rung>(word, ignoreCase: true, out var rung)
                && !char.IsDigit(word[0])
                && entry.Summary(basis(entry)).Next.Rung == rung
            )
                || (
                    Enum.TryParse<Outcome>(word, ignoreCase: true, out var outcome)
                    && !char.IsDigit(word[0])
                    && entry.Summary(basis(entry)).Outcome == outcome
                ),
        };
    }

    /// <summary>Whether its order is due before today and it is not ready yet.</summary>
    private bool IsLate(Indexed entry, StoredRun? run) =>
        run?.State.FinishedAt is null && _orders.Named(entry.OrderName)?.Due < _shop.Today;

    /// <summary>How far each order is: what is ready, in work, set aside, and still missing.</summary>
    public async Task<IReadOnlyList<OrderStanding>> OrdersAsync(CancellationToken stop)
    {
        await LoadAsync(stop);
        var aside = _entries
            .Values.Where(e => e.OrderName is not null)
            .ToLookup(e => e.OrderName, StringComparer.Ordinal);
        return
        [
            .. _orders.Orders.Select(o =>
            {
                var mine = aside[o.Order.Name].ToArray();
                var ready = mine.Count(e => Run(e)?.State.FinishedAt is not null);
                return new OrderStanding(
                    o.Order,
                    o.Version,
                    ready,
                    mine.Count(e => Run(e) is { State.FinishedAt: null }),
                    mine.Count(e => Run(e) is null),
                    Math.Max(0, o.Order.Machines - mine.Length),
                    o.Order.Due is { } due && ready < o.Order.Machines ? due.DayNumber - _shop.Today.DayNumber : null
                );
            }),
        ];

        StoredRun? Run(Indexed entry) => RunOf(entry.Machine.Tag);
    }

    /// <summary>The machines on the shelf that an order could get, best first: none that is somebody's, begun or at its end.</summary>
    public async Task<IReadOnlyList<FitsOrder>> FittingAsync(Order order, int take, CancellationToken stop)
    {
        await LoadAsync(stop);
        var (now, day) = (_shop.Now, _shop.Today);
        return
        [
            .. Sorted()
                .Where(e => _orders.Named(e.OrderName) is null && !e.Left && RunOf(e.Machine.Tag) is null)
                .AsParallel()
                .WithCancellation(stop)
                .Select(e =>
                {
                    var basis = e.On(now, _parts.For(e.Machine.Tag), order, day);
                    var best = now.Wanted.BestOf(e.Fleet(basis), day, stop);
                    return (e.Machine, Dossier: e.Dossier(basis), Best: best);
                })
                .Where(m => m.Best.System is not null && !TooLittle.IsKnownOf(m.Dossier))
                .OrderByDescending(m => m.Best.Score)
                .ThenBy(m => m.Machine.Tag, StringComparer.Ordinal)
                .Take(take)
                .Select(m => new FitsOrder(
                    m.Machine.Tag,
                    m.Dossier.Word("identity.maker"),
                    m.Dossier.Word("identity.model"),
                    m.Machine.Bay,
                    m.Best
                )),
        ];
    }

    /// <summary>
    /// The run that a machine is in: its latest. One that was given up leaves it as if none had begun, and so does the one with
    /// which it left once it is back.
    /// </summary>
    private StoredRun? RunOf(string tag) =>
        _latest.TryGetValue(tag, out var run)
        && run.State.GivenUpAt is null
        && !(_entries.TryGetValue(tag, out var entry) && run.State.FinishedAt < entry.BackAt)
            ? run
            : null;

    public void Dispose() => _loading.Dispose();

    private void Take(StoredMachine machine) =>
        _entries.AddOrUpdate(
            machine.Tag,
            _ => new Indexed(machine),
            // Two writes may be told in either order: the later version stays.
            (_, known) => known.Machine.Version > machine.Version ? known : new Indexed(machine)
        );

    private void Take(StoredRun run)
    {
        // Two events may be told in either order: of one run the longer record stays, of two the later one.
        _all.AddOrUpdate(run.Id, run, (_, known) => Longer(known, run));
        _latest.AddOrUpdate(
            run.Tag,
            run,
            (_, known) =>
                known.Id == run.Id ? Longer(known, run)
                : known.Number > run.Number ? known
                : run
        );

        static StoredRun Longer(StoredRun known, StoredRun told) =>
            known.Events.Count > told.Events.Count ? known : told;
    }

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
            foreach (var run in await _runs.ListAsync(stop))
                Take(run);
            _loaded = true;
        }
        finally
        {
            _loading.Release();
        }
    }
}
