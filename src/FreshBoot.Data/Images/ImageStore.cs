using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Images;

/// <summary>An image that is announced.</summary>
/// <param name="Name">Its file name.</param>
/// <param name="System">Id of the system it installs; null where nobody knows.</param>
/// <param name="SizeBytes">Its size in bytes.</param>
/// <param name="Build">Its build.</param>
/// <param name="From">Where it came from.</param>
/// <param name="Trust"><c>maker</c>, <c>community</c>, <c>thirdParty</c> or <c>ownBuild</c>.</param>
/// <param name="Notes">Notes.</param>
/// <param name="By">Who puts it there.</param>
public sealed record ImageEntry(
    string Name,
    string? System,
    long SizeBytes,
    string? Build,
    string From,
    string Trust,
    string Notes,
    string By
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
    bool Undone,
    string By,
    DateTimeOffset At
)
{
    /// <summary>Whether all of it is here.</summary>
    public bool Whole => Sha256 is not null && !Undone;
}

/// <summary>What a checksum list says of an image.</summary>
/// <param name="Says"><c>matches</c>, <c>differs</c> or <c>none</c>.</param>
/// <param name="From">Where the list came from.</param>
/// <param name="Listed">The checksum that it lists.</param>
public sealed record ChecksumSays(string Says, string? From, string? Listed);

/// <summary>
/// The shelf of installer images. Bytes go straight to the disk while they are hashed; what the database says has been received
/// has been flushed, so that an upload goes on from there whatever happened between.
/// </summary>
public sealed partial class ImageStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder, TimeProvider clock)
{
    /// <summary>Largest image: 1 TiB.</summary>
    public const long Largest = 1L << 40;

    /// <summary>Space that is always left free, so that the database can go on writing.</summary>
    public const long KeptFree = 256L << 20;
    private const int Buffer = 1 << 20;
    private const long FlushEvery = 256L << 20;
    private readonly ConcurrentDictionary<int, Upload> _uploads = new();

    /// <summary>An upload under way: its hash so far, and the right to write.</summary>
    private sealed class Upload
    {
        public SemaphoreSlim Gate { get; } = new(1, 1);
        public IncrementalHash? Hash { get; set; }
        public long Hashed { get; set; }
    }

    /// <summary>The path of an image that is whole.</summary>
    public string PathOf(int id) => Path.Combine(folder.Images, $"{id}.image");

    private string PartOf(int id) => Path.Combine(folder.Images, $"{id}.part");

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
        if (image.Sha256 is null)
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

