using CsCheck;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Runs;
using FreshBoot.Core.Tests.Sheets;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Runs;

public class RunTests
{
    private static readonly Step[] Steps =
    [
        new("open", Rung.Firmware, StepKind.Do, "Open.", null, 1, Opens: "usb"),
        new("danger", Rung.Disk, StepKind.Confirm, "Erase.", "Lost.", 1),
        new("wait", Rung.Kernel, StepKind.Wait, "Wait.", null, 20, ShortestMinutes: 5, WorryMinutes: 45),
        new("probe", Rung.Upkeep, StepKind.Measure, "Probe.", null, 5, Wants: "probe"),
        new("named", Rung.Upkeep, StepKind.Measure, "Name.", null, 5, Wants: "os.name"),
        new("close", Rung.Firmware, StepKind.Do, "Close.", null, 1, Closes: "usb"),
    ];

    private const string ProofCode = "abcd2345";

    private static readonly Dictionary<string, string> Tag = new(StringComparer.Ordinal) { ["tag"] = "mr-0417 " };

    private static List<RunEvent> Take(
        List<RunEvent> events,
        string kind,
        string step,
        Dictionary<string, string>? data = null,
        bool probed = true,
        bool known = true
    )
    {
        var said = new RunEventIn($"e{events.Count}", events.Count, kind, step, "Pim", data);
        RunRules.Check(
            Steps,
            RunState.Fold(Steps, events),
            said,
            new RunContext("MR-0417", probed ? [ProofCode] : [], _ => known, [], Facts.Noon.AddDays(1), _ => null)
        );
        var bare = new RunEvent(
            events.Count + 1,
            said.EventId,
            kind,
            step,
            "Pim",
            kind == "begun" && Steps.Any(s => s.Id == step && s.Wants == RunRules.Probe)
                ? new Dictionary<string, string>(StringComparer.Ordinal) { ["code"] = ProofCode }
                : data ?? [],
            Facts.Noon.AddMinutes(events.Count),
            ""
        );
        return [.. events, EventChain.Seal(bare, events.Count == 0 ? EventChain.Root("r", null) : events[^1].Hash)];
    }

    private static Refusal Refused(
        List<RunEvent> events,
        string kind,
        string step,
        Dictionary<string, string>? data = null,
        bool probed = true,
        bool known = true
    ) => Should.Throw<RefusedException>(() => Take(events, kind, step, data, probed, known)).Refusal;

    private static List<RunEvent> UpTo(string step)
    {
        var events = new List<RunEvent>();
        foreach (var next in Steps.TakeWhile(s => s.Id != step))
        {
            if (next.Kind == StepKind.Wait || next.Wants == RunRules.Probe)
                events = Take(events, "begun", next.Id);
            events = Take(events, "done", next.Id, next.Kind == StepKind.Confirm ? Tag : null);
        }
        return events;
    }

    [Fact]
    public void A_run_goes_through_its_steps_in_order_and_closes_what_it_opened()
    {
        RunState.Fold(Steps, UpTo("wait")).Open.ShouldBe(["usb"]);
        var state = RunState.Fold(Steps, UpTo("nothing"));

        state.Current.ShouldBe(Steps.Length);
        state.Open.ShouldBeEmpty();
        state.FinishedAt.ShouldNotBeNull();
    }

    [Fact]
    public void Only_a_plain_line_is_said_in_one_with_the_others_of_its_stop()
    {
        var inOne = new Dictionary<string, string>(Tag, StringComparer.Ordinal) { [RunRules.InOne] = "yes" };
        Take([], "done", "open", inOne).Count.ShouldBe(1);
        foreach (var step in (string[])["danger", "probe", "named"])
        {
            var events = UpTo(step);
            if (step == "probe")
                events = Take(events, "begun", step);
            Refused(events, "done", step, inOne).Where.ShouldBe("data.inOne", step);
            Take(events, "done", step, Tag).Count.ShouldBe(events.Count + 1);
        }
    }

    [Fact]
    public void A_wait_ends_at_instants_of_the_wall_clock()
    {
        var events = Take(UpTo("wait"), "begun", "wait");
        var waiting = RunState.Fold(Steps, events).Waiting!;

        waiting.ShortestAt.ShouldBe(waiting.BegunAt.AddMinutes(5));
        waiting.UsualAt.ShouldBe(waiting.BegunAt.AddMinutes(20));
        waiting.WorryAt.ShouldBe(waiting.BegunAt.AddMinutes(45));
    }

