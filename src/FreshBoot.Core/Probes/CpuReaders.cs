using System.Globalization;
using System.Text.Json;

namespace FreshBoot.Core.Probes;

/// <summary><c>/proc/cpuinfo</c>, x86 and ARM: blocks of <c>name : value</c>, one block a thread.</summary>
internal static class CpuInfoReader
{
    private const string Name = "cpuinfo";

    public static bool Recognises(string text) => text.StartsWith("processor\t:", StringComparison.Ordinal);

    public static void Read(string text, Report report)
    {
        var blocks = text.Split("\n\n", StringSplitOptions.RemoveEmptyEntries)
            .Select(Block)
            .Where(b => b.ContainsKey("processor"))
            .ToArray();
        if (blocks.Length == 0)
            throw new UnreadableSourceException("There is no processor in it.", "line 1");
        var first = blocks[0];
        report.Add("cpu.threads", Name, blocks.Length);
        if (first.TryGetValue("flags", out var flags))
        {
            report.Add("cpu.arch", Name, "x86");
            report.Add("cpu.flags", Name, Words(flags));
        }
        else if (first.TryGetValue("Features", out var features))
        {
            report.Add("cpu.arch", Name, "arm");
            report.Add("cpu.flags", Name, Words(features));
        }
        // ARM kernels name the board at the end instead, "Model : …", and the chip on older ones as "Hardware : …".
        var tail = text.Split("\n\n", StringSplitOptions.RemoveEmptyEntries).Select(Block).Last();
        report.Add(
            "cpu.model",
            Name,
            first.GetValueOrDefault("model name")
                ?? tail.GetValueOrDefault("Hardware")
                ?? first.GetValueOrDefault("Processor")
        );
        if (!tail.ContainsKey("processor"))
            report.Add("identity.model", Name, tail.GetValueOrDefault("Model"));

        var cores = blocks.Select(b => (b.GetValueOrDefault("physical id"), b.GetValueOrDefault("core id"))).ToArray();
        if (cores.All(c => c.Item1 is not null && c.Item2 is not null))
            report.Add("cpu.cores", Name, cores.Distinct().Count());
    }

    private static Dictionary<string, string> Block(string text)
    {
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var line in text.Split('\n'))
            if (line.IndexOf(':', StringComparison.Ordinal) is var colon and > 0)
                fields.TryAdd(line[..colon].Trim(), line[(colon + 1)..].Trim());
        return fields;
    }

    internal static string[] Words(string text) =>
        [
            .. text.Split(' ', StringSplitOptions.RemoveEmptyEntries)
                .Where(w => w.Length <= 60 && w.All(c => c is > ' ' and <= '~')),
        ];
}

/// <summary><c>lscpu -J</c>: a tree of <c>{ field, data, children }</c>; older versions print it flat.</summary>
internal static class LscpuReader
{
    private const string Name = "lscpu";

    public static void Read(byte[] bytes, Report report)
    {
        using var json = Sources.Json(bytes);
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        if (
            json.RootElement.ValueKind == JsonValueKind.Object
            && json.RootElement.TryGetProperty("lscpu", out var list)
        )
            Collect(list, fields);
        if (fields.Count == 0)
            throw new UnreadableSourceException("There is no list of fields in it.", "/lscpu");

        var arch = fields.GetValueOrDefault("Architecture");
        report.Add(
            "cpu.arch",
            Name,
            arch switch
            {
                "x86_64" or "i686" or "i586" or "i486" or "i386" => "x86",
                "aarch64" or "armv8l" or "armv7l" or "armv6l" => "arm",
                _ => null,
            }
        );
        report.Add("cpu.model", Name, fields.GetValueOrDefault("Model name"));
        if (fields.TryGetValue("Flags", out var flags))
            report.Add("cpu.flags", Name, CpuInfoReader.Words(flags));
        if (Number(fields, "CPU(s)") is { } threads)
            report.Add("cpu.threads", Name, threads);
        if (Number(fields, "Core(s) per socket") is { } cores && Number(fields, "Socket(s)") is { } sockets)
            report.Add("cpu.cores", Name, cores * sockets);
    }

    private static void Collect(JsonElement list, Dictionary<string, string> fields)
    {
        if (list.ValueKind != JsonValueKind.Array)
            return;
        foreach (var item in list.EnumerateArray().Where(i => i.ValueKind == JsonValueKind.Object))
        {
            if (
                item.TryGetProperty("field", out var field)
                && Sources.Text(field) is { } name
                && item.TryGetProperty("data", out var data)
            )
                fields.TryAdd(name.TrimEnd(':'), Sources.Text(data) ?? data.GetRawText());
            if (item.TryGetProperty("children", out var children))
                Collect(children, fields);
        }
    }

    private static long? Number(Dictionary<string, string> fields, string name) =>
        fields.TryGetValue(name, out var text)
        && int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;
}
