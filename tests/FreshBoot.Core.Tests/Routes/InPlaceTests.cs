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
        ("storage.0.loaderBytes", 272_629_760L),
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

    [Theory]
    [InlineData(104_857_600L, true)]
    [InlineData(104_857_599L, false)]
    public void The_loader_wants_its_room_in_the_efi_partition(long bytes, bool fits)
    {
        Judge(null, ("storage.0.loaderBytes", bytes)).Possible.ShouldBe(fits);
        Judge(null, ("storage.0.loaderBytes", null)).Possible.ShouldBe(null);
    }

    [Fact]
    public void Room_that_lacks_comes_from_what_nobody_misses_first_and_no_more_than_is_needed()
    {
        (string, object?)[] full =
        [
            ("os.freeBytes", 20_000_000_000L),
            ("os.updateFilesBytes", 5_000_000_000L),
            ("os.temporaryBytes", 6_000_000_000L),
            ("os.oldSystemBytes", 14_000_000_000L),
            ("os.binBytes", 30_000_000_000L),
        ];
        var verdict = Judge(null, full);

        verdict.Possible.ShouldBe(true);
        var says = verdict.Reasons.Single(r => r.Contains("cleaning up"));
        says.ShouldContain("temporary files (6 GB), files of past updates (5 GB), the bin (30 GB, ask first).");
        says.ShouldNotContain("system before this one");
    }

    [Fact]
    public void Where_all_that_can_go_is_too_little_it_says_how_much_is_missing()
    {
        var verdict = Judge(null, ("os.freeBytes", 20_000_000_000L), ("os.binBytes", 3_000_000_000L));

        verdict.Possible.ShouldBe(false);
        verdict.Reasons.ShouldContain(r => r.Contains("9 GB are missing even with the bin (3 GB"));
    }

    [Theory]
    [InlineData("mbr", "0 100; 200 300; 500 800", true)]
    [InlineData("mbr", "0 100; 200 300; 500 800; 1300 90", false)]
    [InlineData("gpt", "0 100; 200 300; 500 800; 1300 90", true)]
    [InlineData(null, "0 100", null)]
    public void What_stays_on_an_mbr_starts_by_uefi_only_when_the_table_can_be_turned(
        string? table,
        string partitions,
        bool? possible
    )
    {
        var facts = Facts.GoodBut([
            .. Upgradable,
            ("firmware.startedBy", "bios"),
            ("storage.0.table", table),
            ("storage.0.partitions", partitions),
        ]);
        var toUefi = Shipped.Catalogue.Cures.Single(c => c.Id == "start-by-uefi");

        InPlace
            .Judge(facts, Shipped.Catalogue.System("tessaly-6-r2")!, Shipped.Catalogue, null, [toUefi])
            .Possible.ShouldBe(possible);
    }
}
