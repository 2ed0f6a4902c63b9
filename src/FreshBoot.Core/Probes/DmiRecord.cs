using System.Collections.Frozen;
using System.Globalization;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Probes;

/// <summary>
/// A structure of the firmware's table with its fields by name, in the names and values that <c>dmidecode</c> prints, so
/// that a binary table and a printed one are read by one set of rules.
/// </summary>
/// <param name="Type">Its type.</param>
/// <param name="Handle">Its handle.</param>
/// <param name="Length">Length of its formatted area: how much this version of the table can say.</param>
/// <param name="Fields">Value by field name; the items of a list stand on lines.</param>
public sealed record DmiRecord(byte Type, ushort Handle, int Length, IReadOnlyDictionary<string, string> Fields)
{
    private const string NotSpecified = "Not Specified";

    /// <summary>The value of a field, or null.</summary>
    public string? this[string field] => Fields.GetValueOrDefault(field);

    /// <summary>Decodes a structure of type 0, 1, 2, 3, 4, 7, 9, 16 or 17 after DSP0134 chapter 7; null for others.</summary>
    public static DmiRecord? Of(SmbiosStructure structure)
    {
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        var s = new Decoder(structure, fields);
        switch (structure.Type)
        {
            case 0:
                s.Text("Vendor", 0x04);
                s.Text("Version", 0x05);
                s.Text("Release Date", 0x08);
                // Section 7.1.2.2: extension byte 2, bit 3.
                if (structure.Byte(0x13) is { } extension)
                    fields["Characteristics"] = (extension & 0x08) != 0 ? UefiSupported : "";
                break;
            case 1:
                s.Text("Manufacturer", 0x04);
                s.Text("Product Name", 0x05);
                s.Text("Version", 0x06);
                s.Text("Serial Number", 0x07);
                s.Text("SKU Number", 0x19);
                s.Text("Family", 0x1a);
                break;
            case 2:
                s.Text("Manufacturer", 0x04);
                s.Text("Product Name", 0x05);
                s.Text("Version", 0x06);
                s.Text("Serial Number", 0x07);
                s.Text("Asset Tag", 0x08);
                break;
            case 3:
                s.Text("Manufacturer", 0x04);
                s.Named("Type", 0x05, ChassisTypes, mask: 0x7f);
                s.Text("Version", 0x06);
                s.Text("Serial Number", 0x07);
                s.Text("Asset Tag", 0x08);
                break;
            case 4:
                s.Text("Socket Designation", 0x04);
                s.Named("Type", 0x05, ProcessorTypes);
                s.Text("Manufacturer", 0x07);
                s.Text("Version", 0x10);
                s.Speed("Max Speed", 0x14);
                s.Speed("Current Speed", 0x16);
                s.Count("Core Count", 0x23, 0x2a);
                s.Count("Core Enabled", 0x24, 0x2c);
                s.Count("Thread Count", 0x25, 0x2e);
                break;
            case 7:
                s.Text("Socket Designation", 0x04);
                if (structure.Word(0x05) is { } cache)
                    fields["Configuration"] =
                        $"{((cache & 0x80) != 0 ? "Enabled" : "Disabled")}, {((cache & 0x08) != 0 ? "Socketed" : "Not Socketed")}, Level {(cache & 7) + 1}";
                s.Cache("Maximum Size", 0x07, 0x13);
                s.Cache("Installed Size", 0x09, 0x17);
                break;
            case 9:
                s.Text("Designation", 0x04);
                if (structure.Byte(0x05) is { } slot && structure.Byte(0x06) is { } width)
                    fields["Type"] =
                        SlotWidths.GetValueOrDefault(width, "") + SlotTypes.GetValueOrDefault(slot, OutOfSpec);
                s.Named("Current Usage", 0x07, SlotUses);
                break;
            case 16:
                s.Named("Use", 0x05, ArrayUses);
                if (Maximum(structure) is { } capacity)
                    fields["Maximum Capacity"] = capacity;
                if (structure.Word(0x0d) is { } devices)
                    fields["Number Of Devices"] = devices.ToString(CultureInfo.InvariantCulture);
                break;
            case 17:
                if (structure.Word(0x04) is { } array)
                    fields["Array Handle"] = $"0x{array:X4}";
                if (ModuleSize(structure) is { } size)
                    fields["Size"] = size;
                s.Named("Form Factor", 0x0e, FormFactors);
                s.Text("Locator", 0x10);
                s.Text("Bank Locator", 0x11);
                s.Named("Type", 0x12, MemoryTypes);
                s.Text("Manufacturer", 0x17);
                s.Text("Serial Number", 0x18);
                s.Text("Asset Tag", 0x19);
                s.Text("Part Number", 0x1a);
                break;
            default:
                return null;
        }
        return new DmiRecord(structure.Type, structure.Handle, structure.Data.Length, fields);
    }

