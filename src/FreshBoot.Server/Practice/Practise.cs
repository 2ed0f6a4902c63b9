using System.Collections.Concurrent;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Practice;
using FreshBoot.Core.Procedures;
using FreshBoot.Server.Diagnosis;
using FreshBoot.Server.Dossiers;

namespace FreshBoot.Server.Practice;

/// <summary>A practice: every move since its beginning.</summary>
/// <param name="Moves">What was done.</param>
/// <param name="Seed">What is left to chance hangs on it.</param>
internal sealed record PracticeIn(IReadOnlyList<PracticeMove> Moves, int Seed = 1);

/// <summary>Something that can be practised.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Title">It in a few words.</param>
/// <param name="About">What the hand knows before it begins.</param>
/// <param name="Steps">Steps of its stretch.</param>
/// <param name="Minutes">The least minutes that it would take at the bench.</param>
/// <param name="Unfit">Why it cannot be practised; null where it can.</param>
internal sealed record PracticeGlance(string Id, string Title, string About, int Steps, int Minutes, string? Unfit);

/// <summary>A practice as it stands.</summary>
/// <param name="Id">Its scenario.</param>
/// <param name="Title">It in a few words.</param>
/// <param name="About">What the hand knows.</param>
/// <param name="Tag">The tag on the casing.</param>
/// <param name="Machine">Maker and model.</param>
/// <param name="Beside">Tags of machines beside it.</param>
/// <param name="Stage">Where it stands.</param>
/// <param name="Step">The step whose turn it is; null at the end.</param>
/// <param name="Place">Its number, from 1.</param>
/// <param name="Of">How many there are.</param>
/// <param name="Next">What comes after it, two at most.</param>
/// <param name="Screen">What stands on the screen.</param>
/// <param name="Moment">What has to be decided; null where nothing has.</param>
/// <param name="Rung">How far it got: the rung of its step, or, while the fault is looked for, as was said.</param>
/// <param name="Finished">Whether its last step was done.</param>
/// <param name="Helped">Whether chances are shown.</param>
/// <param name="Causes">What it may be; chances are 0 without help.</param>
/// <param name="Checks">What may be looked at.</param>
/// <param name="Answers">What was looked at.</param>
/// <param name="Minutes">Minutes since the beginning.</param>
/// <param name="Log">What was done.</param>
/// <param name="Debriefing">What is said at the end; null before it.</param>
internal sealed record PracticeSheet(
    string Id,
    string Title,
    string About,
    string Tag,
    string Machine,
    IReadOnlyList<string> Beside,
    PracticeStage Stage,
    Step? Step,
    int Place,
    int Of,
    IReadOnlyList<string> Next,
    IReadOnlyList<string> Screen,
    MomentSheet? Moment,
    Rung Rung,
    bool Finished,
    bool Helped,
    IReadOnlyList<CauseSheet> Causes,
    IReadOnlyList<CheckSheet> Checks,
    IReadOnlyList<AnsweredSheet> Answers,
    int Minutes,
    IReadOnlyList<PracticeEntry> Log,
    Debriefing? Debriefing
);

/// <summary>What has to be decided. What comes of each is not told before.</summary>
/// <param name="Sees">What is seen or heard.</param>
/// <param name="Asks">What is to be decided.</param>
/// <param name="Choices">What may be done.</param>
internal sealed record MomentSheet(string Sees, string Asks, IReadOnlyList<string> Choices);

/// <summary>The practice bench: a machine that answers, and of which nothing is kept.</summary>
internal sealed class Practise(Shop shop)
{
    private const int MostMoves = 500;

    /// <summary>Setting one up searches its routes: they are kept while catalogue and day are the same.</summary>
    private readonly ConcurrentDictionary<(string Id, string Hash, DateOnly Day), PracticeBench> _benches = new();

