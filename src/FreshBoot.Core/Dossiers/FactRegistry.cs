using System.Text.Json.Serialization;

namespace FreshBoot.Core.Dossiers;

/// <summary>The form of a fact's value.</summary>
[JsonConverter(typeof(CamelCaseNames<FactForm>))]
public enum FactForm
{
    /// <summary>Free text.</summary>
    Text,

    /// <summary>A whole number in the unit of the key.</summary>
    Whole,

    /// <summary>One of the listed choices.</summary>
    Choice,

    /// <summary>A set of words.</summary>
    Words,
}

/// <summary>A value that a choice may take, in the words of the trade.</summary>
/// <param name="Value">The value as stored.</param>
/// <param name="Meaning">What it means.</param>
public sealed record FactChoice(string Value, string Meaning);

/// <summary>All that the product knows of one fact key.</summary>
/// <param name="Key">The key. Where <paramref name="Indexed"/>, the <c>0</c> in it may be any of 0 to 9.</param>
/// <param name="Label">Its name on the screen.</param>
/// <param name="Form">The form of its value.</param>
/// <param name="Unit"><c>MiB</c> (2^20 bytes), <c>B</c> (bytes) or null.</param>
/// <param name="Min">Least value of a number.</param>
/// <param name="Max">Greatest value of a number.</param>
/// <param name="Choices">Values of a choice; where the key is ordered, from least to most.</param>
/// <param name="Rung">The rung it decides.</param>
/// <param name="HowToMeasure">How a person at the bench finds it out, as an instruction.</param>
/// <param name="Minutes">How long that takes, in minutes.</param>
/// <param name="Derived">Whether it is computed from other facts.</param>
/// <param name="Indexed">Whether there may be several of them.</param>
/// <param name="Ordered">Whether "at least" makes sense of its choices.</param>
/// <param name="Detail">Nice to have: nobody is asked for it while it is unknown.</param>
/// <param name="AtMost">Key of a fact that it never exceeds: what is visible of memory is no more than what is fitted.</param>
public sealed record FactDefinition(
    string Key,
    string Label,
    FactForm Form,
    string? Unit,
    long? Min,
    long? Max,
    IReadOnlyList<FactChoice> Choices,
    Rung Rung,
    string HowToMeasure,
    int Minutes,
    bool Derived,
    bool Indexed,
    bool Ordered,
    bool Detail = false,
    string? AtMost = null
)
{
    /// <summary>The longest text, in signs.</summary>
    public int Longest { get; init; } = 200;

    /// <summary>Whether a text may have several lines.</summary>
    public bool Lines { get; init; }
}

/// <summary>
/// The one list of fact keys: type, unit, range, rung, and how to measure each by hand. Whatever reads, enters or
/// judges a fact asks here.
/// </summary>
public static class FactRegistry
{
    /// <summary>The fact that says whether a machine has left the shop; one that came back has not.</summary>
    public const string Left = "handover.left";

    private const long MiBInTiB = 1L << 20;
    private const string RunProbe = "Start a live system and run the probe.";
    private const string RunProbeAsRoot =
        "Start a live system and run the probe as root: the firmware's table needs it.";

