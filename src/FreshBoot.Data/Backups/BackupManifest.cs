using System.Text.Json;

namespace FreshBoot.Data.Backups;

/// <summary>A file of a back-up.</summary>
/// <param name="Path">Its path below the data folder.</param>
/// <param name="Sha256">SHA-256 of its bytes.</param>
/// <param name="Bytes">Its size.</param>
public sealed record BackupFile(string Path, string Sha256, long Bytes);

/// <summary>The end of a run's chain: a database that was written anew no longer fits it.</summary>
/// <param name="Run">The run.</param>
/// <param name="Events">How many events there were.</param>
/// <param name="Head">The hash of the last one; of the run's own row where there was none.</param>
public sealed record RunHead(string Run, int Events, string Head);

/// <summary>What a back-up is: written last, so that one without it is none.</summary>
/// <param name="Id">Its id, which is the name of its folder.</param>
/// <param name="At">When it was begun.</param>
/// <param name="By">Who asked for it.</param>
/// <param name="Version">The last migration of the database.</param>
/// <param name="Database">The database.</param>
/// <param name="Files">The files that go with it: what came in, and pictures that are evidence.</param>
/// <param name="Machines">Machines in it.</param>
/// <param name="Events">Events of runs in it.</param>
/// <param name="ImagesLeftOut">Installer images that are not in it: they can be fetched and made again.</param>
/// <param name="Heads">The ends of the chains of all runs; null in back-ups of versions that kept none.</param>
public sealed record BackupManifest(
    string Id,
    DateTimeOffset At,
    string By,
    string Version,
    BackupFile Database,
    IReadOnlyList<BackupFile> Files,
    int Machines,
    int Events,
    int ImagesLeftOut,
    IReadOnlyList<RunHead>? Heads = null
)
{
    /// <summary>The name of the file that it is written to.</summary>
    public const string FileName = "backup.json";

    /// <summary>The name of the database in a back-up and in the data folder.</summary>
    public const string DatabaseName = "fresh-boot.db";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
    };

    /// <summary>Its size, in bytes; files are kept once for all back-ups.</summary>
    public long Bytes => Database.Bytes + Files.Sum(f => f.Bytes);

    /// <summary>Its text.</summary>
    public string Write() => JsonSerializer.Serialize(this, Json);

    /// <summary>Reads the one of a folder.</summary>
    /// <param name="folder">The folder of the back-up.</param>
    /// <param name="fault">What is wrong with it, where it gives none.</param>
    public static BackupManifest? Read(string folder, out string? fault)
    {
        try
        {
            var manifest = JsonSerializer.Deserialize<BackupManifest>(
                File.ReadAllText(Path.Combine(folder, FileName)),
                Json
            );
            fault = manifest is null ? $"{FileName} holds nothing" : manifest.FaultOf();
            return fault is null ? manifest : null;
        }
        catch (Exception e)
            when (e is IOException or UnauthorizedAccessException or JsonException or NotSupportedException)
        {
            fault = e switch
            {
                FileNotFoundException => $"{FileName} is missing",
                JsonException json =>
                    $"{FileName} is none that a back-up writes{(json.Path is { Length: > 1 } at ? $" ({at})" : "")}",
                _ => $"{FileName} cannot be read: {e.Message.TrimEnd('.')}",
            };
            return null;
        }
    }

    private string? FaultOf() =>
        Database.Path != DatabaseName ? $"the database is called {Database.Path}"
        : !IsHash(Database.Sha256) ? "the checksum of the database is none"
        : Files.FirstOrDefault(f => !IsOurs(f)) is { } strange ? $"“{strange.Path}” is no file that a back-up holds"
        : Files.Select(f => f.Path).Distinct(StringComparer.Ordinal).Count() < Files.Count ? "a file stands in it twice"
        : null;

    private static bool IsHash(string? text) => text is { Length: 64 } && text.All(char.IsAsciiHexDigitLower);

    /// <summary>
    /// Hashes become paths, and paths are written to at a restore: what could lead elsewhere, or onto what the application itself keeps
    /// in its folder, is none of ours.
    /// </summary>
    private static bool IsOurs(BackupFile file) =>
        IsHash(file.Sha256)
        && file.Path.Split('/') is var parts
        && parts.All(p => p is not ("" or "." or "..") && !p.Any(c => c is '\\' || char.IsControl(c)))
        && parts switch
        {
            [var name] => IsPlain(name),
            ["files", var two, var hash] => IsHash(hash) && hash == file.Sha256 && two == hash[..2],
            ["jobs", ..] => true,
            _ => false,
        };

    /// <summary>Whether a file that lies beside the database goes into a back-up.</summary>
    internal static bool IsPlain(string name) =>
        !name.StartsWith(DatabaseName, StringComparison.Ordinal)
        && !name.EndsWith(".part", StringComparison.Ordinal)
        && name is not (FolderLock.FileName or FolderLock.HolderName)
        && name
            is not ("files" or "jobs" or "images" or "media" or "work" or "backups" or "restore" or "before-restore");
}
