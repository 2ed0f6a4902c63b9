using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Catalogue;

/// <summary>What one reading of packs keeps in mind.</summary>
/// <param name="Fresh">What is edited or imported just now.</param>
internal sealed record PackPass(Freshness? Fresh)
{
    /// <summary>Every fault found so far.</summary>
    public List<PackFault> Faults { get; } = [];

    /// <summary>What entries say of one another.</summary>
    public PackLinks Links { get; } = new();

    /// <summary>Ids of entries that were read.</summary>
    public HashSet<string> Ids { get; } = new(StringComparer.Ordinal);
}

/// <summary>
/// An object of a pack with the place where it stands, so that a fault in it names file and place. The schema has vouched for
/// forms, so that what reads a member here does not fail.
/// </summary>
/// <param name="Pass">The reading that it belongs to.</param>
/// <param name="File">The pack's file name.</param>
/// <param name="At">JSON Pointer (RFC 6901) of the object.</param>
/// <param name="Json">The object.</param>
internal sealed record PackNode(PackPass Pass, string File, string At, JsonObject Json)
{
    private const int MostPatterns = 2048;
    private static readonly ConcurrentDictionary<string, Regex> Patterns = new(StringComparer.Ordinal);

    /// <summary>Whether conditions here may speak of the route as well as of the machine.</summary>
    public bool OfRoute { get; init; }

    /// <summary>A fact key that conditions here may name, or null.</summary>
    public FactDefinition? Key(string key) => FactRegistry.Find(key) ?? (OfRoute ? RouteKeys.Find(key) : null);

    /// <summary>Notes a fault below this place; an empty name means the object itself.</summary>
    public void Fault(string below, string what) =>
        Pass.Faults.Add(new PackFault(File, below.Length == 0 ? At : $"{At}/{below}", what));

    /// <summary>Whether a member is there.</summary>
    public bool Has(string name) => Json[name] is not null;

    /// <summary>An object below this one, or null.</summary>
    public PackNode? Maybe(string name) =>
        Json[name] is JsonObject below ? this with { At = $"{At}/{name}", Json = below } : null;

    /// <summary>An object below this one that the schema demands.</summary>
    public PackNode Below(string name) => Maybe(name)!;

    /// <summary>The objects of a list below this one; none where it is missing.</summary>
    public IEnumerable<PackNode> Each(string name) =>
        (Json[name]?.AsArray() ?? []).Select(
            (item, i) => this with { At = $"{At}/{name}/{i}", Json = item!.AsObject() }
        );

    /// <summary>The members of an object below this one, by name.</summary>
    public IEnumerable<(string Name, JsonNode Value)> Members(string name) =>
        (Json[name]?.AsObject() ?? []).Select(p => (p.Key, p.Value!));

    /// <summary>A text that the schema demands.</summary>
    public string Text(string name) => Json[name]!.GetValue<string>();

    /// <summary>A text, or null.</summary>
    public string? TextOrNull(string name) => Json[name]?.GetValue<string>();

    /// <summary>Texts of a list; none where it is missing.</summary>
    public string[] Texts(string name) => [.. (Json[name]?.AsArray() ?? []).Select(t => t!.GetValue<string>())];

    /// <summary>Whole numbers of a list; none where it is missing.</summary>
    public int[] Numbers(string name) => [.. (Json[name]?.AsArray() ?? []).Select(t => t!.GetValue<int>())];

    /// <summary>A whole number that the schema demands.</summary>
    public int Number(string name) => Json[name]!.GetValue<int>();

    /// <summary>A whole number, or null.</summary>
    public int? NumberOrNull(string name) => Json[name]?.GetValue<int>();

    /// <summary>Bytes or the like; 0 where nothing is said.</summary>
    public long Long(string name) => Json[name]?.GetValue<long>() ?? 0;

    /// <summary>Yes or no; no where nothing is said.</summary>
    public bool Flag(string name) => Json[name]?.GetValue<bool>() ?? false;

    /// <summary>One of a closed set of words.</summary>
    public T Enum<T>(string name)
        where T : struct, Enum => Parse<T>(Text(name));

    /// <summary>One of a closed set of words, or what is taken where nothing is said.</summary>
    public T EnumOr<T>(string name, T otherwise)
        where T : struct, Enum => Has(name) ? Enum<T>(name) : otherwise;

