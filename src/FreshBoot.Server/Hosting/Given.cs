using FreshBoot.Core.Exchange;

namespace FreshBoot.Server.Hosting;

/// <summary>Checks the small texts that come with requests.</summary>
internal static class Given
{
    /// <summary>An asset tag, in upper case.</summary>
    public static string Tag(string? text, string where)
    {
        var tag = text?.Trim().ToUpperInvariant() ?? "";
        return MachineCsv.TagForm().IsMatch(tag)
            ? tag
            : throw new RefusedException(
                RefusalKind.Invalid,
                tag.Length == 0 ? "The asset tag is missing." : "That is no asset tag.",
                where,
                "Letters and digits in up to four groups with hyphens between them, such as MR-0417."
            );
    }

    /// <summary>A text on one line that is not blank.</summary>
    public static string Text(string? text, string where, int longest)
    {
        var clean = text?.Trim() ?? "";
        return clean.Length > 0 && clean.Length <= longest && !clean.Any(char.IsControl)
            ? clean
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{where}” is missing or no text.",
                where,
                $"A text of 1 to {longest} characters on one line."
            );
    }
}
