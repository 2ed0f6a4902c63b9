using FreshBoot.Core.Upkeep;
using FreshBoot.Data.Images;

namespace FreshBoot.Server.Images;

/// <summary>
/// Images that cannot be fetched for ever: makers take old releases down. It falls due before the source goes, and once it is gone the
/// last image of a release is not deleted by one click.
/// </summary>
internal static class ImageSources
{
    /// <summary>The day on which each image on the shelf can be fetched for the last time.</summary>
    /// <param name="images">The shelf.</param>
    public static IEnumerable<Due> DueOf(IEnumerable<StoredImage> images) =>
        images
            .Where(i => i is { Whole: true, Parent: null, SourceUntil: not null })
            .Select(i => new Due(
                $"image-{i.Id}-source",
                i.SourceUntil!.Value,
                DueKind.SourceGoes,
                null,
                $"{i.Name} can be fetched for the last time",
                $"{(i.From.Length == 0 ? "Its source" : i.From)} has it until this day. Fetch its list of checksums and whatever else of that release is wanted before then, and keep the image in a second place."
            ));

    /// <summary>Refuses to delete the last image of a release that its source no longer has.</summary>
    /// <param name="image">The image.</param>
    /// <param name="shelf">All that are on the shelf.</param>
    /// <param name="today">The workshop’s day.</param>
    /// <exception cref="RefusedException">It is the last one.</exception>
    public static void Keep(StoredImage image, IEnumerable<StoredImage> shelf, DateOnly today)
    {
        if (
            image is { Whole: true, Parent: null, SourceUntil: { } until }
            && until < today
            && !shelf.Any(i =>
                i.Id != image.Id
                && i is { Whole: true, Parent: null }
                && i.System == image.System
                && i.Build == image.Build
            )
        )
            throw new RefusedException(
                RefusalKind.Conflict,
                $"It is the last one of its kind here, and its source has not had it since {until:d MMM yyyy}: deleted, it is gone for good.",
                "last",
                "last=true, by somebody who is sure that nobody wants it again."
            );
    }
}
