using System.Globalization;
using System.Text.Json.Serialization;

namespace FreshBoot.Core.Routes;

/// <summary>What routes are weighed by.</summary>
[JsonConverter(typeof(CamelCaseNames<Criterion>))]
public enum Criterion
{
    /// <summary>Parts and fees.</summary>
    Money,

    /// <summary>Hands-on minutes.</summary>
    Work,

    /// <summary>What may fail or harm.</summary>
    Risk,

    /// <summary>Months of updates.</summary>
    Support,

    /// <summary>How well it suits the person.</summary>
    Fit,
}

/// <summary>
/// How much each criterion counts, 0 to 100. A score is the weighted mean of fixed, linear scales, so a score means the same on
/// every machine and the weight at which two routes change places is exact.
/// </summary>
/// <param name="Money">Full marks for nothing spent, none from M 100 on.</param>
/// <param name="Work">Full marks for no work, none from three hours on.</param>
/// <param name="Risk">Full marks for no risk, none for certain failure.</param>
/// <param name="Support">Full marks from five years on; a rolling system with no end set counts as four.</param>
/// <param name="Fit">As the fit says.</param>
public sealed record Weights(double Money, double Work, double Risk, double Support, double Fit)
{
    private const double MostMoney = 10_000;
    private const double MostMinutes = 480;
    private const double MostMonths = 60;
    private const double RollingMonths = 48;

    /// <summary>What the shop weighs by when nobody moves a slider.</summary>
    public static Weights Usual { get; } = new(20, 15, 15, 30, 20);

    /// <summary>Somebody's everyday machine weighs risk double.</summary>
    public static Weights Everyday { get; } = Usual with { Risk = 30 };

    /// <summary>The weight of a criterion.</summary>
    public double this[Criterion criterion] =>
        criterion switch
        {
            Criterion.Money => Money,
            Criterion.Work => Work,
            Criterion.Risk => Risk,
            Criterion.Support => Support,
            _ => Fit,
        };

    /// <summary>The same weights with one of them moved.</summary>
    public Weights With(Criterion criterion, double weight) =>
        criterion switch
        {
            Criterion.Money => this with { Money = weight },
            Criterion.Work => this with { Work = weight },
            Criterion.Risk => this with { Risk = weight },
            Criterion.Support => this with { Support = weight },
            _ => this with { Fit = weight },
        };

    /// <summary>Reads "money,work,risk,support,fit", such as <c>20,15,15,30,20</c>.</summary>
    /// <exception cref="RefusedException">It is not five numbers from 0 to 100, or all are 0.</exception>
    public static Weights Parse(string text)
    {
        var parts = text.Split(',');
        var numbers = parts
            .Select(p =>
                double.TryParse(p, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var n) ? n : -1
            )
            .ToArray();
        if (numbers.Length != 5 || numbers.Any(n => n is not (>= 0 and <= 100)) || numbers.Sum() == 0)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{text}” are no weights.",
                "weights",
                "Five numbers from 0 to 100 for money, work, risk, support and fit, not all 0: 20,15,15,30,20."
            );
        return new Weights(numbers[0], numbers[1], numbers[2], numbers[3], numbers[4]);
    }

    /// <summary>How good a route is by one criterion, 0 to 1. A machine that ends serves nobody, and so gets nothing.</summary>
    public static double Utility(RouteVector route, School school, Criterion criterion) =>
        school == School.Retire
            ? 0
            : criterion switch
            {
                Criterion.Money => 1 - Math.Min(route.Money, MostMoney) / MostMoney,
                Criterion.Work => 1 - Math.Min(route.HandsOnMinutes, MostMinutes) / MostMinutes,
                Criterion.Risk => 1 - route.RiskPpm / 1e6,
                Criterion.Support => (
                    route.SupportMonths == int.MaxValue ? RollingMonths : Math.Min(route.SupportMonths, MostMonths)
                ) / MostMonths,
                _ => route.Fit / 100.0,
            };

    /// <summary>The score, 0 to 100.</summary>
    public double Score(RouteVector route, School school) =>
        100 * Criteria.Sum(c => this[c] * Utility(route, school, c)) / Sum;

    /// <summary>The five criteria.</summary>
    public static IReadOnlyList<Criterion> Criteria { get; } = Enum.GetValues<Criterion>();

    /// <summary>All weights together.</summary>
    [JsonIgnore]
    public double Sum => Money + Work + Risk + Support + Fit;
}
