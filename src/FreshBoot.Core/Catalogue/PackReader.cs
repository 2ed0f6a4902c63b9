using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Ladder;
using Json.Schema;

namespace FreshBoot.Core.Catalogue;

/// <summary>A fault in a pack: the file, the place in it as a JSON Pointer (RFC 6901), and what is wrong.</summary>
public sealed record PackFault(string File, string At, string What);

/// <summary>Thrown when packs have faults; none of them is taken.</summary>
public sealed class PackFaultsException(IReadOnlyList<PackFault> faults)
    : Exception(string.Join('\n', faults.Select(f => $"{f.File} {f.At}: {f.What}")))
{
    /// <summary>Every fault found.</summary>
    public IReadOnlyList<PackFault> Faults { get; } = faults;
}

/// <summary>
/// Reads catalogue packs: first against the JSON Schema of packs, then for what a schema cannot say: ids used twice, fact
/// keys that do not exist, values that do not fit their key, gates that no system has, patterns that do not compile.
/// </summary>
public static class PackReader
{
    /// <summary>Reads all packs together.</summary>
    /// <param name="schema">The text of <c>pack.schema.json</c>.</param>
    /// <param name="packs">File name and text of each pack, in the order in which they count.</param>
    /// <exception cref="PackFaultsException">One or more faults.</exception>
    public static ShopCatalogue Read(string schema, IReadOnlyList<(string File, string Text)> packs)
    {
        var faults = new List<PackFault>();
        var compiled = JsonSchema.FromText(schema);
        var reading = new Reading(faults);
        foreach (var (file, text) in packs)
        {
            JsonNode? node;
            try
            {
                node = JsonNode.Parse(text);
            }
            catch (JsonException e)
            {
                faults.Add(
                    new PackFault(file, "", $"no JSON: line {e.LineNumber + 1}, place {e.BytePositionInLine + 1}")
                );
                continue;
            }
            var before = faults.Count;
            CheckSchema(compiled, file, node, faults);
            if (faults.Count == before)
                reading.Take(file, node!.AsObject());
        }
        reading.CheckAcross();
        if (faults.Count > 0)
            throw new PackFaultsException(faults);
        return reading.Finish(Hash(packs));
    }

    private static void CheckSchema(JsonSchema schema, string file, JsonNode? node, List<PackFault> faults)
    {
        var result = schema.Evaluate(node, new EvaluationOptions { OutputFormat = OutputFormat.List });
        if (result.IsValid)
            return;
        var said = new HashSet<string>(StringComparer.Ordinal);
        foreach (var detail in result.Details.Where(d => d is { IsValid: false, Errors: not null }))
        foreach (var error in detail.Errors!.Values)
            if (said.Add($"{detail.InstanceLocation} {error}"))
                faults.Add(new PackFault(file, detail.InstanceLocation.ToString(), error));
        if (said.Count == 0)
            faults.Add(new PackFault(file, "", "does not follow the pack schema"));
    }

    private static string Hash(IEnumerable<(string File, string Text)> packs)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        foreach (var (file, text) in packs)
            hash.AppendData(Encoding.UTF8.GetBytes($"{file}\n{text}\n"));
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    /// <summary>One pass over the packs. The schema has vouched for forms, so casts here do not fail.</summary>
    private sealed class Reading(List<PackFault> faults)
    {
        private readonly List<SystemEntry> _systems = [];
        private readonly List<ProcessorEntry> _processors = [];
        private readonly List<DeviceEntry> _devices = [];
        private readonly List<Cure> _cures = [];
        private readonly List<MemoryModule> _memory = [];
        private readonly List<DonorModel> _donors = [];
        private readonly List<BoardEntry> _boards = [];
        private readonly List<ModelEntry> _models = [];
        private readonly HashSet<string> _ids = new(StringComparer.Ordinal);
        private readonly List<(string File, string Pointer, string Gate)> _lifted = [];
        private readonly List<(string File, string Pointer, string System)> _named = [];
        private string _file = "";

