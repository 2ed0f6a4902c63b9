using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Tests.Dossiers;

public class DerivationTests
{
    [Theory]
    [InlineData("Corvane C8-350", "Corvane", "C8")]
    [InlineData("Corvane C10 Joist 900", "Corvane", "C10")]
    [InlineData("Corvane Lite C3-110", "Corvane", "C3")]
    [InlineData("Palisade P3 2200", "Palisade", "P3")]
    public void Processor_names_become_maker_and_generation(string model, string maker, string generation)
    {
        var dossier = Facts.Complete(new Dictionary<string, object> { ["cpu.model"] = model });

        dossier.Word("cpu.maker").ShouldBe(maker);
        dossier.Word("cpu.generation").ShouldBe(generation);
        dossier.Find("cpu.generation")!.Origin.ShouldBe(Origin.Derived);
    }

    [Fact]
    public void A_name_that_is_not_in_the_catalogue_stays_as_read()
    {
        var dossier = Facts.Complete(new Dictionary<string, object> { ["cpu.model"] = "Some other 9000" });

        dossier["cpu.generation"].ShouldBeNull();
        dossier.Word("cpu.model").ShouldBe("Some other 9000");
    }

    [Fact]
    public void What_was_measured_wins_over_what_follows()
    {
        var dossier = Facts.GoodBut(("cpu.generation", "C9"));

        dossier.Word("cpu.generation").ShouldBe("C9");
        dossier.Find("cpu.generation")!.Disagreeing.ShouldHaveSingleItem().Value.ShouldBe(FactValue.Of("C8"));
    }

    [Theory]
    [InlineData("no", "bios", "bios")]
    [InlineData("yes", "bios", "uefi64")]
    [InlineData("yes", "uefi", null)]
    public void The_firmwares_own_table_says_what_it_can_do(string table, string startedBy, string? kind)
    {
        var dossier = Facts.GoodBut(
            ("firmware.kind", null),
            ("firmware.tableNamesUefi", table),
            ("firmware.startedBy", startedBy)
        );

        dossier.Word("firmware.kind").ShouldBe(kind);
    }

    [Fact]
    public void A_start_by_bios_alone_says_nothing_of_what_the_firmware_can_do()
    {
        var dossier = Facts.GoodBut(
            ("firmware.kind", null),
            ("firmware.startedBy", "bios"),
            ("firmware.secureBoot", null)
        );

        dossier["firmware.kind"].ShouldBeNull();
        dossier["firmware.secureBoot"].ShouldBeNull();
    }

    [Fact]
    public void Legacy_firmware_has_no_secure_boot() =>
        Facts
            .GoodBut(("firmware.kind", "bios"), ("firmware.secureBoot", null))
            .Word("firmware.secureBoot")
            .ShouldBe("absent");

    [Fact]
    public void Budget_processors_have_graphics_one_class_lower()
    {
        long? Class(string model) =>
            Facts.Complete(new Dictionary<string, object> { ["graphics.0.model"] = model }).Number("graphics.0.class");

        Class("Corvane C5 graphics").ShouldBe(1);
        Class("Corvane Lite C5 graphics").ShouldBe(0);
        Class("Corvane Lite C3 graphics").ShouldBe(0);
        Class("Lumenar L4").ShouldBe(2);
        Class("PCI 1234:1111").ShouldBeNull();
    }
}
