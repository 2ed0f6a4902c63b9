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
        var installed = facts.Number("memory.installedMiB")!.Value;
        var max = facts.Number("memory.maxMiB")!.Value;
        var slots = facts.Number("memory.slots")!.Value;
        var used = facts.Number("memory.slotsUsed")!.Value;
        var group = facts.Number("memory.group") ?? 1;
        var type = facts.Word("memory.type")!;

        var upgrades = new List<MemoryUpgrade>();
        foreach (var offer in Offers(type, priceBook, shelf))
        {
            for (var count = 1; count <= slots; count++)
            {
                if (!offer.Has(count))
                    break;
                if (used + count <= slots && (used + count) % group == 0)
                    Take(offer, count, installed + (long)count * offer.SizeMiB, used + count, replaces: false);
                if (used > 0 && count % group == 0)
                    Take(offer, count, (long)count * offer.SizeMiB, count, replaces: true);
            }
        }
        return (
            [.. upgrades.OrderBy(u => u.Cure.Money).ThenBy(u => u.Cure.HandsOnMinutes).ThenBy(u => u.TotalMiB)],
            []
        );

        void Take(Offer offer, int count, long total, long usedAfter, bool replaces)
        {
            if (total <= max && total > installed)
                upgrades.Add(offer.Fit(count, total, usedAfter, replaces));
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
                    $"memory-{(replaces ? "replace" : "add")}-{count}x{Id}{(shelved > 0 ? $"-shelf{shelved}" : "")}",
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
