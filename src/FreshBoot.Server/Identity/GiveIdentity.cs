using System.Security.Cryptography;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Identity;
using FreshBoot.Formats;
using FreshBoot.Formats.Smbios;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Identity;

/// <summary>A donor that a machine may take the identity of.</summary>
/// <param name="Id">Its model id.</param>
/// <param name="Model">Line and model.</param>
/// <param name="Score">0 to 100: the sum of the parts.</param>
/// <param name="Parts">What it is made of.</param>
/// <param name="Breaks">What goes wrong where it is not near enough.</param>
/// <param name="Own">Whether it is of the machine's own maker and line.</param>
internal sealed record DonorSheet(
    string Id,
    string Model,
    int Score,
    IReadOnlyList<DonorPart> Parts,
    IReadOnlyList<string> Breaks,
    bool Own
);

/// <summary>Which identity a machine shall take.</summary>
/// <param name="Level">How much of it.</param>
/// <param name="By">Who says so.</param>
/// <param name="Donor">Id of the donor model; null where only the processor's name is mended.</param>
/// <param name="Processor">The right name of the processor, for the level that mends it.</param>
internal sealed record IdentityIn(
    IdentityLevel Level,
    [property: Line(60)] string By,
    string? Donor = null,
    [property: Line(48)] string? Processor = null
);

/// <summary>An identity as its page shows it.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Donor">Id of the donor model.</param>
/// <param name="Level">How much of it.</param>
/// <param name="Maker">Maker that the machine then names.</param>
/// <param name="Model">Model that it names.</param>
/// <param name="BoardId">Board that it names.</param>
/// <param name="Serial">Serial number that it names; null where it keeps its own.</param>
/// <param name="Uuid">Id that it names; null where it keeps its own.</param>
/// <param name="Processor">Processor that it names; null where that stays.</param>
/// <param name="By">Who gave it.</param>
/// <param name="At">When.</param>
/// <param name="Caution">What is said before anybody takes it.</param>
internal sealed record IdentitySheet(
    int Id,
    string? Donor,
    IdentityLevel Level,
    string? Maker,
    string? Model,
    string? BoardId,
    string? Serial,
    Guid? Uuid,
    string? Processor,
    string By,
    DateTimeOffset At,
    string Caution
)
{
    /// <summary>The sheet of an identity.</summary>
    public static IdentitySheet Of(GivenIdentity given) =>
        new(
            given.Id,
            given.Donor,
            given.Profile.Level,
            given.Profile.Maker,
            given.Profile.Model,
            given.Profile.BoardId,
            given.Profile.Serial,
            given.Profile.Uuid,
            given.Profile.Processor,
            given.By,
            given.At,
            IdentityProfile.Caution
        );
}

/// <summary>A machine's table with an identity in it, held against its own.</summary>
/// <param name="Differences">What differs.</param>
/// <param name="Missing">What this table has no place for.</param>
/// <param name="Made">Whether no probe brought a table, and one was made from the dossier.</param>
/// <param name="Back">The way back.</param>
internal sealed record IdentityDiff(
    IReadOnlyList<IdentityDifference> Differences,
    IReadOnlyList<string> Missing,
    bool Made,
    string Back
);

