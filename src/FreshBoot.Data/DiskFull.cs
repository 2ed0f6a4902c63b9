using Microsoft.Data.Sqlite;

namespace FreshBoot.Data;

/// <summary>Tells a disk without room from other faults, whoever noticed it: the database or a file.</summary>
public static class DiskFull
{
    /// <summary>SQLITE_FULL of the database.</summary>
    private const int SqliteFull = 13;

    /// <summary>SQLITE_IOERR: with a write-ahead log a full disk shows up as this one too.</summary>
    private const int SqliteIo = 10;

    /// <summary>ENOSPC.</summary>
    private const int NoSpace = 28;

    /// <summary>Whether this, or what caused it, is a disk without room.</summary>
    public static bool Is(Exception? exception)
    {
        for (; exception is not null; exception = exception.InnerException)
            if (
                exception is SqliteException { SqliteErrorCode: SqliteFull or SqliteIo }
                || exception is IOException
                    && (
                        (exception.HResult & 0xffff) == NoSpace
                        || exception.Message.Contains("No space left", StringComparison.Ordinal)
                    )
            )
                return true;
        return false;
    }
}
