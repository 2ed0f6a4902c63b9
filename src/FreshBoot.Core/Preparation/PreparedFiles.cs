using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;

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
    public static IReadOnlyList<PreparedFile> Of(
        Route route,
        ShopCatalogue catalogue,
        IFacts facts,
        string tag,
        IReadOnlySet<string> takenSerials
    )
    {
        if (route.System is null || catalogue.System(route.System) is not { } system)
            return [];
        var files = new List<PreparedFile>();

        if (
            route.Cures.Any(c => c.Kind == Outcome.Spoof)
            && DonorChoice.Nearest(facts, system.Id, catalogue.Donors) is { } donor
        )
        {
            var profile = IdentityProfile.Fresh(donor, tag, takenSerials);
            files.Add(
                PreparedFile.Of(
                    "identity.json",
                    $"The identity of a {profile.Model} with a fresh serial: goes into the loader's configuration.",
                    (
                        facts.Word("plan.identity") == "least"
                            ? JsonSerializer.Serialize(new { profile.BoardId }, Indented)
                            : JsonSerializer.Serialize(
                                new
                                {
                                    profile.Maker,
                                    profile.Model,
                                    profile.Serial,
                                    profile.Uuid,
                                    profile.BoardId,
                                },
                                Indented
                            )
                    ) + "\n",
                    "application/json"
                )
            );
            if (facts.Word("plan.identity") != "least")
                files.Add(
                    PreparedFile.Of(
                        "smbios-type1.bin",
                        "The same as an SMBIOS structure of type 1, without an end marker.",
                        profile.SmbiosType1()
                    )
                );
        }
        return files;
    }
}
