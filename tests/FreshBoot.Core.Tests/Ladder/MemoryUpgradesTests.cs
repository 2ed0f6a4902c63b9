using CsCheck;
using FreshBoot.Core.Ladder;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Ladder;

public class MemoryUpgradesTests
{
    private static (IReadOnlyList<string> Does, IReadOnlyList<string> Open) Reach(
        long least,
        params (string, object?)[] changes
    )
    {
        var (cures, open) = MemoryUpgrades.Reach(
            Facts.GoodBut(changes),
            least,
            Shipped.Catalogue.Memory,
            PartsShelf.Empty
        );
        return ([.. cures.Select(c => c.Does)], open);
    }

    [Fact]
    public void The_cheapest_way_comes_first()
    {
        var (does, _) = Reach(6144, ("memory.installedMiB", 4096));

        does[0].ShouldBe("Add one 4 GiB DDR4 SO-DIMM");
        does.ShouldContain("Replace all modules with one 8 GiB DDR4 SO-DIMM");
    }

    [Fact]
    public void With_no_slot_free_modules_are_replaced() =>
        Reach(6144, ("memory.installedMiB", 4096), ("memory.slotsUsed", 2))
            .Does.ShouldAllBe(d => d.StartsWith("Replace all modules with"));

    [Fact]
    public void Beyond_the_maximum_there_is_nothing_whatever_else_is_unknown()
    {
        var (does, open) = Reach(32768, ("memory.slots", null));

        does.ShouldBeEmpty();
        open.ShouldBeEmpty();
    }

    [Fact]
    public void What_leaves_it_open_is_named() =>
        Reach(6144, ("memory.installedMiB", 4096), ("memory.slots", null)).Open.ShouldBe(["memory.slots"]);

    [Fact]
    public void A_type_that_the_price_book_does_not_have_cannot_be_bought() =>
        Reach(6144, ("memory.installedMiB", 4096), ("memory.type", "DDR5 SO-DIMM")).Does.ShouldBeEmpty();

    [Fact]
    public void Every_way_reaches_what_is_needed_within_slots_and_maximum() =>
        Gen.Select(
                Gen.Int[1, 4],
                Gen.Int[0, 4],
                Pick.From(1024, 2048, 4096),
                Pick.From(4096, 8192, 32768),
                Gen.Int[1, 20000]
            )
            .Where((slots, used, _, _, _) => used <= slots)
            .Sample(
                (slots, used, size, max, least) =>
                {
                    var facts = Facts.GoodBut(
                        ("memory.slots", slots),
                        ("memory.slotsUsed", used),
                        ("memory.installedMiB", Math.Max(1, used * size)),
                        ("memory.maxMiB", max)
                    );
                    foreach (
                        var cure in MemoryUpgrades.Reach(facts, least, Shipped.Catalogue.Memory, PartsShelf.Empty).Cures
                    )
                    {
                        var total = long.Parse(cure.Sets!["memory.installedMiB"].ToString()!);
                        total.ShouldBeInRange(least, max);
                        long.Parse(cure.Sets["memory.slotsUsed"].ToString()!).ShouldBeLessThanOrEqualTo(slots);
                    }
                }
            );

    private static IReadOnlyList<MemoryUpgrade> All(PartsShelf shelf, params (string, object?)[] changes) =>
        MemoryUpgrades.All(Facts.GoodBut(changes), Shipped.Catalogue.Memory, shelf).Upgrades;

    [Fact]
    public void The_shelf_comes_before_the_price_book()
    {
        var shelf = new PartsShelf([new ShelvedModules("DDR4 SO-DIMM", 4096, 1, 0)]);
        var upgrades = All(shelf, ("memory.installedMiB", 4096));

        upgrades[0].Cure.Does.ShouldBe("Add one 4 GiB DDR4 SO-DIMM from the shelf");
        upgrades[0].Cure.Money.ShouldBe(0);
        upgrades[0].Untested.ShouldBe(1);
        upgrades
            .Single(u => u is { Modules: 2, SizeMiB: 4096, Replaces: true })
            .Cure.Money.ShouldBe(1400, "one of two is bought");
    }

    [Fact]
    public void A_type_that_is_only_on_the_shelf_goes_as_far_as_the_shelf_does()
    {
        var shelf = new PartsShelf([new ShelvedModules("DDR SO-DIMM", 512, 2, 2)]);
        var upgrades = All(
            shelf,
            ("memory.type", "DDR SO-DIMM"),
            ("memory.installedMiB", 256),
            ("memory.slots", 4),
            ("memory.slotsUsed", 1)
        );

        upgrades.ShouldNotBeEmpty();
        upgrades.ShouldAllBe(u => u.Modules <= 2 && u.FromShelf == u.Modules);
    }

    [Fact]
    public void Where_modules_go_in_by_threes_only_whole_groups_are_offered()
    {
        var kiln = Fleet.Tagged("MR-0403");
        var (upgrades, _) = MemoryUpgrades.All(kiln, Shipped.Catalogue.Memory, PartsShelf.Empty);

        upgrades.ShouldNotBeEmpty();
        upgrades.ShouldAllBe(u => (u.Replaces ? u.Modules : u.Modules + 4) % 3 == 0);
    }
}
