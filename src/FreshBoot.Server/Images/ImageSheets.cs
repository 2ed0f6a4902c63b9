using System.ComponentModel.DataAnnotations;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Images;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Core.Upkeep;
using FreshBoot.Data.Images;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;

namespace FreshBoot.Server.Images;

/// <summary>An image that is announced, or a file of the folder of images that is named.</summary>
/// <param name="Name">Its file name.</param>
/// <param name="System">Id of the system it installs.</param>
/// <param name="SizeBytes">Its size in bytes; of a file in the folder its own size counts.</param>
/// <param name="File">A file in the folder of images, instead of an upload.</param>
/// <param name="Build">Its build.</param>
/// <param name="From">Where it came from.</param>
/// <param name="Trust">Who made it: maker, community, thirdParty, own.</param>
/// <param name="Notes">Notes.</param>
/// <param name="By">Who puts it there.</param>
/// <param name="SourceUntil">The last day on which it can be fetched where it came from.</param>
internal sealed record ImageIn(
    [property: Line(200)] string Name,
    string? System = null,
    long SizeBytes = 0,
    string? File = null,
    string? Build = null,
    string From = "",
    Trust Trust = Trust.ThirdParty,
    [property: MaxLength(2000)] string Notes = "",
    [property: Line(60)] string By = "nobody",
    DateOnly? SourceUntil = null
)
{
    /// <summary>The image as the shelf keeps it.</summary>
    /// <exception cref="RefusedException">A text that is none, or a system that the catalogue does not know.</exception>
    public ImageEntry Entry(long size, ShopCatalogue catalogue)
    {
        // A browser may send a whole path: what counts is the name.
        var name = Path.GetFileName(Given.Text(Name, "name", 200).Replace('\\', '/'));
        if (System is { } system && catalogue.System(system) is null)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no system “{system}” in the catalogue.",
                "system",
                "A system of the catalogue, or none."
            );
        return new ImageEntry(
            Given.Text(name, "name", 200),
            System,
            size,
            string.IsNullOrWhiteSpace(Build) ? null : Given.Text(Build, "build", 40),
            string.IsNullOrWhiteSpace(From) ? "" : Given.Text(From, "from", 200),
            JsonNamingPolicy.CamelCase.ConvertName(Trust.ToString()),
            Notes,
            Given.Text(By, "by", 60),
            SourceUntil
        );
    }
}

/// <summary>What is said of an image, changed.</summary>
internal sealed record ImageChange(ImageIn Image, int Version);

/// <summary>An image on the shelf.</summary>
/// <param name="Image">The image.</param>
/// <param name="Checksum">What checksum lists say.</param>
/// <param name="Starts">How it starts; null while it is not whole.</param>
/// <param name="LargestFile">Its largest file.</param>
/// <param name="Manifest">What was patched; null for an image as it came.</param>
internal sealed record ImageSheet(
    StoredImage Image,
    ChecksumSays Checksum,
    Starts? Starts,
    LargestFile? LargestFile,
    PatchManifest? Manifest
);

/// <summary>A file in the folder of images that nobody named yet.</summary>
internal sealed record FolderFile(string Name, long SizeBytes);

/// <summary>The shelf of images.</summary>
/// <param name="Images">The images, the latest first.</param>
/// <param name="Folder">Path of the folder of images.</param>
/// <param name="Unnamed">Files in it that nobody named yet.</param>
/// <param name="FreeBytes">Bytes that are free there.</param>
/// <param name="Install">What has to be installed so that everything works: Debian packages.</param>
internal sealed record ImagesSheet(
    IReadOnlyList<ImageSheet> Images,
    string Folder,
    IReadOnlyList<FolderFile> Unnamed,
    long FreeBytes,
    IReadOnlyList<string> Install
);

/// <summary>A list of checksums.</summary>
/// <param name="Text">Its text, as sha256sum prints it.</param>
/// <param name="From">Where it came from.</param>
internal sealed record ChecksumList(string Text, [property: Line(120)] string From);

/// <summary>How many lines of a list were read.</summary>
internal sealed record ChecksumsTaken(int Lines);

/// <summary>A folder of an image.</summary>
/// <param name="FileSystem">Its file system.</param>
/// <param name="Path">The folder; empty for the root.</param>
/// <param name="Entries">What lies in it.</param>
internal sealed record FolderSheet(string FileSystem, string Path, IReadOnlyList<FolderEntry> Entries);

/// <summary>An entry of a folder.</summary>
internal sealed record FolderEntry(string Path, EntryKind Kind, long SizeBytes);

/// <summary>A file of an image.</summary>
/// <param name="Path">Its path.</param>
/// <param name="SizeBytes">Its size.</param>
/// <param name="Sha256">SHA-256 of its content; null where it is larger than 64 MiB.</param>
/// <param name="Text">Its text; null where it is none, or larger than 256 KiB.</param>
internal sealed record FileSheet(string Path, long SizeBytes, string? Sha256, string? Text);

/// <summary>A start in a machine's twin.</summary>
/// <param name="Job">The job.</param>
/// <param name="Seen">What it showed, held against what is asked; null while it has shown nothing.</param>
internal sealed record StartSeen(JobSheet Job, RehearsalSeen? Seen);

/// <summary>An image held against a machine.</summary>
/// <param name="Image">The image.</param>
/// <param name="Ways">Ways to start it, the ones that work first.</param>
/// <param name="Starts">Starts in the machine's twin, the latest first; each says what it is evidence for.</param>
internal sealed record ImageOnMachine(
    StoredImage Image,
    IReadOnlyList<WayToStart> Ways,
    IReadOnlyList<StartSeen> Starts
);

/// <summary>The shelf of images as other rules see it.</summary>
internal static class ImageSheets
{
    /// <summary>Those that are whole and as they came.</summary>
    public static IEnumerable<KeptImage> Kept(IEnumerable<StoredImage> shelf) =>
        shelf
            .Where(i => i is { Whole: true, Parent: null })
            .Select(i => new KeptImage(i.Id, i.Name, i.System, i.Build, i.From, i.SourceUntil));
}
