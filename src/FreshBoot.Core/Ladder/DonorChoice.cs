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

    /// <summary>
    /// The donor that a machine takes: of its own line; or where somebody had the system running on its very board with a boot kit,
    /// the nearest of all. null where there is none.
    /// </summary>
    public static DonorModel? For(IFacts facts, string system, ShopCatalogue catalogue) =>
        Nearest(facts, system, catalogue)
        ?? (
            DonorRanking.GenerationOf(facts) is not null
            && Proved(facts, system, catalogue) is not null
            && DonorRanking.Rank(facts, system, catalogue.Donors, model => catalogue.Device("graphics", model))
                is [var first, ..]
                ? first.Donor
                : null
        );

    /// <summary>What somebody had running on a machine's board with a boot kit; null where nobody wrote it down.</summary>
    public static KitProfile? Proved(IFacts facts, string system, ShopCatalogue catalogue) =>
        facts.Word("identity.board") is { } board
            ? catalogue.Profiles.FirstOrDefault(p =>
                p.System == system && p.Board == board && p.Evidence.Sure != Sureness.Hearsay
            )
            : null;

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
            return Proved(facts, system, catalogue) is { } proved && For(facts, system, catalogue) is { } nearest
                ? (KitCure(nearest, system, proved, catalogue.System(system)), [])
                : (null, []);
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
            $"Give it the identity of {Numbers.A(donor.Line)} {donor.Id}",
            Lifts: [$"{system}/{ModelGate}"],
            Adds:
            [
                new SideEffect(
                    Rung.Use,
                    Outcome.Caveat,
                    $"It names itself {Numbers.A(donor.Line)} {donor.Id}. Services that check the serial may refuse.",
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
            Brief: $"Identity of {Numbers.A(donor.Id)}"
        )
        {
            FailPerMille = 80,
            HarmPerMille = 5,
        };

    /// <summary>A boot kit with the identity of a donor, on a board where somebody had it running.</summary>
    private static Cure KitCure(DonorModel donor, string system, KitProfile proved, SystemEntry? entry) =>
        new(
            $"kit-{donor.Id.ToLowerInvariant()}",
            Outcome.Spoof,
            Rung.Setup,
            $"Start it from a boot kit, with the identity of {Numbers.A(donor.Line)} {donor.Id}",
            Lifts: [$"{system}/{ModelGate}"],
            Adds:
            [
                new SideEffect(
                    Rung.Use,
                    Outcome.Caveat,
                    "The maker's licence may forbid its system on a machine of another maker: the owner decides.",
                    SideEffectKind.Licence
                ),
                new SideEffect(
                    Rung.Use,
                    Outcome.Caveat,
                    $"It names itself {Numbers.A(donor.Line)} {donor.Id}. Services that check the serial may refuse.",
                    SideEffectKind.Services
                ),
                new SideEffect(
                    Rung.Upkeep,
                    Outcome.Caveat,
                    "Each large update may want the kit built anew before it starts again.",
                    SideEffectKind.Updates
                ),
                .. (entry?.Kit?.Lacks ?? [])
                    .Concat(proved.WorksNot)
                    .Select(text => new SideEffect(Rung.Devices, Outcome.Caveat, text)),
            ],
            HandsOnMinutes: 90,
            How: $"Somebody had it running on a board {proved.Board}, with build {proved.Build}; the kit stays on the stick until the system is proved.",
            Caution: "The licence of the maker may forbid it on other hardware: the owner decides.",
            Brief: $"Boot kit, as {Numbers.A(donor.Id)}"
        )
        {
            FailPerMille = 200,
            HarmPerMille = 5,
        };
}
