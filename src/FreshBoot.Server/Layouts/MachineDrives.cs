using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Layouts;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Layouts;

/// <summary>The drives of a machine and the places for them.</summary>
/// <param name="Drives">Its drives; the first gets the system.</param>
/// <param name="Slots">Its places for drives, as the catalogue knows them.</param>
/// <param name="Notes">What to know of its board before it is opened.</param>
internal sealed record DrivesSheet(
    IReadOnlyList<DriveCandidate> Drives,
    IReadOnlyList<DriveSlot> Slots,
    IReadOnlyList<BoardNote> Notes
);

/// <summary>Which drive gets the system.</summary>
/// <param name="Index">Its place among the machine's drives.</param>
/// <param name="By">Who says so.</param>
internal sealed record FirstDrive(int Index, [property: Line(60)] string By);

/// <summary>Tells drives and places apart, and keeps which drive gets the system.</summary>
internal sealed class MachineDrives(MachineStore machines, Shop shop, TimeProvider clock)
{
    private static readonly string[] Forms = ["2.5 inch", "3.5 inch", "M.2", "mSATA", "44-pin", "40-pin", "68-pin"];

    /// <summary>The drives and places of a machine.</summary>
    public async Task<DrivesSheet> OfAsync(string tag, CancellationToken stop)
    {
        var standing = shop.Stand(await machines.GetAsync(tag, stop));
        var facts = standing.Dossier;
        var aim = shop.Catalogue.System(standing.Aim.System);
        var model = shop.Catalogue.Model(facts);
        return new DrivesSheet(
            DriveChoice.Of(facts, (aim is null ? null : SystemRoom.Of(aim)) ?? SystemRoom.UsualBytes),
            model?.Slots ?? [],
            model?.Notes ?? []
        );
    }

    /// <summary>Keeps which drive gets the system; from then on it is the first.</summary>
    /// <exception cref="RefusedException">There is no such drive.</exception>
    public async Task<StoredMachine> PutFirstAsync(string tag, FirstDrive wish, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        var facts = shop.Dossier(machine);
        if (wish.Index is < 0 or >= DriveOrder.Most || facts.Number($"storage.{wish.Index}.sizeBytes") is null)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"It has no drive {wish.Index} that was measured.",
                "index",
                "One of its drives."
            );
        return await machines.EnterAsync(
            tag,
            new Reading(
                DriveOrder.Key,
                FactValue.Of(DriveOrder.NameOf(facts, wish.Index, DriveOrder.Target(Dossier.From(machine.Readings)))),
                "chosen in the shop",
                Origin.Entered,
                clock.GetUtcNow(),
                Given.Text(wish.By, "by", 60)
            ),
            stop
        );
    }

    /// <summary>Whether a drive that somebody has in the hand goes into the places of a machine.</summary>
    public async Task<IReadOnlyList<DriveFit>> FitAsync(string tag, DriveInHand drive, CancellationToken stop)
    {
        if (!Forms.Contains(drive.Form))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no form “{drive.Form}”.",
                "form",
                string.Join(", ", Forms)
            );
        if (drive.Key is not (null or "B" or "M" or "B+M"))
            throw new RefusedException(RefusalKind.Invalid, $"There is no notch “{drive.Key}”.", "key", "B, M or B+M");
        var facts = shop.Dossier(await machines.GetAsync(tag, stop));
        return DriveSlots.Judge(shop.Catalogue.Model(facts)?.Slots ?? [], drive, shop.Catalogue.Adapters);
    }
}
