using System.Text.Json.Nodes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Planning;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.Catalogue;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Catalogue;

/// <summary>A catalogue with all that judges by it. Immutable: a change makes another.</summary>
internal sealed class InForce(ShopCatalogue catalogue, IReadOnlyList<PackedEntry> entries)
{
    public ShopCatalogue Catalogue => catalogue;
    public IReadOnlyList<PackedEntry> Entries => entries;
    public Evaluator Evaluator { get; } = new(catalogue);
    public RouteSearch Search { get; } = new(catalogue, new SheetTimes(catalogue));
    public NextMeasurements Measurements { get; } = new(catalogue);

    public WantedList Wanted { get; } = new(catalogue, new RouteSearch(catalogue, new SheetTimes(catalogue)));
}

/// <summary>
/// Keeps the catalogue in force: the packs that ship with the shop's changes over them. A change that has a fault is refused,
/// and the old catalogue stays in use.
/// </summary>
internal sealed class CatalogueKeeper(CatalogueFiles files, EntryVersionStore versions, ILogger<CatalogueKeeper> log)
    : IDisposable
{
    private readonly SemaphoreSlim _changing = new(1, 1);
    private volatile InForce _now = Shipped(files);
    private volatile IReadOnlyList<EntryEdit> _edits = [];

    /// <summary>The packs that ship, as they were read last in this process: the same texts make the same catalogue.</summary>
    private static volatile Tuple<CatalogueFiles, InForce>? _shipped;

    private static InForce Shipped(CatalogueFiles files)
    {
        if (_shipped is { } last && last.Item1.Schema == files.Schema && last.Item1.Packs.SequenceEqual(files.Packs))
            return last.Item2;
        var made = Make(files.Schema, files.Packs, null);
        _shipped = Tuple.Create(files, made);
        return made;
    }

    public InForce Now => _now;

    public JsonNode Schema { get; } = JsonNode.Parse(files.Schema)!;

    /// <summary>Reads the shop's changes at the start. One that no longer fits the packs that ship is left out, and told.</summary>
    public async Task LoadAsync(CancellationToken stop)
    {
        var all = (await versions.ListAsync(stop)).Select(v => v.Edit).ToArray();
        if (all.Length == 0)
            return;
        try
        {
            (_now, _edits) = (Make(files.Schema, PackEdits.Apply(files.Packs, all), null), all);
        }
        catch (PackFaultsException)
        {
            var fitting = new List<EntryEdit>();
            foreach (var edit in all)
            {
                try
                {
                    _now = Make(files.Schema, PackEdits.Apply(files.Packs, [.. fitting, edit]), null);
                    fitting.Add(edit);
                }
                catch (PackFaultsException e)
                {
                    log.LogWarning("The shop’s {Kind}/{Id} no longer fits: {Why}", edit.Kind, edit.Id, e.Message);
                }
            }
            _edits = fitting;
        }
    }

    /// <summary>A kind of entry that there is.</summary>
    /// <exception cref="RefusedException">There is none such.</exception>
    public static string Kind(string kind) =>
        PackEdits.Kinds.Contains(kind)
            ? kind
            : throw new RefusedException(
                RefusalKind.Missing,
                $"There is no kind of entry “{kind}”.",
                "kind",
                $"One of: {string.Join(", ", PackEdits.Kinds)}."
            );

    /// <summary>What somebody wants of an entry.</summary>
    /// <exception cref="RefusedException">No such kind, no id, or another id in the entry.</exception>
    public static EntryEdit Edit(string? kind, string? id, JsonObject? entry)
    {
        var name = Given.Text(id, "id", 63);
        if (entry is not null && entry["id"]?.ToString() != name)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The entry calls itself “{entry["id"]}”, not “{name}”.",
                "/id",
                "The same id in the entry as in the address; an id is never changed."
            );
        return new EntryEdit(Kind(kind ?? ""), name, entry?.ToJsonString());
    }

    /// <summary>The catalogue as it would be.</summary>
    /// <exception cref="PackFaultsException">The changes have faults.</exception>
    public InForce Try(IReadOnlyList<EntryEdit> edits, DateOnly today) => Try(_edits, edits, today);

    /// <summary>Where every entry would stand with these changes, faults or not.</summary>
    public IReadOnlyList<PackedEntry> Places(IReadOnlyList<EntryEdit> edits) =>
        PackEdits.Entries(PackEdits.Apply(files.Packs, [.. _edits, .. edits]));

    /// <summary>Puts changes in force and writes them down.</summary>
    /// <exception cref="PackFaultsException">They have faults; nothing is changed.</exception>
    public async Task SaveAsync(
        IReadOnlyList<EntryEdit> edits,
        int? version,
        string by,
        string reason,
        DateOnly today,
        CancellationToken stop
    )
    {
        await _changing.WaitAsync(stop);
        try
        {
            var next = Try(_edits, edits, today);
            await versions.AddAsync(edits, version, by, reason, stop);
            (_now, _edits) = (next, [.. _edits, .. edits]);
        }
        finally
        {
            _changing.Release();
        }
    }

    public void Dispose() => _changing.Dispose();

    private InForce Try(IReadOnlyList<EntryEdit> before, IReadOnlyList<EntryEdit> edits, DateOnly today) =>
        Make(
            files.Schema,
            PackEdits.Apply(files.Packs, [.. before, .. edits]),
            new Freshness(today, edits.Select(e => e.Id).ToHashSet(StringComparer.Ordinal))
        );

    private static InForce Make(string schema, IReadOnlyList<(string File, string Text)> packs, Freshness? fresh) =>
        new(PackReader.Read(schema, packs, fresh), PackEdits.Entries(packs));
}
