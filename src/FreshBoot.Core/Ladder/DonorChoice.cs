using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// Chooses the model whose identity a machine takes by itself: the nearest of its own line that the system supports, as
/// <see cref="DonorRanking"/> has them. A far one brings wrong power management, wrong fans and no sleep.
/// </summary>
public static class DonorChoice
{
    private const string ModelGate = "model";
    private static readonly string[] Deciding = ["identity.maker", "identity.line", "cpu.generation"];

    /// <summary>
    /// The nearest donor of the machine's own line, or null where there is none or the machine's line or generation is not known.
    /// </summary>
    public static DonorModel? Nearest(IFacts facts, string system, ShopCatalogue catalogue)
    {
        if (DonorRanking.GenerationOf(facts) is null)
            return null;
        var own = catalogue.Donors.Where(d =>
            d.Maker == facts.Word("identity.maker") && d.Line == facts.Word("identity.line")
        );
        return DonorRanking.Rank(facts, system, own, model => catalogue.Device("graphics", model)) is [var first, ..]
            ? first.Donor
            : null;
    }

    /// <summary>The cure that lifts a system's model gate for this machine, and the facts that leave it open.</summary>
    public static (Cure? Cure, IReadOnlyList<string> Open) Lift(
        IFacts facts,
        string system,
        string requirement,
        ShopCatalogue catalogue
    )
    {
        var donors = catalogue.Donors;
        if (requirement != ModelGate || !donors.Any(d => d.Systems.Contains(system)))
            return (null, []);
        if (facts.Word("identity.maker") is { } maker && donors.All(d => d.Maker != maker))
            return (null, []);
        string[] open = [.. Deciding.Where(k => facts[k] is null)];
        if (open.Length > 0)
            return (null, open);
        return Nearest(facts, system, catalogue) is { } donor ? (CureFor(donor, system), []) : (null, []);
    }

    private static Cure CureFor(DonorModel donor, string system) =>
        new(
            $"identity-{donor.Id.ToLowerInvariant()}",
            Outcome.Spoof,
            Rung.Setup,
            $"Give it the identity of a {donor.Line} {donor.Id}",
            Lifts: [$"{system}/{ModelGate}"],
            Adds:
            [
                new SideEffect(
                    Rung.Use,
                    Outcome.Caveat,
                    $"It names itself a {donor.Line} {donor.Id}. Services that check the serial may refuse.",
                    SideEffectKind.Services
                ),
                new SideEffect(
                    Rung.Upkeep,
                    Outcome.Caveat,
                    "An update of the system may undo it; the stick with the loader is kept.",
                    SideEffectKind.Updates
                ),
            ],
            HandsOnMinutes: 20,
            How: "Model, serial and board id go into the loader's configuration; the loader stays on the stick until the system is proved.",
            Caution: "The licence of the maker may forbid it on other models: the owner decides.",
            Brief: $"Identity of a {donor.Id}"
        )
        {
            FailPerMille = 80,
            HarmPerMille = 5,
        };
}
