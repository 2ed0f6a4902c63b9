using System.Globalization;
using System.Text;
using FreshBoot.Core.Patching;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Workshop.Images;

/// <summary>
/// Makes a new image from an old one with some files changed, keeping every way in which it starts, by xorriso: it writes the
/// tree again and replays boot catalogue, system area and partition tables.
/// </summary>
public static class ImageRewriter
{
    /// <summary>Whether the program is installed.</summary>
    public static bool IsInstalled => Programs.Has("xorriso");

    /// <summary>Why an image cannot be rewritten, or null where it can. Asked before anything is made.</summary>
    public static string? Obstacle(InspectedImage image)
    {
        if (image.Main is not { } tree)
            return "No file system was found on it that could be changed.";
        if (!tree.FileSystem.StartsWith("ISO 9660", StringComparison.Ordinal))
            return $"Its files lie in {tree.FileSystem}, which the writer of images cannot write.";
        var gpt = image.Inspection.Partitions.Where(p => p.Table == "gpt").OrderBy(p => p.OffsetBytes).ToList();
        for (var i = 1; i < gpt.Count; i++)
            if (gpt[i].OffsetBytes < gpt[i - 1].OffsetBytes + gpt[i - 1].SizeBytes)
                return $"Partitions {gpt[i - 1].Number} and {gpt[i].Number} of its GPT overlap; the writer of images refuses such a table.";
        return null;
    }

    /// <summary>Writes the new image.</summary>
    /// <param name="image">Path of the old image; it is only read.</param>
    /// <param name="target">Path of the new one; must not be there.</param>
    /// <param name="folder">A folder for work under way.</param>
    /// <param name="changes">The changed files.</param>
    /// <param name="joliet">Whether it has names by Joliet, which the writer makes only where it is told.</param>
    /// <param name="stop">Stops it; what was written so far is deleted.</param>
    /// <exception cref="RefusedException">The program refused; nothing is left behind.</exception>
    public static async Task WriteAsync(
        string image,
        string target,
        string folder,
        IReadOnlyList<FileDifference> changes,
        bool joliet,
        CancellationToken stop
    )
    {
        var work = WorkFolder.Make(folder);
        try
        {
            List<string> arguments =
            [
                "-no_rc",
                "-return_with",
                "FAILURE",
                "32",
                "-disk_pattern",
                "off",
                "-iso_rr_pattern",
                "off",
                "-indev",
                $"stdio:{image}",
                "-outdev",
                $"stdio:{target}",
                "-boot_image",
                "any",
                "replay",
            ];
            if (joliet)
                arguments.AddRange(["-joliet", "on"]);
            // Loaders look for the volume by its time: it keeps the one it had.
            if (VolumeTime(image) is { } time)
                arguments.AddRange(["-volume_date", "uuid", time]);
            for (var i = 0; i < changes.Count; i++)
            {
                if (changes[i].Content is not { } content)
                {
                    arguments.AddRange(["-rm", $"/{changes[i].Path}", "--"]);
                    continue;
                }
                var file = Path.Combine(work, i.ToString(CultureInfo.InvariantCulture));
                await File.WriteAllBytesAsync(file, content, stop);
                arguments.AddRange(["-update", file, $"/{changes[i].Path}"]);
            }
            arguments.Add("-commit");
            var (code, said) = await Programs.RunAsync("xorriso", arguments, stop, work);
            if (code != 0)
            {
                var why =
                    said.Split('\n')
                        .LastOrDefault(l =>
                            l.Contains("FAILURE", StringComparison.Ordinal)
                            || l.Contains("SORRY", StringComparison.Ordinal)
                        )
                    ?? said;
                throw new RefusedException(
                    RefusalKind.Conflict,
                    said.Contains("No space left", StringComparison.Ordinal)
                        ? "The disk is full; nothing of the new image was kept."
                        : $"The writer of images refused: {why.Trim()}",
                    Path.GetFileName(image),
                    "An image that can be written again, or a file copy onto a stick."
                );
            }
        }
        catch
        {
            File.Delete(target);
            throw;
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>Modification time of the volume (ECMA-119, 8.4.27) as sixteen digits; null where there is none.</summary>
    private static string? VolumeTime(string image)
    {
        using var file = File.OpenRead(image);
        file.Position = 16 * 2048 + 830;
        var digits = new byte[16];
        if (file.ReadAtLeast(digits, 16, throwOnEndOfStream: false) < 16)
            return null;
        var text = Encoding.ASCII.GetString(digits);
        return text.All(char.IsAsciiDigit) && text.Any(c => c != '0') ? text : null;
    }
}
