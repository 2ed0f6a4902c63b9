using System.Globalization;

namespace FreshBoot.Data.Backups;

/// <summary>
/// Puts a back-up that lies ready in the place of the present data, before the database is opened. Nothing is written over: what
/// was there is put aside into a folder of its own, and comes back where the start that follows fails. Each move can be made again, so
/// that a plug that is pulled in the middle leaves either of the two.
/// </summary>
public static class RestoreAtStart
{
    /// <summary>So often a start after a restore may be cut short before the data of before come back.</summary>
    private const int MostStarts = 3;

    private const string Tree = "tree";

    /// <summary>The folder in which a back-up lies ready.</summary>
    public static string Ready(DataFolder folder) => Path.Combine(folder.Root, "restore");

    /// <summary>The file without which what lies there does not count: the id, and from the first move on the name of the folder for what is put aside.</summary>
    public static string Marker(DataFolder folder) => Path.Combine(Ready(folder), "ready");

    /// <summary>While it is there, no start after the restore has gone well yet: the folder of before, and how many were begun.</summary>
    private static string Trial(DataFolder folder) => Path.Combine(folder.Root, "before-restore", "on-trial");

    /// <summary>Takes what lies ready.</summary>
    /// <returns>Where the data lie that were there before; null where nothing lay ready.</returns>
    public static string? Take(DataFolder folder)
    {
        if (!File.Exists(Marker(folder)))
            return null;
        var before = Aside(folder);
        var staged = Path.Combine(Ready(folder), BackupManifest.DatabaseName);
        if (File.Exists(staged))
        {
            if (File.Exists(folder.Database))
                GivenSerials.Remember(folder, folder.Database);
            MoveDatabase(folder.Root, before);
            File.Move(staged, folder.Database);
        }
        var tree = Path.Combine(Ready(folder), Tree);
        if (Directory.Exists(tree))
            foreach (var file in Directory.GetFiles(tree, "*", SearchOption.AllDirectories))
            {
                var path = Path.GetRelativePath(tree, file);
                if (GivenSerials.Is(path))
                {
                    GivenSerials.Add(folder, file);
                    continue;
                }
                var target = Path.Combine(folder.Root, path);
                // Files under their checksum are the same bytes.
                if (File.Exists(target) && !path.StartsWith("files/", StringComparison.Ordinal))
                    Put(target, Path.Combine(before, Tree, path));
                Put(file, target);
            }
        // Of when the records are, for whoever reads them: what was done since is in none.
        var at = BackupManifest.Read(Ready(folder), out _)?.At;
        WholeFile.Write(Trial(folder), $"{Path.GetFileName(before)}\n0\n{at:yyyy-MM-dd HH:mm}");
        File.Delete(Marker(folder));
        Directory.Delete(Ready(folder), recursive: true);
        return before;
    }

    /// <summary>Whether the data come from a back-up and no start has gone well since.</summary>
    public static bool IsOnTrial(DataFolder folder) => File.Exists(Trial(folder));

    /// <summary>Of when the back-up is that was taken, in words.</summary>
    public static string Of(DataFolder folder) =>
        File.ReadAllLines(Trial(folder)) is [_, _, { Length: > 0 } at, ..] ? at : "an earlier day";

    /// <summary>Counts a start; after too many that were cut short the data of before come back.</summary>
    /// <returns>What is to be said of it; null where the start goes on.</returns>
    public static string? Begin(DataFolder folder)
    {
        if (!IsOnTrial(folder))
            return null;
        var (name, starts) = ReadTrial(folder);
        if (starts >= MostStarts)
            return GoBack(folder, $"{starts} starts were cut short");
        WholeFile.Write(Trial(folder), $"{name}\n{(starts + 1).ToString(CultureInfo.InvariantCulture)}\n{Of(folder)}");
        return null;
    }

    /// <summary>The start went well: what was put aside stays aside.</summary>
    public static void Confirm(DataFolder folder) => File.Delete(Trial(folder));

    /// <summary>The start failed: the data of before come back, and what the back-up brought is put aside in their place.</summary>
    /// <returns>What is to be said of it; null where there is nothing to go back to.</returns>
    public static string? GoBack(DataFolder folder, string why)
    {
        if (!IsOnTrial(folder))
            return null;
        var (name, _) = ReadTrial(folder);
        var before = Path.Combine(folder.Root, "before-restore", name);
        var failed = Path.Combine(before, "failed");
        // Where there was no database before, there is none to come back.
        if (File.Exists(Path.Combine(before, BackupManifest.DatabaseName)))
        {
            Directory.CreateDirectory(failed);
            MoveDatabase(folder.Root, failed);
            MoveDatabase(before, folder.Root);
        }
        var tree = Path.Combine(before, Tree);
        if (Directory.Exists(tree))
            foreach (var file in Directory.GetFiles(tree, "*", SearchOption.AllDirectories))
            {
                var path = Path.GetRelativePath(tree, file);
                var target = Path.Combine(folder.Root, path);
                if (File.Exists(target))
                    Put(target, Path.Combine(failed, Tree, path));
                Put(file, target);
            }
        File.Delete(Trial(folder));
        return $"The back-up was taken and the start with it failed ({why}). The data of before are back; what the back-up brought lies in {failed}.";
    }

    /// <summary>The folder for what is put aside: a fresh one for each restore, and the same one where a restore goes on.</summary>
    private static string Aside(DataFolder folder)
    {
        var lines = File.ReadAllLines(Marker(folder));
        var all = Path.Combine(folder.Root, "before-restore");
        if (lines is [_, var begun, ..])
            return Directory.CreateDirectory(Path.Combine(all, Path.GetFileName(begun))).FullName;
        var id = Path.GetFileName(lines[0].Trim());
        var name = id;
        for (var i = 2; Path.Exists(Path.Combine(all, name)); i++)
            name = $"{id}-{i.ToString(CultureInfo.InvariantCulture)}";
        // Made first: a second restore at the same moment of a killed one finds its name taken.
        var aside = Directory.CreateDirectory(Path.Combine(all, name)).FullName;
        WholeFile.Write(Marker(folder), $"{id}\n{name}");
        return aside;
    }

    private static (string Name, int Starts) ReadTrial(DataFolder folder) =>
        File.ReadAllLines(Trial(folder)) is [var name, var starts, ..]
        && int.TryParse(starts, NumberStyles.None, CultureInfo.InvariantCulture, out var count)
            ? (Path.GetFileName(name), count)
            : ("", MostStarts);

    /// <summary>The log belongs to its database: the three move together, the database last. None is written over.</summary>
    private static void MoveDatabase(string from, string to)
    {
        foreach (var end in new[] { "-shm", "-wal", "" })
            if (Path.Combine(from, BackupManifest.DatabaseName + end) is var file && File.Exists(file))
                File.Move(file, Path.Combine(to, BackupManifest.DatabaseName + end));
    }

    private static void Put(string file, string target)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        File.Move(file, target, overwrite: target.Contains("/files/", StringComparison.Ordinal));
    }
}
