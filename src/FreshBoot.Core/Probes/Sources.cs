using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Formats;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Probes;

/// <summary>Thrown by a reader that can make nothing of its source: what is wrong, and where in it.</summary>
public sealed class UnreadableSourceException(string what, string where) : Exception(what)
{
    /// <summary>The place in the source.</summary>
    public string Where { get; } = where;
}

/// <summary>What the readers of one bundle or file say: facts and warnings, in order.</summary>
public sealed class Report(DateTimeOffset takenAt)
{
    private const int LongestText = 200;
    private const int LongestWarning = 300;
    private const int MostWarnings = 100;
    private int _unsaid;
    private readonly List<Reading> _readings = [];
    private readonly List<string> _warnings = [];

    /// <summary>Facts so far; a later one of the same key is the stronger source.</summary>
    public IReadOnlyList<Reading> Readings => _readings;

    /// <summary>Warnings so far.</summary>
    public IReadOnlyList<string> Warnings =>
        _unsaid == 0 ? _warnings : [.. _warnings, $"{_unsaid} more warnings of the same file are left out."];

    /// <summary>The drives that came so far, in the order of their facts: what the kernel calls them, and their serials.</summary>
    internal List<(string Name, string? Serial)> Drives { get; } = [];

    /// <summary>Cards and soldered chips by the kernel's name, where the probe could tell which.</summary>
    internal Dictionary<string, string> Cards { get; } = new(StringComparer.Ordinal);

    /// <summary>Drives on ATA ports by the kernel's name, where the driver or the link says whether they are parallel or serial.</summary>
    internal Dictionary<string, string> Ata { get; } = new(StringComparer.Ordinal);

    /// <summary>Whether a fact has been reported already.</summary>
    internal bool Has(string key) => _readings.Exists(r => r.Key == key);

    /// <summary>The value reported last under a key, as text; null when there is none.</summary>
    internal string? Word(string key) => _readings.FindLast(r => r.Key == key)?.Value.ToString();

    /// <summary>Reports a fact; a number out of the range of its key is a warning instead.</summary>
    public void Add(string key, string source, long value)
    {
        var definition = FactRegistry.Get(key);
        if (value >= definition.Min && value <= definition.Max)
            _readings.Add(new Reading(key, FactValue.Of(value), source, Origin.Probed, takenAt));
        else
            Warn($"{source}: {key} of {value} is out of range; left out.");
    }

    /// <summary>Reports a text or a choice; null, blank and makers' filler texts are no fact.</summary>
    public void Add(string key, string source, string? value)
    {
        var text = Clean(value);
        if (text.Length == 0)
            return;
        var definition = FactRegistry.Get(key);
        // Of a choice "none" is an answer.
        if (definition.Form != FactForm.Choice && Filler.Contains(text))
        {
            Warn($"{source}: {key} holds the filler “{text}”; left out.");
            return;
        }
        if (definition.Form == FactForm.Choice && definition.Choices.All(c => c.Value != text))
            throw new ArgumentException($"{text} is no value of {key}", nameof(value));
        _readings.Add(new Reading(key, FactValue.Of(text), source, Origin.Probed, takenAt));
    }

    /// <summary>Reports a set of words.</summary>
    public void Add(string key, string source, IReadOnlyCollection<string> words)
    {
        if (words.Count > 0)
            _readings.Add(new Reading(key, FactValue.Of(words), source, Origin.Probed, takenAt));
    }

    /// <summary>Notes something that was left out, and why.</summary>
    public void Warn(string text)
    {
        // A file may come from anywhere: what it makes us say is bounded.
        if (_warnings.Count == MostWarnings)
            _unsaid++;
        else
            _warnings.Add(text.Length > LongestWarning ? text[..LongestWarning] + "…" : text);
    }

    /// <summary>Texts that firmware makers leave in fields that the machine's maker should have filled.</summary>
    private static readonly HashSet<string> Filler = new(StringComparer.OrdinalIgnoreCase)
    {
        "To Be Filled By O.E.M.",
        "To be filled by OEM",
        "Default string",
        "Not Specified",
        "Not Applicable",
        "Not Available",
        "System Manufacturer",
        "System Product Name",
        "System Serial Number",
        "Base Board Product Name",
        "Base Board Serial Number",
        "Board Serial Number",
        "None",
        "Unknown",
        "N/A",
        "0",
        "00000000",
        "0123456789",
        "123456789",
        "xxxxxxxx",
    };

    /// <summary>A text on one line without control characters; empty for what makers leave in unfilled fields.</summary>
    internal static string Printed(string? text) => Clean(text) is var clean && Filler.Contains(clean) ? "" : clean;

    private static string Clean(string? text)
    {
        if (text is null)
            return "";
        var clean = new StringBuilder(Math.Min(text.Length, LongestText));
        foreach (var c in text)
        {
            if (clean.Length >= LongestText)
                break;
            if (!char.IsControl(c) && c != '�' && !(char.IsWhiteSpace(c) && (clean.Length == 0 || clean[^1] == ' ')))
                clean.Append(char.IsWhiteSpace(c) ? ' ' : c);
        }
        return clean.ToString().TrimEnd();
    }
}