    [Theory]
    [InlineData("open", "done", "danger")]
    [InlineData("open", "done", "no-such-step")]
    [InlineData("open", "begun", "open")]
    [InlineData("open", "resumed", "open")]
    [InlineData("open", "finished", "open")]
    [InlineData("wait", "done", "wait")]
    [InlineData("danger", "done", "danger")]
    [InlineData("nothing", "done", "close")]
    public void What_is_out_of_order_is_refused_with_what_would_be_right(string at, string kind, string step) =>
        Refused(UpTo(at), kind, step).Wanted.ShouldNotBeEmpty();

    [Fact]
    public void A_danger_step_wants_the_tag_of_this_machine()
    {
        Refused(UpTo("danger"), "done", "danger", new(StringComparer.Ordinal) { ["tag"] = "MR-0418" })
            .Where.ShouldBe("data.tag");
        Take(UpTo("danger"), "done", "danger", Tag).Count.ShouldBe(2);
    }

    [Fact]
    public void A_measurement_has_to_be_there_first()
    {
        Refused(UpTo("probe"), "done", "probe", probed: false).What.ShouldContain("has not given its code");
        Refused(UpTo("named"), "done", "named", known: false).What.ShouldContain("os.name");
    }

    [Fact]
    public void A_stopped_run_goes_on_only_when_somebody_says_so()
    {
        var stopped = Take(UpTo("danger"), "stopped", "danger");
        Refused(stopped, "done", "danger", Tag).What.ShouldContain("stopped");
        Refused(stopped, "stopped", "danger").ShouldNotBeNull();
        Take(Take(stopped, "resumed", "danger"), "done", "danger", Tag).Count.ShouldBe(4);
    }

    [Fact]
    public void The_chain_breaks_where_an_event_was_changed_removed_or_moved()
    {
        var events = UpTo("nothing");
        EventChain.Broken(EventChain.Root("r", null), events, events.Count).ShouldBeNull();
        EventChain.Broken(EventChain.Root("other", null), events, events.Count).ShouldBe(1);
        Gen.Int[0, events.Count - 1]
            .Sample(at =>
            {
                EventChain
                    .Broken(
                        EventChain.Root("r", null),
                        [.. events.Select((e, i) => i == at ? e with { By = "Odalys" } : e)],
                        events.Count
                    )
                    .ShouldBe(at + 1);
                EventChain
                    .Broken(
                        EventChain.Root("r", null),
                        [.. events.Select((e, i) => i == at ? e with { At = e.At.AddMilliseconds(1) } : e)],
                        events.Count
                    )
                    .ShouldBe(at + 1);
                EventChain
                    .Broken(EventChain.Root("r", null), [.. events.Where((_, i) => i != at)], events.Count)
                    .ShouldBe(at + 1);
            });
        EventChain.Broken(EventChain.Root("r", null), events[..^1], events.Count).ShouldBe(events.Count);
    }

    [Fact]
    public void A_row_of_another_content_has_another_seal_and_another_chain()
    {
        string?[] row = ["r", "1", "{route}", "[steps]", "[dossier]", "5", "hash", null, "Pim", "1764547200000"];
        var seals = Enumerable
            .Range(0, row.Length)
            .Select(i => EventChain.SealOf([.. row.Select((part, at) => at == i ? part + "x" : part)]))
            // Absent is another than empty.
            .Append(EventChain.SealOf([.. row.Select(part => part ?? "")]))
            .Append(EventChain.SealOf(row))
            .ToArray();
        seals.Distinct().Count().ShouldBe(seals.Length);
        seals
            .Select(s => EventChain.Root("r", s))
            .Append(EventChain.Root("r", null))
            .Distinct()
            .Count()
            .ShouldBe(seals.Length + 1);
    }

