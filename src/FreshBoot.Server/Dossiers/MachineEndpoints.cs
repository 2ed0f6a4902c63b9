using FreshBoot.Core.Dossiers;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Dossiers;

internal static class MachineEndpoints
{
    private const int Bays = 6;

    public static void MapMachines(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines",
                async (string? find, int? take, MachineIndex index, CancellationToken stop) =>
                    take is < 1 or > 100_000
                        ? throw new RefusedException(
                            RefusalKind.Invalid,
                            $"“take” of {take} is out of range.",
                            "take",
                            "1 to 100000, or nothing for all."
                        )
                        : await index.FindAsync(find ?? "", take ?? int.MaxValue, stop)
            )
            .WithSummary(
                "Machines with the ladder of their aim: all, or those that all words of “find” fit (tag, serial, maker, model, order, rung, outcome, state)"
            );

        app.MapGet(
                "/api/machines/{tag}",
                async (string tag, MachineStore store, Shop shop, MachineIndex index, HttpContext context) =>
                    await MachineSheets.ShowAsync(
                        await store.GetAsync(Given.Tag(tag, "tag"), context.RequestAborted),
                        shop,
                        index,
                        context
                    )
            )
            .WithSummary("A machine and its dossier")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/systems",
                async (string tag, MachineStore store, Shop shop, CancellationToken stop) =>
                    shop.Stand(await store.GetAsync(Given.Tag(tag, "tag"), stop)).All
            )
            .WithSummary("Every system compared with a machine: ten rungs each, bottom first")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut(
                "/api/machines/{tag}/aim",
                async (
                    string tag,
                    Aiming aiming,
                    MachineStore store,
                    RunStore runs,
                    Shop shop,
                    MachineIndex index,
                    TimeProvider clock,
                    HttpContext context
                ) =>
                {
                    var by = Given.Text(aiming.By, "by", 60);
                    if (aiming.System is { } id && shop.Catalogue.System(id) is null)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"There is no system “{id}”.",
                            "system",
                            "A system of the catalogue, or none."
                        );
                    var run = await runs.LatestOfAsync(Given.Tag(tag, "tag"), context.RequestAborted);
                    if (run is { State.IsOpen: true, Route.System: { } going } && going != aiming.System)
                        throw new RefusedException(
                            RefusalKind.Conflict,
                            $"A run is under way that installs {shop.Catalogue.System(going)?.FullName ?? going}.",
                            "system",
                            "The system of the run, or the run finished first."
                        );
                    var machine = await store.AimAsync(Given.Tag(tag, "tag"), aiming.System, context.RequestAborted);
                    // The reason is a word of whoever chose, and stays in the history when somebody else chooses later.
                    if (!string.IsNullOrWhiteSpace(aiming.Why))
                        machine = await store.EnterAsync(
                            machine.Tag,
                            new Reading(
                                "plan.aimWhy",
                                FactValue.Of(Given.Text(aiming.Why, "why", 200)),
                                aiming.System is { } chosen
                                    ? $"aim {shop.Catalogue.System(chosen)!.FullName}"
                                    : "aim left to the best route",
                                Origin.Entered,
                                clock.GetUtcNow(),
                                by
                            ),
                            context.RequestAborted
                        );
                    return await MachineSheets.ShowAsync(machine, shop, index, context);
                }
            )
            .WithSummary("Chooses the system that a machine's ladder is drawn for")
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut(
                "/api/machines/{tag}/bay",
                async (
                    string tag,
                    Placing placing,
                    MachineStore store,
                    Shop shop,
                    MachineIndex index,
                    HttpContext context
                ) =>
                {
                    if (placing.Bay is < 1 or > Bays)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"There is no bay {placing.Bay}.",
                            "bay",
                            $"1 to {Bays}, or null for the shelf."
                        );
                    return await MachineSheets.ShowAsync(
                        await store.PlaceAsync(
                            Given.Tag(tag, "tag"),
                            placing.Bay,
                            placing.Swap,
                            context.RequestAborted
                        ),
                        shop,
                        index,
                        context
                    );
                }
            )
            .WithSummary("Puts a machine in a bay, or on the shelf")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }
}
