using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;

namespace FreshBoot.Data;

/// <summary>Reading several tables as they were at one moment.</summary>
internal static class Snapshots
{
    /// <summary>
    /// From the first read on, all reads see the database as it was then, whatever is written meanwhile; nobody waits for it
    /// (SQLite: a deferred transaction under a write-ahead log).
    /// </summary>
    public static async Task<IDbContextTransaction> SnapshotAsync(this FreshBootDb db, CancellationToken stop)
    {
        await db.Database.OpenConnectionAsync(stop);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        return (await db.Database.UseTransactionAsync(connection.BeginTransaction(deferred: true), stop))!;
    }
}
