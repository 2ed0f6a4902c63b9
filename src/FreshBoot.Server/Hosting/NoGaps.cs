using System.Collections;
using System.Collections.Concurrent;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace FreshBoot.Server.Hosting;

/// <summary>
/// Refuses a body whose lists or maps hold null where none is meant: the framework's reader of JSON checks members, and not what
/// lies in collections. Runs after validation, for every endpoint.
/// </summary>
internal sealed class NoGaps : IEndpointFilter
{
    private const int Deepest = 12;
    private static readonly ConcurrentDictionary<Type, PropertyInfo[]> Members = new();

    public ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        foreach (var argument in context.Arguments)
            if (argument is not null && IsOurs(argument.GetType()) && Find(argument, "", Deepest) is { } where)
                throw new RefusedException(
                    RefusalKind.Invalid,
                    "A list or map holds null.",
                    where,
                    "A value, or one item less."
                );
        return next(context);
    }

    /// <summary>The place of the first null in a collection; null where there is none.</summary>
    private static string? Find(object value, string at, int depth)
    {
        if (
            depth == 0
            || value is string or JsonNode or JsonElement
            || !IsOurs(value.GetType()) && value is not IEnumerable
        )
            return null;
        if (value is IEnumerable items)
        {
            var i = 0;
            foreach (var item in items)
            {
                var (here, inner) =
                    item is not null && IsPair(item.GetType())
                        ? ($"{at}.{Member(item, "Key")}", Member(item, "Value"))
                        : ($"{at}[{i}]", item);
                if (inner is null)
                    return here.TrimStart('.');
                if (Find(inner, here, depth - 1) is { } found)
                    return found;
                i++;
            }
            return null;
        }
        foreach (var member in Members.GetOrAdd(value.GetType(), Of))
            if (
                member.GetValue(value) is { } inside
                && Find(inside, $"{at}.{JsonNamingPolicy.CamelCase.ConvertName(member.Name)}", depth - 1) is { } found
            )
                return found.TrimStart('.');
        return null;
    }

    private static PropertyInfo[] Of(Type type) =>
        [
            .. type.GetProperties(BindingFlags.Public | BindingFlags.Instance)
                .Where(p =>
                    p.CanRead
                    && p.GetIndexParameters().Length == 0
                    && p.PropertyType != typeof(string)
                    && (typeof(IEnumerable).IsAssignableFrom(p.PropertyType) || IsOurs(p.PropertyType))
                    // What is computed is not what came in.
                    && p.SetMethod is not null
                ),
        ];

    private static bool IsOurs(Type type) =>
        type is { IsEnum: false, IsPrimitive: false }
        && type.Namespace?.StartsWith("FreshBoot", StringComparison.Ordinal) == true
        && type.GetMethod("<Clone>$") is not null;

    private static bool IsPair(Type type) =>
        type.IsGenericType && type.GetGenericTypeDefinition() == typeof(KeyValuePair<,>);

    private static object? Member(object pair, string name) => pair.GetType().GetProperty(name)!.GetValue(pair);
}
