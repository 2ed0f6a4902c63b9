using FreshBoot.Core;
using FreshBoot.Core.Routes;
using FreshBoot.Data;

namespace FreshBoot.Server.Endpoints;

internal static class RouteEndpoints
{
    public static void MapRoutes(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/routes",
                async (string tag, MachineStore store, Shop shop, CancellationToken stop) =>
                    shop.Stand(await store.GetAsync(Entry.Tag(tag, "tag"), stop)).Routes
            )
            .WithSummary("The routes of a machine, best score first")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/routes/{id}/files",
                async (string tag, string id, MachineStore store, Shop shop, CancellationToken stop) =>
                    await FilesAsync(tag, id, store, shop, stop)
            )
            .WithSummary("What a route needs prepared: files with their SHA-256, and the steps of replacement firmware")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/machines/{tag}/routes/{id}/files/{name}",
                async (string tag, string id, string name, MachineStore store, Shop shop, CancellationToken stop) =>
                {
                    var file = (await FilesAsync(tag, id, store, shop, stop)).FirstOrDefault(f => f.Name == name);
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
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static async Task<IReadOnlyList<PreparedFile>> FilesAsync(
        string tag,
        string id,
        MachineStore store,
        Shop shop,
        CancellationToken stop
    )
    {
        var machine = await store.GetAsync(Entry.Tag(tag, "tag"), stop);
        var standing = shop.Stand(machine);
        var route = standing.Route(id);
        var taken = (await store.ListAsync(stop))
            .Select(m => shop.Dossier(m).Find("identity.serial")?.Value.ToString())
            .OfType<string>()
            .ToHashSet(StringComparer.Ordinal);
        return Preparation.Files(route, shop.Catalogue, standing.Dossier, machine.Tag, taken);
    }
}
