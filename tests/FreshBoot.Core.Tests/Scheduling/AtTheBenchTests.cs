using FreshBoot.Core.Runs;
using FreshBoot.Core.Scheduling;

namespace FreshBoot.Core.Tests.Scheduling;

public sealed class AtTheBenchTests
{
    private static readonly RunState Open = new(3, null, false, [], null);
    private static readonly RunState Waits = Open with
    {
        Waiting = new Waiting(Facts.Noon, Facts.Noon, Facts.Noon.AddMinutes(20), Facts.Noon.AddMinutes(60)),
    };

    private static OpenRun Run(string tag, string by, int minutesAgo, RunState? state = null) =>
        new(tag, state ?? Open, by, Facts.Noon.AddMinutes(-minutesAgo));

    [Fact]
    public void They_stand_at_the_machine_of_which_they_told_something_last()
    {
        AtTheBench
            .InHand([Run("A", "Ada", 30), Run("B", "Ada", 5), Run("C", "Bo", 10)], Facts.Noon)
            .ShouldBe(new Dictionary<string, string> { ["B"] = "Ada", ["C"] = "Bo" }, ignoreOrder: true);
    }

    [Theory]
    [InlineData(119, true)]
    [InlineData(121, false)]
    public void Somebody_who_told_nothing_for_two_hours_is_elsewhere(int minutesAgo, bool there) =>
        AtTheBench.InHand([Run("A", "Ada", minutesAgo)], Facts.Noon).ContainsKey("A").ShouldBe(there);

    [Fact]
    public void What_waits_stopped_was_laid_aside_or_handed_on_is_in_nobodys_hand()
    {
        foreach (
            var state in new[]
            {
                Waits,
                Open with
                {
                    Stopped = true,
                },
                Open with
                {
                    Paused = "for lunch",
                },
                Open with
                {
                    With = "Bo",
                },
            }
        )
            AtTheBench.InHand([Run("A", "Ada", 5, state)], Facts.Noon).ShouldBeEmpty();
    }

    private static PlannedTask Task(string tag, string step, string? person, int minute) =>
        new(tag, [step], person, Facts.Noon.AddMinutes(minute));

    private static RunState After(params string[] over) =>
        Open with
        {
            Over = over.ToDictionary(
                s => s,
                _ => new Said(RunEventKinds.Done, null, null, null, "Ada", Facts.Noon, 1),
                StringComparer.Ordinal
            ),
        };

    private static readonly PlannedTask[] Plan =
    [
        Task("A", "a1", "Ada", 0),
        Task("A", "a2", null, 30),
        Task("A", "a3", "Ada", 50),
        Task("B", "b1", "Bo", 0),
        Task("B", "b2", "Ada", 30),
        Task("C", "c1", "Ada", 60),
    ];

    private static (string? Step, NowWaits? Waits) Now(string person, params (string Tag, RunState State)[] runs)
    {
        var now = AtTheBench.Now(person, Plan, tag => runs.FirstOrDefault(r => r.Tag == tag).State);
        return (now?.Task.Steps[0], now?.Waits);
    }

    [Fact]
    public void The_first_task_that_is_not_over_comes_first() => Now("Ada").ShouldBe(("a1", NowWaits.Nothing));

    [Fact]
    public void A_machine_that_waits_by_itself_leaves_the_hands_to_the_next() =>
        Now("Ada", ("A", After("a1") with { Waiting = Waits.Waiting })).ShouldBe(("c1", NowWaits.Nothing));

    [Fact]
    public void Where_somebody_else_is_before_it_the_next_is_taken_until_they_are_done()
    {
        Now("Ada", ("A", After("a1", "a2", "a3"))).ShouldBe(("c1", NowWaits.Nothing));
        Now("Ada", ("A", After("a1", "a2", "a3")), ("B", After("b1"))).ShouldBe(("b2", NowWaits.Nothing));
    }

    [Fact]
    public void Where_nothing_can_be_begun_it_says_what_is_waited_for()
    {
        var done = Open with { FinishedAt = Facts.Noon };
        Now("Ada", ("A", After("a1") with { Waiting = Waits.Waiting }), ("B", done), ("C", done))
            .ShouldBe(("a3", NowWaits.Machine));
        Now("Ada", ("A", done), ("C", done)).ShouldBe(("b2", NowWaits.Somebody));
        Now("Ada", ("A", done), ("B", After("b1") with { Paused = "lunch" }), ("C", done))
            .ShouldBe(("b2", NowWaits.LaidAside));
        Now("Ada", ("A", done), ("B", done), ("C", done)).ShouldBe(((string?)null, (NowWaits?)null));
    }

    [Fact]
    public void A_fault_is_looked_for_while_it_is_stopped_and_no_longer()
    {
        PlannedTask[] plan = [Task("A", BenchWork.FaultStep, "Ada", 0), Task("A", "a3", "Ada", 30)];
        AtTheBench
            .Now("Ada", plan, _ => Open with { Stopped = true })!
            .Value.Task.Steps[0]
            .ShouldBe(BenchWork.FaultStep);
        AtTheBench.Now("Ada", plan, _ => Open)!.Value.Task.Steps[0].ShouldBe("a3");
    }
}
