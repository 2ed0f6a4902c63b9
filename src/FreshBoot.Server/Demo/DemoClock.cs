using System.Globalization;

namespace FreshBoot.Server.Demo;

/// <summary>
/// The clock of the demo: a fixed afternoon plus the time since the demo was seeded, so that due dates and support dates
/// read the same whenever it is shown. Frozen, it stands still, for pictures; hurried, it runs so many times as fast from the start of
/// the application on, so that a test sees the end of a wait.
/// </summary>
internal sealed class DemoClock(DateTimeOffset seededAt, bool frozen, int hurry = 1) : TimeProvider
{
    private readonly DateTimeOffset _begun = System.GetUtcNow();

    /// <summary>Thursday 3 December 2026, 14:20 in Eddlestow.</summary>
    public static readonly DateTimeOffset Start = new(2026, 12, 3, 14, 20, 0, TimeSpan.FromHours(1));

    public override TimeZoneInfo LocalTimeZone { get; } =
        TimeZoneInfo.CreateCustomTimeZone("Eddlestow", TimeSpan.FromHours(1), "Eddlestow", "Eddlestow");

    public override DateTimeOffset GetUtcNow() =>
        (frozen ? Start : Start + (_begun - seededAt) + (base.GetUtcNow() - _begun) * hurry).ToUniversalTime();

    /// <summary>The clock of a data folder: the demo's where the folder was seeded as one, else the real one.</summary>
    public static TimeProvider Of(string root, bool frozen, int hurry = 1)
    {
        var mark = MarkOf(root);
        return
            File.Exists(mark)
            && DateTimeOffset.TryParse(
                File.ReadAllText(mark).Trim(),
                CultureInfo.InvariantCulture,
                DateTimeStyles.RoundtripKind,
                out var seededAt
            )
            ? new DemoClock(seededAt, frozen, hurry)
            : System;
    }

    /// <summary>Whether a data folder is marked as the demo's.</summary>
    public static bool IsMarked(string root) => File.Exists(MarkOf(root));

    /// <summary>Marks a data folder as the demo's, seeded now, or so long ago.</summary>
    public static void Mark(string root, TimeSpan ago) =>
        File.WriteAllText(MarkOf(root), (System.GetUtcNow() - ago).ToString("O", CultureInfo.InvariantCulture));

    private static string MarkOf(string root) => Path.Combine(root, "demo-seeded-at");
}