    /// <summary>All definitions, in the order in which screens and exports list them.</summary>
    public static IReadOnlyList<FactDefinition> All { get; } =
    [
        Choice(
            "release.owner",
            "Owner's leave",
            Rung.Release,
            "Ask the owner whether the machine may be worked on, and note the answer.",
            2,
            ("given", "leave given"),
            ("asked", "asked, no answer yet"),
            ("refused", "refused")
        ),
        Text(
            "release.evidence",
            "Evidence of ownership",
            Rung.Release,
            "See the donation slip, receipt or letter.",
            2
        ) with
        {
            Detail = true,
        },
        Choice(
            "release.check",
            "Release check",
            Rung.Release,
            "Settle the data first. Then reset it to its first start, and connect it.",
            20,
            ("reset", "reset to the first start"),
            ("connected", "connected and watched")
        ) with
        {
            Detail = true,
        },
        Choice(
            "release.managed",
            "Managed by an organisation",
            Rung.Release,
            "Settle the data first. Then reset, connect, and see whether it asks for an organisation's sign-in.",
            20,
            ("free", "free, or released"),
            ("waiting", "released, but the machine has not heard of it"),
            ("claimed", "claims itself again")
        ),
        Text(
            "release.letter",
            "The organisation's answer",
            Rung.Release,
            "Ask the organisation with both serial numbers, and keep its letter.",
            2
        ) with
        {
            Detail = true,
        },
        Choice(
            "release.data",
            "The owner's data",
            Rung.Release,
            "Ask whether anything on the machine is wanted, before anything that erases.",
            2,
            ("not-wanted", "nothing wanted"),
            ("saved", "saved elsewhere and opened again to check"),
            ("drive-kept", "old drive comes out and is kept"),
            ("asked", "asked, no answer yet")
        ),
        Choice(
            "release.encryption",
            "Drive encryption",
            Rung.Release,
            "Look at the drive's properties in the running system, and see the recovery key.",
            3,
            ("none", "not encrypted"),
            ("key-seen", "encrypted, recovery key seen"),
            ("key-missing", "encrypted, no recovery key")
        ),
        Text("release.dataWhere", "Where the data was saved", Rung.Release, "Ask whoever saved it.", 1) with
        {
            Detail = true,
        },
        YesNo("release.dataReopened", "Saved data opened again", Rung.Release, "Open a few of the saved files.", 5),
        Choice(
            "release.locks",
            "Locks",
            Rung.Release,
            "Open the firmware set-up, and start to the first-start page: note a password or an account that it asks for.",
            3,
            ("none", "none"),
            ("firmware-password", "firmware password set"),
            ("activation-lock", "locked to an account")
        ),
        Choice(
            "release.erased",
            "Erased by",
            Rung.Release,
            "Choose the method by what the data was worth (NIST SP 800-88).",
            10,
            ("clear", "clear: overwritten by ordinary writes"),
            ("purge", "purge: the drive's own erase command"),
            ("destroy", "destroy: the drive is broken up")
        ) with
        {
            Detail = true,
        },
        YesNo("release.erasedVerified", "Erasure verified", Rung.Release, "Read sectors from all over the drive.", 10),
        YesNo("layout.home", "Files apart from the system", Rung.Disk, "Ask whoever uses it.", 1),
        YesNo("layout.data", "A partition for data", Rung.Disk, "Ask whoever uses it.", 1),
        YesNo("layout.recovery", "Room to set it up again", Rung.Disk, "Ask whoever looks after it.", 1),
        YesNo("layout.sleep", "Sleeps to disk", Rung.Disk, "Ask whoever uses it.", 1),
        Whole(
            "layout.keepBytes",
            "Kept for another system",
            Rung.Disk,
            "B",
            1_048_576,
            1_000_000_000_000_000,
            "Look at the drive: what is to stay, from its beginning.",
            5
        ) with
        {
            Detail = true,
        },
        Text(
            DriveOrder.Key,
            "Drive that gets the system",
            Rung.Disk,
            "Look at sizes and serial numbers of its drives.",
            5
        ) with
        {
            Detail = true,
        },
        Text(
            "board.settings",
            "Settings of the board",
            Rung.Firmware,
            "Write them on the machine's page Board.",
            5
        ) with
        {
            Detail = true,
            Longest = 16 << 10,
            Lines = true,
        },
        Text("layout.own", "Layout that somebody drew", Rung.Disk, "Draw it on the machine's page Layout.", 5) with
        {
            Detail = true,
            Longest = 4096,
        },
        Text("plan.aimWhy", "Why this aim", Rung.Use, "Ask whoever chose it.", 1) with
        {
            Detail = true,
        },
        YesNo(Left, "Left the shop", Rung.Upkeep, "Ask whoever handed it over.", 1) with
        {
            Detail = true,
        },
        Finished(
            "use.startSeconds",
            "Start, from the button to the desktop",
            "s",
            3600,
            "Shut it down, press the button, and count until the desktop answers a click."
        ),
        Finished(
            "use.idleMiB",
            "Memory in use at rest",
            "MiB",
            1 << 20,
            "Start it, wait five minutes, and read it where it shows its memory. Nothing is open meanwhile."
        ),
        Finished(
            "use.loadCelsius",
            "Warmest at work",
            "°C",
            130,
            "Play a film in full size for five minutes, lid open, and read the processor's temperature."
        ),
        YesNo(
            "upkeep.canary",
            "Kept to try updates on",
            Rung.Upkeep,
            "Decide whether it stays in the shop as the one on which updates are tried first.",
            1
        ),
        Choice(
            "upkeep.verdict",
            "What the last update did to it",
            Rung.Upkeep,
            "Install the update on it, restart it twice, and look whether what was changed is still there.",
            30,
            ("safe", "safe"),
            ("wait", "wait"),
            ("again", "patch again")
        ) with
        {
            Detail = true,
        },
        Choice(
            "handover.language",
            "Language of the owner",
            Rung.Upkeep,
            "Ask in which language they want to read about it.",
            1,
            ("en", "English"),
            ("de", "German")
        ) with
        {
            Detail = true,
        },
        Text("order.name", "Order", Rung.Use, "Ask who the machine is for.", 1) with
        {
            Detail = true,
        },
        Choice(
            "parts.powersOn",
            "Powers on",
            Rung.Parts,
            "Connect the adapter and press the power key.",
            1,
            ("yes", "powers on"),
            ("no", "does not power on")
        ),
        Choice(
            "parts.battery",
            "Battery",
            Rung.Parts,
            "Look at the case from the side for a lid, pad or bottom that bulges, and for anything that leaks.",
            1,
            ("none", "has none"),
            ("sound", "flat and dry"),
            ("swollen", "swollen or leaking")
        ),
        Choice(
            "parts.storage",
            "Drive health",
            Rung.Parts,
            "Read the drive's own health report, or run its self-test.",
            5,
            ("sound", "sound"),
            ("watch", "worn, watch it"),
            ("replace", "failing, replace it"),
            ("none", "no drive fitted")
        ),
        Choice(
            "parts.adapter",
            "Power adapter",
            Rung.Parts,
            "Look for the adapter, and compare its label with the machine's.",
            1,
            ("present", "present"),
            ("missing", "missing"),
            ("not-needed", "built in")
        ) with
        {
            Detail = true,
        },
        Choice(
            "parts.clockBattery",
            "Clock battery",
            Rung.Parts,
            "Leave it unplugged for ten minutes and see whether it keeps the time.",
            11,
            ("good", "keeps the time"),
            ("flat", "flat")
        ) with
        {
            Detail = true,
        },
        Choice(
            "parts.liquid",
            "Liquid marks",
            Rung.Parts,
            "Look under the keys and at the ports for stains and green copper.",
            2,
            ("none", "none"),
            ("marks", "marks of liquid")
        ) with
        {
            Detail = true,
        },
        Choice(
            "parts.memoryTest",
            "Memory test",
            Rung.Parts,
            "Start the memory tester and let it pass once.",
            45,
            ("passed", "passed"),
            ("failed", "failed")
        ) with
        {
            Detail = true,
        },
        Count("battery.designMWh", "Battery, as built", Rung.Parts, "mWh", 1_000_000),
        Count("battery.fullMWh", "Battery, full charge", Rung.Parts, "mWh", 1_000_000),
        Count("battery.cycles", "Battery cycles", Rung.Parts, null, 100_000),
        Count("battery.healthPercent", "Battery health", Rung.Parts, "%", 150) with
        {
            Derived = true,
        },
        Text("identity.maker", "Maker", Rung.Parts, "Read the label on the bottom.", 1),
        Text("identity.model", "Model", Rung.Parts, "Read the label on the bottom, the exact model identifier.", 1),
        Text(
            "identity.line",
            "Line",
            Rung.Parts,
            "Read the label on the bottom: the line is the first word of the model.",
            1
        ) with
        {
            Derived = true,
        },
        Text("identity.serial", "Serial number of the casing", Rung.Parts, "Read the label on the bottom.", 1),
        YesNo(
            "identity.looked",
            "It is the machine that was taken in",
            Rung.Parts,
            "Compare the label, the casing and the board with the photographs of intake. Needed only where no serial number tells."
        ) with
        {
            Detail = true,
        },
        Whole(
            "identity.year",
            "Year it was made",
            Rung.Parts,
            null,
            1980,
            2100,
            "Read the label on the bottom.",
            1
        ) with
        {
            Detail = true,
        },
        Text(
            "identity.taken",
            "Identity that it took",
            Rung.Setup,
            "Read its system report under the taken identity.",
            2
        ) with
        {
            Detail = true,
        },
        Text("identity.takenSerial", "Serial number that it took", Rung.Setup, "Read its system report.", 2) with
        {
            Detail = true,
        },
        Text("identity.takenBoard", "Board name that it took", Rung.Setup, "Read its system report.", 2) with
        {
            Detail = true,
        },
        Text("identity.board", "Board", Rung.Parts, "Read the print on the board, or the firmware's first page.", 5),
        Text("identity.boardSerial", "Serial number of the board", Rung.Parts, RunProbeAsRoot, 4),
        Choice(
            "identity.chassis",
            "Form",
            Rung.Parts,
            "Look at it.",
            1,
            ("laptop", "laptop"),
            ("convertible", "convertible"),
            ("tablet", "tablet"),
            ("desktop", "desktop"),
            ("tower", "tower"),
            ("mini", "mini computer"),
            ("all-in-one", "all-in-one"),
            ("server", "server"),
            ("board", "bare board")
        ) with
        {
            Detail = true,
        },
        Detail("module.0.slot", "Memory module in", Rung.Parts),
        Count("module.0.sizeMiB", "Memory module size", Rung.Parts, "MiB", MiBInTiB) with
        {
            Indexed = true,
        },
        Detail("module.0.type", "Memory module type", Rung.Parts),
        Detail("module.0.model", "Memory module", Rung.Parts),
        Detail("slot.0.kind", "Slot", Rung.Parts),
        Choice(
            "slot.0.use",
            "Slot in use",
            Rung.Parts,
            "Open the case and look.",
            5,
            ("free", "free"),
            ("used", "in use")
        ) with
        {
            Indexed = true,
            Detail = true,
        },
        Detail("firmware.version", "Firmware version", Rung.Firmware) with
        {
            Indexed = false,
        },
        Whole(
            "firmware.year",
            "Firmware's year",
            Rung.Firmware,
            null,
            1980,
            2100,
            "Read the date on the first screen, or on the first page of the settings.",
            2
        ) with
        {
            Detail = true,
        },
        Whole(
            "firmware.reachBytes",
            "What the firmware reads of a drive",
            Rung.Disk,
            "B",
            1_000_000,
            1_000_000_000_000_000,
            "Fit a larger drive and open the drive page of the firmware's settings: note the size that it shows, or where a start from further out fails.",
            15
        ) with
        {
            Detail = true,
        },
        Whole(
            "firmware.firstDriveBytes",
            "Drive that it came with",
            Rung.Disk,
            "B",
            1_000_000,
            1_000_000_000_000_000,
            "Read the maker's label or its parts list: the size of the drive that it left the factory with.",
            3
        ) with
        {
            Detail = true,
        },
        YesNo(
            "firmware.boardProof",
            "Replaced firmware is for this board",
            Rung.Firmware,
            "The image names the board, or the person who brought it does; where nobody knows, only a start that goes well shows it."
        ),
        YesNo("firmware.setupMode", "Secure Boot set-up mode", Rung.Firmware, "Look for it on the Secure Boot page."),
        Choice(
            "usb.generation",
            "Fastest USB port",
            Rung.Medium,
            "Look for a blue tongue in a port or SS beside it.",
            1,
            ("1.1", "USB 1.1"),
            ("2.0", "USB 2.0"),
            ("3.0", "USB 3 or later")
        ) with
        {
            Ordered = true,
            Detail = true,
        },
        Choice(
            "optical.reads",
            "Disc drive reads",
            Rung.Medium,
            "Read the marks on its tray.",
            1,
            ("none", "no disc drive"),
            ("cd", "CD only"),
            ("dvd", "CD and DVD")
        ) with
        {
            Ordered = true,
            Detail = true,
        },
        Choice(
            "optical.writes",
            "Disc drive writes",
            Rung.Medium,
            "Read the marks on its tray.",
            1,
            ("none", "nothing"),
            ("cd", "CD"),
            ("dvd", "CD and DVD")
        ) with
        {
            Ordered = true,
            Detail = true,
        },
        // Many boards of before 2006 start from discs only; a look at the boot menu settles it.
        Choice(
            "firmware.usbStart",
            "Starts from a stick",
            Rung.Firmware,
            "Put a stick in, open the boot menu, and see whether it is listed.",
            3,
            ("yes", "yes"),
            ("no", "no"),
            ("unlikely", "likely not, by its date")
        ),
        Choice(
            "firmware.startedBy",
            "Started by",
            Rung.Firmware,
            RunProbe,
            4,
            ("bios", "legacy BIOS"),
            ("uefi", "UEFI"),
            ("own", "the board's own boot code")
        ),
        Choice(
            "firmware.tableNamesUefi",
            "Firmware's own table names UEFI",
            Rung.Firmware,
            RunProbeAsRoot,
            4,
            ("no", "no"),
            ("yes", "yes")
        ),
        Choice(
            "firmware.kind",
            "Firmware",
            Rung.Firmware,
            "Open the firmware set-up and look for a UEFI start mode; the word size stands on a display in UEFI.",
            3,
            ("bios", "legacy BIOS only"),
            ("uefi32", "UEFI, 32-bit"),
            ("uefi64", "UEFI, 64-bit"),
            ("locked", "the maker's locked boot ROM"),
            ("board", "single-board computer")
        ),
        Choice(
            "firmware.payload",
            "Replacement firmware on the chip",
            Rung.Firmware,
            "Switch it on and look at the first picture: the sign of the new firmware, or the maker's.",
            1,
            ("full", "full UEFI in the maker's place"),
            ("keep", "legacy boot beside the maker's")
        ) with
        {
            Detail = true,
        },
        Choice(
            "firmware.compatibility",
            "Compatibility mode",
            Rung.Firmware,
            "Open the firmware set-up and look for compatibility mode or legacy support on the boot page. Change nothing.",
            3,
            ("on", "on"),
            ("off", "off")
        ) with
        {
            Detail = true,
        },
        Choice(
            "firmware.storageMode",
            "Drive controller",
            Rung.Firmware,
            "Open the firmware set-up and look how the drive controller is set. Change nothing.",
            3,
            ("ahci", "AHCI"),
            ("ide", "IDE"),
            ("raid", "RAID or managed")
        ) with
        {
            Detail = true,
        },
        Choice(
            "firmware.secureBoot",
            "Secure Boot",
            Rung.Firmware,
            "Open the firmware set-up and look for Secure Boot on the security or boot page. Change nothing.",
            3,
            ("absent", "absent"),
            ("able", "there, off"),
            ("on", "on")
        ),
        Choice(
            "tpm.version",
            "TPM",
            Rung.Firmware,
            "Look at the TPM line on the security page of the firmware set-up. Look only: never clear it.",
            2,
            ("absent", "absent"),
            ("header", "a bare header for a module"),
            ("off", "there, switched off"),
            ("1.2", "version 1.2"),
            ("2.0", "version 2.0")
        ),
        Choice(
            "tpm.kind",
            "Where the TPM is",
            Rung.Firmware,
            "Look at the TPM line on the security page of the firmware set-up, or for a small board in its header. Look only.",
            2,
            ("firmware", "in the firmware"),
            ("module", "a module in the header")
        ) with
        {
            Detail = true,
        },
        Whole("storage.0.sizeBytes", "Drive size", Rung.Disk, "B", 1_000_000, 1_000_000_000_000_000, RunProbe, 4) with
        {
            Indexed = true,
        },
        Whole("storage.0.sectorBytes", "Sector size", Rung.Disk, "B", 512, 4096, RunProbe, 4) with
        {
            Indexed = true,
            Detail = true,
        },
        Choice(
            "storage.0.bus",
            "Drive bus",
            Rung.Disk,
            RunProbe,
            4,
            ("ata", "parallel ATA"),
            ("sata", "SATA"),
            ("nvme", "NVMe"),
            ("emmc", "eMMC, soldered"),
            ("sd", "SD card"),
            ("usb", "USB"),
            ("scsi", "SCSI or SAS"),
            ("virtio", "virtual")
        ) with
        {
            Indexed = true,
        },
        Choice(
            "storage.0.kind",
            "Drive kind",
            Rung.Disk,
            RunProbe,
            4,
            ("disk", "spinning disk"),
            ("flash", "SSD or flash")
        ) with
        {
            Indexed = true,
        },
        Text("storage.0.model", "Drive model", Rung.Disk, "Read the label of the drive.", 5) with
        {
            Indexed = true,
        },
        Detail("storage.0.serial", "Drive serial number", Rung.Disk),
        Detail("storage.0.partitions", "Partitions on it", Rung.Disk),
        Choice("storage.0.table", "Partition table", Rung.Disk, RunProbe, 4, ("mbr", "MBR"), ("gpt", "GPT")) with
        {
            Indexed = true,
            Detail = true,
        },
        Whole(
            "storage.0.loaderBytes",
            "EFI system partition",
            Rung.Disk,
            "B",
            1_000_000,
            1L << 40,
            "Open the page about drives of the system on it: the first small partition, without a letter.",
            4
        ) with
        {
            Indexed = true,
            Detail = true,
        },
        Detail("storage.0.port", "Where it is plugged in", Rung.Disk),
        Choice(
            "storage.0.health",
            "Drive soundness",
            Rung.Parts,
            "Start a live system and run the probe as root: it asks the drive.",
            4,
            ("replace", "failing, replace it"),
            ("watch", "worn, watch it"),
            ("sound", "sound")
        ) with
        {
            Derived = true,
            Indexed = true,
            Detail = true,
        },
        Choice(
            "storage.0.ownVerdict",
            "Drive's own verdict",
            Rung.Parts,
            RunProbeAsRoot,
            4,
            ("failed", "failed"),
            ("passed", "passed")
        ) with
        {
            Indexed = true,
            Detail = true,
        },
        Choice(
            "storage.0.selfTest",
            "Drive's last self-test",
            Rung.Parts,
            "Start the drive's own long self-test, and read its log afterwards.",
            90,
            ("failed", "failed"),
            ("passed", "passed")
        ) with
        {
            Indexed = true,
            Detail = true,
        },
        Drive("storage.0.reallocated", "Reallocated sectors", null, long.MaxValue),
        Drive("storage.0.pending", "Pending sectors", null, long.MaxValue),
        Drive("storage.0.uncorrectable", "Uncorrectable sectors", null, long.MaxValue),
        Drive("storage.0.linkErrors", "Errors on the cable", null, long.MaxValue),
        Drive("storage.0.mediaErrors", "Media errors", null, long.MaxValue),
        Drive("storage.0.warnings", "Critical warning bits", null, 255),
        Drive("storage.0.sparePercent", "Spare left", "%", 100),
        Drive("storage.0.spareFloorPercent", "Spare, least allowed", "%", 100),
        Drive("storage.0.wearPercent", "Worn", "%", 255),
        Drive("storage.0.hours", "Hours powered on", "h", 1_000_000),
        Text("cpu.model", "Processor", Rung.Kernel, "Read it on the firmware's first page.", 3),
        Text(
            "cpu.maker",
            "Processor maker",
            Rung.Kernel,
            "Look the processor's name up and add it to the catalogue.",
            5
        ) with
        {
            Derived = true,
        },
        Text(
            "cpu.generation",
            "Processor generation",
            Rung.Kernel,
            "Look the processor's name up and add it to the catalogue.",
            5
        ) with
        {
            Derived = true,
        },
        Choice(
            "cpu.kind",
            "Made for",
            Rung.Kernel,
            "Look the processor's name up: small desktops often have one for laptops.",
            3,
            ("desktop", "desktops"),
            ("mobile", "laptops and small desktops")
        ) with
        {
            Detail = true,
        },
        Choice("cpu.arch", "Architecture", Rung.Kernel, RunProbe, 4, ("x86", "x86"), ("arm", "ARM")),
        Whole("cpu.wordBits", "Word size", Rung.Kernel, null, 32, 64, RunProbe, 4) with
        {
            Ordered = true,
        },
        new FactDefinition(
            "cpu.flags",
            "Instruction sets",
            FactForm.Words,
            null,
            null,
            null,
            [],
            Rung.Kernel,
            RunProbe,
            4,
            false,
            false,
            false
        ),
        Choice(
            "cpu.level",
            "Instruction level",
            Rung.Kernel,
            RunProbe,
            4,
            ("none", "below x86-64-v1"),
            ("x86-64-v1", "x86-64-v1"),
            ("x86-64-v2", "x86-64-v2"),
            ("x86-64-v3", "x86-64-v3"),
            ("x86-64-v4", "x86-64-v4")
        ) with
        {
            Derived = true,
            Ordered = true,
        },
        Whole("cpu.cores", "Cores", Rung.Kernel, null, 1, 4096, RunProbe, 4),
        Whole("cpu.threads", "Threads", Rung.Kernel, null, 1, 8192, RunProbe, 4),
        Whole(
            "memory.installedMiB",
            "Memory fitted",
            Rung.Kernel,
            "MiB",
            1,
            64 * MiBInTiB,
            "Open the memory door and read the labels of the modules, or run the probe as root.",
            5
        ),
        Choice(
            "memory.seen",
            "Memory seen of what is fitted",
            Rung.Kernel,
            RunProbe,
            4,
            ("all", "all of it"),
            ("part", "a part of it")
        ) with
        {
            Derived = true,
        },
        Whole("memory.visibleMiB", "Memory the system sees", Rung.Kernel, "MiB", 1, 64 * MiBInTiB, RunProbe, 4) with
        {
            AtMost = "memory.installedMiB",
            Detail = true,
        },
        Whole("memory.maxMiB", "Most memory the board takes", Rung.Kernel, "MiB", 1, 64 * MiBInTiB, RunProbeAsRoot, 4),
        Whole("memory.slots", "Memory slots", Rung.Kernel, null, 0, 256, "Open the memory door and count.", 5),
        Whole("memory.slotsUsed", "Slots in use", Rung.Kernel, null, 0, 256, "Open the memory door and count.", 5),
        Text("memory.type", "Memory type", Rung.Kernel, "Read the label of a module, such as DDR4 SO-DIMM.", 5),
        Count("cpu.cacheKiB", "Processor cache", Rung.Kernel, "KiB", 1 << 24),
        Count("memory.group", "Modules fitted together", Rung.Kernel, null, 8) with
        {
            Derived = true,
        },
        Text("graphics.0.model", "Graphics", Rung.Devices, RunProbe, 4) with
        {
            Indexed = true,
        },
        Whole(
            "graphics.0.class",
            "Graphics class",
            Rung.Devices,
            null,
            0,
            3,
            "Add the graphics chip to the catalogue.",
            5
        ) with
        {
            Derived = true,
            Indexed = true,
        },
        Text("network.0.model", "Network", Rung.Devices, RunProbe, 4) with
        {
            Indexed = true,
        },
        Choice(
            "network.0.kind",
            "Network kind",
            Rung.Devices,
            RunProbe,
            4,
            ("wired", "wired"),
            ("wireless", "wireless")
        ) with
        {
            Indexed = true,
        },
        Detail("audio.0.model", "Sound", Rung.Devices),
        Detail("camera.0.model", "Camera", Rung.Devices),
        new FactDefinition(
            "network.addresses",
            "Network addresses",
            FactForm.Words,
            null,
            null,
            null,
            [],
            Rung.Devices,
            RunProbe,
            4,
            false,
            false,
            false
        ) with
        {
            Detail = true,
        },
        Detail("bluetooth.0.model", "Bluetooth", Rung.Devices),
        Detail("touch.0.model", "Touch", Rung.Devices),
        Count("display.0.widthPixels", "Screen width", Rung.Devices, "px", 16_384) with
        {
            Indexed = true,
        },
        Count("display.0.heightPixels", "Screen height", Rung.Devices, "px", 16_384) with
        {
            Indexed = true,
        },
        Count("display.0.widthMm", "Screen width", Rung.Devices, "mm", 10_000) with
        {
            Indexed = true,
        },
        Count("display.0.heightMm", "Screen height", Rung.Devices, "mm", 10_000) with
        {
            Indexed = true,
        },
        Count("display.0.year", "Screen made in", Rung.Devices, null, 2245) with
        {
            Indexed = true,
        },
        Text("os.name", "System on it", Rung.Upkeep, "Start it and open its page about the system.", 4),
        Text("os.edition", "Its edition", Rung.Upkeep, "Start it and open its page about the system.", 4),
        Text("os.language", "Its language", Rung.Upkeep, "Start it and look at its language page.", 4),
        Text(
            "plan.edition",
            "Edition with a licence",
            Rung.Setup,
            "Look at the licence label, or at the page about the system that was on it: a licence holds for one edition.",
            4
        ) with
        {
            Detail = true,
        },
        .. Choices.Definitions,
        Whole(
            "os.freeBytes",
            "Free space beside it",
            Rung.Disk,
            "B",
            0,
            1L << 50,
            "Start it and open its page about drives.",
            4
        ) with
        {
            Detail = true,
        },
        Room("os.oldSystemBytes", "Previous system, kept beside it", "clean-up page"),
        Room("os.updateFilesBytes", "Files of past updates", "clean-up page"),
        Room("os.temporaryBytes", "Temporary files", "clean-up page"),
        Room("os.binBytes", "In the bin", "clean-up page"),
        Room("os.sleepFileBytes", "File for sleep to disk", "clean-up page"),
        Room("os.downloadsBytes", "Downloaded installers and discs", "download folder"),
        Choice(
            "os.works",
            "The system on it works",
            Rung.Upkeep,
            "Start it, open two programs and restart it.",
            6,
            ("yes", "works"),
            ("no", "does not work")
        ) with
        {
            Detail = true,
        },
    ];

