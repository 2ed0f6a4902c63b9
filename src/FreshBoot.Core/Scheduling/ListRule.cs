namespace FreshBoot.Core.Scheduling;

/// <summary>
/// The plain rule, in two ways: one machine after another is laid into what is still free, each task as early as somebody can do it;
/// or whoever is free takes the first machine that wants hands (<see cref="Dispatch"/>). Both are tried with a few orders of the
/// machines, and the best is taken. A plan can always be had from it, at once.
/// </summary>
public static class ListRule
{
    private const int Endless = int.MaxValue / 2;

    /// <summary>So many tries for each machine without a better plan, and no more are made.</summary>
    private const int InVain = 400;

    /// <summary>So many tries back for each machine a plan is held against.</summary>
    private const int Ago = 20;

    private sealed record Usage(BenchResource What, int From, int To);

    /// <summary>The plan.</summary>
    /// <exception cref="RefusedException">Somebody, or something, is not there that a task cannot be done without.</exception>
    public static IReadOnlyList<Placed> Of(BenchQuestion question)
    {
        Refuse(question);
        var orders = new List<(BenchChain[] Order, bool Keep)>
        {
            (Sorted(question, c => c.Due ?? int.MaxValue, c => -Length(c)), false),
            (Sorted(question, c => c.Due ?? int.MaxValue, c => -Tail(c)), false),
            (Sorted(question, c => -Length(c), c => c.Due ?? int.MaxValue), false),
            (Sorted(question, c => -Tail(c), c => c.Due ?? int.MaxValue), false),
            (Sorted(question, c => Length(c), c => c.Due ?? int.MaxValue), false),
        };
        if (question.Before.Count > 0)
            orders.Add((Sorted(question, c => First(question, c), c => -Length(c)), true));
        var dispatch = new Dispatch(question);
        var index = Index(question);
        return orders
                .Select(o => Try(question, o.Order, o.Keep))
                .Concat(orders.Select(o => dispatch.Play([.. o.Order.Select(c => index[c.Tag])])))
                .OfType<IReadOnlyList<Placed>>()
                .MinBy(p => BenchCost.Of(question, p).Total)
            ?? throw new RefusedException(
                RefusalKind.Conflict,
                "Machines that are begun hold what others that are begun wait for.",
                "resources",
                "One more of what both want, or one of them laid aside and its stick, drop or bay given back."
            );
    }

    /// <summary>
    /// Tries other orders of the machines for as long as it is let: two change places, or one goes elsewhere, and what is no worse
    /// stays. It is what a person would do with slips of paper, a few thousand times.
    /// </summary>
    /// <param name="question">What is asked.</param>
    /// <param name="plan">The plan to begin with.</param>
    /// <param name="goOn">Told the least cost so far; whether to try once more.</param>
    public static IReadOnlyList<Placed> Shuffled(
        BenchQuestion question,
        IReadOnlyList<Placed> plan,
        Func<int, bool> goOn
    )
    {
        var (best, least) = (plan, BenchCost.Of(question, plan).Total);
        var first = plan.GroupBy(p => p.Task.Split('/')[0], StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.Min(p => p.Start), StringComparer.Ordinal);
        var order = Sorted(question, c => first[c.Tag], c => c.Due ?? int.MaxValue);
        var fixedOnes = order.TakeWhile(c => c.GoesOn || c.Holds.Any(h => h.Already)).Count();
        var dispatch = new Dispatch(question);
        var index = Index(question);
        var random = new Random(1);
        var movable = order.Length - fixedOnes;
        var now = least;
        // Late acceptance (E. K. Burke and Y. Bykov, 2017): what is no worse than what stood so many tries ago may stay, so that
        // a good plan is left for a while on the way to a better one.
        var ago = new int[Math.Max(1, Ago * movable)];
        Array.Fill(ago, least);
        var (tries, inVain) = (0, 0);
        while (movable > 1 && inVain++ < InVain * movable && goOn(least))
        {
            var tried = order.ToList();
            var (from, to) = (random.Next(fixedOnes, order.Length), random.Next(fixedOnes, order.Length));
            if (random.Next(2) == 0)
                (tried[from], tried[to]) = (tried[to], tried[from]);
            else
            {
                var one = tried[from];
                tried.RemoveAt(from);
                tried.Insert(to, one);
            }
            var at = tries++ % ago.Length;
            // What people were told is kept by laying machines where they were; else the bench is played through.
            var made =
                question.Before.Count > 0
                    ? Try(question, [.. tried], keep: true)
                    : dispatch.Play([.. tried.Select(c => index[c.Tag])]);
            if (made is not null)
            {
                var cost = BenchCost.Of(question, made).Total;
                if (cost <= now || cost <= ago[at])
                    (order, now) = ([.. tried], cost);
                if (cost < least)
                    (best, least, inVain) = (made, cost, 0);
            }
            ago[at] = now;
        }
        return best;
    }

