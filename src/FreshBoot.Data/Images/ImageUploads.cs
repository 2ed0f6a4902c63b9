using System.Collections.Concurrent;
using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Images;

/// <summary>
/// Takes images in. Bytes go straight to the disk while they are hashed; what the database says has been received has been
/// flushed, so that an upload goes on from there whatever happened between. A file comes to its place in three moves, each on
/// the disk before the next: the row says that it is being put there, the file is renamed, the row says that it is there.
/// <see cref="RecoverAsync"/> finishes, or takes back, what a pulled plug left between them.
/// </summary>
public sealed class ImageUploads(IDbContextFactory<FreshBootDb> databases, ImageStore images, DataFolder folder)
{
    /// <summary>Bytes at both ends of what is here that tell one file from another, in bytes.</summary>
    public const int EndBytes = 1 << 20;

    private const int Buffer = 1 << 20;
    private const long FlushEvery = 256L << 20;
    private readonly ConcurrentDictionary<int, Upload> _uploads = new();

    /// <summary>The bytes hashed so far, and how many.</summary>
    private sealed record Hashed(IncrementalHash Hash, long Bytes);

    /// <summary>An upload under way: what is hashed, and the right to write.</summary>
    private sealed class Upload
    {
        public SemaphoreSlim Gate { get; } = new(1, 1);
        public Hashed? Sum { get; set; }
    }

    private string PartOf(int id) => Path.Combine(folder.Images, $"{id}.part");