    internal const string UefiSupported = "UEFI is supported";
    private const string OutOfSpec = "<OUT OF SPEC>";

    /// <summary>Sections 7.17 (07h in KiB; 8000_0000h refers to the extended field in bytes).</summary>
    private static string? Maximum(SmbiosStructure array) =>
        array.DoubleWord(0x07) switch
        {
            null => null,
            0x8000_0000 => array.QuadWord(0x0f) is { } bytes ? SizeText(bytes, 0) : null,
            { } kibibytes => SizeText(kibibytes, 1),
        };

    /// <summary>
    /// Section 7.18 (0Ch: 0 empty, FFFFh unknown, bit 15 set means KiB, else MiB; 7FFFh refers to the extended field at 1Ch
    /// in MiB).
    /// </summary>
    private static string? ModuleSize(SmbiosStructure device) =>
        device.Word(0x0c) switch
        {
            null => null,
            0 => NoModule,
            0xffff => "Unknown",
            0x7fff => device.DoubleWord(0x1c) is { } extended ? SizeText(extended & 0x7fff_ffff, 2) : null,
            { } size when (size & 0x8000) != 0 => SizeText((ulong)(size & 0x7fff), 1),
            { } size => SizeText(size, 2),
        };

    internal const string NoModule = "No Module Installed";
    private static readonly string[] Units = ["bytes", "kB", "MB", "GB", "TB", "PB", "EB", "ZB", "YB"];

    /// <summary>The largest unit that shows the number whole; its steps are of 1024.</summary>
    private static string SizeText(ulong number, int unit)
    {
        while (number >= 1024 && number % 1024 == 0 && unit < Units.Length - 1)
        {
            number /= 1024;
            unit++;
        }
        return $"{number} {Units[unit]}";
    }

