using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Figures;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Diagnosis;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Handover;

namespace FreshBoot.Server.Figures;

/// <summary>Adds up what the shop recorded, and puts it on a sheet for whoever pays for it.</summary>
internal sealed class AddUp(
    MachineIndex index,
    RunStore runs,
    DiagnosisStore searches,
    OwnerLanguages languages,
    Shop shop,
    TimeProvider clock
)
{
    /// <summary>The figures: of each machine its latest run.</summary>
    public async Task<FiguresSheet> OfAsync(CancellationToken stop)
    {
        var latest = await index.LatestRunsAsync(stop);
        var dossiers = await index.DossiersAsync([.. latest.Keys], stop);
        var catalogue = shop.Catalogue;
        return ShopFigures.Of(
            [
                .. latest
                    .Values.Where(r => dossiers.ContainsKey(r.Tag))
                    .Select(r => new FigureRun(
                        r.Tag,
                        r.Route.System is { } id ? catalogue.System(id)?.FullName ?? id : null,
                        r.Route.School,
                        Day(r.StartedAt),
                        r.State.FinishedAt is { } finished ? Day(finished) : null,
                        r.State.GivenUpAt is not null,
                        r.Events.Count(e => e.Kind == RunEventKinds.Stopped),
                        r.Route.Worth?.Total ?? r.Route.Money,
                        r.Route.SupportMonths,
                        catalogue.Weights.FirstOrDefault(w => w.When?.Holds(dossiers[r.Tag]) != false)?.Grams
                    )),
            ],
            [.. (await runs.TimedAsync(stop)).Select(t => new FigureTime(Day(t.At), t.Step.Usual, t.Step.Took))],
            [
                .. (await searches.FoundAsync(stop)).Select(f => new FoundCause(
                    catalogue.Causes.FirstOrDefault(c => c.Id == f.Cause)?.About ?? f.Cause,
                    f.Times
                )),
            ]
        );
    }

    /// <summary>The same in words.</summary>
    public async Task<OwnerSheet> ReportAsync(CancellationToken stop)
    {
        var figures = await OfAsync(stop);
        var weights = shop.Catalogue.Weights;
        return new OwnerSheet(
            OwnerWords.Own,
            $"{Numbers.Count(figures.InUse, "computer", "computers")} kept in use.",
            $"{shop.Today:yyyy-MM-dd}",
            [shop.Name, "What came of the work, as it is recorded. Of each computer its latest work counts."],
            [.. Parts(figures, weights).Where(p => p.Items.Count > 0)],
            $"Made from the shop’s own records on {shop.Today:d MMMM yyyy}."
        );
    }

    /// <summary>The report as PDF.</summary>
    public async Task<byte[]> PdfAsync(CancellationToken stop) =>
        HandoverPdf.Of(await ReportAsync(stop), languages.Of(OwnerWords.Own));

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
                    $"About {figures.Grams / 1000.0:0.0} kg, of {figures.Weighed} computers of {figures.InUse} whose form is known.",
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

    private DateOnly Day(DateTimeOffset at) =>
        DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(at, clock.LocalTimeZone).Date);
}