    /// <summary>A word of a closed set, however it is written.</summary>
    public static T Parse<T>(string text)
        where T : struct, Enum => System.Enum.Parse<T>(text, ignoreCase: true);

    /// <summary>The id of an entry, which no other entry has.</summary>
    public string Id()
    {
        var id = Text("id");
        if (!Pass.Ids.Add(id))
            Fault("id", $"the id “{id}” is used twice");
        return id;
    }

    /// <summary>A day that the schema demands.</summary>
    public DateOnly Day(string name) => DayOf(Text(name), name);

    /// <summary>A day, or null.</summary>
    public DateOnly? DayOrNull(string name) => TextOrNull(name) is { } day ? DayOf(day, name) : null;

    /// <summary>A day that is written somewhere below this object.</summary>
    public DateOnly DayOf(string text, string below)
    {
        if (DateOnly.TryParseExact(text, "yyyy-MM-dd", out var date))
            return date;
        Fault(below, $"“{text}” is no day; write it as 2026-12-31");
        return default;
    }

    /// <summary>Where it is known from, and how surely.</summary>
    public Evidence Evidence()
    {
        var evidence = Below("evidence");
        return new Evidence(evidence.Text("source"), evidence.Day("date"), evidence.Enum<Sureness>("sure"));
    }

    /// <summary>
    /// A pattern. They come from packs, and names from machines: without backtracking neither can make it slow. Making one costs
    /// milliseconds, and a catalogue that is read again has the same ones.
    /// </summary>
    public Regex Pattern(string name)
    {
        var text = Text(name);
        if (Patterns.TryGetValue(text, out var known))
            return known;
        try
        {
            var made = Compiled(text);
            if (Patterns.Count < MostPatterns)
                Patterns.TryAdd(text, made);
            return made;
        }
        catch (Exception e) when (e is ArgumentException or NotSupportedException)
        {
            Fault(name, $"no usable pattern: {e.Message}");
            return Compiled("$.^");
        }
    }

    private static Regex Compiled(string text) =>
        new(text, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);

    /// <summary>A system that is named; it is looked for when all packs are read.</summary>
    public string SystemId(string name)
    {
        var id = Text(name);
        Pass.Links.System(this, name, id);
        return id;
    }

    /// <summary>Systems that are named; they are looked for when all packs are read.</summary>
    public string[] SystemIds(string name) => Named(name, Pass.Links.System);

    /// <summary>Cures that are named; they are looked for when all packs are read.</summary>
    public string[] CureIds(string name) => Named(name, Pass.Links.Cure);

    /// <summary>Gates that are named; they are looked for when all packs are read.</summary>
    public string[] GateIds(string name) => Named(name, Pass.Links.Gate);

    private string[] Named(string name, Action<PackNode, string, string> link)
    {
        var ids = Texts(name);
        for (var i = 0; i < ids.Length; i++)
            link(this, $"{name}/{i}", ids[i]);
        return ids;
    }

    /// <summary>Facts and the values that they get, or null.</summary>
    public Dictionary<string, FactValue>? Settings(string name) =>
        Has(name)
            ? Members(name)
                .ToDictionary(m => m.Name, m => Value(m.Name, m.Value, $"{name}/{m.Name}"), StringComparer.Ordinal)
            : null;

    /// <summary>A value as it stands in the pack, which may name values of computed facts too.</summary>
    public FactValue Value(string fact, JsonNode value, string below)
    {
        var text = value.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : null;
        var number = value.GetValueKind() == JsonValueKind.Number;
        if (Key(fact) is not { } definition)
            Fault(below, $"there is no fact key “{fact}”");
        else if (definition.Choices.Count > 0 && definition.Choices.All(c => c.Value != text))
            Fault(below, $"no value of {fact}; one of: {string.Join(", ", definition.Choices.Select(c => c.Value))}");
        else if (definition.Form == FactForm.Whole && !number)
            Fault(below, $"{fact} is a whole number{(definition.Unit is { } unit ? $" of {unit}" : "")}");
        else if (definition.Form == FactForm.Words != (value is JsonArray))
            Fault(below, definition.Form == FactForm.Words ? $"{fact} is a list of words" : $"{fact} is no list");
        return value is JsonArray words ? FactValue.Of(words.Select(w => w!.GetValue<string>()))
            : number ? FactValue.Of(value.GetValue<long>())
            : FactValue.Of(value.ToString());
    }
}
