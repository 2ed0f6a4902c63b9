using System.Text.Json.Serialization;

namespace FreshBoot.Workshop.Simulated;

/// <summary>A memory slot of a simulated machine; size 0 is an empty slot.</summary>
/// <param name="SizeMiB">Size in MiB.</param>
public sealed record SimulatedSlot(int SizeMiB);

/// <summary>What a drive says of its own health; numbers as its report has them.</summary>
/// <param name="Hours">Hours powered on.</param>
/// <param name="Reallocated">Reallocated sectors (ATA).</param>
/// <param name="Pending">Pending sectors (ATA).</param>
/// <param name="Uncorrectable">Uncorrectable sectors (ATA).</param>
/// <param name="WearPercent">How worn it is; of spinning disks nothing.</param>
/// <param name="SparePercent">Spare left (NVMe).</param>
/// <param name="MediaErrors">Media errors (NVMe).</param>
/// <param name="SelfTest"><c>passed</c>, <c>failed</c> or empty for none.</param>
/// <param name="Passed">The drive's own verdict.</param>
public sealed record SimulatedHealth(
    int Hours = 6000,
    int Reallocated = 0,
    int Pending = 0,
    int Uncorrectable = 0,
    int WearPercent = 4,
    int SparePercent = 100,
    int MediaErrors = 0,
    string SelfTest = "",
    bool Passed = true
);

/// <summary>A built-in screen as its EDID tells it.</summary>
/// <param name="Width">Width in pixels.</param>
/// <param name="Height">Height in pixels.</param>
/// <param name="WidthMm">Width in millimetres.</param>
/// <param name="HeightMm">Height in millimetres.</param>
/// <param name="Year">Year it was made.</param>
public sealed record SimulatedScreen(int Width, int Height, int WidthMm, int HeightMm, int Year);

/// <summary>A battery as its power supply tells it.</summary>
/// <param name="DesignMWh">Energy as built, in mWh.</param>
/// <param name="FullMWh">Energy of a full charge, in mWh.</param>
/// <param name="Cycles">Charge cycles; 0 where it does not count.</param>
public sealed record SimulatedBattery(int DesignMWh, int FullMWh, int Cycles = 0);

/// <summary>A slot on the board.</summary>
/// <param name="Type">Type code of DSP0134, section 7.10.1.</param>
/// <param name="Name">The print beside it.</param>
/// <param name="Used">Whether something sits in it.</param>
public sealed record SimulatedSocket(byte Type, string Name, bool Used);

/// <summary>A drive of a simulated machine.</summary>
/// <param name="SizeBytes">Size in bytes.</param>
/// <param name="Bus">Transport as lsblk names it: sata, nvme, ata; empty for eMMC.</param>
/// <param name="Spins">Whether it is a spinning disk.</param>
/// <param name="Model">Its model.</param>
/// <param name="Health">Its health report; null where it gives none.</param>
/// <param name="Card">Whether it is an SD card; with an empty bus, eMMC otherwise.</param>
public sealed record SimulatedDrive(
    long SizeBytes,
    string Bus,
    bool Spins,
    string Model,
    SimulatedHealth? Health = null,
    bool Card = false
);

/// <summary>A PCI device of a simulated machine.</summary>
/// <param name="Class">Class number in hexadecimal, such as <c>0200</c>.</param>
/// <param name="Vendor">Its maker.</param>
/// <param name="Name">Its name.</param>
public sealed record SimulatedDevice(string Class, string Vendor, string Name);

/// <summary>What a person knows and says of a machine: a fact key, its value and where it was read.</summary>
/// <param name="Key">The fact key.</param>
/// <param name="Value">The value.</param>
/// <param name="Source">Where it was read.</param>
/// <param name="By">Who says so.</param>
public sealed record SimulatedWord(string Key, string Value, string Source, string By);

/// <summary>A run that has been begun on a simulated machine.</summary>
/// <param name="System">Id of the system.</param>
/// <param name="School">School of the route.</param>
/// <param name="By">Who does it.</param>
/// <param name="Until">Id of the step that it stands at; a wait has begun. Null for a run that is finished.</param>
public sealed record SimulatedRun(string System, string School, string By, string? Until);

