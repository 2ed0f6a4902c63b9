using FreshBoot.Core.Ladder;
using FreshBoot.Core.Soundness;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Soundness;

/// <summary>The memory that can be fitted.</summary>
/// <param name="Upgrades">Every set that gives more memory, cheapest first; what is on the shelf is taken from there.</param>
/// <param name="Open">The facts that leave it undecided.</param>
internal sealed record MemoryUpgradeList(IReadOnlyList<MemoryUpgrade> Upgrades, IReadOnlyList<string> Open);

internal static class SoundnessEndpoints
{
    public static void MapSoundness(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/soundness",
                async (string tag, MachineStore store, Shop shop, CancellationToken stop) =>
                    MachineSoundness.Of(shop.Dossier(await store.GetAsync(Given.Tag(tag, "tag"), stop)))
            )
            .WithSummary("What is sound on a machine, part by part, with reasons and their sources")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/memory-upgrades",
                async (string tag, MachineStore store, Shop shop, CancellationToken stop) =>
                {
                    var standing = shop.Stand(await store.GetAsync(Given.Tag(tag, "tag"), stop));
                    var (upgrades, open) = MemoryUpgrades.All(standing.Dossier, shop.Catalogue.Memory, standing.Shelf);
                    return new MemoryUpgradeList(upgrades, open);
                }
            )
            .WithSummary("The memory that can be fitted, from the shelf first, cheapest first")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/machines/{tag}/next-measurements",
                async (string tag, MachineStore store, Shop shop, CancellationToken stop) =>
                {
                    var standing = shop.Stand(await store.GetAsync(Given.Tag(tag, "tag"), stop));
                    return standing.Now.Measurements.Find(standing.Dossier, shop.Today, standing.Shelf, standing.Order);
                }
            )
            .WithSummary("What to measure next: the facts that decide most per minute of effort")
            .ProducesProblem(StatusCodes.Status404NotFound);
    }
}
