using System.Security.Cryptography;
using System.Text;
using FreshBoot.Data.Dossiers;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Intake;

/// <summary>A bundle that waits for a tag.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">The name it came under.</param>
/// <param name="Model">Maker and model, as the bundle says; empty where it does not.</param>
/// <param name="Serial">Serial number, as the bundle says; empty where it does not.</param>
/// <param name="ReceivedAt">When it came in.</param>
public sealed record Arrival(int Id, string Name, string Model, string Serial, DateTimeOffset ReceivedAt);

/// <summary>A probe stick that may ask for one-time codes.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="By">Who made it.</param>
/// <param name="At">When it was made.</param>
/// <param name="BarredAt">When it was barred; null while it may be used.</param>
public sealed record Stick(int Id, string Name, string By, DateTimeOffset At, DateTimeOffset? BarredAt);

/// <summary>What came in from the bench network without a tag, and the sticks that bring it.</summary>
public sealed class ArrivalStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>Most arrivals that may wait: a bench network is not trusted to stop of itself.</summary>
    public const int MostWaiting = 500;

    /// <summary>The arrivals, latest first.</summary>
    public async Task<IReadOnlyList<Arrival>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db
            .Arrivals.AsNoTracking()
            .Where(a => a.TakenAs == null)
            .OrderByDescending(a => a.Id)
            .ToListAsync(stop);
        return [.. rows.Select(Shown)];
    }

    /// <summary>Keeps a bundle until somebody gives it a tag.</summary>
    public async Task<Arrival> AddAsync(
        string name,
        ReadOnlyMemory<byte> bundle,
        string model,
        string serial,
        CancellationToken stop
    )
    {
        using var files = await folder.HoldFilesAsync(stop);
        await using var db = await databases.CreateDbContextAsync(stop);
        if (await db.Arrivals.CountAsync(a => a.TakenAs == null, stop) >= MostWaiting)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"{MostWaiting} arrivals wait already.",
                "arrivals",
                "Give them tags or send them away first."
            );
        var row = new ArrivalRow
        {
            Sha256 = await folder.KeepAsync(bundle, stop),
            Name = name,
            Model = model,
            Serial = serial,
            ReceivedAt = clock.GetUtcNow(),
        };
        db.Arrivals.Add(row);
        await db.SaveChangesAsync(stop);
        return Shown(row);
    }

    /// <summary>The bytes of an arrival.</summary>
    public async Task<IncomingFile> ReadAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await RowAsync(db, id, stop);
        if (row.TakenAs is not null)
            throw Taken(row);
        return new IncomingFile(row.Name, await File.ReadAllBytesAsync(folder.PathOf(row.Sha256), stop));
    }

    /// <summary>
    /// Gives an arrival its tag, in the transaction that takes the machine in: of several at once one does.
    /// </summary>
    /// <exception cref="RefusedException">There is none, or it has a tag by now.</exception>
    internal static async Task ClaimAsync(FreshBootDb db, int id, string tag, CancellationToken stop)
    {
        var row = await RowAsync(db, id, stop);
        if (row.TakenAs is not null)
            throw Taken(row);
        row.TakenAs = tag;
    }

    /// <summary>Sends an arrival away, with its bytes where nothing else needs them.</summary>
    public async Task RemoveAsync(int id, CancellationToken stop)
    {
        using var files = await folder.HoldFilesAsync(stop);
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await RowAsync(db, id, stop);
        if (row.TakenAs is not null)
            throw Taken(row);
        db.Arrivals.Remove(row);
        await db.SaveChangesAsync(stop);
        if (
            !await db.Arrivals.AnyAsync(a => a.Sha256 == row.Sha256, CancellationToken.None)
            && !await db.Bundles.AnyAsync(b => b.Sha256 == row.Sha256, CancellationToken.None)
            && !await db.Photos.AnyAsync(p => p.Sha256 == row.Sha256, CancellationToken.None)
            && !await db.Roms.AnyAsync(r => r.Sha256 == row.Sha256, CancellationToken.None)
        )
            File.Delete(folder.PathOf(row.Sha256));
    }

    private static RefusedException Taken(ArrivalRow row) =>
        new(
            RefusalKind.Conflict,
            $"Somebody has taken this arrival in as {row.TakenAs} meanwhile.",
            "id",
            $"Another arrival; or this as a further probe of {row.TakenAs}."
        );

    /// <summary>The sticks, latest first.</summary>
    public async Task<IReadOnlyList<Stick>> SticksAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db.Sticks.AsNoTracking().OrderByDescending(s => s.Id).ToListAsync(stop);
        return [.. rows.Select(s => new Stick(s.Id, s.Name, s.By, s.At, s.BarredAt))];
    }

    /// <summary>Lets a stick in; its key is kept as a hash only.</summary>
    public async Task AddStickAsync(string name, string key, string by, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        db.Sticks.Add(
            new StickRow
            {
                Name = name,
                KeySha256 = Hash(key),
                By = by,
                At = clock.GetUtcNow(),
            }
        );
        await db.SaveChangesAsync(stop);
    }

    /// <summary>Bars a stick that was lost.</summary>
    public async Task BarStickAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row =
            await db.Sticks.SingleOrDefaultAsync(s => s.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no stick {id}.",
                "id",
                "A probe stick that is on the list at intake."
            );
        row.BarredAt ??= clock.GetUtcNow();
        await db.SaveChangesAsync(stop);
    }

    /// <summary>The stick with this key that may ask for codes; null for none, or one that was barred.</summary>
    public async Task<int?> StickOfAsync(string key, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var hash = Hash(key);
        return await db
            .Sticks.Where(s => s.KeySha256 == hash && s.BarredAt == null)
            .Select(s => (int?)s.Id)
            .SingleOrDefaultAsync(stop);
    }

    private static string Hash(string key) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(key)));

    private static async Task<ArrivalRow> RowAsync(FreshBootDb db, int id, CancellationToken stop) =>
        await db.Arrivals.SingleOrDefaultAsync(a => a.Id == id, stop)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no arrival {id}.",
            "id",
            "A bundle that still waits at intake; perhaps somebody has taken this one in already."
        );

    private static Arrival Shown(ArrivalRow row) => new(row.Id, row.Name, row.Model, row.Serial, row.ReceivedAt);
}
