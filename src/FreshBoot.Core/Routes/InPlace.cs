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
            conditions.Add(Room(facts, system.InPlaceFreeBytes));

        conditions.AddRange(Table(facts, cures));
        if (system.InPlaceLoaderBytes > 0 && facts.Word("firmware.startedBy") == "uefi")
            conditions.Add(
                facts.Number("storage.0.loaderBytes") is not { } loader
                    ? (
                        null,
                        $"The EFI system partition is not measured; it asks for {Quantity.Memory(system.InPlaceLoaderBytes >> 20)}."
                    )
                : loader >= system.InPlaceLoaderBytes
                    ? (true, $"Room for the loader: an EFI system partition of {Quantity.Memory(loader >> 20)}.")
                : (
                    false,
                    $"The EFI system partition has {Quantity.Memory(loader >> 20)}, and it asks for {Quantity.Memory(system.InPlaceLoaderBytes >> 20)}: the drive is divided anew."
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

    /// <summary>Room for the upgrade: what is free, and what can be cleaned up where that is too little.</summary>
    private static (bool?, string) Room(IFacts facts, long asked)
    {
        if (facts.Number("os.freeBytes") is not { } free)
            return (null, $"Free space is not measured; it asks for {Quantity.Drive(asked)}.");
        var says = $"{Quantity.Drive(free)} free; {Quantity.Drive(asked)} asked";
        if (free >= asked)
            return (true, $"{says}.");
        var all = CleanUp.All(facts);
        return CleanUp.For(facts, asked - free) is { } items
                ? (true, $"{says}: {Quantity.Drive(asked - free)} come from cleaning up {CleanUp.InWords(items)}.")
            : all.Count > 0
                ? (
                    false,
                    $"{says}: {Quantity.Drive(asked - free - all.Sum(i => i.Bytes))} are missing even with {CleanUp.InWords(all)} cleaned up."
                )
            : (false, $"{says}. Measure what can be cleaned up: its clean-up page and the download folder say it.");
    }

    /// <summary>
    /// A drive that was divided for legacy BIOS has an MBR; UEFI starts nothing that stays on it, unless its table is turned into
    /// a GPT first. That is done in the system that is there, and needs a place for the loader among the MBR's four entries.
    /// </summary>
    private static IEnumerable<(bool?, string)> Table(IFacts facts, IReadOnlyList<Cure> cures)
    {
        if (!TurnsTable(facts, cures))
            yield break;
        if (facts.Word("storage.0.table") is null)
        {
            yield return (
                null,
                "It is to start by UEFI; nobody has looked whether the drive has an MBR, which is turned into a GPT first."
            );
            yield break;
        }
        const int Entries = 4;
        var count = facts.Word("storage.0.partitions")?.Split(';').Length;
        yield return count >= Entries
            ? (
                false,
                $"The MBR has {count} partitions and no entry left for the loader's: it cannot be turned into a GPT, and would not start by UEFI."
            )
            : (
                true,
                "It is to start by UEFI: the MBR is turned into a GPT first, or what stays would not start any more."
            );
    }

    /// <summary>Whether what stays on the drive wants its MBR turned into a GPT, because the machine is to start by UEFI.</summary>
    public static bool TurnsTable(IFacts facts, IEnumerable<Cure> cures) =>
        facts.Word("firmware.startedBy") == "bios"
        && facts.Word("storage.0.table") != "gpt"
        && cures.Any(c => c.Sets?.GetValueOrDefault("firmware.startedBy") is FactValue.Text { Value: "uefi" });
}
