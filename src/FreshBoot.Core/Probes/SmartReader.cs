using System.Globalization;
using System.Text.Json;

namespace FreshBoot.Core.Probes;

/// <summary>
/// A drive's own health report as <c>smartctl -j -a</c> prints it, ATA and NVMe. ATA attributes by their numbers, as drive
/// makers use them in common (the table is vendor-specific by ATA/ATAPI Command Set, ACS-3, section 7.56); NVMe values by
/// the SMART / Health Information log of the NVM Express Base Specification 1.4, section 5.14.1.2.
/// </summary>
internal static class SmartReader
{
    private const string Name = "smartctl";

    public static bool Recognises(byte[] bytes) =>
        Sources.Text(bytes[..Math.Min(bytes.Length, 400)]).Contains("\"smartctl\"", StringComparison.Ordinal);

    /// <summary>Reads <c>smart-NAME.json</c>; the drive is found by its serial number, or by the kernel's name.</summary>
    public static void Read(string member, byte[] bytes, Report report)
    {
        using var json = Sources.Json(bytes);
        var root = json.RootElement;
        if (root.ValueKind != JsonValueKind.Object || !root.TryGetProperty("smartctl", out _))
            throw new UnreadableSourceException(
                "It is no report of smartctl in JSON.",
                "/smartctl (run smartctl -j -a)"
            );
        if (Child(root, "smart_status") is null && Child(root, "nvme_smart_health_information_log") is null)
            throw new UnreadableSourceException(
                "The drive gave no health report.",
                "/smart_status (run as root; a USB adapter may hide it)"
            );
        if (Place(root, member, report) is not { } i)
        {
            report.Warn($"{member}: a drive that is no storage of this machine; left out.");
            return;
        }

        report.Add($"storage.{i}.model", Name, Sources.Text(root, "model_name"));
        report.Add($"storage.{i}.serial", Name, Sources.Text(root, "serial_number"));
        if (Child(root, "user_capacity") is { } capacity && Sources.Number(capacity, "bytes") is { } size)
            report.Add($"storage.{i}.sizeBytes", Name, size);
        if (Child(root, "smart_status") is { } status && status.TryGetProperty("passed", out var passed))
            report.Add(
                $"storage.{i}.ownVerdict",
                Name,
                passed.ValueKind switch
                {
                    JsonValueKind.True => "passed",
                    JsonValueKind.False => "failed",
                    _ => null,
                }
            );
        Add("hours", Child(root, "power_on_time") is { } time ? Sources.Number(time, "hours") : null);
        if (Child(root, "ata_smart_attributes") is { } ata)
            ReadAta(ata, Add);
        if (Child(root, "nvme_smart_health_information_log") is { } nvme)
        {
            Add("warnings", Sources.Number(nvme, "critical_warning"));
            Add("sparePercent", Sources.Number(nvme, "available_spare"));
            Add("spareFloorPercent", Sources.Number(nvme, "available_spare_threshold"));
            Add("wearPercent", Sources.Number(nvme, "percentage_used"));
            Add("mediaErrors", Sources.Number(nvme, "media_errors"));
        }
        if (SelfTest(root) is { } test)
            report.Add($"storage.{i}.selfTest", Name, test ? "passed" : "failed");

        void Add(string what, long? value)
        {
            if (value is { } number)
                report.Add($"storage.{i}.{what}", Name, number);
        }
    }

    private static int? Place(JsonElement root, string member, Report report)
    {
        var serial = Sources.Text(root, "serial_number")?.Trim();
        var device = Child(root, "device") is { } d ? Sources.Text(d, "name") : null;
        var name = member.StartsWith("smart-", StringComparison.Ordinal) ? member[6..^5] : device?.Split('/')[^1] ?? "";
        var bySerial = report.Drives.FindIndex(x => serial?.Length > 0 && x.Serial?.Trim() == serial);
        // lsblk names the namespace of an NVMe drive, smartctl its controller: nvme0n1 and nvme0.
        var byName = report.Drives.FindIndex(x =>
            x.Name == name || x.Name.StartsWith($"{name}n", StringComparison.Ordinal)
        );
        return bySerial >= 0 ? bySerial
            : byName >= 0 ? byName
            // A report alone, with no list of drives beside it, is taken for the first.
            : report.Drives.Count == 0 ? 0
            : null;
    }

