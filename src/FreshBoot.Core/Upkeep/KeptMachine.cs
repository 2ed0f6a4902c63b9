using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Upkeep;

/// <summary>A machine that has left, as its record has it.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Name">Maker and model.</param>
/// <param name="LeftOn">The day on which it left.</param>
/// <param name="Route">How it got its system.</param>
/// <param name="Facts">Its dossier when it left, with all that follows from it.</param>
/// <param name="Procedures">Ids of the procedures that its steps came from.</param>
public sealed record KeptMachine(
    string Tag,
    string Name,
    DateOnly LeftOn,
    Route Route,
    IFacts Facts,
    IReadOnlyCollection<string> Procedures
)
{
    /// <summary>What was done to it, for the evaluator.</summary>
    /// <param name="asOf">The day on which it is judged.</param>
    public Plan PlanOn(DateOnly asOf) => new(asOf, Route.Cures);
}
