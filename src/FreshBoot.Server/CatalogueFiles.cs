using FreshBoot.Core.Catalogue;

namespace FreshBoot.Server;

/// <summary>Reads the catalogue folder; packs count in the order of their file names.</summary>
internal static class CatalogueFiles
{
    public static ShopCatalogue Read(string folder) =>
        PackReader.Read(
            File.ReadAllText(Path.Combine(folder, "schemas", "pack.schema.json")),
            [
                .. Directory
                    .EnumerateFiles(Path.Combine(folder, "packs"), "*.json")
                    .Order(StringComparer.Ordinal)
                    .Select(f => (Path.GetFileName(f), File.ReadAllText(f))),
            ]
        );
}
