using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Orders;
using FreshBoot.Server.Catalogue;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Routes;

/// <summary>A machine as it would be.</summary>
/// <param name="Facts">Facts that would be otherwise, by key.</param>
/// <param name="Parts">Ids of cures that would be carried out: parts fitted, switches set.</param>
internal sealed record WhatIf(
    IReadOnlyDictionary<string, JsonElement>? Facts = null,
    IReadOnlyList<string>? Parts = null
);

/// <summary>The cheapest way to a system.</summary>
/// <param name="Route">The route; null where there is none.</param>
/// <param name="Missing">Why there is none.</param>
internal sealed record CheapestWay(Route? Route, IReadOnlyList<MissingRoute> Missing);

/// <summary>A question on which practitioners disagree, and who says what about it.</summary>
/// <param name="Key">The fact key under which the answer stands in the dossier.</param>
/// <param name="Question">The question.</param>
/// <param name="Rung">The rung it belongs to.</param>
/// <param name="Answers">The schools.</param>
/// <param name="Claims">What is said for an answer, by whom, and how sure.</param>
internal sealed record ChoiceView(
    string Key,
    string Question,
    Rung Rung,
    IReadOnlyList<ChoiceAnswer> Answers,
    IReadOnlyList<SchoolClaim> Claims
);

