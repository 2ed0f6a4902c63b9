namespace FreshBoot.Formats.Texts;

/// <summary>Where a key of an INI file stands. Everything else of the file stays as it is.</summary>
/// <param name="End">Index of the line behind the last one of the section; null where there is no such section.</param>
/// <param name="Line">Index of the key's line; null where it is not there.</param>
/// <param name="Twice">Index of a second line of the same key; null where there is none.</param>
public sealed record IniPlace(int? End, int? Line, int? Twice);

/// <summary>Files of sections in brackets and keys with an equals sign; lines that begin with ; or # are remarks.</summary>
public static class IniText
{
    /// <summary>Looks for a key of a section; the section without a name is what stands above the first one.</summary>
    public static IniPlace Find(IReadOnlyList<string> lines, string section, string key)
    {
        var here = "";
        int? end = section.Length == 0 ? 0 : null;
        int? at = null;
        for (var i = 0; i < lines.Count; i++)
        {
            var line = lines[i].Trim();
            if (line is ['[', .., ']'])
                here = line[1..^1].Trim();
            if (here != section)
                continue;
            if (line.Length > 0)
                end = i + 1;
            if (line is not ['[' or ';' or '#', ..] && line.Split('=', 2) is [var name, _] && name.Trim() == key)
            {
                if (at is not null)
                    return new IniPlace(end, at, i);
                at = i;
            }
        }
        return new IniPlace(end, at, null);
    }

    /// <summary>The value of a key's line.</summary>
    public static string ValueOf(string line) => line[(line.IndexOf('=', StringComparison.Ordinal) + 1)..].Trim();

    /// <summary>A key's line with another value; the spaces after the equals sign are the file's own manner.</summary>
    public static string WithValue(string line, string value)
    {
        var equals = line.IndexOf('=', StringComparison.Ordinal) + 1;
        var spaces = line[equals..].TakeWhile(c => c == ' ').Count();
        return $"{line[..equals]}{new string(' ', spaces)}{value}";
    }
}
