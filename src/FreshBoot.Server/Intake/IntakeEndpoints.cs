using FreshBoot.Core.Dossiers;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;

namespace FreshBoot.Server.Intake;

/// <summary>What came of a probe that was taken in.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Facts">Its facts now.</param>
/// <param name="Warnings">What was left out and why.</param>
internal sealed record TakenIn(string Tag, IReadOnlyList<Fact> Facts, IReadOnlyList<string> Warnings);

/// <summary>Who takes a probe back.</summary>
internal sealed record TakingBack([property: Line(60)] string By);

internal static class IntakeEndpoints
{
    /// <summary>Most bytes that one upload may have.</summary>
    public const long LargestUpload = 64L << 20;

    private const int MostFiles = 40;

    public static void MapIntake(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/machines/import",
                async (
                    [FromForm] string? assetTag,
                    IFormFileCollection files,
                    TakeBundle take,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var tag = Given.Tag(assetTag, "assetTag");
                    var probe = take.Read(await FilesAsync(files, stop));
                    var machine = await take.NewAsync(tag, probe, stop);
                    return TypedResults.Created($"/api/machines/{tag}", Result(machine, shop, probe));
                }
            )
            .WithSummary("Takes a machine in: an asset tag, and one probe bundle or single files")
            .DisableAntiforgery()
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapPost(
                "/api/machines/{tag}/bundles",
                async Task<Ok<TakenIn>> (
                    string tag,
                    [FromForm] string? sameBy,
                    IFormFileCollection files,
                    TakeBundle take,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var known = Given.Tag(tag, "tag");
                    var probe = take.Read(await FilesAsync(files, stop));
                    return TypedResults.Ok(
                        Result(await take.AgainAsync(known, probe, Said(sameBy), stop), shop, probe)
                    );
                }
            )
            .WithSummary(
                "Takes a further probe of a known machine; where something differs, only with the name of whoever says that it is the same"
            )
            .DisableAntiforgery()
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);

        app.MapGet(
                "/api/machines/{tag}/bundles",
                (string tag, MachineStore store, CancellationToken stop) =>
                    store.ProbesAsync(Given.Tag(tag, "tag"), stop)
            )
            .WithSummary("The probes of a machine that were taken in, latest first")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPost(
                "/api/machines/{tag}/bundles/{id:long}/take-back",
                async (
                    string tag,
                    long id,
                    TakingBack back,
                    MachineStore store,
                    RunStore runs,
                    Changes changes,
                    CancellationToken stop
                ) =>
                {
                    var known = Given.Tag(tag, "tag");
                    await store.TakeBackAsync(
                        known,
                        id,
                        Given.Text(back.By, "by", 60),
                        await runs.ProofsOfAsync(known, stop),
                        stop
                    );
                    changes.Tell("all", "");
                    return await store.ProbesAsync(known, stop);
                }
            )
            .WithSummary("Takes a probe back: the dossier is made anew from everything else that came in")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    /// <summary>Who says that it is the same machine; null where nobody does.</summary>
    public static string? Said(string? by) => string.IsNullOrWhiteSpace(by) ? null : Given.Text(by, "sameBy", 60);

    private static async Task<IReadOnlyList<IncomingFile>> FilesAsync(IFormFileCollection files, CancellationToken stop)
    {
        if (files.Count is 0 or > MostFiles)
            throw new RefusedException(
                RefusalKind.Invalid,
                files.Count == 0 ? "No file came with it." : $"{files.Count} files are too many.",
                "files",
                files.Count == 0 ? "One probe bundle (.tar.gz), or single files." : $"At most {MostFiles}."
            );
        var incoming = new List<IncomingFile>();
        foreach (var file in files)
        {
            using var content = new MemoryStream();
            await file.CopyToAsync(content, stop);
            incoming.Add(new IncomingFile(Path.GetFileName(file.FileName), content.ToArray()));
        }
        return incoming;
    }

    private static TakenIn Result(StoredMachine machine, Shop shop, IncomingProbe probe) =>
        new(machine.Tag, [.. shop.Dossier(machine).Facts], probe.Warnings);
}
