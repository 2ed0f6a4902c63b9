namespace FreshBoot.Server.Catalogue;

/// <summary>The packs that ship, as they lie in the catalogue folder; they count in the order of their file names.</summary>
/// <param name="Schema">The JSON Schema of packs.</param>
/// <param name="Packs">File name and text of each.</param>
internal sealed record CatalogueFiles(string Schema, IReadOnlyList<(string File, string Text)> Packs)
{
    public static CatalogueFiles Read(string folder) =>
        new(
            File.ReadAllText(Path.Combine(folder, "schemas", "pack.schema.json")),
            [
                .. Directory
                    .EnumerateFiles(Path.Combine(folder, "packs"), "*.json")
                    .Order(StringComparer.Ordinal)
                    .Select(f => (Path.GetFileName(f), File.ReadAllText(f))),
            ]
        );
}