    [Fact]
    public void Whatever_is_said_in_whatever_order_the_state_stays_within_the_sheet() =>
        Gen.Select(Pick.From("done", "begun", "note", "stopped", "resumed"), Gen.Int[0, Steps.Length - 1])
            .Array[0, 40]
            .Sample(said =>
            {
                var events = new List<RunEvent>();
                foreach (var (kind, step) in said)
                    try
                    {
                        events = Take(events, kind, Steps[step].Id, Tag);
                    }
                    catch (RefusedException)
                    {
                        // A refusal changes nothing.
                    }
                var state = RunState.Fold(Steps, events);
                return state.Current == events.Count(e => e.Kind == "done")
                    && EventChain.Broken(EventChain.Root("r", null), events, events.Count) is null;
            });

    private static IReadOnlyList<Step> Sheet(string system, School school, params (string, object?)[] changes)
    {
        var facts = Facts.GoodBut(changes);
        var route = new RouteSearch(Shipped.Catalogue)
            .Find(facts, new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.System == system && r.School == school);
        return [.. AnySheets.Of(facts, route).Steps.Where(s => s.On is null)];
    }

    [Fact]
    public void The_sheet_has_every_cure_names_the_drive_and_closes_what_it_opens()
    {
        var steps = Sheet("tessaly-6-r2", School.Comply, ("tpm.version", "off"), ("memory.installedMiB", 4096));

        steps.Select(s => s.Id).ShouldBeUnique();
        steps.ShouldContain(s => s.Id == "settings.tpm-firmware-find" && s.Caution!.Contains("Never clear"));
        steps.ShouldContain(s => s.Kind == StepKind.Confirm && s.Text.Contains("250 GB"));
        steps
            .Where(s => s.Opens is not null)
            .Select(s => s.Opens)
            .ShouldBe(steps.Where(s => s.Closes is not null).Select(s => s.Closes), ignoreOrder: true);
        steps.Where(s => s.Kind == StepKind.Type).ShouldAllBe(s => s.Command != null && s.Expect != null);
        steps
            .Where(s => s.Kind == StepKind.Wait)
            .ShouldAllBe(s => s.ShortestMinutes <= s.UsualMinutes && s.UsualMinutes <= s.WorryMinutes);
    }

    [Fact]
    public void Replacement_firmware_has_one_order()
    {
        var steps = Sheet("wickerwork-26", School.Reflash, ("identity.board", "WAGTAIL"), ("firmware.kind", "locked"))
            .Select(s => s.Id)
            .ToList();
        string[] order = ["unlocked", "board", "protection", "read", "copy", "write", "verify"];

        order
            .Select(id =>
                steps.FindIndex(s =>
                    s.StartsWith("reflash.", StringComparison.Ordinal) && s.EndsWith($".{id}", StringComparison.Ordinal)
                )
            )
            .ShouldBeInOrder();
        steps.ShouldContain("protection-on.on");
    }

    private static readonly Step Boot = new("boot", Rung.Setup, StepKind.Do, "Start it.", null, 3)
    {
        Uses = ["image", "medium"],
    };

    private static WorkItem Item(string id, WorkItemState state, bool needed = true) =>
        new(
            id,
            WorkItemKind.Image,
            Rung.Medium,
            $"The {id}",
            state,
            "Somebody changed it.",
            needed,
            [new("image", "ab12")],
            null,
            []
        );

    private static void Say(string kind, string? despite, params WorkItem[] items) =>
        RunRules.Check(
            [Boot],
            RunState.Fold([Boot], []),
            new RunEventIn(
                "e",
                0,
                kind,
                "boot",
                "Pim",
                despite is null
                    ? new Dictionary<string, string>(StringComparer.Ordinal) { ["to"] = "Odalys" }
                    : new Dictionary<string, string>(StringComparer.Ordinal) { ["despite"] = despite }
            ),
            new RunContext("MR-0417", [], _ => true, items, Facts.Noon.AddDays(1), _ => null)
        );

    [Theory]
    [InlineData(WorkItemState.Missing, "missing")]
    [InlineData(WorkItemState.Stale, "stale")]
    public void A_step_is_held_while_one_of_its_items_does_not_hold(WorkItemState state, string says)
    {
        WorkItem[] items = [Item("image", WorkItemState.Ready), Item("medium", state)];
        var refusal = Should.Throw<RefusedException>(() => Say("done", null, items)).Refusal;
        refusal.What.ShouldBe($"The medium is {says}: Somebody changed it.");
        refusal.Where.ShouldBe("item medium");
        Should.Throw<RefusedException>(() => Say("done", "  ok ", items));
        Say("done", "written elsewhere", items);
        Say("handed", null, items);
        Say("stopped", null, items);
    }