internal static class RouteEndpoints
{
    public static void MapRoutes(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/routes",
                async (
                    string tag,
                    string? system,
                    string? order,
                    string? weights,
                    MachineStore store,
                    OrderStore orders,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var standing = await StandAsync(tag, order, store, orders, shop, stop);
                    return standing.RoutesFor(
                        standing.Question with
                        {
                            System = system is null ? null : Known(system, standing.Now).Id,
                            Weights = weights is null ? null : Weights.Parse(weights),
                            Stop = stop,
                        }
                    );
                }
            )
            .WithSummary(
                "The routes of a machine that none of their school beats, best score first; for another order, one system or other weights (money,work,risk,support,fit)"
            )
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/weights",
                async (
                    string tag,
                    string? order,
                    MachineStore store,
                    OrderStore orders,
                    Shop shop,
                    CancellationToken stop
                ) => (await StandAsync(tag, order, store, orders, shop, stop)).Question.InForce
            )
            .WithSummary("The weights that suit the order of a machine")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/systems/{system}/missing-routes",
                async (
                    string tag,
                    string system,
                    string? order,
                    MachineStore store,
                    OrderStore orders,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var standing = await StandAsync(tag, order, store, orders, shop, stop);
                    return standing.Now.Search.Missing(
                        standing.Dossier,
                        Known(system, standing.Now),
                        standing.Question with
                        {
                            Stop = stop,
                        }
                    );
                }
            )
            .WithSummary(
                "Why a system has no route of some school: what stands in the way, and why each cure does not help"
            )
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/cheapest",
                async (
                    string tag,
                    string system,
                    string? order,
                    MachineStore store,
                    OrderStore orders,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var standing = await StandAsync(tag, order, store, orders, shop, stop);
                    var known = Known(system, standing.Now);
                    var question = standing.Question with { System = known.Id, Stop = stop };
                    var route = standing.Now.Search.Cheapest(standing.Dossier, question);
                    return new CheapestWay(
                        route,
                        route is null ? standing.Now.Search.Missing(standing.Dossier, known, question) : []
                    );
                }
            )
            .WithSummary("The cheapest way to get a system onto a machine, or why there is none")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/what-if",
                async (string tag, WhatIf what, MachineStore store, Shop shop, CancellationToken stop) =>
                {
                    var standing = shop.Stand(await store.GetAsync(Given.Tag(tag, "tag"), stop));
                    var facts = standing.Dossier;
                    foreach (var (key, value) in what.Facts ?? new Dictionary<string, JsonElement>())
                        facts = facts.WithWord(
                            new Reading(
                                key,
                                FactEntry.Read(key, value),
                                "what if",
                                Origin.Chosen,
                                default,
                                null,
                                long.MaxValue
                            )
                        );
                    var complete = Derivation.Complete(facts.Readings, standing.Now.Catalogue);
                    Cure[] cures = [.. (what.Parts ?? []).Select(id => Fitted(id, complete, standing))];
                    var plan = new Plan(shop.Today, cures, standing.Shelf, standing.Order);
                    return standing
                        .Now.Catalogue.Systems.Select(s => standing.Now.Evaluator.Assess(complete, s, plan))
                        .ToArray();
                }
            )
            .WithSummary(
                "Every system compared with a machine as it would be with other facts or fitted parts; nothing is stored"
            )
            .WithMetadata(new OnlyReads())
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/choices",
                (Shop shop) =>
                    Choices.All.Select(c => new ChoiceView(
                        c.Key,
                        c.Question,
                        c.Rung,
                        c.Answers,
                        [.. shop.Catalogue.Schools.Where(s => s.Id == c.Key).SelectMany(s => s.Claims)]
                    ))
            )
            .WithSummary(
                "The questions on which practitioners disagree, with the schools, their consequences, and who says what"
            );

        app.MapGet(
                "/api/machines/{tag}/routes/{id}/files",
                async (
                    string tag,
                    string id,
                    MachineStore store,
                    IdentityStore identities,
                    Shop shop,
                    CancellationToken stop
                ) => await FilesAsync(tag, id, store, identities, shop, stop)
            )
            .WithSummary("What a route needs prepared: files with their SHA-256, and the steps of replacement firmware")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/routes/{id}/files/{name}",
                async (
                    string tag,
                    string id,
                    string name,
                    MachineStore store,
                    IdentityStore identities,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var file = (await FilesAsync(tag, id, store, identities, shop, stop)).FirstOrDefault(f =>
                        f.Name == name
                    );
                    return file is null
                        ? throw new RefusedException(
                            RefusalKind.Missing,
                            $"The route has no file {name}.",
                            "name",
                            "A name from the list of its files."
                        )
                        : Results.File(file.Bytes, file.MediaType, file.Name);
                }
            )
            .WithSummary("One of these files, to download")
            .Produces<object>(
                StatusCodes.Status200OK,
                "application/octet-stream",
                "application/json",
                "application/xml",
                "text/plain"
            )
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static async Task<MachineStanding> StandAsync(
        string tag,
        string? order,
        MachineStore store,
        OrderStore orders,
        Shop shop,
        CancellationToken stop
    ) => shop.Stand(await store.GetAsync(Given.Tag(tag, "tag"), stop), order is null ? null : orders.Get(order).Order);

    private static SystemEntry Known(string id, InForce now) =>
        now.Catalogue.System(id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no system “{id}”.",
            "system",
            "A system of the catalogue."
        );

    /// <summary>A cure by its id: one of the catalogue, or a memory kit that fits the machine.</summary>
    private static Cure Fitted(string id, Dossier facts, MachineStanding standing) =>
        standing.Now.Catalogue.Cures.FirstOrDefault(c => c.Id == id)
        ?? MemoryUpgrades
            .All(facts, standing.Now.Catalogue.Memory, standing.Shelf)
            .Upgrades.FirstOrDefault(u => u.Cure.Id == id)
            ?.Cure
        ?? throw new RefusedException(
            RefusalKind.Invalid,
            $"There is no part or cure “{id}” for this machine.",
            "parts",
            "Cures of the catalogue, or kits of its memory that fit."
        );

    private static async Task<IReadOnlyList<PreparedFile>> FilesAsync(
        string tag,
        string id,
        MachineStore store,
        IdentityStore identities,
        Shop shop,
        CancellationToken stop
    )
    {
        var machine = await store.GetAsync(Given.Tag(tag, "tag"), stop);
        var standing = shop.Stand(machine);
        return PreparedFiles.Of(standing.Route(id, stop), await identities.OfAsync(machine.Tag, stop), shop.Catalogue);
    }
}
