using System.Text.Json.Serialization;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>Why a machine stops on its way up the ladder.</summary>
/// <param name="Id">Unique in the catalogue.</param>
/// <param name="Rung">The rung where one sees it.</param>
/// <param name="Weight">How often it is the cause of a stop there, beside the weights of the others.</param>
/// <param name="About">It in a sentence.</param>
/// <param name="Mend">What is done about it.</param>
/// <param name="Evidence">Where it is known from.</param>
public sealed record CauseEntry(string Id, Rung Rung, int Weight, string About, CauseMend Mend, Evidence Evidence)
{
    /// <summary>What makes it likelier or less likely on a machine, its plan and what was made for it.</summary>
    public IReadOnlyList<CauseShift> Shifts { get; init; } = [];

    /// <summary>What the system has to ask for before it can be the cause; null for whatever it asks for.</summary>
    [JsonIgnore]
    public Condition? Asks { get; init; }

    /// <summary>What the machine has to be, as it is by then, before it can be the cause; null for any.</summary>
    [JsonIgnore]
    public Condition? Has { get; init; }

    /// <summary>What the way has to have done before it can be the cause; null for any.</summary>
    [JsonIgnore]
    public Condition? Did { get; init; }

    /// <summary>
    /// Why it cannot be the cause on this machine, with this plan, by now; null where it can, or where nobody measured what would tell.
    /// </summary>
    /// <param name="facts">The machine at the step, with the facts of the route.</param>
    public string? WhyNot(IFacts facts) =>
        Asks?.Holds(facts) == false ? "the system does not ask for it"
        : Has?.Holds(facts) == false ? "this machine is not so"
        : Did?.Holds(facts) == false ? "nothing that was done can bring it about"
        : null;

    /// <summary>Causes that come together with it, as a shop has seen.</summary>
    public IReadOnlyList<CausePair> With { get; init; } = [];

    /// <summary>Messages that speak for it.</summary>
    public IReadOnlyList<CauseMessage> Says { get; init; } = [];
}

/// <summary>What is done about a cause.</summary>
/// <param name="Text">As a step of the run.</param>
/// <param name="Minutes">How long it takes, in minutes.</param>
/// <param name="Caution">What could be hurt or lost; null for nothing.</param>
/// <param name="LosesData">Whether it erases something.</param>
/// <param name="Ends">Whether the work stops with it: nothing here mends it.</param>
public sealed record CauseMend(string Text, int Minutes, string? Caution, bool LosesData, bool Ends);

/// <summary>What makes a cause likelier.</summary>
/// <param name="When">When; it may ask the facts of the machine and those of the route.</param>
/// <param name="Percent">What its weight becomes, in hundredths of what it was: 300 is three times as likely, 50 half.</param>
/// <param name="Why">The argument in words.</param>
public sealed record CauseShift([property: JsonIgnore] Condition When, int Percent, string Why);

/// <summary>Two causes at once.</summary>
/// <param name="Cause">The other one.</param>
/// <param name="PerMille">In how many of a thousand stops by the first one the other is there as well.</param>
public sealed record CausePair(string Cause, int PerMille);

/// <summary>A message that speaks for a cause.</summary>
/// <param name="Text">A piece of it, as it stands on the screen or comes down the serial line.</param>
/// <param name="Times">How much likelier it is then.</param>
public sealed record CauseMessage(string Text, int Times);

/// <summary>What a check may do to the machine, from nothing to what cannot be undone.</summary>
[JsonConverter(typeof(CamelCaseNames<CheckRisk>))]
public enum CheckRisk
{
    /// <summary>It only looks.</summary>
    None,

    /// <summary>It starts the machine again.</summary>
    Restart,

    /// <summary>It opens the casing.</summary>
    Opens,

    /// <summary>It erases something: it comes last.</summary>
    Erases,
}

/// <summary>What one looks at, asks or tries to find a cause.</summary>
/// <param name="Id">Unique in the catalogue.</param>
/// <param name="Rungs">Where it may help.</param>
/// <param name="Minutes">How long it takes, in minutes.</param>
/// <param name="Risk">What it may do.</param>
/// <param name="Text">What to do, and what to look for.</param>
/// <param name="Caution">What could be hurt or lost; null for nothing.</param>
/// <param name="Shows">What may be seen.</param>
public sealed record CheckEntry(
    string Id,
    IReadOnlyList<Rung> Rungs,
    int Minutes,
    CheckRisk Risk,
    string Text,
    string? Caution,
    IReadOnlyList<CheckShown> Shows
)
{
    /// <summary>Whether it can be made before the work begins.</summary>
    public bool Before { get; init; }

    /// <summary>The chance that this is seen where a cause is the one; over all that may be seen it adds up to 1.</summary>
    /// <param name="shown">Its place among <see cref="Shows"/>.</param>
    /// <param name="cause">The cause.</param>
    public double Chance(int shown, string cause)
    {
        double all = 0;
        for (var i = 0; i < Shows.Count; i++)
            all += Shows[i].Of(cause);
        return Shows[shown].Of(cause) / all;
    }
}

/// <summary>Something that a check may show.</summary>
/// <param name="Id">Its id within the check.</param>
/// <param name="Text">As one would say it.</param>
/// <param name="Else">In how many of a hundred it is seen where none of the named causes is the one.</param>
/// <param name="Causes">The same for each cause that it speaks for or against, by id.</param>
public sealed record CheckShown(string Id, string Text, int Else, IReadOnlyDictionary<string, int> Causes)
{
    /// <summary>Nothing is sure: a hand slips, and an eye looks past.</summary>
    private const double Least = 0.5;

    /// <summary>In how many of a hundred it is seen where a cause is the one.</summary>
    public double Of(string cause) => Math.Max(Least, Causes.TryGetValue(cause, out var chance) ? chance : Else);
}