    [Fact]
    public void An_item_that_the_plan_has_no_more_holds_a_step_too() =>
        Should
            .Throw<RefusedException>(() => Say("done", null, Item("image", WorkItemState.Ready)))
            .Refusal.Where.ShouldBe("item medium");

    [Fact]
    public void Items_that_are_ready_not_needed_or_of_another_step_hold_nothing() =>
        Say(
            "done",
            null,
            Item("image", WorkItemState.Ready),
            Item("medium", WorkItemState.Missing, needed: false),
            Item("recipe-x", WorkItemState.Stale)
        );

    [Fact]
    public void The_record_has_what_was_used_and_from_what_but_nothing_that_was_not_there()
    {
        var adds = RunRules.Adds(
            Boot,
            "done",
            null,
            [
                Item("image", WorkItemState.Stale),
                Item("medium", WorkItemState.Missing),
                Item("other", WorkItemState.Ready),
            ],
            [],
            () => "code"
        );
        adds["used"].ShouldBe("The image (image ab12, stale)");
        RunRules.Adds(Boot, "note", null, [Item("image", WorkItemState.Ready)], [], () => "code").ShouldBeEmpty();
    }

    private static readonly Shortfall[] TooShort =
    [
        new("memory", "All memory is seen", "6 GiB of 16 GiB", true),
        new("system", "It runs Wickerwork 26", "it says Tessaly 5", false),
    ];

    private static void AtProof(string kind, Dictionary<string, string>? data, params Shortfall[] shortfalls)
    {
        var events = Take(UpTo("probe"), "begun", "probe");
        RunRules.Check(
            Steps,
            RunState.Fold(Steps, events),
            new RunEventIn("e", events.Count, kind, "probe", "Pim", data),
            new RunContext("MR-0417", [ProofCode], _ => true, [], Facts.Noon, _ => null) { Shortfalls = shortfalls }
        );
    }

    [Fact]
    public void What_the_new_probe_shows_otherwise_holds_the_proof_until_it_is_mended_or_somebody_answers_for_it()
    {
        AtProof("done", null);
        var refusal = Should.Throw<RefusedException>(() => AtProof("done", null, TooShort[..1])).Refusal;
        refusal.What.ShouldContain("All memory is seen: 6 GiB of 16 GiB");
        refusal.Wanted.ShouldContain("accepted");
        Should
            .Throw<RefusedException>(() => AtProof("done", null, TooShort))
            .Refusal.Wanted.ShouldNotContain("accepted");
        AtProof("stopped", null, TooShort);
    }

