namespace FreshBoot.Formats.Texts;

/// <summary>Lines of a text, with the line ends that it has.</summary>
public static class TextLines
{
    /// <summary>The lines, and what ends them.</summary>
    public static (List<string> Lines, string Feed) Split(string text)
    {
        var feed = text.Contains("\r\n", StringComparison.Ordinal) ? "\r\n" : "\n";
        return ([.. text.Split(feed)], feed);
    }

    /// <summary>The text of lines.</summary>
    public static string Join(IEnumerable<string> lines, string feed) => string.Join(feed, lines);
}
