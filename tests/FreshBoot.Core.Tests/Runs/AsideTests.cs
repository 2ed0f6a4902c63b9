using System.Text.Json;
using CsCheck;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Tests.Runs;

/// <summary>What is said of a run beside “done”: left out, done otherwise, taken back, laid aside, handed on, tried, changed.</summary>
public sealed class AsideTests
{
    private static readonly Step[] Steps =
    [
        new("look", Rung.Parts, StepKind.Check, "Look.", null, 1, Expect: "It is so."),
        new("open", Rung.Firmware, StepKind.Do, "Open.", null, 1, Opens: "usb"),
        new("copy", Rung.Medium, StepKind.Wait, "Copy.", null, 20, 5, 40),
        new("boot", Rung.Setup, StepKind.Trial, "Start it.", null, 3) { Options = ["one port", "another port"] },
        new("method", Rung.Release, StepKind.Choose, "Choose.", null, 1) { Options = ["clear", "purge"] },
        new("erase", Rung.Disk, StepKind.Confirm, "Erase.", "All is lost.", 2),
        new("close", Rung.Firmware, StepKind.Do, "Close.", null, 1, Closes: "usb"),
        new("prove", Rung.Upkeep, StepKind.Measure, "Prove.", null, 1, Wants: RunRules.Probe),
    ];

    private readonly List<RunEvent> _events = [];
    private DateTimeOffset? _now;

    private RunState State => RunState.Fold(Read, _events);

    private IReadOnlyList<Step> Read => StepEdit.Apply(Steps, _events);

    private string Current => Read[State.Current].Id;

    /// <summary>Says something at the step whose turn it is; a refusal is thrown.</summary>
    private AsideTests Say(string kind, params string[] data)
    {
        var all = Enumerable.Range(0, data.Length / 2).ToDictionary(i => data[2 * i], i => data[(2 * i) + 1]);
        var said = new RunEventIn($"e{_events.Count}", _events.Count, kind, Current, "Pim", all);
        RunRules.Check(
            Read,
            State,
            said,
            new RunContext("MR-0417", ["c"], _ => true, [], _now ?? Facts.Noon.AddDays(1), _ => null)
        );
        foreach (var (key, value) in RunRules.Adds(Read[State.Current], kind, all, [], [], () => "c"))
            all[key] = value;
        _events.Add(new RunEvent(_events.Count + 1, said.EventId, kind, Current, "Pim", all, Facts.Noon, ""));
        return this;
    }

    private string Refused(string kind, params string[] data) =>
        Should.Throw<RefusedException>(() => Say(kind, data)).Message;

    [Fact]
    public void A_wait_that_ended_sooner_than_it_can_is_asked_about_once_and_the_reason_is_kept()
    {
        Say("done").Say("done").Say("begun");
        _now = Facts.Noon.AddSeconds(40);
        Refused("done").ShouldBe("It began 40 s ago, and takes at least 5 min.");
        _now = Facts.Noon.AddMinutes(4);
        Refused("done", RunRules.Despite, " x ").ShouldBe("It began 4 min ago, and takes at least 5 min.");
        Say("done", RunRules.Despite, "another bench had begun it");
        Current.ShouldBe("boot");
        State.Otherwise.ShouldContain(o => o.Contains("another bench", StringComparison.Ordinal));
    }

    [Fact]
    public void A_measured_fact_that_breaks_the_plan_is_asked_about_before_it_is_done()
    {
        var steps = new Step[] { new("name", Rung.Use, StepKind.Measure, "Enter it.", null, 1, Wants: "os.name") };
        Should
            .Throw<RefusedException>(() => Check(null, "It says “Tessaly 5”."))
            .Refusal.ShouldBe(
                new Refusal(
                    RefusalKind.Conflict,
                    "It says “Tessaly 5”.",
                    "data.despite",
                    "Why it is done all the same; the reason is kept."
                )
            );
        Check("the owner wants it so", "It says “Tessaly 5”.");
        Check(null, null);

        void Check(string? despite, string? unexpected) =>
            RunRules.Check(
                steps,
                RunState.Fold(steps, []),
                new RunEventIn(
                    "e",
                    0,
                    "done",
                    "name",
                    "Pim",
                    despite is null
                        ? null
                        : new Dictionary<string, string>(StringComparer.Ordinal) { ["despite"] = despite }
                ),
                new RunContext("MR-0417", [], _ => true, [], Facts.Noon, _ => unexpected)
            );
    }