    /// <summary>A size as the table prints it, in KiB; null when it names none.</summary>
    internal static long? Kibibytes(string? text) =>
        text?.Split(' ') is [var number, var unit]
        && Array.IndexOf(Units, unit) is var power and >= 0 and <= 5
        && long.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var count)
        && count <= (long.MaxValue >> 20) >> (10 * power)
            ? power == 0
                ? count / 1024
                : count << (10 * (power - 1))
            : null;

    /// <summary>Short ways to decode fields.</summary>
    private readonly struct Decoder(SmbiosStructure structure, Dictionary<string, string> fields)
    {
        public void Text(string name, int offset)
        {
            if (structure.Byte(offset) is not null)
                fields[name] = structure.Text(offset) ?? NotSpecified;
        }

        public void Named(string name, int offset, FrozenDictionary<byte, string> names, byte mask = 0xff)
        {
            if (structure.Byte(offset) is { } code)
                fields[name] = names.GetValueOrDefault((byte)(code & mask), OutOfSpec);
        }

        public void Speed(string name, int offset)
        {
            if (structure.Word(offset) is { } megahertz)
                fields[name] = megahertz == 0 ? "Unknown" : $"{megahertz} MHz";
        }

        /// <summary>A count in a byte; FFh refers to the wider field.</summary>
        public void Count(string name, int offset, int wider)
        {
            int? count = structure.Byte(offset) is 0xff ? structure.Word(wider) ?? 0xff : structure.Byte(offset);
            if (count is { } number and > 0)
                fields[name] = number.ToString(CultureInfo.InvariantCulture);
        }

        /// <summary>In KiB, or in 64 KiB where the top bit is set; from version 3.1 on in a 32-bit field too.</summary>
        public void Cache(string name, int offset, int wider)
        {
            if (structure.Word(offset) is not { } size)
                return;
            fields[name] =
                structure.DoubleWord(wider) is { } large && large != 0
                    ? SizeText((large & 0x8000_0000) != 0 ? (large & 0x7fff_ffffUL) << 6 : large, 1)
                    : SizeText((size & 0x8000) != 0 ? (ulong)(size & 0x7fff) << 6 : size, 1);
        }
    }

    private static FrozenDictionary<byte, string> Table(byte first, params string[] names) =>
        names.Select((name, i) => (name, i)).ToFrozenDictionary(n => (byte)(first + n.i), n => n.name);

    /// <summary>Section 7.4.1.</summary>
    private static readonly FrozenDictionary<byte, string> ChassisTypes = Table(
        1,
        "Other",
        "Unknown",
        "Desktop",
        "Low Profile Desktop",
        "Pizza Box",
        "Mini Tower",
        "Tower",
        "Portable",
        "Laptop",
        "Notebook",
        "Hand Held",
        "Docking Station",
        "All In One",
        "Sub Notebook",
        "Space-saving",
        "Lunch Box",
        "Main Server Chassis",
        "Expansion Chassis",
        "Sub Chassis",
        "Bus Expansion Chassis",
        "Peripheral Chassis",
        "RAID Chassis",
        "Rack Mount Chassis",
        "Sealed-case PC",
        "Multi-system",
        "CompactPCI",
        "AdvancedTCA",
        "Blade",
        "Blade Enclosing",
        "Tablet",
        "Convertible",
        "Detachable",
        "IoT Gateway",
        "Embedded PC",
        "Mini PC",
        "Stick PC"
    );

    /// <summary>Section 7.5.1.</summary>
    private static readonly FrozenDictionary<byte, string> ProcessorTypes = Table(
        1,
        "Other",
        "Unknown",
        "Central Processor",
        "Math Processor",
        "DSP Processor",
        "Video Processor"
    );

    /// <summary>Section 7.10.1; the numbers from A5h on are PCI Express.</summary>
    private static readonly FrozenDictionary<byte, string> SlotTypes = Table(
            1,
            "Other",
            "Unknown",
            "ISA",
            "MCA",
            "EISA",
            "PCI",
            "PC Card (PCMCIA)",
            "VLB",
            "Proprietary",
            "Processor Card",
            "Proprietary Memory Card",
            "I/O Riser Card",
            "NuBus",
            "PCI-66",
            "AGP",
            "AGP 2x",
            "AGP 4x",
            "PCI-X",
            "AGP 8x",
            "M.2 Socket 1-DP",
            "M.2 Socket 1-SD",
            "M.2 Socket 2",
            "M.2 Socket 3"
        )
        .Concat(
            Table(
                0xa5,
                "PCI Express",
                "PCI Express x1",
                "PCI Express x2",
                "PCI Express x4",
                "PCI Express x8",
                "PCI Express x16",
                "PCI Express 2",
                "PCI Express 2 x1",
                "PCI Express 2 x2",
                "PCI Express 2 x4",
                "PCI Express 2 x8",
                "PCI Express 2 x16",
                "PCI Express 3",
                "PCI Express 3 x1",
                "PCI Express 3 x2",
                "PCI Express 3 x4",
                "PCI Express 3 x8",
                "PCI Express 3 x16"
            )
        )
        .ToFrozenDictionary(p => p.Key, p => p.Value);

    /// <summary>Section 7.10.2.</summary>
    private static readonly FrozenDictionary<byte, string> SlotWidths = Table(
        1,
        "",
        "",
        "8-bit ",
        "16-bit ",
        "32-bit ",
        "64-bit ",
        "128-bit ",
        "x1 ",
        "x2 ",
        "x4 ",
        "x8 ",
        "x12 ",
        "x16 ",
        "x32 "
    );

    /// <summary>Section 7.10.3.</summary>
    private static readonly FrozenDictionary<byte, string> SlotUses = Table(
        1,
        "Other",
        "Unknown",
        "Available",
        "In Use",
        "Unavailable"
    );

    /// <summary>Section 7.17.2.</summary>
    private static readonly FrozenDictionary<byte, string> ArrayUses = Table(
        1,
        "Other",
        "Unknown",
        SystemMemory,
        "Video Memory",
        "Flash Memory",
        "Non-volatile RAM",
        "Cache Memory"
    );

    internal const string SystemMemory = "System Memory";

    /// <summary>Section 7.18.1.</summary>
    private static readonly FrozenDictionary<byte, string> FormFactors = Table(
        1,
        "Other",
        "Unknown",
        "SIMM",
        "SIP",
        "Chip",
        "DIP",
        "ZIP",
        "Proprietary Card",
        "DIMM",
        "TSOP",
        "Row Of Chips",
        "RIMM",
        "SODIMM",
        "SRIMM",
        "FB-DIMM",
        "Die"
    );

    /// <summary>Section 7.18.2.</summary>
    private static readonly FrozenDictionary<byte, string> MemoryTypes = Table(
        1,
        "Other",
        "Unknown",
        "DRAM",
        "EDRAM",
        "VRAM",
        "SRAM",
        "RAM",
        "ROM",
        "Flash",
        "EEPROM",
        "FEPROM",
        "EPROM",
        "CDRAM",
        "3DRAM",
        "SDRAM",
        "SGRAM",
        "RDRAM",
        "DDR",
        "DDR2",
        "DDR2 FB-DIMM",
        "Reserved",
        "Reserved",
        "Reserved",
        "DDR3",
        "FBD2",
        "DDR4",
        "LPDDR",
        "LPDDR2",
        "LPDDR3",
        "LPDDR4",
        "Logical non-volatile device",
        "HBM",
        "HBM2",
        "DDR5",
        "LPDDR5"
    );
}
