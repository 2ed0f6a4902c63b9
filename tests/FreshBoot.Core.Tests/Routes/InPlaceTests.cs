using FreshBoot.Core.Orders;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Routes;

public class InPlaceTests
{
    private static readonly (string, object?)[] Upgradable =
    [
        ("os.name", "Tessaly 5"),
        ("os.edition", "Home"),
        ("os.language", "en"),
        ("os.freeBytes", 64_000_000_000L),
        ("os.works", "yes"),
    ];

    private static InPlaceVerdict Judge(Order? order, params (string, object?)[] changes) =>
        InPlace.Judge(
            Facts.GoodBut([.. Upgradable, .. changes]),
            Shipped.Catalogue.System("tessaly-6-r2")!,
            Shipped.Catalogue,
            order,
            []
        );

    [Fact]
    public void With_the_same_edition_and_language_room_and_a_working_system_files_stay()
    {
        var verdict = Judge(null);

        verdict.Possible.ShouldBe(true);
        verdict.Keeps.ShouldBe(["files", "programs"]);
    }

    [Theory]
    [InlineData("os.name", "Wickerwork 26")]
    [InlineData("os.edition", "Schoolroom")]
    [InlineData("os.language", "cy")]
    [InlineData("os.freeBytes", 10_000_000_000L)]
    [InlineData("os.works", "no")]
    public void One_condition_that_fails_rules_it_out_and_a_missing_one_leaves_it_open(string key, object value)
    {
        Judge(null, (key, value)).Possible.ShouldBe(false);
        Judge(null, (key, null)).Possible.ShouldBe(null);
    }

    [Fact]
    public void A_new_owner_rules_it_out() =>
        Judge(OrderTests.Order() with { NewOwner = true }).Possible.ShouldBe(false);

    [Fact]
    public void A_lifted_list_or_a_new_drive_rules_it_out()
    {
        InPlaceVerdict With(string cure) =>
            InPlace.Judge(
                Facts.GoodBut(Upgradable),
                Shipped.Catalogue.System("tessaly-6-r2")!,
                Shipped.Catalogue,
                null,
                [Shipped.Catalogue.Cures.Single(c => c.Id == cure)]
            );

        With("tessaly-6-r2-gates").Reasons.ShouldContain(r => r.Contains("not on its list"));
        With("drive-sata-240").Possible.ShouldBe(false);
        With("tpm-on").Possible.ShouldBe(true);
    }
}
