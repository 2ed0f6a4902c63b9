using System.Globalization;
using System.Text.RegularExpressions;
using FreshBoot.Formats.Firmware;

namespace FreshBoot.Core.Firmware;

/// <summary>
/// Which of two images of a chip is the older one, by the dates that stand in them: ISO 8601, or month, day and year as SMBIOS has
/// them (System Management BIOS Reference Specification 3.7, section 7.1.1). Versions of different makers cannot be compared.
/// </summary>
public static partial class RomAge
{
    /// <summary>The latest month that an image names; null where it names none.</summary>
    public static DateOnly? Of(RomImage image)
    {
        DateOnly? latest = null;
        foreach (var text in image.Strings)
        foreach (Match match in Dates().Matches(text))
        {
            var us = match.Groups["us"].Success;
            var year = int.Parse(match.Groups[us ? "uy" : "y"].Value, CultureInfo.InvariantCulture);
            var month = int.Parse(match.Groups[us ? "um" : "m"].Value, CultureInfo.InvariantCulture);
            if (month is < 1 or > 12)
                continue;
            var day = new DateOnly(year, month, 1);
            if (latest is null || day > latest)
                latest = day;
        }
        return latest;
    }

    /// <summary>What to say of an image beside the one that is there; null where one of them names no date, or both the same.</summary>
    public static string? Beside(RomImage image, RomImage there) =>
        (Of(image), Of(there)) is not ({ } own, { } other) || own == other
            ? null
            : $"It is {(own < other ? "older" : "newer")} than what is there: {own:yyyy-MM} against {other:yyyy-MM}.";

    [GeneratedRegex(
        @"(?<![0-9])(?<y>(19[89]|20[0-9])[0-9])-(?<m>[0-9]{2})(?![0-9])|(?<![0-9])(?<us>(?<um>[0-9]{2})/[0-9]{2}/(?<uy>(19[89]|20[0-9])[0-9]))(?![0-9])",
        RegexOptions.ExplicitCapture
    )]
    private static partial Regex Dates();
}
