using System.Globalization;

namespace FreshBoot.Core.Probes;

/// <summary>
/// Graphics, sound and network devices on PCI, from <c>lspci -vmmnnk</c> or, without names, from <c>/sys/bus/pci</c>. Classes after
/// the PCI Code and ID Assignment Specification: 03 display, 0401 and 0403 sound, 0200 Ethernet, 0280 other network, 0d80 wireless.
/// </summary>
internal static class PciReader
{
    private sealed record Device(int Class, string Name);

    /// <summary>Reads records of <c>Tag:\tvalue [id]</c> lines with blank lines between them.</summary>
    public static void ReadLspci(string text, Report report)
    {
        var devices = new List<Device>();
        foreach (var record in text.Split("\n\n", StringSplitOptions.RemoveEmptyEntries))
        {
            var fields = new Dictionary<string, string>(StringComparer.Ordinal);
            foreach (var line in record.Split('\n'))
                if (line.Split(":\t", 2) is [var tag, var value])
                    fields.TryAdd(tag, value.Trim());
            if (
                fields.TryGetValue("Class", out var kind)
                && Id(kind) is { } id
                && fields.TryGetValue("Device", out var name)
            )
                devices.Add(new Device(id, Named(WithoutId(fields.GetValueOrDefault("Vendor", "")), WithoutId(name))));
        }
        if (devices.Count == 0)
            throw new UnreadableSourceException(
                "There is no device with a class number in it.",
                "record 1 (run lspci -vmmnnk)"
            );
        Report(devices, "lspci", report);
    }

    /// <summary>Many devices bear the name of their maker already.</summary>
    private static string Named(string vendor, string name) =>
        vendor.Length == 0 || name == vendor || name.StartsWith($"{vendor} ", StringComparison.OrdinalIgnoreCase)
            ? name
            : $"{vendor} {name}".Trim();

    /// <summary>Reads <c>pci.txt</c>: per device a line of <c>slot class vendor device</c> in hexadecimal.</summary>
    public static void ReadSysfs(string text, Report report)
    {
        var devices = new List<Device>();
        foreach (var line in text.Split('\n', StringSplitOptions.RemoveEmptyEntries))
            if (
                line.Split(' ') is [_, ['0', 'x', .. { Length: 6 } kind], var vendor, var device]
                && int.TryParse(kind[..4], NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var id)
            )
                devices.Add(
                    new Device(
                        id,
                        $"PCI {vendor.Replace("0x", "", StringComparison.Ordinal)}:{device.Replace("0x", "", StringComparison.Ordinal)}"
                    )
                );
            else
                report.Warn("pci: a line is not understood; left out.");
        Report(devices, "pci", report);
    }

    private static void Report(List<Device> devices, string source, Report report)
    {
        var graphics = devices.Where(d => d.Class >> 8 == 0x03).Take(10).ToArray();
        for (var i = 0; i < graphics.Length; i++)
            report.Add($"graphics.{i}.model", source, graphics[i].Name);

        var sound = devices.Where(d => d.Class is 0x0401 or 0x0403).Take(10).ToArray();
        for (var i = 0; i < sound.Length; i++)
            report.Add($"audio.{i}.model", source, sound[i].Name);

        // Wired first: it is what an installer reaches the network by.
        var network = devices
            .Where(d => d.Class is 0x0200 or 0x0280 or 0x0d80)
            .OrderBy(d => d.Class == 0x0200 ? 0 : 1)
            .Take(10)
            .ToArray();
        for (var i = 0; i < network.Length; i++)
        {
            report.Add($"network.{i}.model", source, network[i].Name);
            report.Add($"network.{i}.kind", source, network[i].Class == 0x0200 ? "wired" : "wireless");
        }
    }

    private static int? Id(string text) =>
        text.LastIndexOf('[') is var open and >= 0
        && text.EndsWith(']')
        && int.TryParse(text[(open + 1)..^1], NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var id)
            ? id
            : null;

    private static string WithoutId(string text) =>
        text.LastIndexOf(" [", StringComparison.Ordinal) is var open and > 0 && text.EndsWith(']')
            ? text[..open]
            : text;
}