/// <summary>A source that is known here.</summary>
/// <param name="File">
/// Its member name in a bundle; a <c>*</c> stands for a name of letters, digits and hyphens, where there may be several.
/// </param>
/// <param name="Recognises">Whether a file by another name is one of these, judged by its content.</param>
/// <param name="Read">From its member name and bytes to facts; a pure function.</param>
/// <param name="StandsInFor">A better source; this one is only read where that one gave nothing.</param>
public sealed record Source(
    string File,
    Func<byte[], bool> Recognises,
    Action<string, byte[], Report> Read,
    string? StandsInFor = null
)
{
    /// <summary>Whether a member of this name is one of these.</summary>
    public bool Names(string member) =>
        File == member
        || (
            File.Split('*') is [var start, var end]
            && member.Length > start.Length + end.Length
            && member.StartsWith(start, StringComparison.Ordinal)
            && member.EndsWith(end, StringComparison.Ordinal)
            && member[start.Length..^end.Length].All(c => char.IsAsciiLetterOrDigit(c) || c == '-')
        );
}

/// <summary>All sources, the weaker of two before the stronger.</summary>
public static partial class Sources
{
    /// <summary>In the order in which they are read.</summary>
    public static IReadOnlyList<Source> All { get; } =
    [
        Bytes("lshw.json", LshwReader.Recognises, LshwReader.Read),
        Plain("cpuinfo.txt", CpuInfoReader.Recognises, CpuInfoReader.Read),
        Bytes("lscpu.json", b => HasRoot(b, "lscpu"), LscpuReader.Read),
        Plain("meminfo.txt", t => t.StartsWith("MemTotal:", StringComparison.Ordinal), MeminfoReader.Read),
        Plain("mmc.txt", _ => false, StorageReader.ReadCards),
        Plain("ata.txt", _ => false, StorageReader.ReadAta),
        Bytes("lsblk.json", b => HasRoot(b, "blockdevices"), StorageReader.ReadLsblk),
        Plain("block.txt", _ => false, StorageReader.ReadSysfs) with
        {
            StandsInFor = "lsblk.json",
        },
        new("smart-*.json", SmartReader.Recognises, (name, b, r) => SmartReader.Read(name, b, r)),
        Plain("cdrom.txt", OpticalReader.Recognises, OpticalReader.Read),
        Plain("dmi.txt", _ => false, DmiStringsReader.Read),
        Bytes("smbios-entry.bin", _ => false, SmbiosEntryReader.Read),
        Plain("dmidecode.txt", t => t.StartsWith("# dmidecode", StringComparison.Ordinal), DmiReader.ReadText),
        Bytes("smbios.bin", SmbiosTable.Recognises, DmiReader.ReadBinary),
        Plain("efi.txt", _ => false, FirmwareReader.ReadEfi),
        Bytes("secure-boot.bin", _ => false, FirmwareReader.ReadSecureBoot),
        Bytes("setup-mode.bin", _ => false, FirmwareReader.ReadSetupMode),
        Plain("tpm.txt", _ => false, FirmwareReader.ReadTpm),
        Plain("lspci.txt", t => t.StartsWith("Slot:\t", StringComparison.Ordinal), PciReader.ReadLspci),
        Plain("pci.txt", _ => false, PciReader.ReadSysfs) with
        {
            StandsInFor = "lspci.txt",
        },
        Plain("lsusb.txt", UsbReader.Recognises, UsbReader.Read),
        Plain("usb.txt", _ => false, UsbReader.Read) with
        {
            StandsInFor = "lsusb.txt",
        },
        new("edid-*.bin", EdidReader.Recognises, (_, b, r) => EdidReader.Read(b, r)),
        Plain("net.txt", _ => false, NetReader.Read),
        Plain("power.txt", t => t.StartsWith("POWER_SUPPLY_", StringComparison.Ordinal), PowerReader.Read),
    ];

    /// <summary>The source that a member name stands for, or null.</summary>
    public static Source? Find(string file) => All.FirstOrDefault(s => s.Names(file));

    /// <summary>The source that a single file is, by name or by content; null when it is none.</summary>
    public static Source? Recognise(string name, byte[] content) =>
        Find(name) ?? All.FirstOrDefault(s => s.Recognises(content));

    private static Source Plain(string file, Func<string, bool> recognises, Action<string, Report> read) =>
        new(file, b => recognises(Text(b)), (_, b, r) => read(Text(b), r));

    private static Source Bytes(string file, Func<byte[], bool> recognises, Action<byte[], Report> read) =>
        new(file, recognises, (_, b, r) => read(b, r));

    internal static string Text(byte[] bytes) => Encoding.UTF8.GetString(bytes);

    internal static JsonDocument Json(byte[] bytes)
    {
        try
        {
            // By way of a text: bytes that are no UTF-8 become replacement characters instead of a fault later on.
            return JsonDocument.Parse(HalfPair().Replace(Text(bytes), @"\ufffd"));
        }
        catch (JsonException e)
        {
            throw new UnreadableSourceException(
                "The JSON is cut off or broken.",
                $"line {e.LineNumber + 1}, place {e.BytePositionInLine + 1}"
            );
        }
    }