    /// <summary>Announces an image; its bytes come afterwards.</summary>
    /// <exception cref="RefusedException">There is no room for it.</exception>
    public async Task<StoredImage> AnnounceAsync(ImageEntry entry, CancellationToken stop)
    {
        if (entry.SizeBytes is < 1 or > ImageStore.Largest)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The size is {entry.SizeBytes} bytes.",
                "sizeBytes",
                $"1 to {ImageStore.Largest} bytes."
            );
        folder.CheckRoom(entry.SizeBytes);
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = images.Row(entry, entry.SizeBytes);
        db.Images.Add(row);
        await db.SaveChangesAsync(stop);
        return ImageStore.Stored(row);
    }

    /// <summary>
    /// SHA-256 over the first and the last MiB of what is here: whoever goes on sending compares it with the file in hand, so
    /// that another file of the same name and size is not put behind it. Null while nothing is here.
    /// </summary>
    public async Task<string?> EndsAsync(StoredImage image, CancellationToken stop)
    {
        if (image.Received == 0 || !File.Exists(PartOf(image.Id)))
            return null;
        await using var file = new FileStream(PartOf(image.Id), FileMode.Open, FileAccess.Read, FileShare.ReadWrite, 0);
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var end = new byte[Math.Min(EndBytes, image.Received)];
        foreach (var at in (long[])[0, image.Received - end.Length])
        {
            file.Position = at;
            await file.ReadExactlyAsync(end, stop);
            hash.AppendData(end);
        }
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    /// <summary>Takes bytes of an image. They must follow on what is here; none at all finish an image whose last byte is here.</summary>
    /// <param name="id">The image.</param>
    /// <param name="offset">Where they begin; null where the sender asks only that it be finished.</param>
    /// <param name="content">The bytes.</param>
    /// <param name="stop">Stops it; what has come so far stays.</param>
    /// <returns>The image; where all of it is here and it was here before under another id, that one.</returns>
    /// <exception cref="RefusedException">Another offset is wanted, it is whole already, somebody else sends it too, or the disk is full.</exception>
    public async Task<StoredImage> TakeAsync(int id, long? offset, Stream content, CancellationToken stop)
    {
        var upload = _uploads.GetOrAdd(id, _ => new Upload());
        if (!await upload.Gate.WaitAsync(0, stop))
            throw new RefusedException(
                RefusalKind.Conflict,
                "Somebody else is sending this image just now.",
                "id",
                "One sender at a time; ask for the offset with HEAD and go on from there."
            );
        try
        {
            var image = await images.GetAsync(id, stop);
            if (image.Sha256 is not null)
                throw new RefusedException(RefusalKind.Conflict, "The image is whole already.", "id", "Nothing more.");
            if ((offset ?? image.SizeBytes) != image.Received)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    offset is null
                        ? $"It is not all here: {image.Received} of {image.SizeBytes} bytes are."
                        : $"The bytes begin at {offset}; {image.Received} are here.",
                    "Content-Range",
                    image.Received == image.SizeBytes
                        ? $"bytes */{image.SizeBytes}, without a body: all of it is here, and only has to be finished."
                        : $"bytes {image.Received}-…/{image.SizeBytes}"
                );
            return await ReceiveAsync(upload, image, content, stop);
        }
        finally
        {
            upload.Gate.Release();
        }
    }

    private async Task<StoredImage> ReceiveAsync(
        Upload upload,
        StoredImage image,
        Stream content,
        CancellationToken stop
    )
    {
        var id = image.Id;
        await using var file = new FileStream(
            PartOf(id),
            FileMode.OpenOrCreate,
            FileAccess.ReadWrite,
            FileShare.Read,
            0
        );
        if (file.Length < image.Received)
            throw new RefusedException(
                RefusalKind.Gone,
                "What was sent of this image is no longer on the disk.",
                "id",
                "The image again, from its beginning."
            );
        // What lies beyond was never confirmed.
        file.SetLength(image.Received);
        var sum = await HashSoFarAsync(upload, file, image.Received, stop);
        // Whatever happens below, a hash that is not known to be of what is here counts for nothing.
        upload.Sum = null;
        file.Position = image.Received;
        var (at, flushed) = (image.Received, image.Received);
        var buffer = new byte[Buffer];
        Exception? broke = null;
        try
        {
            int read;
            while ((read = await content.ReadAsync(buffer, stop)) > 0)
            {
                if (at + read > image.SizeBytes)
                    throw new RefusedException(
                        RefusalKind.Invalid,
                        $"More bytes come than the {image.SizeBytes} that were announced.",
                        "body",
                        "As many bytes as were announced."
                    );
                await file.WriteAsync(buffer.AsMemory(0, read), stop);
                sum.AppendData(buffer, 0, read);
                at += read;
                if (at - flushed >= FlushEvery)
                    flushed = await ConfirmAsync(id, file, at);
            }
        }
        catch (RefusedException)
        {
            // The sender is wrong about the image: what this call brought is not kept.
            file.SetLength(image.Received);
            throw;
        }
        catch (Exception e) when (e is IOException or OperationCanceledException)
        {
            broke = e;
        }
        if (broke is not null && IsFull(broke))
            throw Full(flushed, image);
        // A write that was broken off may have left a part of a buffer that was not hashed.
        file.SetLength(at);
        try
        {
            await ConfirmAsync(id, file, at);
        }
        catch (Exception e) when (IsFull(e))
        {
            throw Full(flushed, image);
        }
        // From here on what is hashed is what is here.
        upload.Sum = new Hashed(sum, at);
        if (broke is not null && at < image.SizeBytes)
            throw broke;
        // The last byte is here: it is finished whether or not anybody still waits for the answer.
        return at == image.SizeBytes
            ? await FinishAsync(id, upload)
            : await images.GetAsync(id, CancellationToken.None);
    }

    private static RefusedException Full(long kept, StoredImage image) =>
        new(
            RefusalKind.Full,
            $"The disk is full; {kept} of {image.SizeBytes} bytes are kept.",
            "body",
            "Room on the disk; then go on from the offset."
        );

    private static bool IsFull(Exception e) => DiskFull.Is(e);

    /// <summary>Flushes what is written, then says in the database that it is here; not to be stopped half-way.</summary>
    private async Task<long> ConfirmAsync(int id, FileStream file, long at)
    {
        file.Flush(flushToDisk: true);
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        await db
            .Images.Where(i => i.Id == id)
            .ExecuteUpdateAsync(s => s.SetProperty(i => i.Received, at), CancellationToken.None);
        return at;
    }

    private static async Task<IncrementalHash> HashSoFarAsync(
        Upload upload,
        FileStream file,
        long length,
        CancellationToken stop
    )
    {
        if (upload.Sum is { } known && known.Bytes == length)
            return known.Hash;
        // After a restart the hash so far is not in memory: what is here is read once, and counts when all of it was read.
        var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        file.Position = 0;
        var buffer = new byte[Buffer];
        for (var left = length; left > 0; )
        {
            var read = await file.ReadAsync(buffer.AsMemory(0, (int)Math.Min(Buffer, left)), stop);
            if (read == 0)
                throw new EndOfStreamException();
            hash.AppendData(buffer, 0, read);
            left -= read;
        }
        return hash;
    }

    private async Task<StoredImage> FinishAsync(int id, Upload upload)
    {
        var sha256 = Convert.ToHexStringLower(upload.Sum!.Hash.GetHashAndReset());
        upload.Sum = null;
        await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
        var row = await db.Images.SingleAsync(i => i.Id == id);
        if (await images.SameAsync(db, sha256, CancellationToken.None) is { } same)
        {
            db.Images.Remove(row);
            await db.SaveChangesAsync();
            File.Delete(PartOf(id));
            return ImageStore.Stored(same);
        }
        row.Received = row.SizeBytes;
        await PlaceAsync(db, row, sha256, PartOf(id), copy: false);
        _uploads.TryRemove(id, out _);
        return ImageStore.Stored(row);
    }

    /// <summary>
    /// Puts a file to its place. Between the two writes of the row the file is at one place or the other, and the row says
    /// which two; if the second write fails, the file goes back where it was.
    /// </summary>
    private async Task PlaceAsync(FreshBootDb db, ImageRow row, string sha256, string from, bool copy)
    {
        row.Sha256 = sha256;
        row.Placing = Path.GetFileName(from);
        if (row.Id == 0)
            db.Images.Add(row);
        await db.SaveChangesAsync(CancellationToken.None);
        var place = images.PathOf(row.Id);
        try
        {
            if (copy)
                await WholeFile.CopyAsync(from, place, CancellationToken.None);
            else
                File.Move(from, place, overwrite: true);
            row.Placing = null;
            row.Version++;
            await db.SaveChangesAsync(CancellationToken.None);
        }
        catch
        {
            if (copy)
                File.Delete(place);
            else if (File.Exists(place))
                File.Move(place, from, overwrite: true);
            await TakeBackAsync(row);
            throw;
        }
    }

    /// <summary>Takes a row back that could not be finished; where the disk has no room even for that, the next start does.</summary>
    private async Task TakeBackAsync(ImageRow row)
    {
        try
        {
            await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
            var known = db.Images.Where(i => i.Id == row.Id);
            if (row.Placing == $"{row.Id}.part")
                await known.ExecuteUpdateAsync(
                    s => s.SetProperty(i => i.Sha256, (string?)null).SetProperty(i => i.Placing, (string?)null),
                    CancellationToken.None
                );
            else
                await known.ExecuteDeleteAsync(CancellationToken.None);
        }
        catch (Exception e) when (IsFull(e))
        {
            // What stands between the two moves is looked at again at the next start.
        }
    }

    /// <summary>Takes a file that is on this disk already onto the shelf: it is hashed, then put to its place.</summary>
    /// <param name="path">The file.</param>
    /// <param name="entry">What it is; its size is that of the file.</param>
    /// <param name="parent">The image that it was patched from.</param>
    /// <param name="manifest">What was patched.</param>
    /// <param name="copy">Whether to copy it rather than move it.</param>
    /// <param name="progress">Told the part that is done, 0 to 1.</param>
    /// <param name="stop">Stops it; the file stays where it is.</param>
    /// <exception cref="RefusedException">No room, or the image that it was patched from was taken away meanwhile.</exception>
    public async Task<StoredImage> TakeFileAsync(
        string path,
        ImageEntry entry,
        int? parent,
        string? manifest,
        bool copy,
        Action<double> progress,
        CancellationToken stop
    )
    {
        var size = new FileInfo(path).Length;
        if (copy)
            folder.CheckRoom(size);
        string sha256;
        await using (var file = File.OpenRead(path))
            sha256 = await ImageStore.HashAsync(file, progress, stop);
        stop.ThrowIfCancellationRequested();
        await using var db = await databases.CreateDbContextAsync(stop);
        // One that was made from another image is one of its own, whatever its bytes: taking it back leads to the one it was made from.
        if (await images.SameAsync(db, sha256, stop) is { } same && (parent is null || same.Parent == parent))
            return ImageStore.Stored(same);
        if (parent is { } from && !await db.Images.AnyAsync(i => i.Id == from && !i.Undone, stop))
            throw new RefusedException(
                RefusalKind.Gone,
                "The image that it was made from was taken away meanwhile.",
                $"image {from}",
                "The original image again."
            );
        var row = images.Row(entry, size, parent, manifest);
        row.Received = size;
        await PlaceAsync(db, row, sha256, path, copy);
        return ImageStore.Stored(row);
    }

    /// <summary>
    /// After a start: what was being put to its place is finished where the file is there, and taken back where it is not; what
    /// nothing belongs to any more is deleted.
    /// </summary>
    public async Task RecoverAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        foreach (var row in await db.Images.Where(i => i.Placing != null).ToListAsync(stop))
        {
            var from = Path.Combine(folder.Images, row.Placing!);
            var upload = row.Placing == $"{row.Id}.part";
            var there = new FileInfo(images.PathOf(row.Id));
            if (there.Exists && there.Length == row.SizeBytes)
                (row.Placing, row.Version) = (null, row.Version + 1);
            else if (upload && File.Exists(from))
                // All of it was received and hashed; only the renaming was missing.
                (row.Sha256, row.Placing) = (null, null);
            else
                db.Images.Remove(row);
        }
        await db.SaveChangesAsync(stop);
        var known = await db.Images.AsNoTracking().ToDictionaryAsync(i => i.Id, stop);
        foreach (var file in new DirectoryInfo(folder.Images).EnumerateFiles("*.part"))
            if (
                !int.TryParse(Path.GetFileNameWithoutExtension(file.Name), out var id)
                || !known.TryGetValue(id, out var row)
                || row.Sha256 is not null
            )
                file.Delete();
        // What was received to the last byte is finished without its sender.
        foreach (var row in known.Values.Where(r => r.Sha256 is null && r.Received == r.SizeBytes))
            if (File.Exists(PartOf(row.Id)))
                await TakeAsync(row.Id, null, Stream.Null, stop);
    }

    /// <summary>Forgets an image that was taken off the shelf, with what came of it so far.</summary>
    public void Forget(int id)
    {
        File.Delete(PartOf(id));
        _uploads.TryRemove(id, out _);
    }

    /// <summary>Files in the folder of images that a person put there and nobody named yet.</summary>
    public IReadOnlyList<(string Name, long SizeBytes)> Unnamed() =>
        [
            .. new DirectoryInfo(folder.Images)
                .EnumerateFiles()
                .Where(f => f.LinkTarget is null && f.Extension is not ".part" and not ".image" && f.Name[0] != '.')
                .OrderBy(f => f.Name, StringComparer.Ordinal)
                .Select(f => (f.Name, f.Length)),
        ];

    /// <summary>The path of a file that a person put into the folder of images.</summary>
    /// <exception cref="RefusedException">There is no such file.</exception>
    public string Named(string name) =>
        Unnamed().Any(f => f.Name == name)
            ? Path.Combine(folder.Images, name)
            : throw new RefusedException(
                RefusalKind.Missing,
                $"There is no file “{name}” in the folder of images.",
                "file",
                $"A file in {folder.Images}."
            );
}
