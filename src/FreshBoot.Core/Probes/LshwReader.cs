using System.Text.Json;

namespace FreshBoot.Core.Probes;

/// <summary>
/// <c>lshw -json</c>: a tree of hardware. It stands in for finer sources, so it only tells what the machine is, its
/// processor, memory, graphics and network; drives come from their own sources.
/// </summary>
internal static class LshwReader
{
    private const string Name = "lshw";
    private const int Deepest = 40;

    public static bool Recognises(byte[] bytes)
    {
        var start = Sources.Text(bytes[..Math.Min(bytes.Length, 600)]);
        return start.TrimStart('[', ' ', '\n', '\r', '\t').StartsWith('{')
            && start.Contains("\"class\"", StringComparison.Ordinal)
            && start.Contains("\"id\"", StringComparison.Ordinal);
    }

    public static void Read(byte[] bytes, Report report)
    {
        using var json = Sources.Json(bytes);
        // Newer versions print a list with one tree in it.
        var root =
            json.RootElement is { ValueKind: JsonValueKind.Array } list && list.GetArrayLength() > 0
                ? list[0]
                : json.RootElement;
        if (Sources.Text(root, "class") is null)
            throw new UnreadableSourceException("There is no tree of hardware in it.", "/class (run lshw -json)");

        report.Add("identity.maker", Name, Sources.Text(root, "vendor"));
        report.Add("identity.model", Name, Model(Sources.Text(root, "product")));
        report.Add("identity.serial", Name, Sources.Text(root, "serial"));
        var (graphics, network) = (0, 0);
        Walk(root, 0);

        void Walk(JsonElement node, int depth)
        {
            if (node.ValueKind != JsonValueKind.Object || depth > Deepest)
                return;
            var (id, kind) = (Sources.Text(node, "id") ?? "", Sources.Text(node, "class"));
            var product = $"{Sources.Text(node, "vendor")} {Sources.Text(node, "product")}".Trim();
            switch (kind)
            {
                case "bus" when id == "core":
                    report.Add("identity.board", Name, Sources.Text(node, "product"));
                    report.Add("identity.boardSerial", Name, Sources.Text(node, "serial"));
                    break;
                case "processor" when !report.Has("cpu.model"):
                    report.Add("cpu.model", Name, Sources.Text(node, "product"));
                    break;
                case "memory" when Sources.Text(node, "description") == DmiRecord.SystemMemory:
                    if (Sources.Number(node, "size") is { } size)
                        report.Add("memory.visibleMiB", Name, size >> 20);
                    break;
                case "display" when product.Length > 0 && graphics < 10:
                    report.Add($"graphics.{graphics++}.model", Name, product);
                    break;
                case "network" when product.Length > 0 && network < 10:
                    report.Add($"network.{network}.model", Name, product);
                    report.Add(
                        $"network.{network++}.kind",
                        Name,
                        Sources.Text(node, "description")?.Contains("Wireless", StringComparison.OrdinalIgnoreCase)
                        == true
                            ? "wireless"
                            : "wired"
                    );
                    break;
            }
            if (node.TryGetProperty("children", out var children) && children.ValueKind == JsonValueKind.Array)
                foreach (var child in children.EnumerateArray())
                    Walk(child, depth + 1);
        }
    }

    /// <summary>It adds the maker's order number in brackets.</summary>
    private static string? Model(string? product) =>
        product?.IndexOf(" (", StringComparison.Ordinal) is { } bracket and > 0 ? product[..bracket] : product;
}
