using System.Text.Json;
using FreshBoot.Core.Identity;
using FreshBoot.Data.Backups;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Identity;

/// <summary>An identity that the shop gave a machine; rows are only added.</summary>
public sealed class IdentityRow
{
    /// <summary>Key of the row.</summary>
    public int Id { get; init; }

    /// <summary>The machine.</summary>
    public required string Tag { get; init; }

    /// <summary>Id of the donor model; null where only the processor's name is mended.</summary>
    public string? Donor { get; init; }

    /// <summary>The serial number; null where the machine keeps its own. No two rows have the same.</summary>
    public string? Serial { get; init; }

    /// <summary>What it is, as JSON.</summary>
    public required string Profile { get; init; }

    /// <summary>Who gave it.</summary>
    public required string By { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>The row as Core knows it.</summary>
    public GivenIdentity Given =>
        new(Id, Donor, JsonSerializer.Deserialize<IdentityProfile>(Profile, JsonSerializerOptions.Web)!, By, At);
}

/// <summary>The identities that the shop gave. A serial number is given once, and never one that a machine or a person named.</summary>
public sealed class IdentityStore(IDbContextFactory<FreshBootDb> databases, DataFolder folder)
{
    /// <summary>The identities of a machine, the latest last.</summary>
    public async Task<IReadOnlyList<GivenIdentity>> OfAsync(string tag, CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db.Identities.AsNoTracking().Where(i => i.Tag == tag).OrderBy(i => i.Id).ToListAsync(stop);
        return [.. rows.Select(r => r.Given)];
    }

    /// <summary>One identity of a machine.</summary>
    /// <exception cref="RefusedException">There is none such.</exception>
    public async Task<GivenIdentity> GetAsync(string tag, int id, CancellationToken stop) =>
        (await OfAsync(tag, stop)).FirstOrDefault(i => i.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"{tag} has no identity {id}.",
            "id",
            "An identity that this machine was given."
        );

    /// <summary>Gives a machine an identity.</summary>
    /// <returns>It; null where its serial number is somebody's, and another is to be made.</returns>
    public async Task<GivenIdentity?> GiveAsync(
        string tag,
        string? donor,
        IdentityProfile profile,
        string by,
        DateTimeOffset at,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        if (profile.Serial is { } serial)
        {
            // As a machine's table or a person's word has it: whoever said it, and whether it still counts.
            var said = JsonSerializer.Serialize(serial, JsonSerializerOptions.Web);
            if (await db.FactHistory.AnyAsync(f => f.Value == said, stop) || GivenSerials.Has(folder, serial))
                return null;
        }
        var row = new IdentityRow
        {
            Tag = tag,
            Donor = donor,
            Serial = profile.Serial,
            Profile = JsonSerializer.Serialize(profile, JsonSerializerOptions.Web),
            By = by,
            At = at,
        };
        db.Identities.Add(row);
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: 19 })
        {
            return null;
        }
        return row.Given;
    }
}
