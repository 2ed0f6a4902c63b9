using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Release;

namespace FreshBoot.Core.Tests.Release;

public class ReleaseCheckTests
{
    private static readonly string[] Keys =
    [
        "release.owner",
        "release.data",
        "release.encryption",
        "release.locks",
        "release.managed",
        "release.check",
    ];

    private static readonly Gen<Dossier> AnyAnswers = Gen.Int[-1, 3]
        .Array[Keys.Length]
        .Select(picks =>
            Dossier.From(
                Keys.Zip(picks)
                    .Where(p => p.Second >= 0 && p.Second < FactRegistry.Get(p.First).Choices.Count)
                    .Select(p =>
                        Facts.Reading(p.First, FactRegistry.Get(p.First).Choices[p.Second].Value, Origin.Entered)
                    )
            )
        );

    [Fact]
    public void Nothing_erases_while_the_data_or_a_lock_is_open() =>
        AnyAnswers.Sample(
            facts =>
            {
                if (ReleaseCheck.Next(facts)?.Id is not ("reset" or "wait" or "connect"))
                    return;
                facts.Word("release.owner").ShouldBe("given");
                facts.Word("release.data").ShouldBeOneOf("not-wanted", "saved", "drive-kept");
                facts.Word("release.locks").ShouldBe("none");
            },
            iter: 5000
        );

    [Fact]
    public void Every_answer_enters_a_fact_that_there_is() =>
        AnyAnswers.Sample(
            facts =>
            {
                foreach (var answer in ReleaseCheck.Next(facts)?.Answers ?? [])
                    FactRegistry.Get(answer.Key).Choices.ShouldContain(c => c.Value == answer.Value);
            },
            iter: 2000
        );

    [Fact]
    public void A_lock_or_a_hold_ends_only_by_the_word_of_whoever_holds_it() =>
        AnyAnswers.Sample(
            facts =>
            {
                if (facts.Word("release.owner") != "given" || ReleaseCheck.Next(facts) is not { Stops: true } question)
                    return;
                question.Answers.Count.ShouldBeInRange(1, 2);
                question.Asks.ShouldNotContain("override");
            },
            iter: 2000
        );

    /// <summary>From nothing known, always the first answer: leave, nothing wanted, not encrypted, no lock, reset, connect, free.</summary>
    [Fact]
    public void The_plain_way_takes_seven_answers()
    {
        var facts = Dossier.Empty;
        var asked = new List<string>();
        while (ReleaseCheck.Next(facts) is { } question && asked.Count < 20)
        {
            asked.Add(question.Id);
            facts = Answer(facts, question.Answers[0], asked.Count);
        }

        asked.ShouldBe(["owner", "data", "encryption", "locks", "reset", "connect", "look"]);
    }

    [Fact]
    public void Released_but_not_heard_waits_and_goes_round_again()
    {
        var facts = Dossier.Empty;
        var answers = new[] { 0, 0, 0, 0, 0, 0, 1 };
        for (var i = 0; i < answers.Length; i++)
            facts = Answer(facts, ReleaseCheck.Next(facts)!.Answers[answers[i]], i);

        ReleaseCheck.Next(facts)!.Id.ShouldBe("wait");
        facts = Answer(facts, ReleaseCheck.Next(facts)!.Answers[0], 20);
        ReleaseCheck.Next(facts)!.Id.ShouldBe("connect");
        facts = Answer(facts, ReleaseCheck.Next(facts)!.Answers[0], 21);
        ReleaseCheck.Next(facts)!.Id.ShouldBe("look", "what was said before the second reset does not count");
        facts = Answer(facts, ReleaseCheck.Next(facts)!.Answers[0], 22);
        ReleaseCheck.Next(facts).ShouldBeNull();
    }

    [Fact]
    public void The_letter_has_both_serial_numbers_and_blanks_for_what_is_not_known()
    {
        var letter = ReleaseLetter.Write(Fleet.Tagged("MR-0412"), "MR-0412", "The workshop", new DateOnly(2026, 12, 3));

        letter.ShouldContain("Serial number of the casing  LS11-90432");
        letter.ShouldContain("Serial number of the board   BLS11-90432");
        letter.ShouldContain("3 December 2026");
        ReleaseLetter
            .Write(Dossier.Empty, "MR-0001", "The workshop", new DateOnly(2026, 12, 3))
            .ShouldContain("Serial number of the casing  ____");
    }

    private static Dossier Answer(Dossier facts, ReleaseAnswer answer, int minute) =>
        facts.WithWord(
            new Reading(
                answer.Key,
                FactValue.Of(answer.Value),
                "test",
                Origin.Entered,
                Facts.Noon.AddMinutes(minute),
                "Pim",
                minute + 1
            )
        );
}
