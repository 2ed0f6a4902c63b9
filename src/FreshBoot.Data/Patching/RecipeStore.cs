using FreshBoot.Core.Patching;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Patching;

/// <summary>A recipe in one of its versions.</summary>
/// <param name="Version">0 for one that ships, 1 for the first of the shop's own.</param>
/// <param name="Recipe">The recipe.</param>
/// <param name="By">Who wrote it.</param>
/// <param name="At">When; null for one that ships.</param>
public sealed record StoredRecipe(int Version, Recipe Recipe, string By, DateTimeOffset? At);

/// <summary>The recipes written in this shop. A version is never changed: a patched image names the one that made it.</summary>
public sealed class RecipeStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock)
{
    /// <summary>The latest version of each recipe.</summary>
    public async Task<IReadOnlyList<StoredRecipe>> ListAsync(CancellationToken stop)
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var rows = await db.Recipes.AsNoTracking().OrderBy(r => r.Id).ToListAsync(stop);
        return [.. rows.GroupBy(r => r.RecipeId, StringComparer.Ordinal).Select(g => Stored(g.MaxBy(r => r.Version)!))];
    }

    /// <summary>Writes a further version.</summary>
    /// <param name="recipe">The recipe.</param>
    /// <param name="from">The version that it was made from, 0 for none of the shop's.</param>
    /// <param name="by">Who writes it.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">Somebody wrote another meanwhile.</exception>
    public async Task<StoredRecipe> AddAsync(Recipe recipe, int from, string by, CancellationToken stop)
    {
        RecipeReader.Check(recipe);
        await using var db = await databases.CreateDbContextAsync(stop);
        var last = await db.Recipes.Where(r => r.RecipeId == recipe.Id).MaxAsync(r => (int?)r.Version, stop) ?? 0;
        if (last != from)
            throw Changed();
        var row = new RecipeRow
        {
            RecipeId = recipe.Id,
            Version = last + 1,
            Recipe = recipe.Write(),
            By = by,
            At = clock.GetUtcNow(),
        };
        db.Recipes.Add(row);
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e)
            when (e.InnerException is Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 })
        {
            throw Changed();
        }
        return Stored(row);
    }

    private static StoredRecipe Stored(RecipeRow row) =>
        new(row.Version, RecipeReader.Read(row.Recipe), row.By, row.At);

    private static RefusedException Changed() =>
        new(
            RefusalKind.Conflict,
            "Somebody else changed this recipe meanwhile.",
            "version",
            "Look at it again, and change it from there."
        );
}
