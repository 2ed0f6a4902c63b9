using FreshBoot.Core.Reckoning;

namespace FreshBoot.Core.Figures;

/// <summary>A run as the figures see it.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="System">Name of its system; null where the machine was retired.</param>
/// <param name="School">The school of its route.</param>
/// <param name="Begun">The day it was begun.</param>
/// <param name="Finished">The day it was finished; null where it was not.</param>
/// <param name="GivenUp">Whether it was given up.</param>
/// <param name="Stops">How often it stopped.</param>
/// <param name="Money">Parts, fees and work, in hundredth parts of a mark.</param>
/// <param name="SupportMonths">Months of updates it gave; null where no end is set.</param>
/// <param name="Grams">What the machine weighs; null where nobody knows.</param>
public sealed record FigureRun(
    string Tag,
    string? System,
    School School,
    DateOnly Begun,
    DateOnly? Finished,
    bool GivenUp,
    int Stops,
    int Money,
    int? SupportMonths,
    int? Grams
);

/// <summary>A recorded step as the figures see it.</summary>
/// <param name="On">The day.</param>
/// <param name="Usual">What the sheet said, in minutes.</param>
/// <param name="Took">What it took.</param>
public sealed record FigureTime(DateOnly On, double Usual, double Took);

/// <summary>One month.</summary>
/// <param name="Month">Its first day.</param>
/// <param name="Begun">Runs begun in it.</param>
/// <param name="Finished">Runs finished in it.</param>
/// <param name="GivenUp">Of those begun in it, how many were given up.</param>
/// <param name="Steps">Steps that were timed in it and say something (<see cref="LearnedTimes.Teaches"/>).</param>
/// <param name="PlannedMinutes">What their sheets said, together.</param>
/// <param name="TookMinutes">What they took.</param>
/// <param name="Pace">How long a step took beside what its sheet said, as the middle one; null where none was timed.</param>
public sealed record MonthFigures(
    DateOnly Month,
    int Begun,
    int Finished,
    int GivenUp,
    int Steps,
    int PlannedMinutes,
    int TookMinutes,
    double? Pace
);

/// <summary>How runs of one kind came out.</summary>
/// <param name="Name">The system, or the school.</param>
/// <param name="Finished">How many were finished.</param>
/// <param name="WithoutStop">How many of those never stopped.</param>
/// <param name="GivenUp">How many were given up.</param>
/// <param name="Open">How many are under way.</param>
public sealed record CameOut(string Name, int Finished, int WithoutStop, int GivenUp, int Open);

/// <summary>A cause that was found.</summary>
/// <param name="About">It in a sentence.</param>
/// <param name="Times">How often.</param>
public sealed record FoundCause(string About, int Times);

/// <summary>What came of the work.</summary>
/// <param name="Months">Month by month, the first first.</param>
/// <param name="BySystem">By system, the most first; a machine that was retired is not among them.</param>
/// <param name="BySchool">By school.</param>
/// <param name="Causes">What made runs stop, the most first.</param>
/// <param name="InUse">Machines that were finished and have a system.</param>
/// <param name="MoneyPerMonth">Hundredth parts of a mark for a month of updates, over all that have an end; null where none has.</param>
/// <param name="Grams">What those in use weigh together, as far as it is known.</param>
/// <param name="Weighed">Of how many that is.</param>
public sealed record FiguresSheet(
    IReadOnlyList<MonthFigures> Months,
    IReadOnlyList<CameOut> BySystem,
    IReadOnlyList<CameOut> BySchool,
    IReadOnlyList<FoundCause> Causes,
    int InUse,
    int? MoneyPerMonth,
    long Grams,
    int Weighed
);

/// <summary>Adds up what is recorded. Nothing is guessed: what is not known is left out, and the sheet says of how many it speaks.</summary>
public static class ShopFigures
{
    /// <summary>Adds up.</summary>
    /// <param name="runs">All runs.</param>
    /// <param name="times">All recorded steps.</param>
    /// <param name="causes">What was found, and how often.</param>
    public static FiguresSheet Of(
        IReadOnlyList<FigureRun> runs,
        IReadOnlyList<FigureTime> times,
        IReadOnlyList<FoundCause> causes
    )
    {
        // A machine that came back and was done again is one machine in use; one that came back and ended is none.
        var inUse = runs.Where(r => r.Finished is not null)
            .GroupBy(r => r.Tag, StringComparer.Ordinal)
            .Select(g => g.MaxBy(r => (r.Finished, r.Begun))!)
            .Where(r => r.System is not null)
            .ToArray();
        var supported = inUse.Where(r => r.SupportMonths is > 0).ToArray();
        return new FiguresSheet(
            [.. Months(runs, times)],
            [.. By(runs.Where(r => r.System is not null), r => r.System!)],
            [.. By(runs, r => r.School.ToString().ToLowerInvariant())],
            [
                .. causes
                    .Where(c => c.Times > 0)
                    .OrderByDescending(c => c.Times)
                    .ThenBy(c => c.About, StringComparer.Ordinal),
            ],
            inUse.Length,
            supported.Length == 0
                ? null
                : (int)(supported.Sum(r => (long)r.Money) / supported.Sum(r => (long)r.SupportMonths!.Value)),
            inUse.Sum(r => (long)(r.Grams ?? 0)),
            inUse.Count(r => r.Grams is not null)
        );
    }

    private static IEnumerable<MonthFigures> Months(IReadOnlyList<FigureRun> runs, IReadOnlyList<FigureTime> times)
    {
        var days = runs.Select(r => r.Begun)
            .Concat(runs.Select(r => r.Finished).OfType<DateOnly>())
            .Concat(times.Select(t => t.On))
            .ToArray();
        if (days.Length == 0)
            yield break;
        var last = First(days.Max());
        for (var month = First(days.Min()); month <= last; month = month.AddMonths(1))
        {
            var timed = times.Where(t => First(t.On) == month && LearnedTimes.Teaches(t.Usual, t.Took)).ToArray();
            yield return new MonthFigures(
                month,
                runs.Count(r => First(r.Begun) == month),
                runs.Count(r => r.Finished is { } finished && First(finished) == month),
                runs.Count(r => r.GivenUp && First(r.Begun) == month),
                timed.Length,
                (int)Math.Round(timed.Sum(t => t.Usual)),
                (int)Math.Round(timed.Sum(t => t.Took)),
                Middle([.. timed.Select(t => t.Took / t.Usual).Order()])
            );
        }
    }

    private static DateOnly First(DateOnly day) => new(day.Year, day.Month, 1);

    /// <summary>The middle one of sorted numbers: a step that somebody forgot to end does not move it.</summary>
    private static double? Middle(double[] sorted) =>
        sorted.Length == 0 ? null : Math.Round((sorted[(sorted.Length - 1) / 2] + sorted[sorted.Length / 2]) / 2, 2);

    private static IEnumerable<CameOut> By(IEnumerable<FigureRun> runs, Func<FigureRun, string> name) =>
        runs.GroupBy(name, StringComparer.Ordinal)
            .Select(g => new CameOut(
                g.Key,
                g.Count(r => r.Finished is not null),
                g.Count(r => r is { Finished: not null, Stops: 0 }),
                g.Count(r => r.GivenUp),
                g.Count(r => r is { Finished: null, GivenUp: false })
            ))
            .OrderByDescending(c => c.Finished + c.GivenUp + c.Open)
            .ThenBy(c => c.Name, StringComparer.Ordinal);
}
