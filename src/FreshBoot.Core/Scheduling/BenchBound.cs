namespace FreshBoot.Core.Scheduling;

/// <summary>What no plan of the bench can be better than, by reckoning alone.</summary>
public static class BenchBound
{
    /// <summary>
    /// The least that a plan comes to: no machine is done before its own tasks have been done one after the other, and not all of
    /// them before everybody's hands together have had the time for it, each as long as they are there.
    /// </summary>
    public static int Of(BenchQuestion question)
    {
        var alone = question.Chains.Select(c => (Chain: c, End: Alone(question, c))).ToArray();
        if (alone.Length == 0)
            return 0;
        var late = alone.Sum(a => Math.Max(0, a.End - (a.Chain.Due ?? a.End)));
        var over = Math.Max(alone.Max(a => a.End), Hands(question));
        return BenchCost.LateWeight * late + question.Open.Of(over);
    }

    /// <summary>When a machine would be done if it were the only one.</summary>
    private static int Alone(BenchQuestion question, BenchChain chain)
    {
        var free = 0;
        foreach (var task in chain.Tasks)
        {
            if (task.Hands && !(chain.GoesOn && ReferenceEquals(task, chain.Tasks[0])))
                free = question
                    .People.Where(p => p.Can(task))
                    .SelectMany(p => p.Shifts)
                    .Where(s => Math.Max(free, s.From) + task.Minutes <= s.To)
                    .Select(s => Math.Max(free, s.From))
                    .DefaultIfEmpty(free)
                    .Min();
            free += task.Minutes;
        }
        return free;
    }

    /// <summary>When all hands together could have done their part, and the shortest wait after the last of it is over.</summary>
    private static int Hands(BenchQuestion question)
    {
        var load = question.Chains.SelectMany(c => c.Tasks).Where(t => t.Hands).Sum(t => t.Minutes);
        var tail = question
            .Chains.Where(c => c.Tasks.Any(t => t.Hands))
            .Select(c => c.Tasks.Reverse().TakeWhile(t => !t.Hands).Sum(t => t.Minutes))
            .DefaultIfEmpty(0)
            .Min();
        if (load == 0)
            return tail;
        var shifts = question.People.SelectMany(p => p.Shifts).ToArray();
        var edges = shifts.SelectMany(s => new[] { s.From, s.To }).Distinct().Order().ToArray();
        var (done, at) = (0, 0);
        foreach (var edge in edges)
        {
            var there = shifts.Count(s => s.From <= at && at < s.To);
            if (there > 0 && done + there * (edge - at) >= load)
                return at + (load - done + there - 1) / there + tail;
            done += there * (edge - at);
            at = edge;
        }
        return at + tail;
    }
}
