using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Tests.Dossiers;

/// <summary>Ten probes that came in for a machine, as they come in a shop, and one rule for all pairs.</summary>
public class SamenessTests
{
    private static readonly (string Key, object? Value)[] Machine =
    [
        ("identity.maker", "Brackwater"),
        ("identity.model", "Stile 14"),
        ("identity.serial", "BW-4471"),
        ("identity.board", "STILE-14-A"),
        ("identity.boardSerial", "B-0091"),
        ("cpu.model", "Corvane C8-350"),
        ("network.addresses", new[] { "00:1c:42:00:10:20" }),
        ("storage.0.serial", "SS-1"),
        ("memory.installedMiB", 8192),
    ];

    private static Dossier With(params (string Key, object? Value)[] changes) =>
        Facts.Of([
            .. Machine
                .Where(m => changes.All(c => c.Key != m.Key))
                .Concat(changes)
                .Where(c => c.Value is not null)
                .Select(c => (c.Key, c.Value!)),
        ]);

    private static Sameness Held(Dossier probed, SerialMark mark = SerialMark.Counts, Dossier? known = null) =>
        Sameness.Of(known ?? With(), probed, _ => mark, (_, _) => mark == SerialMark.Given);

    private static readonly (string, object?)[] NoMarks =
    [
        ("identity.serial", null),
        ("identity.boardSerial", null),
        ("network.addresses", null),
        ("storage.0.serial", null),
    ];

    [Fact]
    public void Of_another_machine_of_the_same_model_nothing_agrees()
    {
        var other = Held(
            With(
                ("identity.serial", "BW-9000"),
                ("identity.boardSerial", "B-7"),
                ("network.addresses", new[] { "00:1c:42:99:99:99" }),
                ("storage.0.serial", "SS-9")
            )
        );
        other.Likeness.ShouldBe(Likeness.Foreign);
        other.Proved.ShouldBeFalse();
        other.Differs[0].ShouldBe("Serial number of the casing: BW-9000, and it was BW-4471");
    }

    [Fact]
    public void A_swapped_board_is_asked_about()
    {
        var held = Held(With(("identity.boardSerial", "B-7"), ("network.addresses", new[] { "00:1c:42:99:99:99" })));
        held.Likeness.ShouldBe(Likeness.Asked);
        held.Changed.ShouldBe(["another board", "other network cards"]);
        held.Proved.ShouldBeFalse();
    }

    [Fact]
    public void A_swapped_drive_is_told_and_the_machine_is_proved_all_the_same()
    {
        var held = Held(With(("storage.0.serial", "SS-2")));
        held.Likeness.ShouldBe(Likeness.Same);
        held.Proved.ShouldBeTrue();
        held.Differs.ShouldBe(["Drive: serial SS-2, and it was SS-1"]);
    }

    [Fact]
    public void Without_any_serial_it_is_taken_and_nothing_is_proved()
    {
        var held = Held(With(NoMarks));
        held.Likeness.ShouldBe(Likeness.Same);
        held.Proved.ShouldBeFalse();
    }

    [Fact]
    public void Without_any_serial_another_processor_tells() =>
        Held(With([.. NoMarks, ("cpu.model", "Palisade P4-2")])).Likeness.ShouldBe(Likeness.Foreign);

    [Fact]
    public void Of_twins_with_one_serial_the_board_tells()
    {
        Held(
            With(("identity.boardSerial", "B-7"), ("network.addresses", null), ("storage.0.serial", null)),
            SerialMark.Shared
        )
            .Likeness.ShouldBe(Likeness.Foreign);
        Held(With(), SerialMark.Shared).Proved.ShouldBeTrue();
    }

    [Fact]
    public void Under_a_taken_identity_it_is_still_this_machine()
    {
        var held = Held(With(("identity.serial", "OTMADE7"), ("identity.model", "Plinth PL-08A")), SerialMark.Given);
        held.Likeness.ShouldBe(Likeness.Same);
        held.Proved.ShouldBeTrue();
    }

    [Fact]
    public void Added_memory_says_nothing_of_whose_it_is() =>
        Held(With(("memory.installedMiB", 16_384))).ShouldBe(Held(With()), new Words());

    [Fact]
    public void The_drive_of_this_machine_in_another_one_is_asked_about() =>
        Held(
            With(
                ("identity.serial", "BW-9000"),
                ("identity.boardSerial", "B-7"),
                ("network.addresses", new[] { "00:1c:42:99:99:99" })
            )
        )
            .Likeness.ShouldBe(Likeness.Asked);

    [Fact]
    public void A_machine_of_which_nothing_was_read_takes_its_first_probe() =>
        Held(With(), known: Facts.Of(("identity.model", "Stile 14"))).Likeness.ShouldBe(Likeness.Same);

    [Fact]
    public void Nothing_is_proved_that_does_not_agree_and_what_agrees_wholly_is_never_foreign()
    {
        var random = new Random(20261126);
        string[] keys = ["identity.serial", "identity.boardSerial", "identity.model", "cpu.model", "storage.0.serial"];
        for (var i = 0; i < 2000; i++)
        {
            var (a, b) = (Random(), Random());
            var held = Sameness.Of(a, b, _ => SerialMark.Counts, (_, _) => false);
            var bodies = keys[..2].Where(k => a.Word(k) is not null && b.Word(k) is not null).ToArray();
            if (held.Proved)
                bodies.ShouldContain(k => a.Word(k) == b.Word(k));
            if (bodies.Any(k => a.Word(k) != b.Word(k)))
                held.Likeness.ShouldNotBe(Likeness.Same);
            Sameness.Of(a, a, _ => SerialMark.Counts, (_, _) => false).Likeness.ShouldBe(Likeness.Same);
        }

        Dossier Random() =>
            Facts.Of([.. keys.Where(_ => random.Next(3) > 0).Select(k => (k, (object)$"{k}{random.Next(2)}"))]);
    }

    /// <summary>Two verdicts that say the same.</summary>
    private sealed class Words : IEqualityComparer<Sameness>
    {
        public bool Equals(Sameness? a, Sameness? b) =>
            a!.Likeness == b!.Likeness && a.Proved == b.Proved && a.Differs.SequenceEqual(b.Differs);

        public int GetHashCode(Sameness of) => (int)of.Likeness;
    }
}
