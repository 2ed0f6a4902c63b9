using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Tests.Handover;

public class AcceptanceTests
{
    private static readonly RunState Done = new(5, null, false, [], Facts.Noon);

    private static readonly (string, object?)[] After =
    [
        ("os.name", "Tessaly 6, release 2"),
        ("memory.visibleMiB", 7860),
        ("identity.serial", "BW-1"),
    ];

    private static AcceptanceQuestion Question(IFacts first, IFacts now, bool probed = true, RunState? state = null) =>
        new(
            first,
            now,
            probed ? [] : null,
            new Plan(new DateOnly(2026, 12, 3)),
            Shipped.Catalogue.System("tessaly-6-r2")!,
            [],
            state ?? Done,
            null,
            null
        );

    private static Proof Proof(int line, Dossier now, bool probed = true, RunState? state = null)
    {
        var first = Facts.GoodBut(("identity.serial", "BW-1"));
        return Acceptance
            .Lines(
                Question(first, now, probed, state) with
                {
                    Same = Sameness.Of(first, now, _ => SerialMark.Counts, (_, _) => false),
                }
            )[line]
            .Proof;
    }

    private static Dossier With(params (string, object?)[] changes) => Facts.GoodBut([.. After, .. changes]);

    [Fact]
    public void A_machine_that_is_as_planned_is_proved_on_all_six_lines()
    {
        for (var line = 0; line < 6; line++)
            Proof(line, With()).ShouldBe(Core.Handover.Proof.Proved, $"line {line}");
    }

    [Theory]
    [InlineData(0, "os.name", "Tessaly 5")]
    [InlineData(1, "memory.visibleMiB", 3900)]
    [InlineData(2, "storage.0.sizeBytes", 128_000_000_000L)]
    [InlineData(3, "firmware.startedBy", "bios")]
    [InlineData(4, "identity.serial", "BW-2")]
    public void What_is_otherwise_has_failed(int line, string key, object value) =>
        Proof(line, With((key, value))).ShouldBe(Core.Handover.Proof.Failed);

    [Theory]
    [InlineData(0, "os.name")]
    [InlineData(1, "memory.visibleMiB")]
    [InlineData(2, "storage.0.sizeBytes")]
    [InlineData(3, "firmware.startedBy")]
    [InlineData(4, "identity.serial")]
    public void What_nobody_has_shown_is_open_and_never_proved(int line, string key) =>
        Proof(line, With((key, null))).ShouldBe(Core.Handover.Proof.Open);

    [Theory]
    [InlineData(1, "memory.installedMiB", "enter among the facts what is fitted", "Open")]
    [InlineData(2, "storage.0.sizeBytes", "the plan knew of none before", "Proved")]
    [InlineData(3, "firmware.startedBy", "the plan took it as it came", "Proved")]
    public void What_nobody_knew_before_the_work_is_no_dead_end(int line, string key, string says, string proof)
    {
        var before = Facts.GoodBut((key, null));
        var now = line == 1 ? With((key, null)) : With();
        var told = Acceptance.Lines(Question(before, now))[line];
        told.Says.ShouldContain(says);
        told.Proof.ToString().ShouldBe(proof);
        // Written down now, it counts.
        Acceptance.Lines(Question(before, With()))[line].Proof.ShouldBe(Core.Handover.Proof.Proved);
    }

    [Fact]
    public void Without_a_second_probe_the_first_proves_nothing()
    {
        for (var line = 1; line < 5; line++)
            Proof(line, With(), probed: false).ShouldBe(Core.Handover.Proof.Open, $"line {line}");
    }

    [Fact]
    public void More_memory_than_was_planned_is_no_proof_of_it() =>
        Proof(1, With(("memory.visibleMiB", 24_576))).ShouldBe(Core.Handover.Proof.Failed);

    [Theory]
    [InlineData("identity.serial", null)]
    [InlineData("identity.boardSerial", "B-2")]
    public void What_nothing_proves_a_person_answers_for_by_name(string key, string? now)
    {
        var first = Facts.GoodBut(("identity.serial", "BW-1"), ("identity.boardSerial", "B-1"));
        var probed = key == "identity.serial" ? With((key, now)) : With((key, now), ("identity.serial", "BW-1"));
        var same = Sameness.Of(first, probed, _ => SerialMark.Counts, (_, _) => false);
        Line(null).Proof.ShouldNotBe(Core.Handover.Proof.Proved);
        Line("Pim").Proof.ShouldBe(Core.Handover.Proof.Accepted);
        Line("Pim").Says.ShouldContain("Pim looked");

        AcceptanceLine Line(string? looked) =>
            Acceptance.Lines(Question(first, probed) with { Same = same, Looked = looked })[4];
    }

