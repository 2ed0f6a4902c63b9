using FreshBoot.Core.Ladder;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Parts;

/// <summary>A part as somebody hands it in.</summary>
/// <param name="Kind">memory, drive, wireless, graphics, battery, adapter, optical, tpm or other.</param>
/// <param name="About">What it is, in words.</param>
/// <param name="Type">For memory its type, such as <c>DDR4 SO-DIMM</c>.</param>
/// <param name="SizeMiB">For memory its size in MiB.</param>
/// <param name="SizeBytes">For drives its size in bytes.</param>
/// <param name="From">Where it came from: a tag, or words.</param>
/// <param name="Test">untested, passed or failed.</param>
/// <param name="ReservedFor">Tag of the machine that it is kept for; null for none.</param>
/// <param name="FittedIn">Tag of the machine that it went into; null while it lies on the shelf.</param>
public sealed record PartEntry(
    string Kind,
    string About,
    string? Type,
    int? SizeMiB,
    long? SizeBytes,
    string From,
    string Test,
    string? ReservedFor,
    string? FittedIn
);

/// <summary>A part on the shelf.</summary>
public sealed record StoredPart(int Id, int Version, PartEntry Part, string By, DateTimeOffset At);

/// <summary>Modules that a run takes from the shelf.</summary>
/// <param name="Type">Their type.</param>
/// <param name="SizeMiB">Their size in MiB.</param>
/// <param name="Count">How many.</param>
public sealed record ModuleWish(string Type, int SizeMiB, int Count);

/// <summary>The shelf of salvaged parts. It is small, so it is kept in memory beside the database.</summary>
public sealed class PartStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock) : IDisposable
{
    private volatile IReadOnlyList<StoredPart> _parts = [];
    private readonly SemaphoreSlim _reading = new(1, 1);
    private volatile PartsShelf _free = PartsShelf.Empty;
    private volatile IReadOnlyDictionary<string, PartsShelf> _kept = new Dictionary<string, PartsShelf>();

    /// <summary>Every part that was not fitted, by kind.</summary>
    public IReadOnlyList<StoredPart> Parts => _parts;

    /// <summary>Reads the shelf from the database: at the start, and after each change. One reader at a time: the last one that reads counts.</summary>
    public async Task LoadAsync()
    {
        await _reading.WaitAsync(CancellationToken.None);
        try
        {
            await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
            var rows = await db.Parts.AsNoTracking().Where(p => p.FittedIn == null).ToListAsync(CancellationToken.None);
            _parts = [.. rows.OrderBy(p => p.Kind, StringComparer.Ordinal).ThenBy(p => p.Id).Select(Stored)];
            var modules = _parts
                .Select(p => p.Part)
                .Where(p => p is { Kind: "memory", Type: not null, SizeMiB: not null, Test: not "failed" })
                .ToArray();
            _free = Shelf(modules.Where(p => p.ReservedFor is null));
            _kept = modules
                .Select(p => p.ReservedFor)
                .OfType<string>()
                .Distinct(StringComparer.Ordinal)
                .ToDictionary(
                    tag => tag,
                    tag => Shelf(modules.Where(p => p.ReservedFor is null || p.ReservedFor == tag)),
                    StringComparer.Ordinal
                );
        }
        finally
        {
            _reading.Release();
        }
    }

    /// <summary>The parts that a machine may take: free ones, and those kept for it. What failed its test stays out.</summary>
    public PartsShelf For(string tag) => _kept.GetValueOrDefault(tag) ?? _free;

    private static PartsShelf Shelf(IEnumerable<PartEntry> parts) =>
        new([
            .. parts
                .GroupBy(p => (p.Type, p.SizeMiB))
                .Select(g => new ShelvedModules(
                    g.Key.Type!,
                    g.Key.SizeMiB!.Value,
                    g.Count(),
                    g.Count(p => p.Test == "passed")
                )),
        ]);

    /// <summary>Puts a part on the shelf.</summary>
    public async Task<StoredPart> AddAsync(PartEntry part, string by, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = new PartRow
        {
            Kind = part.Kind,
            About = part.About,
            From = part.From,
            Test = part.Test,
            By = by,
            At = clock.GetUtcNow(),
        };
        Fill(row, part, by);
        db.Parts.Add(row);
        await db.SaveChangesAsync(stop);
        await LoadAsync();
        return Stored(row);
    }

    /// <summary>Changes a part: tested, reserved, fitted.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="version">The version that the change was made from.</param>
    /// <param name="part">The part as it is now.</param>
    /// <param name="by">Who says so.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">There is no such part, or somebody else changed it meanwhile.</exception>
    public async Task<StoredPart> ChangeAsync(int id, int version, PartEntry part, string by, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row =
            await db.Parts.SingleOrDefaultAsync(p => p.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no part {id}.",
                "id",
                "A part that is on the shelf."
            );
        if (row.Version != version)
            throw Changed();
        Fill(row, part, by);
        row.Version++;
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            throw Changed();
        }
        await LoadAsync();
        return Stored(row);
    }

    /// <summary>
    /// Reserves modules for a machine whose run takes them from the shelf, in the transaction that begins the run: those kept
    /// for it already first, then tested ones.
    /// </summary>
    /// <exception cref="RefusedException">There are fewer than wanted: somebody else took some meanwhile.</exception>
    internal static async Task ReserveAsync(
        FreshBootDb db,
        string tag,
        ModuleWish wish,
        string by,
        DateTimeOffset at,
        CancellationToken stop
    )
    {
        var rows = await db
            .Parts.Where(p =>
                p.Kind == "memory"
                && p.Type == wish.Type
                && p.SizeMiB == wish.SizeMiB
                && p.Test != "failed"
                && p.FittedIn == null
                && (p.ReservedFor == null || p.ReservedFor == tag)
            )
            .ToListAsync(stop);
        if (rows.Count < wish.Count)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The route takes {Numbers.Word(wish.Count)} {wish.Type} of {wish.SizeMiB} MiB from the shelf, and {Numbers.Word(rows.Count)} {(rows.Count == 1 ? "is" : "are")} free: another run was quicker.",
                "routeId",
                "An id from the routes as they are now."
            );
        foreach (
            var row in rows.OrderBy(p => p.ReservedFor is null)
                .ThenBy(p => p.Test != "passed")
                .ThenBy(p => p.Id)
                .Take(wish.Count)
        )
        {
            row.ReservedFor = tag;
            row.By = by;
            row.At = at;
            row.Version++;
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _reading.Dispose();

    private static RefusedException Changed() =>
        new(
            RefusalKind.Conflict,
            "Somebody else changed this part meanwhile.",
            "version",
            "Look at it again, and change it from there."
        );

    private void Fill(PartRow row, PartEntry part, string by)
    {
        row.Kind = part.Kind;
        row.About = part.About;
        row.Type = part.Type;
        row.SizeMiB = part.SizeMiB;
        row.SizeBytes = part.SizeBytes;
        row.From = part.From;
        row.Test = part.Test;
        row.ReservedFor = part.ReservedFor;
        row.FittedIn = part.FittedIn;
        row.By = by;
        row.At = clock.GetUtcNow();
    }

    private static StoredPart Stored(PartRow row) =>
        new(
            row.Id,
            row.Version,
            new PartEntry(
                row.Kind,
                row.About,
                row.Type,
                row.SizeMiB,
                row.SizeBytes,
                row.From,
                row.Test,
                row.ReservedFor,
                row.FittedIn
            ),
            row.By,
            row.At
        );
}
