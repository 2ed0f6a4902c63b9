using System.Security.Cryptography;
using FreshBoot.Data.Jobs;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Images;

/// <summary>An image that is announced.</summary>
/// <param name="Name">Its file name.</param>
/// <param name="System">Id of the system it installs; null where nobody knows.</param>
/// <param name="SizeBytes">Its size in bytes.</param>
/// <param name="Build">Its build.</param>
/// <param name="From">Where it came from.</param>
/// <param name="Trust"><c>maker</c>, <c>community</c>, <c>thirdParty</c> or <c>own</c>.</param>
/// <param name="Notes">Notes.</param>
/// <param name="By">Who puts it there.</param>
/// <param name="SourceUntil">The last day on which it can be fetched where it came from; null where none is said.</param>
public sealed record ImageEntry(
    string Name,
    string? System,
    long SizeBytes,
    string? Build,
    string From,
    string Trust,
    string Notes,
    string By,
    DateOnly? SourceUntil = null
);

/// <summary>An image on the shelf.</summary>
public sealed record StoredImage(
    int Id,
    int Version,
    string Name,
    string? System,
    string? Build,
    string From,
    string Trust,
    string Notes,
    long SizeBytes,
    long Received,
    string? Sha256,
    int? Parent,
    string? Manifest,
    string? Placing,
    bool Undone,
    string By,
    DateTimeOffset At,
    DateOnly? SourceUntil
)
{
    /// <summary>Whether all of it is here.</summary>
    public bool Whole => Sha256 is not null && Placing is null && !Undone;
}

