using System.Diagnostics;
using System.Globalization;

namespace FreshBoot.Workshop;

/// <summary>
/// Folders for work under way, each with the number of the program that works in it: what a killed server leaves behind is
/// found and ended at the next start.
/// </summary>
public static class WorkFolder
{
    private const string NumberFile = "program";

    /// <summary>Makes an empty folder.</summary>
    public static string Make(string folder) =>
        Directory.CreateDirectory(Path.Combine(folder, Guid.NewGuid().ToString("N"))).FullName;

    /// <summary>Notes which program works in a folder.</summary>
    internal static void Note(string work, Process process) =>
        File.WriteAllText(Path.Combine(work, NumberFile), process.Id.ToString(CultureInfo.InvariantCulture));

    /// <summary>
    /// Ends programs that were left behind, and deletes their folders. A program is ended only if its own command names its
    /// folder, or the one above: numbers are given again.
    /// </summary>
    /// <param name="folder">The folder of all work under way.</param>
    /// <param name="above">A folder that the commands of such programs name.</param>
    public static void Sweep(string folder, string above)
    {
        foreach (var work in Directory.EnumerateDirectories(folder))
        {
            var number = Path.Combine(work, NumberFile);
            if (
                File.Exists(number)
                && int.TryParse(File.ReadAllText(number), NumberStyles.None, CultureInfo.InvariantCulture, out var id)
                && CommandOf(id).Contains(above, StringComparison.Ordinal)
            )
                End(id);
            Directory.Delete(work, recursive: true);
        }
    }

    private static string CommandOf(int id)
    {
        try
        {
            return File.ReadAllText($"/proc/{id.ToString(CultureInfo.InvariantCulture)}/cmdline");
        }
        catch (IOException)
        {
            return "";
        }
        catch (UnauthorizedAccessException)
        {
            return "";
        }
    }

    private static void End(int id)
    {
        try
        {
            using var process = Process.GetProcessById(id);
            Programs.End(process);
        }
        catch (ArgumentException)
        {
            // It has ended by itself meanwhile.
        }
    }
}
