using System.Globalization;

namespace FreshBoot.Core.Probes;

/// <summary>How the running system was started, and what the firmware shows of Secure Boot and the TPM.</summary>
internal static class FirmwareReader
{
    /// <summary>Reads <c>efi.txt</c>: <c>folder yes</c> or <c>folder no</c>, and <c>word 32</c> or <c>word 64</c>.</summary>
    public static void ReadEfi(string text, Report report)
    {
        var fields = Fields(text);
        switch (fields.GetValueOrDefault("folder"))
        {
            case "yes":
                report.Add("firmware.startedBy", "efi", "uefi");
                if (fields.GetValueOrDefault("word") is "32" or "64")
                    report.Add("firmware.kind", "efi", $"uefi{fields["word"]}");
                break;
            case "no":
                // No folder says how it was started, and nothing of what the firmware could do. No ARM processor ever had a legacy BIOS:
                // a small board starts by boot code of its own.
                report.Add("firmware.startedBy", "efi", report.Word("cpu.arch") == "arm" ? "own" : "bios");
                break;
            default:
                throw new UnreadableSourceException("It does not say whether there is an EFI folder.", "line 1");
        }
        // The variables were to be read and this one does not exist: the firmware has no Secure Boot.
        if (fields.GetValueOrDefault("secureBoot") == "absent")
            report.Add("firmware.secureBoot", "efi", "absent");
    }

    /// <summary>
    /// Reads the variable <c>SecureBoot</c> as efivarfs shows it: four bytes of attributes, then one byte, 1 when it is
    /// on (UEFI Specification 2.10, section 3.3). Present and 0 means that the firmware is able.
    /// </summary>
    public static void ReadSecureBoot(byte[] bytes, Report report)
    {
        if (bytes is not [_, _, _, _, 0 or 1])
            throw new UnreadableSourceException(
                $"The variable has {bytes.Length} bytes.",
                "byte 0, where 5 are expected and the last is 0 or 1"
            );
        report.Add("firmware.secureBoot", "SecureBoot variable", bytes[4] == 1 ? "on" : "able");
    }

    /// <summary>
    /// Reads the variable <c>SetupMode</c>: 1 while no platform key is enrolled, so that Secure Boot stays greyed out until
    /// factory keys are loaded (UEFI Specification 2.10, section 32.3).
    /// </summary>
    public static void ReadSetupMode(byte[] bytes, Report report)
    {
        if (bytes is not [_, _, _, _, 0 or 1])
            throw new UnreadableSourceException(
                $"The variable has {bytes.Length} bytes.",
                "byte 0, where 5 are expected and the last is 0 or 1"
            );
        report.Add("firmware.setupMode", "SetupMode variable", bytes[4] == 1 ? "yes" : "no");
    }

    /// <summary>Reads <c>tpm.txt</c>: <c>version 2</c> or <c>version 1</c>. No file: absent, header and off stay open.</summary>
    public static void ReadTpm(string text, Report report) =>
        report.Add(
            "tpm.version",
            "tpm",
            Fields(text).GetValueOrDefault("version") switch
            {
                "2" => "2.0",
                "1" => "1.2",
                _ => throw new UnreadableSourceException("It names no version 1 or 2.", "line 1"),
            }
        );

    private static Dictionary<string, string> Fields(string text)
    {
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var line in text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
            if (line.Split(' ', 2) is [var name, var value])
                fields.TryAdd(name, value.Trim());
        return fields;
    }
}

/// <summary>The strings of <c>/sys/class/dmi/id</c> as <c>name=value</c>; readable without root, but for the serials.</summary>
internal static class DmiStringsReader
{
    private static readonly (string Field, string Key)[] Wanted =
    [
        ("sys_vendor", "identity.maker"),
        ("product_name", "identity.model"),
        ("product_serial", "identity.serial"),
        ("board_name", "identity.board"),
        ("board_serial", "identity.boardSerial"),
    ];

