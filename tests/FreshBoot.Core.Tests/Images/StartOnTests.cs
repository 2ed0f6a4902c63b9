using FreshBoot.Core.Images;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.Tests.Discs;

namespace FreshBoot.Core.Tests.Images;

public class StartOnTests
{
    [Fact]
    public void Held_against_a_machine_it_names_port_key_and_entry()
    {
        var image = ImageInspector.Look(new MemoryStream(SeedImages.Of("hybrid"))).Inspection with
        {
            Starts = new Starts(
                new(true, "a"),
                new(true, "b"),
                new(true, "c"),
                new(true, "d"),
                new(false, "e"),
                new(false, "f")
            ),
        };
        var facts = Facts.Of(
            ("identity.maker", "Brackwater"),
            ("firmware.kind", "uefi64"),
            ("firmware.startedBy", "bios"),
            ("usb.generation", "3"),
            ("optical.reads", "none")
        );
        var ways = StartOn.Ways(image, facts, Shipped.Catalogue.Menus(facts));
        ways.Where(w => w.Can == true)
            .Select(w => $"{w.Medium} {w.Firmware}")
            .ShouldBe(["stick uefi64", "stick bios"], ignoreOrder: true);
        var stick = ways.First(w => w is { Medium: "stick", Firmware: "uefi64" });
        stick.How[1].ShouldBe("Press F10 at the logo.");
        stick.How[2].ShouldContain("listed twice");
        ways.Where(w => w.Medium == "disc").ShouldAllBe(w => w.Can == false && w.Why.Contains("no disc drive"));
        var menus = Shipped.Catalogue.Menus(facts);
        StartOn.Ways(image, Facts.Of(("firmware.kind", "locked")), menus).Single().Can.ShouldBe(false);
        // What nobody measured is open, not no.
        StartOn.Ways(image, Facts.Of(), menus).ShouldContain(w => w.Can == null);
    }
}
