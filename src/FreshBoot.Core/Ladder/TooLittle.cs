using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// Whether so little is known of a machine that no system can be meant for it: an aim would be a guess, and a route one that
/// assumes everything.
/// </summary>
public static class TooLittle
{
    private static readonly string[] Tells =
    [
        "identity.model",
        "identity.board",
        "cpu.model",
        "cpu.arch",
        "memory.installedMiB",
        "firmware.kind",
    ];

    /// <summary>Whether none of what tells machines apart is known.</summary>
    public static bool IsKnownOf(IFacts facts) => Tells.All(key => facts[key] is null);

    /// <summary>
    /// The standing of such a machine: the release rung as it is, which is the same for every system, and all above it open.
    /// </summary>
    /// <param name="any">The standing for any system.</param>
    public static Assessment Standing(Assessment any) =>
        new(
            "",
            any.Rungs[(int)Rung.Release].Outcome == Outcome.Wall ? Outcome.Wall : Outcome.Unknown,
            [.. any.Rungs.Select(r => r.Rung == Rung.Release ? r : new RungStanding(r.Rung, Outcome.Unknown, []))]
        );
}
