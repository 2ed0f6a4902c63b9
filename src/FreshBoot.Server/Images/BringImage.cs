using FreshBoot.Core.Upkeep;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Jobs;

namespace FreshBoot.Server.Images;

/// <summary>Brings images onto the shelf: announced and sent in pieces, whole in a form, or named where they lie already.</summary>
internal sealed class BringImage(ImageStore store, ImageUploads uploads, JobRunner jobs, Shop shop)
{
    /// <summary>Announces an image whose bytes come afterwards.</summary>
    public Task<StoredImage> AnnounceAsync(ImageIn image, CancellationToken stop) =>
        uploads.AnnounceAsync(image.Entry(image.SizeBytes, shop.Catalogue), stop);

    /// <summary>Takes a file of the folder of images, in the background: it is hashed first.</summary>
    public Task<JobSheet> NameAsync(ImageIn image, string file, CancellationToken stop)
    {
        var path = uploads.Named(file);
        var known = image.Entry(0, shop.Catalogue);
        return jobs.BeginAsync(
            new JobWish(JobKind.Take, $"Take {known.Name} onto the shelf", known.By),
            async (working, running) =>
            {
                var taken = await uploads.TakeFileAsync(
                    path,
                    known,
                    null,
                    null,
                    copy: false,
                    p => working.Progress(p, "Its checksum is worked out."),
                    running
                );
                return ($"{taken.Name} is on the shelf.", new JobResult(ImageId: taken.Id));
            },
            stop: stop
        );
    }

    /// <summary>Takes a copy of a file from elsewhere, at once.</summary>
    public Task<StoredImage> CopyAsync(ImageIn image, string path, CancellationToken stop) =>
        uploads.TakeFileAsync(path, image.Entry(0, shop.Catalogue), null, null, copy: true, _ => { }, stop);

    /// <summary>Takes an image that comes whole. Nobody knows the id of one that failed: nothing of it stays.</summary>
    public async Task<StoredImage> WholeAsync(ImageIn image, Stream content, CancellationToken stop)
    {
        var stored = await AnnounceAsync(image, stop);
        try
        {
            return await uploads.TakeAsync(stored.Id, 0, content, stop);
        }
        catch
        {
            await RemoveAsync(stored.Id, last: true, CancellationToken.None);
            throw;
        }
    }

    /// <summary>Takes an image off the shelf, with its file and whatever came of it so far.</summary>
    /// <param name="id">The image.</param>
    /// <param name="last">Whether it may be the last one of a release that its source no longer has.</param>
    /// <param name="stop">Stops it.</param>
    public async Task RemoveAsync(int id, bool last, CancellationToken stop)
    {
        await store.RemoveAsync(
            id,
            (image, shelf) =>
            {
                if (
                    !last
                    && ImageSheets.Kept([image]).SingleOrDefault() is { } kept
                    && ImageSources.IsLast(kept, ImageSheets.Kept(shelf), shop.Today)
                )
                    throw new RefusedException(
                        RefusalKind.Conflict,
                        $"It is the last one of its kind here, and its source has not had it since {kept.Until:d MMM yyyy}: deleted, it is gone for good.",
                        "last",
                        "last=true, by somebody who is sure that nobody wants it again."
                    );
            },
            stop
        );
        uploads.Forget(id);
    }
}
