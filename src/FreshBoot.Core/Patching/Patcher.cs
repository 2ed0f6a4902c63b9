using System.Text;
using System.Text.Json.Serialization;
using DiffPlex.DiffBuilder;
using DiffPlex.DiffBuilder.Model;

namespace FreshBoot.Core.Patching;

/// <summary>A line of a difference.</summary>
/// <param name="Kind"><c>same</c>, <c>out</c>, <c>in</c>, or <c>gap</c> where lines are left out.</param>
/// <param name="Old">Its number before; null for what came in.</param>
/// <param name="New">Its number after; null for what went out.</param>
/// <param name="Text">The line; for a gap how many lines.</param>
public sealed record DiffLine(string Kind, int? Old, int? New, string Text);

/// <summary>What a recipe changes in a file.</summary>
/// <param name="Path">The file.</param>
/// <param name="Change"><c>changed</c>, <c>added</c> or <c>removed</c>.</param>
/// <param name="OldSha256">SHA-256 before; null where it was not there.</param>
/// <param name="NewSha256">SHA-256 after; null where it is removed.</param>
/// <param name="OldSizeBytes">Size before.</param>
/// <param name="NewSizeBytes">Size after.</param>
/// <param name="Lines">The difference, line by line; of binary files in rows of sixteen bytes.</param>
public sealed record FileDifference(
    string Path,
    string Change,
    string? OldSha256,
    string? NewSha256,
    long OldSizeBytes,
    long NewSizeBytes,
    IReadOnlyList<DiffLine> Lines
)
{
    /// <summary>The new content; null where it is removed.</summary>
    [JsonIgnore]
    public byte[]? Content { get; init; }
}

/// <summary>What a recipe would do.</summary>
/// <param name="AlreadyApplied">Whether all of it is there already; then nothing changes.</param>
/// <param name="Files">The changed files.</param>
public sealed record PatchOutcome(bool AlreadyApplied, IReadOnlyList<FileDifference> Files);

/// <summary>Applies recipes to files: all of a recipe or nothing of it.</summary>
public static class Patcher
{
    private const int Around = 3;
    private const int MostLines = 400;

