using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
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

    private static Proof Proof(int line, Dossier now, bool probed = true, RunState? state = null)
    {
        var first = Facts.GoodBut(("identity.serial", "BW-1"));
        return Acceptance
            .Lines(
                first,
                now,
                probed,
                new Plan(new DateOnly(2026, 12, 3)),
                Shipped.Catalogue.System("tessaly-6-r2")!,
                state ?? Done,
                Sameness.Of(first, now, _ => SerialMark.Counts, (_, _) => false),
                null
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
            Acceptance.Lines(
                first,
                probed,
                true,
                new Plan(new DateOnly(2026, 12, 3)),
                Shipped.Catalogue.System("tessaly-6-r2")!,
                Done,
                same,
                looked
            )[4];
    }

    [Fact]
    public void A_relaxation_that_is_open_is_named()
    {
        var open = Done with { Open = ["start from a stick is allowed"] };
        var lines = Acceptance.Lines(
            With(),
            With(),
            true,
            new Plan(new DateOnly(2026, 12, 3)),
            Shipped.Catalogue.System("tessaly-6-r2")!,
            open,
            null,
            null
        );

        lines[5]
            .ShouldBe(
                new AcceptanceLine(
                    "Whatever was opened for the work is closed again",
                    Core.Handover.Proof.Open,
                    "start from a stick is allowed",
                    "Whatever was opened for the work is closed again."
                )
            );
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
            first,
            Facts.GoodBut([.. behind, .. After, ("storage.0.partitions", seen)]),
            true,
            new Plan(new DateOnly(2026, 12, 3)),
            Shipped.Catalogue.System("wickerwork-26")!,
            Done,
            null,
            null
        );
        lines.Single(l => l.Line == "The drive is divided as planned").Proof.ToString().ShouldBe(proof);
    }
}
