using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Media;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>Runs that went wrong when their sheet was one template, each with what its sheet has to say.</summary>
public class CaseTests
{
    private static RunSheet Sheet(
        string? system,
        School school,
        Order? order,
        Func<Route, bool>? which,
        params (string, object?)[] changes
    )
    {
        var facts = Facts.GoodBut(changes);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.System == system && r.School == school && which?.Invoke(r) != false);
        return AnySheets.Of(facts, route, order: order);
    }

    private static RunSheet Sheet(string? system, School school, params (string, object?)[] changes) =>
        Sheet(system, school, null, null, changes);

    private static int At(RunSheet sheet, string id)
    {
        sheet.Missing.ShouldBeEmpty();
        var at = sheet.Steps.ToList().FindIndex(s => s.Id == id);
        at.ShouldBeGreaterThanOrEqualTo(0, $"{id} in {string.Join(' ', sheet.Steps.Select(s => s.Id))}");
        return at;
    }

    private static void InOrder(RunSheet sheet, params string[] ids) =>
        ids.Select(id => At(sheet, id)).ShouldBeInOrder(SortDirection.Ascending, string.Join(' ', ids));

    private static Step Step(RunSheet sheet, string id) => sheet.Steps[At(sheet, id)];

    private static Order For(bool newOwner) =>
        new("o", "Brackwater Library", "", 1, null, newOwner, false, false, LooksAfter.Owner, []);

    private static readonly (string, object?)[] Ottavine =
    [
        ("identity.maker", "Ottavine"),
        ("identity.model", "Plinth PL-06B"),
    ];

    [Theory]
    [InlineData(0, true)]
    [InlineData(1, false)]
    public void Memory_off_the_shelf_that_no_test_has_passed_is_tested_before_anything_is_installed_with_it(
        int tested,
        bool isTested
    )
    {
        var facts = Facts.GoodBut(
            ("memory.installedMiB", 2048),
            ("memory.visibleMiB", null),
            ("memory.type", "DDR4 SO-DIMM"),
            ("memory.slots", 2),
            ("memory.slotsUsed", 1),
            ("memory.maxMiB", 16384)
        );
        var route = AnySheets
            .Search.Find(
                facts,
                new RouteQuestion(AnySheets.Today, new PartsShelf([new("DDR4 SO-DIMM", 4096, 1, tested)]))
            )
            .First(r => r.Cures.Any(c => c.Does.EndsWith("from the shelf", StringComparison.Ordinal)));
        var sheet = AnySheets.Of(facts, route);
        sheet.Missing.ShouldBeEmpty();
        if (isTested)
        {
            var cure = route.Cures.Single(c => c.Untested == 1).Id;
            InOrder(
                sheet,
                $"fit-memory.{cure}.leave",
                $"test-memory.{cure}.start",
                $"test-memory.{cure}.read",
                "start-installer.boot"
            );
            Step(sheet, $"test-memory.{cure}.read").Wants.ShouldBe("parts.memoryTest");
        }
        else
            sheet.Steps.ShouldNotContain(s => s.Fragment.StartsWith("test-memory", StringComparison.Ordinal));
    }

    private static readonly (string, object?)[] Upgradable =
    [
        ("plan.install", "inPlace"),
        ("os.name", "Tessaly 5"),
        ("os.edition", "Home"),
        ("os.language", "en"),
        ("os.freeBytes", 90_000_000_000L),
        ("os.works", "yes"),
    ];

    [Fact]
    public void A_firmware_update_from_the_old_system_comes_before_its_drive_goes()
    {
        var sheet = Sheet(
            "tessaly-6-r2",
            School.Comply,
            null,
            r => r.Cures.Any(c => c.Id == "firmware-update") && r.Cures.Any(c => c.Id == "drive-sata-240"),
            ("identity.maker", "Brackwater"),
            ("tpm.version", "absent"),
            ("parts.storage", "replace"),
            ("os.name", "Tessaly 5"),
            ("os.works", "yes")
        );
        InOrder(
            sheet,
            "start-outgoing.start",
            "update-firmware.firmware-update.write",
            "stop-outgoing.down",
            "swap-drive.drive-sata-240.out"
        );
        Step(sheet, "update-firmware.firmware-update.write").Kind.ShouldBe(StepKind.Confirm);
    }

    [Fact]
    public void What_stays_on_an_mbr_has_its_table_turned_before_the_mode_and_starts_again_before_the_upgrade()
    {
        var sheet = Sheet(
            "tessaly-6-r2",
            School.Comply,
            For(newOwner: false),
            r => r.Cures.Any(c => c.Id == "start-by-uefi"),
            [
                .. Upgradable,
                ("firmware.startedBy", "bios"),
                ("storage.0.table", "mbr"),
                ("storage.0.partitions", "1048576 100000000; 200000000 50000000000"),
                ("os.freeBytes", 20_000_000_000L),
                ("os.temporaryBytes", 14_000_000_000L),
            ]
        );
        InOrder(
            sheet,
            "backup.open",
            "turn-table.can",
            "turn-table.turn",
            "settings.in",
            "settings.mode-uefi-set-kept",
            "settings.compatibility-off-set",
            "settings.save",
            "start-outgoing.start",
            "make-room.room",
            "upgrade.go"
        );
        Step(sheet, "turn-table.turn").Kind.ShouldBe(StepKind.Confirm);
        sheet.Steps.ShouldNotContain(s => s.Id == "settings.mode-uefi-set");
        var clean = Step(sheet, "make-room.room").Branches[0].Then[0];
        Step(sheet, clean).Text.ShouldContain("temporary files (14 GB)");
    }

    [Fact]
    public void A_board_that_asks_for_a_hardware_id_gets_it_before_it_is_written_and_its_first_start_has_its_time()
    {
        var sheet = Sheet(
            "wickerwork-26",
            School.Reflash,
            ("identity.board", "DIPPER"),
            ("cpu.model", "Corvane C7-1"),
            ("firmware.kind", "locked")
        );
        InOrder(
            sheet,
            "reflash.reflash-dipper.copy",
            "reflash.reflash-dipper.hardware-id",
            "reflash.reflash-dipper.write",
            "reflash.reflash-dipper.first",
            "start-installer.boot"
        );
        Step(sheet, "reflash.reflash-dipper.first").Text.ShouldContain("two green lines, and one beep");
        Sheet("wickerwork-26", School.Reflash, ("identity.board", "WAGTAIL"), ("firmware.kind", "locked"))
            .Steps.ShouldNotContain(s => s.Id == "reflash.reflash-wagtail.hardware-id");
    }

    [Fact]
    public void Firmware_is_replaced_with_a_copy_kept_and_its_protection_comes_back()
    {
        var sheet = Sheet("wickerwork-26", School.Reflash, ("identity.board", "WAGTAIL"), ("firmware.kind", "locked"));
        InOrder(
            sheet,
            "data-unwanted.sure",
            "reflash.reflash-wagtail.protection",
            "reflash.reflash-wagtail.copy",
            "reflash.reflash-wagtail.write",
            "reflash.reflash-wagtail.verify",
            "start-installer.boot",
            "protection-on.on",
            "prove.probe"
        );
    }

    [Fact]
    public void A_loader_on_the_stick_stays_in_until_it_was_moved()
    {
        var sheet = Sheet("canzona-6", School.Spoof, Ottavine);
        sheet.Steps.ShouldNotContain(s => s.Id == "copy.out");
        InOrder(
            sheet,
            "put-identity.identity-pl-08a.same",
            "start-installer.boot",
            "copy.stay-in",
            "second-patches.again",
            "updates.wait",
            "move-loader.move",
            "move-loader.without",
            "prove.probe"
        );
        Step(sheet, "copy.stay-in").Caution!.ShouldContain("starts nothing");
    }

    [Fact]
    public void An_upgrade_begins_in_the_system_that_is_there_and_closes_what_it_opened()
    {
        var sheet = Sheet("tessaly-6-r2", School.Comply, For(newOwner: false), null, Upgradable);
        InOrder(
            sheet,
            "backup.open",
            "start-outgoing.start",
            "make-room.room",
            "upgrade.medium",
            "upgrade.run",
            "upgrade.files"
        );
        sheet.Steps.ShouldNotContain(s => s.Fragment == "start-installer" || s.Fragment == "erase-drive");
        // As its maker made it, no script runs, and none is allowed.
        sheet.Steps.ShouldNotContain(s => s.Opens == "scripts may run");
        sheet.Steps.ShouldNotContain(s => s.Text.Contains("new owner", StringComparison.Ordinal));

        sheet = Sheet(
            "tessaly-6-r1",
            School.Patch,
            For(newOwner: false),
            null,
            [.. Upgradable, ("tpm.version", "absent")]
        );
        InOrder(sheet, "upgrade.scripts", "upgrade.run", "upgrade.wait", "upgrade.scripts-shut", "updates.network");
        Step(sheet, "upgrade.scripts").Opens.ShouldBe("scripts may run");
        Step(sheet, "upgrade.scripts-shut").Closes.ShouldBe("scripts may run");
    }

    [Fact]
    public void What_was_suspended_for_an_upgrade_is_on_again_before_the_updates()
    {
        var sheet = Sheet(
            "tessaly-6-r2",
            School.Comply,
            For(newOwner: false),
            null,
            [.. Upgradable, ("release.encryption", "key-seen"), ("tpm.version", "off")]
        );
        InOrder(sheet, "upgrade.go", "upgrade.files", "resume-encryption.resume", "updates.network");
    }

    [Fact]
    public void An_upgrade_is_refused_where_the_machine_changes_its_owner()
    {
        var sheet = Sheet("tessaly-6-r2", School.Comply, For(newOwner: true), null, Upgradable);
        sheet.Steps.ShouldBeEmpty();
        sheet.Missing.Single().Says.ShouldContain("changes hands");
        Should.Throw<RefusedException>(() => sheet.OrRefused()).Message.ShouldContain("installed clean");
    }

    [Fact]
    public void An_upgrade_that_cannot_be_is_refused_with_its_reasons() =>
        Sheet(
            "tessaly-6-r2",
            School.Comply,
            For(newOwner: false),
            null,
            [.. Upgradable.SkipLast(1), ("os.works", "no")]
        )
            .Missing.Single()
            .Says.ShouldContain("cannot be done over what is there");

    [Fact]
    public void An_unsigned_loader_never_meets_Secure_Boot()
    {
        var sheet = Sheet(
            "pebblemoss-32",
            School.Lighten,
            ("identity.maker", "Brackwater"),
            ("firmware.secureBoot", "on")
        );
        InOrder(sheet, "settings.note", "settings.secureBoot-off-set-stays", "start-installer.boot");
        var off = Step(sheet, "settings.secureBoot-off-set-stays");
        off.Text.ShouldContain("“Secure start” on the page Boot");
        off.Caution!.ShouldContain("say so at hand-over");
        off.Opens.ShouldBe("Secure Boot is off");
        // Where no hand can switch it off there is no such way, and it is told why.
        var locked = Facts.GoodBut([.. Ottavine, ("firmware.secureBoot", "on")]);
        AnySheets
            .Search.Find(locked, new RouteQuestion(AnySheets.Today))
            .ShouldNotContain(r => r.School == School.Spoof);
        AnySheets
            .Search.Missing(locked, Shipped.Catalogue.System("canzona-6")!, new RouteQuestion(AnySheets.Today))
            .Single(m => m.School == School.Spoof)
            .Text.ShouldContain(
                "starts a loader without a signature, and Secure Boot is on. Ottavine ships no settings"
            );
    }

    [Fact]
    public void Only_legacy_boot_is_added_where_the_makers_firmware_is_kept()
    {
        var facts = Facts.GoodBut(
            ("identity.board", "WAGTAIL"),
            ("firmware.kind", "locked"),
            ("plan.firmware", "keep"),
            ("storage.0.sizeBytes", 26_000_000_000L)
        );
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.Cures.Any(c => c.Kind == Outcome.Reflash));
        var sheet = AnySheets.Of(facts, route);
        Step(sheet, "reflash.reflash-wagtail-keep.add").Text.ShouldContain("only the part of the chip");
        Step(sheet, "reflash.reflash-wagtail-keep.verify-legacy").Command.ShouldBe("flash-chip verify legacy-boot.rom");
        sheet.Steps.ShouldNotContain(s => s.Id.EndsWith(".write", StringComparison.Ordinal));
        // From then on it starts by legacy BIOS, and its drive is divided for that.
        AnySheets.Question(facts, route).Way.ShouldBe("bios");
        Step(sheet, "start-installer.boot").Text.ShouldStartWith("Press L at the unlocked-start screen");
    }

    [Fact]
    public void Firmware_that_starts_no_stick_gets_a_disc()
    {
        var sheet = Sheet("wickerwork-26", School.Comply, ("firmware.usbStart", "no"));
        InOrder(sheet, "take-disc.take", "take-disc.tray", "start-installer.boot");
        sheet.Steps.ShouldNotContain(s =>
            s.Fragment == "take-stick" || s.Id.StartsWith("settings.usbStart", StringComparison.Ordinal)
        );
        Step(sheet, "start-installer.boot").Text.ShouldContain("installer disc");
    }

    [Fact]
    public void A_board_has_its_one_medium_and_nothing_erases_it()
    {
        var (tag, facts) = Fleet.Dossiers.First(d => d.Dossier.Word("firmware.kind") == "board");
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.System == "thimble-desk");
        var sheet = AnySheets.Of(facts, route);
        InOrder(sheet, "write-card.which", "write-card.in", "write-card.start", "first-start.desk");
        sheet.Steps.ShouldNotContain(s => s.Fragment == "erase-drive" || s.Fragment == "copy", tag);
    }

    [Fact]
    public void Of_two_drives_the_other_is_unplugged_before_anything_is_erased()
    {
        var sheet = Sheet(
            "wickerwork-26",
            School.Comply,
            ("storage.0.model", "Sill S250"),
            ("storage.0.serial", "SS-2231-4471"),
            ("storage.1.sizeBytes", 250_000_000_000L),
            ("storage.1.model", "Sill S250"),
            ("storage.1.serial", "SS-2231-9902")
        );
        InOrder(sheet, "unplug-others.pull", "erase-drive.erase", "plug-others.in", "prove.probe");
        Step(sheet, "unplug-others.pull").Text.ShouldContain("…9902");
        Step(sheet, "erase-drive.erase").Text.ShouldContain("…4471");
    }

    [Fact]
    public void A_battery_that_is_taken_out_is_out_before_the_machine_is_started_again()
    {
        var sheet = Sheet("wickerwork-26", School.Comply, ("parts.battery", "swollen"));
        // Nothing is plugged in before the bad one is out.
        InOrder(sheet, "new-battery.battery-new.swap", "bench.warm", "bench.adapter", "start-installer.boot");
        Step(sheet, "new-battery.battery-new.off").Caution!.ShouldContain("trained");
    }

    [Fact]
    public void A_paid_extension_is_entered_and_proved()
    {
        var sheet = Sheet(
            "tessaly-5",
            School.Stay,
            null,
            r => r.Cures.Any(c => c.Extends is not null),
            ("os.name", "Tessaly 5"),
            ("os.works", "yes")
        );
        InOrder(sheet, "start-outgoing.start", "stay.is-it", "extension.key", "extension.proof", "prove.probe");
        Step(sheet, "extension.proof").Expect.ShouldBe("Updates until 31 March 2028.");
        sheet.Steps.ShouldNotContain(s => s.Kind == StepKind.Confirm);
    }

    [Theory]
    [InlineData("sound", true)]
    [InlineData("none", false)]
    public void A_machine_that_ends_gives_up_its_battery_only_if_it_has_one(string battery, bool taken)
    {
        var sheet = Sheet(null, School.Retire, ("parts.battery", battery));
        InOrder(sheet, "retire.method", "retire.erase", "retire.verify", "retire.parts", "retire.recycle");
        sheet.Steps.Any(s => s.Id == "retire.battery").ShouldBe(taken);
    }

    [Fact]
    public void Two_untested_modules_go_in_one_after_the_other_with_a_start_between()
    {
        var sheet = Sheet(
            "tessaly-6-r2",
            School.Comply,
            null,
            r => AnySheets.Question(Facts.GoodBut(), r).RouteFacts.Word("route.modules") == "several",
            ("memory.installedMiB", 2048),
            ("memory.group", 2),
            ("memory.slots", 4),
            ("memory.slotsUsed", 2)
        );
        var memory = sheet.Steps.First(s => s.Id.EndsWith(".two", StringComparison.Ordinal)).Fragment;
        InOrder(sheet, $"{memory}.one", $"{memory}.count", $"{memory}.two", $"{memory}.count-2");
    }

    [Fact]
    public void A_table_that_a_person_divides_is_said_with_its_swap()
    {
        var sheet = Sheet("wickerwork-26", School.Comply, ("plan.disk", "byHand"), ("plan.scheme", "mbr"));
        Step(sheet, "erase-drive.by-hand").Text.ShouldContain("table MBR");
        Step(sheet, "erase-drive.by-hand").Text.ShouldContain("8 GiB");
    }

    private static WorkItem Item(WorkItemKind kind, WorkItemState state) =>
        new(
            kind.ToString().ToLowerInvariant(),
            kind,
            Rung.Medium,
            kind == WorkItemKind.Medium ? "Stick 3, from the market" : "tessaly-6-r2.iso",
            state,
            "",
            true,
            [],
            null,
            []
        );

    private static RunSheet With(params WorkItem[] items)
    {
        var facts = Facts.GoodBut();
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r is { System: "tessaly-6-r2", School: School.Comply });
        return AnySheets.Of(facts, route, items);
    }

    [Fact]
    public void A_large_image_on_a_slow_stick_takes_the_time_that_it_takes()
    {
        // 11.8 GB at 3 MB a second there and 12 MB a second back.
        var slow = new MediumFacts(MediumKind.Stick, 16_000_000_000, 2, 3_000_000, 12_000_000);
        const long Bytes = 11_800_000_000;
        var sheet = With(
            Item(WorkItemKind.Image, WorkItemState.Ready) with
            {
                Bytes = Bytes,
            },
            Item(WorkItemKind.Medium, WorkItemState.Missing) with
            {
                Bytes = Bytes,
                Writes = WriteTimes.Of(Bytes, slow),
            }
        );
        var write = Step(sheet, "write-medium.begin");
        var still = Step(sheet, "take-stick.still");
        (still.Kind, still.UsualMinutes, still.WorryMinutes).ShouldBe((StepKind.Wait, 82, 246));
        write.Text.ShouldContain("(12 GB) onto the installer stick");
        write.Text.ShouldContain("for about 82 min, worry after 246");
        InOrder(sheet, "leave.ask", "write-medium.begin", "take-stick.take", "start-installer.boot");
        // What waits begins early: hands are free for the casing and the firmware meanwhile.
        At(sheet, "write-medium.begin").ShouldBeLessThan(At(sheet, "bench.off"));
    }

    [Fact]
    public void A_stick_that_holds_the_image_is_not_written_again() =>
        With(Item(WorkItemKind.Image, WorkItemState.Ready), Item(WorkItemKind.Medium, WorkItemState.Ready))
            .Steps.ShouldNotContain(s => s.Fragment == "write-medium");

    [Theory]
    [InlineData("61207", true)]
    [InlineData("61300", false)]
    public void A_build_with_a_known_defect_says_what_one_sees_and_what_to_do(string build, bool told)
    {
        var sheet = With(
            Item(WorkItemKind.Image, WorkItemState.Ready) with
            {
                Build = build,
            },
            Item(WorkItemKind.Medium, WorkItemState.Ready)
        );
        sheet.Steps.Any(s => s.Id == "known-defect.seen").ShouldBe(told);
        if (!told)
            return;
        Step(sheet, "known-defect.seen").Text.ShouldContain("build 61207: After the keyboard it asks for a network");
        InOrder(sheet, "ask-tessaly.ready", "known-defect.seen", "erase-drive.erase");
    }
}