    /// <summary>Works out what a recipe does to files.</summary>
    /// <exception cref="RefusedException">
    /// It is for another build, a precondition fails (file and place are named), or a part of it was applied before.
    /// </exception>
    public static PatchOutcome Run(Recipe recipe, PatchFiles files)
    {
        // What is there already is asked first: a patched file has no longer the checksum that the recipe wants.
        var done = 0;
        RefusedException? refusal = null;
        foreach (var operation in recipe.Operations)
            try
            {
                if (operation.Look(files) == Fitting.Done)
                    done++;
                else
                    operation.Apply(files);
            }
            catch (RefusedException e)
            {
                refusal = e;
                break;
            }
        if (done == recipe.Operations.Count)
            return new PatchOutcome(true, []);
        CheckConditions(recipe, files);
        if (refusal is not null)
            throw refusal;
        if (done > 0)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"{Capital(Numbers.Word(done))} of {Numbers.Word(recipe.Operations.Count)} changes {(done == 1 ? "is" : "are")} there already: this image was patched before, by something else.",
                recipe.Name,
                "The image as it came."
            );
        return new PatchOutcome(
            false,
            [
                .. files
                    .Changed.OrderBy(c => c.Key, StringComparer.Ordinal)
                    .Select(c => Difference(c.Key, files.Original(c.Key), c.Value))
                    .Where(d => d.OldSha256 != d.NewSha256),
            ]
        );
    }

    private static void CheckConditions(Recipe recipe, PatchFiles files)
    {
        foreach (var condition in recipe.For.Files)
        {
            var content =
                files.Original(condition.Path)
                ?? throw new RefusedException(
                    RefusalKind.Conflict,
                    $"This is another build: it has no {condition.Path}.",
                    condition.Path,
                    Proved(recipe)
                );
            if (condition.Sha256 is { } sha256 && Patching.Content.Hash(content) != sha256)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"This is another build: {condition.Path} has SHA-256 {Patching.Content.Hash(content)[..16]}…, not {sha256[..16]}….",
                    condition.Path,
                    Proved(recipe)
                );
            if (condition.Contains is { } text && content.AsSpan().IndexOf(Encoding.UTF8.GetBytes(text)) < 0)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"This is another build: {condition.Path} does not hold “{text}”.",
                    condition.Path,
                    Proved(recipe)
                );
        }
    }

    /// <summary>Refuses a recipe that is for another system or build than the image is said to be.</summary>
    /// <exception cref="RefusedException">It is.</exception>
    public static void CheckFor(Recipe recipe, string? system, string? build)
    {
        if (system is not null && system != recipe.For.System)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The recipe is for {recipe.For.System}; this image is {system}.",
                "for.system",
                "A recipe for this system."
            );
        if (build is not null && recipe.For.Builds.Count > 0 && !recipe.For.Builds.Contains(build))
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The recipe was proved with build {Numbers.Join(recipe.For.Builds, "or")}; this image is build {build}.",
                "for.builds",
                Proved(recipe)
            );
    }

    private static string Proved(Recipe recipe) =>
        recipe.For.Builds.Count > 0
            ? $"Build {Numbers.Join(recipe.For.Builds, "or")} of {recipe.For.System}, or a recipe that was proved with this one."
            : "An image that the recipe was proved with.";

    private static string Capital(string word) => char.ToUpperInvariant(word[0]) + word[1..];

    /// <summary>The difference of two contents of a file.</summary>
    public static FileDifference Difference(string path, byte[]? before, byte[]? after) =>
        new(
            path,
            before is null ? "added"
                : after is null ? "removed"
                : "changed",
            before is null ? null : Patching.Content.Hash(before),
            after is null ? null : Patching.Content.Hash(after),
            before?.Length ?? 0,
            after?.Length ?? 0,
            Lines(before ?? [], after ?? [])
        )
        {
            Content = after,
        };

    private static List<DiffLine> Lines(byte[] before, byte[] after)
    {
        if (!IsText(before) || !IsText(after))
            return Rows(before, after);
        var (old, now) = (Encoding.UTF8.GetString(before), Encoding.UTF8.GetString(after));
        var all = new List<DiffLine>();
        int o = 0,
            n = 0;
        foreach (var line in InlineDiffBuilder.Diff(old, now, ignoreWhiteSpace: false).Lines)
            switch (line.Type)
            {
                case ChangeType.Inserted:
                    all.Add(new DiffLine("in", null, ++n, line.Text));
                    break;
                case ChangeType.Deleted:
                    all.Add(new DiffLine("out", ++o, null, line.Text));
                    break;
                default:
                    all.Add(new DiffLine("same", ++o, ++n, line.Text));
                    break;
            }
        // The last line feed ends a line; it begins none.
        if (all.Count > 0 && all[^1] is { Kind: "same", Text: "" })
            all.RemoveAt(all.Count - 1);
        return Short(all);
    }

    /// <summary>Only what lies near a change is shown.</summary>
    private static List<DiffLine> Short(List<DiffLine> all)
    {
        var near = new bool[all.Count];
        for (var i = 0; i < all.Count; i++)
            if (all[i].Kind != "same")
                for (var j = Math.Max(0, i - Around); j <= Math.Min(all.Count - 1, i + Around); j++)
                    near[j] = true;
        var shown = new List<DiffLine>();
        var left = 0;
        for (var i = 0; i <= all.Count; i++)
        {
            if (i < all.Count && !near[i])
            {
                left++;
                continue;
            }
            if (left > 0 && shown.Count < MostLines)
                shown.Add(new DiffLine("gap", null, null, $"{left} {(left == 1 ? "line" : "lines")} the same"));
            left = 0;
            if (i == all.Count)
                break;
            if (shown.Count < MostLines)
                shown.Add(all[i]);
            else if (shown.Count == MostLines)
                shown.Add(new DiffLine("gap", null, null, "more, which is not shown"));
        }
        return shown;
    }

    private static List<DiffLine> Rows(byte[] before, byte[] after)
    {
        var rows = new List<DiffLine>();
        for (var at = 0; at < Math.Max(before.Length, after.Length) && rows.Count < MostLines; at += 16)
        {
            var old = before.AsSpan(Math.Min(at, before.Length), Math.Clamp(before.Length - at, 0, 16));
            var now = after.AsSpan(Math.Min(at, after.Length), Math.Clamp(after.Length - at, 0, 16));
            if (old.SequenceEqual(now))
                continue;
            if (old.Length > 0)
                rows.Add(new DiffLine("out", at, null, Convert.ToHexStringLower(old)));
            if (now.Length > 0)
                rows.Add(new DiffLine("in", null, at, Convert.ToHexStringLower(now)));
        }
        return rows;
    }

    private static bool IsText(byte[] bytes) => bytes.AsSpan(0, Math.Min(bytes.Length, 8192)).IndexOf((byte)0) < 0;
}
