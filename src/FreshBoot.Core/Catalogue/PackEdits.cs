using System.Text.Json;
using System.Text.Json.Nodes;

namespace FreshBoot.Core.Catalogue;

/// <summary>An entry as it stands in a pack.</summary>
/// <param name="Kind">The list it stands in, such as <c>systems</c>.</param>
/// <param name="Id">Its id.</param>
/// <param name="File">The file of its pack.</param>
/// <param name="At">Its place in the file, as a JSON Pointer.</param>
/// <param name="Entry">The entry.</param>
public sealed record PackedEntry(string Kind, string Id, string File, string At, JsonObject Entry);

/// <summary>A change of the shop to one entry.</summary>
/// <param name="Kind">The list it stands in.</param>
/// <param name="Id">Its id.</param>
/// <param name="Entry">The entry as JSON; null takes it out.</param>
public sealed record EntryEdit(string Kind, string Id, string? Entry);

/// <summary>Puts the shop's own entries over the packs that ship. The packs themselves are never written.</summary>
public static class PackEdits
{
    /// <summary>The file name under which the shop's new entries stand.</summary>
    public const string ShopFile = "shop.json";

    /// <summary>The lists of a pack, in the order in which the catalogue shows them.</summary>
    public static IReadOnlyList<string> Kinds { get; } =
    [
        "systems",
        "programs",
        "cures",
        "procedures",
        "causes",
        "checks",
        "scenarios",
        "devices",
        "processors",
        "models",
        "makers",
        "donors",
        "boards",
        "payloads",
        "adapters",
        "components",
        "quirks",
        "profiles",
        "afterPatches",
        "smallBoards",
        "memory",
        "prices",
        "weights",
        "computers",
        "schools",
    ];

    /// <summary>The packs with <paramref name="edits"/> in force; a later edit of the same entry counts.</summary>
    /// <param name="packs">File name and text of each pack, valid JSON objects.</param>
    /// <param name="edits">What the shop changed.</param>
    public static IReadOnlyList<(string File, string Text)> Apply(
        IReadOnlyList<(string File, string Text)> packs,
        IReadOnlyList<EntryEdit> edits
    )
    {
        if (edits.Count == 0)
            return packs;
        var left = new Dictionary<(string, string), EntryEdit>();
        foreach (var edit in edits)
            left[(edit.Kind, edit.Id)] = edit;
        var result = new List<(string, string)>();
        foreach (var (file, text) in packs)
        {
            var pack = JsonNode.Parse(text)!.AsObject();
            var touched = false;
            foreach (var kind in Kinds)
            {
                var list = pack[kind] as JsonArray;
                for (var i = 0; i < list?.Count; i++)
                {
                    if (list[i]?["id"]?.GetValue<string>() is not { } id || !left.Remove((kind, id), out var edit))
                        continue;
                    touched = true;
                    if (edit.Entry is null)
                        list.RemoveAt(i--);
                    else
                        list[i] = JsonNode.Parse(edit.Entry);
                }
            }
            result.Add((file, touched ? pack.ToJsonString() : text));
        }
        var own = new JsonObject
        {
            ["pack"] = "shop",
            ["version"] = "1.0.0",
            ["about"] = "What the shop added.",
        };
        foreach (var kind in Kinds)
        {
            var added = left.Values.Where(e => e.Kind == kind && e.Entry is not null).ToArray();
            if (added.Length > 0)
                own[kind] = new JsonArray([.. added.Select(e => JsonNode.Parse(e.Entry!))]);
        }
        if (left.Values.Any(e => e.Entry is not null))
            result.Add((ShopFile, own.ToJsonString()));
        return result;
    }

    /// <summary>Every entry of the packs.</summary>
    public static IReadOnlyList<PackedEntry> Entries(IReadOnlyList<(string File, string Text)> packs)
    {
        var entries = new List<PackedEntry>();
        foreach (var (file, text) in packs)
        {
            var pack = JsonNode.Parse(text)!.AsObject();
            foreach (var kind in Kinds)
            {
                var list = pack[kind]?.AsArray() ?? [];
                for (var i = 0; i < list.Count; i++)
                    if (list[i] is JsonObject entry)
                        entries.Add(
                            new PackedEntry(kind, entry["id"]?.GetValue<string>() ?? "", file, $"/{kind}/{i}", entry)
                        );
            }
        }
        return entries;
    }

    /// <summary>All entries as one pack, to hand on.</summary>
    public static JsonObject Merge(string name, string about, IEnumerable<PackedEntry> entries)
    {
        var pack = new JsonObject
        {
            ["pack"] = name,
            ["version"] = "1.0.0",
            ["about"] = about,
        };
        foreach (var group in entries.GroupBy(e => e.Kind, StringComparer.Ordinal))
            pack[group.Key] = new JsonArray([.. group.Select(e => e.Entry.DeepClone())]);
        return pack;
    }

    /// <summary>
    /// The edits that taking a pack comes to: each of its entries that is new or differs. Faults name the pack's own places.
    /// </summary>
    /// <exception cref="PackFaultsException">It is no JSON object, or an entry in it has no id.</exception>
    public static IReadOnlyList<EntryEdit> Differences(string file, string text, IReadOnlyList<PackedEntry> inForce)
    {
        JsonObject pack;
        try
        {
            pack =
                JsonNode.Parse(text) as JsonObject
                ?? throw new PackFaultsException([new PackFault(file, "", "a pack is a JSON object")]);
        }
        catch (JsonException e)
        {
            throw new PackFaultsException([
                new PackFault(file, "", $"no JSON: line {e.LineNumber + 1}, place {e.BytePositionInLine + 1}"),
            ]);
        }
        var known = inForce.ToDictionary(e => (e.Kind, e.Id), e => e.Entry);
        var edits = new List<EntryEdit>();
        foreach (var kind in Kinds)
        {
            if (pack[kind] is not JsonArray list)
                continue;
            for (var i = 0; i < list.Count; i++)
            {
                if (list[i] is not JsonObject entry || entry["id"]?.GetValueKind() != JsonValueKind.String)
                    throw new PackFaultsException([
                        new PackFault(file, $"/{kind}/{i}", "an entry is an object with an id"),
                    ]);
                var id = entry["id"]!.GetValue<string>();
                if (!known.TryGetValue((kind, id), out var now) || !JsonNode.DeepEquals(now, entry))
                    edits.Add(new EntryEdit(kind, id, entry.ToJsonString()));
            }
        }
        return edits;
    }
}
