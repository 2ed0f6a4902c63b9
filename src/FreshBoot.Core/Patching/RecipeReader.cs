using System.Text.Json;
using System.Text.RegularExpressions;

namespace FreshBoot.Core.Patching;

/// <summary>Reads recipes, and refuses what a recipe must not say.</summary>
public static partial class RecipeReader
{
    /// <summary>Largest recipe, in characters: files that it adds are in it.</summary>
    public const int Largest = 4 << 20;
    private const int MostOperations = 200;
    private const int LongestText = 2000;

    /// <summary>Reads a recipe.</summary>
    /// <exception cref="RefusedException">No JSON, an unknown operation, a path that leads out of the image.</exception>
    public static Recipe Read(string json)
    {
        if (json.Length > Largest)
            throw new RefusedException(
                RefusalKind.TooLarge,
                "The recipe is too large.",
                "recipe",
                $"At most {Largest >> 20} MiB."
            );
        Recipe? recipe;
        try
        {
            recipe = JsonSerializer.Deserialize<Recipe>(json, Recipe.Json);
        }
        catch (Exception e) when (e is JsonException or NotSupportedException or InvalidOperationException)
        {
            var at = e is JsonException { LineNumber: { } line } j ? $"line {line + 1}, {j.Path}" : "recipe";
            throw new RefusedException(
                RefusalKind.Invalid,
                e.Message.Contains("discriminator", StringComparison.Ordinal)
                    ? "An operation has no “op”, or one that does not exist."
                    : "The recipe is no JSON of the form that is wanted.",
                at,
                "A recipe as docs/recipes.md and recipe.schema.json describe it."
            );
        }
        if (recipe is null)
            throw Refuse("The recipe is empty.", "recipe", "A recipe as docs/recipes.md describes it.");
        Check(recipe);
        return recipe;
    }

    /// <summary>Checks what the form alone cannot say.</summary>
    /// <exception cref="RefusedException">The first fault.</exception>
    public static void Check(Recipe recipe)
    {
        // Lists hold no gaps, and what is said to people is text on one line: it goes into scripts as a remark.
        if (
            recipe.Operations.Any(o => o is null)
            || recipe.For.Files.Any(f => f is null)
            || recipe.Relaxations.Any(r => r is null)
        )
            throw Refuse(
                "A list of the recipe holds null.",
                "recipe",
                "Operations, conditions and relaxations, no gaps."
            );
        foreach (var (where, text) in Said(recipe))
            if (
                text is null
                || text.Length > LongestText
                || text.Any(c => char.IsControl(c) || char.IsSurrogate(c) && !IsWhole(text))
            )
                throw Refuse(
                    "A text of the recipe is missing, very long, or holds a control character.",
                    where,
                    $"A text of at most {LongestText} characters on one line."
                );
        foreach (var (operation, i) in recipe.Operations.Select((o, i) => (o, i)))
            if (operation.Lists().Any(l => l is null))
                throw Refuse(
                    "A list of the operation holds null.",
                    $"operations[{i}]",
                    "Lines and arguments, no gaps."
                );
        if (!IdForm().IsMatch(recipe.Id))
            throw Refuse($"“{recipe.Id}” is no id.", "id", "Small letters, digits and hyphens, at most 60.");
        if (string.IsNullOrWhiteSpace(recipe.Name) || recipe.Name.Length > 120)
            throw Refuse("The recipe has no name, or a very long one.", "name", "1 to 120 characters.");
        if (recipe.Operations.Count is 0 or > MostOperations)
            throw Refuse($"It has {recipe.Operations.Count} operations.", "operations", $"1 to {MostOperations}.");
        foreach (var (file, i) in recipe.For.Files.Select((f, i) => (f, i)))
        {
            CheckPath(file.Path, $"for.files[{i}].path");
            if (file.Sha256 is null == file.Contains is null)
                throw Refuse(
                    "A condition has a checksum or a text, one of them.",
                    $"for.files[{i}]",
                    "“sha256” or “contains”."
                );
            if (file.Sha256 is not null && !HashForm().IsMatch(file.Sha256))
                throw Refuse(
                    "That is no SHA-256.",
                    $"for.files[{i}].sha256",
                    "64 hexadecimal digits in small letters."
                );
        }
        for (var i = 0; i < recipe.Operations.Count; i++)
        {
            foreach (var path in recipe.Operations[i].Paths())
                CheckPath(path, $"operations[{i}].path");
            if (recipe.Operations[i].Fault() is { } fault)
                throw Refuse(fault, $"operations[{i}]", "An operation as docs/recipes.md describes it.");
        }
    }

    /// <summary>Every text of a recipe that people read, with its place.</summary>
    private static IEnumerable<(string Where, string? Text)> Said(Recipe recipe) =>
        [
            ("id", recipe.Id),
            ("name", recipe.Name),
            ("about", recipe.About),
            ("for.system", recipe.For.System),
            .. recipe.Cure is null ? [] : new[] { ("cure", (string?)recipe.Cure) },
            .. recipe.For.Builds.Select((b, i) => ($"for.builds[{i}]", (string?)b)),
            .. recipe.Lifts.Select((l, i) => ($"lifts[{i}]", (string?)l)),
            .. recipe.Costs.Select((c, i) => ($"costs[{i}]", (string?)c)),
            .. recipe.Relaxations.Select((r, i) => ($"relaxations[{i}].what", (string?)r.What)),
            .. recipe.Relaxations.Select((r, i) => ($"relaxations[{i}].close", (string?)r.Close)),
        ];

    private static bool IsWhole(string text)
    {
        for (var i = 0; i < text.Length; i++)
            if (char.IsHighSurrogate(text[i]) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
                i++;
            else if (char.IsSurrogate(text[i]))
                return false;
        return true;
    }

    /// <summary>A path on an image: relative, with slashes, and nowhere else.</summary>
    private static void CheckPath(string path, string where)
    {
        var parts = path.Split('/');
        if (
            path.Length is 0 or > 512
            || parts.Any(p => p is "" or "." or "..")
            || path.Any(c => char.IsControl(c) || c is '\\' or ':' or '\ufffd')
            || path[0] == '-'
        )
            throw Refuse(
                $"“{path}” is no path on an image.",
                where,
                "Names with slashes between, none in front, no “..”."
            );
    }

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Invalid, what, where, wanted);

    [GeneratedRegex("^[a-z0-9][a-z0-9-]{0,59}\\z")]
    private static partial Regex IdForm();

    [GeneratedRegex("^[0-9a-f]{64}\\z")]
    private static partial Regex HashForm();
}
