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
    private const string HasLeft =
        "It has left the shop. Say that it came back, and ask whoever brings it for their leave and their data.";

    /// <summary>
    /// What forbids it, lowest rung first. A question of the release rung that nobody answered may be overridden with a
    /// reason; a "no" (refused, claimed, locked, no key to data that is wanted) may not, and neither may a danger. A machine
    /// that is retired needs no sound drive and no sound memory. On one that has left nothing is begun: what is said of it was
    /// said by those who had it before.
    /// </summary>
    public static IEnumerable<StartStop> Of(Dossier facts, RungStanding release)
    {
        if (facts.Word(FactRegistry.Left) == "yes")
            yield return new StartStop(Rung.Release, HasLeft, MayOverride: false, Retiring: true);
        foreach (var finding in release.Findings.Where(f => f.Outcome > Outcome.Caveat))
            yield return new StartStop(Rung.Release, finding.Text, finding.Outcome == Outcome.Unknown, Retiring: true);
        foreach (var stop in MachineSoundness.StopsOf(facts))
            yield return new StartStop(Rung.Parts, stop.Text, MayOverride: false, Retiring: stop.Danger);
    }
}