        public void Take(string file, JsonObject pack)
        {
            _file = file;
            Each(pack, "systems", (node, at) => _systems.Add(System(node, at)));
            Each(pack, "processors", (node, at) => _processors.Add(Processor(node, at)));
            Each(pack, "devices", (node, at) => _devices.Add(Device(node, at)));
            Each(pack, "cures", (node, at) => _cures.Add(Cure(node, at)));
            Each(pack, "donors", (node, at) => _donors.Add(Donor(node, at)));
            Each(pack, "boards", (node, at) => AddBoard(node, at));
            Each(
                pack,
                "models",
                (node, at) => _models.Add(new ModelEntry(Id(node, at), Pattern(node, at), Number(node, "memoryGroup")))
            );
            Each(
                pack,
                "memory",
                (node, at) =>
                    _memory.Add(
                        new MemoryModule(
                            Id(node, at),
                            Text(node, "type"),
                            Number(node, "sizeMiB"),
                            Number(node, "money")
                        )
                    )
            );
        }

        public void CheckAcross()
        {
            var gates = _systems
                .SelectMany(s => s.Requirements.Select(r => $"{s.Id}/{r.Id}"))
                .ToHashSet(StringComparer.Ordinal);
            foreach (var (file, pointer, gate) in _lifted.Where(l => !gates.Contains(l.Gate)))
                faults.Add(new PackFault(file, pointer, $"no system has the requirement “{gate}”"));
            foreach (var (file, pointer, system) in _named.Where(n => _systems.TrueForAll(s => s.Id != n.System)))
                faults.Add(new PackFault(file, pointer, $"there is no system “{system}”"));
            foreach (var (file, pointer, gate) in _lifted)
                if (
                    _systems
                        .SelectMany(s => s.Requirements, (s, r) => (Gate: $"{s.Id}/{r.Id}", r.Kind))
                        .Any(r => r.Gate == gate && r.Kind != RequirementKind.Gate)
                )
                    faults.Add(new PackFault(file, pointer, $"“{gate}” is no gate, and only gates can be lifted"));
        }

        public ShopCatalogue Finish(string hash) =>
            new(_systems, _processors, _devices, _cures, _memory, _donors, _boards, _models, hash);

        private SystemEntry System(JsonObject node, string at)
        {
            var requirements = new List<Requirement>();
            var ids = new HashSet<string>(StringComparer.Ordinal);
            Each(
                node,
                "requirements",
                (requirement, where) =>
                {
                    var read = Requirement(requirement, where);
                    if (!ids.Add(read.Id) || BuiltIn.Requirements.Any(b => b.Id == read.Id) || read.Id == "support")
                        faults.Add(
                            new PackFault(
                                _file,
                                $"{where}/id",
                                $"the requirement id “{read.Id}” is used twice, or taken by a built-in one"
                            )
                        );
                    requirements.Add(read);
                },
                at
            );
            return new SystemEntry(
                Id(node, at),
                Text(node, "name"),
                Maybe(node, "release"),
                Enum<SystemClass>(node, "class"),
                Text(node, "about"),
                Maybe(node, "supportEnds") is { } ends ? Date(ends, $"{at}/supportEnds") : null,
                EvidenceOf(node, at),
                Install(node["install"]!.AsObject(), $"{at}/install"),
                requirements
            );
        }

        private InstallTime Install(JsonObject node, string at)
        {
            var time = new InstallTime(
                Number(node, "handsOnMinutes"),
                Number(node, "shortestMinutes"),
                Number(node, "usualMinutes"),
                Number(node, "worryMinutes")
            );
            if (time.ShortestMinutes > time.UsualMinutes || time.UsualMinutes > time.WorryMinutes)
                faults.Add(
                    new PackFault(
                        _file,
                        at,
                        "the shortest wait is longer than the usual one, or that longer than the time to worry"
                    )
                );
            return time;
        }

        private DonorModel Donor(JsonObject node, string at)
        {
            var systems = node["systems"]!.AsArray().Select(s => s!.GetValue<string>()).ToArray();
            for (var i = 0; i < systems.Length; i++)
                _named.Add((_file, $"{at}/systems/{i}", systems[i]));
            return new DonorModel(
                Id(node, at),
                Text(node, "maker"),
                Text(node, "line"),
                Number(node, "generation"),
                Text(node, "boardId"),
                Text(node, "serialPrefix"),
                systems
            );
        }

        /// <summary>A board brings its cure with it: its firmware can be replaced, and so other systems can start.</summary>
        private void AddBoard(JsonObject node, string at)
        {
            var board = new BoardEntry(
                Id(node, at),
                Text(node, "name"),
                Enum<WriteProtection>(node, "protection"),
                Text(node, "payload")
            );
            _boards.Add(board);
            _cures.Add(ReplacementFirmware.CureFor(board));
        }

