using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Firmware;

/// <summary>An image of a firmware chip.</summary>
public sealed class RomRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>What it is called.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256 of its bytes, hexadecimal; the name of its file in the data folder.</summary>
    public required string Sha256 { get; init; }

    /// <summary>Its size.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>Who brought it.</summary>
    public required string By { get; init; }

    /// <summary>The board that was named when it came in; null where nobody did.</summary>
    public string? Board { get; set; }

    /// <summary>Who named that board.</summary>
    public string? BoardBy { get; set; }

    /// <summary>The machine whose chip was read for it, as its maker left it; null where it was brought to be written.</summary>
    public string? BackupOf { get; init; }

    /// <summary>When it came in.</summary>
    public required DateTimeOffset At { get; init; }
}

/// <summary>Images of firmware chips. The same bytes are kept once.</summary>
public sealed class RomStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>All of them, the latest first.</summary>
    public async Task<IReadOnlyList<RomRow>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Roms.AsNoTracking().OrderByDescending(r => r.Id).ToListAsync(stop);
    }

    /// <summary>One of them.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<RomRow> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Roms.AsNoTracking().SingleOrDefaultAsync(r => r.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no firmware image {id}.",
                "id",
                "A firmware image that is on the shelf."
            );
    }

    /// <summary>Keeps an image; one whose bytes are here already is that one.</summary>
    /// <param name="bytes">Its bytes.</param>
    /// <param name="name">What it is called.</param>
    /// <param name="by">Who brings it.</param>
    /// <param name="board">The board that they say it is for; null where they say none.</param>
    /// <param name="stop">Stops it.</param>
    /// <param name="backupOf">The machine whose chip it was read from.</param>
    public async Task<RomRow> AddAsync(
        ReadOnlyMemory<byte> bytes,
        string name,
        string by,
        string? board,
        CancellationToken stop,
        string? backupOf = null
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        using var files = await folder.HoldFilesAsync(stop);
        var sha256 = await folder.KeepAsync(bytes, stop);
        if (await db.Roms.SingleOrDefaultAsync(r => r.Sha256 == sha256, stop) is { } known)
        {
            // What nobody had said yet is said now; a word that stands is not talked over.
            if (board is not null && known.Board is null)
            {
                (known.Board, known.BoardBy) = (board, by);
                await db.SaveChangesAsync(stop);
            }
            return known;
        }
        var row = new RomRow
        {
            Name = name,
            Sha256 = sha256,
            SizeBytes = bytes.Length,
            By = by,
            BackupOf = backupOf,
            Board = board,
            BoardBy = board is null ? null : by,
            At = clock.GetUtcNow(),
        };
        db.Roms.Add(row);
        await db.SaveChangesAsync(stop);
        return row;
    }

    /// <summary>The bytes of an image.</summary>
    public Task<byte[]> BytesAsync(RomRow rom, CancellationToken stop) =>
        File.ReadAllBytesAsync(folder.PathOf(rom.Sha256), stop);

    /// <summary>Where the bytes of an image lie.</summary>
    public string PathOf(RomRow rom) => folder.PathOf(rom.Sha256);
}
