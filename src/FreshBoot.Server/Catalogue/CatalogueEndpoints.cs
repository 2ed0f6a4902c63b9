using System.Text;
using System.Text.Json.Nodes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Ladder;
using FreshBoot.Data.Catalogue;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Catalogue;

/// <summary>An entry in a list.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What it is called.</param>
/// <param name="File">The pack it stands in.</param>
/// <param name="Entry">The entry.</param>
internal sealed record CatalogueItem(string Id, string Name, string File, JsonObject Entry);

/// <summary>A change of an entry.</summary>
/// <param name="Version">1 for the shop's first change.</param>
/// <param name="By">Who changed it.</param>
/// <param name="Reason">Why.</param>
/// <param name="At">When.</param>
/// <param name="Entry">The entry as it was left; null where it was taken out.</param>
internal sealed record CatalogueVersion(int Version, string By, string Reason, DateTimeOffset At, JsonNode? Entry);

/// <summary>An entry with its history.</summary>
/// <param name="Kind">The list it stands in.</param>
/// <param name="Id">Its id.</param>
/// <param name="File">The pack it stands in; null where it was taken out.</param>
/// <param name="Version">The shop's changes so far.</param>
/// <param name="Entry">The entry in force; null where it was taken out.</param>
/// <param name="Shipped">The entry as it ships; null where the shop added it.</param>
/// <param name="Versions">The shop's changes, the first one first.</param>
internal sealed record CatalogueSheet(
    string Kind,
    string Id,
    string? File,
    int Version,
    JsonObject? Entry,
    JsonObject? Shipped,
    IReadOnlyList<CatalogueVersion> Versions
);

/// <summary>A change that somebody makes.</summary>
/// <param name="Entry">The entry as it shall be; null takes it out.</param>
/// <param name="Version">The version that the change was made from, 0 for the entry as it ships or a new one.</param>
/// <param name="By">Who makes it.</param>
/// <param name="Reason">Why.</param>
internal sealed record CatalogueChange(JsonObject? Entry, int Version, string By, string Reason);

/// <summary>A change to look at before it is made: one entry, or a pack.</summary>
/// <param name="Kind">The list of the entry.</param>
/// <param name="Id">Its id.</param>
/// <param name="Entry">The entry as it would be; null takes it out.</param>
/// <param name="Pack">A pack instead of an entry.</param>
internal sealed record CataloguePreview(
    string? Kind = null,
    string? Id = null,
    JsonObject? Entry = null,
    JsonObject? Pack = null
);

/// <summary>A fault.</summary>
/// <param name="File">The file it stands in.</param>
/// <param name="Pointer">The place in it, as a JSON Pointer; of an edited entry, within the entry.</param>
/// <param name="Message">What is wrong.</param>
internal sealed record CatalogueFault(string File, string Pointer, string Message);

/// <summary>An entry that a pack brings.</summary>
/// <param name="Kind">The list it stands in.</param>
/// <param name="Id">Its id.</param>
/// <param name="Before">The entry in force; null where it is new.</param>
/// <param name="After">The entry that the pack brings.</param>
internal sealed record CatalogueDifference(string Kind, string Id, JsonNode? Before, JsonNode? After);

/// <summary>What a change would do, or did.</summary>
/// <param name="Changes">Outcomes of the fleet that change.</param>
/// <param name="Faults">What is wrong; with one fault nothing is taken.</param>
/// <param name="Differences">The entries that differ.</param>
internal sealed record CatalogueEffect(
    IReadOnlyList<OutcomeChange> Changes,
    IReadOnlyList<CatalogueFault> Faults,
    IReadOnlyList<CatalogueDifference> Differences
);

internal static class CatalogueEndpoints
{
    private const int LongestPack = 8 << 20;

