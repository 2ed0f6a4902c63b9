using System.Globalization;
using System.Text.RegularExpressions;

namespace FreshBoot.Core.Terms;

/// <summary>
/// Amounts of bytes as people write them and read them. Memory is sold in powers of 1024 whatever the label says
/// (JEDEC Standard 100B.01 gives "GB" that meaning for memory); drives are sold in powers of 1000 (IEC 80000-13);
/// <c>KiB</c>, <c>MiB</c>, <c>GiB</c>, <c>TiB</c> are powers of 1024 everywhere.
/// </summary>
public static partial class Quantity
{
    /// <summary>One MiB in bytes.</summary>
    public const long MiB = 1L << 20;

    [GeneratedRegex(
        @"^\s*(?<n>[0-9]{1,15}(?:[.,][0-9]{1,6})?)\s*(?<p>[KMGTP]?)(?<i>i?)(?<b>B|bytes?)?\s*\z",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Form();

    /// <summary>
    /// Reads <paramref name="text"/> as an amount in <paramref name="unit"/> (<c>MiB</c> or <c>B</c>). A bare number is
    /// in that unit. Null when it is no amount of bytes or not a whole number of the unit; amounts of memory are
    /// rounded to the nearest MiB, because systems print "7.7 GiB".
    /// </summary>
    public static long? Parse(string text, string unit)
    {
        if (Form().Match(text) is not { Success: true } match)
            return null;
        var number = decimal.Parse(match.Groups["n"].Value.Replace(',', '.'), CultureInfo.InvariantCulture);
        var prefix = match.Groups["p"].Value.ToUpperInvariant();
        var binaryMark = match.Groups["i"].Length > 0;
        var bare = prefix.Length == 0 && match.Groups["b"].Length == 0;
        if (binaryMark && prefix.Length == 0)
            return null;
        var power = "KMGTP".IndexOf(prefix, StringComparison.Ordinal) + (prefix.Length == 0 ? 0 : 1);
        decimal scale = 1;
        for (var i = 0; i < power; i++)
            scale *= binaryMark || unit == "MiB" ? 1024 : 1000;
        try
        {
            if (unit == "MiB")
                return bare ? Exact(number) : (long)Math.Round(number * scale / MiB, MidpointRounding.AwayFromZero);
            // "7.7 GiB" is what a system prints for a number of bytes that nobody typed: the nearest one is meant.
            return bare || scale == 1 ? Exact(number) : (long)Math.Round(number * scale, MidpointRounding.AwayFromZero);
        }
        catch (OverflowException)
        {
            return null;
        }
    }

    /// <summary>An amount of memory: "6 GiB", "1.5 GiB", "768 MiB".</summary>
    public static string Memory(long mebibytes) =>
        mebibytes >= 1024 ? $"{Short(mebibytes / 1024m)} GiB" : $"{mebibytes} MiB";

    /// <summary>The size of a drive as its maker prints it: "128 GB", "1 TB"; decimal.</summary>
    public static string Drive(long bytes) =>
        bytes switch
        {
            >= 999_500_000_000 => $"{Short(bytes / 1_000_000_000_000m)} TB",
            >= 1_000_000_000 => $"{Short(bytes / 1_000_000_000m)} GB",
            _ => $"{Short(bytes / 1_000_000m)} MB",
        };

    private static long? Exact(decimal number) => number == decimal.Truncate(number) ? (long)number : null;

    private static string Short(decimal number) =>
        Math.Round(number, number < 10 ? 1 : 0, MidpointRounding.AwayFromZero)
            .ToString("0.#", CultureInfo.InvariantCulture);
}
