using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// A requirement held against a dossier. Its words are made when somebody reads them: judging a fleet makes thousands of
/// findings, and nobody reads most of them.
/// </summary>
public sealed class Finding
{
    private readonly Evaluator.Judging _judging;
    private readonly Evaluator.Ask _ask;
    private readonly Func<string>? _text;
    private Evaluator.Gathered? _gathered;

    internal Finding(
        Evaluator.Judging judging,
        Evaluator.Ask ask,
        Outcome outcome,
        bool? holds,
        Cure? liftedBy = null,
        Func<string>? text = null
    )
    {
        _judging = judging;
        _ask = ask;
        _text = text;
        Outcome = outcome;
        Holds = holds;
        LiftedBy = liftedBy?.Id;
    }

    private Requirement Asked => _ask.Requirement;

    /// <summary>The id of the requirement, unique within the system.</summary>
    public string Requirement => Asked.Id;

    /// <summary>Gate, runtime or comfort.</summary>
    public RequirementKind Kind => Asked.Kind;

    /// <summary>Whether it only warns.</summary>
    public bool Advisory => Asked.Advisory;

    /// <summary>What is asked, in words: "6 GiB".</summary>
    public string Needed => Asked.Needed;

    /// <summary>What is there, in words: "4 GiB in 1 of 2 slots".</summary>
    public string Found => ConditionText.Found(Asked.Needs, _judging.Facts);

    /// <summary>How it stands.</summary>
    public Outcome Outcome { get; }

    /// <summary>The finding as a good colleague would say it.</summary>
    public string Text => _text?.Invoke() ?? FindingText.Write(this, Asked, _judging.Facts);

    /// <summary>What would mend it, mildest first, then cheapest.</summary>
    public IReadOnlyList<Cure> Cures =>
        Outcome is Outcome.Clear or Outcome.Unknown && Holds != false
            ? []
            :
            [
                .. Gathered
                    .Cures.DistinctBy(c => c.Id)
                    .OrderBy(c => c.Kind)
                    .ThenBy(c => c.Money)
                    .ThenBy(c => c.HandsOnMinutes),
            ];

    /// <summary>Fact keys that nobody has measured and that leave it open.</summary>
    public IReadOnlyList<string> UndecidedBy =>
        Outcome == Outcome.Unknown ? [.. Gathered.Open.Distinct(StringComparer.Ordinal)] : [];

    /// <summary>The cure of the plan that lifts it.</summary>
    public string? LiftedBy { get; }

    /// <summary>Whether the requirement holds: null where missing facts leave it open.</summary>
    [JsonIgnore]
    public bool? Holds { get; }

    /// <summary>Whether it stands in the way: it surely falls short, and it is more than a notice or a discomfort.</summary>
    [JsonIgnore]
    public bool Blocks => Holds == false && Outcome > Outcome.Caveat;

    /// <summary>What happens when it is lifted; null where nobody wrote it down or it is no gate.</summary>
    public string? IfLifted => Asked.IfLifted;

    /// <summary>Claims that contradict the one in force.</summary>
    public IReadOnlyList<Claim> Claims => Asked.Claims;

    /// <summary>Why this claim is in force; null where nobody contradicts it.</summary>
    public string? WhyThis => Asked.WhyThis;

    /// <summary>For the search of routes: every cure that could come next.</summary>
    internal IReadOnlyList<Cure> Offers() => _judging.Gather(_ask, searching: true).Cures;

    private Evaluator.Gathered Gathered => _gathered ??= _judging.Gather(_ask, searching: false);

    /// <summary>Where the requirement comes from.</summary>
    public Evidence Evidence => Asked.Evidence;

    /// <summary>The fact keys it looks at.</summary>
    public IEnumerable<string> Facts => Asked.Needs.Keys;

    /// <summary>The rung it stands on; the ladder says it already, so JSON does not.</summary>
    [JsonIgnore]
    public Rung Rung => Asked.Rung;
}

/// <summary>One rung: as bad as the worst of its findings.</summary>
public sealed record RungStanding(Rung Rung, Outcome Outcome, IReadOnlyList<Finding> Findings);

/// <summary>A system on a machine: as bad as the worst of its rungs.</summary>
/// <param name="System">The id of the system.</param>
/// <param name="Outcome">The worst of the rungs.</param>
/// <param name="Rungs">All ten, bottom first.</param>
public sealed record Assessment(string System, Outcome Outcome, IReadOnlyList<RungStanding> Rungs);
