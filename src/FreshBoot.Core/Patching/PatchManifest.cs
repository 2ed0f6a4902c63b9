namespace FreshBoot.Core.Patching;

/// <summary>What was patched, kept with the new image.</summary>
/// <param name="RecipeId">The recipe.</param>
/// <param name="RecipeVersion">Its version; 0 for one that ships.</param>
/// <param name="OldSha256">SHA-256 of the image that it was made from.</param>
/// <param name="By">Who made it.</param>
/// <param name="At">When.</param>
/// <param name="Files">The changed files with both checksums.</param>
/// <param name="RecipeSha256">SHA-256 of the recipe as it is written; null in manifests of before it was noted.</param>
public sealed record PatchManifest(
    string RecipeId,
    int RecipeVersion,
    string OldSha256,
    string By,
    DateTimeOffset At,
    IReadOnlyList<PatchedFile> Files,
    string? RecipeSha256 = null
);

/// <summary>A file that was changed.</summary>
/// <param name="Path">The file.</param>
/// <param name="Change"><c>changed</c>, <c>added</c> or <c>removed</c>.</param>
/// <param name="OldSha256">SHA-256 before; null where it was not there.</param>
/// <param name="NewSha256">SHA-256 after; null where it was removed.</param>
public sealed record PatchedFile(string Path, string Change, string? OldSha256, string? NewSha256);
