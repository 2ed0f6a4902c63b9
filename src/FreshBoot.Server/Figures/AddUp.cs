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
    Shop shop
)
{
    /// <summary>The figures: of every run, those that were given up for another among them.</summary>
    public async Task<FiguresSheet> OfAsync(CancellationToken stop)
    {
        var recorded = await index.RunsAsync(stop);
        var dossiers = await index.DossiersAsync([.. recorded.Select(r => r.Tag).Distinct()], stop);
        var catalogue = shop.Catalogue;
        return ShopFigures.Of(
            [
                .. recorded
                    .Where(r => dossiers.ContainsKey(r.Tag))
                    .Select(r => new FigureRun(
                        r.Tag,
                        r.Route.System is { } id ? catalogue.System(id)?.FullName ?? id : null,
                        r.Route.School,
                        shop.Calendar.Day(r.StartedAt),
                        r.State.FinishedAt is { } finished ? shop.Calendar.Day(finished) : null,
                        r.State.GivenUpAt is not null,
                        r.Events.Count(e => e.Kind == RunEventKinds.Stopped),
                        r.Route.Worth?.Total ?? r.Route.Money,
                        r.Route.SupportMonths,
                        catalogue.GramsOf(dossiers[r.Tag])
                    )),
            ],
            [
                .. (await runs.TimedAsync(stop)).Select(t => new FigureTime(
                    shop.Calendar.Day(t.At),
                    t.Step.Usual,
                    t.Step.Took
                )),
            ],
            [
                .. (await searches.FoundAsync(stop)).Select(f => new FoundCause(
                    catalogue.Causes.FirstOrDefault(c => c.Id == f.Cause)?.About ?? f.Cause,
                    f.Times
                )),
            ]
        );
    }

    /// <summary>The same in words.</summary>
    public async Task<OwnerSheet> ReportAsync(CancellationToken stop) =>
        FiguresReport.Of(await OfAsync(stop), shop.Catalogue.Weights, shop.Name, shop.Today);

    /// <summary>The report as PDF.</summary>
    public async Task<byte[]> PdfAsync(CancellationToken stop) =>
        HandoverPdf.Of(await ReportAsync(stop), languages.Of(OwnerWords.Own));
}
