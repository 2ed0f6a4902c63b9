using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Reckoning;
using FreshBoot.Core.Sheets;
using FreshBoot.Data.BootKits;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Server.BootKits;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Firmware;
using FreshBoot.Server.Images;
using FreshBoot.Server.Jobs;
using FreshBoot.Server.Sheets;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Rehearsal;

/// <summary>Gathers what a rehearsal walks: the route as it stands, what was made for it, and how its medium came out.</summary>
internal sealed class PlanAtHand(
    ComposeSheet sheets,
    ImageStore images,
    ImageShelf shelf,
    MediumStore media,
    IdentityStore identities,
    KitStore kits,
    BuildKit build,
    JobRunner jobs
)
{
    /// <summary>The question for the reckoner.</summary>
    public async Task<ReckoningQuestion> OfAsync(
        MachineStanding standing,
        Route route,
        Supposing what,
        CancellationToken stop
    )
    {
        var sheet = await sheets.QuestionAsync(standing, route, stop);
        var image = sheet.Items.FirstOrDefault(i => i.Id == WorkPlan.ImageItem) is { ImageId: { } imageId }
            ? shelf.Findings(await images.GetWholeAsync(imageId, stop))
            : null;
        var kit =
            sheet.Items.Any(i => i.Kind == WorkItemKind.Kit)
            && await kits.OfAsync(standing.Machine.Tag, route.System!, stop) is { } row
                ? (await build.SheetAsync(row, stop)).Findings
                : [];
        return new ReckoningQuestion(
            sheet,
            RunSheet.Of(sheet),
            sheet.System is { } system
                ? standing.Now.Evaluator.Assess(
                    standing.Dossier,
                    system,
                    new Plan(standing.Question.AsOf, route.Cures, standing.Shelf, standing.Order)
                )
                : null,
            image,
            await MediumAsync(sheet.Items, stop),
            await IdentityAsync(standing, route, stop),
            kit,
            await ProtectedAsync(standing.Machine.Tag, stop),
            what
        );
    }

    /// <summary>The identity that the route takes; null for the machine’s own.</summary>
    public async Task<IdentityProfile?> IdentityAsync(MachineStanding standing, Route route, CancellationToken stop) =>
        (await GivenAsync(standing, route, stop))?.Profile;

    /// <summary>The same with its number.</summary>
    public async Task<GivenIdentity?> GivenAsync(MachineStanding standing, Route route, CancellationToken stop) =>
        route.System is { } system && route.Cures.Any(c => c.Kind == Outcome.Spoof)
            ? GivenIdentity.For(await identities.OfAsync(standing.Machine.Tag, stop), system, standing.Now.Catalogue)
            : null;

    /// <summary>Whether the last work on the machine’s chip found it protected; what came after it says otherwise.</summary>
    private async Task<bool> ProtectedAsync(string tag, CancellationToken stop) =>
        (await jobs.ListAsync(JobKind.Chip, null, tag, null, 1, stop)) is [{ State: JobState.Failed } last]
        && last.Says.Contains(WorkOnChip.StillProtected, StringComparison.Ordinal);

    private async Task<ReckonedMedium?> MediumAsync(IReadOnlyList<WorkItem> items, CancellationToken stop)
    {
        if (items.FirstOrDefault(i => i.Id == WorkPlan.MediumItem) is not { } item)
            return null;
        var all = await media.ListAsync(stop);
        // The one that holds it; else the one that last broke while this image was written onto it.
        var row = item.MediumId is { } id
            ? all.FirstOrDefault(m => m.Id == id)
            : all.Where(m => m.State == "unusable" && m.ImageId == item.ImageId && item.ImageId is not null)
                .OrderByDescending(m => m.At)
                .FirstOrDefault();
        return row is null
            ? null
            : new ReckonedMedium(
                row.Label,
                row is { State: "ready", VerifiedAt: not null },
                row.TrueBytes < row.SizeBytes,
                row.Says
            );
    }
}
