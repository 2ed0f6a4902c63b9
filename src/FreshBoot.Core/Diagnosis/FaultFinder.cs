using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Diagnosis;

/// <summary>What a check showed.</summary>
/// <param name="Check">The check.</param>
/// <param name="Seen">Id of what was seen.</param>
public sealed record CheckAnswer(string Check, string Seen);

/// <summary>How often a cause was found at a rung in this shop.</summary>
/// <param name="Cause">The cause.</param>
/// <param name="Times">In how many stops.</param>
public sealed record CauseCount(string Cause, int Times);

/// <summary>What a fault finder is asked.</summary>
/// <param name="Rung">How far the machine came: the rung that it does not get past.</param>
/// <param name="Facts">The machine, its plan and what was made for it.</param>
/// <param name="Causes">All causes of the catalogue.</param>
/// <param name="Checks">All checks.</param>
/// <param name="Found">What this shop found before.</param>
/// <param name="Message">What the machine printed, or somebody read from its screen; null for nothing.</param>
public sealed record FaultQuestion(
    Rung Rung,
    IFacts Facts,
    IReadOnlyList<CauseEntry> Causes,
    IReadOnlyList<CheckEntry> Checks,
    IReadOnlyList<CauseCount> Found,
    string? Message = null
)
{
    /// <summary>
    /// Why a cause cannot be the one; null where it can. A message that names it outweighs the facts that exclude it: they may have been
    /// entered wrongly, or another medium is in the machine than the plan says.
    /// </summary>
    public string? WhyNot(CauseEntry cause) => Named(cause).Any() ? null : cause.WhyNot(Facts);

    /// <summary>The messages of a cause that were seen.</summary>
    internal IEnumerable<CauseMessage> Named(CauseEntry cause) =>
        Message is { } message ? cause.Says.Where(s => MessageText.Says(message, s.Text)) : [];
}

/// <summary>A cause, and how likely it is after all that was seen.</summary>
/// <param name="Cause">The cause.</param>
/// <param name="Chance">0 to 1.</param>
/// <param name="Why">The arguments in words, the first one that counted first.</param>
/// <param name="Found">How often this shop found it at this rung.</param>
public sealed record CauseChance(CauseEntry Cause, double Chance, IReadOnlyList<string> Why, int Found);

/// <summary>A check that may be made next.</summary>
/// <param name="Check">The check.</param>
/// <param name="Bits">What it tells, in bits, as things stand.</param>
public sealed record CheckGain(CheckEntry Check, double Bits)
{
    /// <summary>Minutes that every check takes beside its own: to read it, to fetch what it wants, to note what was seen.</summary>
    public const int MinutesBeside = 3;

    /// <summary>What it tells in a minute.</summary>
    public double PerMinute => Bits / (Check.Minutes + MinutesBeside);
}

/// <summary>
/// Finds why a machine stopped: Bayes’ rule over causes, and over those pairs that come together, with chances that the machine,
/// its plan and what was done shift; and the next check by what it tells in a minute. One that erases comes after all that do not.
/// </summary>
/// <remarks>
/// The chance of a cause before anything is looked at is its weight among those of its rung, blended with what the shop found
/// there: the catalogue counts like <see cref="CatalogueStops"/> stops. A pair is as likely as its first cause times what the
/// catalogue says; where both are there a check shows what the one that speaks louder shows. Checks are taken as independent, given the cause.
/// </remarks>
public sealed class FaultFinder
{
    /// <summary>How many stops the catalogue’s weights count for beside those that the shop recorded.</summary>
    public const int CatalogueStops = 20;

    /// <summary>Below it nobody needs another check.</summary>
    public const double Sure = 0.95;

    /// <summary>The causes of the neighbouring rungs stay in sight: people misjudge how far it got.</summary>
    private const double Beside = 0.04;

    private readonly FaultQuestion _question;
    private readonly (string One, string? Two)[] _faults;
    private readonly double[] _prior;
    private readonly Dictionary<string, CauseEntry> _causes;
    private readonly Dictionary<string, List<string>> _why = new(StringComparer.Ordinal);