/// <summary>The shelf of installer images: what is there, and where each came from. <see cref="ImageUploads"/> brings them in.</summary>
public sealed class ImageStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>Largest image: 1 TiB.</summary>
    public const long Largest = 1L << 40;

    /// <summary>The path of an image that is whole.</summary>
    public string PathOf(int id) => Path.Combine(folder.Images, $"{id}.image");

    /// <summary>All images, the latest first.</summary>
    public async Task<IReadOnlyList<StoredImage>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return [.. (await db.Images.AsNoTracking().OrderByDescending(i => i.Id).ToListAsync(stop)).Select(Stored)];
    }

    /// <summary>One image.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<StoredImage> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return Stored(await RowAsync(db, id, stop));
    }

    /// <summary>One image that is whole.</summary>
    /// <exception cref="RefusedException">There is none, or a part of it is missing.</exception>
    public async Task<StoredImage> GetWholeAsync(int id, CancellationToken stop)
    {
        var image = await GetAsync(id, stop);
        if (image.Undone)
            throw new RefusedException(
                RefusalKind.Gone,
                "The patch was undone: this image is no longer kept.",
                "id",
                $"The image it came from, {image.Parent}."
            );
        if (!image.Whole)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The image is not whole: {image.Received} of {image.SizeBytes} bytes are here.",
                "id",
                "The rest of it."
            );
        return File.Exists(PathOf(id))
            ? image
            : throw new RefusedException(
                RefusalKind.Gone,
                "The file of this image is no longer in the folder of images.",
                "id",
                "The file under its name, or the image again."
            );
    }

    /// <summary>A row for an image.</summary>
    internal ImageRow Row(ImageEntry entry, long size, int? parent = null, string? manifest = null) =>
        new()
        {
            Name = entry.Name,
            System = entry.System,
            Build = entry.Build,
            From = entry.From,
            Trust = entry.Trust,
            Notes = entry.Notes,
            SourceUntil = entry.SourceUntil,
            SizeBytes = size,
            Parent = parent,
            Manifest = manifest,
            By = entry.By,
            At = clock.GetUtcNow(),
        };

    /// <summary>An image with the same bytes that is on the shelf; null for none.</summary>
    internal async Task<ImageRow?> SameAsync(FreshBootDb db, string sha256, CancellationToken stop) =>
        (await db.Images.Where(i => i.Sha256 == sha256 && i.Placing == null && !i.Undone).ToListAsync(stop)).Find(i =>
            File.Exists(PathOf(i.Id))
        );

    /// <summary>SHA-256 of a stream, streamed.</summary>
    public static async Task<string> HashAsync(Stream content, Action<double> progress, CancellationToken stop)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        // Two buffers: one is read into while the other is hashed.
        var (now, next) = (new byte[4 << 20], new byte[4 << 20]);
        var read = await content.ReadAtLeastAsync(now, now.Length, throwOnEndOfStream: false, stop);
        long done = 0;
        while (read > 0)
        {
            var reading = content.ReadAtLeastAsync(next, next.Length, throwOnEndOfStream: false, stop);
            hash.AppendData(now, 0, read);
            done += read;
            progress(content.Length > 0 ? (double)done / content.Length : 1);
            read = await reading;
            (now, next) = (next, now);
        }
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    /// <summary>Changes what is said of an image.</summary>
    /// <exception cref="RefusedException">Somebody changed it meanwhile.</exception>
    public async Task<StoredImage> ChangeAsync(int id, int version, ImageEntry entry, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await RowAsync(db, id, stop);
        if (row.Version != version)
            throw Changed();
        (row.Name, row.System, row.Build, row.From, row.Trust, row.Notes, row.SourceUntil) = (
            entry.Name,
            entry.System,
            entry.Build,
            entry.From,
            entry.Trust,
            entry.Notes,
            entry.SourceUntil
        );
        row.Version++;
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            throw Changed();
        }
        return Stored(row);
    }

    /// <summary>Takes an image off the shelf, with its file.</summary>
    /// <param name="id">The image.</param>
    /// <param name="may">Refuses it where it should stay, by the image and all that are on the shelf.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">Patched images come from it, whose undo needs it, or work with it is under way.</exception>
    public async Task RemoveAsync(int id, Action<StoredImage, IReadOnlyList<StoredImage>> may, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        // One after the other: a job that begins now finds the image, or this finds the job.
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var row = await RowAsync(db, id, stop);
        await CheckFreeAsync(db, id, stop);
        may(Stored(row), [.. (await db.Images.AsNoTracking().ToListAsync(stop)).Select(Stored)]);
        db.Images.Remove(row);
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(CancellationToken.None);
        File.Delete(PathOf(id));
    }

    /// <summary>Refuses while images come from it by a patch, or work with it is under way.</summary>
    private static async Task CheckFreeAsync(FreshBootDb db, int id, CancellationToken stop)
    {
        var children = await db
            .Images.Where(i => i.Parent == id && !i.Undone && i.Sha256 != null)
            .Select(i => i.Name)
            .ToListAsync(stop);
        if (children.Count > 0)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"{Numbers.Join(children, "and")} came from it by a patch, and undo gives it back.",
                "id",
                "Undo the patch first."
            );
        if (
            await db.Jobs.FirstOrDefaultAsync(
                j => j.ImageId == id && (j.State == JobState.Queued || j.State == JobState.Running),
                stop
            ) is
            { } job
        )
            throw new RefusedException(
                RefusalKind.Conflict,
                $"Work with it is under way: {job.About}.",
                $"job {job.Id}",
                "Wait for that, or cancel it."
            );
    }

    /// <summary>Undoes a patch: the patched image is given up, the one it came from is what it was.</summary>
    /// <returns>The image that it came from.</returns>
    /// <exception cref="RefusedException">
    /// It is no patched image, its original is not there any more, other images come from it, or work with it is under way.
    /// </exception>
    public async Task<StoredImage> UndoAsync(int id, CancellationToken stop)
    {
        var image = await GetWholeAsync(id, stop);
        if (image.Parent is not { } parent)
            throw new RefusedException(
                RefusalKind.Conflict,
                "This image was not patched here: there is nothing to undo.",
                "id",
                "A patched image."
            );
        var original = await GetWholeAsync(parent, stop);
        // What is given back is what it was, to the byte; said before anything is given up.
        await using (var file = File.OpenRead(PathOf(parent)))
            if (await HashAsync(file, _ => { }, stop) != original.Sha256)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    "The file of the original is not what it was: its checksum differs. Nothing was undone.",
                    $"image {parent}",
                    "The original image again."
                );
        await using var db = await databases.CreateDbContextAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await CheckFreeAsync(db, id, stop);
        await db
            .Images.Where(i => i.Id == id)
            .ExecuteUpdateAsync(
                s => s.SetProperty(i => i.Undone, true).SetProperty(i => i.Version, i => i.Version + 1),
                stop
            );
        await transaction.CommitAsync(CancellationToken.None);
        File.Delete(PathOf(id));
        return original;
    }

    private static async Task<ImageRow> RowAsync(FreshBootDb db, int id, CancellationToken stop) =>
        await db.Images.SingleOrDefaultAsync(i => i.Id == id, stop)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no image {id}.",
            "id",
            "An image that is on the shelf."
        );

    private static RefusedException Changed() =>
        new(
            RefusalKind.Conflict,
            "Somebody else changed this image meanwhile.",
            "version",
            "Look at it again, and change it from there."
        );

    /// <summary>An image as it is told.</summary>
    internal static StoredImage Stored(ImageRow row) =>
        new(
            row.Id,
            row.Version,
            row.Name,
            row.System,
            row.Build,
            row.From,
            row.Trust,
            row.Notes,
            row.SizeBytes,
            row.Received,
            row.Sha256,
            row.Parent,
            row.Manifest,
            row.Placing,
            row.Undone,
            row.By,
            row.At,
            row.SourceUntil
        );
}