    public static void Read(string text, Report report)
    {
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var line in text.Split('\n'))
            if (line.IndexOf('=', StringComparison.Ordinal) is var at and > 0)
                fields.TryAdd(line[..at], line[(at + 1)..]);
        foreach (var (field, key) in Wanted)
            report.Add(key, "dmi", fields.GetValueOrDefault(field));
    }
}

/// <summary>
/// Power supplies as their <c>uevent</c> files, with blank lines between them. A battery that is seen says nothing of whether
/// it is swollen, and one that is not seen may be flat: neither is a fact about its state.
/// </summary>
internal static class PowerReader
{
    private const string Name = "power";

    public static void Read(string text, Report report)
    {
        if (text.Length > 0 && !text.Contains("POWER_SUPPLY_", StringComparison.Ordinal))
            throw new UnreadableSourceException("There is no POWER_SUPPLY_ line in it.", "line 1");
        var batteries = 0;
        foreach (var block in text.Split("\n\n", StringSplitOptions.RemoveEmptyEntries))
        {
            var fields = new Dictionary<string, string>(StringComparer.Ordinal);
            foreach (var line in block.Split('\n'))
                if (
                    line.Split('=', 2)
                    is [['P', 'O', 'W', 'E', 'R', '_', 'S', 'U', 'P', 'P', 'L', 'Y', '_', .. var name], var value]
                )
                    fields.TryAdd(name, value.Trim());
            switch (fields.GetValueOrDefault("TYPE"))
            {
                case "Mains" or "USB" when fields.GetValueOrDefault("ONLINE") == "1":
                    report.Add("parts.adapter", Name, "present");
                    break;
                // A wireless mouse has a battery too; it says so in its scope.
                case "Battery" when fields.GetValueOrDefault("SCOPE") != "Device" && batteries++ == 0:
                    ReadBattery(fields, report);
                    break;
            }
        }
        if (batteries > 1)
            report.Warn($"{Name}: {batteries} batteries; the first is taken.");
    }

    /// <summary>Energies come in microwatt-hours, or as charges in microampere-hours with the voltage in microvolts.</summary>
    private static void ReadBattery(Dictionary<string, string> fields, Report report)
    {
        var volts = Number("VOLTAGE_MIN_DESIGN");
        if ((Number("ENERGY_FULL_DESIGN") ?? Energy(Number("CHARGE_FULL_DESIGN"), volts)) is { } design)
            report.Add("battery.designMWh", Name, design / 1000);
        if ((Number("ENERGY_FULL") ?? Energy(Number("CHARGE_FULL"), volts)) is { } full)
            report.Add("battery.fullMWh", Name, full / 1000);
        // Zero is what firmware says that does not count.
        if (Number("CYCLE_COUNT") is { } cycles and > 0)
            report.Add("battery.cycles", Name, cycles);

        long? Number(string name) =>
            fields.TryGetValue(name, out var text)
            && long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            && number < 1L << 40
                ? number
                : null;
    }

    private static long? Energy(long? microampereHours, long? microvolts) =>
        microampereHours is { } charge && microvolts is { } voltage
            ? (long)((Int128)charge * voltage / 1_000_000)
            : null;
}

/// <summary>
/// The entry point beside a table that the kernel hands out bare (DSP0134, sections 5.2.1 and 5.2.2): its checksum tells
/// whether the firmware's word can be trusted.
/// </summary>
internal static class SmbiosEntryReader
{
    public static void Read(byte[] bytes, Report report)
    {
        var length = bytes switch
        {
            [(byte)'_', (byte)'S', (byte)'M', (byte)'3', (byte)'_', _, var l, ..] => l,
            [(byte)'_', (byte)'S', (byte)'M', (byte)'_', _, var l, ..] => l,
            _ => throw new UnreadableSourceException("It is no entry point of an SMBIOS table.", "offset 0"),
        };
        if (length > bytes.Length || bytes[..length].Aggregate(0, (sum, b) => sum + b) % 256 != 0)
            throw new UnreadableSourceException("The checksum of the entry point is wrong.", "offset 0");
    }
}
