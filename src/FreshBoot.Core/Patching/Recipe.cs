using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace FreshBoot.Core.Patching;

/// <summary>Where a recipe acts.</summary>
[JsonConverter(typeof(CamelCaseNames<PatchPlace>))]
public enum PatchPlace
{
    /// <summary>On the installer image.</summary>
    Image,

    /// <summary>In the running system, before an upgrade.</summary>
    BeforeUpgrade,

    /// <summary>In the running system, afterwards.</summary>
    Afterwards,
}

/// <summary>What must hold of a file before a recipe touches anything.</summary>
/// <param name="Path">The file.</param>
/// <param name="Sha256">SHA-256 that it must have; null where a text decides.</param>
/// <param name="Contains">A text that must be in it; null where the checksum decides.</param>
public sealed record FileCondition(string Path, string? Sha256 = null, string? Contains = null);

/// <summary>What a recipe is for.</summary>
/// <param name="System">Id of the system in the catalogue.</param>
/// <param name="Builds">Builds that it was proved with; empty for any.</param>
/// <param name="Files">What must hold of files.</param>
public sealed record RecipeFor(string System, IReadOnlyList<string> Builds, IReadOnlyList<FileCondition> Files);

/// <summary>Something that is opened for the patch and must be closed again.</summary>
/// <param name="What">What is opened: "USB start allowed".</param>
/// <param name="Close">How it is closed again.</param>
public sealed record Relaxation(string What, string Close);

/// <summary>
/// A patch recipe: a list of changes to files that says beforehand what it is for, and afterwards what it did. It holds no
/// program: everything that it can do is an <see cref="Operation"/>. docs/recipes.md describes the format.
/// </summary>
public sealed record Recipe
{
    /// <summary>Its id.</summary>
    public required string Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; init; }

    /// <summary>What it is good for, and what was learnt about it.</summary>
    public string About { get; init; } = "";

    /// <summary>Where it acts.</summary>
    public PatchPlace Acts { get; init; }

    /// <summary>What it is for.</summary>
    public required RecipeFor For { get; init; }

    /// <summary>Gates that it lifts, as <c>system/gate</c>.</summary>
    public IReadOnlyList<string> Lifts { get; init; } = [];

    /// <summary>The cure of the catalogue that it carries out; its side effects are what the recipe costs.</summary>
    public string? Cure { get; init; }

    /// <summary>What it costs beside the side effects of its cure.</summary>
    public IReadOnlyList<string> Costs { get; init; } = [];

    /// <summary>What is opened for it in a running system.</summary>
    public IReadOnlyList<Relaxation> Relaxations { get; init; } = [];

    /// <summary>The changes, in order.</summary>
    public required IReadOnlyList<Operation> Operations { get; init; }

    /// <summary>How it is written and read.</summary>
    public static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web)
        {
            WriteIndented = true,
            DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
            Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
            RespectNullableAnnotations = true,
            RespectRequiredConstructorParameters = true,
            UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
            NumberHandling = JsonNumberHandling.Strict,
        };

    /// <summary>The recipe as JSON.</summary>
    public string Write() => JsonSerializer.Serialize(this, Json) + "\n";

    /// <summary>SHA-256 of the recipe as it is written, hexadecimal.</summary>
    public string Sha256() => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Write())));
}
