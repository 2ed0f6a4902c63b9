using FreshBoot.Core.Media;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data.BootKits;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Firmware;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Data.Patching;
using FreshBoot.Server.BootKits;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Images;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Patching;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Preparation;

/// <summary>Gathers what lies on the shelf, and holds a route of a machine against it: its work items as they stand now.</summary>
internal sealed class MachineWork(
    ImageStore images,
    ImageShelf shelf,
    RecipeBook recipes,
    MediumStore media,
    ChipStore chips,
    KitStore kits,
    BuildKit build,
    JobRunner jobs,
    IdentityStore identities,
    Shop shop,
    RecipeStore written
)
{
    private const int Remembered = 100;

    /// <summary>The work items of a route on a machine.</summary>
    public async Task<IReadOnlyList<WorkItem>> ItemsAsync(StoredMachine machine, Route route, CancellationToken stop) =>
        WorkPlan.Of(
            route,
            new WorkMachine(
                machine.Tag,
                shop.Dossier(machine),
                machine.DossierVersion,
                await identities.OfAsync(machine.Tag, stop)
            ),
            shop.Catalogue,
            await ShelfAsync(machine.Tag, stop)
        );

    /// <summary>Makes the recipe that a route needs and the book lacks, and writes it into the book.</summary>
    /// <exception cref="RefusedException">The book has all that the route needs.</exception>
    public async Task<StoredRecipe> MakeRecipeAsync(Route route, string by, CancellationToken stop)
    {
        var book = await recipes.ListAsync(stop);
        var recipe =
            WorkPlan.Generated(route, shop.Catalogue, [.. book.Select(r => new ShelfRecipe(r.Recipe, r.Version))])
            ?? throw new RefusedException(
                RefusalKind.Conflict,
                "The book has a recipe for every gate that this route lifts.",
                "route",
                "A route with a gate that no recipe lifts."
            );
        var before = book.FirstOrDefault(r => r.Recipe.Id == recipe.Id);
        return await written.AddAsync(recipe, before?.Version ?? 0, by, stop);
    }

    /// <summary>The latest kit of a machine for each system, with how much is wrong with it.</summary>
    private async Task<IReadOnlyList<ShelfKit>> KitsAsync(string tag, CancellationToken stop)
    {
        var latest = new List<ShelfKit>();
        foreach (
            var row in (await kits.ListAsync(stop))
                .Where(k => k.Tag == tag)
                .GroupBy(k => k.System)
                .Select(g => g.First())
        )
            latest.Add(
                new ShelfKit(
                    row.Id,
                    row.System,
                    row.Sha256,
                    row.From,
                    (await build.SheetAsync(row, stop)).Findings.Count
                )
            );
        return latest;
    }

    private async Task<WorkShelf> ShelfAsync(string tag, CancellationToken stop) =>
        new(
            [
                .. (await images.ListAsync(stop))
                    .Where(shelf.Has)
                    .Select(i => new ShelfImage(
                        i.Id,
                        i.Name,
                        i.System,
                        i.Build,
                        i.Sha256!,
                        i.Parent,
                        ImageShelf.ManifestOf(i) is { } made
                            ? new AppliedRecipe(made.RecipeId, made.RecipeVersion, made.RecipeSha256)
                            : null,
                        shelf.Findings(i)
                    )),
            ],
            [.. (await recipes.ListAsync(stop)).Select(r => new ShelfRecipe(r.Recipe, r.Version))],
            [
                .. (await media.ListAsync(stop))
                    // A file is there to be downloaded; a machine starts from what it was copied to.
                    .Where(m => m.Kind != nameof(MediumKind.File))
                    .Select(m => new ShelfMedium(
                        m.Id,
                        m.Label,
                        MediumFacts.DiscBytes(Enum.Parse<MediumKind>(m.Kind)) > 0,
                        m is { State: "ready", VerifiedAt: not null },
                        m.Says,
                        m.ImageId,
                        new MediumFacts(
                            Enum.Parse<MediumKind>(m.Kind),
                            m.SizeBytes,
                            m.UsbGeneration,
                            m.WriteBytesPerSecond,
                            m.ReadBytesPerSecond
                        ),
                        // Real ones are not written by this version.
                        Simulated: true
                    )),
            ],
            [
                .. (await jobs.StartsAsync(tag, Remembered, stop))
                    .Where(j => j.State == JobState.Done)
                    .Select(j => j.Result?.Rehearsal)
                    .OfType<RehearsalRecord>(),
            ]
        )
        {
            Kits = await KitsAsync(tag, stop),
            Chip = (await chips.OfAsync(tag, stop))?.State,
        };
}