    /// <summary>Sets the chances before anything is looked at.</summary>
    public FaultFinder(FaultQuestion question)
    {
        _question = question;
        _causes = question.Causes.ToDictionary(c => c.Id, StringComparer.Ordinal);
        var weights = question
            .Causes.Select(c => (Cause: c, Weight: Weight(c)))
            .Where(c => c.Weight > 0)
            .ToDictionary(c => c.Cause.Id, c => c.Weight, StringComparer.Ordinal);
        _faults =
        [
            .. weights.Keys.Select(c => (c, (string?)null)),
            .. question
                .Causes.Where(c => weights.ContainsKey(c.Id))
                .SelectMany(c => c.With.Where(w => weights.ContainsKey(w.Cause)), (c, w) => (c.Id, (string?)w.Cause)),
        ];
        _prior =
        [
            .. _faults.Select(f =>
                f.Two is null
                    ? weights[f.One]
                    : weights[f.One] * _causes[f.One].With.First(w => w.Cause == f.Two).PerMille / 1000.0
            ),
        ];
        Normalise(_prior);
    }

    /// <summary>The causes of this rung that cannot be the one, with the reason.</summary>
    public IReadOnlyList<(CauseEntry Cause, string Why)> Excluded =>
        [
            .. _question
                .Causes.Where(c => c.Rung == _question.Rung)
                .Select(c => (c, Why: _question.WhyNot(c)))
                .Where(c => c.Why is not null)
                .Select(c => (c.c, c.Why!)),
        ];

    /// <summary>The causes as they stand after these answers, the likeliest first.</summary>
    /// <exception cref="RefusedException">A check or something seen that the catalogue does not know.</exception>
    public IReadOnlyList<CauseChance> After(IReadOnlyList<CheckAnswer> answers)
    {
        var now = (double[])_prior.Clone();
        var arguments = _causes.Keys.ToDictionary(
            c => c,
            c => new List<string>(_why.GetValueOrDefault(c) ?? []),
            StringComparer.Ordinal
        );
        foreach (var answer in answers)
        {
            var before = Chances(now);
            var (check, shown) = Find(answer);
            Hear(now, check, shown);
            var after = Chances(now);
            foreach (var (cause, chance) in after)
                // What moves a cause by a twentieth, up or down, is an argument.
                if (Math.Abs(chance - before[cause]) >= 0.05)
                    arguments[cause].Add($"{Percent(before[cause])} → {Percent(chance)}: {check.Shows[shown].Text}");
        }
        return
        [
            .. Chances(now)
                .OrderByDescending(c => c.Value)
                .ThenBy(c => c.Key, StringComparer.Ordinal)
                .Select(c => new CauseChance(_causes[c.Key], c.Value, arguments[c.Key], FoundOf(c.Key))),
        ];
    }

