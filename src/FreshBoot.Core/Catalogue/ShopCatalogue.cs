using System.Collections.Concurrent;
using System.Collections.Frozen;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Catalogue;

/// <summary>All catalogue entries in force, indexed for the evaluator. Immutable.</summary>
public sealed class ShopCatalogue
{
    private const int MostKnown = 4096;
    private static readonly IReadOnlyList<Cure> NoCures = [];
    private static readonly string[] PatchedGroups = ["graphics", "network"];
    private readonly ConcurrentDictionary<(string Group, string Model), DeviceEntry?> _known = new();
    private readonly FrozenDictionary<string, IReadOnlyList<Cure>> _curesByFact;
    private readonly FrozenDictionary<string, IReadOnlyList<Cure>> _curesByGate;
    private readonly FrozenDictionary<string, IReadOnlyList<Cure>> _curesByGroup;
    private readonly FrozenDictionary<string, Cure> _extensions;
    private readonly FrozenDictionary<string, SystemEntry> _systems;

    /// <summary>Makes a catalogue of entries that are valid together; <see cref="PackReader"/> checks that.</summary>
    internal ShopCatalogue(CatalogueLists lists, string hash)
    {
        Lists = lists;
        Hash = hash;
        Cures = [.. lists.Cures, .. lists.Systems.Select(s => s.ExtensionCure).OfType<Cure>()];
        _systems = lists.Systems.ToFrozenDictionary(s => s.Id, StringComparer.Ordinal);
        _curesByFact = Index(Cures, c => c.Sets?.Keys ?? []);
        _curesByGate = Index(Cures, c => c.Lifts ?? []);
        _curesByGroup = Index(Cures, c => c.Replaces is { } group ? [group] : []);
        _extensions = Cures
            .Where(c => c.Extends is not null)
            .ToFrozenDictionary(c => c.Extends!, StringComparer.Ordinal);
    }

    private CatalogueLists Lists { get; }

    /// <summary>The systems, in the order of their packs.</summary>
    public IReadOnlyList<SystemEntry> Systems => Lists.Systems;

    /// <summary>Processor names; the first pattern that matches counts.</summary>
    public IReadOnlyList<ProcessorEntry> Processors => Lists.Processors;

    /// <summary>Devices; the first pattern that matches counts.</summary>
    public IReadOnlyList<DeviceEntry> Devices => Lists.Devices;

    /// <summary>The cures, paid extensions of support among them.</summary>
    public IReadOnlyList<Cure> Cures { get; }

    /// <summary>The memory modules of the price book.</summary>
    public IReadOnlyList<MemoryModule> Memory => Lists.Memory;

    /// <summary>Fragments of run sheets.</summary>
    public IReadOnlyList<ProcedureEntry> Procedures => Lists.Procedures;

    /// <summary>Why a machine stops.</summary>
    public IReadOnlyList<CauseEntry> Causes => Lists.Causes;

    /// <summary>What one looks at to find out.</summary>
    public IReadOnlyList<CheckEntry> Checks => Lists.Checks;

    /// <summary>What can be practised.</summary>
    public IReadOnlyList<ScenarioEntry> Scenarios => Lists.Scenarios;

    /// <summary>Models whose identity may be taken.</summary>
    public IReadOnlyList<DonorModel> Donors => Lists.Donors;

    /// <summary>Boards for which replacement firmware is proved.</summary>
    public IReadOnlyList<BoardEntry> Boards => Lists.Boards;

    /// <summary>Firmware that takes the place of a maker's, or stands beside it.</summary>
    public IReadOnlyList<PayloadEntry> Payloads => Lists.Payloads;

    /// <summary>The board whose chip one of these cures writes, or null.</summary>
    public BoardEntry? Flashed(IEnumerable<Cure> cures) =>
        cures.FirstOrDefault(c => c.Kind == Outcome.Reflash) is { } cure
            // A run of an earlier version has only the id of its cure.
            ? Boards.FirstOrDefault(b =>
                cure.Board is { } board ? b.Id == board : cure.Id == b.CureId(PayloadEntry.Full)
            )
            : null;

    /// <summary>How the firmware of a machine is talked to, as these facts have it.</summary>
    public FirmwareMenus Menus(IFacts facts) => FirmwareMenus.Of(facts, this);

    /// <summary>What is known of lines of machines; the first pattern that matches counts.</summary>
    public IReadOnlyList<ModelEntry> Models => Lists.Models;

