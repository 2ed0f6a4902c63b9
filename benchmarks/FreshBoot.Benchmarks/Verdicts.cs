using System.Text.Json;
using BenchmarkDotNet.Attributes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Core.Projection;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Benchmarks;

/// <summary>What a page of the whole fleet costs: reading a bundle, judging a system, finding the routes.</summary>
[MemoryDiagnoser]
public class Verdicts
{
    private readonly ShopCatalogue _catalogue;
    private readonly Evaluator _evaluator;
    private readonly RouteSearch _search;
    private readonly RouteSearch _timed;
    private readonly SystemEntry _system;
    private readonly Dossier _dossier;
    private readonly SheetQuestion _question;
    private readonly Dossier _locked;
    private readonly SheetQuestion _reflash;
    private readonly RunSheet _sheet;
    private readonly byte[] _bundle;
    private readonly string _schema;
    private readonly (string File, string Text)[] _packs;
    private readonly Dossier[] _fleet;
    private readonly Dossier[] _tenThousand;
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
        _schema = File.ReadAllText(Path.Combine(home.FullName, "catalogue", "schemas", "pack.schema.json"));
        _packs = [.. packs.Select(f => (Path.GetFileName(f), File.ReadAllText(f)))];
        _catalogue = PackReader.Read(_schema, _packs);
        _evaluator = new Evaluator(_catalogue);
        _search = new RouteSearch(_catalogue);
        _timed = new RouteSearch(_catalogue, new SheetTimes(_catalogue));
        _system = _catalogue.System("tessaly-6-r2")!;
        var fleet = JsonSerializer.Deserialize<SimulatedMachine[]>(
            File.ReadAllText(Path.Combine(home.FullName, "demo", "fleet.json")),
            JsonSerializerOptions.Web
        )!;
        _fleet = [.. fleet.Select(DossierOf)];
        _tenThousand = [.. Enumerable.Range(0, 10_000).Select(i => _fleet[i % _fleet.Length])];
        var machine = fleet.First(m => m.Tag == "MR-0417");
        _bundle = SimulatedProbe.Bundle(machine, DateTimeOffset.UnixEpoch);
        _dossier = DossierOf(machine);
        var route = _search
            .Find(_dossier, new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.System == _system.Id);
        _question = new SheetQuestion("MR-0417", _dossier, route, _system, _catalogue, [], null);
        _locked = DossierOf(fleet.First(m => m.Tag == "MR-0411"));
        var reflash = _search
            .Find(_locked, new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.School == School.Reflash);
        _reflash = new SheetQuestion(
            "MR-0411",
            _locked,
            reflash,
            _catalogue.System(reflash.System!),
            _catalogue,
            [],
            null
        );
        _sheet = RunSheet.Of(_reflash);
    }

    private Dossier DossierOf(SimulatedMachine machine)
    {
        using var stream = new MemoryStream(SimulatedProbe.Bundle(machine, DateTimeOffset.UnixEpoch), writable: false);
        IEnumerable<Reading> probed = machine.Probed
            ? ProbeReader.Read(ProbeBundle.Read(stream, "a"), "a").Readings
            : [];
        var words = machine.Words.Select(w => new Reading(
            w.Key,
            FactEntry.Read(w.Key, JsonSerializer.SerializeToElement(w.Value)),
            w.Source,
            Origin.Entered,
            DateTimeOffset.UnixEpoch,
            w.By
        ));
        return Derivation.Complete(probed.Concat(words), _catalogue);
    }

    /// <summary>The sheet of a route, composed from procedures and walked along every branch: held against 20 ms.</summary>
    [Benchmark]
    public RunSheet Sheet() => RunSheet.Of(_question);

    /// <summary>The sheet of a reflash, the longest of the demo; held against 10 ms.</summary>
    [Benchmark]
    public RunSheet SheetOfReflash() => RunSheet.Of(_reflash);

    /// <summary>The machine after every step of that sheet, one after the other: held against 50 µs a step.</summary>
    [Benchmark]
    public MachineAt ProjectSheet() =>
        _sheet
            .Steps.Where(s => s.On is null)
            .Aggregate(
                MachineAt.Before(_locked, _reflash.System, WorldFacts.Start(_locked, isBoard: false, drives: 1)),
                (machine, step) => machine.Then(step)
            );

    /// <summary>Every route of that machine with the times of its sheets: held against 20 ms.</summary>
    [Benchmark]
    public IReadOnlyList<Route> RoutesWithTimes() => _timed.Find(_locked, new RouteQuestion(_plan.AsOf));

    /// <summary>All packs, checked against their schema and against each other: a start, or a look at an edit.</summary>
    [Benchmark]
    public ShopCatalogue ReadPacks() => PackReader.Read(_schema, _packs);

    /// <summary>Ten thousand dossiers in memory against every system, on one core.</summary>
    [Benchmark]
    public int TenThousandMachines()
    {
        var clear = 0;
        foreach (var dossier in _tenThousand)
        foreach (var system in _catalogue.Systems)
            if (_evaluator.Grade(dossier, system, _plan) == Outcome.Clear)
                clear++;
        return clear;
    }

    /// <summary>Every route of every machine of the demo, one after the other.</summary>
    [Benchmark]
    public int RoutesOfTheFleet() => _fleet.Sum(d => _search.Find(d, new RouteQuestion(_plan.AsOf)).Count);

    /// <summary>A bundle from archive to facts.</summary>
    [Benchmark]
    public Report ReadBundle()
    {
        using var stream = new MemoryStream(_bundle, writable: false);
        return ProbeReader.Read(ProbeBundle.Read(stream, "a"), "a");
    }

    /// <summary>A dossier with all that follows from it.</summary>
    [Benchmark]
    public Dossier Complete() => Derivation.Complete(_dossier.Readings, _catalogue);

    /// <summary>One system on one machine.</summary>
    [Benchmark]
    public Assessment Assess() => _evaluator.Assess(_dossier, _system, _plan);

    /// <summary>Every route of one machine, all systems and schools.</summary>
    [Benchmark]
    public IReadOnlyList<Route> Routes() => _search.Find(_dossier, new RouteQuestion(_plan.AsOf));
}
