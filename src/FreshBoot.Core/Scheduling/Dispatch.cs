namespace FreshBoot.Core.Scheduling;

/// <summary>
/// The bench played through minute by minute: whoever is free takes, of the machines that want hands and have what they need, the
/// one that stands first in an order, if the work fits into what is left of the day. Nobody stands idle beside a machine that could
/// be gone on with; so plans come out of it in which little time is lost, and each in a fraction of a millisecond.
/// </summary>
internal sealed class Dispatch
{
    /// <summary>A task: who can do it, what it takes as it begins (what the waits after it take among it), what it gives back as it ends.</summary>
    private sealed record Work(string Id, int Minutes, bool[] Can, bool Hands, int[] Takes, int[] Gives);

    private static readonly int Kinds = Enum.GetValues<BenchResource>().Length;
    private readonly BenchQuestion _question;
    private readonly Work[][] _work;
    private readonly Shift[][] _shifts;
    private readonly int[] _inHand;
    private readonly int[] _held = new int[Kinds];

    /// <summary>Makes ready what every play needs.</summary>
    public Dispatch(BenchQuestion question)
    {
        _question = question;
        _shifts = [.. question.People.Select(p => p.Shifts.ToArray())];
        _work = [.. question.Chains.Select(Of)];
        _inHand =
        [
            .. question.Chains.Select(c =>
                c.With is { } with ? question.People.ToList().FindIndex(p => p.Name == with) : -1
            ),
        ];
        foreach (var hold in question.Chains.SelectMany(c => c.Holds.Where(h => h.Already)))
            _held[(int)hold.What]++;
    }

    private Work[] Of(BenchChain chain) =>
        [
            .. chain.Tasks.Select(
                (task, i) =>
                {
                    // A wait begins as the hand leaves: what it takes has to be there before.
                    var follows = i + 1;
                    while (follows < chain.Tasks.Count && !chain.Tasks[follows].Hands)
                        follows++;
                    var begins = i == 0 || task.Hands ? (From: i, To: follows) : (From: i, To: i);
                    return new Work(
                        task.Id,
                        task.Minutes,
                        [.. _question.People.Select(p => p.Can(task))],
                        task.Hands,
                        [
                            .. chain
                                .Holds.Where(h => !h.Already && begins.From <= h.From && h.From < begins.To)
                                .Select(h => (int)h.What),
                        ],
                        [.. chain.Holds.Where(h => h.To == i).Select(h => (int)h.What)]
                    );
                }
            ),
        ];

    /// <summary>The plan for an order of the machines; null where they would wait for one another for ever, or for longer than anybody is there.</summary>
    /// <param name="order">Indices of the machines, the first first.</param>
    public List<Placed>? Play(IReadOnlyList<int> order)
    {
        var plan = new List<Placed>();
        var next = new int[_work.Length];
        var ready = new int[_work.Length];
        var freeAt = new int[_shifts.Length];
        var shift = new int[_shifts.Length];
        var held = (int[])_held.Clone();
        var ends = new PriorityQueue<(int Chain, int Task), int>();
        var left = _work.Sum(w => w.Length);

        for (var c = 0; c < _work.Length; c++)
            if (_question.Chains[c].GoesOn)
                Begin(c, _inHand[c], 0);
        for (var now = 0; left > 0; )
        {
            for (var person = 0; person < _shifts.Length; person++)
            {
                while (shift[person] < _shifts[person].Length && _shifts[person][shift[person]].To <= now)
                    shift[person]++;
                if (shift[person] == _shifts[person].Length || _shifts[person][shift[person]].From > now)
                    continue;
                while (freeAt[person] <= now && Pick(person, now) is >= 0 and var chain)
                    Begin(chain, person, now);
            }
            // A machine that begins with a wait needs nobody.
            foreach (var c in order)
                if (next[c] < _work[c].Length && ready[c] <= now && !_work[c][next[c]].Hands && Has(_work[c][next[c]]))
                    Begin(c, -1, now);
            var then = int.MaxValue;
            if (ends.TryPeek(out _, out var end))
                then = end;
            for (var person = 0; person < _shifts.Length; person++)
                if (
                    shift[person] < _shifts[person].Length
                    && _shifts[person][shift[person]].From is var from
                    && from > now
                )
                    then = Math.Min(then, from);
            if (then == int.MaxValue)
            {
                // Nothing goes on: the rest of the day is too short for what is left. Where no day comes any more they wait for one another.
                for (var person = 0; person < _shifts.Length; person++)
                    if (shift[person] + 1 < _shifts[person].Length)
                        then = Math.Min(then, _shifts[person][shift[person] + 1].From);
                if (then == int.MaxValue)
                    return null;
            }
            now = Math.Max(now, then);
            while (ends.TryPeek(out var done, out var at) && at <= now)
            {
                ends.Dequeue();
                left--;
                foreach (var what in _work[done.Chain][done.Task].Gives)
                    held[what]--;
                if (next[done.Chain] < _work[done.Chain].Length && !_work[done.Chain][next[done.Chain]].Hands)
                    Begin(done.Chain, -1, at);
            }
        }
        return plan;

        bool Has(Work work)
        {
            foreach (var what in work.Takes)
                if (held[what] >= _question.Of((BenchResource)what))
                    return false;
            return true;
        }
        int Pick(int person, int now)
        {
            var until = _shifts[person][shift[person]].To;
            foreach (var c in order)
                if (
                    next[c] < _work[c].Length
                    && ready[c] <= now
                    && _work[c][next[c]] is { Hands: true } work
                    && work.Can[person]
                    && now + work.Minutes <= until
                    && Has(work)
                )
                    return c;
            return -1;
        }
        void Begin(int c, int person, int at)
        {
            var work = _work[c][next[c]];
            foreach (var what in work.Takes)
                held[what]++;
            plan.Add(new Placed(work.Id, person < 0 ? null : _question.People[person].Name, at, at + work.Minutes));
            if (person >= 0)
                freeAt[person] = at + work.Minutes;
            ends.Enqueue((c, next[c]), at + work.Minutes);
            next[c]++;
            ready[c] = at + work.Minutes;
        }
    }
}
