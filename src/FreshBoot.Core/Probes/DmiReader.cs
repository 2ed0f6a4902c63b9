using System.Globalization;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Probes;

/// <summary>Facts from the firmware's table, whether binary or as <c>dmidecode</c> prints it.</summary>
internal static class DmiReader
{
    /// <summary>Reads a binary table, with or without its entry point.</summary>
    public static void ReadBinary(byte[] bytes, Report report)
    {
        var table = SmbiosTable.Read(SmbiosTable.Bare(bytes), where => report.Warn($"smbios.bin, {where}."));
        if (table.Count == 0)
            throw new UnreadableSourceException("There is no structure in it.", "offset 0");
        Report([.. table.Select(DmiRecord.Of).OfType<DmiRecord>()], "smbios", report);
    }

    /// <summary>Reads the text of <c>dmidecode</c>.</summary>
    public static void ReadText(string text, Report report)
    {
        var records = Records(text);
        if (records.Count == 0)
            throw new UnreadableSourceException(
                "There is no line “Handle 0x…, DMI type …, … bytes” in it.",
                "line 1 (run dmidecode as root)"
            );
        Report(records, "dmidecode", report);
    }

    /// <summary>The records of a printed table.</summary>
    internal static IReadOnlyList<DmiRecord> Records(string text)
    {
        var records = new List<DmiRecord>();
        Dictionary<string, string>? fields = null;
        var last = "";
        foreach (var line in text.Split('\n'))
        {
            if (
                line.StartsWith("Handle 0x", StringComparison.Ordinal)
                && line.TrimEnd().Split(' ') is ["Handle", var handle, "DMI", "type", var type, var length, "bytes"]
                && byte.TryParse(type.TrimEnd(','), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                && ushort.TryParse(
                    handle[2..].TrimEnd(','),
                    NumberStyles.HexNumber,
                    CultureInfo.InvariantCulture,
                    out var at
                )
                && int.TryParse(length, NumberStyles.None, CultureInfo.InvariantCulture, out var bytes)
            )
            {
                fields = new Dictionary<string, string>(StringComparer.Ordinal);
                records.Add(new DmiRecord(number, at, bytes, fields));
                last = "";
            }
            else if (line.StartsWith("\t\t", StringComparison.Ordinal) && last.Length > 0)
            {
                fields![last] += (fields[last].Length > 0 ? "\n" : "") + line.Trim();
            }
            else if (
                line.StartsWith('\t')
                && fields is not null
                && line.IndexOf(':', StringComparison.Ordinal) is var colon and > 1
            )
            {
                last = line[1..colon];
                fields.TryAdd(last, line[(colon + 1)..].Trim());
            }
        }
        return records;
    }

    private static void Report(IReadOnlyList<DmiRecord> table, string source, Report report)
    {
        string From(byte type) => $"{source} type {type}";

        if (table.FirstOrDefault(r => r.Type == 0) is { } firmware)
        {
            report.Add("firmware.version", From(0), firmware["Version"]);
            // DSP0134, section 7.1: mm/dd/yyyy, or mm/dd/yy for a year of the last century.
            if (
                firmware["Release Date"]?.Split('/') is [_, _, var year]
                && int.TryParse(year, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            )
                report.Add("firmware.year", From(0), (long)(number < 100 ? 1900 + number : number));
            // The byte that says so is there from length 14h on; before that the table is silent.
            if (firmware.Length > 0x13)
                report.Add(
                    "firmware.tableNamesUefi",
                    From(0),
                    firmware["Characteristics"]?.Contains(DmiRecord.UefiSupported, StringComparison.Ordinal) == true
                        ? "yes"
                        : "no"
                );
        }
        if (table.FirstOrDefault(r => r.Type == 1) is { } system)
        {
            report.Add("identity.maker", From(1), system["Manufacturer"]);
            report.Add("identity.model", From(1), system["Product Name"]);
            report.Add("identity.serial", From(1), system["Serial Number"]);
        }
        if (table.FirstOrDefault(r => r.Type == 2) is { } board)
        {
            report.Add("identity.board", From(2), board["Product Name"]);
            report.Add("identity.boardSerial", From(2), board["Serial Number"]);
        }
        if (table.FirstOrDefault(r => r.Type == 3)?["Type"] is { } chassis)
            report.Add("identity.chassis", From(3), Forms.GetValueOrDefault(chassis));
        ReadProcessor(table, From(4), From(7), report);
        ReadSlots(table, From(9), report);
        ReadMemory(table, From(16), From(17), report);
    }

    /// <summary>What the processor says of itself is the better word: this one counts only where that one is missing.</summary>
    private static void ReadProcessor(IReadOnlyList<DmiRecord> table, string source, string cacheSource, Report report)
    {
        var processors = table
            .Where(r => r.Type == 4 && r["Type"] == "Central Processor" && r["Core Count"] is not null)
            .ToArray();
        if (processors.Length > 0)
        {
            if (!report.Has("cpu.model"))
                report.Add("cpu.model", source, processors[0]["Version"]);
            if (!report.Has("cpu.cores") && processors.Sum(p => Count(p["Core Count"])) is > 0 and var cores)
                report.Add("cpu.cores", source, cores);
            if (!report.Has("cpu.threads") && processors.Sum(p => Count(p["Thread Count"])) is > 0 and var threads)
                report.Add("cpu.threads", source, threads);
        }
        // The last level says most: by its number, then by its size.
        var cache = table
            .Where(r => r.Type == 7 && r["Configuration"]?.StartsWith("Enabled", StringComparison.Ordinal) == true)
            .OrderBy(r => r["Configuration"]!.Split(' ')[^1], StringComparer.Ordinal)
            .Select(r => DmiRecord.Kibibytes(r["Installed Size"]))
            .LastOrDefault(size => size > 0);
        if (cache is { } kibibytes)
            report.Add("cpu.cacheKiB", cacheSource, kibibytes);
    }

    private static void ReadSlots(IReadOnlyList<DmiRecord> table, string source, Report report)
    {
        var slots = table.Where(r => r.Type == 9).Take(10).ToArray();
        for (var i = 0; i < slots.Length; i++)
        {
            report.Add($"slot.{i}.kind", source, $"{slots[i]["Type"]} ({slots[i]["Designation"]})");
            report.Add(
                $"slot.{i}.use",
                source,
                slots[i]["Current Usage"] switch
                {
                    "Available" => "free",
                    "In Use" => "used",
                    _ => null,
                }
            );
        }
    }

    private static void ReadMemory(
        IReadOnlyList<DmiRecord> table,
        string arraySource,
        string moduleSource,
        Report report
    )
    {
        // Section 7.17: only arrays whose use is system memory; flash and cache arrays are none.
        var arrays = table.Where(r => r.Type == 16 && r["Use"] == DmiRecord.SystemMemory).ToArray();
        if (arrays.Length == 0)
            return;
        var limits = arrays.Select(a => DmiRecord.Kibibytes(a["Maximum Capacity"])).ToArray();
        if (limits.All(l => l is not null))
            report.Add("memory.maxMiB", arraySource, limits.Sum()!.Value / 1024);

        var handles = arrays.Select(a => $"0x{a.Handle:X4}").ToHashSet(StringComparer.Ordinal);
        var sockets = table.Where(r => r.Type == 17 && handles.Contains(r["Array Handle"] ?? "")).ToArray();
        if (sockets.Length == 0)
            return;
        var sizes = sockets.Select(s => s["Size"] == DmiRecord.NoModule ? 0 : DmiRecord.Kibibytes(s["Size"])).ToArray();
        report.Add("memory.slots", moduleSource, sockets.Length);
        ReadModules(sockets, sizes, moduleSource, report);
        if (sizes.Any(s => s is null))
        {
            report.Warn($"{moduleSource}: the size of a module is unknown to the firmware; the sum is left out.");
            return;
        }
        report.Add("memory.slotsUsed", moduleSource, sizes.Count(s => s > 0));
        report.Add("memory.installedMiB", moduleSource, sizes.Sum(s => s!.Value) / 1024);
        var types = sockets.Where((_, i) => sizes[i] > 0).Select(TypeOf).Distinct().ToArray();
        if (types is [{ } only])
            report.Add("memory.type", moduleSource, only);
        else if (types.Length > 1)
            report.Warn($"{moduleSource}: modules of different types; no memory type is taken.");
    }

    private static void ReadModules(DmiRecord[] sockets, long?[] sizes, string source, Report report)
    {
        var index = 0;
        for (var i = 0; i < sockets.Length && index < 10; i++)
        {
            if (sizes[i] is not > 0)
                continue;
            report.Add($"module.{index}.slot", source, sockets[i]["Locator"]);
            report.Add($"module.{index}.sizeMiB", source, sizes[i]!.Value / 1024);
            report.Add($"module.{index}.type", source, TypeOf(sockets[i]));
            var maker = Probes.Report.Printed(sockets[i]["Manufacturer"]);
            var part = Probes.Report.Printed(sockets[i]["Part Number"]);
            report.Add($"module.{index}.model", source, $"{maker} {part}".Trim());
            index++;
        }
    }

    private static string? TypeOf(DmiRecord module)
    {
        var form = module["Form Factor"] switch
        {
            "DIMM" => "DIMM",
            "SODIMM" => "SO-DIMM",
            "Row Of Chips" => "soldered",
            _ => null,
        };
        return form is null || module["Type"] is null or "Other" or "Unknown" ? null : $"{module["Type"]} {form}";
    }

    private static int Count(string? text) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0;

    /// <summary>Chassis types of section 7.4.1 in the words of the trade.</summary>
    private static readonly Dictionary<string, string> Forms = new(StringComparer.Ordinal)
    {
        ["Portable"] = "laptop",
        ["Laptop"] = "laptop",
        ["Notebook"] = "laptop",
        ["Sub Notebook"] = "laptop",
        ["Convertible"] = "convertible",
        ["Detachable"] = "convertible",
        ["Tablet"] = "tablet",
        ["Desktop"] = "desktop",
        ["Low Profile Desktop"] = "desktop",
        ["Pizza Box"] = "desktop",
        ["Mini Tower"] = "tower",
        ["Tower"] = "tower",
        ["Space-saving"] = "mini",
        ["Mini PC"] = "mini",
        ["Stick PC"] = "mini",
        ["All In One"] = "all-in-one",
        ["Main Server Chassis"] = "server",
        ["Rack Mount Chassis"] = "server",
        ["Embedded PC"] = "board",
    };
}
