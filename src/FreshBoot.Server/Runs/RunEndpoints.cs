using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Runs;

/// <summary>Which route to begin.</summary>
/// <param name="RouteId">Its id; one that no longer fits the facts is refused.</param>
/// <param name="By">Who begins.</param>
/// <param name="Override">Why it may begin although a question of the release rung is open; null where none is.</param>
internal sealed record Beginning(string RouteId, string By, Override? Override = null);

/// <summary>A word that takes it upon somebody to begin all the same.</summary>
/// <param name="Reason">Why.</param>
/// <param name="By">Who takes it upon themselves.</param>
internal sealed record Override(string Reason, string By);

/// <summary>A run as its page shows it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Tag">The machine.</param>
/// <param name="System">Id of the system; null where the machine is retired.</param>
/// <param name="School">The school of its route.</param>
/// <param name="By">Who began it.</param>
/// <param name="StartedAt">When it began.</param>
/// <param name="Steps">The sheet.</param>
/// <param name="Events">What has happened.</param>
/// <param name="Seq">The number of events: what the next one must expect.</param>
/// <param name="State">Where it stands.</param>
/// <param name="Chain"><c>whole</c>, or where it is broken.</param>
/// <param name="Acceptance">The first six lines of the acceptance list.</param>
/// <param name="Override">Why it began although the release rung was open; null where it was not.</param>
internal sealed record RunSheetView(
    string Id,
    string Tag,
    string? System,
    School School,
    string By,
    DateTimeOffset StartedAt,
    IReadOnlyList<Step> Steps,
    IReadOnlyList<RunEvent> Events,
    int Seq,
    RunState State,
    string Chain,
    IReadOnlyList<AcceptanceLine> Acceptance,
    string? Override
);

internal static class RunEndpoints
{
    public static void MapRuns(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/machines/{tag}/runs",
                async (
                    string tag,
                    Beginning beginning,
                    MachineStore machines,
                    RunStore runs,
                    PartStore parts,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    Given.Text(beginning.By, "by", 60);
                    var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
                    var run = await BeginAsync(machine, beginning, runs, parts, shop, stop);
                    return TypedResults.Created($"/api/runs/{run.Id}", Show(run, machine, shop));
                }
            )
            .WithSummary("Begins a run of a route")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/runs/{id}",
                async (string id, MachineStore machines, RunStore runs, Shop shop, CancellationToken stop) =>
                {
                    var run = await runs.GetAsync(id, stop);
                    return Show(run, await machines.GetAsync(run.Tag, stop), shop);
                }
            )
            .WithSummary("A run: its sheet, what has happened, where it stands")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/runs/{id}/events",
                async (
                    string id,
                    RunEventIn said,
                    MachineStore machines,
                    RunStore runs,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    Given.Text(said.EventId, "eventId", 100);
                    Given.Text(said.StepId, "stepId", 100);
                    Given.Text(said.By, "by", 60);
                    if (
                        said.Data is { } data
                        && (data.Count > 10 || data.Any(d => d.Key.Length > 40 || d.Value.Length > 2000))
                    )
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            "Too much goes with the event.",
                            "data",
                            "At most ten texts of at most 2000 characters."
                        );
                    var machine = await machines.GetAsync((await runs.GetAsync(id, stop)).Tag, stop);
                    var run = await runs.TakeAsync(id, said, r => Context(r, machine), stop);
                    return Show(run, machine, shop);
                }
            )
            .WithSummary("Says what has happened at the step whose turn it is")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/events",
                (Changes changes, HttpContext context) =>
                    TypedResults.ServerSentEvents(
                        changes.Listen(
                            context.Request.Headers["Last-Event-ID"].FirstOrDefault(),
                            context.RequestAborted
                        )
                    )
            )
            .WithSummary("Server-sent events: what changed, as it changes");
    }

    /// <summary>Begins a run where nothing forbids it and the route still fits; what it takes from the shelf is kept for it.</summary>
    internal static async Task<StoredRun> BeginAsync(
        StoredMachine machine,
        Beginning beginning,
        RunStore runs,
        PartStore parts,
        Shop shop,
        CancellationToken stop
    )
    {
        var standing = shop.Stand(machine);
        var route = standing.Route(beginning.RouteId);
        string? because = null;
        foreach (
            var found in StartRules
                .Of(standing.Dossier, standing.Release)
                .Where(s => s.Retiring || route.School != School.Retire)
        )
        {
            if (!found.MayOverride || beginning.Override is not { } word)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    found.Rung == Rung.Release ? $"The release rung is open: {found.Text}" : found.Text,
                    found.Rung.ToString().ToLowerInvariant(),
                    found.MayOverride
                            ? "All questions of the release rung answered, or “override” with a reason and a name."
                        : found.Rung == Rung.Release
                            ? "The machine released by whoever holds it; nothing else opens this."
                        : "The part taken care of, and the fact entered by name."
                );
            because = $"{Given.Text(word.Reason, "override.reason", 500)} ({Given.Text(word.By, "override.by", 60)})";
        }
        var system = route.System is { } id ? shop.Catalogue.System(id) : null;
        var run = await runs.BeginAsync(
            machine,
            route,
            RunSheet.Make(route, system, standing.Dossier, shop.Catalogue),
            shop.Catalogue.Hash,
            beginning.By,
            because,
            stop
        );
        foreach (
            var taken in MemoryUpgrades
                .All(standing.Dossier, shop.Catalogue.Memory, standing.Shelf)
                .Upgrades.Where(u => u.FromShelf > 0 && route.Cures.Any(c => c.Id == u.Cure.Id))
        )
            await parts.ReserveAsync(machine.Tag, taken.Type, taken.SizeMiB, taken.FromShelf, beginning.By, stop);
        return run;
    }

    internal static RunContext Context(StoredRun run, StoredMachine machine) =>
        new(
            run.Tag,
            Probed(run, machine),
            key => machine.Readings.Any(r => r.Key == key && r.Receipt >= run.ReceiptAtStart)
        );

    internal static bool Probed(StoredRun run, StoredMachine machine) =>
        machine.Readings.Any(r => r.Origin == Origin.Probed && r.Receipt >= run.ReceiptAtStart);

    internal static IReadOnlyList<AcceptanceLine> Accept(StoredRun run, StoredMachine machine, Shop shop)
    {
        if (run.Route.System is not { } id || shop.Catalogue.System(id) is not { } system)
            return [];
        var first = Derivation.Complete(run.Readings, shop.Catalogue);
        return Acceptance.Lines(
            first,
            shop.Dossier(machine),
            Probed(run, machine),
            new Plan(shop.Today, run.Route.Cures),
            system,
            run.State
        );
    }

    internal static RunSheetView Show(StoredRun run, StoredMachine machine, Shop shop) =>
        new(
            run.Id,
            run.Tag,
            run.Route.System,
            run.Route.School,
            run.By,
            run.StartedAt,
            run.Steps,
            run.Events,
            run.Events.Count,
            run.State,
            run.BrokenAt is { } at ? $"broken at event {at}" : "whole",
            Accept(run, machine, shop),
            run.Override
        );
}
