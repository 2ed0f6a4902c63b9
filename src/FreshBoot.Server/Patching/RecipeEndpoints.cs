using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Preparation;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Patching;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Images;

namespace FreshBoot.Server.Patching;

/// <summary>A recipe with what it costs.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Version">0 for one that ships, 1 for the first of the shop's own.</param>
/// <param name="Name">Its name.</param>
/// <param name="About">What it is good for.</param>
/// <param name="Acts">Where it acts.</param>
/// <param name="System">The system it is for.</param>
/// <param name="Builds">Builds that it was proved with.</param>
/// <param name="Lifts">Gates that it lifts.</param>
/// <param name="Costs">What it costs: the side effects of its cure, and its own.</param>
/// <param name="Operations">How many operations it has.</param>
/// <param name="Text">The recipe as JSON.</param>
/// <param name="By">Who wrote it.</param>
/// <param name="At">When.</param>
internal sealed record RecipeSheet(
    string Id,
    int Version,
    string Name,
    string About,
    PatchPlace Acts,
    string System,
    IReadOnlyList<string> Builds,
    IReadOnlyList<string> Lifts,
    IReadOnlyList<string> Costs,
    int Operations,
    string Text,
    string By,
    DateTimeOffset? At
);

/// <summary>A recipe as it is to be.</summary>
/// <param name="Text">The recipe as JSON.</param>
/// <param name="Version">The version that it was made from; 0 for one that ships or is new.</param>
/// <param name="By">Who writes it.</param>
internal sealed record RecipeIn(string Text, int Version, [property: Line(60)] string By);

/// <summary>What the builder of an answer file is asked.</summary>
/// <param name="System">The system.</param>
/// <param name="Answers">The answers.</param>
/// <param name="Tag">The machine; null for a file that serves many.</param>
internal sealed record AnswersIn(string System, Answers Answers, string? Tag = null);

/// <summary>An answer file.</summary>
/// <param name="Path">Where it goes on the medium.</param>
/// <param name="Text">Its text.</param>
/// <param name="Warnings">What to know.</param>
/// <param name="Recipe">A recipe that adds it to an image, as JSON.</param>
internal sealed record AnswerFileSheet(string Path, string Text, IReadOnlyList<string> Warnings, string Recipe);

/// <summary>Components to leave out.</summary>
/// <param name="Leave">Their ids.</param>
/// <param name="Build">Build of the image; null for any.</param>
internal sealed record TrimIn(IReadOnlyList<string> Leave, string? Build = null);

/// <summary>Components of a system, and which of them an order does not need.</summary>
/// <param name="Components">The components.</param>
/// <param name="Suggested">Ids of those that can go for the order.</param>
/// <param name="Because">What the order wants kept.</param>
internal sealed record ComponentsSheet(
    IReadOnlyList<SystemComponent> Components,
    IReadOnlyList<string> Suggested,
    IReadOnlyList<string> Because
);

/// <summary>A trim plan.</summary>
/// <param name="Left">What is left out.</param>
/// <param name="SavedBytes">Space saved.</param>
/// <param name="SavedMemoryMiB">Memory saved.</param>
/// <param name="Script">A script for the running system.</param>
/// <param name="Undo">The script that brings it back.</param>
/// <param name="Recipe">A recipe for the image, as JSON.</param>
internal sealed record TrimSheet(
    IReadOnlyList<LeftOut> Left,
    long SavedBytes,
    int SavedMemoryMiB,
    string Script,
    string Undo,
    string Recipe
);

