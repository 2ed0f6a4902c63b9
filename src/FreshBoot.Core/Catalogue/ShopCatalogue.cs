using System.Collections.Concurrent;
using System.Collections.Frozen;

namespace FreshBoot.Core.Catalogue;

/// <summary>All catalogue entries in force, indexed for the evaluator. Immutable.</summary>
public sealed class ShopCatalogue
{
    private const int MostKnown = 4096;
    private static readonly IReadOnlyList<Cure> NoCures = [];
    private readonly ConcurrentDictionary<(string Group, string Model), DeviceEntry?> _known = new();
    private readonly FrozenDictionary<string, IReadOnlyList<Cure>> _curesByFact;
    private readonly FrozenDictionary<string, IReadOnlyList<Cure>> _curesByGate;

    /// <summary>Makes a catalogue of entries that are valid together; <see cref="PackReader"/> checks that.</summary>
    public ShopCatalogue(
        IReadOnlyList<SystemEntry> systems,
        IReadOnlyList<ProcessorEntry> processors,
        IReadOnlyList<DeviceEntry> devices,
        IReadOnlyList<Cure> cures,
        IReadOnlyList<MemoryModule> memory,
        IReadOnlyList<DonorModel> donors,
        IReadOnlyList<BoardEntry> boards,
        IReadOnlyList<ModelEntry> models,
        string hash
    )
    {
        Systems = systems;
        Processors = processors;
        Devices = devices;
        Cures = cures;
        Memory = memory;
        Donors = donors;
        Boards = boards;
        Models = models;
        Hash = hash;
        _curesByFact = Index(cures, c => c.Sets?.Keys ?? []);
        _curesByGate = Index(cures, c => c.Lifts ?? []);
    }

    /// <summary>The systems, in the order of their packs.</summary>
    public IReadOnlyList<SystemEntry> Systems { get; }

    /// <summary>Processor names; the first pattern that matches counts.</summary>
    public IReadOnlyList<ProcessorEntry> Processors { get; }

    /// <summary>Devices; the first pattern that matches counts.</summary>
    public IReadOnlyList<DeviceEntry> Devices { get; }

    /// <summary>The cures.</summary>
    public IReadOnlyList<Cure> Cures { get; }

    /// <summary>The memory modules of the price book.</summary>
    public IReadOnlyList<MemoryModule> Memory { get; }

    /// <summary>Models whose identity may be taken.</summary>
    public IReadOnlyList<DonorModel> Donors { get; }

    /// <summary>Boards for which replacement firmware is proved.</summary>
    public IReadOnlyList<BoardEntry> Boards { get; }

    /// <summary>What is known of lines of machines; the first pattern that matches counts.</summary>
    public IReadOnlyList<ModelEntry> Models { get; }

    /// <summary>SHA-256 over the packs, in hexadecimal: assessments made under another hash are stale.</summary>
    public string Hash { get; }

    /// <summary>The cures that set <paramref name="factKey"/>.</summary>
    public IReadOnlyList<Cure> CuresThatSet(string factKey) => _curesByFact.GetValueOrDefault(factKey, NoCures);

    /// <summary>The cures that lift <paramref name="gate"/>, written <c>system/requirement</c>.</summary>
    public IReadOnlyList<Cure> CuresThatLift(string gate) => _curesByGate.GetValueOrDefault(gate, NoCures);

    /// <summary>The system with this id, or null.</summary>
    public SystemEntry? System(string id) => Systems.FirstOrDefault(s => s.Id == id);

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
