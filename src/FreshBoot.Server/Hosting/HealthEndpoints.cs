using FreshBoot.Server.Dossiers;

namespace FreshBoot.Server.Hosting;

/// <summary>How the server is.</summary>
/// <param name="Status"><c>ok</c>.</param>
/// <param name="Version">Version of the application.</param>
/// <param name="Now">The workshop's time.</param>
/// <param name="Shop">What the shop is called.</param>
/// <param name="Catalogue">Hash of the catalogue in force.</param>
/// <param name="Troubles">What fails that the application does by itself.</param>
internal sealed record Health(
    string Status,
    string Version,
    DateTimeOffset Now,
    string Shop,
    string Catalogue,
    IReadOnlyList<Trouble> Troubles
);

internal static class HealthEndpoints
{
    public static void MapHealth(this IEndpointRouteBuilder app) =>
        app.MapGet(
                "/api/health",
                (Shop shop, Troubles troubles, TimeProvider clock) =>
                    new Health("ok", ThisVersion, clock.GetLocalNow(), shop.Name, shop.Catalogue.Hash, troubles.Now)
            )
            .WithSummary("Whether the server is up, its version and the workshop's time");

    private static readonly string ThisVersion = typeof(HealthEndpoints).Assembly.GetName().Version!.ToString(3);
}