    public static void MapCatalogue(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/catalogue", () => PackEdits.Kinds).WithSummary("The kinds of entries");
        app.MapGet("/api/catalogue/schema", (CatalogueKeeper keeper) => keeper.Schema)
            .WithSummary("The JSON Schema of packs");
        app.MapGet("/api/catalogue/export", (string? pack, CatalogueKeeper keeper) => Export(pack, keeper))
            .WithSummary("All entries in force as one pack, or those of one pack (a file name, such as workshop.json)")
            .Produces<object>(contentType: "application/json")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapPost(
                "/api/catalogue/preview",
                async (
                    CataloguePreview preview,
                    CatalogueKeeper keeper,
                    MachineIndex index,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    IReadOnlyList<EntryEdit> edits;
                    try
                    {
                        edits = preview.Pack is { } pack
                            ? PackEdits.Differences("pack.json", pack.ToJsonString(), keeper.Now.Entries)
                            : [CatalogueKeeper.Edit(preview.Kind, preview.Id, preview.Entry)];
                    }
                    catch (PackFaultsException e)
                    {
                        return new CatalogueEffect(
                            [],
                            [.. e.Faults.Select(f => new CatalogueFault(f.File, f.At, f.What))],
                            []
                        );
                    }
                    return await EffectAsync(edits, keeper, index, shop, stop);
                }
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("What a changed entry or a pack would do to the fleet, or its faults; nothing is stored")
            .ProducesProblem(StatusCodes.Status400BadRequest);
        app.MapPost(
                "/api/catalogue/import",
                async (
                    HttpRequest request,
                    bool? dryRun,
                    string? by,
                    string? reason,
                    CatalogueKeeper keeper,
                    MachineIndex index,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var text = await TextAsync(request, stop);
                    var edits = PackEdits.Differences("pack.json", text, keeper.Now.Entries);
                    var effect = await EffectAsync(edits, keeper, index, shop, stop);
                    if (effect.Faults.Count > 0 && dryRun != true)
                        throw new PackFaultsException([
                            .. effect.Faults.Select(f => new PackFault(f.File, f.Pointer, f.Message)),
                        ]);
                    if (dryRun != true && edits.Count > 0)
                        await keeper.SaveAsync(
                            edits,
                            null,
                            Given.Text(by, "by", 60),
                            reason is null ? "import of a pack" : Given.Text(reason, "reason", 200),
                            shop.Today,
                            stop
                        );
                    return effect;
                }
            )
            .TakesBody("application/json", "A pack.")
            .WithSummary("Takes a pack of someone else's: first as a difference (dryRun), then for good")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
        app.MapGet(
                "/api/catalogue/{kind}",
                (string kind, CatalogueKeeper keeper) =>
                    keeper
                        .Now.Entries.Where(e => e.Kind == CatalogueKeeper.Kind(kind))
                        .Select(e => new CatalogueItem(e.Id, NameOf(e), e.File, e.Entry))
                        .ToArray()
            )
            .WithSummary("The entries of a kind, as they stand in force")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapGet(
                "/api/catalogue/{kind}/{id}",
                async (
                    string kind,
                    string id,
                    CatalogueKeeper keeper,
                    CatalogueFiles files,
                    EntryVersionStore versions,
                    CancellationToken stop
                ) => await SheetAsync(CatalogueKeeper.Kind(kind), id, keeper, files, versions, stop)
            )
            .WithSummary("An entry with its versions")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapPut(
                "/api/catalogue/{kind}/{id}",
                async (
                    string kind,
                    string id,
                    CatalogueChange change,
                    CatalogueKeeper keeper,
                    CatalogueFiles files,
                    EntryVersionStore versions,
                    Shop shop,
                    CancellationToken stop
                ) =>
                {
                    var edit = CatalogueKeeper.Edit(kind, id, change.Entry);
                    try
                    {
                        await keeper.SaveAsync(
                            [edit],
                            change.Version,
                            Given.Text(change.By, "by", 60),
                            Given.Text(change.Reason, "reason", 200),
                            shop.Today,
                            stop
                        );
                    }
                    catch (PackFaultsException e)
                    {
                        throw new PackFaultsException([
                            .. Within(e.Faults, [edit], keeper)
                                .Select(f => new PackFault(f.File, f.Pointer, f.Message)),
                        ]);
                    }
                    return await SheetAsync(edit.Kind, id, keeper, files, versions, stop);
                }
            )
            .WithSummary("Changes an entry, adds one or takes one out; the fleet is judged by it at once")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
    }

    private static async Task<CatalogueEffect> EffectAsync(
        IReadOnlyList<EntryEdit> edits,
        CatalogueKeeper keeper,
        MachineIndex index,
        Shop shop,
        CancellationToken stop
    )
    {
        var now = keeper.Now;
        var entries = now.Entries.ToDictionary(e => (e.Kind, e.Id), e => e.Entry);
        CatalogueDifference[] differences =
        [
            .. edits.Select(e => new CatalogueDifference(
                e.Kind,
                e.Id,
                entries.GetValueOrDefault((e.Kind, e.Id))?.DeepClone(),
                e.Entry is null ? null : JsonNode.Parse(e.Entry)
            )),
        ];
        InForce then;
        try
        {
            then = keeper.Try(edits, shop.Today);
        }
        catch (PackFaultsException e)
        {
            return new CatalogueEffect([], Within(e.Faults, edits, keeper), differences);
        }
        var fleet = shop.Fleet(await index.AllAsync(stop));
        return new CatalogueEffect(
            FleetEffect.Between(
                FleetEffect.Outcomes(now.Catalogue, now.Evaluator, fleet, shop.Today),
                FleetEffect.Outcomes(then.Catalogue, then.Evaluator, fleet, shop.Today)
            ),
            [],
            differences
        );
    }

    /// <summary>Faults inside an edited entry name the place within the entry: that is what its writer sees.</summary>
    private static CatalogueFault[] Within(
        IReadOnlyList<PackFault> faults,
        IReadOnlyList<EntryEdit> edits,
        CatalogueKeeper keeper
    )
    {
        var places = keeper.Places(edits);
        return
        [
            .. faults.Select(f =>
            {
                var entry = places.FirstOrDefault(p =>
                    p.File == f.File && (f.At == p.At || f.At.StartsWith($"{p.At}/", StringComparison.Ordinal))
                );
                return entry is not null && edits.Any(e => e.Kind == entry.Kind && e.Id == entry.Id)
                    ? new CatalogueFault($"{entry.Kind}/{entry.Id}", f.At[entry.At.Length..], f.What)
                    : new CatalogueFault(f.File, f.At, f.What);
            }),
        ];
    }

    private static async Task<CatalogueSheet> SheetAsync(
        string kind,
        string id,
        CatalogueKeeper keeper,
        CatalogueFiles files,
        EntryVersionStore versions,
        CancellationToken stop
    )
    {
        var packed = keeper.Now.Entries.FirstOrDefault(e => e.Kind == kind && e.Id == id);
        var shipped = PackEdits.Entries(files.Packs).FirstOrDefault(e => e.Kind == kind && e.Id == id);
        var all = await versions.OfAsync(kind, id, stop);
        if (packed is null && shipped is null && all.Count == 0)
            throw new RefusedException(
                RefusalKind.Missing,
                $"There is no entry “{id}” among {kind}.",
                "id",
                $"An entry that stands under {kind} in the catalogue."
            );
        return new CatalogueSheet(
            kind,
            id,
            packed?.File,
            all.Count,
            packed?.Entry,
            shipped?.Entry,
            [
                .. all.Select(v => new CatalogueVersion(
                    v.Version,
                    v.By,
                    v.Reason,
                    v.At,
                    v.Edit.Entry is null ? null : JsonNode.Parse(v.Edit.Entry)
                )),
            ]
        );
    }

    private static IResult Export(string? pack, CatalogueKeeper keeper)
    {
        var entries = keeper.Now.Entries.Where(e => pack is null || e.File == pack).ToArray();
        if (entries.Length == 0)
            throw new RefusedException(
                RefusalKind.Missing,
                $"There is no pack “{pack}”.",
                "pack",
                $"One of: {string.Join(", ", keeper.Now.Entries.Select(e => e.File).Distinct(StringComparer.Ordinal))}."
            );
        var name = Path.GetFileNameWithoutExtension(pack ?? "catalogue");
        return Results.File(
            Encoding.UTF8.GetBytes(
                PackEdits
                    .Merge(name, "Taken out of the catalogue in force.", entries)
                    .ToJsonString(
                        new System.Text.Json.JsonSerializerOptions
                        {
                            WriteIndented = true,
                            Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                        }
                    )
            ),
            "application/json",
            $"{name}.json"
        );
    }

    private static async Task<string> TextAsync(HttpRequest request, CancellationToken stop)
    {
        if (request.ContentLength > LongestPack)
            throw new RefusedException(
                RefusalKind.TooLarge,
                "The pack is too large.",
                "body",
                $"At most {LongestPack >> 20} MiB."
            );
        using var reader = new StreamReader(request.Body, Encoding.UTF8);
        var buffer = new char[LongestPack + 1];
        var read = await reader.ReadBlockAsync(buffer, stop);
        return read <= LongestPack
            ? new string(buffer, 0, read)
            : throw new RefusedException(
                RefusalKind.TooLarge,
                "The pack is too large.",
                "body",
                $"At most {LongestPack >> 20} MiB."
            );
    }

    private static string NameOf(PackedEntry entry) =>
        (
            entry.Entry["release"],
            entry.Entry["name"],
            entry.Entry["does"],
            entry.Entry["about"],
            entry.Entry["maker"]
        ) switch
        {
            ({ } release, { } name, _, _, _) => char.IsDigit(release.ToString()[0])
                ? $"{name} {release}"
                : $"{name}, {release}",
            (_, { } name, _, _, _) => name.ToString(),
            (_, _, { } does, _, _) => does.ToString(),
            (_, _, _, { } about, _) => about.ToString(),
            (_, _, _, _, { } maker) => $"{maker} {entry.Entry["generation"] ?? entry.Entry["line"]}".Trim(),
            _ => entry.Entry["type"] is { } type ? $"{type} {entry.Entry["sizeMiB"]} MiB" : entry.Id,
        };
}
