using System.Text.RegularExpressions;

namespace FreshBoot.Core.Probes;

/// <summary>
/// <c>lsusb</c>: lines of <c>Bus 001 Device 002: ID 1234:5678 Name</c>. The root hubs tell the fastest port by their product
/// number (1, 2, 3 after the USB release they stand for); cameras, Bluetooth and touch are told by their names.
/// </summary>
internal static partial class UsbReader
{
    private const string Name = "lsusb";

    [GeneratedRegex(
        @"^Bus \d{3} Device \d{3}: ID (?<vendor>[0-9a-f]{4}):(?<product>[0-9a-f]{4})\s*(?<name>[^\n]{0,200})",
        RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Line();

    private static readonly (string Word, string Key)[] Kinds =
    [
        ("bluetooth", "bluetooth"),
        ("camera", "camera"),
        ("webcam", "camera"),
        ("touch", "touch"),
    ];

    public static bool Recognises(string text) => Line().IsMatch(text);

    public static void Read(string text, Report report)
    {
        var counts = new Dictionary<string, int>(StringComparer.Ordinal);
        var fastest = 0;
        var understood = 0;
        foreach (var line in text.Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            if (Line().Match(line) is not { Success: true } match)
                continue;
            understood++;
            var name = match.Groups["name"].Value;
            if (match.Groups["vendor"].Value == "1d6b")
                fastest = Math.Max(fastest, match.Groups["product"].Value[^1] - '0');
            else if (Array.Find(Kinds, k => name.Contains(k.Word, StringComparison.OrdinalIgnoreCase)).Key is { } key)
                if (counts.GetValueOrDefault(key) is var index and < 10)
                {
                    report.Add($"{key}.{index}.model", Name, name);
                    counts[key] = index + 1;
                }
        }
        if (understood == 0)
            throw new UnreadableSourceException("There is no line “Bus … Device …: ID …” in it.", "line 1");
        report.Add(
            "usb.generation",
            Name,
            fastest switch
            {
                1 => "1.1",
                2 => "2.0",
                3 => "3.0",
                _ => null,
            }
        );
    }
}
