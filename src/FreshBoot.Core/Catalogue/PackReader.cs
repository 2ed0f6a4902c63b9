using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;
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

/// <summary>Entries that are edited or imported just now. Days of packs in force pass while they lie there; in these they are slips.</summary>
/// <param name="AsOf">The day.</param>
/// <param name="Ids">The ids of the entries.</param>
public sealed record Freshness(DateOnly AsOf, IReadOnlySet<string> Ids);

/// <summary>
/// Reads catalogue packs: first against the JSON Schema of packs, then for what a schema cannot say: ids used twice, fact
/// keys that do not exist, values that do not fit their key, gates that no system has, patterns that do not compile.
/// </summary>
public static class PackReader
{
    private const int MostRemembered = 64;
    private const int MostPatterns = 2048;

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
    private static readonly ConcurrentDictionary<string, Regex> Patterns = new(StringComparer.Ordinal);
    private static readonly ConcurrentDictionary<(string Schema, string Text), bool> WellFormed = new();

    /// <summary>Reads all packs together.</summary>
    /// <param name="schema">The text of <c>pack.schema.json</c>.</param>
    /// <param name="packs">File name and text of each pack, in the order in which they count.</param>
    /// <param name="fresh">What is edited or imported just now: support of it that has ended must say so.</param>
    /// <exception cref="PackFaultsException">One or more faults.</exception>
    public static ShopCatalogue Read(
        string schema,
        IReadOnlyList<(string File, string Text)> packs,
        Freshness? fresh = null
    )
    {
        var faults = new List<PackFault>();
        var compiled = Compiled.GetOrAdd(schema, text => JsonSchema.FromText(text));
        var reading = new Pass(faults, fresh);
        var taken = 0;
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
            // Checking a form takes most of the time, and most packs are the same as last time.
            var key = (schema, text);
            if (!WellFormed.ContainsKey(key))
            {
                CheckTexts(file, "", node, faults);
                if (faults.Count == before)
                    CheckSchema(compiled, file, node, faults);
                if (faults.Count == before && WellFormed.Count < MostRemembered)
                    WellFormed.TryAdd(key, true);
            }
            if (faults.Count > before)
                continue;
            reading.Take(file, node!.AsObject());
            taken++;
        }
        // Where a pack could not be taken, whatever names its entries would look like a fault too.
        if (taken == packs.Count)
            reading.CheckAcross();
        if (faults.Count > 0)
            throw new PackFaultsException(faults);
        return reading.Finish(Hash(packs));
    }

    /// <summary>
    /// Patterns come from packs, and names from machines: without backtracking neither can make it slow. Making one costs
    /// milliseconds, and a catalogue that is read again has the same ones.
    /// </summary>
    private static Regex PatternOf(string text)
    {
        if (Patterns.TryGetValue(text, out var known))
            return known;
        var made = new Regex(
            text,
            RegexOptions.NonBacktracking | RegexOptions.CultureInvariant,
            TimeSpan.FromSeconds(1)
        );
        if (Patterns.Count < MostPatterns)
            Patterns.TryAdd(text, made);
        return made;
    }

    private static void CheckSchema(JsonSchema schema, string file, JsonNode? node, List<PackFault> faults)
    {
        if (schema.Evaluate(node, new EvaluationOptions { OutputFormat = OutputFormat.Flag }).IsValid)
            return;
        var said = new HashSet<string>(StringComparer.Ordinal);
        Tell(schema.Evaluate(node, new EvaluationOptions { OutputFormat = OutputFormat.Hierarchical }));
        if (said.Count == 0)
            faults.Add(new PackFault(file, "", "does not follow the pack schema"));

        // Only below what failed: of the forms that a condition may have, all but one fail where it is right.
        void Tell(EvaluationResults result)
        {
            if (result.IsValid)
                return;
            foreach (var error in result.Errors?.Values ?? [])
                if (said.Add($"{result.InstanceLocation} {error}"))
                    faults.Add(new PackFault(file, result.InstanceLocation.ToString(), error));
            foreach (var below in result.Details ?? [])
                Tell(below);
        }
    }

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

    private static string Hash(IEnumerable<(string File, string Text)> packs)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        foreach (var (file, text) in packs)
            hash.AppendData(Encoding.UTF8.GetBytes($"{file}\n{text}\n"));
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    /// <summary>One pass over the packs. The schema has vouched for forms, so casts here do not fail.</summary>
    private sealed class Pass(List<PackFault> faults, Freshness? fresh)
    {
        private readonly CatalogueLists _lists = new();
        private readonly HashSet<string> _ids = new(StringComparer.Ordinal);
        private readonly List<(string File, string Pointer, string Gate)> _lifted = [];
        private readonly List<(string File, string Pointer, string System)> _named = [];
        private readonly List<(string File, string Pointer, string Cure)> _cureNames = [];
        private readonly List<(string File, string Pointer, string System)> _places = [];
        private readonly List<(string File, string Pointer, string Cure, string[] After)> _order = [];
        private string _file = "";

        public void Take(string file, JsonObject pack)
        {
            _file = file;
            Each(pack, "systems", (node, at) => _lists.Systems.Add(System(node, at)));
            Each(pack, "processors", (node, at) => _lists.Processors.Add(Processor(node, at)));
            Each(pack, "devices", (node, at) => _lists.Devices.Add(Device(node, at)));
            Each(pack, "cures", (node, at) => _lists.Cures.Add(Cure(node, at)));
            Each(pack, "donors", (node, at) => _lists.Donors.Add(Donor(node, at)));
            Each(pack, "boards", (node, at) => AddBoard(node, at));
            Each(pack, "models", (node, at) => _lists.Models.Add(Model(node, at)));
            Each(pack, "programs", (node, at) => _lists.Programs.Add(Program(node, at)));
            Each(pack, "makers", (node, at) => _lists.Makers.Add(Maker(node, at)));
            Each(pack, "prices", (node, at) => _lists.Prices.Add(Price(node, at)));
            Each(
                pack,
                "computers",
                (node, at) =>
                    _lists.Computers.Add(
                        new ComputerEntry(Id(node, at), Text(node, "about"), System(node, "system", at))
                    )
            );
            Each(
                pack,
                "memory",
                (node, at) =>
                    _lists.Memory.Add(
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
            var gates = _lists
                .Systems.SelectMany(s => s.Requirements.Select(r => $"{s.Id}/{r.Id}"))
                .ToHashSet(StringComparer.Ordinal);
            foreach (var (file, pointer, gate) in _lifted.Where(l => !gates.Contains(l.Gate)))
                faults.Add(new PackFault(file, pointer, $"no system has the requirement “{gate}”"));
            foreach (var (file, pointer, system) in _named.Where(n => _lists.Systems.TrueForAll(s => s.Id != n.System)))
                faults.Add(new PackFault(file, pointer, $"there is no system “{system}”"));
            var cures = _lists.Cures.Select(c => c.Id).ToHashSet(StringComparer.Ordinal);
            foreach (var (file, pointer, cure) in _cureNames.Where(n => !cures.Contains(n.Cure)))
                faults.Add(new PackFault(file, pointer, $"there is no cure “{cure}”"));
            CheckOrder();
            CheckUpgrades();
            foreach (var (file, pointer, gate) in _lifted)
                if (
                    _lists
                        .Systems.SelectMany(s => s.Requirements, (s, r) => (Gate: $"{s.Id}/{r.Id}", r.Kind))
                        .Any(r => r.Gate == gate && r.Kind != RequirementKind.Gate)
                )
                    faults.Add(new PackFault(file, pointer, $"“{gate}” is no gate, and only gates can be lifted"));
        }

        /// <summary>An order that runs in a circle can never be kept.</summary>
        private void CheckOrder()
        {
            var after = _order
                .GroupBy(o => o.Cure, StringComparer.Ordinal)
                .ToDictionary(g => g.Key, g => g.First().After, StringComparer.Ordinal);
            foreach (var (file, pointer, cure, _) in _order)
                if (Circle(cure, c => after.GetValueOrDefault(c) ?? []) is { } circle)
                    faults.Add(new PackFault(file, $"{pointer}/after", $"a circle: {string.Join(" after ", circle)}"));
        }

        private void CheckUpgrades()
        {
            var sources = _lists
                .Systems.GroupBy(s => s.Id, StringComparer.Ordinal)
                .ToDictionary(g => g.Key, g => g.First().InPlace.Select(p => p.From).ToArray(), StringComparer.Ordinal);
            foreach (var (file, pointer, system) in _places)
                if (Circle(system, s => sources.GetValueOrDefault(s) ?? []) is { } circle)
                    faults.Add(new PackFault(file, $"{pointer}/inPlace", $"a circle: {string.Join(" over ", circle)}"));
        }

        /// <summary>The way from a name back to itself, or null.</summary>
        private static List<string>? Circle(string start, Func<string, string[]> next)
        {
            var seen = new HashSet<string>(StringComparer.Ordinal);
            return Walk([start]);

            List<string>? Walk(List<string> way)
            {
                foreach (var name in next(way[^1]))
                {
                    if (name == start)
                        return [.. way, name];
                    if (seen.Add(name) && Walk([.. way, name]) is { } circle)
                        return circle;
                }
                return null;
            }
        }

        public ShopCatalogue Finish(string hash) => new(_lists, hash);

        /// <summary>A reference to a system, checked when all packs are read.</summary>
        private string System(JsonObject node, string name, string at)
        {
            var id = Text(node, name);
            _named.Add((_file, $"{at}/{name}", id));
            return id;
        }

        /// <summary>References to systems, checked when all packs are read.</summary>
        private string[] SystemIds(JsonObject node, string name, string at)
        {
            var ids = Texts(node, name);
            for (var i = 0; i < ids.Length; i++)
                _named.Add((_file, $"{at}/{name}/{i}", ids[i]));
            return ids;
        }

        /// <summary>References to cures, checked when all packs are read.</summary>
        private string[] CureIds(JsonObject node, string name, string at)
        {
            var ids = Texts(node, name);
            for (var i = 0; i < ids.Length; i++)
                _cureNames.Add((_file, $"{at}/{name}/{i}", ids[i]));
            return ids;
        }

        private ModelEntry Model(JsonObject node, string at) =>
            new(
                Id(node, at),
                Pattern(node, at),
                node["memoryGroup"]?.GetValue<int>(),
                Maybe(node, "name") ?? Text(node, "id"),
                Settings(node, "typical", at) ?? []
            );

        private ProgramEntry Program(JsonObject node, string at) =>
            new(
                Id(node, at),
                Text(node, "name"),
                Enum<Purpose>(node, "purpose"),
                SystemIds(node, "systems", at),
                Day(node, "releasedSince", at),
                node["needs"] is JsonObject needs ? ConditionOf(needs, $"{at}/needs") : new Condition.All([]),
                Maybe(node, "needed"),
                EvidenceOf(node, at)
            );

        private MakerEntry Maker(JsonObject node, string at)
        {
            var labels = new Dictionary<string, string>(StringComparer.Ordinal);
            foreach (var (fact, label) in node["labels"]?.AsObject() ?? [])
            {
                if (FactRegistry.Find(fact) is null)
                    faults.Add(new PackFault(_file, $"{at}/labels/{fact}", $"there is no fact key “{fact}”"));
                labels[fact] = label!.GetValue<string>();
            }
            return new MakerEntry(
                Id(node, at),
                Text(node, "maker"),
                Text(node, "bootMenu"),
                Maybe(node, "setup"),
                labels
            );
        }

        private PriceEntry Price(JsonObject node, string at) =>
            new(
                Id(node, at),
                Text(node, "about"),
                Enum<PricePer>(node, "per"),
                Number(node, "money"),
                node["when"] is JsonObject when ? ConditionOf(when, $"{at}/when") : null
            );

        private Dictionary<string, FactValue>? Settings(JsonObject node, string name, string at) =>
            node[name]
                ?.AsObject()
                .Select(p => (p.Key, Value: Value(p.Key, p.Value!, $"{at}/{name}/{p.Key}")))
                .ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal);

        private SystemEntry System(JsonObject node, string at)
        {
            _places.Add((_file, at, Text(node, "id")));
            var requirements = new List<Requirement>();
            var ids = new HashSet<string>(StringComparer.Ordinal);
            Each(
                node,
                "requirements",
                (requirement, where) =>
                {
                    var read = Requirement(requirement, where);
                    if (
                        !ids.Add(read.Id)
                        || BuiltIn.Requirements.Any(b => b.Id == read.Id)
                        || read.Id is "support" or "trust"
                    )
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
                SupportEnds(node, at),
                EvidenceOf(node, at),
                Install(node["install"]!.AsObject(), $"{at}/install"),
                requirements
            )
            {
                Released = Day(node, "released", at),
                SupportByBoard = (node["supportByBoard"]?.AsObject() ?? []).ToDictionary(
                    p => p.Key,
                    p => Date(p.Value!.GetValue<string>(), $"{at}/supportByBoard/{p.Key}"),
                    StringComparer.Ordinal
                ),
                Editions = Texts(node, "editions"),
                Languages = Texts(node, "languages"),
                Architectures = Texts(node, "architectures"),
                Extension = node["extension"] is JsonObject extension ? Extension(extension, node, at) : null,
                InPlace = InPlace(node, at),
                InPlaceFreeBytes = node["inPlaceFreeBytes"]?.GetValue<long>() ?? 0,
                InPlaceGate = InPlaceGate(node, requirements, at),
                Account = EnumOr(node, "account", Asked.Offered),
                Network = EnumOr(node, "network", Asked.Offered),
                Unattended = node["unattended"]?.GetValue<bool>() ?? false,
                Features = Texts(node, "features"),
                UpdatesSurePercent = node["updatesSurePercent"]?.GetValue<int>() ?? 100,
                Trust = EnumOr(node, "trust", Trust.Maker),
                ImageBytes = node["imageBytes"]?.GetValue<long>() ?? 0,
                Installer = node["installer"] is JsonObject installer ? Installer(installer, $"{at}/installer") : null,
                Components = Components(node, at),
            };
        }

        private InstallerEntry Installer(JsonObject node, string at)
        {
            AnswerRules? rules = null;
            if (node["answers"] is JsonObject answers)
            {
                rules = new AnswerRules(
                    Text(answers, "path"),
                    Text(answers, "accountName"),
                    Text(answers, "accountRule"),
                    answers["privacy"]!
                        .AsObject()
                        .ToDictionary(p => p.Key, p => p.Value!.GetValue<string>(), StringComparer.Ordinal)
                );
                try
                {
                    PatternOf(rules.AccountName);
                }
                catch (Exception e) when (e is ArgumentException or NotSupportedException)
                {
                    faults.Add(new PackFault(_file, $"{at}/answers/accountName", "is no pattern that can be used"));
                }
            }
            return new InstallerEntry(
                new InstallerWords(Text(node, "letsIn"), Text(node, "refuses"), node["reason"]?.GetValue<string>()),
                EnumOr(node, "largeFiles", LargeFiles.Whole),
                rules
            );
        }

        private List<SystemComponent> Components(JsonObject node, string at)
        {
            var all = (node["components"] as JsonArray ?? [])
                .Select(n => n!.AsObject())
                .Select(n => new SystemComponent(
                    Text(n, "id"),
                    Text(n, "name"),
                    Texts(n, "needs"),
                    Text(n, "breaks"),
                    n["sizeBytes"]!.GetValue<long>(),
                    n["memoryMiB"]?.GetValue<int>() ?? 0,
                    Texts(n, "for"),
                    n["fixed"]?.GetValue<bool>() ?? false
                ))
                .ToList();
            for (var i = 0; i < all.Count; i++)
            {
                if (all.FindIndex(c => c.Id == all[i].Id) < i)
                    faults.Add(
                        new PackFault(_file, $"{at}/components/{i}/id", $"there is another component “{all[i].Id}”")
                    );
                foreach (var need in all[i].Needs.Where(n => all.TrueForAll(c => c.Id != n)))
                    faults.Add(new PackFault(_file, $"{at}/components/{i}/needs", $"there is no component “{need}”"));
            }
            return all;
        }

        private SupportExtension Extension(JsonObject node, JsonObject system, string at)
        {
            var ends = Date(Text(node, "ends"), $"{at}/extension/ends");
            if (
                Maybe(system, "supportEnds") is not { } text
                || DateOnly.TryParseExact(text, "yyyy-MM-dd", out var support) && ends <= support
            )
                faults.Add(
                    new PackFault(_file, $"{at}/extension/ends", "a paid extension ends after the end of support")
                );
            return new SupportExtension(ends, Number(node, "money"));
        }

        /// <summary>The last day of support. In an edit a day in the past is a slip, unless it says that support has ended.</summary>
        private DateOnly? SupportEnds(JsonObject node, string at)
        {
            var ends = Day(node, "supportEnds", at);
            if (ends < fresh?.AsOf && fresh.Ids.Contains(Text(node, "id")) && node["ended"]?.GetValue<bool>() != true)
                faults.Add(
                    new PackFault(
                        _file,
                        $"{at}/supportEnds",
                        $"{ends:yyyy-MM-dd} is in the past; where support has ended already, say “ended”: true"
                    )
                );
            if (ends is not null && Day(node, "released", at) is { } released && ends < released)
                faults.Add(new PackFault(_file, $"{at}/supportEnds", "support ends before the system came out"));
            return ends;
        }

        private List<InPlaceSource> InPlace(JsonObject node, string at)
        {
            var sources = new List<InPlaceSource>();
            Each(
                node,
                "inPlace",
                (source, where) =>
                    sources.Add(new InPlaceSource(System(source, "from", where), Texts(source, "keeps"))),
                at
            );
            return sources;
        }

        private string? InPlaceGate(JsonObject node, List<Requirement> requirements, string at)
        {
            var gate = Maybe(node, "inPlaceGate");
            if (gate is not null && !requirements.Exists(r => r.Id == gate && r.Kind == RequirementKind.Gate))
                faults.Add(new PackFault(_file, $"{at}/inPlaceGate", $"“{gate}” is no gate of this system"));
            return gate;
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
            return new DonorModel(
                Id(node, at),
                Text(node, "maker"),
                Text(node, "line"),
                Number(node, "generation"),
                Text(node, "boardId"),
                Text(node, "serialPrefix"),
                SystemIds(node, "systems", at)
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
            _lists.Boards.Add(board);
            _lists.Cures.Add(board.Cure);
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
            )
            {
                Claims = Claims(node, at),
                WhyThis = Maybe(node, "whyThis"),
            };
            if (requirement.Claims.Count > 0 && requirement.WhyThis is null)
                faults.Add(
                    new PackFault(
                        _file,
                        at,
                        "where claims contradict each other, “whyThis” says why this one is in force"
                    )
                );
            if (requirement.Kind == RequirementKind.Gate && requirement.Rung != Rung.Setup)
                faults.Add(new PackFault(_file, $"{at}/rung", "gates stand on the rung “setup”"));
            if (requirement.Advisory && requirement.Kind != RequirementKind.Gate)
                faults.Add(new PackFault(_file, $"{at}/advisory", "only a gate can be advisory"));
            return requirement;
        }

        private List<Claim> Claims(JsonObject node, string at)
        {
            var claims = new List<Claim>();
            Each(
                node,
                "claims",
                (claim, where) => claims.Add(new Claim(Text(claim, "says"), EvidenceOf(claim, where))),
                at
            );
            return claims;
        }

        private ProcessorEntry Processor(JsonObject node, string at) =>
            new(Id(node, at), Pattern(node, at), Text(node, "maker"), Text(node, "generation"));

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
            var lifts = Texts(node, "lifts");
            for (var i = 0; i < lifts.Length; i++)
                _lifted.Add((_file, $"{at}/lifts/{i}", lifts[i]));
            var after = CureIds(node, "after", at);
            _order.Add((_file, at, Text(node, "id"), after));
            return new Cure(
                Id(node, at),
                Enum<Outcome>(node, "kind"),
                Enum<Rung>(node, "rung"),
                Text(node, "does"),
                node["needs"] is JsonObject needs ? ConditionOf(needs, $"{at}/needs") : null,
                Settings(node, "sets", at),
                lifts.Length == 0 ? null : lifts,
                null,
                Maybe(node, "replaces"),
                node["adds"]
                    ?.AsArray()
                    .Select(a => new SideEffect(
                        Enum<Rung>(a!.AsObject(), "rung"),
                        Enum<Outcome>(a.AsObject(), "outcome"),
                        Text(a.AsObject(), "text"),
                        EnumOr(a.AsObject(), "kind", SideEffectKind.Other)
                    ))
                    .ToArray(),
                node["money"]?.GetValue<int>() ?? 0,
                Number(node, "handsOnMinutes"),
                node["waitMinutes"]?.GetValue<int>() ?? 0,
                Maybe(node, "how"),
                Maybe(node, "caution"),
                Maybe(node, "brief")
            )
            {
                Conflicts = CureIds(node, "conflicts", at),
                After = after,
                AfterInstall = node["afterInstall"]?.GetValue<bool>() ?? false,
                RunsOn = EnumOr(node, "runsOn", RunsOn.Machine),
                RunsWith = node["runsWith"] is null ? null : System(node, "runsWith", at),
                FailPerMille = node["failPerMille"]?.GetValue<int>() ?? 0,
                HarmPerMille = node["harmPerMille"]?.GetValue<int>() ?? 0,
                Irreversible = node["irreversible"]?.GetValue<bool>() ?? false,
            };
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
                return PatternOf(Text(node, "pattern"));
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

        private static string[] Texts(JsonObject node, string name) =>
            [.. (node[name]?.AsArray() ?? []).Select(t => t!.GetValue<string>())];

        private DateOnly? Day(JsonObject node, string name, string at) =>
            Maybe(node, name) is { } day ? Date(day, $"{at}/{name}") : null;

        private static T EnumOr<T>(JsonObject node, string name, T otherwise)
            where T : struct, Enum => node[name] is null ? otherwise : Enum<T>(node, name);

        private static string Text(JsonObject node, string name) => node[name]!.GetValue<string>();

        private static string? Maybe(JsonObject node, string name) => node[name]?.GetValue<string>();

        private static int Number(JsonObject node, string name) => node[name]!.GetValue<int>();

        private static T Enum<T>(JsonObject node, string name)
            where T : struct, Enum => Parse<T>(Text(node, name));

        private static T Parse<T>(string text)
            where T : struct, Enum => global::System.Enum.Parse<T>(text, ignoreCase: true);
    }
}
