using FreshBoot.Formats.Pictures;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Intake;

/// <summary>A photo of a machine.</summary>
/// <param name="Id">Its id.</param>
/// <param name="MediaType">Its media type.</param>
/// <param name="SizeBytes">Its size in bytes.</param>
/// <param name="Width">Width in pixels.</param>
/// <param name="Height">Height in pixels.</param>
/// <param name="Sha256">SHA-256 of its bytes.</param>
/// <param name="Note">What it shows.</param>
/// <param name="By">Who took it.</param>
/// <param name="At">When it came in.</param>
public sealed record StoredPhoto(
    int Id,
    string MediaType,
    long SizeBytes,
    int Width,
    int Height,
    string Sha256,
    string Note,
    string By,
    DateTimeOffset At
);

/// <summary>Photos of machines. The same picture of one machine is kept once.</summary>
public sealed class PhotoStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>The photos of a machine, oldest first.</summary>
    public async Task<IReadOnlyList<StoredPhoto>> ListAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var machine = await MachineAsync(db, tag, stop);
        var rows = await db
            .Photos.AsNoTracking()
            .Where(p => p.MachineId == machine)
            .OrderBy(p => p.Id)
            .ToListAsync(stop);
        return [.. rows.Select(Stored)];
    }

    /// <summary>Keeps a photo.</summary>
    public async Task<StoredPhoto> AddAsync(
        string tag,
        ReadOnlyMemory<byte> bytes,
        PictureKind kind,
        string note,
        string by,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var machine = await MachineAsync(db, tag, stop);
        using var files = await folder.HoldFilesAsync(stop);
        var sha256 = await folder.KeepAsync(bytes, stop);
        var row = await db.Photos.SingleOrDefaultAsync(p => p.MachineId == machine && p.Sha256 == sha256, stop);
        if (row is not null)
            return Stored(row);
        row = new PhotoRow
        {
            MachineId = machine,
            Sha256 = sha256,
            MediaType = kind.MediaType,
            SizeBytes = bytes.Length,
            Width = kind.Width,
            Height = kind.Height,
            Note = note,
            By = by,
            At = clock.GetUtcNow(),
        };
        db.Photos.Add(row);
        await db.SaveChangesAsync(stop);
        return Stored(row);
    }

    /// <summary>Where the bytes of a photo lie, and their media type.</summary>
    public async Task<(string Path, string MediaType)> FindAsync(string tag, int id, CancellationToken stop)
    {
        var photo =
            (await ListAsync(tag, stop)).FirstOrDefault(p => p.Id == id)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no photo {id} of {tag}.",
                "id",
                $"A photograph that is kept with {tag}."
            );
        return (folder.PathOf(photo.Sha256), photo.MediaType);
    }

    private static async Task<int> MachineAsync(FreshBootDb db, string tag, CancellationToken stop) =>
        await db.Machines.Where(m => m.Tag == tag).Select(m => (int?)m.Id).SingleOrDefaultAsync(stop)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no machine {tag}.",
            "tag",
            "The tag of a machine that is here, or take the machine in first."
        );

    private static StoredPhoto Stored(PhotoRow row) =>
        new(row.Id, row.MediaType, row.SizeBytes, row.Width, row.Height, row.Sha256, row.Note, row.By, row.At);
}
