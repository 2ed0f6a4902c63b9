using System.Collections.Frozen;
using System.Runtime.InteropServices;
using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Routes;

/// <summary>A part of a score or of a fit: what was measured, and the points it gives.</summary>
/// <param name="Name">What it is about.</param>
/// <param name="Says">The value in words.</param>
/// <param name="Points">Points given.</param>
/// <param name="Most">Most points there are.</param>
public sealed record ScorePart(string Name, string Says, double Points, double Most);

/// <summary>What a route costs and gives; less of the first three is better, more of the last two.</summary>
/// <param name="Money">Hundredth parts of a mark.</param>
/// <param name="HandsOnMinutes">Minutes of work, installation included.</param>
/// <param name="RiskPpm">Chance that something fails or harms, in millionths.</param>
/// <param name="SupportMonths">Whole months of updates; <see cref="int.MaxValue"/> where no end is set.</param>
/// <param name="Fit">How well it suits the person, 0 to 100.</param>
[StructLayout(LayoutKind.Auto)]
public readonly record struct RouteVector(int Money, int HandsOnMinutes, int RiskPpm, int SupportMonths, int Fit)
{
    /// <summary>Whether it is at least as good in everything and better in something.</summary>
    public bool Beats(RouteVector other) => this != other && IsNoWorse(other);

    /// <summary>Whether it is at least as good in everything.</summary>
    public bool IsNoWorse(RouteVector other) =>
        Money <= other.Money
        && HandsOnMinutes <= other.HandsOnMinutes
        && RiskPpm <= other.RiskPpm
        && SupportMonths >= other.SupportMonths
        && Fit >= other.Fit;
}

/// <summary>Whether the system can be installed over the one that is there.</summary>
/// <param name="Possible">True, false, or null where missing facts leave it open.</param>
/// <param name="Keeps">What stays.</param>
/// <param name="Reasons">Each condition and how it stands.</param>
public sealed record InPlaceVerdict(bool? Possible, IReadOnlyList<string> Keeps, IReadOnlyList<string> Reasons);

/// <summary>A weight at which the recommendation changes.</summary>
/// <param name="Criterion">The criterion whose weight moves; the others stay.</param>
/// <param name="At">The exact weight.</param>
/// <param name="Below">Id of the best route just below it.</param>
/// <param name="Above">Id of the best route just above it.</param>
public sealed record Flip(Criterion Criterion, double At, string Below, string Above);

/// <summary>A way for a machine to get a system, or to end.</summary>
/// <param name="Id">Hash of system, school, cures and price: a route that no longer fits has another id.</param>
/// <param name="System">Id of the system; null for <see cref="School.Retire"/>.</param>
/// <param name="School">The school it belongs to.</param>
/// <param name="Cures">What is done, in the order of the work.</param>
/// <param name="Money">Hundredth parts of a mark.</param>
/// <param name="HandsOnMinutes">Minutes of work, installation included.</param>
/// <param name="ElapsedMinutes">Minutes from start to end, waiting included.</param>
/// <param name="SupportMonths">Whole months of updates; null where no end is set.</param>
/// <param name="Assumes">Facts that nobody has measured and that it takes to be well.</param>
/// <param name="Caveats">What to know of it.</param>
/// <param name="Risk">Chance that something fails or harms, 0 to 1.</param>
/// <param name="Fit">How well it suits the person, 0 to 100.</param>
/// <param name="FitParts">Where the fit comes from.</param>
/// <param name="Reversible">Whether all of it can be undone.</param>
/// <param name="SideEffects">The strings attached.</param>
/// <param name="InPlace">Whether the system can go over the one that is there.</param>
/// <param name="Worth">What it comes to against buying a machine; null where the machine ends.</param>
/// <param name="Front">Whether no other route of the machine is at least as good in everything.</param>
/// <param name="Score">0 to 100 under the weights asked for.</param>
/// <param name="ScoreParts">Where the score comes from.</param>
/// <param name="Flips">Weights at which this route becomes the best, or ceases to be.</param>
public sealed record Route(
    string Id,
    string? System,
    School School,
    IReadOnlyList<Cure> Cures,
    int Money,
    int HandsOnMinutes,
    int ElapsedMinutes,
    int? SupportMonths,
    IReadOnlyList<string> Assumes,
    IReadOnlyList<string> Caveats,
    double Risk,
    int Fit,
    IReadOnlyList<ScorePart> FitParts,
    bool Reversible,
    IReadOnlyList<SideEffect> SideEffects,
    InPlaceVerdict? InPlace,
    Worth? Worth,
    bool Front,
    double Score,
    IReadOnlyList<ScorePart> ScoreParts,
    IReadOnlyList<Flip> Flips
)
{
    /// <summary>The machine as it is when all its cures are carried out.</summary>
    public IFacts After(IFacts facts) => Over(facts, Cures);

    /// <summary>
    /// The machine as it is when its installer starts: with every cure that is not done after the installation. Whatever is made for
    /// that start (image, medium, layout, kit) is judged by this machine, and not by today's.
    /// </summary>
    public IFacts AtInstaller(IFacts facts) => Over(facts, Cures.Where(c => !c.AfterInstall));

    /// <summary>The machine as it is when settings of its firmware are turned: where the route replaces the firmware, that is done.</summary>
    public IFacts AtSettings(IFacts facts) =>
        Cures.Any(c => c.Kind == Outcome.Reflash) ? Over(facts, Cures.Where(c => c.Kind == Outcome.Reflash)) : facts;

    private static Overlay Over(IFacts facts, IEnumerable<Cure> cures)
    {
        var set = new Dictionary<string, FactValue>(StringComparer.Ordinal);
        foreach (var cure in cures)
        foreach (var (key, value) in cure.Sets ?? FrozenDictionary<string, FactValue>.Empty)
            set[key] = value;
        return new Overlay(facts, set);
    }

    /// <summary>Which of its loaders Secure Boot lets start.</summary>
    [JsonIgnore]
    public LoaderSignatures Loader => Cures.Select(c => c.Signatures).DefaultIfEmpty().Max();

    /// <summary>What it costs and gives.</summary>
    [JsonIgnore]
    public RouteVector Vector { get; init; }
}
