using CsCheck;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Practice;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Tests.Practice;

/// <summary>The practice bench: a machine that answers, held to the same rules for each scenario that ships.</summary>
public class PracticeTests
{
    private static readonly DateOnly Today = new(2026, 11, 27);

    public static TheoryData<string> All => new(Shipped.Catalogue.Scenarios.Select(s => s.Id));

    private static PracticeBench Bench(string id) =>
        PracticeBench.Of(Shipped.Catalogue.Scenarios.Single(s => s.Id == id), Shipped.Catalogue, Today);

    private static Debriefing Debrief(PracticeBench bench, PracticePlay play) =>
        Debriefing.Of(bench, play, bench.Best(1));

    [Fact]
    public void Ten_scenarios_ship_and_most_of_them_hide_a_fault_or_a_danger()
    {
        var all = Shipped.Catalogue.Scenarios;
        all.Count.ShouldBe(10);
        all.Count(s => s.Fault is not null).ShouldBeGreaterThanOrEqualTo(6);
        all.Count(s => s.Moments.Any(m => m.Choices.Any(c => c is { Ends: true, Right: false })))
            .ShouldBeGreaterThanOrEqualTo(4);
    }

    [Theory]
    [MemberData(nameof(All))]
    public void A_careful_hand_comes_to_a_good_end_with_full_marks(string id)
    {
        var bench = Bench(id);
        var best = bench.Best(1);
        var debriefing = Debrief(bench, best);
        debriefing.EndedWell.ShouldBeTrue();
        debriefing.Score.ShouldBe(new PracticeScore(100, 100, 100, 100));
        best.WrongMends.ShouldBe(0);
        debriefing.Decisive.ShouldNotBeNullOrWhiteSpace();
    }

    [Theory]
    [MemberData(nameof(All))]
    public void What_is_wrong_at_each_moment_costs_what_it_says_and_no_wrong_choice_is_better_than_the_right_one(
        string id
    )
    {
        var bench = Bench(id);
        foreach (var moment in bench.Scenario.Moments)
        foreach (var wrong in moment.Choices.Where(c => !c.Right))
        {
            var play = bench.Play([], 1);
            while (play.Stage != PracticeStage.Ended)
                play.Do(
                    play.Moment == moment ? new PracticeMove(PracticeMoveKind.Chosen, wrong.Text) : bench.BestMove(play)
                );
            var told = Debrief(bench, play);
            told.Score.Safety.ShouldBe(100 - wrong.Harm, $"{moment.Asks} {wrong.Text}");
            told.EndedWell.ShouldBe(!wrong.Ends);
            if (wrong.Ends)
                told.Score.Total.ShouldBeLessThanOrEqualTo(Debriefing.MostOfABadEnd);
            if (wrong.Harm > 0)
            {
                // The debriefing names the very thing that the marks were lost for.
                told.Score.Total.ShouldBeLessThan(100);
                told.Decisive.ShouldBe($"“{wrong.Text}” {wrong.Says}");
            }
        }
    }

    [Theory]
    [MemberData(nameof(All))]
    public void Whatever_is_done_it_stays_within_its_bounds_and_the_same_moves_give_the_same(string id)
    {
        var bench = Bench(id);
        Gen.Int[0, 1_000_000]
            .Sample(
                seed =>
                {
                    var random = new Random(seed);
                    var play = bench.Play([], seed);
                    var moves = new List<PracticeMove>();
                    for (var i = 0; i < 200 && play.Stage != PracticeStage.Ended; i++)
                    {
                        var move = AnyMove(bench, play, random);
                        var (before, stage, entries) = (play.Minutes, play.Stage, play.Log.Count);
                        try
                        {
                            play.Do(move);
                            moves.Add(move);
                        }
                        catch (RefusedException)
                        {
                            // What is refused has changed nothing.
                            (play.Minutes, play.Stage, play.Log.Count).ShouldBe((before, stage, entries));
                        }
                        play.Minutes.ShouldBeGreaterThanOrEqualTo(before);
                    }
                    while (play.Stage != PracticeStage.Ended)
                    {
                        var move = bench.BestMove(play);
                        play.Do(move);
                        moves.Add(move);
                    }
                    var again = bench.Play(moves, seed);
                    again.Log.ShouldBe(play.Log);
                    var told = Debriefing.Of(bench, again, bench.Best(seed));
                    told.ShouldBe(Debriefing.Of(bench, play, bench.Best(seed)));
                    foreach (
                        var part in new[] { told.Score.Total, told.Score.Safety, told.Score.Time, told.Score.Checks }
                    )
                        part.ShouldBeInRange(0, 100);
                    if (!told.EndedWell)
                        told.Score.Total.ShouldBeLessThanOrEqualTo(Debriefing.MostOfABadEnd);
                    return true;
                },
                iter: Cases.Of(10),
                threads: 1
            );
    }

    [Fact]
    public void Going_on_although_the_screen_shows_otherwise_gets_nowhere()
    {
        var (bench, play) = AtTheFault("practice-installer-refuses");
        var step = play.Step;
        play.Screen.ShouldContain(l => l.Contains("does not meet", StringComparison.Ordinal));
        play.Do(new PracticeMove(PracticeMoveKind.Done));
        play.Step.ShouldBe(step);
        play.Log[^1].Harm.ShouldBe(15);
        Finish(bench, play);
        Debrief(bench, play).Decisive.ShouldContain("the screen shows something else");
    }

