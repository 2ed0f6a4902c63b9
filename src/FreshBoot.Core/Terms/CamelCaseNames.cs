using System.Text.Json;
using System.Text.Json.Serialization;

namespace FreshBoot.Core.Terms;

/// <summary>Enums go out and come in by name in camel case, never as numbers.</summary>
public sealed class CamelCaseNames<T>()
    : JsonStringEnumConverter<T>(JsonNamingPolicy.CamelCase, allowIntegerValues: false)
    where T : struct, Enum;
