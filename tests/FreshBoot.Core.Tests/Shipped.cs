using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Handover;

namespace FreshBoot.Core.Tests;

/// <summary>The catalogue that ships, read once.</summary>
internal static class Shipped
{
    public static string Home { get; } = FindHome();

    public static string Schema { get; } =
        File.ReadAllText(Path.Combine(Home, "catalogue", "schemas", "pack.schema.json"));

    public static IReadOnlyList<(string File, string Text)> Packs { get; } =
    [
        .. Directory
            .GetFiles(Path.Combine(Home, "catalogue", "packs"), "*.json")
            .Order(StringComparer.Ordinal)
            .Select(f => (Path.GetFileName(f), File.ReadAllText(f))),
    ];

    public static ShopCatalogue Catalogue { get; } = PackReader.Read(Schema, Packs);

    /// <summary>The words for owners, by language.</summary>
    public static IReadOnlyList<OwnerWords> Languages { get; } =
    [
        .. Directory
            .GetFiles(Path.Combine(Home, "catalogue", "words"), "*.json")
            .Order(StringComparer.Ordinal)
            .Select(f => OwnerWords.Read(File.ReadAllText(f), Path.GetFileName(f))),
    ];

    public static OwnerWords Words(string code) => Languages.Single(l => l.Code == code);

    private static string FindHome()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!Directory.Exists(Path.Combine(folder!.FullName, "catalogue", "packs")))
            folder = folder.Parent;
        return folder.FullName;
    }
}
