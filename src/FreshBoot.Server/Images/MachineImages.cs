using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;

namespace FreshBoot.Server.Images;

/// <summary>The shelf as one machine sees it.</summary>
internal static class MachineImages
{
    public static void MapMachineImages(this IEndpointRouteBuilder app) =>
        app.MapGet("/api/machines/{tag}/images", OnMachineAsync)
            .WithSummary("The images compared with a machine: what starts, from which port, by which key and entry")
            .ProducesProblem(StatusCodes.Status404NotFound);

    private static async Task<IReadOnlyList<ImageOnMachine>> OnMachineAsync(
        string tag,
        ImageStore store,
        ImageShelf shelf,
        MachineStore machines,
        Shop shop,
        JobRunner jobs,
        CancellationToken stop
    )
    {
        const int remembered = 200;
        const int shown = 6;
        var machine = await machines.GetAsync(Given.Tag(tag, "tag"), stop);
        var standing = shop.Stand(machine);
        IFacts At(StoredImage image) => standing.AtInstaller(image.System, stop);
        var starts = (await jobs.StartsAsync(machine.Tag, remembered, stop)).ToLookup(j => j.ImageId);
        return
        [
            .. (await store.ListAsync(stop))
                .Where(shelf.Has)
                .Select(i => new ImageOnMachine(
                    i,
                    StartOn.Ways(shelf.Findings(i), At(i), shop.Catalogue.Menus(At(i))),
                    [.. starts[i.Id].Take(shown).Select(job => new StartSeen(job, Seen(job, i)))]
                ))
                .OrderByDescending(i => i.Image.System is { } system && system == standing.Aim.System)
                .ThenBy(i => i.Ways.Any(w => w.Can == true) ? 0 : 1),
        ];

        // Of the machine as it is when that image is started: its own identity, and the start that it was asked for.
        RehearsalSeen? Seen(JobSheet job, StoredImage image) =>
            job is { State: JobState.Done, Result.Rehearsal: { } record }
                ? RehearsalSeen.Of(
                    record,
                    new RehearsalAsked(
                        image.Sha256!,
                        At(image),
                        machine.DossierVersion,
                        null,
                        null,
                        null,
                        FirmwareWays.Of(At(image)).Now
                    )
                )
                : null;
    }
}
