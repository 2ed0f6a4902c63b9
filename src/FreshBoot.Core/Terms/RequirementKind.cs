using System.Text.Json.Serialization;

namespace FreshBoot.Core.Terms;

/// <summary>The kinds of requirement; confusing them is the costliest mistake in this trade.</summary>
[JsonConverter(typeof(CamelCaseNames<RequirementKind>))]
public enum RequirementKind
{
    /// <summary>The installer checks it; the system would run anyway.</summary>
    Gate,

    /// <summary>The system cannot run without it.</summary>
    Runtime,

    /// <summary>It runs, but not well enough.</summary>
    Comfort,
}
