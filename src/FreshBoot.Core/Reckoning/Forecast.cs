using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Reckoning;

/// <summary>When something is finished: at the tenth, the fiftieth and the ninetieth of a hundred walks.</summary>
public sealed record Minutes(int P10, int P50, int P90);

/// <summary>What may go wrong, and where it shows.</summary>
/// <param name="Rung">The rung.</param>
/// <param name="Cause">The cause, by its id.</param>
/// <param name="About">It in a sentence.</param>
/// <param name="Chance">In how many of all walks, 0 to 1.</param>
/// <param name="Costs">What it costs on the mean where it happens, in minutes.</param>
/// <param name="Ends">Whether the work ends with it.</param>
/// <param name="Before">A check that would show it before the work begins; null where none would.</param>
/// <param name="BeforeMinutes">How long that takes.</param>
/// <param name="Saves">What that check saves on the mean over all walks, in minutes, its own time taken off.</param>
public sealed record ForecastFailure(
    Rung Rung,
    string Cause,
    string About,
    double Chance,
    int Costs,
    bool Ends,
    string? Before,
    int BeforeMinutes,
    double Saves
);

/// <summary>Many walks over a plan.</summary>
/// <param name="Walks">How many.</param>
/// <param name="Seed">The seed: the same seed gives the same walks.</param>
/// <param name="Minutes">When it is finished, of the walks that finish.</param>
/// <param name="HandsOn">Minutes with hands on it, on the mean.</param>
/// <param name="Finishes">How many of all walks finish, 0 to 1.</param>
/// <param name="Failures">What may go wrong, the likeliest first.</param>
/// <param name="Learned">Recorded steps that its times rest on.</param>
/// <param name="Found">Recorded stops that its chances rest on.</param>
/// <param name="By">For each twentieth of the walks, the minutes by which it is done: 5 %, 10 %, … 100 % of those that finish.</param>
public sealed record ForecastResult(
    int Walks,
    int Seed,
    Minutes Minutes,
    int HandsOn,
    double Finishes,
    IReadOnlyList<ForecastFailure> Failures,
    int Learned,
    int Found,
    IReadOnlyList<int> By
);

/// <summary>A plan to be walked many times.</summary>
/// <param name="Steps">The steps of its sheet, the main way.</param>
/// <param name="Question">The machine and its plan, as the fault finder sees them; its rung counts for nothing.</param>
/// <param name="Times">What the shop has learned of times.</param>
/// <param name="Runs">How many runs it has recorded, in which <see cref="FaultQuestion.Found"/> was found.</param>
public sealed record ForecastQuestion(IReadOnlyList<Step> Steps, FaultQuestion Question, LearnedTimes Times, int Runs);

/// <summary>
/// Walks a sheet many times by chance: each step takes a time of the shop’s own pace, each rung may stop it for one of its causes,
/// and what has one cause stays: a bad stick fails twice, until it is found.
/// </summary>
/// <remarks>
/// The chance to stop at a rung for a cause is the cause’s weight in <see cref="RunsPerWeight"/> runs, blended with how often the shop
/// found it in its own (the catalogue counts like <see cref="CatalogueRuns"/> runs), shifted by machine and plan as the fault finder shifts it. Times are drawn log-normally: one draw a walk for the shop’s pace, which all its steps share, one for each step.
/// </remarks>
public static class Forecast
{
    /// <summary>A cause of weight one stops one in so many runs that come past its rung.</summary>
    public const int RunsPerWeight = 2500;

    /// <summary>How many runs the catalogue’s chances count for beside those that the shop recorded.</summary>
    public const int CatalogueRuns = 30;

    /// <summary>Fewest walks.</summary>
    public const int Least = 100;

    /// <summary>Most walks.</summary>
    public const int Most = 100_000;

    /// <summary>However bad the signs, a rung is not sure to stop.</summary>
    private const double MostOfARung = 0.9;

    /// <summary>The first guess is the right one in so many of ten stops; else the same cause stops it again.</summary>
    private const double MendsAtOnce = 0.8;

    /// <summary>What is lost before anybody begins to look for it: the time to worry, and to think.</summary>
    private const double MinutesToSee = 6;

    /// <summary>A check shows a cause where it is there in at least so many of a hundred.</summary>
    private const double ShowsIt = 80;

    private sealed record Fault(CauseEntry Cause, double Chance);

    private sealed record Timed(double Usual, double Mean, double Spread, double Paced, bool Hands, Rung Rung);

