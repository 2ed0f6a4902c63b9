using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Routes;

/// <summary>A cure that would have helped, and why it cannot be taken.</summary>
/// <param name="Cure">Its id.</param>
/// <param name="Does">What it does.</param>
/// <param name="Money">Its price in hundredth parts of a mark.</param>
/// <param name="Why">Why not.</param>
public sealed record TriedCure(string Cure, string Does, int Money, string Why);

/// <summary>What stands in the way.</summary>
/// <param name="Requirement">Id of the requirement.</param>
/// <param name="Rung">Its rung.</param>
/// <param name="Text">The finding in words.</param>
/// <param name="Tried">What would have helped.</param>
public sealed record Obstacle(string Requirement, Rung Rung, string Text, IReadOnlyList<TriedCure> Tried);

/// <summary>Why there is no route of a school.</summary>
/// <param name="School">The school.</param>
/// <param name="Text">The reason in a sentence.</param>
/// <param name="Obstacles">What stands in the way where the search came furthest.</param>
public sealed record MissingRoute(School School, string Text, IReadOnlyList<Obstacle> Obstacles);

/// <summary>Explains a missing route where the search came furthest.</summary>
internal static class WhyNot
{
    public static MissingRoute Explain(
        ShopCatalogue catalogue,
        Dossier facts,
        SystemEntry system,
        RouteQuestion question,
        School school,
        Func<Cure, bool> allows,
        IReadOnlyList<Cure> taken,
        IReadOnlyList<Finding> blocked
    )
    {
        var plan = new Plan(question.AsOf, taken, question.Shelf, question.Order);
        var planned = plan.Over(facts);
        // What nothing lifts is said first: whoever hears of a gate first spends an hour on it.
        var obstacles = blocked
            .OrderBy(f => f.Kind.OnlyChecked())
            .Select(f => new Obstacle(
                f.Requirement,
                f.Rung,
                f.Text,
                [
                    .. Candidates(catalogue, system, f, planned)
                        .Select(c => Tried(catalogue, c, f, plan, facts, planned, allows))
                        .OfType<TriedCure>(),
                ]
            ))
            .ToArray();
        var worst =
            Array.Find(obstacles, o => o.Tried.Count == 0)
            ?? Array.Find(obstacles, o => o.Tried.Count > 0)
            ?? obstacles[0];
        var so = taken.Count == 0 ? "" : $" after “{string.Join("”, “", taken.Select(c => c.Does))}”";
        var text =
            worst.Tried.Count == 0
                ? $"{worst.Text}{(so.Length > 0 ? $" That is so{so}." : "")}"
                : $"{FirstSentence(worst.Text)} {string.Join(" ", worst.Tried.Take(2).Select(t => $"{t.Does}{(t.Money > 0 ? $" ({Numbers.Money(t.Money)})" : "")}: {t.Why}."))}";
        return new MissingRoute(school, text, obstacles);
    }

    private static string FirstSentence(string text)
    {
        var end = text.IndexOf(". ", StringComparison.Ordinal);
        return end < 0 ? text : text[..(end + 1)];
    }

    /// <summary>Every cure of the catalogue that has to do with the finding.</summary>
    private static IEnumerable<Cure> Candidates(
        ShopCatalogue catalogue,
        SystemEntry system,
        Finding finding,
        IFacts planned
    ) =>
        finding
            .Facts.SelectMany(catalogue.CuresThatSet)
            .Concat(catalogue.CuresThatLift($"{system.Id}/{finding.Requirement}"))
            .Concat(
                DonorChoice.Lift(planned, system.Id, finding.Requirement, catalogue) is ({ } identity, _)
                    ? [identity]
                    : []
            )
            .DistinctBy(c => c.Id)
            .OrderBy(c => c.Kind)
            .ThenBy(c => c.Money)
            .ThenBy(c => c.Id, StringComparer.Ordinal);

    private static TriedCure? Tried(
        ShopCatalogue catalogue,
        Cure cure,
        Finding finding,
        Plan plan,
        Dossier facts,
        IFacts planned,
        Func<Cure, bool> allows
    )
    {
        if (plan.Excluder(cure) is { } other)
            return other.Id == cure.Id ? null : Say($"conflicts with “{other.Does}”");
        if (!catalogue.CanCarryOut(cure))
            return Say(
                $"is done on another computer with {catalogue.System(cure.RunsWith ?? "")?.FullName ?? "another system"}, and the shop has none"
            );
        if (catalogue.IsRefused(cure, facts) == true)
            return Say($"starts a loader without a signature, and Secure Boot is on. {catalogue.Menus(facts).WhyNone}");
        if (cure.Needs?.Holds(planned) == false && cure.Needs.Holds(facts) == false)
            return Say(
                $"asks for {ConditionText.Needed(cure.Needs)}{(ConditionText.Found(cure.Needs, planned) is { Length: > 0 } found ? $", here: {found}" : "")}"
            );
        if (!allows(cure))
            return Say($"belongs to another school, {cure.Kind.ToString().ToLowerInvariant()}");
        // It can be done and does not reach what is asked.
        return cure.Sets is null ? null : Say($"does not by itself reach {finding.Needed}");

        TriedCure Say(string why) => new(cure.Id, cure.Does, cure.Money, why);
    }
}
