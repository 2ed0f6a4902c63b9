using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Projection;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Core.Tests.Sheets;

namespace FreshBoot.Core.Tests.Projection;

/// <summary>Each step leaves another machine, and every question gets that one's answer.</summary>
public class MachineAtTests
{
    /// <summary>The machine before each step of the main way, by the step's id; the last under an empty id.</summary>
    private static Dictionary<string, MachineAt> Walk(IFacts facts, Route route, RunSheet sheet)
    {
        sheet.Missing.ShouldBeEmpty();
        var machine = MachineAt.Before(facts, Shipped.Catalogue.System(route.System ?? ""), sheet.Start);
        var at = new Dictionary<string, MachineAt>(StringComparer.Ordinal);
        foreach (var step in sheet.Steps.Where(s => s.On is null))
        {
            at[step.Id] = machine;
            machine = machine.Then(step);
        }
        at[""] = machine;
        return at;
    }

    private static Dictionary<string, MachineAt> Walk(Dossier facts, string system, School school)
    {
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.System == system && r.School == school);
        return Walk(facts, route, AnySheets.Of(facts, route));
    }

    [Fact]
    public void Replaced_firmware_starts_other_systems_by_other_keys_from_the_moment_that_it_was_compared()
    {
        var at = Walk(Fleet.Tagged("MR-0411"), "wickerwork-26", School.Reflash);
        var before = at["reflash.reflash-wagtail.verify"];
        FirmwareWays.Of(before).WhyNone.ShouldNotBeNull();
        Shipped.Catalogue.Menus(before).BootMenu.ShouldBe("Press B at the unlocked-start screen");
        before.Word("os.name").ShouldBe("Cloudstead");

        var stick = at["take-stick.take"];
        FirmwareWays.Of(stick).Now.ShouldBe("uefi64");
        Shipped
            .Catalogue.Menus(stick)
            .BootMenu.ShouldBe("Press Esc while the sign of the new firmware is on the screen");
        Shipped.Catalogue.Menus(stick).HasSettings.ShouldBeTrue();
        stick.World["running"].ShouldBe("off");

        at["erase-drive.erase"].Word("os.name").ShouldBe("Cloudstead");
        at["copy.go"].Word("os.name").ShouldBeNull("its partitions are gone");
        at[""].Word("os.name").ShouldBe("Wickerwork 26");
        at[""].Word("firmware.payload").ShouldBe("full");
    }

    [Fact]
    public void Legacy_boot_beside_the_makers_firmware_starts_by_bios_and_its_drive_is_divided_for_that()
    {
        var facts = AnySheets.Chosen(Fleet.Tagged("MR-0413"), "plan.firmware", "keep");
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r is { System: "driftway", School: School.Reflash });
        var question = AnySheets.Question(facts, route);
        var at = Walk(facts, route, RunSheet.Of(question));
        FirmwareWays.Of(at["take-stick.take"]).Now.ShouldBe("bios");
        question.Way.ShouldBe("bios");
        question.Layout!.Scheme.ShouldBe(Core.Layouts.PartitionScheme.Mbr);
        Shipped.Catalogue.Menus(at["take-stick.take"]).HasSettings.ShouldBeFalse();
        at.Keys.ShouldNotContain(k => k.StartsWith("settings", StringComparison.Ordinal));
    }

    /// <summary>Entry of the boot menu, layout, and gate of the installer speak of one mode.</summary>
    [Theory]
    [InlineData(School.Comply, "uefi", "GPT")]
    [InlineData(School.Patch, "bios", "MBR")]
    public void A_machine_that_knows_both_modes_is_one_machine_on_each_way(School school, string way, string table)
    {
        var facts = Fleet.Tagged("MR-0423");
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(AnySheets.Today))
            .First(r => r.System == "tessaly-6-r2" && r.School == school);
        var question = AnySheets.Question(facts, route);
        question.Way.ShouldBe(way);
        $"{question.Layout!.Scheme}".ToUpperInvariant().ShouldBe(table);
        var start = Walk(facts, route, RunSheet.Of(question))["start-installer.boot"];
        start.Word("firmware.startedBy").ShouldBe(way);
        if (school == School.Comply)
            start.Word("tpm.version").ShouldBe("2.0");
    }

    [Fact]
    public void What_a_word_means_is_what_a_machine_with_it_begins_with()
    {
        // The table that joins words and facts says the same in both directions.
        foreach (var key in World.Keys)
        foreach (var value in key.Values)
        {
            var meant = WorldFacts.Meant(key.Key, value, null);
            if (meant.Count == 0 || meant.Values.Contains(null) || key.Key is "outgoing" or "battery" or "usbStart")
                continue;
            var facts = new Overlay(
                Dossier.Empty,
                meant.ToDictionary(m => m.Key, m => m.Value!, StringComparer.Ordinal)
            );
            WorldFacts.Start(facts, isBoard: false, drives: 1)[key.Key].ShouldBe(value, key.Key);
        }
        WorldFacts.Start(Dossier.Empty, isBoard: false, drives: 1)["usbStart"].ShouldBe("unknown");
    }

    /// <summary>Words in any order: the machine is what the last word of each key says, whatever was said between.</summary>
    [Fact]
    public void The_last_word_counts_and_a_moment_differs_from_another_by_what_was_said_between()
    {
        var words = World.Keys.SelectMany(k => k.Values, (k, v) => (k.Key, Value: v)).ToArray();
        Gen.Int[0, words.Length - 1]
            .Array[0, 12]
            .Sample(
                picks =>
                {
                    var facts = Fleet.Tagged("MR-0417");
                    var begin = MachineAt.Before(facts, null, WorldFacts.Start(facts, false, 1));
                    var machine = begin;
                    foreach (var pick in picks)
                        machine = machine.Then(
                            new Dictionary<string, string> { [words[pick].Key] = words[pick].Value }
                        );
                    foreach (var group in picks.GroupBy(p => words[p].Key))
                        machine.World[group.Key].ShouldBe(words[group.Last()].Value);
                    var (leaves, ends) = machine.Since(begin);
                    foreach (var (key, value) in leaves)
                        machine[key].ShouldBe(value);
                    foreach (var key in ends)
                        machine[key].ShouldBeNull();
                    // What nothing was said of is as the dossier has it.
                    foreach (var fact in facts.Facts.Where(f => !leaves.ContainsKey(f.Key) && !ends.Contains(f.Key)))
                        machine[fact.Key].ShouldBe(fact.Value);
                },
                iter: Cases.Of(500)
            );
    }
}
