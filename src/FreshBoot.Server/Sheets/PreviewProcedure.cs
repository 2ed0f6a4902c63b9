using System.Text.Json.Nodes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Dossiers;

namespace FreshBoot.Server.Sheets;

/// <summary>A procedure to look at on a machine before it is saved.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Entry">The procedure as it would be.</param>
internal sealed record ProcedureOnMachine(string Tag, JsonObject Entry);

/// <summary>How a procedure reads on a machine.</summary>
/// <param name="System">The system of the best route that it belongs to; null where it belongs to none, or the machine is retired.</param>
/// <param name="School">The school of that route; null where it belongs to none.</param>
/// <param name="Steps">Its steps with everything filled in, as the sheet of that route has them.</param>
/// <param name="Missing">What that sheet cannot do with it; then there are no steps.</param>
/// <param name="Words">Texts that promise something else than their step does.</param>
internal sealed record ProcedurePreview(
    string? System,
    School? School,
    IReadOnlyList<SheetStep> Steps,
    IReadOnlyList<SheetMissing> Missing,
    IReadOnlyList<WordFault> Words
);

/// <summary>Composes the sheets of a machine with a procedure as it would be, and shows what becomes of it there.</summary>
internal sealed class PreviewProcedure(CatalogueKeeper keeper, MachineStore machines, ComposeSheet sheets, Shop shop)
{
    /// <summary>A machine has dozens of routes, of which the first few tell the schools apart.</summary>
    private const int MostRoutes = 40;

    public async Task<ProcedurePreview> DoAsync(string tag, string id, JsonObject entry, CancellationToken stop)
    {
        var tried = keeper.Try([new EntryEdit("procedures", id, entry.ToJsonString())], shop.Today);
        var words = StepWords.Faults(tried.Catalogue.Procedures.First(p => p.Id == id));
        var standing = shop.Stand(await machines.GetAsync(tag, stop), tried);
        foreach (var route in standing.RoutesNow(stop).Take(MostRoutes))
        {
            var sheet = RunSheet.Of(await sheets.QuestionAsync(standing, route, stop));
            Step[] own =
            [
                .. sheet.Steps.Where(s =>
                    s.Fragment == id || s.Fragment.StartsWith($"{id}.", StringComparison.Ordinal)
                ),
            ];
            if (own.Length > 0)
                return new ProcedurePreview(route.System, route.School, [.. own.Select(SheetStep.Of)], [], words);
            if (sheet.Missing.Any(m => m.Fragment == tried.Catalogue.Procedures.First(p => p.Id == id).About))
                return new ProcedurePreview(route.System, route.School, [], sheet.Missing, words);
        }
        return new ProcedurePreview(null, null, [], [], words);
    }
}
