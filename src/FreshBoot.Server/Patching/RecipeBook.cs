using FreshBoot.Core.Patching;
using FreshBoot.Data.Patching;

namespace FreshBoot.Server.Patching;

/// <summary>The recipes that ship, and the shop's own beside them; of the same id the shop's counts.</summary>
internal sealed class RecipeBook(RecipeStore store, IReadOnlyList<Recipe> shipped)
{
    public async Task<IReadOnlyList<StoredRecipe>> ListAsync(CancellationToken stop)
    {
        var own = await store.ListAsync(stop);
        return
        [
            .. own.Concat(
                    shipped
                        .Where(r => own.All(o => o.Recipe.Id != r.Id))
                        .Select(r => new StoredRecipe(0, r, "ships with the application", null))
                )
                .OrderBy(r => r.Recipe.For.System, StringComparer.Ordinal)
                .ThenBy(r => r.Recipe.Id, StringComparer.Ordinal),
        ];
    }

    public async Task<StoredRecipe> GetAsync(string id, CancellationToken stop) =>
        (await ListAsync(stop)).FirstOrDefault(r => r.Recipe.Id == id)
        ?? throw new RefusedException(
            RefusalKind.Missing,
            $"There is no recipe “{id}”.",
            "recipe",
            "A recipe that is in the book."
        );

    /// <summary>Reads the recipes that ship.</summary>
    public static IReadOnlyList<Recipe> Shipped(string folder) =>
        Directory.Exists(folder)
            ?
            [
                .. Directory
                    .GetFiles(folder, "*.json")
                    .Order(StringComparer.Ordinal)
                    .Select(f => RecipeReader.Read(File.ReadAllText(f))),
            ]
            : [];
}
