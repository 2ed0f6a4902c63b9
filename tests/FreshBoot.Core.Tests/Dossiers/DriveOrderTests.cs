using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Tests.Dossiers;

public class DriveOrderTests
{
    private static readonly (string, object)[] Two =
    [
        ("storage.0.sizeBytes", 500_000_000_000L),
        ("storage.0.serial", "A-1"),
        ("storage.1.sizeBytes", 120_000_000_000L),
        ("storage.1.serial", "B-2"),
        ("storage.1.kind", "flash"),
    ];

    private static Dossier Read(params (string, object)[] more) =>
        Derivation.Complete(Facts.Of([.. Two, .. more]).Readings, Shipped.Catalogue);

    [Fact]
    public void The_drive_that_somebody_chose_is_the_first_with_all_that_is_known_of_it()
    {
        var facts = Read((DriveOrder.Key, "B-2"));

        facts.Number("storage.0.sizeBytes").ShouldBe(120_000_000_000L);
        facts.Word("storage.0.kind").ShouldBe("flash");
        facts.Word("storage.1.serial").ShouldBe("A-1");
        facts.Word("storage.1.kind").ShouldBeNull();
    }

    [Theory]
    [InlineData("A-1")]
    [InlineData("gone")]
    [InlineData("#0")]
    [InlineData("#7")]
    [InlineData("#x")]
    public void A_choice_of_the_first_or_of_one_that_is_gone_changes_nothing(string name) =>
        Read((DriveOrder.Key, name)).Word("storage.0.serial").ShouldBe("A-1");

    [Fact]
    public void One_without_a_serial_number_is_named_by_the_place_that_it_was_read_at()
    {
        var bare = Facts.Of(("storage.0.sizeBytes", 1_000_000L), ("storage.2.sizeBytes", 2_000_000L));
        DriveOrder.NameOf(bare, 2, target: 0).ShouldBe("#2");

        var chosen = DriveOrder.InOrder(bare.WithWord(Facts.Reading(DriveOrder.Key, "#2", Origin.Entered)));
        chosen.Number("storage.0.sizeBytes").ShouldBe(2_000_000L);
        // From there the other one can be chosen again.
        DriveOrder.NameOf(chosen, 2, target: 2).ShouldBe("#0");
        DriveOrder.NameOf(chosen, 0, target: 2).ShouldBe("#2");
    }

    [Fact]
    public void Swapping_twice_gives_every_key_back_and_touches_no_other()
    {
        foreach (var definition in FactRegistry.All)
            for (var target = 0; target < DriveOrder.Most; target++)
            for (var i = 0; i < DriveOrder.Most; i++)
            {
                var key = definition.Key.Replace(".0.", $".{i}.", StringComparison.Ordinal);
                var once = DriveOrder.Swapped(key, target);
                DriveOrder.Swapped(once, target).ShouldBe(key);
                if (!key.StartsWith("storage.", StringComparison.Ordinal) || (i != 0 && i != target))
                    once.ShouldBe(key);
            }
    }
}
