using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>A set of memory modules that can be fitted.</summary>
/// <param name="TotalMiB">Memory afterwards, in MiB.</param>
/// <param name="Modules">How many modules are fitted.</param>
/// <param name="SizeMiB">Size of each, in MiB.</param>
/// <param name="Type">Their type.</param>
/// <param name="Replaces">Whether all present modules come out first.</param>
/// <param name="FromShelf">How many of them come from the parts shelf.</param>
/// <param name="Untested">How many of those have not passed a memory test.</param>
/// <param name="Cure">The cure that it is.</param>
public sealed record MemoryUpgrade(
    long TotalMiB,
    int Modules,
    int SizeMiB,
    string Type,
    bool Replaces,
    int FromShelf,
    int Untested,
    Cure Cure
);

/// <summary>
/// Memory that can be fitted: modules that the board's slots and maximum take, from the shelf first and then from the price
/// book. Either further modules into free slots, or one module size for all slots; where modules go in by twos or threes,
/// whole groups. All new modules are alike: mixed sets are a fault to hunt.
/// </summary>
public static class MemoryUpgrades
{
    /// <summary>How the ids of these cures begin; how many modules and which follow.</summary>
    public const string IdPrefix = "memory-";

    private static readonly string[] Needed =
    [
        "memory.installedMiB",
        "memory.maxMiB",
        "memory.slots",
        "memory.slotsUsed",
        "memory.type",
    ];

    /// <summary>
    /// Every set that gives more memory than there is, cheapest first. <c>Open</c> lists the facts that leave it undecided.
    /// </summary>
    public static (IReadOnlyList<MemoryUpgrade> Upgrades, IReadOnlyList<string> Open) All(
        IFacts facts,
        IReadOnlyList<MemoryModule> priceBook,
        PartsShelf shelf
    )
    {
        var open = Needed.Where(key => facts[key] is null).ToArray();
        if (open.Length > 0)
            return ([], open);
        var upgrades = new List<MemoryUpgrade>();
        foreach (var kit in Kits(facts, priceBook, shelf))
            upgrades.Add(kit.Make());
        return (
            [.. upgrades.OrderBy(u => u.Cure.Money).ThenBy(u => u.Cure.HandsOnMinutes).ThenBy(u => u.TotalMiB)],
            []
        );
    }

    /// <summary>
    /// How a shortfall of memory can be mended: a part where some kit reaches <paramref name="leastMiB"/>, unknown where facts
    /// are missing, otherwise a wall.
    /// </summary>
    internal static Outcome Mend(
        IFacts facts,
        long leastMiB,
        IReadOnlyList<MemoryModule> priceBook,
        Plan plan,
        Evaluator.Gathered? into
    )
    {
        var shelf = plan.Shelf;
        if (facts.Number("memory.maxMiB") < leastMiB)
            return Outcome.Wall;
        foreach (var key in Needed)
            if (facts[key] is null)
            {
                into?.Open.AddRange(Needed.Where(k => facts[k] is null));
                return Outcome.Unknown;
            }
        if (into is null)
            return plan.MostMemoryMiB(facts, () => Most(facts, priceBook, shelf)) >= leastMiB
                ? Outcome.Part
                : Outcome.Wall;
        var cures = into.Searching
            ? Sensible(All(facts, priceBook, shelf).Upgrades, leastMiB)
            : Reach(facts, leastMiB, priceBook, shelf).Cures;
        into.Cures.AddRange(cures);
        return cures.Count > 0 ? Outcome.Part : Outcome.Wall;
    }

    private static long Most(IFacts facts, IReadOnlyList<MemoryModule> priceBook, PartsShelf shelf)
    {
        var most = 0L;
        foreach (var kit in Kits(facts, priceBook, shelf))
            most = Math.Max(most, kit.TotalMiB);
        return most;
    }

    /// <summary>The kits that reach so much, but for those that another beats: as much memory for no more money, work or risk.</summary>
    private static List<Cure> Sensible(IReadOnlyList<MemoryUpgrade> upgrades, long leastMiB)
    {
        var kept = new List<MemoryUpgrade>();
        foreach (var kit in upgrades.Where(u => u.TotalMiB >= leastMiB))
            if (
                !kept.Exists(k =>
                    k.TotalMiB >= kit.TotalMiB
                    && k.Cure.Money <= kit.Cure.Money
                    && k.Cure.HandsOnMinutes <= kit.Cure.HandsOnMinutes
                    && k.Cure.FailPerMille <= kit.Cure.FailPerMille
                )
            )
                kept.Add(kit);
        return [.. kept.Select(k => k.Cure)];
    }

    /// <summary>A kit before anybody asks for its words.</summary>
    private readonly record struct Kit(Offer Offer, int Modules, long TotalMiB, long UsedAfter, bool Replaces)
    {
        public MemoryUpgrade Make() => Offer.Fit(Modules, TotalMiB, UsedAfter, Replaces);
    }

