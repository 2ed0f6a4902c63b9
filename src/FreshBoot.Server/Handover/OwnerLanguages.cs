using FreshBoot.Core.Handover;

namespace FreshBoot.Server.Handover;

/// <summary>The languages that owners can read in: one file each in the folder of words.</summary>
internal sealed class OwnerLanguages
{
    private readonly SortedDictionary<string, OwnerWords> _languages = new(StringComparer.Ordinal);

    /// <summary>Reads them all.</summary>
    /// <exception cref="RefusedException">A file is none of words.</exception>
    public OwnerLanguages(string folder)
    {
        foreach (var file in Directory.EnumerateFiles(folder, "*.json"))
            if (OwnerWords.Read(File.ReadAllText(file), Path.GetFileName(file)) is var words)
                _languages[words.Code] = words;
    }

    /// <summary>Code and name of each.</summary>
    public IEnumerable<(string Code, string Name)> All => _languages.Values.Select(w => (w.Code, w.Name));

    /// <summary>The words of a language.</summary>
    /// <exception cref="RefusedException">There are none.</exception>
    public OwnerWords Of(string code) =>
        _languages.TryGetValue(code, out var words)
            ? words
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"There are no words of “{code}”.",
                "lang",
                $"One of: {string.Join(", ", _languages.Keys)}."
            );
}
