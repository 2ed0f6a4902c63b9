using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Routes;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.Preparation;

/// <summary>A file that a route needs.</summary>
/// <param name="Name">Its name.</param>
/// <param name="About">What it is and where it goes.</param>
/// <param name="MediaType">Its media type.</param>
/// <param name="Sha256">SHA-256 of its bytes, hexadecimal.</param>
/// <param name="SizeBytes">Its size in bytes.</param>
/// <param name="Text">Its content where it is text; null for binary files.</param>
public sealed record PreparedFile(
    string Name,
    string About,
    string MediaType,
    string Sha256,
    long SizeBytes,
    string? Text
)
{
    /// <summary>Its bytes.</summary>
    [JsonIgnore]
    public byte[] Bytes { get; private init; } = [];

    internal static PreparedFile Of(
        string name,
        string about,
        string text,
        string mediaType = "text/plain; charset=utf-8"
    ) => Of(name, about, Encoding.UTF8.GetBytes(text), mediaType) with { Text = text };

    internal static PreparedFile Of(
        string name,
        string about,
        byte[] bytes,
        string mediaType = "application/octet-stream"
    ) =>
        new(name, about, mediaType, Convert.ToHexStringLower(SHA256.HashData(bytes)), bytes.Length, null)
        {
            Bytes = bytes,
        };
}

/// <summary>Makes the files of a route. The same route on the same machine gives the same bytes.</summary>
public static class PreparedFiles
{
    private static readonly JsonSerializerOptions Indented = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The files of a route; empty where nothing has to be prepared.</summary>
    /// <param name="route">The route.</param>
    /// <param name="identities">The identities that the shop gave the machine, the latest last.</param>
    /// <param name="catalogue">The catalogue with the donors.</param>
    public static IReadOnlyList<PreparedFile> Of(
        Route route,
        IReadOnlyList<GivenIdentity> identities,
        ShopCatalogue catalogue
    ) =>
        route.System is { } system
        && route.Cures.Any(c => c.Kind == Outcome.Spoof)
        && GivenIdentity.For(identities, system, catalogue) is { } given
            ? Of(given)
            : [];

    /// <summary>An identity as files: JSON, and an XML property list with the same keys.</summary>
    public static IReadOnlyList<PreparedFile> Of(GivenIdentity given)
    {
        var profile = given.Profile;
        var about = $"The identity of a {given.Donor ?? profile.Processor}: goes into the loader’s configuration.";
        var values = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (
            var (key, value) in new[]
            {
                ("maker", profile.Maker),
                ("model", profile.Model),
                ("serial", profile.Serial),
                ("uuid", profile.Uuid?.ToString()),
                ("boardId", profile.BoardId),
                ("processor", profile.Processor),
            }
        )
            if (value is not null)
                values[key] = value;
        return
        [
            PreparedFile.Of(
                "identity.json",
                about,
                JsonSerializer.Serialize(values, Indented) + "\n",
                "application/json"
            ),
            PreparedFile.Of("identity.plist", about, PropertyList.Write(values), "application/xml"),
        ];
    }
}