    private static IEnumerable<Kit> Kits(IFacts facts, IReadOnlyList<MemoryModule> priceBook, PartsShelf shelf)
    {
        var installed = facts.Number("memory.installedMiB")!.Value;
        var max = facts.Number("memory.maxMiB")!.Value;
        var slots = facts.Number("memory.slots")!.Value;
        var used = facts.Number("memory.slotsUsed")!.Value;
        var group = facts.Number("memory.group") ?? 1;
        foreach (var offer in Offers(facts.Word("memory.type")!, priceBook, shelf))
        {
            for (var count = 1; count <= slots && offer.Has(count); count++)
            {
                var added = installed + (long)count * offer.SizeMiB;
                if (used + count <= slots && (used + count) % group == 0 && added <= max && added > installed)
                    yield return new Kit(offer, count, added, used + count, false);
                var replaced = (long)count * offer.SizeMiB;
                if (used > 0 && count % group == 0 && replaced <= max && replaced > installed)
                    yield return new Kit(offer, count, replaced, count, true);
            }
        }
    }

    /// <summary>
    /// The ways to reach at least <paramref name="leastMiB"/>, cheapest first: of each kind of module the fewest that do.
    /// <c>Open</c> lists the facts that leave it undecided; it is empty where the known facts settle it.
    /// </summary>
    public static (IReadOnlyList<Cure> Cures, IReadOnlyList<string> Open) Reach(
        IFacts facts,
        long leastMiB,
        IReadOnlyList<MemoryModule> priceBook,
        PartsShelf shelf
    )
    {
        if (facts.Number("memory.maxMiB") < leastMiB)
            return ([], []);
        var (upgrades, open) = All(facts, priceBook, shelf);
        return (
            [
                .. upgrades
                    .Where(u => u.TotalMiB >= leastMiB)
                    .GroupBy(u => (u.SizeMiB, u.Replaces))
                    .Select(g => g.MinBy(u => u.Modules)!)
                    .OrderBy(u => u.Cure.Money)
                    .ThenBy(u => u.Cure.HandsOnMinutes)
                    .Select(u => u.Cure),
            ],
            open
        );
    }

    /// <summary>Modules of one type and size: some on the shelf, the rest to be bought where the price book has them.</summary>
    private sealed record Offer(string Id, string Type, int SizeMiB, int OnShelf, int Tested, int? Price)
    {
        public bool Has(int count) => count <= OnShelf || Price is not null;

        public MemoryUpgrade Fit(int count, long total, long usedAfter, bool replaces)
        {
            var shelved = Math.Min(count, OnShelf);
            var untested = Math.Max(0, shelved - Tested);
            var verb = replaces ? "Replace all modules with" : "Add";
            var from =
                shelved == 0 ? ""
                : shelved == count ? " from the shelf"
                : $", {Numbers.Word(shelved)} of them from the shelf";
            return new MemoryUpgrade(
                total,
                count,
                SizeMiB,
                Type,
                replaces,
                shelved,
                untested,
                new Cure(
                    $"{IdPrefix}{(replaces ? "replace" : "add")}-{count}x{Id}{(shelved > 0 ? $"-shelf{shelved}" : "")}",
                    Outcome.Part,
                    Rung.Parts,
                    $"{verb} {Numbers.Word(count)} {Quantity.Memory(SizeMiB)} {Type}{from}",
                    Sets: new Dictionary<string, FactValue>(StringComparer.Ordinal)
                    {
                        ["memory.installedMiB"] = FactValue.Of(total),
                        ["memory.slotsUsed"] = FactValue.Of(usedAfter),
                    },
                    Money: (count - shelved) * (Price ?? 0),
                    HandsOnMinutes: 10 + 2 * count,
                    How: "Fit modules of one type, in groups where the board groups its slots. Test them: second-hand memory is untested until a test says otherwise.",
                    Caution: "Unplug the adapter, take the battery out or disconnect it, and discharge yourself before touching a module.",
                    Brief: $"{(replaces ? "Fit" : "Add")} {Numbers.Word(count)} {Quantity.Memory(SizeMiB)} module{(count == 1 ? "" : "s")}"
                )
                {
                    Untested = untested,
                    // One module in fifty that is bought turns out bad, one in eight that nobody tested.
                    FailPerMille = Math.Min(1000, 20 * (count - untested) + 125 * untested),
                }
            );
        }
    }

    private static IEnumerable<Offer> Offers(string type, IReadOnlyList<MemoryModule> priceBook, PartsShelf shelf)
    {
        var shelved = shelf.Memory.Where(m => m.Type == type).ToList();
        foreach (var module in priceBook.Where(m => m.Type == type))
        {
            var here = shelved.Find(m => m.SizeMiB == module.SizeMiB);
            if (here is not null)
                shelved.Remove(here);
            yield return new Offer(module.Id, type, module.SizeMiB, here?.Count ?? 0, here?.Tested ?? 0, module.Money);
        }
        // What no price book has any more.
        foreach (var old in shelved)
            yield return new Offer(
                $"{type.ToLowerInvariant().Replace(' ', '-')}-{old.SizeMiB}",
                type,
                old.SizeMiB,
                old.Count,
                old.Tested,
                null
            );
    }
}
