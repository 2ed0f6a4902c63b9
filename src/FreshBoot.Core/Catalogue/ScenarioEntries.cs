using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>A machine to practise on, that is none of the shop's: its facts, a stretch of its sheet, and what may go wrong on it.</summary>
/// <param name="Id">Unique in the catalogue.</param>
/// <param name="Title">What is practised, in a few words.</param>
/// <param name="About">What the hand knows before it begins.</param>
/// <param name="Teaches">What it is for, told at the end.</param>
/// <param name="Tag">The tag on its casing.</param>
/// <param name="System">The system that goes onto it.</param>
/// <param name="School">The school of its route.</param>
/// <param name="Facts">Its dossier.</param>
/// <param name="From">Id of the step of its sheet with which the practice begins.</param>
/// <param name="To">Id of the step with which it ends.</param>
/// <param name="Evidence">Where it is known from.</param>
public sealed record ScenarioEntry(
    string Id,
    string Title,
    string About,
    string Teaches,
    string Tag,
    string System,
    School School,
    IReadOnlyDictionary<string, FactValue> Facts,
    string From,
    string To,
    Evidence Evidence
)
{
    /// <summary>Tags of machines that stand beside it on the bench.</summary>
    public IReadOnlyList<string> Beside { get; init; } = [];

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public ScenarioFault? Fault { get; init; }

    /// <summary>Where it has to be decided.</summary>
    public IReadOnlyList<ScenarioMoment> Moments { get; init; } = [];
}

/// <summary>A fault that nobody has told of.</summary>
/// <param name="Cause">The cause, by its id.</param>
/// <param name="At">Id of the step that it stops.</param>
/// <param name="Shows">What is on the screen, line by line.</param>
/// <param name="Otherwise">Ways round of that step which lead past it as well.</param>
public sealed record ScenarioFault(string Cause, string At, string Shows, IReadOnlyList<string> Otherwise);

/// <summary>A moment at which something has to be decided.</summary>
/// <param name="At">Id of the step before which it comes.</param>
/// <param name="Sees">What is seen or heard.</param>
/// <param name="Asks">What is to be decided.</param>
/// <param name="Choices">What may be done.</param>
public sealed record ScenarioMoment(string At, string Sees, string Asks, IReadOnlyList<ScenarioChoice> Choices);

/// <summary>Something that may be done at a moment.</summary>
/// <param name="Text">It in a few words.</param>
/// <param name="Right">Whether a careful hand would do it.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="Harm">What it costs in safety, in hundredths of all there is.</param>
/// <param name="Says">What comes of it.</param>
/// <param name="Ends">Whether the practice ends with it.</param>
public sealed record ScenarioChoice(string Text, bool Right, int Minutes, int Harm, string Says, bool Ends);
