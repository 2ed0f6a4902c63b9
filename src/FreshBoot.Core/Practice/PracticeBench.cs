using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;

namespace FreshBoot.Core.Practice;

/// <summary>
/// A machine to practise on: the dossier of a scenario, its route and the stretch of its sheet, found and composed by the same
/// rules as any machine's. What somebody does is a list of moves; all that follows is worked out from it, and nothing is kept.
/// </summary>
public sealed class PracticeBench
{
    private readonly IReadOnlyList<CauseEntry> _causes;
    private readonly IReadOnlyList<CheckEntry> _checks;

    private PracticeBench(
        ScenarioEntry scenario,
        IReadOnlyList<Step> steps,
        SheetQuestion question,
        ShopCatalogue catalogue
    )
    {
        Scenario = scenario;
        Steps = steps;
        Question = question;
        _causes = catalogue.Causes;
        _checks = catalogue.Checks;
    }

    /// <summary>What is practised.</summary>
    public ScenarioEntry Scenario { get; }

    /// <summary>The steps from its first to its last, on the main way.</summary>
    public IReadOnlyList<Step> Steps { get; }

    /// <summary>What its sheet was composed from.</summary>
    public SheetQuestion Question { get; }

    /// <summary>The cause that nobody has told of; null where nothing is wrong.</summary>
    public CauseEntry? Cause => Scenario.Fault is { } fault ? _causes.FirstOrDefault(c => c.Id == fault.Cause) : null;

    /// <summary>Sets the machine of a scenario up.</summary>
    /// <exception cref="RefusedException">There is no such route, no sheet for it, or a step that the scenario names is not on it.</exception>
    public static PracticeBench Of(ScenarioEntry scenario, ShopCatalogue catalogue, DateOnly today)
    {
        var noon = new DateTimeOffset(today.ToDateTime(new TimeOnly(12, 0)), TimeSpan.Zero);
        var dossier = Derivation.Complete(
            scenario.Facts.Select(f => new Reading(f.Key, f.Value, "scenario", Origin.Probed, noon, Receipt: 1)),
            catalogue
        );
        var route =
            new RouteSearch(catalogue)
                .Find(dossier, new RouteQuestion(today, System: scenario.System))
                .FirstOrDefault(r => r.System == scenario.System && r.School == scenario.School)
            ?? throw Unfit(scenario, $"Its machine has no route to {scenario.System} of this school.", "school");
        var question = new SheetQuestion(
            scenario.Tag,
            dossier,
            route,
            catalogue.System(scenario.System),
            catalogue,
            [],
            null
        );
        var way = RunSheet.Of(question).OrRefused().Where(s => s.On is null).ToArray();
        int At(string step, string where) =>
            Array.FindIndex(way, s => s.Id == step) is >= 0 and var at
                ? at
                : throw Unfit(scenario, $"Its sheet has no step {step}.", where);
        var (from, to) = (At(scenario.From, "from"), At(scenario.To, "to"));
        if (to < from)
            throw Unfit(scenario, "It ends before it begins.", "to");
        var steps = way[from..(to + 1)];
        foreach (
            var (step, where) in scenario
                .Moments.Select(m => (m.At, "moments"))
                .Concat(scenario.Fault is { } fault ? [(fault.At, "fault/at")] : [])
        )
            if (steps.All(s => s.Id != step))
                throw Unfit(scenario, $"The step {step} is not between its first and its last.", where);
        return new PracticeBench(scenario, steps, question, catalogue);
    }

    /// <summary>How it stands after these moves.</summary>
    /// <param name="moves">What was done, the first first.</param>
    /// <param name="seed">What of a check’s answers is left to chance hangs on it.</param>
    /// <exception cref="RefusedException">A move that cannot be made there; all before it could.</exception>
    public PracticePlay Play(IReadOnlyList<PracticeMove> moves, int seed)
    {
        var play = new PracticePlay(this, seed);
        foreach (var move in moves)
            play.Do(move);
        return play;
    }

    /// <summary>How it goes where nobody makes a mistake and the fault finder is followed.</summary>
    public PracticePlay Best(int seed)
    {
        var play = new PracticePlay(this, seed);
        while (play.Stage != PracticeStage.Ended)
            play.Do(BestMove(play));
        return play;
    }

    /// <summary>What a careful hand does next.</summary>
    public PracticeMove BestMove(PracticePlay play) =>
        play.Stage switch
        {
            PracticeStage.Moment => new(PracticeMoveKind.Chosen, play.Moment!.Choices.First(c => c.Right).Text),
            PracticeStage.Finding when play.Next() is [var next, ..] && play.Answers.Count < MostChecks => new(
                PracticeMoveKind.Check,
                next.Check.Id
            ),
            PracticeStage.Finding => new(PracticeMoveKind.Mend, Cause!.Id),
            _ when play.Faulty => new(PracticeMoveKind.Stopped, RouteKeys.Camel(Cause!.Rung.ToString())),
            _ => new(
                PracticeMoveKind.Done,
                play.Step!.Kind switch
                {
                    StepKind.Confirm => Scenario.Tag,
                    StepKind.Choose or StepKind.Trial => play.Step.Options is [var first, ..] ? first : "as it should",
                    _ => null,
                }
            ),
        };

    /// <summary>More checks than that tell nobody anything new.</summary>
    private const int MostChecks = 8;

    /// <summary>The search for why it stopped, as somebody sees it who says that it got so far.</summary>
    internal FaultFinder Finder(Rung rung) =>
        new(new FaultQuestion(rung, Question.RouteFacts, _causes, _checks, [], Scenario.Fault?.Shows));

    /// <summary>The checks that may be made at a rung or beside it.</summary>
    public IReadOnlyList<CheckEntry> ChecksAt(Rung rung) => [.. _checks.Where(c => c.Rungs.Contains(rung))];

    /// <summary>The causes of a rung.</summary>
    public IReadOnlyList<CauseEntry> CausesAt(Rung rung) => [.. _causes.Where(c => c.Rung == rung)];

    internal CauseEntry? FindCause(string? id) => _causes.FirstOrDefault(c => c.Id == id);

    internal CheckEntry? FindCheck(string? id) => _checks.FirstOrDefault(c => c.Id == id);

    private static RefusedException Unfit(ScenarioEntry scenario, string what, string where) =>
        new(
            RefusalKind.Conflict,
            $"“{scenario.Title}” cannot be practised: {what}",
            where,
            "The scenario, mended in the catalogue."
        );
}
