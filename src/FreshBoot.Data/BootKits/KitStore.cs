using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.BootKits;

/// <summary>A boot kit: rows are only added, and an edited one is a new row.</summary>
public sealed class KitRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>What it is called.</summary>
    public required string Name { get; init; }

    /// <summary>The machine that it was built for; null for one that was handed in.</summary>
    public string? Tag { get; init; }

    /// <summary>The system that it is for; null where nobody knows.</summary>
    public string? System { get; init; }

    /// <summary>SHA-256 of its archive, hexadecimal; the name of its file in the data folder.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Size of its archive.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>What it was built from: components, versions and identity, as one text; null for one that was handed in.</summary>
    public string? From { get; init; }

    /// <summary>The kit that it was changed from; null for none.</summary>
    public int? Parent { get; init; }

    /// <summary>Who made it.</summary>
    public required string By { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>Boot kits.</summary>
public sealed class KitStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>All of them, the latest first.</summary>
    public async Task<IReadOnlyList<KitRow>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Kits.AsNoTracking().OrderByDescending(k => k.Id).ToListAsync(stop);
    }

    /// <summary>The latest kit of a machine for a system; null for none.</summary>
    public async Task<KitRow?> OfAsync(string tag, string system, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db
            .Kits.AsNoTracking()
            .Where(k => k.Tag == tag && k.System == system)
            .OrderByDescending(k => k.Id)
            .FirstOrDefaultAsync(stop);
    }

    /// <summary>One of them.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<KitRow> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Kits.AsNoTracking().SingleOrDefaultAsync(k => k.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no kit {id}.",
                "id",
                "A kit that is on the shelf."
            );
    }

    /// <summary>Keeps a kit.</summary>
    /// <param name="archive">Its archive.</param>
    /// <param name="row">What is said of it; its id, hash, size and time are made here.</param>
    /// <param name="stop">Stops it.</param>
    public async Task<KitRow> AddAsync(
        byte[] archive,
        Func<(string Sha256, DateTimeOffset At), KitRow> row,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        using var files = await folder.HoldFilesAsync(stop);
        var kept = row((await folder.KeepAsync(archive, stop), clock.GetUtcNow()));
        db.Kits.Add(kept);
        await db.SaveChangesAsync(stop);
        return kept;
    }

    /// <summary>Where the archive of a kit lies.</summary>
    public string PathOf(KitRow kit) => folder.PathOf(kit.Sha256);

    /// <summary>Where the image of a kit lies, once it was made.</summary>
    public string ImageOf(KitRow kit) => Path.Combine(folder.Media, $"kit-{kit.Id}.img");
}
