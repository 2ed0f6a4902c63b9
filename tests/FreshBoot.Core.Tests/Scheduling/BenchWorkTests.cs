using FreshBoot.Core.Procedures;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Runs;
using FreshBoot.Core.Scheduling;
using FreshBoot.Core.Tests.Sheets;

namespace FreshBoot.Core.Tests.Scheduling;

public sealed class BenchWorkTests
{
    private static IReadOnlyList<Step> StepsOf(string tag)
    {
        var facts = Fleet.Tagged(tag);
        var route = AnySheets.Search.Find(facts, new RouteQuestion(AnySheets.Today)).First(r => r.System is not null);
        return AnySheets.Of(facts, route).OrRefused();
    }

    private static BenchChain Of(IReadOnlyList<Step> steps, RunState? state = null, string? with = null) =>
        BenchWork.Of(new MachineToPlan("MR-1", steps, state, null, 5, with), LearnedTimes.Nothing);

    private static RunState After(IReadOnlyList<Step> steps, int done)
    {
        var events = new List<RunEvent>();
        for (var i = 0; i < done; i++)
            events.Add(
                new RunEvent(
                    i + 1,
                    $"{i}",
                    RunEventKinds.Done,
                    steps[i].Id,
                    "Ada",
                    new Dictionary<string, string>(StringComparer.Ordinal),
                    Facts.Noon.AddMinutes(i),
                    ""
                )
            );
        return RunState.Fold(steps, events);
    }

    [Theory]
    [InlineData("MR-0404")]
    [InlineData("MR-0417")]
    [InlineData("MR-0411")]
    [InlineData("MR-0403")]
    public void Every_step_of_a_sheet_stands_in_one_task_in_its_order_and_what_is_done_in_none(string tag)
    {
        var steps = StepsOf(tag);
        string[] main = [.. steps.Where(s => s.On is null).Select(s => s.Id)];
        var whole = Of(steps);
        whole.Tasks.SelectMany(t => t.Steps).ShouldBe(main);
        // Nobody stands longer at one than a stretch, and no wait has hands.
        foreach (var task in whole.Tasks)
        {
            var own = steps.Where(s => task.Steps.Contains(s.Id)).ToArray();
            if (task.Hands)
                (own.Length == 1 || task.Minutes <= BenchWork.Block).ShouldBeTrue();
            else
                own.ShouldHaveSingleItem().Kind.ShouldBe(StepKind.Wait);
        }
        // Whatever is done, the tasks that are left have the names and cuts they had.
        for (var done = 1; done < main.Length; done++)
        {
            if (steps[done - 1].Id != main[done - 1])
                break;
            var left = Of(steps, After(steps, done));
            left.Tasks.SelectMany(t => t.Steps).ShouldBe(main[done..]);
            left.Tasks.Select(t => t.Id).ShouldBe(whole.Tasks.TakeLast(left.Tasks.Count).Select(t => t.Id));
        }
    }

    [Fact]
    public void A_machine_holds_its_bay_to_the_end_and_its_stick_until_it_is_out()
    {
        var steps = StepsOf("MR-0404");
        var chain = Of(steps);
        var bay = chain.Holds.Single(h => h.What == BenchResource.Bay);
        (bay.From, bay.To, bay.Already).ShouldBe((0, chain.Tasks.Count - 1, false));
        var stick = chain.Holds.Single(h => h.What == BenchResource.Stick);
        var held = chain.Tasks.Skip(stick.From).Take(stick.To - stick.From + 1).SelectMany(t => t.Steps).ToArray();
        foreach (
            var step in steps.Where(s => s.On is null && (s.Does.ContainsKey("mediumAt") || s.Uses.Contains("medium")))
        )
            held.ShouldContain(step.Id);
        stick.To.ShouldBeLessThan(bay.To);
        var drops = chain.Holds.Where(h => h.What == BenchResource.Drop).ToArray();
        foreach (var step in steps.Where(s => s is { On: null, Network: true }))
            drops.ShouldContain(h =>
                chain.Tasks.Skip(h.From).Take(h.To - h.From + 1).Any(t => t.Steps.Contains(step.Id))
            );
        // No two holds of one thing meet.
        foreach (var kind in chain.Holds.GroupBy(h => h.What))
        {
            var own = kind.OrderBy(h => h.From).ToArray();
            for (var i = 1; i < own.Length; i++)
                own[i].From.ShouldBeGreaterThan(own[i - 1].To);
        }
    }

    [Fact]
    public void The_chip_programmer_wants_somebody_who_can_and_a_casing_somebody_who_opens_it()
    {
        var chain = Of(StepsOf("MR-0411"));
        chain.Holds.ShouldContain(h => h.What == BenchResource.Programmer);
        chain.Tasks.SelectMany(t => t.Skills).Distinct().ShouldBe([Skill.Casing, Skill.Programmer], ignoreOrder: true);
        Of(StepsOf("MR-0404")).Tasks.SelectMany(t => t.Skills).ShouldBeEmpty();
    }

    [Fact]
    public void What_stopped_is_looked_into_first_and_what_is_in_hand_goes_on()
    {
        var steps = StepsOf("MR-0404");
        var begun = After(steps, 2);
        var inHand = Of(steps, begun, "Ada");
        (inHand.GoesOn, inHand.With).ShouldBe((true, "Ada"));
        inHand.Holds.Single(h => h.What == BenchResource.Bay).Already.ShouldBeTrue();
        var stopped = Of(steps, begun with { Stopped = true }, "Ada");
        stopped.GoesOn.ShouldBeFalse();
        stopped.Tasks[0].Steps.ShouldBe([BenchWork.FaultStep]);
        stopped.Tasks.Skip(1).Select(t => t.Id).ShouldBe(inHand.Tasks.Select(t => t.Id));
        stopped.Holds.Single(h => h.What == BenchResource.Bay).To.ShouldBe(stopped.Tasks.Count - 1);
    }
}