        private Requirement Requirement(JsonObject node, string at)
        {
            var requirement = new Requirement(
                Text(node, "id"),
                Enum<RequirementKind>(node, "kind"),
                Enum<Rung>(node, "rung"),
                ConditionOf(node["needs"]!.AsObject(), $"{at}/needs"),
                EvidenceOf(node, at),
                node["advisory"]?.GetValue<bool>() ?? false,
                Maybe(node, "needed"),
                Maybe(node, "ifLifted")
            );
            if (requirement.Kind == RequirementKind.Gate && requirement.Rung != Rung.Setup)
                faults.Add(new PackFault(_file, $"{at}/rung", "gates stand on the rung “setup”"));
            if (requirement.Advisory && requirement.Kind != RequirementKind.Gate)
                faults.Add(new PackFault(_file, $"{at}/advisory", "only a gate can be advisory"));
            return requirement;
        }

        private ProcessorEntry Processor(JsonObject node, string at) =>
            new(Pattern(node, at), Text(node, "maker"), Text(node, "generation"));

        private DeviceEntry Device(JsonObject node, string at)
        {
            var drivers = new Dictionary<string, DriverState>(StringComparer.Ordinal);
            foreach (var (system, state) in node["drivers"]?.AsObject() ?? [])
            {
                _named.Add((_file, $"{at}/drivers/{system}", system));
                drivers[system] = Parse<DriverState>(state!.GetValue<string>());
            }
            return new DeviceEntry(
                Id(node, at),
                Text(node, "name"),
                Text(node, "group"),
                Pattern(node, at),
                node["graphicsClass"]?.GetValue<int>(),
                drivers,
                Maybe(node, "otherwise") is { } otherwise ? Parse<DriverState>(otherwise) : null
            );
        }

        private Cure Cure(JsonObject node, string at)
        {
            var sets = node["sets"]
                ?.AsObject()
                .Select(p => (p.Key, Value: Value(p.Key, p.Value!, $"{at}/sets/{p.Key}")))
                .ToArray();
            var lifts = node["lifts"]?.AsArray().Select(l => l!.GetValue<string>()).ToArray();
            for (var i = 0; i < lifts?.Length; i++)
                _lifted.Add((_file, $"{at}/lifts/{i}", lifts[i]));
            return new Cure(
                Id(node, at),
                Enum<Outcome>(node, "kind"),
                Enum<Rung>(node, "rung"),
                Text(node, "does"),
                node["needs"] is JsonObject needs ? ConditionOf(needs, $"{at}/needs") : null,
                sets?.ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal),
                lifts,
                null,
                Maybe(node, "replaces"),
                node["adds"]
                    ?.AsArray()
                    .Select(a => new SideEffect(
                        Enum<Rung>(a!.AsObject(), "rung"),
                        Enum<Outcome>(a.AsObject(), "outcome"),
                        Text(a.AsObject(), "text")
                    ))
                    .ToArray(),
                node["money"]?.GetValue<int>() ?? 0,
                Number(node, "handsOnMinutes"),
                node["waitMinutes"]?.GetValue<int>() ?? 0,
                Maybe(node, "how"),
                Maybe(node, "caution"),
                Maybe(node, "brief")
            );
        }

        private Condition ConditionOf(JsonObject node, string at)
        {
            if (node["all"] is JsonArray all)
                return new Condition.All(Several(all, $"{at}/all"));
            if (node["any"] is JsonArray any)
                return new Condition.Any(Several(any, $"{at}/any"));
            if (node["unless"] is JsonObject unless)
                return new Condition.Any([
                    ConditionOf(node["that"]!.AsObject(), $"{at}/that"),
                    ConditionOf(unless, $"{at}/unless"),
                ]);
            if (node["driven"] is { } group)
                return new Condition.Driven(group.GetValue<string>());

            var fact = Text(node, "fact");
            if (FactRegistry.Find(fact) is not { } definition)
            {
                faults.Add(new PackFault(_file, $"{at}/fact", $"there is no fact key “{fact}”"));
                return new Condition.All([]);
            }
            if (node["atLeast"] is { } least)
            {
                if (!definition.Ordered)
                    faults.Add(
                        new PackFault(
                            _file,
                            $"{at}/atLeast",
                            $"“at least” makes no sense of {fact}: its values have no order"
                        )
                    );
                return new Condition.AtLeast(fact, Value(fact, least, $"{at}/atLeast"));
            }
            if (node["has"] is JsonArray has)
            {
                if (definition.Form != FactForm.Words)
                    faults.Add(new PackFault(_file, $"{at}/has", $"{fact} is no set of words"));
                return new Condition.Has(fact, [.. has.Select(w => w!.GetValue<string>())]);
            }
            return new Condition.OneOf(
                fact,
                Values(fact, node["oneOf"]!.AsArray(), $"{at}/oneOf"),
                Values(fact, node["open"]?.AsArray() ?? [], $"{at}/open")
            );
        }

