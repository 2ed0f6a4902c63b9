using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Handover;

namespace FreshBoot.Core.Figures;

/// <summary>The figures as a sheet for whoever pays for the shop.</summary>
public static class FiguresReport
{
    /// <summary>The sheet.</summary>
    /// <param name="figures">What came of the work.</param>
    /// <param name="weights">What machines weigh, and where that is known from.</param>
    /// <param name="shop">The shop’s name.</param>
    /// <param name="today">The day.</param>
    public static OwnerSheet Of(
        FiguresSheet figures,
        IReadOnlyList<WeightEntry> weights,
        string shop,
        DateOnly today
    ) =>
        new(
            OwnerWords.Own,
            $"{Numbers.Count(figures.InUse, "computer", "computers")} kept in use.",
            $"{today:yyyy-MM-dd}",
            [shop, "What came of the work, as it is recorded. Of each computer its latest work counts."],
            [.. Parts(figures, weights).Where(p => p.Items.Count > 0)],
            $"Made from the shop’s own records on {today:d MMMM yyyy}."
        );

    private static IEnumerable<OwnerPart> Parts(FiguresSheet figures, IReadOnlyList<WeightEntry> weights)
    {
        yield return new OwnerPart(
            "months",
            "Month by month",
            [
                .. figures.Months.Select(m =>
                    $"{m.Month:MMMM yyyy}: {m.Begun} begun, {m.Finished} finished"
                    + (m.GivenUp > 0 ? $", {m.GivenUp} given up" : "")
                    + (m.Pace is { } pace ? $"; a step took {pace:0.0#} times what its sheet said" : "")
                    + "."
                ),
            ]
        );
        yield return new OwnerPart("systems", "By system", [.. figures.BySystem.Select(Line)]);
        yield return new OwnerPart("schools", "By way", [.. figures.BySchool.Select(Line)]);
        yield return new OwnerPart(
            "causes",
            "What made work stop",
            [.. figures.Causes.Select(c => $"{c.About}: {Numbers.Count(c.Times, "time", "times")}.")]
        );
        yield return new OwnerPart(
            "money",
            "What it costs",
            figures.MoneyPerMonth is { } money
                ? [$"{Numbers.Money(money)} for each month of updates, parts, fees and hours counted."]
                : []
        );
        yield return new OwnerPart(
            "weight",
            "What was not thrown away",
            figures.Weighed == 0
                ? []
                :
                [
                    $"About {figures.Grams / 1000.0:0.0} kg"
                        + (
                            figures.Weighed == figures.InUse
                                ? "."
                                : $", of {figures.Weighed} of the {figures.InUse}; nobody wrote down the form of the others."
                        ),
                    .. weights.Select(w =>
                        $"{w.About}: {w.Grams / 1000.0:0.0} kg ({w.Evidence.Source}, {w.Evidence.Date:yyyy-MM-dd})."
                    ),
                ]
        );
    }

    private static string Line(CameOut c) =>
        $"{char.ToUpperInvariant(c.Name[0])}{c.Name[1..]}: {c.Finished} finished, {c.WithoutStop} of them without a stop"
        + (c.GivenUp > 0 ? $", {c.GivenUp} given up" : "")
        + (c.Open > 0 ? $", {c.Open} under way" : "")
        + ".";
}
