using System.Globalization;

namespace FreshBoot.Core.Tests;

/// <summary>
/// How many cases a property is tried with. <c>FRESHBOOT_CASES</c> multiplies them: 3 where a change lands, 100 once for each new
/// property before it is believed.
/// </summary>
internal static class Cases
{
    /// <summary>What multiplies them, 1 at least.</summary>
    public static int Times { get; } =
        int.TryParse(
            Environment.GetEnvironmentVariable("FRESHBOOT_CASES"),
            NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var times
        )
            ? Math.Max(1, times)
            : 1;

    /// <summary>So many by themselves, and more where more are wanted.</summary>
    public static int Of(int usual) => usual * Times;
}