        private List<Condition> Several(JsonArray nodes, string at) =>
            [.. nodes.Select((n, i) => ConditionOf(n!.AsObject(), $"{at}/{i}"))];

        private List<FactValue> Values(string fact, JsonArray nodes, string at) =>
            [.. nodes.Select((n, i) => Value(fact, n!, $"{at}/{i}"))];

        /// <summary>A value as it stands in the pack, which may name values of computed facts too.</summary>
        private FactValue Value(string fact, JsonNode node, string at)
        {
            var definition = FactRegistry.Find(fact);
            if (definition is null)
            {
                faults.Add(new PackFault(_file, at, $"there is no fact key “{fact}”"));
            }
            else if (
                definition.Choices.Count > 0
                && definition.Choices.All(c =>
                    c.Value != (node.GetValueKind() == JsonValueKind.String ? node.GetValue<string>() : "")
                )
            )
            {
                faults.Add(
                    new PackFault(
                        _file,
                        at,
                        $"no value of {fact}; one of: {string.Join(", ", definition.Choices.Select(c => c.Value))}"
                    )
                );
            }
            else if (definition.Form == FactForm.Whole && node.GetValueKind() != JsonValueKind.Number)
            {
                faults.Add(
                    new PackFault(
                        _file,
                        at,
                        $"{fact} is a whole number{(definition.Unit is { } unit ? $" of {unit}" : "")}"
                    )
                );
            }
            return node.GetValueKind() == JsonValueKind.Number
                ? FactValue.Of(node.GetValue<long>())
                : FactValue.Of(node.ToString());
        }

        private string Id(JsonObject node, string at)
        {
            var id = Text(node, "id");
            if (!_ids.Add(id))
                faults.Add(new PackFault(_file, $"{at}/id", $"the id “{id}” is used twice"));
            return id;
        }

        private Regex Pattern(JsonObject node, string at)
        {
            try
            {
                // Patterns come from packs, and names from machines: without backtracking neither can make it slow.
                return new Regex(
                    Text(node, "pattern"),
                    RegexOptions.NonBacktracking | RegexOptions.CultureInvariant,
                    TimeSpan.FromSeconds(1)
                );
            }
            catch (Exception e) when (e is ArgumentException or NotSupportedException)
            {
                faults.Add(new PackFault(_file, $"{at}/pattern", $"no usable pattern: {e.Message}"));
                return new Regex("$.^", RegexOptions.NonBacktracking, TimeSpan.FromSeconds(1));
            }
        }

        private Evidence EvidenceOf(JsonObject node, string at)
        {
            var evidence = node["evidence"]!.AsObject();
            return new Evidence(
                Text(evidence, "source"),
                Date(Text(evidence, "date"), $"{at}/evidence/date"),
                Enum<Sureness>(evidence, "sure")
            );
        }

        private DateOnly Date(string text, string at)
        {
            if (DateOnly.TryParseExact(text, "yyyy-MM-dd", out var date))
                return date;
            faults.Add(new PackFault(_file, at, $"“{text}” is no day; write it as 2026-12-31"));
            return default;
        }

        private static void Each(JsonObject node, string list, Action<JsonObject, string> take, string at = "")
        {
            var items = node[list]?.AsArray() ?? [];
            for (var i = 0; i < items.Count; i++)
                take(items[i]!.AsObject(), $"{at}/{list}/{i}");
        }

        private static string Text(JsonObject node, string name) => node[name]!.GetValue<string>();

        private static string? Maybe(JsonObject node, string name) => node[name]?.GetValue<string>();

        private static int Number(JsonObject node, string name) => node[name]!.GetValue<int>();

        private static T Enum<T>(JsonObject node, string name)
            where T : struct, Enum => Parse<T>(Text(node, name));

        private static T Parse<T>(string text)
            where T : struct, Enum => global::System.Enum.Parse<T>(text, ignoreCase: true);
    }
}
