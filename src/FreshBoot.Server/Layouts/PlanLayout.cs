using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Layouts;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;

namespace FreshBoot.Server.Layouts;

/// <summary>The drive that a layout is for: one of the machine's, or one that somebody has in mind.</summary>
/// <param name="SizeBytes">Its size.</param>
/// <param name="SectorBytes">Bytes of its logical sectors.</param>
/// <param name="Index">Its place among the machine's drives, 0 for the first.</param>
internal sealed record LayoutDrive(long? SizeBytes = null, int? SectorBytes = null, int? Index = null);

/// <summary>What is wished. Each of the first four is true, false, or a number of bytes.</summary>
/// <param name="Home">What the person keeps stands apart from the system.</param>
/// <param name="Data">A partition for data beside it.</param>
/// <param name="Recovery">Room to set the system up from again.</param>
/// <param name="Keep">Another system stays at the beginning of the drive.</param>
/// <param name="Sleep">It shall sleep to disk.</param>
/// <param name="Encrypt">The system is encrypted.</param>
internal sealed record LayoutWish(
    JsonElement? Home = null,
    JsonElement? Data = null,
    JsonElement? Recovery = null,
    JsonElement? Keep = null,
    bool? Sleep = null,
    bool? Encrypt = null
);

/// <summary>What a layout is asked for. What is given counts before what the dossier says, so that "what if" can be asked.</summary>
/// <param name="Drive">The drive; the machine's first one where nothing is said.</param>
/// <param name="Firmware">bios, uefi32, uefi64, locked or board.</param>
/// <param name="ReachBytes">How far legacy firmware reads.</param>
/// <param name="MemoryMiB">Memory.</param>
/// <param name="Scheme">gpt or mbr; the rules choose where nothing is said.</param>
/// <param name="System">The system, by its id; the machine's aim where nothing is said.</param>
/// <param name="Wishes">What is wished.</param>
/// <param name="Planned">Whether the rules shall plan it, whatever somebody drew.</param>
internal sealed record LayoutBody(
    LayoutDrive? Drive = null,
    string? Firmware = null,
    long? ReachBytes = null,
    long? MemoryMiB = null,
    string? Scheme = null,
    string? System = null,
    LayoutWish? Wishes = null,
    bool? Planned = null
);

/// <summary>A layout as its page shows it.</summary>
/// <param name="Scheme">How the drive is divided.</param>
/// <param name="SchemeWhy">Why so.</param>
/// <param name="SectorBytes">Bytes of a sector.</param>
/// <param name="Sectors">Sectors of the drive.</param>
/// <param name="Partitions">Its partitions.</param>
/// <param name="Reach">How far the firmware reads; all of the drive where nothing ends before.</param>
/// <param name="Notes">What to know.</param>
/// <param name="Findings">What the checks say.</param>
/// <param name="Drive">The drive, by size, model and serial number.</param>
/// <param name="Untouched">The machine's other drives, which stay as they are.</param>
/// <param name="Sfdisk">The table as sfdisk takes it.</param>
/// <param name="Firmware">The firmware that it is planned for; null while nobody knows.</param>
/// <param name="Drawn">Whether somebody drew it.</param>
/// <param name="Script">A script that divides the drive, makes the file systems and prints the mount table.</param>
internal sealed record LayoutSheet(
    PartitionScheme Scheme,
    string SchemeWhy,
    int SectorBytes,
    long Sectors,
    IReadOnlyList<LayoutPartition> Partitions,
    Reach Reach,
    IReadOnlyList<LayoutNote> Notes,
    IReadOnlyList<LayoutFinding> Findings,
    string Drive,
    IReadOnlyList<string> Untouched,
    string Sfdisk,
    string Script,
    string? Firmware,
    bool Drawn
);

/// <summary>Plans the layout of a machine's drive, or of one that somebody has in mind for it.</summary>
internal sealed class PlanLayout(MachineStore machines, Shop shop)
{
    private static readonly string[] Firmwares = ["bios", "uefi32", "uefi64", "locked", "board"];

    /// <summary>A layout, and what it was planned from.</summary>
    private sealed record WorkedOut(
        Layout Layout,
        string? Firmware,
        bool Drawn,
        string System,
        IFacts Facts,
        MachineStanding Standing
    );

    /// <summary>The layout of a machine's drive for its aim, as its page shows it.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<Layout> LayoutAsync(string tag, CancellationToken stop) =>
        (await WorkOutAsync(tag, new LayoutBody(), stop)).Layout;

    /// <summary>Plans it, as its page shows it.</summary>
    /// <exception cref="RefusedException">Something that is needed is not known or odd, or two wishes collide.</exception>
    public async Task<LayoutSheet> OfAsync(string tag, LayoutBody asked, CancellationToken stop)
    {
        var (layout, firmware, drawn, system, facts, standing) = await WorkOutAsync(tag, asked, stop);
        var index = asked.Drive?.Index ?? 0;
        var given = asked.Drive?.SizeBytes;
        var size = layout.Sectors * layout.SectorBytes;
        return new LayoutSheet(
            layout.Scheme,
            layout.SchemeWhy,
            layout.SectorBytes,
            layout.Sectors,
            layout.Partitions,
            layout.Reach with
            {
                Bytes = Math.Min(layout.Reach.Bytes, size),
            },
            layout.Notes,
            LayoutCheck.Of(
                layout.Scheme,
                layout.SectorBytes,
                layout.Sectors,
                layout.Partitions,
                firmware,
                layout.Reach.Bytes
            ),
            given is not null ? Quantity.Drive(size)
                : size == standing.Dossier.Number($"storage.{index}.sizeBytes") ? DriveChoice.Name(facts, index)
                : $"the new {Quantity.Drive(size)} drive",
            given is null
                ?
                [
                    .. Enumerable
                        .Range(0, 10)
                        .Where(i => i != index && facts.Number($"storage.{i}.sizeBytes") is not null)
                        .Select(i => DriveChoice.Name(facts, i)),
                ]
                : [],
            LayoutScript.Text(layout),
            LayoutScript.Shell(layout, $"{tag}, {system}: {Quantity.Drive(size)}"),
            firmware,
            drawn
        );
    }