    [Fact]
    public void A_relaxation_that_is_open_is_named()
    {
        var open = Done with { Open = ["start from a stick is allowed"] };
        var line = Acceptance.Lines(Question(With(), With(), state: open))[5];
        line.Proof.ShouldBe(Core.Handover.Proof.Open);
        (line.Id, line.By, line.Says).ShouldBe(("closed", ProvedBy.Record, "start from a stick is allowed"));
    }

    [Theory]
    [InlineData(1.0, 0, 3, "Proved")]
    [InlineData(0.99, 0, 3, "Proved")]
    [InlineData(0.8, 0, 3, "Failed")]
    [InlineData(1.0, 0, 2, "Failed")]
    [InlineData(1.0, 200_000_000_000, 3, "Failed")]
    public void What_the_new_probe_sees_on_the_drive_is_held_against_the_plan(
        double share,
        long bootStart,
        int count,
        string proof
    )
    {
        (string, object?)[] behind =
        [
            ("firmware.kind", "bios"),
            ("firmware.startedBy", "bios"),
            ("firmware.reachBytes", 137_438_953_472L),
            ("storage.0.sizeBytes", 500_107_862_016L),
        ];
        var first = Facts.GoodBut(behind);
        var planned = Core.Layouts.MachineLayout.Of(first, Shipped.Catalogue.System("wickerwork-26")).Layout!;
        planned.Partitions.Count.ShouldBe(3);
        var seen = string.Join(
            "; ",
            planned
                .Partitions.Take(count)
                .Select(p =>
                    $"{(p.Number == 1 && bootStart > 0 ? bootStart : p.StartLba * 512)} {(long)(p.SizeLba * 512 * share)}"
                )
        );
        var lines = Acceptance.Lines(
            Question(first, Facts.GoodBut([.. behind, .. After, ("storage.0.partitions", seen)])) with
            {
                System = Shipped.Catalogue.System("wickerwork-26")!,
            }
        );
        lines.Single(l => l.Line == "The drive is divided as planned").Proof.ToString().ShouldBe(proof);
    }

    [Fact]
    public void What_the_new_bundle_does_not_say_is_never_told_as_its_word()
    {
        var drive = Acceptance.Lines(Question(With(), With()))[2];
        (drive.By, drive.Evidence).ShouldBe((ProvedBy.Record, null));
        drive.Says.ShouldContain("the new bundle does not say");
        var said = new Reading(
            "storage.0.sizeBytes",
            FactValue.Of(256_000_000_000),
            "lsblk",
            Origin.Probed,
            Facts.Noon
        );
        Acceptance.Lines(Question(With(), With()) with { Probe = [said] })[2].By.ShouldBe(ProvedBy.Probe);
    }

    private static readonly Step[] Sheet =
    [
        Look("devices.sound", "Sound comes out", ["It does not work"]),
        Look("devices.camera", "The camera sees", ["It does not work"]),
        new("prove.probe", Rung.Upkeep, StepKind.Measure, "Probe.", null, 1, Wants: RunRules.Probe),
    ];

    private static Step Look(string id, string proves, string[] branches) =>
        new(id, Rung.Devices, StepKind.Check, "Look.", null, 1)
        {
            Proves = proves,
            Branches = [.. branches.Select(b => new StepBranch(b, null, []))],
        };

    private static RunState Told(params (string Kind, string Step, string? Key, string? Value)[] said) =>
        RunState.Fold(
            Sheet,
            said.Select(
                (e, i) =>
                    new RunEvent(
                        i + 1,
                        $"e{i}",
                        e.Kind,
                        e.Step,
                        "Pim",
                        e.Key is null
                            ? []
                            : new Dictionary<string, string>(StringComparer.Ordinal) { [e.Key] = e.Value! },
                        Facts.Noon,
                        ""
                    )
            )
        );

