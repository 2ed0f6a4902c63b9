using System.Globalization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// Chooses the model whose identity a machine takes: the nearest of the same line that the system supports, by processor
/// generation. A far one brings wrong power management, wrong fans and no sleep.
/// </summary>
public static class DonorChoice
{
    private const string ModelGate = "model";
    private static readonly string[] Deciding = ["identity.maker", "identity.line", "cpu.generation"];

    /// <summary>The donor, or null where there is none or the machine's line or generation is not known.</summary>
    public static DonorModel? Nearest(IFacts facts, string system, IReadOnlyList<DonorModel> donors)
    {
        if (Generation(facts) is not { } generation)
            return null;
        return donors
            .Where(d =>
                d.Systems.Contains(system)
                && d.Maker == facts.Word("identity.maker")
                && d.Line == facts.Word("identity.line")
            )
            .OrderBy(d => Math.Abs(d.Generation - generation))
            .ThenBy(d => d.Generation)
            .ThenBy(d => d.Id, StringComparer.Ordinal)
            .FirstOrDefault();
    }

    /// <summary>The cure that lifts a system's model gate for this machine, and the facts that leave it open.</summary>
    public static (Cure? Cure, IReadOnlyList<string> Open) Lift(
        IFacts facts,
        string system,
        string requirement,
        IReadOnlyList<DonorModel> donors
    )
    {
        if (requirement != ModelGate || !donors.Any(d => d.Systems.Contains(system)))
            return (null, []);
        if (facts.Word("identity.maker") is { } maker && donors.All(d => d.Maker != maker))
            return (null, []);
        string[] open = [.. Deciding.Where(k => facts[k] is null)];
        if (open.Length > 0)
            return (null, open);
        return Nearest(facts, system, donors) is { } donor ? (CureFor(donor, system), []) : (null, []);
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

    private static int? Generation(IFacts facts) =>
        facts.Word("cpu.generation") is [_, .. var number]
        && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var generation)
            ? generation
            : null;
}
