namespace FreshBoot.Server.Hosting;

/// <summary>The small texts that come with requests: as they are meant, once they are known to be right.</summary>
internal static class Given
{
    /// <summary>What stands as the name where nobody picked one.</summary>
    public const string Nobody = "no name picked";

    public const string TagWanted =
        "Letters and digits in up to four groups with hyphens between them, such as MR-0417.";

    public static bool IsTag(string text) => AssetTag.Form().IsMatch(text.Trim().ToUpperInvariant());

    public static bool IsLine(string text, int longest) =>
        text.Trim() is { Length: > 0 } clean && clean.Length <= longest && PlainText.IsPlain(clean, lines: false);

    public static string LineWanted(int longest) =>
        $"A text of 1 to {longest} characters on one line, without signs that nobody sees.";

    /// <summary>An asset tag, in upper case.</summary>
    public static string Tag(string? text, string where) =>
        text is not null && IsTag(text)
            ? text.Trim().ToUpperInvariant()
            : throw new RefusedException(
                RefusalKind.Invalid,
                string.IsNullOrWhiteSpace(text) ? "The asset tag is missing." : "That is no asset tag.",
                where,
                TagWanted
            );

    /// <summary>A text on one line that is not blank.</summary>
    public static string Text(string? text, string where, int longest) =>
        text is not null && IsLine(text, longest)
            ? PlainText.Composed(text.Trim())
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{where}” is missing or no text.",
                where,
                LineWanted(longest)
            );
}
