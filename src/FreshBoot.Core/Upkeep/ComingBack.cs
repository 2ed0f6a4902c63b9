using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Upkeep;

/// <summary>
/// What holds no longer of a machine that comes back. It was away with somebody: their data is on it now, and nobody has asked
/// them. The leave and the wishes of those who had it before say nothing of theirs, and how its parts were then says nothing of
/// how they are.
/// </summary>
public static class ComingBack
{
    private static readonly string[] Groups = ["release.", "parts.", "plan."];
    private static readonly string[] Keys = ["order.name", "upkeep.canary", "upkeep.verdict"];

    /// <summary>Whether people are asked for the fact anew.</summary>
    /// <param name="key">Its key.</param>
    public static bool AsksAnew(string key) =>
        Array.Exists(Groups, g => key.StartsWith(g, StringComparison.Ordinal))
        || Keys.Contains(key, StringComparer.Ordinal);

    /// <summary>The facts of which people have said something that holds no longer; what was probed stays until the next probe.</summary>
    /// <param name="facts">The dossier as it left.</param>
    public static IReadOnlyList<string> Unsaid(Dossier facts) =>
        [
            .. facts
                .Readings.Where(r => r.Origin is Origin.Entered or Origin.Chosen && AsksAnew(r.Key))
                .Select(r => r.Key)
                .Distinct(StringComparer.Ordinal)
                .OrderBy(FactRegistry.Position)
                .ThenBy(k => k, StringComparer.Ordinal),
        ];

    /// <summary>Of those facts the ones that nobody has answered since, and that every system asks for.</summary>
    /// <param name="facts">The dossier as it is.</param>
    public static IReadOnlyList<string> StillAsked(IFacts facts) =>
        [
            .. BuiltIn
                .Requirements.Where(r => r.Needs.Holds(facts) is null)
                .SelectMany(r => r.Needs.Keys)
                .Where(key => AsksAnew(key) && facts[key] is null)
                .Distinct(StringComparer.Ordinal),
        ];
}