    private async Task<WorkedOut> WorkOutAsync(string tag, LayoutBody asked, CancellationToken stop)
    {
        var standing = shop.Stand(await machines.GetAsync(tag, stop));
        var index = asked.Drive?.Index ?? 0;
        var given = asked.Drive?.SizeBytes;
        var aim = asked.System ?? standing.Aim.System;
        // As Prepare sees it: the machine with the parts and settings of the best route to that system.
        var facts = given is null ? standing.AtInstaller(aim, stop) : standing.Dossier;
        if (index is < 0 or > 9 || (given is null && facts.Number($"storage.{index}.sizeBytes") is null))
            throw new RefusedException(
                RefusalKind.Impossible,
                index == 0 ? "Nobody has measured the drive." : $"It has no drive {index} that was measured.",
                "drive",
                "The size of the drive in bytes, or a probe of the machine."
            );
        var firmware = asked.Firmware ?? MachineLayout.Firmware(facts);
        if (firmware is not null && !Firmwares.Contains(firmware))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no firmware “{firmware}”.",
                "firmware",
                string.Join(", ", Firmwares)
            );
        var size = Within(given ?? facts.Number($"storage.{index}.sizeBytes")!.Value, "drive.sizeBytes");
        var bus = given is null || asked.Drive?.Index is not null ? facts.Word($"storage.{index}.bus") : null;
        var reach = asked.ReachBytes is { } bytes
            ? new Reach(Within(bytes, "reachBytes"), "given with the question", ReachSure.Measured)
            : ReachRules.Of(facts, firmware, bus);
        var system = SystemOf(aim);
        var ask = new LayoutAsk(
            size,
            asked.Drive?.SectorBytes ?? (int)(facts.Number($"storage.{index}.sectorBytes") ?? 512),
            firmware,
            reach,
            asked.MemoryMiB is { } memory
                ? InRange(memory, 16, 16 << 20, "memoryMiB")
                : facts.Number("memory.installedMiB") ?? facts.Number("memory.visibleMiB"),
            system.Bytes,
            system.Name,
            asked.Wishes is { } wish ? Wishes(wish) : MachineLayout.Wishes(facts, system.Entry?.Encryption),
            SchemeOf(asked.Scheme ?? facts.Word("plan.scheme"))
        )
        {
            Encryption = system.Entry?.Encryption,
        };
        // A drawn layout counts for the drive that it was drawn for, unless somebody asks "what if".
        var own =
            given is null && index == 0 && asked is { Wishes: null, Scheme: null, Planned: not true }
                ? OwnLayout.Of(facts, ask)
                : null;
        if (own?.WhyNot is { } why)
            throw new RefusedException(
                RefusalKind.Impossible,
                why,
                OwnLayout.Key,
                "The layout as the rules would have it, or a new one."
            );
        var layout = own?.Layout ?? LayoutPlanner.Plan(ask);
        if (asked.Wishes is null && MachineLayout.OfEncryption(facts, system.Entry) is { } note)
            layout = layout with { Notes = [.. layout.Notes, note] };
        return new WorkedOut(layout, firmware, own is not null, system.Name, facts, standing);
    }

    private (string Name, long Bytes, SystemEntry? Entry) SystemOf(string id)
    {
        if (id.Length == 0)
            return ("the system", SystemRoom.UsualBytes, null);
        var system =
            shop.Catalogue.System(id)
            ?? throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no system “{id}”.",
                "system",
                "A system of the catalogue."
            );
        return (system.FullName, SystemRoom.Of(system) ?? SystemRoom.UsualBytes, system);
    }

    private static PartitionScheme? SchemeOf(string? scheme) =>
        scheme switch
        {
            null => null,
            "gpt" => PartitionScheme.Gpt,
            "mbr" => PartitionScheme.Mbr,
            _ => throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no scheme “{scheme}”.",
                "scheme",
                "gpt or mbr"
            ),
        };

    private static LayoutWishes Wishes(LayoutWish wish) =>
        new(
            ShareOf(wish.Home, "wishes.home"),
            ShareOf(wish.Data, "wishes.data"),
            ShareOf(wish.Recovery, "wishes.recovery"),
            ShareOf(wish.Keep, "wishes.keep"),
            wish.Sleep ?? false,
            wish.Encrypt ?? false
        );

    private static Share ShareOf(JsonElement? value, string where) =>
        value?.ValueKind switch
        {
            null or JsonValueKind.Null or JsonValueKind.False => default,
            JsonValueKind.True => Share.Yes,
            JsonValueKind.Number when value.Value.TryGetInt64(out var bytes) => new Share(
                true,
                InRange(bytes, Quantity.MiB, 1_000_000_000_000_000, where)
            ),
            _ => throw new RefusedException(
                RefusalKind.Invalid,
                "A wish is met, or not, or by so many bytes.",
                where,
                "true, false, or a number of bytes."
            ),
        };

    private static long Within(long bytes, string where) => InRange(bytes, 1_000_000, 1_000_000_000_000_000, where);

    private static long InRange(long value, long least, long most, string where) =>
        value >= least && value <= most
            ? value
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"{value} is out of range.",
                where,
                $"{least} to {most}."
            );
}
