using System.Text.Json;
using BenchmarkDotNet.Attributes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Core.Routes;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Benchmarks;

/// <summary>What a page of the whole fleet costs: reading a bundle, judging a system, finding the routes.</summary>
[MemoryDiagnoser]
public class Verdicts
{
    private readonly ShopCatalogue _catalogue;
    private readonly Evaluator _evaluator;
    private readonly RouteSearch _search;
    private readonly SystemEntry _system;
    private readonly Dossier _dossier;
    private readonly byte[] _bundle;
    private readonly Plan _plan = new(new DateOnly(2026, 12, 3));

    /// <summary>Reads the catalogue that ships and the first machine of the demo.</summary>
    public Verdicts()
    {
        var home = new DirectoryInfo(AppContext.BaseDirectory);
        while (!Directory.Exists(Path.Combine(home!.FullName, "catalogue", "packs")))
            home = home.Parent;
        var packs = Directory
            .GetFiles(Path.Combine(home.FullName, "catalogue", "packs"), "*.json")
            .Order(StringComparer.Ordinal);
        _catalogue = PackReader.Read(
            File.ReadAllText(Path.Combine(home.FullName, "catalogue", "schemas", "pack.schema.json")),
            [.. packs.Select(f => (Path.GetFileName(f), File.ReadAllText(f)))]
        );
        _evaluator = new Evaluator(_catalogue);
        _search = new RouteSearch(_catalogue);
        _system = _catalogue.System("tessaly-6-r2")!;
        var fleet = JsonSerializer.Deserialize<SimulatedMachine[]>(
            File.ReadAllText(Path.Combine(home.FullName, "demo", "fleet.json")),
            JsonSerializerOptions.Web
        )!;
        var machine = fleet.First(m => m.Tag == "MR-0417");
        _bundle = SimulatedProbe.Bundle(machine, DateTimeOffset.UnixEpoch);
        var words = machine.Words.Select(w => new Reading(
            w.Key,
            FactValue.Of(w.Value),
            w.Source,
            Origin.Entered,
            DateTimeOffset.UnixEpoch,
            w.By
        ));
        _dossier = Derivation.Complete(ReadBundle().Readings.Concat(words), _catalogue);
    }

    /// <summary>A bundle from archive to facts.</summary>
    [Benchmark]
    public Report ReadBundle()
    {
        using var stream = new MemoryStream(_bundle, writable: false);
        return ProbeReader.Read(ProbeBundle.Read(stream, "a"), "a");
    }

    /// <summary>One system on one machine.</summary>
    [Benchmark]
    public Assessment Assess() => _evaluator.Assess(_dossier, _system, _plan);

    /// <summary>Every route of one machine, all systems and schools.</summary>
    [Benchmark]
    public IReadOnlyList<Route> Routes() => _search.Find(_dossier, new RouteQuestion(_plan.AsOf));
}
