using System.Text.Json.Serialization;

namespace FreshBoot.Core.Terms;

/// <summary>How sure a claim is.</summary>
[JsonConverter(typeof(CamelCaseNames<Sureness>))]
public enum Sureness
{
    /// <summary>Somebody said so.</summary>
    Hearsay,

    /// <summary>The maker states it.</summary>
    Stated,

    /// <summary>Tried in the shop.</summary>
    Tried,
}

/// <summary>Where something is known from.</summary>
/// <param name="Source">Who says so.</param>
/// <param name="Date">When it was said or tried.</param>
/// <param name="Sure">How sure it is.</param>
public sealed record Evidence(string Source, DateOnly Date, Sureness Sure);
