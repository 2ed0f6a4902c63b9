using FreshBoot.Core.Diagnosis;

namespace FreshBoot.Core.Practice;

/// <summary>How a practice is judged, each of 100.</summary>
/// <param name="Total">Half safety, a quarter time, a quarter checks; at most <see cref="Debriefing.MostOfABadEnd"/> after a bad end.</param>
/// <param name="Safety">What was left of it.</param>
/// <param name="Time">The least minutes that it takes against those that it took.</param>
/// <param name="Checks">The least minutes of looking against those that were spent, less what was mended in vain.</param>
public sealed record PracticeScore(int Total, int Safety, int Time, int Checks);

/// <summary>What is said at the end.</summary>
/// <param name="EndedWell">Whether it came to a good end.</param>
/// <param name="Score">How it is judged.</param>
/// <param name="Fault">What was wrong with the machine; null where nothing was.</param>
/// <param name="Decisive">The move on which it turned, and why.</param>
/// <param name="DecisiveAt">Its place in the log, from 0; null where none stands out.</param>
/// <param name="BetterCheck">What a better next check would have been; null where the best was made each time.</param>
/// <param name="BestMinutes">The least minutes that it takes.</param>
/// <param name="Teaches">What it is for.</param>
public sealed record Debriefing(
    bool EndedWell,
    PracticeScore Score,
    string? Fault,
    string Decisive,
    int? DecisiveAt,
    string? BetterCheck,
    int BestMinutes,
    string Teaches
)
{
    /// <summary>A machine that was spoiled is no half success.</summary>
    public const int MostOfABadEnd = 30;

    private const int OfAWrongMend = 25;
    private const int OfASearchForNothing = 20;

    /// <summary>Who lets the fault finder help has found it with help.</summary>
    private const int MostWithHelp = 70;

    /// <summary>What is said of a practice that is over.</summary>
    /// <exception cref="InvalidOperationException">It goes on.</exception>
    public static Debriefing Of(PracticeBench bench, PracticePlay play, PracticePlay best)
    {
        var well = play.EndedWell ?? throw new InvalidOperationException("A practice that goes on is not debriefed.");
        var safety = Math.Max(0, 100 - play.Log.Sum(e => e.Harm));
        var time = Share(best.Minutes, play.Minutes);
        var checks = Math.Clamp(
            (play.Checks.Count == 0 ? 100 : Share(MinutesOf(best), MinutesOf(play)))
                - OfAWrongMend * play.WrongMends
                - OfASearchForNothing * play.SearchesForNothing,
            0,
            play is { Helped: true, Checks.Count: > 0 } ? MostWithHelp : 100
        );
        var total = (int)Math.Round(safety * 0.5 + time * 0.25 + checks * 0.25);
        var (decisive, at) = Turn(bench, play, well);
        return new Debriefing(
            well,
            new PracticeScore(well ? total : Math.Min(total, MostOfABadEnd), safety, time, checks),
            bench.Cause?.About,
            decisive,
            at,
            Better(play),
            best.Minutes,
            bench.Scenario.Teaches
        );
    }

    private static int MinutesOf(PracticePlay play) =>
        play.Checks.Sum(c => c.Check.Check.Minutes + CheckGain.MinutesBeside);

    private static int Share(int best, int used) => used <= best ? 100 : (int)Math.Round(100.0 * best / used);

    /// <summary>The move on which it turned: what ended it badly, else what did most harm, else what cost most time, else what found it.</summary>
    private static (string, int?) Turn(PracticeBench bench, PracticePlay play, bool well)
    {
        var log = play.Log;
        (string, int?) Of(int at, string? says = null) => ($"“{log[at].Words}” {says ?? log[at].Says}", at);
        if (!well)
            return Of(log.Count - 1);
        var harm = log.Select(e => e.Harm).DefaultIfEmpty().Max();
        if (harm > 0)
            return Of(Index(log, e => e.Harm == harm));
        var wasted = log.Where(e => e.Says is not null && IsWaste(bench, e))
            .Select(e => e.Minutes)
            .DefaultIfEmpty()
            .Max();
        if (wasted > 0)
            return Of(Index(log, e => e.Minutes == wasted && e.Says is not null && IsWaste(bench, e)));
        if (play.Checks.MaxBy(c => c.After - c.Before) is { } found && found.After - found.Before >= 0.05)
            return Of(
                Index(log, e => e.Words == found.Check.Check.Text),
                $"made it {FaultFinder.Percent(found.After)} from {FaultFinder.Percent(found.Before)}."
            );
        return bench.Scenario.Moments.Count > 0
            ? Of(Index(log, e => e.Words == bench.Scenario.Moments[^1].Choices.First(c => c.Right).Text))
            : ("Every step was done as it stands.", null);
    }

    /// <summary>What took time and brought nothing.</summary>
    private static bool IsWaste(PracticeBench bench, PracticeEntry entry) =>
        bench.Cause?.Mend.Text != entry.Words
        && bench.Scenario.Moments.All(m => m.Choices.First(c => c.Right).Text != entry.Words)
        && bench.Scenario.Fault?.Otherwise.Contains(entry.Words) != true;

    private static int Index(IReadOnlyList<PracticeEntry> log, Func<PracticeEntry, bool> which)
    {
        for (var i = 0; i < log.Count; i++)
            if (which(log[i]))
                return i;
        return log.Count - 1;
    }

    /// <summary>The check that was furthest from the best one.</summary>
    private static string? Better(PracticePlay play)
    {
        var worst = play
            .Checks.Where(c => c.Better is not null)
            .MaxBy(c => (c.Better!.PerMinute - c.Check.PerMinute) * (c.Check.Check.Minutes + CheckGain.MinutesBeside));
        if (worst is not { Better: { } better } || better.PerMinute < 1.2 * worst.Check.PerMinute)
            return null;
        var times = worst.Check.PerMinute > 0 ? better.PerMinute / worst.Check.PerMinute : 0;
        return $"Instead of “{worst.Check.Check.Text}” ({worst.Check.Check.Minutes} min): “{better.Check.Text}” ({better.Check.Minutes} min) "
            + (
                times is > 0 and < 100
                    ? $"would have told {times:0.#} times as much in a minute."
                    : "would have told something; this one could not."
            );
    }
}
