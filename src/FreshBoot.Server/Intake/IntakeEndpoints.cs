using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Probes;
using FreshBoot.Data.Dossiers;
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
                    MachineStore store,
                    Shop shop,
                    TimeProvider clock,
                    CancellationToken stop
                ) =>
                {
                    var tag = Given.Tag(assetTag, "assetTag");
                    var (incoming, report) = await ReadAsync(files, clock, stop);
                    var machine = await store.TakeInAsync(tag, report.Readings, incoming, report.Warnings, stop);
                    return TypedResults.Created($"/api/machines/{tag}", Result(machine, shop, report));
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
                    IFormFileCollection files,
                    MachineStore store,
                    Shop shop,
                    TimeProvider clock,
                    CancellationToken stop
                ) =>
                {
                    var known = Given.Tag(tag, "tag");
                    var (incoming, report) = await ReadAsync(files, clock, stop);
                    var machine = await store.TakeProbeAsync(known, report.Readings, incoming, report.Warnings, stop);
                    return TypedResults.Ok(Result(machine, shop, report));
                }
            )
            .WithSummary("Takes a further probe of a known machine")
            .DisableAntiforgery()
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
    }

    /// <summary>Reads everything before anything is stored: a refusal leaves no trace.</summary>
    private static async Task<(IReadOnlyList<IncomingFile> Files, Report Report)> ReadAsync(
        IFormFileCollection files,
        TimeProvider clock,
        CancellationToken stop
    )
    {
        if (files.Count == 0)
            throw new RefusedException(
                RefusalKind.Invalid,
                "No file came with it.",
                "files",
                "One probe bundle (.tar.gz), or single files."
            );
        if (files.Count > MostFiles)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"{files.Count} files are too many.",
                "files",
                $"At most {MostFiles}."
            );
        var incoming = new List<IncomingFile>();
        foreach (var file in files)
        {
            using var content = new MemoryStream();
            await file.CopyToAsync(content, stop);
            incoming.Add(new IncomingFile(Path.GetFileName(file.FileName), content.ToArray()));
        }

        var bundles = incoming.Count(f => ProbeBundle.LooksLikeOne(f.Content.Span));
        if (bundles > 0 && incoming.Count > 1)
            throw new RefusedException(
                RefusalKind.Invalid,
                "A bundle came together with other files.",
                "files",
                "One bundle alone, or single files without a bundle."
            );
        if (bundles == 1)
        {
            using var stream = new MemoryStream(incoming[0].Content.ToArray(), writable: false);
            return (incoming, ProbeReader.Read(ProbeBundle.Read(stream, incoming[0].Name), incoming[0].Name));
        }
        var report = new Report(clock.GetUtcNow());
        foreach (var file in incoming)
            ProbeReader.Read(file.Name, file.Content.ToArray(), report);
        return (incoming, report);
    }

    private static TakenIn Result(StoredMachine machine, Shop shop, Report report) =>
        new(machine.Tag, [.. shop.Dossier(machine).Facts], report.Warnings);
}
