namespace FreshBoot.Core.Scheduling;

/// <summary>
/// Says what is wrong with a plan of the bench. It looks at every minute at which something begins and knows nothing of how the
/// plan was made, so that no maker of plans is its own judge.
/// </summary>
public static class BenchCheck
{
    /// <summary>What is wrong, in sentences; nothing where the plan holds.</summary>
    public static IReadOnlyList<string> Faults(BenchQuestion question, IReadOnlyList<Placed> plan)
    {
        var faults = new List<string>();
        var at = new Dictionary<string, Placed>(StringComparer.Ordinal);
        foreach (var placed in plan)
            if (!at.TryAdd(placed.Task, placed))
                faults.Add($"{placed.Task} stands twice.");
        var tasks = question.Chains.SelectMany(c => c.Tasks).ToDictionary(t => t.Id, StringComparer.Ordinal);
        faults.AddRange(at.Keys.Where(id => !tasks.ContainsKey(id)).Select(id => $"{id} is nobody's task."));
        faults.AddRange(tasks.Keys.Where(id => !at.ContainsKey(id)).Select(id => $"{id} is missing."));
        if (faults.Count > 0)
            return faults;
        foreach (var task in tasks.Values)
            faults.AddRange(Alone(question, task, at[task.Id]));
        foreach (var chain in question.Chains)
            faults.AddRange(InOrder(chain, at));
        foreach (var person in question.People)
            faults.AddRange(OneAtATime(person.Name, [.. plan.Where(p => p.Person == person.Name)]));
        foreach (var what in Enum.GetValues<BenchResource>())
            faults.AddRange(Enough(question, what, at));
        return faults;
    }

    private static IEnumerable<string> Alone(BenchQuestion question, BenchTask task, Placed placed)
    {
        if (placed.Start < 0)
            yield return $"{task.Id} begins before the plan.";
        if (placed.End - placed.Start != task.Minutes)
            yield return $"{task.Id} has {placed.End - placed.Start} minutes and takes {task.Minutes}.";
        if (!task.Hands)
        {
            if (placed.Person is not null)
                yield return $"{task.Id} takes nobody, and {placed.Person} stands beside it.";
            yield break;
        }
        var person = question.People.SingleOrDefault(p => p.Name == placed.Person);
        if (person is null)
            yield return $"{task.Id} is done by nobody who is there.";
        else if (!task.Skills.All(s => person.Skills.Contains(s)))
            yield return $"{person.Name} cannot do {task.Id}.";
        else if (!person.Shifts.Any(s => s.From <= placed.Start && placed.End <= s.To))
            yield return $"{person.Name} is not there all the time for {task.Id}.";
    }

    private static IEnumerable<string> InOrder(BenchChain chain, Dictionary<string, Placed> at)
    {
        for (var i = 1; i < chain.Tasks.Count; i++)
        {
            var (before, task) = (at[chain.Tasks[i - 1].Id], at[chain.Tasks[i].Id]);
            if (task.Start < before.End)
                yield return $"{task.Task} begins before {before.Task} is over.";
            // A machine waits from the moment in which the hand has left it.
            if (!chain.Tasks[i].Hands && task.Start != before.End)
                yield return $"{task.Task} waits later than its machine does.";
        }
        if (
            chain is { GoesOn: true, Tasks.Count: > 0 }
            && (at[chain.Tasks[0].Id].Start != 0 || at[chain.Tasks[0].Id].Person != chain.With)
        )
            yield return $"{chain.Tag} is under way and was moved.";
    }

    private static IEnumerable<string> OneAtATime(string name, Placed[] mine)
    {
        Array.Sort(mine, (a, b) => a.Start.CompareTo(b.Start));
        for (var i = 1; i < mine.Length; i++)
            if (mine[i].Start < mine[i - 1].End)
                yield return $"{name} does {mine[i - 1].Task} and {mine[i].Task} at once.";
    }

    private static IEnumerable<string> Enough(BenchQuestion question, BenchResource what, Dictionary<string, Placed> at)
    {
        var spans = question
            .Chains.SelectMany(c => c.Holds.Where(h => h.What == what).Select(h => Span(c, h, at)))
            .ToArray();
        foreach (var minute in spans.Select(s => s.From).Distinct())
        {
            var at1 = spans.Count(s => s.From <= minute && minute < s.To);
            if (at1 > question.Of(what))
                yield return $"At minute {minute}, {at1} machines take a {what} and there are {question.Of(what)}.";
        }
    }

    /// <summary>From when to when something is held.</summary>
    internal static Shift Span(BenchChain chain, Hold hold, IReadOnlyDictionary<string, Placed> at) =>
        new(hold.Already ? 0 : at[chain.Tasks[hold.From].Id].Start, at[chain.Tasks[hold.To].Id].End);
}