    [Theory]
    [InlineData(null, null, null, "Open", null)]
    [InlineData("done", null, null, "Proved", null)]
    [InlineData("done", "outcome", "It does not work", "Accepted", "It does not work")]
    [InlineData("skipped", "text", "no speaker in it", "Accepted", "no speaker in it")]
    [InlineData("deviated", "text", "by headphones", "Proved", null)]
    public void A_step_proves_its_line_by_what_was_said_of_it(
        string? kind,
        string? key,
        string? value,
        string proof,
        string? instead
    )
    {
        var state = kind is null ? Told() : Told((kind, "devices.sound", key, value));
        var lines = Acceptance.Lines(Question(With(), With(), state: state) with { Steps = Sheet });
        var sound = lines.Single(l => l.Id == "sound-comes-out");
        (sound.Proof.ToString(), sound.Instead).ShouldBe((proof, instead));
        if (kind is not null)
            sound.Says.ShouldContain("Pim");
        lines.Single(l => l.Id == "the-camera-sees").IsOpen.ShouldBeTrue();
    }

    [Fact]
    public void What_was_taken_back_proves_nothing()
    {
        var state = Told(("done", "devices.sound", null, null), ("undone", "devices.camera", null, null));
        Acceptance
            .Lines(Question(With(), With(), state: state) with { Steps = Sheet })
            .Single(l => l.Id == "sound-comes-out")
            .Proof.ShouldBe(Core.Handover.Proof.Open);
    }

    private static Reading Device(string key, string model, string source) =>
        new(key, FactValue.Of(model), source, Origin.Probed, Facts.Noon);

    [Fact]
    public void A_device_that_the_new_probe_no_longer_sees_fails_and_one_in_its_place_does_not()
    {
        Reading[] before =
        [
            Device("camera.0.model", "Halyard Camera", "lsusb"),
            Device("bluetooth.0.model", "Airlath Bluetooth", "lsusb"),
            Device("network.0.model", "Netherby NB-12", "lspci"),
            Device("network.1.model", "Airlath AL-43", "lspci"),
        ];
        AcceptanceLine? Line(params Reading[] now) =>
            Acceptance
                .Lines(Question(With(), With()) with { ProbedFirst = before, Probe = now })
                .SingleOrDefault(l => l.Id == "devices");

        Line([.. before.Reverse()])!.Proof.ShouldBe(Core.Handover.Proof.Proved);
        var gone = Line(before[1], before[2], before[3])!;
        (gone.Proof, gone.Says, gone.MayAccept).ShouldBe(
            (Core.Handover.Proof.Failed, "gone since: Camera: Halyard Camera", true)
        );
        Line(before[0], before[1], before[2], Device("network.1.model", "Airlath AL-31", "lspci"))!
            .Proof.ShouldBe(Core.Handover.Proof.Proved);
        // Both USB devices gone: the source still speaks, by its ports.
        Line(before[2], before[3], Device("usb.generation", "2.0", "lsusb"))!.Says.ShouldContain("Airlath Bluetooth");
        // A bundle without any of these sources does not look, and says nothing.
        Line(Device("memory.visibleMiB", "1", "meminfo")).ShouldBeNull();
    }

    [Fact]
    public void Somebody_answers_for_what_was_found_and_for_nothing_else()
    {
        var short4 = With(("memory.visibleMiB", 3900));
        var line = Acceptance.Lines(Question(With(), short4))[1];
        RunState Accepting(string found) =>
            Done with
            {
                Accepted = new Dictionary<string, Said>(StringComparer.Ordinal)
                {
                    ["memory"] = new("accepted", null, "the board sees no more", found, "Wen", Facts.Noon, 7),
                },
            };

        var accepted = Acceptance.Lines(Question(With(), short4, state: Accepting(line.Says)))[1];
        (accepted.Proof, accepted.By, accepted.Evidence).ShouldBe(
            (Core.Handover.Proof.Accepted, ProvedBy.Person, "event 7")
        );
        accepted.Says.ShouldContain("Wen answers for it: the board sees no more");
        Acceptance
            .Lines(Question(With(), With(("memory.visibleMiB", 2000)), state: Accepting(line.Says)))[1]
            .Proof.ShouldBe(Core.Handover.Proof.Failed);
    }
}
