using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;

namespace FreshBoot.Core.Routes;

/// <summary>
/// Whether a system can be installed over the one that is on the machine: from a listed source, with the same edition and
/// language, with room, while it still works, and only for the same owner.
/// </summary>
public static class InPlace
{
    /// <summary>Judges the upgrade.</summary>
    /// <param name="facts">The dossier as the machine is now.</param>
    /// <param name="system">The new system.</param>
    /// <param name="catalogue">For the name of the old one.</param>
    /// <param name="order">The order, if any.</param>
    /// <param name="cures">The cures of the route: a lifted list or a new drive can stand in the way.</param>
    public static InPlaceVerdict Judge(
        IFacts facts,
        SystemEntry system,
        ShopCatalogue catalogue,
        Order? order,
        IReadOnlyList<Cure> cures
    )
    {
        var conditions = new List<(bool? Holds, string Says)>();
        if (order?.NewOwner == true)
            conditions.Add((false, "A new owner gets it: nothing of the previous one may stay."));

        var name = facts.Word("os.name");
        var source = system.InPlace.FirstOrDefault(p => catalogue.System(p.From)?.FullName == name);
        conditions.Add(
            name is null ? (system.InPlace.Count == 0 ? false : null, "Nobody has noted which system is on it.")
            : source is null ? (false, $"{system.FullName} does not go over {name}.")
            : (true, $"It goes over {name}.")
        );

        var edition = facts.Word("os.edition");
        if (system.Editions.Count > 0)
            conditions.Add(
                edition is null ? (null, "The edition is not noted; it must stay the same.")
                : system.Editions.Contains(edition, StringComparer.OrdinalIgnoreCase)
                    ? (true, $"Same edition: {edition}.")
                : (false, $"The edition {edition} is not among its own: {Numbers.Join(system.Editions, "and")}.")
            );

        var language = facts.Word("os.language");
        if (system.Languages.Count > 0)
            conditions.Add(
                language is null ? (null, "The language is not noted; it must stay the same.")
                : system.Languages.Contains(language, StringComparer.OrdinalIgnoreCase)
                    ? (true, $"Same language: {language}.")
                : (false, $"There is no image in its language, {language}.")
            );

        if (system.InPlaceFreeBytes > 0)
            conditions.Add(
                facts.Number("os.freeBytes") is not { } free
                    ? (null, $"Free space is not measured; it asks for {Quantity.Drive(system.InPlaceFreeBytes)}.")
                    : (
                        free >= system.InPlaceFreeBytes,
                        $"{Quantity.Drive(free)} free; {Quantity.Drive(system.InPlaceFreeBytes)} asked."
                    )
            );

        conditions.Add(
            facts.Word("os.works") switch
            {
                "yes" => (true, "The system on it works."),
                null => (null, "Nobody has tried whether the system on it still works."),
                _ => (false, "The system on it does not work: an upgrade would carry the fault over."),
            }
        );

        if (system.InPlaceGate is { } gate && cures.Any(c => c.Lifts?.Contains($"{system.Id}/{gate}") == true))
            conditions.Add((false, "Its installer upgrades no machine that is not on its list, patched or not."));
        if (cures.FirstOrDefault(c => c.Sets?.ContainsKey("storage.0.sizeBytes") == true) is { } drive)
            conditions.Add(
                (false, $"The drive is replaced ({drive.Brief ?? drive.Does}): there is nothing to go over.")
            );

        return new InPlaceVerdict(
            conditions.Exists(c => c.Holds == false) ? false
                : conditions.Exists(c => c.Holds is null) ? null
                : true,
            source?.Keeps ?? [],
            [.. conditions.Select(c => c.Says)]
        );
    }
}
