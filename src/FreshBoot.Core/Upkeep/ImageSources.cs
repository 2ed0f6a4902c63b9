namespace FreshBoot.Core.Upkeep;

/// <summary>An installer image that the shop has, as it came: whole, and with no patch in it.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Name">Its file name.</param>
/// <param name="System">The system that it installs.</param>
/// <param name="Build">Its build.</param>
/// <param name="From">Where it came from; empty where nobody said.</param>
/// <param name="Until">The last day on which it can be fetched there; null where none is said.</param>
public sealed record KeptImage(int Id, string Name, string? System, string? Build, string From, DateOnly? Until);

/// <summary>
/// Images that cannot be fetched for ever: makers take old releases down. It falls due before the source goes, and once it is gone the
/// last image of a release is not deleted by one word.
/// </summary>
public static class ImageSources
{
    /// <summary>The day on which each image can be fetched for the last time.</summary>
    /// <param name="images">The images of the shop.</param>
    public static IEnumerable<Due> DueOf(IEnumerable<KeptImage> images) =>
        images
            .Where(i => i.Until is not null)
            .Select(i => new Due(
                $"image-{i.Id}-source",
                i.Until!.Value,
                DueKind.SourceGoes,
                null,
                $"{i.Name} can be fetched for the last time",
                $"{(i.From.Length == 0 ? "Its source" : i.From)} has it until this day. Fetch its list of checksums and whatever else of that release is wanted before then, and keep the image in a second place."
            ));

    /// <summary>Whether it is the last image of its system and build, and its source no longer has it.</summary>
    /// <param name="image">The image.</param>
    /// <param name="images">The images of the shop.</param>
    /// <param name="today">The day.</param>
    public static bool IsLast(KeptImage image, IEnumerable<KeptImage> images, DateOnly today) =>
        image.Until < today && !images.Any(i => i.Id != image.Id && i.System == image.System && i.Build == image.Build);
}