    /// <summary>Announces an image; its bytes come afterwards.</summary>
    /// <exception cref="RefusedException">There is no room for it.</exception>
    public async Task<StoredImage> AnnounceAsync(ImageEntry entry, CancellationToken stop)
    {
        if (entry.SizeBytes is < 1 or > Largest)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The size is {entry.SizeBytes} bytes.",
                "sizeBytes",
                $"1 to {Largest} bytes."
            );
        CheckRoom(entry.SizeBytes);
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = Row(entry, entry.SizeBytes);
        db.Images.Add(row);
        await db.SaveChangesAsync(stop);
        return Stored(row);
    }

    /// <summary>Refuses what would fill the disk, before a byte of it comes.</summary>
    /// <exception cref="RefusedException">There is no room.</exception>
    public void CheckRoom(long bytes)
    {
        var free = folder.FreeBytes;
        if (bytes + KeptFree > free)
            throw new RefusedException(
                RefusalKind.Full,
                $"It needs {bytes} bytes; {Math.Max(0, free - KeptFree)} are free.",
                "sizeBytes",
                "Room on the disk: take images away that nobody needs, or name another data folder."
            );
    }

    private ImageRow Row(ImageEntry entry, long size, int? parent = null, string? manifest = null) =>
        new()
        {
            Name = entry.Name,
            System = entry.System,
            Build = entry.Build,
            From = entry.From,
            Trust = entry.Trust,
            Notes = entry.Notes,
            SizeBytes = size,
            Parent = parent,
            Manifest = manifest,
            By = entry.By,
            At = clock.GetUtcNow(),
        };

    /// <summary>Takes bytes of an image. They must follow on what is here.</summary>
    /// <param name="id">The image.</param>
    /// <param name="offset">Where they begin.</param>
    /// <param name="content">The bytes.</param>
    /// <param name="stop">Stops it; what has come so far stays.</param>
    /// <returns>The image; where all of it is here and it was here before under another id, that one.</returns>
    /// <exception cref="RefusedException">Another offset is wanted, it is whole already, somebody else sends it too, or the disk is full.</exception>
    public async Task<StoredImage> TakeAsync(int id, long offset, Stream content, CancellationToken stop)
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
            var image = await GetAsync(id, stop);
            if (image.Sha256 is not null)
                throw new RefusedException(RefusalKind.Conflict, "The image is whole already.", "id", "Nothing more.");
            if (offset != image.Received)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"The bytes begin at {offset}; {image.Received} are here.",
                    "Content-Range",
                    $"bytes {image.Received}-…/{image.SizeBytes}"
                );
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
            await HashSoFarAsync(upload, file, image.Received, stop);
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
                    upload.Hash!.AppendData(buffer, 0, read);
                    upload.Hashed = at += read;
                    if (at - flushed >= FlushEvery)
                        flushed = await ConfirmAsync(id, file, at);
                }
            }
            catch (Exception e) when (e is IOException or OperationCanceledException or RefusedException)
            {
                broke = e;
            }
            if (broke is RefusedException)
            {
                // The sender is wrong about the image: what this call brought is not kept.
                file.SetLength(image.Received);
                upload.Hash = null;
                throw broke;
            }
            try
            {
                flushed = await ConfirmAsync(id, file, at);
            }
            catch (IOException full) when (IsFull(full))
            {
                broke = full;
            }
            if (broke is IOException e2 && IsFull(e2))
            {
                upload.Hash = null;
                throw new RefusedException(
                    RefusalKind.Full,
                    $"The disk is full; {flushed} of {image.SizeBytes} bytes are kept.",
                    "body",
                    "Room on the disk; then go on from the offset."
                );
            }
            if (broke is not null)
                throw broke;
            return at == image.SizeBytes ? await FinishAsync(id, upload, stop) : Stored(await FreshAsync(id, stop));
        }
        finally
        {
            upload.Gate.Release();
        }
    }

    private static bool IsFull(IOException e) =>
        (e.HResult & 0xffff) == 28 || e.Message.Contains("No space left", StringComparison.Ordinal);

    private async Task<ImageRow> FreshAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await RowAsync(db, id, stop);
    }

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

    private static async Task HashSoFarAsync(Upload upload, FileStream file, long length, CancellationToken stop)
    {
        if (upload.Hash is not null && upload.Hashed == length)
            return;
        // After a restart the hash so far is not in memory: what is here is read once.
        upload.Hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        file.Position = 0;
        var buffer = new byte[Buffer];
        for (long left = length; left > 0; )
        {
            var read = await file.ReadAsync(buffer.AsMemory(0, (int)Math.Min(Buffer, left)), stop);
            if (read == 0)
                throw new EndOfStreamException();
            upload.Hash.AppendData(buffer, 0, read);
            left -= read;
        }
        upload.Hashed = length;
    }

    private async Task<StoredImage> FinishAsync(int id, Upload upload, CancellationToken stop)
    {
        var sha256 = Convert.ToHexStringLower(upload.Hash!.GetHashAndReset());
        upload.Hash = null;
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await RowAsync(db, id, stop);
        if (await TwinOfAsync(db, sha256, stop) is { } same)
        {
            db.Images.Remove(row);
            await db.SaveChangesAsync(CancellationToken.None);
            File.Delete(PartOf(id));
            return Stored(same);
        }
        File.Move(PartOf(id), PathOf(id), overwrite: true);
        row.Sha256 = sha256;
        row.Received = row.SizeBytes;
        row.Version++;
        await db.SaveChangesAsync(CancellationToken.None);
        _uploads.TryRemove(id, out _);
        return Stored(row);
    }

    private async Task<ImageRow?> TwinOfAsync(FreshBootDb db, string sha256, CancellationToken stop) =>
        (await db.Images.Where(i => i.Sha256 == sha256 && !i.Undone).ToListAsync(stop)).Find(i =>
            File.Exists(PathOf(i.Id))
        );

    /// <summary>Files in the folder of images that a person put there and nobody named yet.</summary>
    public IReadOnlyList<(string Name, long SizeBytes)> Unnamed() =>
        [
            .. new DirectoryInfo(folder.Images)
                .EnumerateFiles()
                .Where(f => f.LinkTarget is null && f.Extension is not ".part" and not ".image" && f.Name[0] != '.')
                .OrderBy(f => f.Name, StringComparer.Ordinal)
                .Select(f => (f.Name, f.Length)),
        ];

    /// <summary>Takes a file that is on this disk already onto the shelf: it is hashed, then moved to its place.</summary>
    /// <param name="path">The file.</param>
    /// <param name="entry">What it is; its size is that of the file.</param>
    /// <param name="parent">The image that it was patched from.</param>
    /// <param name="manifest">What was patched.</param>
    /// <param name="copy">Whether to copy it rather than move it.</param>
    /// <param name="progress">Told the part that is done, 0 to 1.</param>
    /// <param name="stop">Stops it; the file stays where it is.</param>
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
            CheckRoom(size);
        string sha256;
        await using (var file = File.OpenRead(path))
            sha256 = await HashAsync(file, progress, stop);
        await using var db = await databases.CreateDbContextAsync(stop);
        if (await TwinOfAsync(db, sha256, stop) is { } same)
            return Stored(same);
        var row = Row(entry, size, parent, manifest);
        db.Images.Add(row);
        // The row without a checksum counts for nothing until the file lies at its place.
        await db.SaveChangesAsync(stop);
        if (copy)
            File.Copy(path, PathOf(row.Id), overwrite: true);
        else
            File.Move(path, PathOf(row.Id), overwrite: true);
        row.Sha256 = sha256;
        row.Received = size;
        await db.SaveChangesAsync(CancellationToken.None);
        return Stored(row);
    }

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
        (row.Name, row.System, row.Build, row.From, row.Trust, row.Notes) = (
            entry.Name,
            entry.System,
            entry.Build,
            entry.From,
            entry.Trust,
            entry.Notes
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
    /// <exception cref="RefusedException">Patched images come from it, whose undo needs it.</exception>
    public async Task RemoveAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var row = await RowAsync(db, id, stop);
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
        if (await db.Media.AnyAsync(m => m.ImageId == id && m.State == "writing", stop))
            throw new RefusedException(
                RefusalKind.Conflict,
                "It is being written onto a medium.",
                "id",
                "Wait for that, or cancel it."
            );
        db.Images.Remove(row);
        await db.SaveChangesAsync(stop);
        File.Delete(PathOf(id));
        File.Delete(PartOf(id));
        _uploads.TryRemove(id, out _);
    }

    /// <summary>Undoes a patch: the patched image is given up, the one it came from is what it was.</summary>
    /// <returns>The image that it came from.</returns>
    /// <exception cref="RefusedException">It is no patched image, or its original is not there any more.</exception>
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
        await db
            .Images.Where(i => i.Id == id)
            .ExecuteUpdateAsync(
                s => s.SetProperty(i => i.Undone, true).SetProperty(i => i.Version, i => i.Version + 1),
                stop
            );
        File.Delete(PathOf(id));
        return original;
    }

    /// <summary>Reads a checksum list: lines of a checksum, a space, a space or asterisk, and a name.</summary>
    /// <returns>How many lines were taken.</returns>
    /// <exception cref="RefusedException">A line that is none, or no line at all.</exception>
    public async Task<int> TakeListAsync(string text, string from, CancellationToken stop)
    {
        var lines = text.Split('\n')
            .Select((l, i) => (Text: l.TrimEnd('\r'), Number: i + 1))
            .Where(l => l.Text.Length > 0 && l.Text[0] != '#')
            .ToList();
        if (lines.Count is 0 or > 10_000)
            throw new RefusedException(
                RefusalKind.Unreadable,
                $"The list has {lines.Count} lines.",
                "text",
                "1 to 10,000 lines as sha256sum prints them."
            );
        await using var db = await databases.CreateDbContextAsync(stop);
        var known = (await db.Checksums.AsNoTracking().Select(c => new { c.Name, c.Sha256 }).ToListAsync(stop))
            .Select(c => (c.Name, c.Sha256))
            .ToHashSet();
        foreach (var (line, number) in lines)
        {
            if (ListLine().Match(line) is not { Success: true } match)
                throw new RefusedException(
                    RefusalKind.Unreadable,
                    "A line is no line of a checksum list.",
                    $"line {number}",
                    "64 hexadecimal digits, a space, a space or an asterisk, and a file name."
                );
            var (sha256, name) = (
                match.Groups["sum"].Value.ToLowerInvariant(),
                Path.GetFileName(match.Groups["name"].Value)
            );
            if (known.Add((name, sha256)))
                db.Checksums.Add(
                    new ChecksumRow
                    {
                        Name = name,
                        Sha256 = sha256,
                        From = from,
                        At = clock.GetUtcNow(),
                    }
                );
        }
        await db.SaveChangesAsync(stop);
        return lines.Count;
    }

    /// <summary>What checksum lists say of images, by id.</summary>
    public async Task<IReadOnlyDictionary<int, ChecksumSays>> ChecksumsAsync(
        IReadOnlyList<StoredImage> images,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var all = await db.Checksums.AsNoTracking().OrderByDescending(c => c.Id).ToListAsync(stop);
        var byHash = all.ToLookup(c => c.Sha256, StringComparer.Ordinal);
        var byName = all.ToLookup(c => c.Name, StringComparer.Ordinal);
        return images.ToDictionary(
            i => i.Id,
            i =>
                i.Sha256 is null ? new ChecksumSays("none", null, null)
                : byHash[i.Sha256].FirstOrDefault() is { } match ? new ChecksumSays("matches", match.From, match.Sha256)
                : byName[i.Name].FirstOrDefault() is { } other ? new ChecksumSays("differs", other.From, other.Sha256)
                : new ChecksumSays("none", null, null)
        );
    }

    private static async Task<ImageRow> RowAsync(FreshBootDb db, int id, CancellationToken stop) =>
        await db.Images.SingleOrDefaultAsync(i => i.Id == id, stop)
        ?? throw new RefusedException(RefusalKind.Missing, $"There is no image {id}.", "id", "An id from /api/images.");

    private static RefusedException Changed() =>
        new(
            RefusalKind.Conflict,
            "Somebody else changed this image meanwhile.",
            "version",
            "Look at it again, and change it from there."
        );

    private static StoredImage Stored(ImageRow row) =>
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
            row.Undone,
            row.By,
            row.At
        );

    [GeneratedRegex(@"^(?<sum>[0-9A-Fa-f]{64}) [ *](?<name>.+)$", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex ListLine();
}
