using System.Collections.Concurrent;
using System.Text.Json;

namespace FreshBoot.Server.Tests;

/// <summary>
/// Holds every answer that the tests receive against the API's own description (web/openapi.json, OpenAPI 3.1): the operation is described,
/// its status is declared, and a JSON body fits its schema. An answer that does not fit fails the test that asked.
/// </summary>
internal sealed class Described : DelegatingHandler
{
    private static readonly JsonElement Document = JsonDocument
        .Parse(File.ReadAllText(Path.Combine(TestWorkshop.Home, "web", "openapi.json")))
        .RootElement;

    private static readonly (string[] Parts, JsonElement Path)[] Paths =
    [
        .. Document
            .GetProperty("paths")
            .EnumerateObject()
            // Of two that fit the one with fewer places is meant.
            .OrderBy(p => p.Name.Count(c => c == '{'))
            .Select(p => (p.Name.Split('/'), p.Value)),
    ];

    private static readonly ConcurrentDictionary<string, int> SeenOf = new(StringComparer.Ordinal);

    /// <summary>How many answers of each operation were held against it.</summary>
    public static IReadOnlyDictionary<string, int> Seen => SeenOf;

    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken stop)
    {
        var answer = await base.SendAsync(request, stop);
        if (
            request.RequestUri!.AbsolutePath.StartsWith("/api/", StringComparison.Ordinal)
            && answer.Content.Headers.ContentType?.MediaType != "text/event-stream"
        )
        {
            await answer.Content.LoadIntoBufferAsync(stop);
            var fault = await FaultAsync(request, answer, stop);
            fault.ShouldBeNull($"{request.Method} {request.RequestUri.PathAndQuery} → {(int)answer.StatusCode}");
        }
        return answer;
    }

    private static async Task<string?> FaultAsync(
        HttpRequestMessage request,
        HttpResponseMessage answer,
        CancellationToken stop
    )
    {
        var parts = request.RequestUri!.AbsolutePath.Split('/');
        var path = Paths.FirstOrDefault(p =>
            p.Parts.Length == parts.Length
            && p.Parts.Zip(parts).All(x => x.First.StartsWith('{') || x.First == x.Second)
        );
        var method = request.Method.Method.ToLowerInvariant();
        if (path.Parts is null || !path.Path.TryGetProperty(method, out var operation))
            // Nothing of ours: what is asked there is not found, or not allowed.
            return (int)answer.StatusCode is 404 or 405 or 415 ? null : "no such operation is described";
        SeenOf.AddOrUpdate($"{method} {string.Join('/', path.Parts)}", 1, (_, n) => n + 1);
        var responses = operation.GetProperty("responses");
        if (
            !responses.TryGetProperty($"{(int)answer.StatusCode}", out var response)
            && !responses.TryGetProperty("default", out response)
        )
            return $"the status {(int)answer.StatusCode} is not declared";
        // What is refused is told in the form that stands under "default", whichever status names it.
        if (!answer.IsSuccessStatusCode && responses.TryGetProperty("default", out var any))
            response = any;
        var media = answer.Content.Headers.ContentType?.MediaType;
        var text = await answer.Content.ReadAsStringAsync(stop);
        if (text.Length == 0 || method == "head")
            return null;
        if (!response.TryGetProperty("content", out var contents))
            return $"no content is declared, and {media} came";
        if (media is null || !contents.TryGetProperty(media, out var content))
            return $"{media} is not declared; {string.Join(", ", contents.EnumerateObject().Select(c => c.Name))} is";
        if (!media.EndsWith("json", StringComparison.Ordinal) || !content.TryGetProperty("schema", out var schema))
            return null;
        using var body = JsonDocument.Parse(text);
        return Fault(schema, body.RootElement, "");
    }

    /// <summary>What does not fit, with its JSON Pointer; null where all does. The keywords are those that the description uses.</summary>
    private static string? Fault(JsonElement schema, JsonElement value, string at)
    {
        if (schema.TryGetProperty("$ref", out var reference))
        {
            var name = reference.GetString()!.Split('/')[^1];
            return Fault(Document.GetProperty("components").GetProperty("schemas").GetProperty(name), value, at);
        }
        foreach (var choice in new[] { "oneOf", "anyOf" })
            if (schema.TryGetProperty(choice, out var options))
            {
                var faults = options.EnumerateArray().Select(o => Fault(o, value, at)).ToArray();
                if (faults.All(f => f is not null))
                    return $"{at}: fits none of {choice}: {faults[^1]}";
            }
        if (schema.TryGetProperty("allOf", out var all))
            foreach (var part in all.EnumerateArray())
                if (Fault(part, value, at) is { } fault)
                    return fault;
        if (schema.TryGetProperty("type", out var type) && !Types(type).Any(t => Is(t, value)))
            return $"{at}: is {value.ValueKind}, not {type}";
        if (
            schema.TryGetProperty("enum", out var values)
            && !values.EnumerateArray().Any(v => v.GetRawText() == value.GetRawText())
        )
            return $"{at}: {value.GetRawText()} is none of {values}";
        if (value.ValueKind == JsonValueKind.Array && schema.TryGetProperty("items", out var items))
        {
            var i = 0;
            foreach (var item in value.EnumerateArray())
                if (Fault(items, item, $"{at}/{i++}") is { } fault)
                    return fault;
        }
        return value.ValueKind == JsonValueKind.Object ? OfObject(schema, value, at) : null;
    }

    private static string? OfObject(JsonElement schema, JsonElement value, string at)
    {
        if (schema.TryGetProperty("required", out var required))
            foreach (var name in required.EnumerateArray())
                if (!value.TryGetProperty(name.GetString()!, out _))
                    return $"{at}: lacks {name}";
        var known = schema.TryGetProperty("properties", out var properties);
        foreach (var member in value.EnumerateObject())
        {
            if (known && properties.TryGetProperty(member.Name, out var of))
            {
                if (Fault(of, member.Value, $"{at}/{member.Name}") is { } fault)
                    return fault;
            }
            else if (schema.TryGetProperty("additionalProperties", out var more))
            {
                if (more.ValueKind == JsonValueKind.False)
                    return $"{at}: has {member.Name}, which is not described";
                if (
                    more.ValueKind == JsonValueKind.Object
                    && Fault(more, member.Value, $"{at}/{member.Name}") is { } odd
                )
                    return odd;
            }
            else if (known)
                return $"{at}: has {member.Name}, which is not described";
        }
        return null;
    }

    private static IEnumerable<string> Types(JsonElement type) =>
        type.ValueKind == JsonValueKind.Array ? type.EnumerateArray().Select(t => t.GetString()!) : [type.GetString()!];

    private static bool Is(string type, JsonElement value) =>
        type switch
        {
            "null" => value.ValueKind == JsonValueKind.Null,
            "string" => value.ValueKind == JsonValueKind.String,
            "boolean" => value.ValueKind is JsonValueKind.True or JsonValueKind.False,
            "array" => value.ValueKind == JsonValueKind.Array,
            "object" => value.ValueKind == JsonValueKind.Object,
            "integer" => value.ValueKind == JsonValueKind.Number && value.TryGetInt64(out _),
            _ => value.ValueKind == JsonValueKind.Number,
        };
}
