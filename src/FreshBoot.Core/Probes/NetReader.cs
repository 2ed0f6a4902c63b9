using System.Text.RegularExpressions;

namespace FreshBoot.Core.Probes;

/// <summary>
/// <c>/sys/class/net</c>: lines of a card's name and its address, six bytes with colons between. Addresses that somebody gave by
/// hand or by chance (the second bit of the first byte, IEEE 802, section 8.2) tell nothing of a machine and are left out.
/// </summary>
internal static partial class NetReader
{
    private const string Name = "net";
    private const int MostCards = 8;

    [GeneratedRegex(
        @"^\S{1,64} (?<address>[0-9a-f][048c](?::[0-9a-f]{2}){5})$",
        RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture | RegexOptions.Multiline
    )]
    private static partial Regex Line();

    public static void Read(string text, Report report) =>
        report.Add(
            "network.addresses",
            Name,
            [
                .. Line()
                    .Matches(text)
                    .Select(m => m.Groups["address"].Value)
                    .Where(a => a != "00:00:00:00:00:00")
                    .Distinct(StringComparer.Ordinal)
                    .Take(MostCards),
            ]
        );
}
