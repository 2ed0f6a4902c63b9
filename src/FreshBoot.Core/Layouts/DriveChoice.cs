using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Layouts;

/// <summary>A drive of a machine, as one that may get the system.</summary>
/// <param name="Index">Its place: 0 is the one that gets the system.</param>
/// <param name="Name">Size, model and serial number, as they are printed on it.</param>
/// <param name="Port">Where it is plugged in; null where nobody looked.</param>
/// <param name="Best">Whether the rules would take it.</param>
/// <param name="Speaks">What speaks for it.</param>
/// <param name="Against">What speaks against it.</param>
public sealed record DriveCandidate(
    int Index,
    string Name,
    string? Port,
    bool Best,
    IReadOnlyList<string> Speaks,
    IReadOnlyList<string> Against
);

/// <summary>
/// Which of several drives gets the system. One that the firmware does not start from, that is worn out or too small is not
/// taken; then a flash drive before a spinning one, the quicker bus, one that is known to be sound, and what the machine names first.
/// A person chooses all the same: only they know on which the files lie.
/// </summary>
public static class DriveChoice
{
    /// <summary>The drives of a machine, in its order.</summary>
    /// <param name="facts">The dossier.</param>
    /// <param name="systemBytes">What the system takes at least, in bytes.</param>
    public static IReadOnlyList<DriveCandidate> Of(IFacts facts, long systemBytes)
    {
        var drives = Enumerable
            .Range(0, DriveOrder.Most)
            .Where(i => facts.Number($"storage.{i}.sizeBytes") is not null)
            .Select(i => Judged(facts, i, systemBytes))
            .ToArray();
        var best = drives.Length == 0 ? -1 : drives.MaxBy(d => d.Rank).Candidate.Index;
        return [.. drives.Select(d => d.Candidate with { Best = d.Candidate.Index == best })];
    }

    /// <summary>A drive by size, model and serial number.</summary>
    public static string Name(IFacts facts, int index) =>
        string.Join(
            ", ",
            new[]
            {
                Quantity.Drive(facts.Number($"storage.{index}.sizeBytes") ?? 0),
                facts.Word($"storage.{index}.model"),
                facts.Word($"storage.{index}.serial") is { } serial ? $"serial {serial}" : null,
            }.OfType<string>()
        );

    private static (DriveCandidate Candidate, (bool, bool, int, bool, int) Rank) Judged(
        IFacts facts,
        int i,
        long systemBytes
    )
    {
        var (speaks, against) = (new List<string>(), new List<string>());
        var bus = facts.Word($"storage.{i}.bus");
        var size = facts.Number($"storage.{i}.sizeBytes")!.Value;
        // Only UEFI knows NVMe, by a driver of its own; a legacy BIOS offers INT 13h for what its set-up lists.
        var starts = bus != "nvme" || MachineLayout.Firmware(facts) != "bios";
        if (!starts)
            against.Add("legacy BIOS starts nothing from NVMe");
        var health = facts.Word($"storage.{i}.health");
        if (health == "replace")
            against.Add("its own report says that it fails");
        else if (health == "sound")
            speaks.Add("sound by its own report");
        if (size < systemBytes)
            against.Add($"too small: the system takes {Quantity.Drive(systemBytes)}");
        var flash = facts.Word($"storage.{i}.kind") == "flash";
        if (flash)
            speaks.Add("no moving parts");
        else if (facts.Word($"storage.{i}.kind") == "disk")
            against.Add("a spinning disk is slow to start from");
        var quick = bus switch
        {
            "nvme" => 3,
            "sata" or "scsi" => 2,
            "ata" or "emmc" => 1,
            _ => 0,
        };
        if (bus == "nvme" && starts)
            speaks.Add("the quickest bus");
        return (
            new DriveCandidate(i, Name(facts, i), facts.Word($"storage.{i}.port"), false, speaks, against),
            (starts && health != "replace" && size >= systemBytes, flash, quick, health == "sound", -i)
        );
    }
}
