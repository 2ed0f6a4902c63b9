using System.Text.Json;
using FreshBoot.Core.Firmware;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Firmware;

/// <summary>The firmware chip of a machine.</summary>
public sealed class ChipRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>Goes up with every change.</summary>
    public int Version { get; set; } = 1;

    /// <summary>The machine that it is soldered into.</summary>
    public required string Tag { get; init; }

    /// <summary>Its size in bytes.</summary>
    public required long SizeBytes { get; init; }

    /// <summary>What is wrong with a simulated one, as JSON.</summary>
    public required string Faults { get; set; }

    /// <summary>What happened to it, as JSON; only ever added to.</summary>
    public required string Events { get; set; }

    /// <summary>What happened to it.</summary>
    public IReadOnlyList<ChipEvent> Log =>
        JsonSerializer.Deserialize<List<ChipEvent>>(Events, JsonSerializerOptions.Web) ?? [];

    /// <summary>How it stands.</summary>
    public ChipState State => ChipState.Of(Log);
}

/// <summary>Firmware chips. What is said of one is on the disk before the first byte moves.</summary>
public sealed class ChipStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder)
{
    /// <summary>The file of a simulated chip.</summary>
    public string PathOf(string tag) => Path.Combine(folder.Media, $"{tag}.chip");

    /// <summary>All chips, by the tags of their machines.</summary>
    public async Task<IReadOnlyList<ChipRow>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Chips.AsNoTracking().OrderBy(c => c.Tag).ToListAsync(stop);
    }

    /// <summary>The chip of a machine, if it is on the bench.</summary>
    public async Task<ChipRow?> OfAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Chips.AsNoTracking().SingleOrDefaultAsync(c => c.Tag == tag, stop);
    }

    /// <summary>One chip.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<ChipRow> GetAsync(int id, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        return await db.Chips.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id, stop)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is no chip {id}.",
                "id",
                "A chip that is on the list."
            );
    }

    /// <summary>Puts the chip of a machine on the bench.</summary>
    /// <exception cref="RefusedException">It is there already.</exception>
    public async Task<ChipRow> AddAsync(ChipRow row, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        db.Chips.Add(row);
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: 19 })
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The chip of {row.Tag} is on the bench already.",
                "tag",
                "That chip, or another machine."
            );
        }
        return row;
    }

    /// <summary>
    /// After the records were taken from a back-up: what has been done to the chips since is in none of them. Saying it twice says no more.
    /// </summary>
    /// <param name="at">When.</param>
    /// <param name="backup">Of when the back-up is, in words.</param>
    public async Task DoubtAsync(DateTimeOffset at, string backup)
    {
        foreach (var row in await ListAsync(CancellationToken.None))
            if (row.State.Content != ChipContent.Unknown || row.State.Looked is not null)
                await SayAsync(
                    row.Id,
                    new ChipEvent(
                        ChipDeed.Doubted,
                        at,
                        "restore",
                        File.Exists(PathOf(row.Tag))
                            ? $"The records were taken from the back-up of {backup}. What was done to the chip since is in none of them."
                            : $"The records were taken from the back-up of {backup}, and the simulated chip is not on this computer."
                    )
                );
    }

    /// <summary>Adds what happened, and keeps what a simulated chip has become of it.</summary>
    /// <param name="id">The chip.</param>
    /// <param name="happened">What happened; null where only its faults changed.</param>
    /// <param name="check">Refuses it where it comes out of order: asked with the state that it is added to.</param>
    /// <param name="faults">The faults that it has from now on.</param>
    /// <exception cref="RefusedException">It is refused.</exception>
    public async Task<ChipRow> SayAsync(
        int id,
        ChipEvent? happened,
        Action<ChipState>? check = null,
        string? faults = null
    )
    {
        while (true)
        {
            await using var db = await databases.CreateDbContextAsync(CancellationToken.None);
            var row = await db.Chips.SingleAsync(c => c.Id == id, CancellationToken.None);
            check?.Invoke(row.State);
            if (happened is not null)
                row.Events = JsonSerializer.Serialize(row.Log.Append(happened), JsonSerializerOptions.Web);
            if (faults is not null)
                row.Faults = faults;
            row.Version++;
            try
            {
                await db.SaveChangesAsync(CancellationToken.None);
                return row;
            }
            catch (DbUpdateConcurrencyException)
            {
                // Somebody else said something in the same moment: what was asked is asked of the new state.
            }
        }
    }
}