    [Fact]
    public void A_run_that_stopped_is_given_up_only_with_the_reason_and_with_nothing_left_open()
    {
        Say("done").Say("done");
        Refused("givenUp", "text", "no use", "starts", "yes").ShouldContain("goes on is not given up");
        Say("stopped", "text", "a black screen");
        State.Because.ShouldBe("a black screen");
        Refused("givenUp", "starts", "yes").ShouldContain("“text” is missing");
        Refused("givenUp", "text", "no use").ShouldContain("Whether the machine starts something");
        Refused("givenUp", "text", "no use", "starts", "no").ShouldBe("Something is still open: usb.");
        Say("givenUp", "text", "no use", "starts", "no", "closed", "yes");
        (State.IsOpen, State.FinishedAt, State.Open.Count).ShouldBe((false, null, 0));
        Refused("resumed").ShouldContain("was given up");
        Refused("done").ShouldContain("was given up");
    }

    [Fact]
    public void What_nothing_rests_on_may_be_left_out_with_a_reason_that_the_hand_over_tells()
    {
        Refused("skipped").ShouldContain("“text” is missing");
        Say("skipped", "text", "It has no such part.");
        Current.ShouldBe("open");
        State.Otherwise.ShouldBe(["Left out: Look. It has no such part."]);
        Refused("skipped", "text", "No time.").ShouldContain("Later steps rest on");
    }

    [Fact]
    public void What_was_done_in_another_way_opens_and_closes_what_the_step_does()
    {
        Say("done").Say("deviated", "text", "By its own program.");
        State.Open.ShouldBe(["usb"]);
        State.Otherwise.ShouldBe(["In another way: Open. By its own program."]);
    }

    [Fact]
    public void A_danger_and_a_proof_are_neither_left_out_nor_done_otherwise()
    {
        Until("erase");
        foreach (var kind in new[] { "skipped", "deviated" })
            Refused(kind, "text", "Not today.").ShouldContain("as it stands, or not at all");
        Say("done", "tag", "MR-0417").Say("done").Say("begun");
        foreach (var kind in new[] { "skipped", "deviated" })
            Refused(kind, "text", "Not today.").ShouldContain("A proof is not left out");
    }

    [Fact]
    public void What_was_said_by_mistake_is_taken_back_step_by_step_but_nothing_that_was_erased()
    {
        Refused("undone").ShouldContain("Nothing was said to be done yet");
        Say("done").Say("done");
        State.Open.ShouldBe(["usb"]);
        State.TakesBack.ShouldBe("open");
        Say("undone");
        (Current, State.Open.Count, State.TakesBack).ShouldBe(("open", 0, "look"));
        Say("undone");
        (Current, State.TakesBack).ShouldBe(("look", null));
        Until("erase");
        Say("done", "tag", "MR-0417");
        State.TakesBack.ShouldBeNull();
        Refused("undone").ShouldContain("cannot be taken back");
    }

    [Fact]
    public void A_wait_that_was_begun_or_ended_by_mistake_goes_on_as_it_was()
    {
        Say("done").Say("done").Say("begun");
        var waiting = State.Waiting.ShouldNotBeNull();
        Say("undone");
        State.Waiting.ShouldBeNull();
        Say("begun").Say("done");
        Current.ShouldBe("boot");
        Say("undone");
        (Current, State.Waiting).ShouldBe(("copy", waiting));
    }