    /// <summary>
    /// The checks that may be made next: what tells most in a minute first, and whatever erases after all that does not. None where
    /// one cause is sure enough, or nothing tells anything more.
    /// </summary>
    public IReadOnlyList<CheckGain> Next(IReadOnlyList<CheckAnswer> answers)
    {
        var now = (double[])_prior.Clone();
        foreach (var answer in answers)
        {
            var (check, shown) = Find(answer);
            Hear(now, check, shown);
        }
        if (now.Length == 0 || Chances(now).Values.Max() >= Sure)
            return [];
        var asked = answers.Select(a => a.Check).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. _question
                .Checks.Where(c => !asked.Contains(c.Id))
                .Select(c => new CheckGain(c, Gain(now, c)))
                .Where(g => g.Bits > 0.005)
                .OrderBy(g => g.Check.Risk == CheckRisk.Erases)
                .ThenByDescending(g => g.PerMinute)
                .ThenBy(g => g.Check.Id, StringComparer.Ordinal),
        ];
    }

    /// <summary>What a check tells, in bits: how much less is open after it, over all that it may show.</summary>
    private double Gain(double[] now, CheckEntry check)
    {
        double expected = 0;
        for (var shown = 0; shown < check.Shows.Count; shown++)
        {
            var after = (double[])now.Clone();
            var chance = 0.0;
            for (var i = 0; i < after.Length; i++)
                chance += after[i] *= Seen(check, shown, _faults[i]);
            if (chance <= 0)
                continue;
            Normalise(after);
            expected += chance * Open(after);
        }
        return Math.Max(0, Open(now) - expected);
    }

    private static double Open(double[] chances)
    {
        double bits = 0;
        foreach (var p in chances)
            if (p > 0)
                bits -= p * Math.Log2(p);
        return bits;
    }

    private void Hear(double[] now, CheckEntry check, int shown)
    {
        for (var i = 0; i < now.Length; i++)
            now[i] *= Seen(check, shown, _faults[i]);
        Normalise(now);
    }

    /// <summary>The chance to see it where this fault is the one; of two at once, what the louder one shows.</summary>
    private static double Seen(CheckEntry check, int shown, (string One, string? Two) fault)
    {
        if (fault.Two is null)
            return check.Chance(shown, fault.One);
        double all = 0;
        for (var i = 0; i < check.Shows.Count; i++)
            all += Math.Max(check.Chance(i, fault.One), check.Chance(i, fault.Two));
        return Math.Max(check.Chance(shown, fault.One), check.Chance(shown, fault.Two)) / all;
    }

    private (CheckEntry Check, int Shown) Find(CheckAnswer answer)
    {
        var check =
            _question.Checks.FirstOrDefault(c => c.Id == answer.Check)
            ?? throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no check “{answer.Check}”.",
                "check",
                "A check of the catalogue."
            );
        for (var i = 0; i < check.Shows.Count; i++)
            if (check.Shows[i].Id == answer.Seen)
                return (check, i);
        throw new RefusedException(
            RefusalKind.Invalid,
            $"“{check.Text}” cannot show “{answer.Seen}”.",
            "seen",
            Numbers.Join(check.Shows.Select(s => $"“{s.Id}”"), "or") + "."
        );
    }

    private Dictionary<string, double> Chances(double[] faults)
    {
        var chances = new Dictionary<string, double>(StringComparer.Ordinal);
        for (var i = 0; i < faults.Length; i++)
        {
            chances[_faults[i].One] = chances.GetValueOrDefault(_faults[i].One) + faults[i];
            if (_faults[i].Two is { } two)
                chances[two] = chances.GetValueOrDefault(two) + faults[i];
        }
        return chances;
    }

    private double Weight(CauseEntry cause)
    {
        var near = Math.Abs((int)cause.Rung - (int)_question.Rung);
        if (near > 1 || _question.WhyNot(cause) is not null)
            return 0;
        var atRung = (double)_question.Causes.Where(c => c.Rung == cause.Rung).Sum(c => c.Weight);
        var found = _question
            .Found.Where(f => _causes.TryGetValue(f.Cause, out var c) && c.Rung == cause.Rung)
            .Sum(f => f.Times);
        // Dirichlet: the catalogue counts like so many stops, and each recorded one counts as itself.
        var weight = (CatalogueStops * cause.Weight / atRung + FoundOf(cause.Id)) / (CatalogueStops + found);
        var why = new List<string>();
        if (FoundOf(cause.Id) is > 0 and var times)
            why.Add(
                $"found {Numbers.Count(times, "time", "times")} in {Numbers.Count(found, "stop", "stops")} here before"
            );
        weight *= Shift(cause, _question, why);
        foreach (var says in _question.Named(cause))
        {
            weight *= says.Times;
            why.Add($"it says “{says.Text}”");
        }
        if (cause.WhyNot(_question.Facts) is { } against)
            why.Add($"the facts speak against it ({against}): measure them again");
        if (why.Count > 0)
            _why[cause.Id] = why;
        return near == 0 ? weight : weight * Beside;
    }

    /// <summary>By how much machine and plan make a cause likelier; below 1 it is less likely, and 0 where it cannot be.</summary>
    /// <param name="cause">The cause.</param>
    /// <param name="question">The machine and its plan.</param>
    /// <param name="why">Takes the arguments; null where nobody reads them.</param>
    public static double Shift(CauseEntry cause, FaultQuestion question, ICollection<string>? why = null)
    {
        if (question.WhyNot(cause) is not null)
            return 0;
        var times = 1.0;
        foreach (var shift in cause.Shifts.Where(s => s.When.Holds(question.Facts) == true))
        {
            times *= shift.Percent / 100.0;
            why?.Add(shift.Percent >= 100 ? shift.Why : $"less likely: {shift.Why}");
        }
        return times;
    }

    private int FoundOf(string cause) => _question.Found.Where(f => f.Cause == cause).Sum(f => f.Times);

    private static void Normalise(double[] chances)
    {
        var all = chances.Sum();
        if (all <= 0)
            return;
        for (var i = 0; i < chances.Length; i++)
            chances[i] /= all;
    }

    /// <summary>A chance in words that promise no more than is known.</summary>
    public static string Percent(double chance) =>
        chance switch
        {
            < 0.01 => "under 1 %",
            > 0.99 => "over 99 %",
            _ => $"{chance * 100:0} %",
        };
}
