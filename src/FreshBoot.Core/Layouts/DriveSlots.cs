using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Layouts;

/// <summary>A drive that somebody has in the hand.</summary>
/// <param name="Form">Its form, in the words of <see cref="DriveSlot.Form"/>.</param>
/// <param name="Bus">Its bus, in the words of <c>storage.0.bus</c>.</param>
/// <param name="LengthMm">Length of an M.2 or mSATA drive in millimetres; null where nobody measured it, or for other forms.</param>
/// <param name="Key">The notches of an M.2 drive: B, M or B+M; null where nobody looked.</param>
public sealed record DriveInHand(string Form, string Bus, int? LengthMm = null, string? Key = null);

/// <summary>Whether a drive goes into a place.</summary>
/// <param name="Slot">The place.</param>
/// <param name="Fits">True, false, or null where something is not known.</param>
/// <param name="Says">Why, and what to mind.</param>
/// <param name="Adapter">What would let it in where it does not go in by itself; null where nothing does.</param>
public sealed record DriveFit(DriveSlot Slot, bool? Fits, string Says, AdapterEntry? Adapter);

/// <summary>
/// Whether a drive goes into the places of a machine: by form, by bus, and for M.2 by length and notch (PCI Express M.2
/// Specification, revision 4.0, sections 2.3 and 5). A drive of the right form and another bus goes in and is never seen.
/// </summary>
public static class DriveSlots
{
    /// <summary>Holds a drive against each place.</summary>
    public static IReadOnlyList<DriveFit> Judge(
        IEnumerable<DriveSlot> slots,
        DriveInHand drive,
        IReadOnlyList<AdapterEntry> adapters
    ) => [.. slots.Select(s => Judge(s, drive, adapters))];

    private static DriveFit Judge(DriveSlot slot, DriveInHand drive, IReadOnlyList<AdapterEntry> adapters)
    {
        var (fits, says) = Alone(slot, drive);
        if (fits != false)
            return new DriveFit(slot, fits, With(says, slot), null);
        var adapter = adapters.FirstOrDefault(a =>
            a.Form == drive.Form && a.Bus == drive.Bus && a.SlotForm == slot.Form && slot.Buses.Contains(a.SlotBus)
        );
        return new DriveFit(
            slot,
            false,
            adapter is null
                ? says
                : With($"{says} With {adapter.Name} it goes in.{(adapter.Note is { } note ? $" {note}" : "")}", slot),
            adapter
        );
    }

    private static (bool? Fits, string Says) Alone(DriveSlot slot, DriveInHand drive)
    {
        if (drive.Form != slot.Form)
            return (false, $"Another form: it takes {slot.Form}.");
        if (!slot.Buses.Contains(drive.Bus))
            return (false, $"It speaks {Buses(slot)} only: a drive for {Bus(drive.Bus)} may go in, and is never seen.");
        if (slot.Key is { } key && drive.Key is { } notch && !notch.Split('+').Contains(key))
            return (false, $"The socket has the notch {key}, the drive {notch}: it does not go in. Never press.");
        if (slot.LengthsMm.Count > 0)
        {
            if (drive.LengthMm is not { } length)
                return (null, $"Measure its length: the place holds {Lengths(slot)}.");
            if (!slot.LengthsMm.Contains(length))
                return (
                    false,
                    length > slot.LengthsMm.Max()
                        ? $"It is {length} mm long, and the place holds {Lengths(slot)}."
                        : $"It is {length} mm long, and the screw stands at {Lengths(slot)}: it would hang loose."
                );
        }
        return slot.Key is not null && drive.Key is null
            ? (null, $"Look at its notch: the socket has {slot.Key}.")
            : (true, "It goes in.");
    }

    private static string With(string says, DriveSlot slot) =>
        string.Join(' ', new[] { says, slot.Shares is { } shares ? $"{shares}." : null, slot.Note }.OfType<string>());

    /// <summary>A place in a few words: "M.2 beside the memory: M.2, SATA, 42 mm, notch B".</summary>
    public static string InWords(DriveSlot slot) =>
        $"{slot.Name}: {slot.Form}, {Buses(slot)}{(slot.LengthsMm.Count > 0 ? $", {Lengths(slot)}" : "")}{(slot.Key is { } key ? $", notch {key}" : "")}";

    private static string Lengths(DriveSlot slot) =>
        $"{Numbers.Join([.. slot.LengthsMm.Order().Select(l => l.ToString(System.Globalization.CultureInfo.InvariantCulture))], "or")} mm";

    private static string Buses(DriveSlot slot) => Numbers.Join([.. slot.Buses.Select(Bus)], "or");

    private static string Bus(string bus) =>
        bus switch
        {
            "ata" => "parallel ATA",
            "sata" => "SATA",
            "nvme" => "NVMe",
            "emmc" => "eMMC",
            "scsi" => "SCSI",
            _ => bus.ToUpperInvariant(),
        };
}
