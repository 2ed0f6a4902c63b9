using FreshBoot.Data.BootKits;
using FreshBoot.Server.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.BootKits;

internal static class KitEndpoints
{
    private const long LargestArchive = 64 << 20;

    public static void MapKits(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/kit",
                (string tag, string? system, BuildKit build, CancellationToken stop) =>
                    build.PlanAsync(Given.Tag(tag, "tag"), system, stop)
            )
            .WithSummary("The boot kit of a machine as it would be built now, or why there is none; nothing is kept")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/kit",
                async (string tag, KitIn wish, BuildKit build, CancellationToken stop) =>
                {
                    var kit = await build.DoAsync(Given.Tag(tag, "tag"), wish, stop);
                    return TypedResults.Created($"/api/kits/{kit.Id}", kit);
                }
            )
            .WithSummary("Builds the boot kit of a machine: the smallest set of components, in order, with the reasons")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/kits",
                async (KitStore kits, CancellationToken stop) =>
                    (await kits.ListAsync(stop))
                        .Select(k => new KitItem(k.Id, k.Name, k.Tag, k.System, k.Parent, k.By, k.At))
                        .ToArray()
            )
            .WithSummary("The boot kits, the latest first");

        app.MapPost(
                "/api/kits",
                async (
                    [FromForm] string? name,
                    [FromForm] string? by,
                    IFormFile? file,
                    BuildKit build,
                    CancellationToken stop
                ) =>
                {
                    if (file is null)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            "No file came with it.",
                            "file",
                            "A kit as a ZIP archive."
                        );
                    if (file.Length > LargestArchive)
                        throw new RefusedException(
                            RefusalKind.TooLarge,
                            $"The archive has {file.Length} bytes.",
                            "file",
                            $"At most {LargestArchive} bytes."
                        );
                    using var content = new MemoryStream((int)file.Length);
                    await file.CopyToAsync(content, stop);
                    content.Position = 0;
                    var kit = await build.TakeAsync(
                        content,
                        Given.Text(
                            string.IsNullOrWhiteSpace(name) ? Path.GetFileName(file.FileName) : name,
                            "name",
                            100
                        ),
                        string.IsNullOrWhiteSpace(by) ? Given.Nobody : by,
                        stop
                    );
                    return TypedResults.Created($"/api/kits/{kit.Id}", kit);
                }
            )
            .DisableAntiforgery()
            .WithSummary("Takes a boot kit in and checks it")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/kits/{id:int}",
                async (int id, KitStore kits, BuildKit build, CancellationToken stop) =>
                    await build.SheetAsync(await kits.GetAsync(id, stop), stop)
            )
            .WithSummary("A boot kit, and what is wrong with it")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapGet(
                "/api/kits/{id:int}/content",
                async (int id, KitStore kits, CancellationToken stop) =>
                {
                    var row = await kits.GetAsync(id, stop);
                    return Results.File(kits.PathOf(row), "application/zip", $"{row.Tag ?? "kit"}-{row.Id}-kit.zip");
                }
            )
            .WithSummary("The kit as a ZIP archive")
            .Produces<byte[]>(contentType: "application/zip")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/kits/{id:int}/repair",
                (int id, KitRepairIn wish, BuildKit build, CancellationToken stop) => build.RepairAsync(id, wish, stop)
            )
            .WithSummary("Carries the certain repairs out; what comes of it is a kit of its own")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapPost(
                "/api/kits/{id:int}/images",
                async (int id, PutKitIn wish, PutKit put, CancellationToken stop) =>
                {
                    var job = await put.DoAsync(id, wish, stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Puts a kit onto an installer's image: one stick image with both, made in the background")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapPut(
                "/api/kits/{id:int}/config",
                (int id, KitConfigIn wish, BuildKit build, CancellationToken stop) =>
                    build.ConfigureAsync(id, wish, stop)
            )
            .WithSummary("Puts another text in the place of the configuration; what comes of it is a kit of its own")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/kits/{id:int}/twin",
                async (int id, KitStartIn wish, BuildKit build, CancellationToken stop) =>
                {
                    var job = await build.StartAsync(id, wish.By, stop);
                    return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
                }
            )
            .WithSummary("Writes the kit into a FAT image and starts it in the twin")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
    }
}

/// <summary>Who starts a kit in the twin.</summary>
internal sealed record KitStartIn([property: Line(60)] string By = "nobody");

/// <summary>A kit in a list.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Tag">The machine that it was built for.</param>
/// <param name="System">The system that it is for.</param>
/// <param name="Parent">The kit that it was changed from.</param>
/// <param name="By">Who made it.</param>
/// <param name="At">When.</param>
internal sealed record KitItem(
    int Id,
    string Name,
    string? Tag,
    string? System,
    int? Parent,
    string By,
    DateTimeOffset At
);