    /// <summary>Walks it.</summary>
    /// <param name="question">The plan.</param>
    /// <param name="walks">How often.</param>
    /// <param name="seed">The seed.</param>
    /// <exception cref="RefusedException">Too few or too many walks.</exception>
    public static ForecastResult Walk(ForecastQuestion question, int walks, int seed)
    {
        if (walks is < Least or > Most)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"{walks} walks were asked for.",
                "walks",
                $"{Least} to {Most}."
            );
        var steps = question.Steps.Where(s => s.On is null).Select(s => Time(s, question.Times)).ToArray();
        // A rung is where its last step is: what comes before the hand has reached it cannot stop there.
        var last = new Dictionary<Rung, int>();
        var first = new Dictionary<Rung, int>();
        for (var i = 0; i < steps.Length; i++)
        {
            last[steps[i].Rung] = i;
            first.TryAdd(steps[i].Rung, i);
        }
        var faults = last.Keys.ToDictionary(r => r, r => FaultsAt(question, r));
        var random = new Random(seed);
        var done = new List<double>(walks);
        double hands = 0;
        var happened = new Dictionary<string, (Fault Fault, int Times, double Minutes)>(StringComparer.Ordinal);
        var took = new double[steps.Length];
        for (var walk = 0; walk < walks; walk++)
        {
            var pace = question.Times.PaceSpread * Normal(random);
            double minutes = 0,
                handsOn = 0;
            var ended = false;
            for (var i = 0; i < steps.Length && !ended; i++)
            {
                var step = steps[i];
                took[i] = step.Usual * Math.Exp(step.Mean + step.Paced * pace + step.Spread * Normal(random));
                minutes += took[i];
                if (step.Hands)
                    handsOn += took[i];
                if (last[step.Rung] != i || Draw(random, faults[step.Rung]) is not { } fault)
                    continue;
                var lost = 0.0;
                do
                {
                    // To see it, to find it, to mend it, and the steps of its rung once more.
                    lost += MinutesToSee + fault.Cause.Mend.Minutes;
                    if (fault.Cause.Mend.Ends)
                        break;
                    for (var again = first[step.Rung]; again <= i; again++)
                        if (steps[again].Rung == step.Rung)
                            lost += took[again];
                } while (random.NextDouble() > MendsAtOnce);
                minutes += lost;
                handsOn += lost / 2;
                ended = fault.Cause.Mend.Ends;
                var sofar = happened.GetValueOrDefault(fault.Cause.Id, (fault, 0, 0));
                // Where the work ends all that was done is lost with it.
                happened[fault.Cause.Id] = (fault, sofar.Item2 + 1, sofar.Item3 + (ended ? minutes : lost));
            }
            hands += handsOn;
            if (!ended)
                done.Add(minutes);
        }
        done.Sort();
        return new ForecastResult(
            walks,
            seed,
            new Minutes(At(done, 0.1), At(done, 0.5), At(done, 0.9)),
            (int)Math.Round(hands / walks),
            done.Count / (double)walks,
            [
                .. happened
                    .Values.OrderByDescending(h => h.Times)
                    .ThenBy(h => h.Fault.Cause.Id, StringComparer.Ordinal)
                    .Select(h => Tell(h.Fault.Cause, h.Times, h.Minutes, walks, question.Question.Checks)),
            ],
            question.Times.Recorded,
            question.Question.Found.Sum(f => f.Times),
            [.. Enumerable.Range(1, 20).Select(i => At(done, i / 20.0))]
        );
    }

    private static ForecastFailure Tell(
        CauseEntry cause,
        int times,
        double minutes,
        int walks,
        IReadOnlyList<CheckEntry> checks
    )
    {
        var chance = times / (double)walks;
        var costs = minutes / times;
        // Of what can be looked at before the work begins, and speaks of this cause more than of others.
        var before = checks
            .Where(c => c.Before)
            .Where(c => c.Shows.Any(s => s.Of(cause.Id) >= ShowsIt && s.Else <= 100 - ShowsIt))
            .OrderBy(c => c.Minutes)
            .ThenBy(c => c.Id, StringComparer.Ordinal)
            .FirstOrDefault();
        return new ForecastFailure(
            cause.Rung,
            cause.Id,
            cause.About,
            chance,
            (int)Math.Round(costs),
            cause.Mend.Ends,
            before?.Text,
            before?.Minutes ?? 0,
            before is null ? 0 : Math.Round(chance * (costs - cause.Mend.Minutes) - before.Minutes, 2)
        );
    }

    private static Timed Time(Step step, LearnedTimes times)
    {
        var belief = times.Of(LearnedTimes.KeyOf(step));
        return new Timed(
            Math.Max(0.5, step.UsualMinutes),
            belief.Mean,
            belief.Spread,
            belief.Paced,
            step.Kind != StepKind.Wait,
            step.Rung
        );
    }

    private static Fault[] FaultsAt(ForecastQuestion asked, Rung rung)
    {
        var question = asked.Question;
        Fault[] shifted =
        [
            .. question
                .Causes.Where(c => c.Rung == rung)
                .Select(c => new Fault(
                    c,
                    (
                        CatalogueRuns * c.Weight / (double)RunsPerWeight
                        + question.Found.Where(f => f.Cause == c.Id).Sum(f => f.Times)
                    )
                        / (CatalogueRuns + asked.Runs)
                        * FaultFinder.Shift(c, question)
                )),
        ];
        var all = shifted.Sum(f => f.Chance);
        return all <= MostOfARung
            ? shifted
            : [.. shifted.Select(f => f with { Chance = f.Chance * MostOfARung / all })];
    }

    private static Fault? Draw(Random random, Fault[] faults)
    {
        var at = random.NextDouble();
        foreach (var fault in faults)
            if ((at -= fault.Chance) < 0)
                return fault;
        return null;
    }

    /// <summary>A standard normal number (Box and Muller, 1958).</summary>
    private static double Normal(Random random) =>
        Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());

    private static int At(List<double> sorted, double share) =>
        sorted.Count == 0
            ? 0
            : (int)Math.Round(sorted[Math.Clamp((int)Math.Ceiling(share * sorted.Count) - 1, 0, sorted.Count - 1)]);
}
