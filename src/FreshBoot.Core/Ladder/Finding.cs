using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// A requirement held against a dossier. Its words are made when somebody reads them: judging a fleet makes thousands of
/// findings, and nobody reads most of them.
/// </summary>
public sealed class Finding
{
    private readonly Requirement _requirement;
    private readonly IFacts _facts;
    private readonly string? _text;

    internal Finding(
        Requirement requirement,
        IFacts facts,
        Outcome outcome,
        IReadOnlyList<Cure> cures,
        IReadOnlyList<string> undecidedBy,
        Cure? liftedBy = null,
        string? text = null
    )
    {
        _requirement = requirement;
        _facts = facts;
        _text = text;
        Outcome = outcome;
        Cures = cures;
        UndecidedBy = undecidedBy;
        LiftedBy = liftedBy?.Id;
    }

    /// <summary>The id of the requirement, unique within the system.</summary>
    public string Requirement => _requirement.Id;

    /// <summary>Gate, runtime or comfort.</summary>
    public RequirementKind Kind => _requirement.Kind;

    /// <summary>Whether it only warns.</summary>
    public bool Advisory => _requirement.Advisory;

    /// <summary>What is asked, in words: "6 GiB".</summary>
    public string Needed => FindingText.Needed(_requirement);

    /// <summary>What is there, in words: "4 GiB in 1 of 2 slots".</summary>
    public string Found => FindingText.Found(_requirement.Needs, _facts);

    /// <summary>How it stands.</summary>
    public Outcome Outcome { get; }

    /// <summary>The finding as a good colleague would say it.</summary>
    public string Text => _text ?? FindingText.Write(this, _requirement, _facts);

    /// <summary>What would mend it, mildest first, then cheapest.</summary>
    public IReadOnlyList<Cure> Cures { get; }

    /// <summary>Fact keys that nobody has measured and that leave it open.</summary>
    public IReadOnlyList<string> UndecidedBy { get; }

    /// <summary>The cure of the plan that lifts it.</summary>
    public string? LiftedBy { get; }

    /// <summary>Where the requirement comes from.</summary>
    public Evidence Evidence => _requirement.Evidence;

    /// <summary>The fact keys it looks at.</summary>
    public IEnumerable<string> Facts => _requirement.Needs.Keys;

    /// <summary>The rung it stands on; the ladder says it already, so JSON does not.</summary>
    [JsonIgnore]
    public Rung Rung => _requirement.Rung;
}

/// <summary>One rung: as bad as the worst of its findings.</summary>
public sealed record RungStanding(Rung Rung, Outcome Outcome, IReadOnlyList<Finding> Findings);

/// <summary>A system on a machine: as bad as the worst of its rungs.</summary>
/// <param name="System">The id of the system.</param>
/// <param name="Outcome">The worst of the rungs.</param>
/// <param name="Rungs">All ten, bottom first.</param>
public sealed record Assessment(string System, Outcome Outcome, IReadOnlyList<RungStanding> Rungs);
