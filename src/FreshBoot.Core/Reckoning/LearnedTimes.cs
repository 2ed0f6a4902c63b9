using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Reckoning;

/// <summary>How long a step took beside what the sheet said.</summary>
/// <param name="Step">Which step, wherever it stands: <see cref="LearnedTimes.KeyOf"/>.</param>
/// <param name="Usual">What the sheet said, in minutes.</param>
/// <param name="Took">What it took, in minutes.</param>
public sealed record TimedStep(string Step, double Usual, double Took);

/// <summary>What is believed of a step: its time is the sheet’s, times e to the power of a normal number.</summary>
/// <param name="Mean">Mean of that number.</param>
/// <param name="Spread">Its standard deviation, of what is not known and of what differs each time.</param>
/// <param name="Paced">How much of what is not known of the shop’s pace moves it: 1 of a step that was never recorded, near 0 of one that often was.</param>
/// <param name="Seen">How often the shop has recorded the step.</param>
public sealed record StepBelief(double Mean, double Spread, double Paced, int Seen);

/// <summary>
/// Times of steps as a shop’s recorded runs teach them, shrunk towards the catalogue: log(took ÷ usual) is the shop’s own pace,
/// plus the step’s own, plus what differs each time. With few records the catalogue counts, with many the shop.
/// </summary>
/// <remarks>
/// A normal model of three levels, estimated by its moments (empirical Bayes; see Gelman and others, Bayesian Data Analysis, chapter 5).
/// The spreads are what a shop shows as a rule: its pace differs from the catalogue’s by a quarter, a step from its shop’s by a third,
/// one time from the next by a quarter.
/// </remarks>
public sealed class LearnedTimes
{
    /// <summary>By how much the pace of shops differs, as a standard deviation of the logarithm.</summary>
    public const double ShopSpread = 0.25;

    /// <summary>The same of a step within a shop.</summary>
    public const double StepSpread = 0.35;

    /// <summary>The same of one time to the next.</summary>
    public const double NoiseSpread = 0.25;

    /// <summary>A ratio beyond it is no pace: somebody forgot to say that it was done.</summary>
    private const double MostRatio = 8;

    private readonly Dictionary<string, (int Seen, double Mean)> _steps;
    private readonly double _shop;
    private readonly double _shopVariance;

    /// <summary>Nothing recorded: the catalogue counts.</summary>
    public static LearnedTimes Nothing { get; } = new([]);

    /// <summary>Learns from recorded steps.</summary>
    public LearnedTimes(IEnumerable<TimedStep> recorded)
    {
        _steps = recorded
            .Where(r => Teaches(r.Usual, r.Took))
            .GroupBy(r => r.Step, StringComparer.Ordinal)
            .ToDictionary(
                g => g.Key,
                g => (g.Count(), g.Average(r => Math.Log(r.Took / r.Usual))),
                StringComparer.Ordinal
            );
        Recorded = _steps.Values.Sum(s => s.Seen);
        // Each step’s mean tells of the shop with the variance of its own pace and of what differs each time.
        var precision = _steps.Values.Sum(s => 1 / Variance(s.Seen));
        _shopVariance = 1 / (1 / (ShopSpread * ShopSpread) + precision);
        _shop = _shopVariance * _steps.Values.Sum(s => s.Mean / Variance(s.Seen));
    }

    /// <summary>Whether a time says anything: one that is eight times too long or too short says that somebody forgot, or only pressed on.</summary>
    public static bool Teaches(double usual, double took) =>
        usual > 0 && took > 0 && took <= MostRatio * usual && took * MostRatio >= usual;

    /// <summary>Steps that were recorded.</summary>
    public int Recorded { get; }

    /// <summary>The shop’s own pace beside the catalogue’s, 1 for the same.</summary>
    public double Pace => Math.Exp(_shop);

    /// <summary>The spread of the shop’s own pace that is not known yet.</summary>
    public double PaceSpread => Math.Sqrt(_shopVariance);

    /// <summary>What is believed of a step, the shop’s pace not counted in its spread.</summary>
    public StepBelief Of(string step)
    {
        if (!_steps.TryGetValue(step, out var seen))
            return new StepBelief(_shop, Math.Sqrt(StepSpread * StepSpread + NoiseSpread * NoiseSpread), 1, 0);
        var own = StepSpread * StepSpread;
        var noise = NoiseSpread * NoiseSpread / seen.Seen;
        var share = own / (own + noise);
        return new StepBelief(
            _shop + share * (seen.Mean - _shop),
            Math.Sqrt(own * (1 - share) + NoiseSpread * NoiseSpread),
            1 - share,
            seen.Seen
        );
    }

    /// <summary>The name under which a step is learned: its procedure and its place there, whatever machine it stands on.</summary>
    public static string KeyOf(Step step)
    {
        // Steps that come more than once are numbered, and those of a cure carry its name.
        var fragment = step.Fragment.Split('.')[0];
        var place = step.Id.StartsWith(step.Fragment, StringComparison.Ordinal)
            ? step.Id[step.Fragment.Length..].TrimStart('.', '-')
            : step.Id;
        return $"{fragment}/{place}";
    }

    private static double Variance(int seen) => StepSpread * StepSpread + NoiseSpread * NoiseSpread / seen;
}
