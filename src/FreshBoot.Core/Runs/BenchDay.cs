using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Runs;

/// <summary>What lies before a run until hands are free of it again.</summary>
/// <param name="HandsMinutes">Minutes of hands until it waits by itself, or until its end.</param>
/// <param name="WaitMinutes">The usual time of that wait; 0 where none is left.</param>
/// <param name="Wait">The wait's instruction; null where none is left.</param>
public sealed record Ahead(int HandsMinutes, int WaitMinutes, string? Wait)
{
    /// <summary>Looks ahead along the main way, from the step whose turn it is.</summary>
    public static Ahead Of(IReadOnlyList<Step> steps, RunState state)
    {
        var hands = 0;
        foreach (var step in state.Way([.. steps.Skip(state.Current)]))
        {
            if (step.Kind == StepKind.Wait)
                return new Ahead(hands, step.UsualMinutes, step.Text);
            hands += step.UsualMinutes;
        }
        return new Ahead(hands, 0, null);
    }
}

/// <summary>Something that wants hands.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Ahead">What lies before it.</param>
public sealed record WantsHands(string Tag, Ahead Ahead);

/// <summary>In which order one pair of hands goes to the machines on the bench.</summary>
public static class BenchDay
{
    /// <summary>
    /// Orders them so that all is over soonest: what waits longest by itself is begun first. Each is a job that takes hands and
    /// then waits without them, and waits may run at once; for one pair of hands the longest tail first is the best order (J. R.
    /// Jackson, "Scheduling a production line to minimize maximum tardiness", 1955). No wait before its turn is assumed.
    /// </summary>
    public static IReadOnlyList<WantsHands> Order(IEnumerable<WantsHands> all) =>
        [
            .. all.OrderByDescending(w => w.Ahead.WaitMinutes)
                .ThenBy(w => w.Ahead.HandsMinutes)
                .ThenBy(w => w.Tag, StringComparer.Ordinal),
        ];

    /// <summary>Minutes until the last of them neither wants hands nor waits, taken in this order by one pair of hands.</summary>
    public static int Over(IEnumerable<WantsHands> order)
    {
        var (hands, over) = (0, 0);
        foreach (var job in order)
        {
            hands += job.Ahead.HandsMinutes;
            over = Math.Max(over, hands + job.Ahead.WaitMinutes);
        }
        return over;
    }
}
