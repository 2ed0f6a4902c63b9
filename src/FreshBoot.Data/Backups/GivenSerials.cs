using Microsoft.Data.Sqlite;

namespace FreshBoot.Data.Backups;

/// <summary>
/// Serial numbers that were given and that the database does not know any more, since one from before was put in its place. No two
/// machines may have the same: they are not given again.
/// </summary>
public static class GivenSerials
{
    private static string Path(DataFolder folder) => System.IO.Path.Combine(folder.Root, "serials-given");

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
            var known = File.Exists(Path(folder)) ? File.ReadAllLines(Path(folder)) : [];
            // It stands under another name until it is whole: the plug may be pulled.
            var part = $"{Path(folder)}.part";
            File.WriteAllLines(
                part,
                known.Concat(serials).Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal)
            );
            File.Move(part, Path(folder), overwrite: true);
        }
        catch (SqliteException)
        {
            // The database may be the very thing that is broken.
        }
    }
}
