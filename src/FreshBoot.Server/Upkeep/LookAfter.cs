using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Upkeep;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Runs;
using FreshBoot.Formats.Texts;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Handover;
using FreshBoot.Server.Images;

namespace FreshBoot.Server.Upkeep;

/// <summary>What falls due, and when it is.</summary>
/// <param name="Today">The workshop's day.</param>
/// <param name="Left">How many machines have left.</param>
/// <param name="Due">All of it, the earliest first.</param>
internal sealed record DueSheet(DateOnly Today, int Left, IReadOnlyList<Due> Due);

/// <summary>An entry as it would be.</summary>
/// <param name="Kind">The list it stands in.</param>
/// <param name="Id">Its id.</param>
/// <param name="Entry">The entry; null takes it out.</param>
internal sealed record RecallIn(string Kind, string Id, System.Text.Json.Nodes.JsonObject? Entry);

/// <summary>Whom a change touches.</summary>
/// <param name="Left">How many machines have left.</param>
/// <param name="Touched">Those that it touches.</param>
internal sealed record RecallSheet(int Left, IReadOnlyList<TouchedMachine> Touched);

/// <summary>Looks after the machines that have left: what falls due, and whom a change of the catalogue touches.</summary>
internal sealed class LookAfter(
    MachineIndex index,
    OrderStore orders,
    ImageStore images,
    CatalogueKeeper keeper,
    OwnerLanguages languages,
    Shop shop,
    TimeProvider clock
)
{
    private const string CanaryKey = "upkeep.canary";
    private const string VerdictKey = "upkeep.verdict";

    /// <summary>The machines that have left, by tag.</summary>
    public async Task<IReadOnlyList<KeptMachine>> KeptAsync(CancellationToken stop)
    {
        var latest = await index.LatestRunsAsync(stop);
        var kept = new List<KeptMachine>();
        var gone = (await index.AllAsync(stop))
            .Where(m => latest.TryGetValue(m.Tag, out var run) && run.State.FinishedAt is not null)
            .Select(m => (Machine: m, Left: Last(m, FactRegistry.Left)))
            .Where(m => m.Left?.Value == FactValue.Of("yes"))
            .ToArray();
        var dossiers = await index.DossiersAsync([.. gone.Select(m => m.Machine.Tag)], stop);
        foreach (var (machine, left) in gone)
            kept.Add(Kept(dossiers[machine.Tag], latest[machine.Tag], left!.TakenAt));
        return kept;
    }

    /// <summary>A machine as the record has it with which it left.</summary>
    public KeptMachine Kept(Dossier facts, StoredRun run, DateTimeOffset left) =>
        new(
            run.Tag,
            MachineName.Of(facts),
            Day(left),
            run.Route,
            facts,
            [.. run.Steps.Select(s => s.Fragment).Distinct(StringComparer.Ordinal)]
        );

    /// <summary>The workshop's day of a moment.</summary>
    public DateOnly Day(DateTimeOffset at) => shop.Calendar.Day(at);

    /// <summary>Which changes want a canary, what was tried on it, and what the owners hear of it.</summary>
    public async Task<IReadOnlyList<WatchedChange>> WatchedAsync(CancellationToken stop)
    {
        var latest = await index.LatestRunsAsync(stop);
        var canaries = (await index.AllAsync(stop))
            .Where(m => latest.TryGetValue(m.Tag, out var run) && run.State.FinishedAt is not null)
            .Where(m => Last(m, CanaryKey)?.Value == FactValue.Of("yes"))
            // One that has left is not here to be tried on.
            .Where(m => Last(m, FactRegistry.Left)?.Value != FactValue.Of("yes"))
            .Select(m => new CanaryMachine(
                m.Tag,
                MachineName.Of(shop.Dossier(m)),
                latest[m.Tag].Route.System,
                [.. latest[m.Tag].Route.Cures.Select(c => c.Id)],
                Last(m, VerdictKey) is { } tried
                && Enum.TryParse<UpdateVerdict>(tried.Value.ToString(), ignoreCase: true, out var verdict)
                    ? new TriedUpdate(verdict, tried.Source, tried.By ?? "", tried.TakenAt)
                    : null
            ))
            .ToArray();
        return Canaries.Of(
            await KeptAsync(stop),
            canaries,
            id => shop.Catalogue.System(id)?.FullName ?? id,
            languages.Of,
            shop.Today,
            shop.Name
        );
    }

    private static Reading? Last(StoredMachine machine, string key) =>
        machine.Readings.Where(r => r.Key == key).MaxBy(r => r.Receipt);

    /// <summary>What falls due, orders among it.</summary>
    public async Task<DueSheet> DueAsync(CancellationToken stop)
    {
        var kept = await KeptAsync(stop);
        var open = orders
            .Orders.Where(o => o.Order.Due is not null)
            .Select(o => new Due(
                $"order-{o.Order.Id}",
                o.Order.Due!.Value,
                DueKind.OrderDue,
                null,
                $"{o.Order.Name}: {o.Order.Machines} {(o.Order.Machines == 1 ? "machine" : "machines")}",
                o.Order.About
            ));
        return new DueSheet(
            shop.Today,
            kept.Count,
            [
                .. DueList
                    .Of(kept, shop.Catalogue, shop.Today)
                    .Concat(open)
                    .Concat(ImageSources.DueOf(ImageSheets.Kept(await images.ListAsync(stop))))
                    .OrderBy(d => d.On)
                    .ThenBy(d => d.Id, StringComparer.Ordinal),
            ]
        );
    }

    /// <summary>The same as iCalendar.</summary>
    public async Task<string> CalendarAsync(CancellationToken stop) =>
        CalendarText.Write(
            $"{shop.Name}: due",
            "-//Fresh Boot//Due//EN",
            (await DueAsync(stop)).Due.Select(d => new CalendarEntry($"{d.Id}@fresh-boot", d.On, d.What, d.Why)),
            clock.GetUtcNow()
        );

    /// <summary>Which machines that have left a changed entry would touch. Nothing is stored.</summary>
    /// <exception cref="RefusedException">The entry does not hold.</exception>
    public async Task<RecallSheet> RecallAsync(RecallIn change, CancellationToken stop)
    {
        InForce then;
        try
        {
            then = keeper.Try([CatalogueKeeper.Edit(change.Kind, change.Id, change.Entry)], shop.Today);
        }
        catch (PackFaultsException e)
        {
            throw new RefusedException(
                RefusalKind.Impossible,
                e.Faults[0].What,
                $"entry{e.Faults[0].At}",
                "An entry that holds: POST /api/catalogue/preview names all of its faults."
            );
        }
        var kept = await KeptAsync(stop);
        return new RecallSheet(
            kept.Count,
            Recall.Of(change.Kind, change.Id, shop.Catalogue, then.Catalogue, kept, shop.Today, languages.Of, shop.Name)
        );
    }
}
