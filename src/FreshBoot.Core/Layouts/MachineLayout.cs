using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Layouts;

/// <summary>What a machine's dossier asks of a layout: its drive, firmware and memory, and what people said that they wish.</summary>
public static class MachineLayout
{
    /// <summary>
    /// The firmware as far as anybody knows, in the mode in which the plan starts by it: a drive that is started by the compatibility
    /// mode is divided for legacy BIOS. One that was started by UEFI has UEFI, whatever else it can do.
    /// </summary>
    public static string? Firmware(IFacts facts) =>
        facts.Word("firmware.kind") switch
        {
            null => facts.Word("firmware.startedBy") == "uefi" ? "uefi64" : null,
            "uefi64" when StartMode.Of(facts) == "bios" => "bios",
            var kind => kind,
        };

    /// <summary>What people wish, from the dossier.</summary>
    /// <param name="facts">The machine.</param>
    /// <param name="encryption">How the system's drive is encrypted: one that does it itself gets a plain one.</param>
    public static LayoutWishes Wishes(IFacts facts, DriveEncryption? encryption)
    {
        // Whoever divides by hand gives the person's files a place of their own, unless somebody said otherwise.
        var byHand = facts.Word("plan.disk") == "byHand";
        return new LayoutWishes(
            Home: Wished(facts, "layout.home", byHand),
            Data: Wished(facts, "layout.data", false),
            Recovery: Wished(facts, "layout.recovery", false),
            Keep: facts.Number("layout.keepBytes") is { } kept ? new Share(true, kept) : default,
            Sleep: facts.Word("layout.sleep") == "yes",
            Encrypt: facts.Word("plan.encryption") == "on" && encryption?.By == EncryptionBy.Luks
        );
    }

    /// <summary>The question to the planner; null where nobody measured the drive.</summary>
    /// <param name="facts">The machine as it is when it is divided.</param>
    /// <param name="system">The system that goes onto it; null for one that nobody named.</param>
    /// <param name="index">The drive's place among the machine's drives.</param>
    public static LayoutAsk? Ask(IFacts facts, SystemEntry? system, int index = 0)
    {
        if (facts.Number($"storage.{index}.sizeBytes") is not { } size)
            return null;
        var firmware = Firmware(facts);
        return new LayoutAsk(
            size,
            (int)(facts.Number($"storage.{index}.sectorBytes") ?? 512),
            firmware,
            ReachRules.Of(facts, firmware, facts.Word($"storage.{index}.bus")),
            facts.Number("memory.installedMiB") ?? facts.Number("memory.visibleMiB"),
            (system is null ? null : SystemRoom.Of(system)) ?? SystemRoom.UsualBytes,
            system?.FullName ?? "the system",
            Wishes(facts, system?.Encryption),
            facts.Word("plan.scheme") switch
            {
                "gpt" => PartitionScheme.Gpt,
                "mbr" => PartitionScheme.Mbr,
                _ => null,
            }
        )
        {
            Encryption = system?.Encryption,
        };
    }

    /// <summary>What is to be known of a wished encryption that the layout does not make; null where there is nothing.</summary>
    public static LayoutNote? OfEncryption(IFacts facts, SystemEntry? system) =>
        facts.Word("plan.encryption") != "on" || system is null || system.Encryption?.By == EncryptionBy.Luks
            ? null
            : system.Encryption switch
            {
                { By: EncryptionBy.Own } own => new(
                    Outcome.Caveat,
                    $"{system.FullName} encrypts the drive itself: it is switched on {own.Where ?? "in the system"}. This layout makes no encrypted volume."
                ),
                { By: EncryptionBy.None } => new(
                    Outcome.Caveat,
                    $"Encryption is wished, and {system.FullName} starts from no encrypted volume."
                ),
                _ => new(
                    Outcome.Unknown,
                    $"Encryption is wished, and nobody wrote down how {system.FullName} does it. This layout makes no encrypted volume."
                ),
            };

    /// <summary>The layout of a machine, or why there is none.</summary>
    public static (Layout? Layout, string? WhyNot) Of(IFacts facts, SystemEntry? system)
    {
        if (Ask(facts, system) is not { } ask)
            return (null, "Nobody has measured the drive.");
        if (OwnLayout.Of(facts, ask) is { } own)
            return own;
        try
        {
            var layout = LayoutPlanner.Plan(ask);
            return (
                OfEncryption(facts, system) is { } note ? layout with { Notes = [.. layout.Notes, note] } : layout,
                null
            );
        }
        catch (RefusedException e)
        {
            return (null, e.Message);
        }
    }

    /// <summary>Whether an installer that takes the whole drive by itself would divide it otherwise.</summary>
    public static bool IsOwn(Layout? layout) =>
        layout?.Partitions.Any(p =>
            p.Use
                is PartitionUse.Home
                    or PartitionUse.Data
                    or PartitionUse.Recovery
                    or PartitionUse.Kept
                    or PartitionUse.Boot
        ) == true;

    /// <summary>A layout in a line: "EFI 512 MiB, system 64 GiB, swap 4 GiB, home 50 GiB".</summary>
    public static string InWords(Layout layout) =>
        string.Join(
            ", ",
            layout
                .Partitions.Where(p => p.Use != PartitionUse.Extended)
                .Select(p => $"{Name(p.Use)} {Quantity.Memory(p.SizeLba * layout.SectorBytes / Quantity.MiB)}")
        );

    /// <summary>Why a boot partition comes first, for whoever divides by hand; empty where none has to.</summary>
    public static string WhyFirst(Layout layout) =>
        layout.Reach.Bytes < layout.Sectors * layout.SectorBytes
        && layout.Partitions.Any(p => p.Use == PartitionUse.Boot)
            ? $" (boot lies before {Quantity.Drive(layout.Reach.Bytes)}: further the firmware does not read)"
            : "";

    private static string Name(PartitionUse use) =>
        use switch
        {
            PartitionUse.Efi => "EFI",
            PartitionUse.BiosBoot => "BIOS boot",
            PartitionUse.Kept => "what stays",
            _ => use.ToString().ToLowerInvariant(),
        };

    private static Share Wished(IFacts facts, string key, bool otherwise) =>
        (facts.Word(key) is { } said ? said == "yes" : otherwise) ? Share.Yes : default;
}
