using System.Data.Common;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace FreshBoot.Data;

/// <summary>
/// Every connection waits for the disk before it answers: a pulled plug loses no answered write. Write-ahead logging lets
/// readers go on meanwhile.
/// </summary>
internal sealed class DurableConnections : DbConnectionInterceptor
{
    private const string Pragmas = "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;";

    public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
    {
        using var command = connection.CreateCommand();
        command.CommandText = Pragmas;
        command.ExecuteNonQuery();
    }

    public override async Task ConnectionOpenedAsync(
        DbConnection connection,
        ConnectionEndEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        await using var command = connection.CreateCommand();
        command.CommandText = Pragmas;
        await command.ExecuteNonQueryAsync(cancellationToken);
    }
}
