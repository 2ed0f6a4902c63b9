using Microsoft.Data.Sqlite;

namespace FreshBoot.Data.Backups;

/// <summary>
/// Serial numbers that were given and that the database does not know any more, since one from before was put in its place. No two
/// machines may have the same: they are not given again.
/// </summary>
public static class GivenSerials
{
    private const string FileName = "serials-given";

    private static string Path(DataFolder folder) => System.IO.Path.Combine(folder.Root, FileName);

    /// <summary>Whether a path below the data folder is the list of them.</summary>
    internal static bool Is(string path) => path == FileName;

    /// <summary>Adds those of a back-up's list to the present ones: none of either is given again.</summary>
    internal static void Add(DataFolder folder, string list) => Add(folder, File.ReadAllLines(list));

    /// <summary>Whether one was given.</summary>
    public static bool Has(DataFolder folder, string serial) =>
        File.Exists(Path(folder)) && File.ReadLines(Path(folder)).Contains(serial, StringComparer.Ordinal);

    /// <summary>Writes down those of a database that is about to be laid aside. One that cannot be read tells none.</summary>
    internal static void Remember(DataFolder folder, string database)
    {
        try
        {
            using var db = new SqliteConnection($"Data Source={database};Pooling=False");
            db.Open();
            using var command = db.CreateCommand();
            command.CommandText = "SELECT Serial FROM Identities WHERE Serial IS NOT NULL";
            using var reader = command.ExecuteReader();
            var serials = new List<string>();
            while (reader.Read())
                serials.Add(reader.GetString(0));
            Add(folder, serials);
        }
        catch (SqliteException)
        {
            // The database may be the very thing that is broken.
        }
    }

    private static void Add(DataFolder folder, IEnumerable<string> serials)
    {
        var known = File.Exists(Path(folder)) ? File.ReadAllLines(Path(folder)) : [];
        WholeFile.Write(
            Path(folder),
            string.Concat(
                known
                    .Concat(serials)
                    .Distinct(StringComparer.Ordinal)
                    .Order(StringComparer.Ordinal)
                    .Select(n => $"{n}\n")
            )
        );
    }
}