/// <summary>
/// A machine that stands in for a real one: <see cref="SimulatedProbe"/> makes the bundle that the probe would bring home
/// from it, in the real formats. The demo fleet is a list of these.
/// </summary>
public sealed record SimulatedMachine
{
    /// <summary>Its asset tag.</summary>
    public required string Tag { get; init; }

    /// <summary>The bay it stands in; null on the shelf.</summary>
    public int? Bay { get; init; }

    /// <summary>The system it is to get; null leaves it to the best outcome.</summary>
    public string? Aim { get; init; }

    /// <summary>Whether it was probed at all.</summary>
    public bool Probed { get; init; } = true;

    /// <summary>Its maker.</summary>
    public string Maker { get; init; } = "";

    /// <summary>Its model.</summary>
    public string Model { get; init; } = "";

    /// <summary>Serial number of the casing.</summary>
    public string Serial { get; init; } = "";

    /// <summary>Serial number of its board, where it was changed; null for the one it was made with.</summary>
    public string? BoardSerial { get; init; }

    /// <summary>Name of its board.</summary>
    public string Board { get; init; } = "";

    /// <summary>Name of its processor as the processor reports it.</summary>
    public string Cpu { get; init; } = "";

    /// <summary>Whether it is a single-board computer with an ARM processor: no firmware table, no PCI.</summary>
    public bool Arm { get; init; }

    /// <summary>Its instruction level: none, v1, v1+ssse3, v2, v2+avx, v3, v4.</summary>
    public string Level { get; init; } = "v2";

    /// <summary>Cores; each runs one thread.</summary>
    public int Cores { get; init; } = 2;

    /// <summary>Its memory slots.</summary>
    public IReadOnlyList<SimulatedSlot> Slots { get; init; } = [];

    /// <summary>Type of its memory: DDR2, DDR3, DDR4, with DIMM or SO-DIMM.</summary>
    public string MemoryType { get; init; } = "DDR4 SO-DIMM";

    /// <summary>Most memory that the board takes, in MiB.</summary>
    public int MaxMemoryMiB { get; init; }

    /// <summary>Its drives.</summary>
    public IReadOnlyList<SimulatedDrive> Drives { get; init; } = [];

    /// <summary>Its PCI devices.</summary>
    public IReadOnlyList<SimulatedDevice> Devices { get; init; } = [];

    /// <summary>How the live system was started: bios, uefi32, uefi64.</summary>
    public string StartedBy { get; init; } = "uefi64";

    /// <summary>Whether the firmware's table names UEFI.</summary>
    public bool KnowsUefi { get; init; } = true;

    /// <summary>Secure Boot as the variable shows it: on, off, or empty for no such variable.</summary>
    public string SecureBoot { get; init; } = "off";

    /// <summary>Version of the TPM that the system sees; empty where it sees none.</summary>
    public string Tpm { get; init; } = "";

    /// <summary>Its battery; null for none.</summary>
    public SimulatedBattery? Battery { get; init; }

    /// <summary>Chassis type code of DSP0134, section 7.4.1: 3 desktop, 7 tower, 10 notebook, 13 all-in-one.</summary>
    public byte Chassis { get; init; } = 10;

    /// <summary>What its disc drive reads: <c>cd</c>, <c>dvd</c>, or empty for no such drive.</summary>
    public string Optical { get; init; } = "";

    /// <summary>USB release of its fastest port: 1, 2 or 3.</summary>
    public int Usb { get; init; } = 3;

    /// <summary>Names of USB devices that are built in, such as a camera.</summary>
    public IReadOnlyList<string> UsbDevices { get; init; } = [];

    /// <summary>Its built-in screen; null for none.</summary>
    public SimulatedScreen? Screen { get; init; }

    /// <summary>Further slots on its board.</summary>
    public IReadOnlyList<SimulatedSocket> Sockets { get; init; } = [];

    /// <summary>A run that is under way or finished; null for none.</summary>
    public SimulatedRun? Run { get; init; }

    /// <summary>What people said of it.</summary>
    public IReadOnlyList<SimulatedWord> Words { get; init; } = [];

    /// <summary>Memory fitted, in MiB.</summary>
    [JsonIgnore]
    public int InstalledMiB => Slots.Sum(s => s.SizeMiB);
}
