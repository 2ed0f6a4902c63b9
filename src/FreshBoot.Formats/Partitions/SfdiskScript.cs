using System.Globalization;
using System.Text;
using System.Text.Json;

namespace FreshBoot.Formats.Partitions;

/// <summary>A partition of an sfdisk script.</summary>
/// <param name="Number">Its number in the table.</param>
/// <param name="Start">Its first sector.</param>
/// <param name="Size">Its length in sectors.</param>
/// <param name="Type">MBR: hexadecimal digits; GPT: its type GUID; lower case.</param>
/// <param name="Name">Its name in a GPT; null for none.</param>
/// <param name="Bootable">Whether it is marked to be started (MBR).</param>
public sealed record SfdiskPartition(
    int Number,
    long Start,
    long Size,
    string Type,
    string? Name = null,
    bool Bootable = false
);

/// <summary>
/// A partition table as sfdisk (util-linux) dumps it and takes it: header lines, a blank line, then a line for each partition.
/// Its JSON (<c>sfdisk -J</c>), and that of lsblk (<c>lsblk -J -b -O</c>), are read as well.
/// </summary>
/// <param name="Label"><c>gpt</c> or <c>dos</c>.</param>
/// <param name="SectorBytes">Bytes of a sector; 512 where the script does not tell.</param>
/// <param name="FirstLba">The first sector that may be used; null where it does not tell.</param>
/// <param name="LastLba">The last sector that may be used; null where it does not tell.</param>
/// <param name="Partitions">The partitions in the order of the script.</param>
public sealed record SfdiskScript(
    string Label,
    int SectorBytes,
    long? FirstLba,
    long? LastLba,
    IReadOnlyList<SfdiskPartition> Partitions
)
{
    /// <summary>The longest script that is read: a table has few lines.</summary>
    public const int LongestChars = 256 * 1024;
    private const int MostPartitions = 256;

    /// <summary>Reads a script, or the JSON of <c>sfdisk -J</c> or <c>lsblk -J -b -O</c>.</summary>
    /// <exception cref="FormatRefusedException">It is neither, or holds what no table can.</exception>
    public static SfdiskScript Read(string text)
    {
        if (text.Length > LongestChars)
            throw new FormatRefusedException(
                $"The table has {text.Length} characters.",
                "table",
                $"At most {LongestChars}."
            );
        return text.AsSpan().TrimStart().StartsWith("{") ? ReadJson(text) : ReadText(text);
    }

    /// <summary>The script that sfdisk takes. Starts and sizes stand in it, so nothing is left to its own rounding.</summary>
    public string Write()
    {
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"label: {Label}\nunit: sectors\nsector-size: {SectorBytes}\n\n");
        foreach (var p in Partitions)
        {
            text.Append(CultureInfo.InvariantCulture, $"{p.Number} : start={p.Start}, size={p.Size}, type={p.Type}");
            if (p.Name is { Length: > 0 } name)
                text.Append(CultureInfo.InvariantCulture, $", name=\"{name.Replace('"', '\'')}\"");
            if (p.Bootable)
                text.Append(", bootable");
            text.Append('\n');
        }
        return text.ToString();
    }

    private static SfdiskScript ReadText(string text)
    {
        var header = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        var partitions = new List<SfdiskPartition>();
        var number = 0;
        foreach (var raw in text.Split('\n'))
        {
            number++;
            var line = raw.Trim();
            if (line.Length == 0 || line[0] == '#')
                continue;
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            var isPartition =
                line.Contains("start=", StringComparison.Ordinal) || line.Contains("size=", StringComparison.Ordinal);
            if (!isPartition)
            {
                if (colon < 1)
                    throw Bad("is no header and no partition", number);
                header[line[..colon].Trim()] = line[(colon + 1)..].Trim();
                continue;
            }
            if (partitions.Count == MostPartitions)
                throw new FormatRefusedException(
                    $"More than {MostPartitions} partitions.",
                    $"line {number}",
                    "A table of a drive."
                );
            partitions.Add(Partition(line, colon, partitions.Count + 1, number));
        }
        if (header.GetValueOrDefault("unit", "sectors") != "sectors")
            throw new FormatRefusedException("The unit is not sectors.", "unit", "unit: sectors");
        return new SfdiskScript(
            LabelOf(header.GetValueOrDefault("label")),
            Sector(header.GetValueOrDefault("sector-size", "512")),
            Whole(header.GetValueOrDefault("first-lba")),
            Whole(header.GetValueOrDefault("last-lba")),
            partitions
        );
    }

    private static SfdiskPartition Partition(string line, int colon, int next, int at)
    {
        // "2 : start=…" and "/dev/sda2 : start=…" say their number; a line without does not.
        var equals = line.IndexOf('=', StringComparison.Ordinal);
        var named = colon >= 0 && colon < equals;
        var head = named ? line[..colon].Trim() : "";
        var digits = head.AsSpan()[(head.AsSpan().LastIndexOfAnyExceptInRange('0', '9') + 1)..];
        var number =
            int.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var read) && read > 0
                ? read
                : next;
        long? start = null;
        long? size = null;
        var (type, name, bootable) = ("", default(string), false);
        foreach (var field in Fields(named ? line[(colon + 1)..] : line))
        {
            var sign = field.IndexOf('=', StringComparison.Ordinal);
            var key = (sign < 0 ? field : field[..sign]).Trim().ToLowerInvariant();
            var value = sign < 0 ? "" : field[(sign + 1)..].Trim();
            switch (key)
            {
                case "start":
                    start = Whole(value) ?? throw Bad($"has no number for start: “{value}”", at);
                    break;
                case "size":
                    size = Whole(value) ?? throw Bad($"has no number of sectors for size: “{value}”", at);
                    break;
                case "type" or "id":
                    type = value.ToLowerInvariant();
                    break;
                case "name":
                    name = value.Trim('"');
                    break;
                case "bootable":
                    bootable = true;
                    break;
            }
        }
        return start is { } s && size is { } z
            ? new SfdiskPartition(number, s, z, type, name, bootable)
            : throw Bad("does not say both start and size", at);
    }

    /// <summary>The fields between commas; a name in quotes may hold commas.</summary>
    private static List<string> Fields(string text)
    {
        var fields = new List<string>();
        var (from, quoted) = (0, false);
        for (var i = 0; i < text.Length; i++)
            if (text[i] == '"')
                quoted = !quoted;
            else if (text[i] == ',' && !quoted)
            {
                fields.Add(text[from..i]);
                from = i + 1;
            }
        fields.Add(text[from..]);
        return fields;
    }

    private static SfdiskScript ReadJson(string text)
    {
        try
        {
            using var document = JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = 8 });
            if (document.RootElement.TryGetProperty("blockdevices", out var devices))
                return FromDevices(devices);
            if (!document.RootElement.TryGetProperty("partitiontable", out var table))
                throw new FormatRefusedException(
                    "The JSON holds no partition table.",
                    "partitiontable",
                    "What sfdisk -J prints."
                );
            var partitions = new List<SfdiskPartition>();
            if (table.TryGetProperty("partitions", out var list))
                foreach (var p in list.EnumerateArray().Take(MostPartitions))
                {
                    partitions.Add(
                        new SfdiskPartition(
                            NumberOf(p.GetProperty("node").GetString() ?? "", partitions.Count + 1),
                            p.GetProperty("start").GetInt64(),
                            p.GetProperty("size").GetInt64(),
                            (p.GetProperty("type").GetString() ?? "").ToLowerInvariant(),
                            p.TryGetProperty("name", out var name) ? name.GetString() : null,
                            p.TryGetProperty("bootable", out var bootable) && bootable.GetBoolean()
                        )
                    );
                }
            return new SfdiskScript(
                LabelOf(table.GetProperty("label").GetString()),
                table.TryGetProperty("sectorsize", out var sector) ? Sector(sector.ToString()) : 512,
                table.TryGetProperty("firstlba", out var first) ? first.GetInt64() : null,
                table.TryGetProperty("lastlba", out var last) ? last.GetInt64() : null,
                partitions
            );
        }
        catch (Exception e)
            when (e
                    is JsonException
                        or InvalidOperationException
                        or KeyNotFoundException
                        or FormatException
                        or OverflowException
            )
        {
            throw new FormatRefusedException(
                "The JSON is no partition table.",
                "partitiontable",
                "What sfdisk -J prints."
            );
        }
    }

    /// <summary>The first drive with partitions of <c>lsblk -J -b -O</c>, which counts their beginnings in sectors of 512 bytes.</summary>
    private static SfdiskScript FromDevices(JsonElement devices)
    {
        foreach (var device in devices.EnumerateArray())
        {
            if (
                !device.TryGetProperty("children", out var children)
                || !device.TryGetProperty("pttype", out var label)
                || label.ValueKind != JsonValueKind.String
            )
                continue;
            var sector = device.TryGetProperty("log-sec", out var bytes) ? Sector(bytes.ToString()) : 512;
            var partitions = new List<SfdiskPartition>();
            foreach (
                var p in children
                    .EnumerateArray()
                    .Where(c => c.GetProperty("type").GetString() == "part")
                    .Take(MostPartitions)
            )
            {
                var type = p.GetProperty("parttype").GetString() ?? "";
                partitions.Add(
                    new SfdiskPartition(
                        NumberOf(p.GetProperty("name").GetString() ?? "", partitions.Count + 1),
                        checked(p.GetProperty("start").GetInt64() * 512) / sector,
                        p.GetProperty("size").GetInt64() / sector,
                        // An MBR's type stands as a number: 0xef, 0x7.
                        type.StartsWith("0x", StringComparison.Ordinal)
                            ? type[2..].PadLeft(2, '0')
                            : type.ToLowerInvariant(),
                        p.TryGetProperty("partlabel", out var name) ? name.GetString() : null
                    )
                );
            }
            // The kernel shows a container of logical partitions as a stub: it reaches as far as what it holds.
            for (var i = 0; i < partitions.Count; i++)
                if (partitions[i] is { Type: "05" or "0f" or "85" } container)
                    partitions[i] = container with
                    {
                        Size = Math.Max(
                            container.Size,
                            partitions.Where(q => q.Number > 4).Select(q => q.Start + q.Size).DefaultIfEmpty().Max()
                                - container.Start
                        ),
                    };
            return new SfdiskScript(LabelOf(label.GetString()), sector, null, null, partitions);
        }
        throw new FormatRefusedException(
            "No drive with partitions is in it.",
            "blockdevices",
            "What lsblk -J -b -O prints of a drive with partitions."
        );
    }

    private static int NumberOf(string node, int otherwise)
    {
        var digits = node.AsSpan()[(node.AsSpan().LastIndexOfAnyExceptInRange('0', '9') + 1)..];
        return int.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number > 0
            ? number
            : otherwise;
    }

    private static string LabelOf(string? label) =>
        label is "gpt" or "dos"
            ? label
            : throw new FormatRefusedException($"The label is “{label}”.", "label", "label: gpt, or label: dos");

    private static int Sector(string text) =>
        Whole(text) is { } bytes and (512 or 1024 or 2048 or 4096)
            ? (int)bytes
            : throw new FormatRefusedException($"A sector has “{text}” bytes.", "sector-size", "512 or 4096.");

    private static long? Whole(string? text) =>
        long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static FormatRefusedException Bad(string what, int line) =>
        new($"Line {line} {what}.", $"line {line}", "1 : start=2048, size=1048576, type=83");
}