    /// <summary>Programs and what they ask for.</summary>
    public IReadOnlyList<ProgramEntry> Programs => Lists.Programs;

    /// <summary>Makers and the keys of their firmware.</summary>
    public IReadOnlyList<MakerEntry> Makers => Lists.Makers;

    /// <summary>Prices beside those of cures and memory.</summary>
    public IReadOnlyList<PriceEntry> Prices => Lists.Prices;

    /// <summary>What an hour of work costs, in hundredth parts of a mark; 0 where the price book does not say.</summary>
    public int HourMoney => Prices.FirstOrDefault(p => p.Per == PricePer.Hour)?.Money ?? 0;

    /// <summary>What machines weigh, the first that holds for one counting.</summary>
    public IReadOnlyList<WeightEntry> Weights => Lists.Weights;

    /// <summary>What a machine weighs, in grams: the first entry that is known to be for it; null where none is.</summary>
    public int? GramsOf(IFacts facts) =>
        Weights.FirstOrDefault(w => w.When is null || w.When.Holds(facts) == true)?.Grams;

    /// <summary>Other computers of the shop.</summary>
    public IReadOnlyList<ComputerEntry> Computers => Lists.Computers;

    /// <summary>Adapters between drives and places of another sort.</summary>
    public IReadOnlyList<AdapterEntry> Adapters => Lists.Adapters;

    /// <summary>Components of boot kits.</summary>
    public IReadOnlyList<KitComponent> Components => Lists.Components;

    /// <summary>Quirks of firmware that boot kits mind.</summary>
    public IReadOnlyList<KitQuirk> Quirks => Lists.Quirks;

    /// <summary>What somebody had running on a board with a boot kit.</summary>
    public IReadOnlyList<KitProfile> Profiles => Lists.Profiles;

    /// <summary>
    /// What of a machine is patched after the first start of a system, and again after an update took it away: by its graphics and
    /// network chips.
    /// </summary>
    public IReadOnlyList<AfterPatch> PatchesAfter(IFacts facts, string system) =>
        [
            .. Lists.AfterPatches.Where(p =>
                p.Systems.Contains(system)
                && PatchedGroups.Any(g =>
                    Enumerable
                        .Range(0, 10)
                        .Select(i => facts.Word($"{g}.{i}.model"))
                        .OfType<string>()
                        .Any(n => Device(g, n) is { } device && p.Chips.Contains(device.Id))
                )
            ),
        ];

    /// <summary>Small boards.</summary>
    public IReadOnlyList<SmallBoard> SmallBoards => Lists.SmallBoards;

    /// <summary>The small board that a dossier is of; null where it is none, or not in the catalogue.</summary>
    public SmallBoard? SmallBoard(IFacts facts) =>
        facts.Word("identity.model") is { } model
            ? SmallBoards.FirstOrDefault(b =>
                b.Pattern?.IsMatch($"{facts.Word("identity.maker")} {model}".Trim()) == true
            )
            : null;

    /// <summary>The line of machines that a dossier is of; null where it is not in the catalogue.</summary>
    public ModelEntry? Model(IFacts facts) =>
        facts.Word("identity.model") is { } model
            ? Models.FirstOrDefault(m => m.Pattern.IsMatch($"{facts.Word("identity.maker")} {model}".Trim()))
            : null;

    /// <summary>Who says what about the questions on which practitioners disagree.</summary>
    public IReadOnlyList<SchoolEntry> Schools => Lists.Schools;

    /// <summary>SHA-256 over the packs, in hexadecimal: assessments made under another hash are stale.</summary>
    public string Hash { get; }

    /// <summary>The cures that set <paramref name="factKey"/>.</summary>
    public IReadOnlyList<Cure> CuresThatSet(string factKey) => _curesByFact.GetValueOrDefault(factKey, NoCures);

    /// <summary>The cures that lift <paramref name="gate"/>, written <c>system/requirement</c>.</summary>
    public IReadOnlyList<Cure> CuresThatLift(string gate) => _curesByGate.GetValueOrDefault(gate, NoCures);

    /// <summary>The cures that replace a group of devices.</summary>
    public IReadOnlyList<Cure> CuresThatReplace(string group) => _curesByGroup.GetValueOrDefault(group, NoCures);