    private static Dictionary<string, int> Index(BenchQuestion question) =>
        question.Chains.Select((c, i) => (c.Tag, i)).ToDictionary(x => x.Tag, x => x.i, StringComparer.Ordinal);

    /// <summary>Refuses what no plan can do.</summary>
    private static void Refuse(BenchQuestion question)
    {
        foreach (var (chain, task) in question.Chains.SelectMany(c => c.Tasks.Select(t => (c, t))))
        {
            if (!task.Hands)
                continue;
            var able = question.People.Where(p => p.Can(task)).ToArray();
            if (able.Length == 0)
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"Nobody has the skill “{string.Join("” and “", task.Skills).ToLowerInvariant()}” for {chain.Tag}: {task.Says}",
                    "people",
                    "Somebody who has it."
                );
            if (able.All(p => p.Shifts.All(s => s.To - s.From < task.Minutes)))
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"{chain.Tag} wants {task.Minutes} minutes on end, and nobody is there so long: {task.Says}",
                    "people",
                    "Longer hours for somebody."
                );
        }
        foreach (var what in Enum.GetValues<BenchResource>())
        {
            var holders = question.Chains.Where(c => c.Holds.Any(h => h.What == what)).ToArray();
            var already = holders.Count(c => c.Holds.Any(h => h.What == what && h.Already));
            if (holders.Length > 0 && question.Of(what) < Math.Max(1, already))
                throw new RefusedException(
                    RefusalKind.Invalid,
                    already > question.Of(what)
                        ? $"{already} machines hold {Numbers.A(Named(what))} as it is, and there are {question.Of(what)}."
                        : $"{holders[0].Tag} wants {Numbers.A(Named(what))}, and there is none.",
                    "resources",
                    $"{Math.Max(1, already)} at least."
                );
        }
    }

    /// <summary>What people call it.</summary>
    public static string Named(BenchResource what) =>
        what switch
        {
            BenchResource.Drop => "network drop",
            _ => what.ToString().ToLowerInvariant(),
        };

    private static BenchChain[] Sorted(
        BenchQuestion question,
        Func<BenchChain, int> first,
        Func<BenchChain, int> second
    ) =>
        [
            .. question
                .Chains.OrderByDescending(c => c.GoesOn)
                .ThenByDescending(c => c.Holds.Count(h => h.Already))
                .ThenBy(first)
                .ThenBy(second)
                .ThenBy(c => c.Tag, StringComparer.Ordinal),
        ];

    private static int Length(BenchChain chain) => chain.Tasks.Sum(t => t.Minutes);

    /// <summary>The longest that it waits by itself at one time.</summary>
    private static int Tail(BenchChain chain) => chain.Tasks.Where(t => !t.Hands).Max(t => (int?)t.Minutes) ?? 0;

    private static int First(BenchQuestion question, BenchChain chain) =>
        chain.Tasks.Select(t => question.Before.GetValueOrDefault(t.Id)?.Start).FirstOrDefault(s => s is not null)
        ?? Endless;

    private static List<Placed>? Try(BenchQuestion question, BenchChain[] order, bool keep)
    {
        var plan = new List<Placed>();
        var busy = question.People.ToDictionary(p => p.Name, _ => new List<Shift>(), StringComparer.Ordinal);
        // What is in hand is in hand; nobody else gets those minutes.
        foreach (var chain in order.Where(c => c is { GoesOn: true, With: not null }))
            busy[chain.With!].Add(new Shift(0, chain.Tasks[0].Minutes));
        // What is held already is held until its machine has been laid.
        var used = order
            .SelectMany(c => c.Holds.Where(h => h.Already).Select(h => (c.Tag, new Usage(h.What, 0, Endless))))
            .ToLookup(x => x.Tag, x => x.Item2, StringComparer.Ordinal);
        var usages = new List<Usage>(used.SelectMany(g => g));
        // Where people were told something, nobody is laid into those minutes but whose they are: one machine that moves does not
        // push all the others along.
        var told = keep
            ? order.ToDictionary(c => c.Tag, c => AsTold(question, c), StringComparer.Ordinal)
            : new Dictionary<string, List<Placed>>(StringComparer.Ordinal);
        foreach (var p in told.Values.SelectMany(t => t))
            if (p.Person is not null && busy.TryGetValue(p.Person, out var taken))
                taken.Add(new Shift(p.Start, p.End));
        var spans = order
            .Where(c => told.TryGetValue(c.Tag, out var t) && t.Count == c.Tasks.Count)
            .SelectMany(c => Spans(c, told[c.Tag]).Select(u => (c.Tag, u)))
            .ToLookup(x => x.Tag, x => x.u, StringComparer.Ordinal);
        usages.AddRange(spans.SelectMany(g => g));
        var waiting = new LinkedList<BenchChain>(order);
        while (waiting.Count > 0)
        {
            var laid = false;
            for (var node = waiting.First; node is not null; node = node.Next)
            {
                var chain = node.Value;
                foreach (var own in used[chain.Tag].Concat(spans[chain.Tag]))
                    usages.Remove(own);
                var mine = told.GetValueOrDefault(chain.Tag, []);
                foreach (var p in mine)
                    if (p.Person is not null && busy.TryGetValue(p.Person, out var taken))
                        taken.Remove(new Shift(p.Start, p.End));
                if (Lay(question, chain, busy, usages, keep) is not { } placed)
                {
                    usages.AddRange(used[chain.Tag].Concat(spans[chain.Tag]));
                    foreach (var p in mine)
                        if (p.Person is not null && busy.TryGetValue(p.Person, out var taken))
                            taken.Add(new Shift(p.Start, p.End));
                    continue;
                }
                usages.AddRange(Spans(chain, placed));
                foreach (var p in placed.Where(p => p.Person is not null))
                    if (!(chain.GoesOn && p.Start == 0))
                        busy[p.Person!].Add(new Shift(p.Start, p.End));
                plan.AddRange(placed);
                waiting.Remove(node);
                laid = true;
                break;
            }
            if (!laid)
                return null;
        }
        return plan;
    }

    private static IEnumerable<Usage> Spans(BenchChain chain, IReadOnlyList<Placed> placed)
    {
        var at = placed.ToDictionary(p => p.Task, StringComparer.Ordinal);
        foreach (var hold in chain.Holds)
        {
            var span = BenchCheck.Span(chain, hold, at);
            yield return new Usage(hold.What, span.From, span.To);
        }
    }

    /// <summary>The tasks of a machine where the plan before had them, with the waits between; nothing where it did not have all of them.</summary>
    private static List<Placed> AsTold(BenchQuestion question, BenchChain chain)
    {
        var told = new List<Placed>();
        foreach (var task in chain.Tasks)
            if (chain.GoesOn && told.Count == 0)
                told.Add(new Placed(task.Id, chain.With, 0, task.Minutes));
            else if (!task.Hands)
                told.Add(
                    told.Count == 0
                        ? new Placed(task.Id, null, 0, task.Minutes)
                        : new Placed(task.Id, null, told[^1].End, told[^1].End + task.Minutes)
                );
            else if (question.Before.TryGetValue(task.Id, out var before))
                told.Add(before with { End = before.Start + task.Minutes });
            else
                return [];
        // What is in hand is among the minutes that are taken already.
        return chain is { GoesOn: true, With: not null } ? told[1..] : told;
    }

    /// <summary>Lays one machine; null where it waits for what others hold without an end.</summary>
    private static List<Placed>? Lay(
        BenchQuestion question,
        BenchChain chain,
        Dictionary<string, List<Shift>> busy,
        List<Usage> usages,
        bool keep
    )
    {
        var least = new int[chain.Tasks.Count];
        if (keep)
            for (var i = 0; i < least.Length; i++)
                least[i] = question.Before.GetValueOrDefault(chain.Tasks[i].Id)?.Start ?? 0;
        while (true)
        {
            var placed = Earliest(question, chain, busy, least, keep);
            if (placed is null)
                return null;
            var at = placed.ToDictionary(p => p.Task, StringComparer.Ordinal);
            var later = false;
            foreach (var hold in chain.Holds.Where(h => !h.Already))
            {
                var span = BenchCheck.Span(chain, hold, at);
                if (Full(question, hold.What, span, usages) is not { } free)
                    continue;
                if (free >= Endless)
                    return null;
                // A wait begins when the hand leaves; it is the task before it that has to come later.
                var from = hold.From;
                while (from > 0 && !chain.Tasks[from].Hands)
                    from--;
                least[from] = Math.Max(placed[from].Start + 1, free - Ahead(chain, from, hold.From));
                later = true;
                break;
            }
            if (!later)
                return placed;
        }
    }

    private static int Ahead(BenchChain chain, int from, int to) =>
        chain.Tasks.Skip(from).Take(to - from).Sum(t => t.Minutes);

    /// <summary>When something is free again of which all are taken at some time of a span; null where one is free throughout.</summary>
    private static int? Full(BenchQuestion question, BenchResource what, Shift span, List<Usage> usages)
    {
        // It fills up where one begins: at the start of the span, or of a use within it.
        var first = int.MaxValue;
        var free = 0;
        for (var i = -1; i < usages.Count; i++)
        {
            var minute = i < 0 ? span.From : usages[i].From;
            if (minute < span.From || minute >= span.To || minute >= first || (i >= 0 && usages[i].What != what))
                continue;
            var (then, ends) = (0, int.MaxValue);
            foreach (var use in usages)
                if (use.What == what && use.From <= minute && minute < use.To)
                    (then, ends) = (then + 1, Math.Min(ends, use.To));
            if (then >= question.Of(what))
                (first, free) = (minute, ends);
        }
        return first == int.MaxValue ? null : free;
    }

    private static List<Placed>? Earliest(
        BenchQuestion question,
        BenchChain chain,
        Dictionary<string, List<Shift>> busy,
        int[] least,
        bool keep
    )
    {
        var placed = new List<Placed>();
        var free = 0;
        for (var i = 0; i < chain.Tasks.Count; i++)
        {
            var task = chain.Tasks[i];
            if (!task.Hands)
            {
                // The first task of a machine may be a wait; any other begins as the hand leaves.
                free = i == 0 && !chain.GoesOn ? Math.Max(free, least[i]) : free;
                placed.Add(new Placed(task.Id, null, free, free + task.Minutes));
                free += task.Minutes;
                continue;
            }
            if (i == 0 && chain is { GoesOn: true, With: { } with })
            {
                placed.Add(new Placed(task.Id, with, 0, task.Minutes));
                free = task.Minutes;
                continue;
            }
            var from = Math.Max(free, least[i]);
            var old = keep ? question.Before.GetValueOrDefault(task.Id)?.Person : null;
            (string Name, int Start)? best = null;
            foreach (var person in question.People.Where(p => p.Can(task)))
                if (
                    Slot(person, busy[person.Name], from, task.Minutes) is { } start
                    && (
                        best is not { } b
                        || start < b.Start - (b.Name == old ? BenchCost.Tolerance : 0)
                        || (person.Name == old && start <= b.Start + BenchCost.Tolerance)
                    )
                )
                    best = (person.Name, start);
            if (best is not { } found)
                return null;
            placed.Add(new Placed(task.Id, found.Name, found.Start, found.Start + task.Minutes));
            free = found.Start + task.Minutes;
        }
        return placed;
    }

    /// <summary>The first minute from which somebody is there and free for so long.</summary>
    private static int? Slot(BenchPerson person, List<Shift> busy, int from, int minutes)
    {
        foreach (var shift in person.Shifts)
        {
            if (shift.To < from + minutes)
                continue;
            var start = Math.Max(from, shift.From);
            while (start + minutes <= shift.To)
            {
                var next = start;
                foreach (var taken in busy)
                    if (taken.From < start + minutes && start < taken.To)
                        next = Math.Max(next, taken.To);
                if (next == start)
                    return start;
                start = next;
            }
        }
        return null;
    }
}