    [Fact]
    public void What_is_laid_aside_says_why_and_takes_nothing_but_words_until_it_goes_on()
    {
        Say("paused", "text", "Waits for the module.");
        State.Paused.ShouldBe("Waits for the module.");
        Refused("done").ShouldContain("laid aside");
        Refused("undone").ShouldContain("laid aside");
        Refused("begun").ShouldContain("laid aside");
        Refused("paused", "text", "Again.").ShouldContain("already");
        Say("note", "text", "It comes on Monday.").Say("handed", "to", "Odalys").Say("resumed").Say("done");
        (State.Paused, State.With, Current).ShouldBe((null, "Odalys", "open"));
    }

    [Fact]
    public void A_trial_keeps_what_was_tried_and_ends_with_what_worked()
    {
        Refused("tried", "what", "one port").ShouldContain("tries nothing");
        Until("boot");
        Refused("done").ShouldContain("“worked” is missing");
        Refused("tried").ShouldContain("“what” is missing");
        Say("tried", "what", "one port").Say("done", "worked", "another port");
        State.Trials.Select(t => (t.What, t.Worked)).ShouldBe([("one port", false), ("another port", true)]);
        Say("undone");
        State.Trials.Count.ShouldBe(2, "what was tried was tried");
    }

    [Fact]
    public void A_choice_is_one_of_what_there_is()
    {
        Until("method");
        Refused("done", "chosen", "burn").ShouldContain("Nothing of what there is");
        Say("done", "chosen", "purge");
        Current.ShouldBe("erase");
    }

    [Fact]
    public void A_step_still_to_come_reads_otherwise_for_a_reason_and_one_that_is_over_does_not()
    {
        Refused("edited", "step", "open", "words", "Open it there.").ShouldContain("“text” is missing");
        Refused("edited", "step", "none", "words", "Open.", "text", "Why not.").ShouldContain("no step “none”");
        Refused("edited", "step", "erase", "words", "Erase all.", "text", "Why not.").ShouldContain("cannot be undone");
        Say("edited", "step", "open", "words", "Open it at the left.", "text", "Here it is left.", "offer", "yes");
        Read[1].Text.ShouldBe("Open it at the left.");
        Read[1].Opens.ShouldBe("usb", "what it does stays");
        Say("done").Say("done");
        Refused("edited", "step", "open", "words", "Open.", "text", "Too late.").ShouldContain("is over");
        StepEdit.Of(_events[0])!.Offered.ShouldBeTrue();
    }

    /// <summary>Whatever is said, in whatever order: taking back what was just said leaves the run as it was.</summary>
    [Fact]
    public void Taking_back_restores_what_stood_before() =>
        Gen.Int[0, 6]
            .Select(Gen.Int[0, 4])
            .Sample(
                (until, kind) =>
                {
                    var run = new AsideTests();
                    run.Until(Steps[until].Id);
                    var before = run.State;
                    if (Steps[until].Kind == StepKind.Confirm || (kind == 1 && Steps[until].Carries))
                        return;
                    if (Steps[until].Kind == StepKind.Wait && kind != 1)
                        run.Say("begun");
                    else
                        run.Say(
                            kind == 1 ? "skipped"
                                : kind == 2 ? "deviated"
                                : "done",
                            "text",
                            "Somehow.",
                            "worked",
                            "one port",
                            "chosen",
                            "clear"
                        );
                    run.Say("undone");
                    JsonSerializer
                        .Serialize(run.State)
                        .ShouldBe(JsonSerializer.Serialize(before with { Trials = run.State.Trials }));
                },
                iter: 300
            );

    private void Until(string id)
    {
        while (Current != id)
        {
            if (Read[State.Current].Kind == StepKind.Wait && State.Waiting is null)
                Say("begun");
            Say("done", "tag", "MR-0417", "worked", "one port", "chosen", "clear");
        }
    }
}