    /// <summary>Everything that can be practised.</summary>
    public IReadOnlyList<PracticeGlance> All() =>
        [
            .. shop.Catalogue.Scenarios.Select(s =>
            {
                try
                {
                    var bench = Bench(s);
                    return new PracticeGlance(s.Id, s.Title, s.About, bench.Steps.Count, bench.Best(1).Minutes, null);
                }
                catch (RefusedException e)
                {
                    return new PracticeGlance(s.Id, s.Title, s.About, 0, 0, e.Refusal.What);
                }
            }),
        ];

    /// <summary>A practice after its moves.</summary>
    /// <exception cref="RefusedException">There is no such scenario, or a move that cannot be made.</exception>
    public PracticeSheet Play(string id, PracticeIn asked)
    {
        var scenario =
            shop.Catalogue.Scenarios.FirstOrDefault(s => s.Id == id)
            ?? throw new RefusedException(
                RefusalKind.Missing,
                $"There is nothing to practise called “{id}”.",
                "id",
                "One of GET /api/practice."
            );
        if (asked.Moves.Count > MostMoves)
            throw new RefusedException(
                RefusalKind.Invalid,
                "That are more moves than anybody makes.",
                "moves",
                $"At most {MostMoves}."
            );
        var bench = Bench(scenario);
        var play = bench.Play(asked.Moves, asked.Seed);
        return Show(bench, play, asked.Seed);
    }

    private PracticeBench Bench(ScenarioEntry scenario)
    {
        var key = (scenario.Id, shop.Catalogue.Hash, shop.Today);
        if (_benches.TryGetValue(key, out var bench))
            return bench;
        foreach (var old in _benches.Keys.Where(k => k.Hash != key.Hash || k.Day != key.Today))
            _benches.TryRemove(old, out _);
        return _benches[key] = PracticeBench.Of(scenario, shop.Catalogue, key.Today);
    }

    private static PracticeSheet Show(PracticeBench bench, PracticePlay play, int seed)
    {
        var scenario = bench.Scenario;
        var next = play.Helped ? play.Next() : [];
        return new PracticeSheet(
            scenario.Id,
            scenario.Title,
            scenario.About,
            scenario.Tag,
            $"{bench.Question.Facts.Word("identity.maker")} {bench.Question.Facts.Word("identity.model")}",
            scenario.Beside,
            play.Stage,
            play.Step,
            play.Place,
            bench.Steps.Count,
            [.. bench.Steps.Skip(play.Place).Take(2).Select(s => s.Text)],
            play.Screen,
            play.Moment is { } moment
                ? new MomentSheet(moment.Sees, moment.Asks, [.. moment.Choices.Select(c => c.Text)])
                : null,
            play.At ?? bench.Steps[play.Place - 1].Rung,
            play.Finished,
            play.Helped,
            play.At is { } rung ? Causes(bench, play, rung) : [],
            play.At is { } at
                ?
                [
                    .. bench
                        .ChecksAt(at)
                        .Where(c => play.Answers.All(a => a.Check != c.Id))
                        .Select(c =>
                            FindFault.Sheet(next.FirstOrDefault(g => g.Check.Id == c.Id) ?? new CheckGain(c, 0))
                        )
                        .OrderByDescending(c => play.Helped ? c.Gain : 0),
                ]
                : [],
            [.. play.Answers.Select(a => FindFault.Answered(bench.Question.Catalogue.Checks, a))],
            play.Minutes,
            play.Log,
            play.Stage == PracticeStage.Ended ? Debriefing.Of(bench, play, bench.Best(seed)) : null
        );
    }

    /// <summary>The causes of the rung; how likely each is stands there only for who asked for help.</summary>
    private static IReadOnlyList<CauseSheet> Causes(PracticeBench bench, PracticePlay play, Rung rung) =>
        play.Helped
            ? [.. play.Causes().Where((c, i) => i < 3 || c.Chance >= 0.01).Select(FindFault.Sheet)]
            : [.. bench.CausesAt(rung).Select(c => new CauseSheet(c.Id, c.About, c.Rung, 0, [], 0, c.Mend))];
}