internal static class RecipeEndpoints
{
    public static void MapPatching(this IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/images/{id:int}/patch",
                (int id, PatchIn patch, bool? dryRun, PatchImage use, CancellationToken stop) =>
                    (dryRun ?? patch.DryRun) == true ? use.PreviewAsync(id, patch, stop) : use.DoAsync(id, patch, stop)
            )
            .WithSummary("What a recipe changes on an image (dryRun), or the job that makes the new image")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status507InsufficientStorage);
        app.MapPost(
                "/api/images/{id:int}/patch/preview",
                (int id, PatchIn patch, PatchImage use, CancellationToken stop) => use.PreviewAsync(id, patch, stop)
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("What a recipe or a draft would change on an image; nothing is made")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
        app.MapPost(
                "/api/images/{id:int}/undo",
                async (int id, ImageStore store, ImageShelf shelf, CancellationToken stop) =>
                    await shelf.OneAsync((await store.UndoAsync(id, stop)).Id, stop)
            )
            .WithSummary("Takes a patch back: the patched image is given up, and the one it came from is answered")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
        MapRecipes(app);
        MapBuilders(app);
    }

    private static void MapRecipes(IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/recipes",
                async (string? system, RecipeBook recipes, Shop shop, CancellationToken stop) =>
                    (await recipes.ListAsync(stop))
                        .Where(r => system is null || r.Recipe.For.System == system)
                        .Select(r => Sheet(r, shop.Catalogue))
                        .ToList()
            )
            .WithSummary("The recipes: those that ship, and the shop's own");
        app.MapGet(
                "/api/recipes/{id}",
                async (string id, RecipeBook recipes, Shop shop, CancellationToken stop) =>
                    Sheet(await recipes.GetAsync(id, stop), shop.Catalogue)
            )
            .WithSummary("One recipe")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapPut(
                "/api/recipes/{id}",
                async (string id, RecipeIn recipe, RecipeStore store, Shop shop, CancellationToken stop) =>
                {
                    var read = RecipeReader.Read(recipe.Text);
                    if (read.Id != id)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"The recipe calls itself “{read.Id}”.",
                            "id",
                            $"“{id}”, as the address says."
                        );
                    if (shop.Catalogue.System(read.For.System) is null)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            $"There is no system “{read.For.System}” in the catalogue.",
                            "for.system",
                            "A system of the catalogue."
                        );
                    return Sheet(
                        await store.AddAsync(read, recipe.Version, Given.Text(recipe.By, "by", 60), stop),
                        shop.Catalogue
                    );
                }
            )
            .WithSummary("Writes a recipe, or a further version of one")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status409Conflict);
        app.MapGet(
                "/api/recipes/{id}/script",
                async (string id, RecipeBook recipes, CancellationToken stop) =>
                {
                    var recipe = await recipes.GetAsync(id, stop);
                    return PatchScript.Of(recipe.Recipe, recipe.Version);
                }
            )
            .WithSummary("A recipe for a running system as a script to read, with its undo, relaxations and steps")
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static void MapBuilders(IEndpointRouteBuilder app)
    {
        app.MapPost(
                "/api/answer-files",
                async (AnswersIn answers, MachineStore machines, Shop shop, CancellationToken stop) =>
                {
                    var system = System(answers.System, shop);
                    var rules =
                        system.Installer?.Answers
                        ?? throw new RefusedException(
                            RefusalKind.Conflict,
                            $"{system.FullName} reads no answer file that is known here.",
                            "system",
                            "A system whose entry in the catalogue has rules for answers."
                        );
                    bool? hasTpm = null;
                    string? tag = null;
                    if (answers.Tag is { Length: > 0 })
                    {
                        tag = Given.Tag(answers.Tag, "tag");
                        var word = shop.Dossier(await machines.GetAsync(tag, stop)).Word("tpm.version");
                        hasTpm = word is null ? null : word is "1.2" or "2.0";
                    }
                    var (text, warnings) = AnswerFile.Write(answers.Answers, rules, tag, hasTpm);
                    var recipe = new Recipe
                    {
                        Id = WorkPlan.AnswersFor(answers.System, tag),
                        Name = $"Answers for {system.FullName}{(tag is null ? "" : $", {tag}")}",
                        About = "Adds the answer file; the installer then asks less.",
                        For = new RecipeFor(answers.System, [], []),
                        Costs = warnings,
                        Operations = [new AddFile { Path = rules.Path, Text = text }],
                    };
                    return new AnswerFileSheet(rules.Path, text, warnings, recipe.Write());
                }
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("Builds an answer file, and a recipe that adds it to an image")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);

        app.MapGet(
                "/api/systems/{system}/components",
                (string system, string? order, OrderStore orders, Shop shop) =>
                {
                    var entry = System(system, shop);
                    var wants = orders.Named(order);
                    List<string> purposes = wants is null ? [] : Purposes(wants);
                    return new ComponentsSheet(
                        entry.Components,
                        wants is null ? [] : TrimPlan.Dispensable(entry.Components, purposes),
                        purposes
                    );
                }
            )
            .WithSummary("The components of a system, and which of them an order does not need")
            .ProducesProblem(StatusCodes.Status404NotFound);
        app.MapPost(
                "/api/systems/{system}/trim",
                (string system, TrimIn trim, Shop shop) =>
                {
                    var plan = TrimPlan.Make(system, trim.Build, System(system, shop).Components, trim.Leave);
                    return new TrimSheet(
                        plan.Left,
                        plan.SavedBytes,
                        plan.SavedMemoryMiB,
                        plan.Script,
                        plan.Undo,
                        plan.Recipe.Write()
                    );
                }
            )
            .WithMetadata(new OnlyReads())
            .WithSummary("What is left out with some components, what breaks, and the script and recipe that do it")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    /// <summary>What an order wants to do, as components name it: the purposes of its programs.</summary>
    private static List<string> Purposes(Order order) =>
        [
            .. order
                .Needs.Select(n => n.Purpose)
                .OfType<Purpose>()
                .Select(p => JsonNamingPolicy.CamelCase.ConvertName(p.ToString()))
                .Distinct(StringComparer.Ordinal),
        ];

    private static SystemEntry System(string id, Shop shop) =>
        shop.Catalogue.System(id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no system “{id}” in the catalogue.",
            "system",
            "A system of the catalogue."
        );

    private static RecipeSheet Sheet(StoredRecipe stored, ShopCatalogue catalogue)
    {
        var recipe = stored.Recipe;
        return new RecipeSheet(
            recipe.Id,
            stored.Version,
            recipe.Name,
            recipe.About,
            recipe.Acts,
            recipe.For.System,
            recipe.For.Builds,
            recipe.Lifts,
            [
                .. (catalogue.Cures.FirstOrDefault(c => c.Id == recipe.Cure)?.Adds ?? []).Select(a => a.Text),
                .. recipe.Costs,
            ],
            recipe.Operations.Count,
            recipe.Write(),
            stored.By,
            stored.At
        );
    }
}
