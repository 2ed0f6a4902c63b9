using FreshBoot.Server.Dossiers;

namespace FreshBoot.Server.Catalogue;

internal static class SystemEndpoints
{
    public static void MapSystems(this IEndpointRouteBuilder app) =>
        app.MapGet("/api/systems", (Shop shop) => shop.Catalogue.Systems)
            .WithSummary("The systems of the catalogue and what they ask for");
}