    [Theory]
    [InlineData("memory", "the board sees no more", true)]
    [InlineData("memory", " ", false)]
    [InlineData("system", "it will do", false)]
    [InlineData("devices", "nobody needs it", false)]
    public void Somebody_answers_only_for_what_was_found_and_may_stay(string line, string why, bool may)
    {
        var data = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            [RunRules.LineKey] = line,
            [RunRules.Text] = why,
        };
        if (may)
        {
            AtProof("accepted", data, TooShort);
            RunRules
                .Adds(Steps[0], "accepted", data, [], TooShort, () => "c")[RunRules.FoundKey]
                .ShouldBe("6 GiB of 16 GiB");
        }
        else
            Should.Throw<RefusedException>(() => AtProof("accepted", data, TooShort));
        // Said without a line it is refused, and nothing is added.
        data.Remove(RunRules.LineKey);
        Should.Throw<RefusedException>(() => AtProof("accepted", data, TooShort));
        RunRules.Adds(Steps[0], "accepted", data, [], TooShort, () => "c").ShouldBeEmpty();
    }

    private static readonly Step[] Ways =
    [
        new("look", Rung.Setup, StepKind.Check, "Look.", null, 1, Expect: "It is listed.", Opens: "usb")
        {
            Branches =
            [
                new StepBranch("It is not listed", null, ["port", "again"]),
                new("It burns", "Off, and out.", []),
            ],
        },
        new("port", Rung.Setup, StepKind.Do, "Another port.", null, 1)
        {
            On = new BranchPlace("look", "It is not listed"),
        },
        new("again", Rung.Setup, StepKind.Do, "Once more.", null, 1, Opens: "usb")
        {
            On = new BranchPlace("look", "It is not listed"),
        },
        new("type", Rung.Setup, StepKind.Type, "Type.", null, 1, Command: "x", Expect: "EQUAL", Closes: "usb"),
    ];

    /// <summary>Says things one after the other, as the server does; a refusal is thrown.</summary>
    private static RunState Follow(params (string Kind, string Step, Dictionary<string, string>? Data)[] said)
    {
        var events = new List<RunEvent>();
        foreach (var (kind, id, data) in said)
        {
            var state = RunState.Fold(Ways, events);
            var word = new RunEventIn($"e{events.Count}", events.Count, kind, id, "Pim", data);
            RunRules.Check(
                Ways,
                state,
                word,
                new RunContext("MR-0417", [], _ => true, [], Facts.Noon.AddDays(1), _ => null)
            );
            var all = new Dictionary<string, string>(data ?? [], StringComparer.Ordinal);
            foreach (var (key, value) in RunRules.Adds(Ways[state.Current], kind, data, [], [], () => "c"))
                all[key] = value;
            events.Add(new RunEvent(events.Count + 1, word.EventId, kind, id, "Pim", all, Facts.Noon, ""));
        }
        return RunState.Fold(Ways, events);
    }

    private static (string, string, Dictionary<string, string>?) Said(string kind, string step, params string[] data) =>
        (
            kind,
            step,
            data.Length == 0
                ? null
                : Enumerable.Range(0, data.Length / 2).ToDictionary(i => data[2 * i], i => data[(2 * i) + 1])
        );

    [Fact]
    public void As_it_should_go_the_steps_of_branches_are_passed_over()
    {
        var state = Follow(Said("done", "look"));
        Ways[state.Current].Id.ShouldBe("type");
        state.Open.ShouldBe(["usb"]);
    }

    [Fact]
    public void A_branch_is_gone_along_in_the_place_of_its_step_and_comes_back()
    {
        var state = Follow(Said("done", "look", "outcome", "It is not listed"));
        Ways[state.Current].Id.ShouldBe("port");
        state.Open.ShouldBeEmpty();
        state = Follow(
            Said("done", "look", "outcome", "It is not listed"),
            Said("done", "port"),
            Said("done", "again")
        );
        Ways[state.Current].Id.ShouldBe("type");
        state.Open.ShouldBe(["usb"]);
    }

    [Fact]
    public void A_branch_that_stops_says_why_and_the_same_step_comes_again()
    {
        var state = Follow(Said("done", "look", "outcome", "It burns"));
        (state.Stopped, state.Because, state.Current).ShouldBe((true, "Off, and out.", 0));
        state = Follow(Said("done", "look", "outcome", "It burns"), Said("resumed", "look"), Said("done", "look"));
        (state.Stopped, state.Because).ShouldBe((false, null));
        Ways[state.Current].Id.ShouldBe("type");
    }

    [Fact]
    public void A_way_that_a_step_has_not_is_refused() =>
        Should
            .Throw<RefusedException>(() => Follow(Said("done", "look", "outcome", "It sings")))
            .Message.ShouldContain("no way on");

    [Fact]
    public void What_was_printed_wrong_holds_the_step_until_it_is_right_or_somebody_says_why()
    {
        var wrong = Said("output", "type", "text", "a and b differ");
        Follow(Said("done", "look"), wrong).Output!.Verdict.ShouldBe(OutputVerdict.Wrong);
        Should
            .Throw<RefusedException>(() => Follow(Said("done", "look"), wrong, Said("done", "type")))
            .Message.ShouldContain("a and b differ");
        Follow(Said("done", "look"), wrong, Said("output", "type", "text", "EQUAL"), Said("done", "type"))
            .FinishedAt.ShouldNotBeNull();
        Follow(Said("done", "look"), wrong, Said("done", "type", "despite", "the other copy is the right one"))
            .FinishedAt.ShouldNotBeNull();
        Should.Throw<RefusedException>(() => Follow(Said("output", "look", "text", "EQUAL")));
    }
}
