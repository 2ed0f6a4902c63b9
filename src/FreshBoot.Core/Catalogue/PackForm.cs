using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Nodes;
using Json.Schema;

namespace FreshBoot.Core.Catalogue;

/// <summary>What holds for a pack whatever entries it has: that it follows the schema, and that texts and numbers are sound.</summary>
internal static class PackForm
{
    private const int MostRemembered = 64;

    /// <summary>Largest whole number that every reader of JSON keeps exactly (RFC 8259, section 6).</summary>
    private const long MostWhole = (1L << 53) - 1;

    /// <summary>Members that count in 32 bits: money, minutes, mebibytes and the like.</summary>
    private static readonly HashSet<string> Counted = new(StringComparer.Ordinal)
    {
        "money",
        "handsOnMinutes",
        "waitMinutes",
        "shortestMinutes",
        "usualMinutes",
        "worryMinutes",
        "failPerMille",
        "harmPerMille",
        "sizeMiB",
        "memoryMiB",
        "memoryGroup",
        "generation",
        "graphicsClass",
        "updatesSurePercent",
    };
    private static readonly ConcurrentDictionary<string, JsonSchema> Compiled = new(StringComparer.Ordinal);
    private static readonly ConcurrentDictionary<(string Schema, string Text), bool> WellFormed = new();

    /// <summary>Adds the faults of a pack's form, and says whether there were none.</summary>
    public static bool Holds(string schema, string file, string text, JsonNode? node, List<PackFault> faults)
    {
        // Checking a form takes most of the time, and most packs are the same as last time.
        var key = (schema, text);
        if (WellFormed.ContainsKey(key))
            return true;
        var before = faults.Count;
        CheckTexts(file, "", node, faults);
        if (faults.Count == before)
            CheckSchema(schema, file, node, faults);
        if (faults.Count > before)
            return false;
        if (WellFormed.Count < MostRemembered)
            WellFormed.TryAdd(key, true);
        return true;
    }

    private static void CheckSchema(string text, string file, JsonNode? node, List<PackFault> faults)
    {
        var schema = Compiled.GetOrAdd(text, t => JsonSchema.FromText(t));
        if (schema.Evaluate(node, new EvaluationOptions { OutputFormat = OutputFormat.Flag }).IsValid)
            return;
        var rules = JsonNode.Parse(text);
        var said = new HashSet<PackFault>();
        Tell(schema.Evaluate(node, new EvaluationOptions { OutputFormat = OutputFormat.Hierarchical }));
        if (said.Count == 0)
            faults.Add(new PackFault(file, "", "does not follow the pack schema"));

        // Only below what failed: of the forms that a condition may have, all but one fail where it is right.
        void Tell(EvaluationResults result)
        {
            if (result.IsValid)
                return;
            foreach (var (keyword, error) in result.Errors ?? new Dictionary<string, string>())
            foreach (var fault in InWords(file, result, keyword, error, rules, node))
                if (said.Add(fault))
                    faults.Add(fault);
            foreach (var below in result.Details ?? [])
                Tell(below);
        }
    }

    /// <summary>What a rule of the schema says to somebody who fills in a form: what is wrong, and what would be right.</summary>
    private static IEnumerable<PackFault> InWords(
        string file,
        EvaluationResults result,
        string keyword,
        string error,
        JsonNode? rules,
        JsonNode? node
    )
    {
        var at = result.InstanceLocation.ToString();
        var rule = (At(rules, result.SchemaLocation.Fragment.TrimStart('#')) as JsonObject)?[keyword];
        if (keyword == "required" && At(node, at) is JsonObject there && rule is JsonArray names)
            return names
                .Select(n => n!.GetValue<string>())
                .Where(n => !there.ContainsKey(n))
                .Select(n => new PackFault(file, $"{at}/{n}", "is missing"));
        return
        [
            new PackFault(
                file,
                at,
                keyword switch
                {
                    "pattern" when At(rules, result.SchemaLocation.Fragment.TrimStart('#'))?["wanted"] is { } wanted =>
                        $"should be {wanted}",
                    "enum" when rule is JsonArray choices => $"should be one of: {string.Join(", ", choices)}",
                    "minLength" => "is empty",
                    "maxLength" => $"is longer than {rule} characters",
                    "minimum" => $"is less than {rule}",
                    "maximum" => $"is more than {rule}",
                    "minItems" or "minProperties" => $"needs at least {rule}",
                    "uniqueItems" => "names the same twice",
                    "type" => $"should be {Kind(rule)}",
                    "" or "additionalProperties" => "is nothing that stands here; look for a slip of the pen",
                    _ => error,
                }
            ),
        ];
    }

    private static string Kind(JsonNode? type) =>
        type?.ToString() switch
        {
            "string" => "a text",
            "integer" => "a whole number",
            "boolean" => "yes or no (true or false)",
            "array" => "a list",
            "object" => "an entry of several members, in braces",
            var other => $"of the type {other}",
        };

    /// <summary>What a JSON Pointer (RFC 6901) points at; null where nothing stands.</summary>
    private static JsonNode? At(JsonNode? node, string pointer) =>
        Json.Pointer.JsonPointer.TryParse(Uri.UnescapeDataString(pointer), out var known)
        && known.TryEvaluate(node, out var found)
            ? found
            : null;

    /// <summary>
    /// No text of a pack holds a control character, since some go into scripts as remarks; and every number is one that can be
    /// counted with.
    /// </summary>
    private static void CheckTexts(string file, string at, JsonNode? node, List<PackFault> faults)
    {
        switch (node)
        {
            case JsonObject members:
                foreach (var (name, value) in members)
                {
                    if (name.Any(char.IsControl))
                        faults.Add(new PackFault(file, at, "a name holds a control character"));
                    CheckTexts(
                        file,
                        $"{at}/{Json.Pointer.JsonPointer.Create(name).ToString().TrimStart('/')}",
                        value,
                        faults
                    );
                }
                break;
            case JsonArray items:
                for (var i = 0; i < items.Count; i++)
                    CheckTexts(file, $"{at}/{i}", items[i], faults);
                break;
            case JsonValue value when value.GetValueKind() == JsonValueKind.String:
                if (!TryText(value, out var text))
                    faults.Add(new PackFault(file, at, "holds half of a surrogate pair: it is no text"));
                else if (text.Any(char.IsControl))
                    faults.Add(new PackFault(file, at, "holds a control character; texts of packs stand on one line"));
                break;
            case JsonValue value when value.GetValueKind() == JsonValueKind.Number:
                if (!value.TryGetValue<long>(out var number) || Math.Abs(number) > MostWhole)
                    faults.Add(new PackFault(file, at, "is no whole number that can be counted with"));
                else if (number > int.MaxValue && Counted.Contains(at[(at.LastIndexOf('/') + 1)..]))
                    faults.Add(new PackFault(file, at, $"is more than {int.MaxValue}"));
                break;
        }
    }

    private static bool TryText(JsonValue value, out string text)
    {
        try
        {
            text = value.GetValue<string>();
            return true;
        }
        catch (InvalidOperationException)
        {
            text = "";
            return false;
        }
    }
}
