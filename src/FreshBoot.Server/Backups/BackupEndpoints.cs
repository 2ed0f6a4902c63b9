using FreshBoot.Data.Backups;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Backups;

/// <summary>Who asks.</summary>
internal sealed record BackupIn([property: Line(60)] string By);

/// <summary>A back-up in the list.</summary>
/// <param name="Id">Its id.</param>
/// <param name="At">When it was begun.</param>
/// <param name="By">Who asked for it.</param>
/// <param name="Bytes">Its size.</param>
/// <param name="Files">How many files go with the database.</param>
/// <param name="Machines">Machines in it.</param>
/// <param name="Events">Events of runs in it.</param>
/// <param name="ImagesLeftOut">Images that are not in it.</param>
internal sealed record BackupGlance(
    string Id,
    DateTimeOffset At,
    string By,
    long Bytes,
    int Files,
    int Machines,
    int Events,
    int ImagesLeftOut
)
{
    public static BackupGlance Of(BackupManifest manifest) =>
        new(
            manifest.Id,
            manifest.At,
            manifest.By,
            manifest.Bytes,
            manifest.Files.Count,
            manifest.Machines,
            manifest.Events,
            manifest.ImagesLeftOut
        );
}

/// <summary>The back-ups.</summary>
/// <param name="Folder">Where they lie.</param>
/// <param name="OnSameDisk">Whether that is the disk that they are to protect from.</param>
/// <param name="EveryHours">Hours between those that are made by themselves; 0 for none.</param>
/// <param name="Ready">The one that takes the place of the present data at the next start; null for none.</param>
/// <param name="Backups">All of them, the latest first.</param>
/// <param name="Bad">Folders among them that are none, each with what is wrong.</param>
internal sealed record BackupList(
    string Folder,
    bool OnSameDisk,
    int EveryHours,
    BackupGlance? Ready,
    IReadOnlyList<BackupGlance> Backups,
    IReadOnlyList<BadBackup> Bad
);

internal static class BackupEndpoints
{
    public static void MapBackups(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/backups",
                (BackupStore store, BackupOptions options) =>
                    new BackupList(
                        store.Root,
                        store.OnSameDisk,
                        options.EveryHours,
                        store.Ready is { } ready ? BackupGlance.Of(ready) : null,
                        [.. store.List().Select(BackupGlance.Of)],
                        store.Bad()
                    )
            )
            .WithSummary("The back-ups, and whether one lies ready for the next start");

        app.MapPost(
                "/api/backups",
                async (BackupIn asked, BackUp backUp, CancellationToken stop) =>
                {
                    var job = await backUp.MakeAsync(Given.Text(asked.By, "by", 60), stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Makes a back-up while everything goes on")
            .ProducesProblem(StatusCodes.Status400BadRequest);

        app.MapPost(
                "/api/backups/{id}/restore",
                async (string id, BackupIn asked, BackUp backUp, CancellationToken stop) =>
                {
                    var job = await backUp.LayReadyAsync(id, Given.Text(asked.By, "by", 60), stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Checks a back-up and lays it ready: at the next start it takes the place of the present data")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapDelete(
                "/api/backups/ready",
                (BackupStore store) =>
                {
                    store.Discard();
                    return TypedResults.NoContent();
                }
            )
            .WithSummary("The present data stay: what lies ready is laid away");
    }
}
