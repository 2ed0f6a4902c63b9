using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Tests.Dossiers;

public class DossierTests
{
    [Theory]
    [InlineData(Origin.Chosen, Origin.Probed)]
    [InlineData(Origin.Probed, Origin.Entered)]
    [InlineData(Origin.Entered, Origin.Derived)]
    public void The_stronger_origin_wins_whatever_came_last(Origin stronger, Origin weaker)
    {
        var dossier = Dossier.From([
            Facts.Reading("tpm.version", "2.0", stronger, "a", receipt: 1),
            Facts.Reading("tpm.version", "off", weaker, "b", receipt: 2),
        ]);

        dossier.Word("tpm.version").ShouldBe("2.0");
        dossier.Find("tpm.version")!.Disagreeing.ShouldHaveSingleItem().Source.ShouldBe("b");
    }

    [Fact]
    public void Between_equals_the_last_received_wins_even_when_its_clock_lies()
    {
        var old = Facts.Reading("memory.installedMiB", 4096, source: "first", receipt: 1) with
        {
            TakenAt = Facts.Noon.AddYears(10),
        };
        var dossier = Dossier.From([old, Facts.Reading("memory.installedMiB", 8192, source: "second", receipt: 2)]);

        dossier.Number("memory.installedMiB").ShouldBe(8192);
    }

    [Fact]
    public void Sources_that_agree_are_no_conflict()
    {
        var dossier = Dossier.From([
            Facts.Reading("cpu.flags", new[] { "sse2", "lm" }, source: "lscpu", receipt: 1),
            Facts.Reading("cpu.flags", new[] { "lm", "sse2" }, source: "cpuinfo", receipt: 2),
        ]);

        dossier.Find("cpu.flags")!.Disagreeing.ShouldBeEmpty();
    }

    [Fact]
    public void A_second_probe_drops_what_the_same_source_no_longer_says_and_keeps_what_people_said()
    {
        var first = Dossier.From([
            Facts.Reading("storage.0.sizeBytes", 500_000_000_000, source: "lsblk", receipt: 1),
            Facts.Reading("storage.1.sizeBytes", 250_000_000_000, source: "lsblk", receipt: 2),
            Facts.Reading("identity.serial", "S1", source: "smbios type 1", receipt: 3),
            Facts.Reading("release.owner", "given", Origin.Entered, "asked", receipt: 4),
        ]);

        var second = first.WithProbe([
            Facts.Reading("storage.0.sizeBytes", 250_000_000_000, source: "lsblk", receipt: 5),
        ]);

        second.Number("storage.0.sizeBytes").ShouldBe(250_000_000_000);
        second["storage.1.sizeBytes"].ShouldBeNull();
        second.Word("identity.serial").ShouldBe("S1");
        second.Word("release.owner").ShouldBe("given");
    }

    [Fact]
    public void A_person_may_change_their_word_and_a_choice_stands_beside_it()
    {
        var dossier = Dossier
            .Empty.WithWord(Facts.Reading("tpm.version", "off", Origin.Entered, receipt: 1))
            .WithWord(Facts.Reading("tpm.version", "header", Origin.Entered, receipt: 2))
            .WithWord(Facts.Reading("tpm.version", "2.0", Origin.Chosen, "chosen", receipt: 3));

        dossier.Word("tpm.version").ShouldBe("2.0");
        dossier.Readings.Count.ShouldBe(2);
    }

    [Fact]
    public void What_nobody_measured_is_unknown() => Dossier.Empty["tpm.version"].ShouldBeNull();
}