    /// <summary>A JSON string; null when it is none, or holds half a surrogate pair.</summary>
    internal static string? Text(JsonElement element)
    {
        try
        {
            return element.ValueKind == JsonValueKind.String ? element.GetString() : null;
        }
        catch (InvalidOperationException)
        {
            return null;
        }
    }

    /// <summary>A member of a JSON object as a text; null when it is none.</summary>
    internal static string? Text(JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object && element.TryGetProperty(name, out var value) ? Text(value) : null;

    /// <summary>A member as a whole number; newer versions of programs print numbers, older ones strings.</summary>
    internal static long? Number(JsonElement element, string name) =>
        element.ValueKind != JsonValueKind.Object || !element.TryGetProperty(name, out var value) ? null
        : value.ValueKind == JsonValueKind.Number && value.TryGetInt64(out var number) ? number
        : long.TryParse(Text(value), NumberStyles.None, CultureInfo.InvariantCulture, out number) ? number
        : null;

    /// <summary>Half of a surrogate pair, escaped: no reader of JSON can make a text of it.</summary>
    [GeneratedRegex(
        @"\\u[dD][89abAB][0-9a-fA-F]{2}(?!\\u[dD][c-fC-F][0-9a-fA-F]{2})|(?<!\\u[dD][89abAB][0-9a-fA-F]{2})\\u[dD][c-fC-F][0-9a-fA-F]{2}"
    )]
    private static partial Regex HalfPair();

    /// <summary>Even of a file that is cut off, to tell a broken lscpu from a file that is none.</summary>
    private static bool HasRoot(byte[] bytes, string root)
    {
        var start = Text(bytes[..Math.Min(bytes.Length, 64)]).TrimStart();
        return start.StartsWith('{') && start[1..].TrimStart().StartsWith($"\"{root}\"", StringComparison.Ordinal);
    }
}

/// <summary>Turns bundles and single files into readings.</summary>
public static class ProbeReader
{
    /// <summary>
    /// Reads every source of a bundle. One that cannot be read is a warning, and the rest is used; sources that the
    /// manifest reports missing are warnings too, since they say why a fact is unknown.
    /// </summary>
    /// <exception cref="RefusedException">Not a single source could be read.</exception>
    public static Report Read(ProbeBundle bundle, string name)
    {
        var report = new Report(bundle.TakenAt);
        foreach (var warning in bundle.Warnings)
            report.Warn(warning);
        foreach (
            var (source, member, content) in Sources.All.SelectMany(
                source => bundle.Files.Where(f => source.Names(f.Key)).OrderBy(f => f.Key, StringComparer.Ordinal),
                (source, file) => (source, file.Key, file.Value)
            )
        )
        {
            if (
                source.StandsInFor is { } better
                && bundle.Files.ContainsKey(better)
                && report.Readings.Any(r => r.Source == Path.GetFileNameWithoutExtension(better))
            )
                continue;
            try
            {
                source.Read(member, content, report);
            }
            catch (UnreadableSourceException e)
            {
                report.Warn($"{member}, {e.Where}: {e.Message} Left out; the rest is used.");
            }
            catch (FormatRefusedException e)
            {
                report.Warn($"{member}, {e.Where}: {e.Message} Left out; the rest is used.");
            }
        }
        if (report.Readings.Count == 0)
            throw new RefusedException(
                RefusalKind.Unreadable,
                "No source in the bundle could be read.",
                name,
                "A bundle with at least one readable source: run the probe again."
            );
        foreach (
            var missing in bundle.Missing.Where(m =>
                !(Sources.Find(m.Name)?.StandsInFor is { } better && bundle.Files.ContainsKey(better))
            )
        )
            report.Warn($"{missing.Name} is missing: {missing.Reason}.");
        // A probe that ran is proof enough that the machine powers on.
        report.Add("parts.powersOn", "probe", "yes");
        return report;
    }

    /// <summary>Reads one file of a kind that is known here.</summary>
    /// <exception cref="RefusedException">Empty, of no known kind, or unreadable.</exception>
    public static void Read(string name, byte[] content, Report report)
    {
        if (content.Length == 0)
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The file is empty.",
                name,
                "A probe bundle, or one of its sources with its content."
            );
        var source =
            Sources.Recognise(name, content)
            ?? throw new RefusedException(
                RefusalKind.Unreadable,
                "The file is no probe bundle and no source that is known here.",
                name,
                "A bundle (.tar.gz), or one of: " + string.Join(", ", Sources.All.Select(s => s.File)) + "."
            );
        try
        {
            source.Read(name, content, report);
        }
        catch (UnreadableSourceException e)
        {
            throw Refuse(e.Message, e.Where);
        }
        catch (FormatRefusedException e)
        {
            throw Refuse(e.Message, e.Where);
        }

        RefusedException Refuse(string what, string where) =>
            new(
                RefusalKind.Unreadable,
                what,
                $"{name}, {where}",
                "The whole output, as the probe or the command wrote it."
            );
    }
}