    /// <summary>Whether the shop has the other computer that a cure is carried out on.</summary>
    public bool CanCarryOut(Cure cure) =>
        cure.RunsOn != RunsOn.OtherComputer || Computers.Any(c => cure.RunsWith is null || c.System == cure.RunsWith);

    /// <summary>
    /// Whether a cure can be carried out on a machine with these facts: a switch of the settings wants a firmware that has some, a
    /// loader without a signature wants a Secure Boot that is off or can be switched off, and of the payloads of a board it is the one
    /// that was chosen.
    /// </summary>
    public bool CanCarryOut(Cure cure, IFacts facts) =>
        CanCarryOut(cure)
        && cure.IsChosen(facts)
        && (!cure.InSettings || FirmwareMenus.HasSettingsBy(facts, this))
        && IsRefused(cure, facts) != true;

    /// <summary>
    /// Whether Secure Boot, which no hand can switch off here, refuses the loader of a cure (UEFI 2.10, section 32); null where nobody
    /// knows the firmware: a locked boot ROM is replaced before such a loader starts.
    /// </summary>
    public bool? IsRefused(Cure cure, IFacts facts) =>
        cure.Signatures == LoaderSignatures.All
        || cure.Kind == Outcome.Reflash
        || facts.Word("firmware.secureBoot") != "on"
        || FirmwareMenus.HasSettingsBy(facts, this)
            ? false
            : facts.Word("firmware.kind") switch
            {
                null => null,
                "locked" => false,
                _ => true,
            };

    /// <summary>The paid extension of a system's support, or null.</summary>
    public Cure? Extension(string system) => _extensions.GetValueOrDefault(system);

    /// <summary>The system with this id, or null.</summary>
    public SystemEntry? System(string id) => _systems.GetValueOrDefault(id);

    /// <summary>The maker with this name, or null.</summary>
    public MakerEntry? Maker(string? name) => Makers.FirstOrDefault(m => m.Maker == name);

    /// <summary>The device that a reported name stands for, or null when it is not in the catalogue.</summary>
    public DeviceEntry? Device(string group, string model)
    {
        if (_known.TryGetValue((group, model), out var device))
            return device;
        device = Devices.FirstOrDefault(d => d.Group == group && d.Pattern.IsMatch(model));
        // A fleet has few names and asks for them all the time; names without end must not fill the memory.
        if (_known.Count < MostKnown)
            _known.TryAdd((group, model), device);
        return device;
    }

    private static FrozenDictionary<string, IReadOnlyList<Cure>> Index(
        IEnumerable<Cure> cures,
        Func<Cure, IEnumerable<string>> keys
    ) =>
        cures
            .SelectMany(c => keys(c).Select(key => (key, c)))
            .GroupBy(p => p.key, StringComparer.Ordinal)
            .ToFrozenDictionary(g => g.Key, g => (IReadOnlyList<Cure>)[.. g.Select(p => p.c)], StringComparer.Ordinal);
}

/// <summary>The entries of all packs, as they are read.</summary>
internal sealed class CatalogueLists
{
    public List<SystemEntry> Systems { get; } = [];
    public List<ProcessorEntry> Processors { get; } = [];
    public List<DeviceEntry> Devices { get; } = [];
    public List<Cure> Cures { get; } = [];
    public List<MemoryModule> Memory { get; } = [];
    public List<DonorModel> Donors { get; } = [];
    public List<BoardEntry> Boards { get; } = [];
    public List<PayloadEntry> Payloads { get; } = [];
    public List<ModelEntry> Models { get; } = [];
    public List<ProgramEntry> Programs { get; } = [];
    public List<MakerEntry> Makers { get; } = [];
    public List<PriceEntry> Prices { get; } = [];
    public List<WeightEntry> Weights { get; } = [];
    public List<ComputerEntry> Computers { get; } = [];
    public List<AdapterEntry> Adapters { get; } = [];
    public List<KitComponent> Components { get; } = [];
    public List<KitQuirk> Quirks { get; } = [];
    public List<KitProfile> Profiles { get; } = [];
    public List<SmallBoard> SmallBoards { get; } = [];
    public List<AfterPatch> AfterPatches { get; } = [];
    public List<ProcedureEntry> Procedures { get; } = [];
    public List<CauseEntry> Causes { get; } = [];
    public List<CheckEntry> Checks { get; } = [];
    public List<ScenarioEntry> Scenarios { get; } = [];
    public List<SchoolEntry> Schools { get; } = [];
}