    private static readonly Dictionary<string, (FactDefinition Definition, int Position)> ByKey = All.Select(
            (definition, position) => (definition, position)
        )
        .ToDictionary(d => d.definition.Key, StringComparer.Ordinal);

    /// <summary>The definition of <paramref name="key"/>, or null when there is no such key.</summary>
    public static FactDefinition? Find(string key) =>
        ByKey.TryGetValue(key, out var found) ? found.Definition
        : ByKey.TryGetValue(Canonical(key), out found) && found.Definition.Indexed ? found.Definition
        : null;

    /// <summary>The definition of <paramref name="key"/>.</summary>
    /// <exception cref="RefusedException">There is no such key.</exception>
    public static FactDefinition Get(string key) =>
        Find(key)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no fact key “{key}”.",
            key,
            Nearest(key) is { } near ? $"Did you mean {near}?" : "A key of the list of facts."
        );

    /// <summary>Where <paramref name="key"/> stands in the order of <see cref="All"/>; unknown keys come last.</summary>
    public static int Position(string key) =>
        ByKey.TryGetValue(Canonical(key), out var found) ? found.Position : int.MaxValue;

    /// <summary>The label of a key, with a number for the second and later ones: "Network 2".</summary>
    public static string Label(string key) =>
        Find(key) is not { } definition ? key
        : Index(key) is { } index and > 0 ? $"{definition.Label} {index + 1}"
        : definition.Label;

    /// <summary><c>storage.1.bus</c> is an instance of the key <c>storage.0.bus</c>.</summary>
    private static string Canonical(string key)
    {
        var dot = key.IndexOf('.', StringComparison.Ordinal);
        return dot >= 0 && dot + 3 < key.Length && char.IsAsciiDigit(key[dot + 1]) && key[dot + 2] == '.'
            ? $"{key.AsSpan(0, dot)}.0.{key.AsSpan(dot + 3)}"
            : key;
    }

    private static int? Index(string key) =>
        key.Split('.') is [_, [>= '0' and <= '9'], _] parts ? parts[1][0] - '0' : null;

    private static string? Nearest(string key)
    {
        var last = key.Split('.')[^1];
        return All.FirstOrDefault(d => d.Key.EndsWith("." + last, StringComparison.OrdinalIgnoreCase))?.Key
            ?? All.FirstOrDefault(d =>
                d.Key.StartsWith(key.Split('.')[0] + ".", StringComparison.OrdinalIgnoreCase)
            )?.Key;
    }

    private static FactDefinition Text(string key, string label, Rung rung, string how, int minutes) =>
        new(key, label, FactForm.Text, null, null, null, [], rung, how, minutes, false, false, false);

    private static FactDefinition Whole(
        string key,
        string label,
        Rung rung,
        string? unit,
        long min,
        long max,
        string how,
        int minutes
    ) => new(key, label, FactForm.Whole, unit, min, max, [], rung, how, minutes, false, false, true);

    /// <summary>Bytes that can be had back on the drive of the system that is there.</summary>
    private static FactDefinition Room(string key, string label, string page) =>
        Whole(key, label, Rung.Disk, "B", 0, 1L << 50, $"Start it and open its {page}.", 3) with
        {
            Detail = true,
        };

    /// <summary>A number of the finished machine that a person measures.</summary>
    private static FactDefinition Finished(string key, string label, string unit, long max, string how) =>
        Whole(key, label, Rung.Use, unit, 1, max, how, 6) with
        {
            Detail = true,
        };

    /// <summary>A number from 0 up that only a probe reads.</summary>
    private static FactDefinition Count(string key, string label, Rung rung, string? unit, long max) =>
        Whole(key, label, rung, unit, 0, max, RunProbeAsRoot, 4) with
        {
            Detail = true,
        };

    /// <summary>A number of a drive's health report.</summary>
    private static FactDefinition Drive(string key, string label, string? unit, long max) =>
        Count(key, label, Rung.Parts, unit, max) with
        {
            Indexed = true,
        };

    /// <summary>A text of which there may be several, that only a probe reads.</summary>
    private static FactDefinition Detail(string key, string label, Rung rung) =>
        Text(key, label, rung, RunProbeAsRoot, 4) with
        {
            Indexed = true,
            Detail = true,
        };

    private static FactDefinition YesNo(string key, string label, Rung rung, string how, int minutes = 2) =>
        Choice(key, label, rung, how, minutes, ("no", "no"), ("yes", "yes")) with
        {
            Detail = true,
        };

    private static FactDefinition Choice(
        string key,
        string label,
        Rung rung,
        string how,
        int minutes,
        params (string Value, string Meaning)[] choices
    ) =>
        new(
            key,
            label,
            FactForm.Choice,
            null,
            null,
            null,
            [.. choices.Select(c => new FactChoice(c.Value, c.Meaning))],
            rung,
            how,
            minutes,
            false,
            false,
            false
        );
}
