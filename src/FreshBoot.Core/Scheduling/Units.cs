namespace FreshBoot.Core.Scheduling;

/// <summary>A thing of the shop that a machine has for a time: bay 3, stick 1.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="What">What kind of thing.</param>
/// <param name="Number">Which one, from 1.</param>
/// <param name="From">From when.</param>
/// <param name="To">Until when.</param>
public sealed record UnitSpan(string Tag, BenchResource What, int Number, int From, int To);

/// <summary>Which bay, which stick: gives each machine one of its own for as long as it holds it.</summary>
public static class Units
{
    /// <summary>
    /// Takes them by the time at which they are wanted, each the lowest that is free: where never more are held at once than there
    /// are, that is always enough (interval graphs are perfect). A machine that stands in a bay stays in it.
    /// </summary>
    /// <param name="question">What was asked.</param>
    /// <param name="plan">The plan, which holds.</param>
    /// <param name="bays">Bays in which machines stand.</param>
    public static IReadOnlyList<UnitSpan> Of(
        BenchQuestion question,
        IReadOnlyList<Placed> plan,
        IReadOnlyDictionary<string, int> bays
    )
    {
        var at = plan.ToDictionary(p => p.Task, StringComparer.Ordinal);
        var all = new List<UnitSpan>();
        foreach (var what in Enum.GetValues<BenchResource>())
        {
            var free = new int[question.Of(what) + 1];
            foreach (
                var (chain, span, already) in question
                    .Chains.SelectMany(c =>
                        c.Holds.Where(h => h.What == what).Select(h => (c, BenchCheck.Span(c, h, at), h.Already))
                    )
                    .OrderBy(x => x.Item2.From)
                    .ThenByDescending(x => x.Already && bays.ContainsKey(x.c.Tag))
                    .ThenBy(x => x.c.Tag, StringComparer.Ordinal)
            )
            {
                var own = what == BenchResource.Bay && already ? bays.GetValueOrDefault(chain.Tag) : 0;
                var number = own > 0 && own < free.Length && free[own] <= span.From ? own : 0;
                for (var n = 1; n < free.Length && number == 0; n++)
                    if (free[n] <= span.From)
                        number = n;
                if (number == 0)
                    throw new InvalidOperationException($"More machines hold a {what} at {span.From} than there are.");
                free[number] = span.To;
                all.Add(new UnitSpan(chain.Tag, what, number, span.From, span.To));
            }
        }
        return all;
    }
}