/// <summary>Ranks donors, gives a machine an identity, and puts it into the machine's own table.</summary>
internal sealed class GiveIdentity(
    MachineStore machines,
    IdentityStore identities,
    DataFolder folder,
    Shop shop,
    Changes changes,
    TimeProvider clock
)
{
    private const int Tries = 64;

    /// <summary>The donors for a system, the nearest first; none where that system is a wall.</summary>
    public async Task<IReadOnlyList<DonorSheet>> DonorsAsync(string tag, string? system, CancellationToken stop)
    {
        var standing = shop.Stand(await machines.GetAsync(tag, stop));
        var wanted = system ?? standing.Aim.System;
        if (shop.Catalogue.System(wanted) is null)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no system “{wanted}”.",
                "system",
                "A system of the catalogue."
            );
        var facts = standing.Dossier;
        var maker = facts.Word("identity.maker");
        var line = facts.Word("identity.line");
        return
        [
            .. DonorRanking
                .Rank(facts, wanted, shop.Catalogue.Donors, model => shop.Catalogue.Device("graphics", model))
                .Select(s => new DonorSheet(
                    s.Donor.Id,
                    $"{s.Donor.Line} {s.Donor.Id}",
                    s.Score,
                    s.Parts,
                    s.Breaks,
                    s.Donor.Maker == maker && s.Donor.Line == line
                )),
        ];
    }

    /// <summary>Gives a machine an identity.</summary>
    /// <exception cref="RefusedException">There is no such donor, or nothing that a level needs.</exception>
    public async Task<GivenIdentity> DoAsync(string tag, IdentityIn wish, CancellationToken stop)
    {
        var by = Given.Text(wish.By, "by", 60);
        var machine = await machines.GetAsync(tag, stop);
        if (wish.Level == IdentityLevel.Processor)
        {
            var name = Given.Text(wish.Processor ?? "", "processor", 48);
            return await GivenAsync(
                    tag,
                    null,
                    new IdentityProfile(IdentityLevel.Processor, null, null, null, null, null, name),
                    by,
                    stop
                ) ?? throw Exhausted();
        }
        var donor =
            shop.Catalogue.Donors.FirstOrDefault(d => d.Id == wish.Donor)
            ?? throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no donor model “{wish.Donor}”.",
                "donor",
                "A donor of the catalogue."
            );
        var facts = shop.Dossier(machine);
        if (facts.Word("identity.model") == $"{donor.Line} {donor.Id}")
            throw new RefusedException(
                RefusalKind.Conflict,
                $"It is a {donor.Line} {donor.Id} already.",
                "donor",
                "Another donor, or none."
            );
        for (var i = 0; i < Tries; i++)
            if (
                IdentityProfile.Fresh(donor, wish.Level, RandomNumberGenerator.GetBytes(IdentityProfile.RandomBytes))
                    is { } profile
                && await GivenAsync(tag, donor.Id, profile, by, stop) is { } given
            )
                return given;
        throw Exhausted();
    }

    /// <summary>A machine's table with an identity in it.</summary>
    public async Task<IdentityTable> TableAsync(string tag, int id, CancellationToken stop)
    {
        var given = await identities.GetAsync(tag, id, stop);
        var machine = await machines.GetAsync(tag, stop);
        return IdentityTable.Of(await OwnTableAsync(tag, stop), shop.Dossier(machine), given.Profile);
    }

    private async Task<GivenIdentity?> GivenAsync(
        string tag,
        string? donor,
        IdentityProfile profile,
        string by,
        CancellationToken stop
    )
    {
        var given = await identities.GiveAsync(tag, donor, profile, by, clock.GetUtcNow(), stop);
        if (given is not null)
            changes.Tell("machine", tag);
        return given;
    }

    /// <summary>
    /// The table that the first probe of a machine brought: a later one may have been made under an identity. Its entry point is
    /// put before it where the probe brought that too.
    /// </summary>
    private async Task<byte[]?> OwnTableAsync(string tag, CancellationToken stop)
    {
        foreach (var (name, sha256) in await machines.ProbeFilesAsync(tag, stop))
        {
            var bytes = await File.ReadAllBytesAsync(folder.PathOf(sha256), stop);
            if (!ProbeBundle.LooksLikeOne(bytes))
            {
                if (name == TableName)
                    return bytes;
                continue;
            }
            try
            {
                var files = ProbeBundle.Read(new MemoryStream(bytes), name).Files;
                if (!files.TryGetValue(TableName, out var table))
                    continue;
                if (!files.TryGetValue(EntryName, out var point))
                    return table;
                var (entry, major, minor) = SmbiosRewriter.EntryOf(point);
                return SmbiosRewriter.Behind(table, entry, major, minor);
            }
            catch (Exception e) when (e is RefusedException or FormatRefusedException)
            {
                // What could be read when it came in and cannot any more is passed over; the next one may do.
            }
        }
        return null;
    }

    private const string TableName = "smbios.bin";
    private const string EntryName = "smbios-entry.bin";

    private static RefusedException Exhausted() =>
        new(
            RefusalKind.Conflict,
            "No serial number was found that is nobody’s.",
            "donor",
            "Once more; where it happens again, a donor with another prefix."
        );
}
