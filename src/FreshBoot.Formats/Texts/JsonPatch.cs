using System.Text.Json.Nodes;
using Json.Pointer;

namespace FreshBoot.Formats.Texts;

/// <summary>JSON Patch (RFC 6902): add, remove, replace, move, copy, test, all or none.</summary>
public static class JsonPatch
{
    /// <summary>Thrown where an operation cannot be applied.</summary>
    public sealed class FailedException(string what, string place) : Exception(what)
    {
        /// <summary>The place, as a JSON Pointer.</summary>
        public string Place { get; } = place;
    }

    /// <summary>What is wrong with the form of a patch; null where nothing is.</summary>
    public static string? Fault(JsonArray patch)
    {
        foreach (var item in patch)
        {
            if (item is not JsonObject operation || Text(operation, "op") is not { } op)
                return "An item of the patch is no operation of RFC 6902.";
            if (Text(operation, "path") is not { } path || !JsonPointer.TryParse(path, out _))
                return "An operation of the patch has no path, or one that is no JSON Pointer.";
            if (op is "add" or "replace" or "test" && !operation.ContainsKey("value"))
                return $"“{op}” needs a value.";
            if (
                op is "move" or "copy"
                && (Text(operation, "from") is not { } from || !JsonPointer.TryParse(from, out _))
            )
                return $"“{op}” needs a “from”.";
            if (op is not ("add" or "remove" or "replace" or "move" or "copy" or "test"))
                return $"RFC 6902 knows no “{op}”.";
        }
        return null;
    }

    /// <summary>The document with the patch applied; the one given stays as it is.</summary>
    /// <exception cref="FailedException">An operation cannot be applied; nothing was.</exception>
    public static JsonNode? Apply(JsonNode? document, JsonArray patch)
    {
        // A wrapper, so that the root too can be replaced.
        var root = new JsonObject { ["root"] = document?.DeepClone() };
        foreach (var item in patch)
        {
            var operation = item!.AsObject();
            var path = Text(operation, "path")!;
            switch (Text(operation, "op"))
            {
                case "add":
                    Add(root, path, operation["value"]?.DeepClone());
                    break;
                case "remove":
                    Remove(root, path);
                    break;
                case "replace":
                    Find(root, path);
                    Set(root, path, operation["value"]?.DeepClone());
                    break;
                case "move":
                {
                    var from = Text(operation, "from")!;
                    if (path.StartsWith(from + "/", StringComparison.Ordinal))
                        throw new FailedException("A value cannot be moved into itself.", path);
                    var moved = Find(root, from)?.DeepClone();
                    Remove(root, from);
                    Add(root, path, moved);
                    break;
                }
                case "copy":
                    Add(root, path, Find(root, Text(operation, "from")!)?.DeepClone());
                    break;
                case "test":
                    if (!JsonNode.DeepEquals(Find(root, path), operation["value"]))
                        throw new FailedException(
                            $"The value is {Find(root, path)?.ToJsonString() ?? "null"}; the recipe wants {operation["value"]?.ToJsonString() ?? "null"}.",
                            path
                        );
                    break;
            }
        }
        var result = root["root"];
        root.Remove("root");
        return result;
    }

    /// <summary>Whether a document already is what the patch would make of it.</summary>
    public static bool IsDone(JsonNode? document, JsonArray patch)
    {
        var root = new JsonObject { ["root"] = document?.DeepClone() };
        var any = false;
        foreach (var item in patch)
        {
            var operation = item!.AsObject();
            var path = Text(operation, "path")!;
            var done = Text(operation, "op") switch
            {
                "add" or "replace" => Is(path, operation["value"]),
                "remove" => !Has(path),
                "move" => !Has(Text(operation, "from")!) && Has(path),
                "copy" => Has(path)
                    && Has(Text(operation, "from")!)
                    && JsonNode.DeepEquals(Find(root, path), Find(root, Text(operation, "from")!)),
                _ => (bool?)null,
            };
            if (done == false)
                return false;
            any |= done == true;
        }
        return any;

        bool Has(string path)
        {
            try
            {
                Find(root, path);
                return true;
            }
            catch (FailedException)
            {
                return false;
            }
        }

        // An item is added to an array's end or somewhere in it: then it is there.
        bool Is(string path, JsonNode? value)
        {
            var (parent, last) = Split(path);
            if (parent is not null && Has(parent) && Find(root, parent) is JsonArray array)
                return last == "-"
                    ? array.Any(v => JsonNode.DeepEquals(v, value))
                    : Has(path) && JsonNode.DeepEquals(Find(root, path), value);
            return Has(path) && JsonNode.DeepEquals(Find(root, path), value);
        }
    }

    private static string? Text(JsonObject operation, string name) =>
        operation[name] is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

    private static (string? Parent, string Last) Split(string path)
    {
        var at = path.LastIndexOf('/');
        return at < 0
            ? (null, "")
            : (
                path[..at],
                path[(at + 1)..]
                    .Replace("~1", "/", StringComparison.Ordinal)
                    .Replace("~0", "~", StringComparison.Ordinal)
            );
    }

    private static JsonNode? Find(JsonObject root, string path) =>
        JsonPointer.Parse("/root" + path).TryEvaluate(root, out var found)
            ? found
            : throw new FailedException("There is nothing at this place.", path);

    private static (JsonNode Parent, string Last) ParentOf(JsonObject root, string path)
    {
        var (parent, last) = Split(path);
        if (parent is null)
            return (root, "root");
        return (Find(root, parent) ?? throw new FailedException("There is nothing at this place.", parent), last);
    }

    private static void Add(JsonObject root, string path, JsonNode? value)
    {
        var (parent, last) = ParentOf(root, path);
        if (parent is JsonArray array)
            array.Insert(last == "-" ? array.Count : Index(array, last, path, array.Count), value);
        else if (parent is JsonObject o)
            o[last] = value;
        else
            throw new FailedException("A value that is no object and no array holds nothing.", path);
    }

    private static void Set(JsonObject root, string path, JsonNode? value)
    {
        var (parent, last) = ParentOf(root, path);
        if (parent is JsonArray array)
            array[Index(array, last, path, array.Count - 1)] = value;
        else
            parent.AsObject()[last] = value;
    }

    private static void Remove(JsonObject root, string path)
    {
        Find(root, path);
        var (parent, last) = ParentOf(root, path);
        if (parent is JsonArray array)
            array.RemoveAt(Index(array, last, path, array.Count - 1));
        else
            parent.AsObject().Remove(last);
    }

    private static int Index(JsonArray array, string text, string path, int most) =>
        int.TryParse(
            text,
            System.Globalization.NumberStyles.None,
            System.Globalization.CultureInfo.InvariantCulture,
            out var i
        )
        && i <= most
        && (text.Length == 1 || text[0] != '0')
            ? i
            : throw new FailedException($"“{text}” is no place in an array of {array.Count}.", path);
}