    [Fact]
    public void The_tag_of_the_machine_beside_it_is_no_slip_of_the_finger()
    {
        var bench = Bench("practice-first-clean");
        var play = bench.Play([], 1);
        while (play.Step!.Kind != StepKind.Confirm || play.Stage != PracticeStage.Step)
            play.Do(bench.BestMove(play));
        Should
            .Throw<RefusedException>(() => play.Do(new PracticeMove(PracticeMoveKind.Done, "PB-1")))
            .Refusal.Wanted.ShouldContain("on its casing");
        play.Do(new PracticeMove(PracticeMoveKind.Done, "pb-02"));
        play.Log[^1].Harm.ShouldBe(40);
        play.Step!.Kind.ShouldBe(StepKind.Confirm);
        play.Do(new PracticeMove(PracticeMoveKind.Done, " pb-01 "));
        play.Step!.Kind.ShouldNotBe(StepKind.Confirm);
    }

    [Fact]
    public void A_check_that_tells_nothing_is_named_with_the_one_that_would_have_told_something()
    {
        var (bench, play) = AtTheFault("practice-unfinished-stick");
        play.Do(new PracticeMove(PracticeMoveKind.Stopped, "medium"));
        var best = play.Next()[0];
        var worst = play.Next()[^1];
        play.Do(new PracticeMove(PracticeMoveKind.Check, worst.Check.Id));
        play.Checks[0].Better!.Check.Id.ShouldBe(best.Check.Id);
        Finish(bench, play);
        var told = Debrief(bench, play);
        told.BetterCheck!.ShouldContain(worst.Check.Text);
        told.BetterCheck!.ShouldContain(best.Check.Text);
        told.Score.Checks.ShouldBeLessThan(100);
        told.Score.Safety.ShouldBe(worst.Check.Risk == CheckRisk.Erases ? 70 : 100);
    }

    [Fact]
    public void What_is_mended_in_vain_costs_marks_and_what_ends_the_work_in_vain_ends_it_badly()
    {
        var (bench, play) = AtTheFault("practice-listed-twice");
        play.Do(new PracticeMove(PracticeMoveKind.Stopped, "medium"));
        play.Do(new PracticeMove(PracticeMoveKind.Mend, "wrong-port"));
        play.Stage.ShouldBe(PracticeStage.Finding);
        play.WrongMends.ShouldBe(1);
        Finish(bench, play);
        Debrief(bench, play).Score.Checks.ShouldBeLessThanOrEqualTo(75);

        var (other, given) = AtTheFault("practice-listed-twice");
        given.Do(new PracticeMove(PracticeMoveKind.GiveUp));
        var told = Debrief(other, given);
        told.EndedWell.ShouldBeFalse();
        told.Decisive.ShouldContain("could have been mended");
    }

    [Fact]
    public void Help_shows_the_chances_and_costs_marks_where_it_was_used()
    {
        var (bench, play) = AtTheFault("practice-beyond-reach");
        play.Do(new PracticeMove(PracticeMoveKind.Help));
        Finish(bench, play);
        Debrief(bench, play).Score.Checks.ShouldBe(70);
    }

    [Fact]
    public void A_way_round_of_the_sheet_leads_past_a_fault_without_a_search()
    {
        var (bench, play) = AtTheFault("practice-six-of-sixteen");
        var way = bench.Scenario.Fault!.Otherwise.Single(o => play.Step!.Branches.Any(b => b.When == o));
        play.Do(new PracticeMove(PracticeMoveKind.Otherwise, way));
        play.Faulty.ShouldBeFalse();
        Finish(bench, play);
        play.Checks.ShouldBeEmpty();
        Debrief(bench, play).EndedWell.ShouldBeTrue();
    }

    [Fact]
    public void A_scenario_whose_sheet_lacks_its_step_says_which()
    {
        var broken = Shipped.Catalogue.Scenarios[0] with { To = "nowhere.at-all" };
        var refused = Should.Throw<RefusedException>(() => PracticeBench.Of(broken, Shipped.Catalogue, Today));
        refused.Message.ShouldContain("nowhere.at-all");
        refused.Refusal.Where.ShouldBe("to");
    }

    private static (PracticeBench, PracticePlay) AtTheFault(string id)
    {
        var bench = Bench(id);
        var play = bench.Play([], 1);
        while (!play.Faulty)
            play.Do(bench.BestMove(play));
        return (bench, play);
    }

    private static void Finish(PracticeBench bench, PracticePlay play)
    {
        while (play.Stage != PracticeStage.Ended)
            play.Do(bench.BestMove(play));
    }

    private static PracticeMove AnyMove(PracticeBench bench, PracticePlay play, Random random)
    {
        var kind = Enum.GetValues<PracticeMoveKind>()[random.Next(9)];
        T? One<T>(IReadOnlyList<T> of) => of.Count == 0 ? default : of[random.Next(of.Count)];
        return new PracticeMove(
            kind,
            kind switch
            {
                PracticeMoveKind.Chosen => One(play.Moment?.Choices ?? [])?.Text ?? "nothing",
                PracticeMoveKind.Done => random.Next(4) == 0
                    ? One(bench.Scenario.Beside)
                    : One(play.Step!.Options) ?? bench.Scenario.Tag,
                PracticeMoveKind.Otherwise => One(play.Step!.Branches)?.When,
                PracticeMoveKind.Stopped => One(Enum.GetNames<Rung>()),
                PracticeMoveKind.Check => One(Shipped.Catalogue.Checks)!.Id,
                PracticeMoveKind.Mend => One(Shipped.Catalogue.Causes)!.Id,
                _ => null,
            }
        );
    }
}
