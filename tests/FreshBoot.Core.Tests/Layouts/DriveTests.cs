using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Layouts;

namespace FreshBoot.Core.Tests.Layouts;

public class DriveTests
{
    private static readonly DriveSlot Short = new("beside the memory", "M.2", ["sata"], [42], "B", null, null);
    private static readonly DriveSlot Long = new(
        "above the card",
        "M.2",
        ["nvme", "sata"],
        [60, 80],
        "M",
        "SATA ports 5 and 6 go off",
        null
    );
    private static readonly DriveSlot Old = new("on the board", "44-pin", ["ata"], [], null, null, null);

    private static DriveFit Fit(DriveSlot slot, DriveInHand drive) =>
        DriveSlots.Judge([slot], drive, Shipped.Catalogue.Adapters).Single();

    [Fact]
    public void A_short_socket_for_sata_takes_no_nvme_and_says_so()
    {
        var fit = Fit(Short, new DriveInHand("M.2", "nvme", 42, "M"));
        fit.Fits.ShouldBe(false);
        fit.Says.ShouldContain("SATA only");
        Fit(Short, new DriveInHand("M.2", "sata", 80, "B+M"))
            .Says.ShouldContain("80 mm long, and the place holds 42 mm");
        Fit(Short, new DriveInHand("M.2", "sata", 42, "M")).Says.ShouldContain("notch B");
        Fit(Short, new DriveInHand("M.2", "sata", 42, "B+M")).Fits.ShouldBe(true);
    }

    [Fact]
    public void What_nobody_measured_is_left_open_and_what_it_shares_is_said()
    {
        Fit(Long, new DriveInHand("M.2", "nvme", null, "M")).Fits.ShouldBeNull();
        Fit(Long, new DriveInHand("M.2", "nvme", 80)).Fits.ShouldBeNull();
        Fit(Long, new DriveInHand("M.2", "nvme", 42, "M")).Says.ShouldContain("hang loose");
        Fit(Long, new DriveInHand("M.2", "nvme", 80, "M")).Says.ShouldBe("It goes in. SATA ports 5 and 6 go off.");
    }

    [Fact]
    public void An_adapter_between_the_buses_is_named()
    {
        var fit = Fit(Old, new DriveInHand("mSATA", "sata"));
        fit.Fits.ShouldBe(false);
        fit.Adapter!.Id.ShouldBe("adapter-44-msata");
        fit.Says.ShouldContain("reach of the firmware stays");
        Fit(Old, new DriveInHand("M.2", "nvme", 80, "M")).Adapter.ShouldBeNull();
    }

    [Fact]
    public void Of_several_drives_the_rules_take_one_that_starts_is_sound_large_enough_and_quick()
    {
        var facts = Facts.Of(
            ("firmware.kind", "uefi64"),
            ("storage.0.sizeBytes", 1_000_000_000_000L),
            ("storage.0.kind", "disk"),
            ("storage.0.bus", "sata"),
            ("storage.1.sizeBytes", 128_000_000_000L),
            ("storage.1.kind", "flash"),
            ("storage.1.bus", "sata"),
            ("storage.2.sizeBytes", 256_000_000_000L),
            ("storage.2.kind", "flash"),
            ("storage.2.bus", "nvme"),
            ("storage.3.sizeBytes", 16_000_000_000L),
            ("storage.3.kind", "flash"),
            ("storage.3.bus", "nvme")
        );
        int Best(Core.Dossiers.IFacts of) => DriveChoice.Of(of, 28_000_000_000).Single(d => d.Best).Index;

        Best(facts).ShouldBe(2);
        // A legacy BIOS starts nothing from NVMe.
        var bios = new Core.Dossiers.Overlay(
            facts,
            new Dictionary<string, Core.Dossiers.FactValue> { ["firmware.kind"] = Core.Dossiers.FactValue.Of("bios") }
        );
        Best(bios).ShouldBe(1);
        DriveChoice.Of(bios, 28_000_000_000)[2].Against.ShouldContain(a => a.Contains("NVMe"));
        DriveChoice.Of(facts, 28_000_000_000)[3].Against.ShouldContain(a => a.Contains("too small"));
    }
}
