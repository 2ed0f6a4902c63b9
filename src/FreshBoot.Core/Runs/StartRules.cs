using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Soundness;

namespace FreshBoot.Core.Runs;

/// <summary>Something that forbids a run to begin.</summary>
/// <param name="Rung">The rung it stands on.</param>
/// <param name="Text">Why, and what to do.</param>
/// <param name="MayOverride">Whether a person may begin all the same, with a reason and a name.</param>
/// <param name="Retiring">Whether it forbids even to retire the machine.</param>
public sealed record StartStop(Rung Rung, string Text, bool MayOverride, bool Retiring);

/// <summary>When a run may begin.</summary>
public static class StartRules
{
    /// <summary>
    /// What forbids it, lowest rung first. A question of the release rung that nobody answered may be overridden with a
    /// reason; a "no" (refused, claimed, locked, no key to data that is wanted) may not, and neither may a danger. A machine
    /// that is retired needs no sound drive and no sound memory.
    /// </summary>
    public static IEnumerable<StartStop> Of(Dossier facts, RungStanding release) =>
        release
            .Findings.Where(f => f.Outcome > Outcome.Caveat)
            .Select(f => new StartStop(Rung.Release, f.Text, f.Outcome == Outcome.Unknown, Retiring: true))
            .Concat(
                MachineSoundness
                    .StopsOf(facts)
                    .Select(s => new StartStop(Rung.Parts, s.Text, MayOverride: false, Retiring: s.Danger))
            );
}