    private static void ReadAta(JsonElement attributes, Action<string, long?> add)
    {
        if (!attributes.TryGetProperty("table", out var table) || table.ValueKind != JsonValueKind.Array)
            return;
        foreach (var row in table.EnumerateArray().Where(r => r.ValueKind == JsonValueKind.Object))
        {
            var raw = Child(row, "raw") is { } r ? Sources.Number(r, "value") : null;
            var normal = Sources.Number(row, "value");
            switch (Sources.Number(row, "id"))
            {
                case 5:
                    add("reallocated", raw);
                    break;
                case 197:
                    add("pending", raw);
                    break;
                case 198:
                    add("uncorrectable", raw);
                    break;
                case 199:
                    add("linkErrors", raw);
                    break;
                // Life left in percent as the normalised value, by the most common numbers of SSD makers.
                case 177 or 202 or 231 or 233 when normal is >= 0 and <= 100:
                    add("wearPercent", 100 - normal);
                    break;
            }
        }
    }

    /// <summary>Whether the last self-test passed; null where none was made or it was broken off.</summary>
    private static bool? SelfTest(JsonElement root)
    {
        if (
            Child(root, "ata_smart_self_test_log") is { } log
            && Child(log, "standard") is { } standard
            && standard.TryGetProperty("table", out var table)
            && table.ValueKind == JsonValueKind.Array
            && table.GetArrayLength() > 0
            && Child(table[0], "status") is { } status
            && Sources.Number(status, "value") is { } value
        )
            // ACS-3, section 7.56.6.8: the upper four bits; 0 without error, 1 and 2 broken off, 3 to 8 failed, 15 running.
            return (value >> 4) switch
            {
                0 => true,
                >= 3 and <= 8 => false,
                _ => null,
            };
        if (
            Child(root, "nvme_self_test_log") is { } nvme
            && nvme.TryGetProperty("table", out var tests)
            && tests.ValueKind == JsonValueKind.Array
            && tests.GetArrayLength() > 0
            && Child(tests[0], "self_test_result") is { } result
            && Sources.Number(result, "value") is { } outcome
        )
            // NVMe Base Specification 1.4, figure 199: 0 without error, 5 to 7 failed.
            return outcome switch
            {
                0 => true,
                >= 5 and <= 7 => false,
                _ => null,
            };
        return null;
    }

    private static JsonElement? Child(JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object
        && element.TryGetProperty(name, out var child)
        && child.ValueKind == JsonValueKind.Object
            ? child
            : null;
}

/// <summary>What disc drives can do, from <c>/proc/sys/dev/cdrom/info</c>: lines of a question and an answer for each drive.</summary>
internal static class OpticalReader
{
    private const string Name = "cdrom";

    public static bool Recognises(string text) => text.StartsWith("CD-ROM information", StringComparison.Ordinal);

    public static void Read(string text, Report report)
    {
        var answers = new Dictionary<string, bool>(StringComparer.Ordinal);
        var drives = 0;
        foreach (var line in text.Split('\n'))
        {
            if (line.IndexOf(':', StringComparison.Ordinal) is not (var colon and > 0))
                continue;
            var (question, rest) = (line[..colon].Trim(), line[(colon + 1)..]);
            var words = rest.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            if (question == "drive name")
                drives = words.Length;
            else
                answers.TryAdd(question, words.Contains("1", StringComparer.Ordinal));
        }
        if (!answers.ContainsKey("Can read DVD") && drives > 0)
            throw new UnreadableSourceException("It does not say what the drive reads.", "line “Can read DVD:”");
        report.Add(
            "optical.reads",
            Name,
            drives == 0 ? "none"
                : answers["Can read DVD"] ? "dvd"
                : "cd"
        );
        report.Add(
            "optical.writes",
            Name,
            answers.GetValueOrDefault("Can write DVD-R") ? "dvd"
                : answers.GetValueOrDefault("Can write CD-R") ? "cd"
                : "none"
        );
        if (drives > 1)
            report.Warn($"{Name}: {drives.ToString(CultureInfo.InvariantCulture)} disc drives; taken together.");
    }
}
