using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Catalogue;

/// <summary>What entries say of one another, which can only be held against the whole once all packs are read.</summary>
internal sealed class PackLinks
{
    private readonly List<(PackNode Node, string Below, string System)> _systems = [];
    private readonly List<(PackNode Node, string Below, string Cure)> _cures = [];
    private readonly List<(PackNode Node, string Below, string Gate)> _gates = [];
    private readonly List<(PackNode Node, string Payload)> _payloads = [];
    private readonly List<(PackNode Node, string Cure, string[] After)> _order = [];
    private readonly List<(PackNode Node, string System)> _upgrades = [];

    private readonly List<(PackNode Node, ProcedureEntry Procedure)> _procedures = [];
    private readonly List<(PackNode Node, string Id, string[] Needs, string[] Named, string[] After)> _components = [];

    private readonly List<(PackNode Node, CauseEntry Cause)> _causes = [];
    private readonly List<(PackNode Node, CheckEntry Check)> _checks = [];
    private readonly List<(PackNode Node, ScenarioEntry Scenario)> _scenarios = [];

    /// <summary>A cause, which names others that come with it.</summary>
    public void Cause(PackNode node, CauseEntry cause) => _causes.Add((node, cause));

    /// <summary>A check, which names causes.</summary>
    public void Check(PackNode node, CheckEntry check) => _checks.Add((node, check));

    /// <summary>A scenario, which may name a cause.</summary>
    public void Scenario(PackNode node, ScenarioEntry scenario) => _scenarios.Add((node, scenario));

    /// <summary>A procedure, whose needs others bring about.</summary>
    public void Procedure(PackNode node, ProcedureEntry procedure) => _procedures.Add((node, procedure));

    /// <summary>Somebody names a system.</summary>
    public void System(PackNode node, string below, string system) => _systems.Add((node, below, system));

    /// <summary>Somebody names a cure.</summary>
    public void Cure(PackNode node, string below, string cure) => _cures.Add((node, below, cure));

    /// <summary>A cure lifts a gate.</summary>
    public void Gate(PackNode node, string below, string gate) => _gates.Add((node, below, gate));

    /// <summary>A board takes a payload.</summary>
    public void Payload(PackNode node, string payload) => _payloads.Add((node, payload));

    /// <summary>A cure comes after others.</summary>
    public void Order(PackNode node, string cure, string[] after) => _order.Add((node, cure, after));

    /// <summary>A system that may go over others in place.</summary>
    public void Upgrade(PackNode node, string system) => _upgrades.Add((node, system));

    /// <summary>A component of boot kits, with those that it needs, names and comes after.</summary>
    public void Component(PackNode node, string id, string[] needs, string[] named, string[] after) =>
        _components.Add((node, id, needs, named, after));

    /// <summary>Adds a fault for whatever is named and is not there, and for every circle.</summary>
    public void Check(CatalogueLists lists)
    {
        var gates = lists
            .Systems.SelectMany(s => s.Requirements, (s, r) => (Gate: $"{s.Id}/{r.Id}", r.Kind))
            .ToLookup(r => r.Gate, r => r.Kind, StringComparer.Ordinal);
        foreach (var (node, below, gate) in _gates)
            if (!gates.Contains(gate))
                node.Fault(below, $"no system has the requirement “{gate}”");
            else if (!gates[gate].All(k => k.OnlyChecked()))
                node.Fault(below, $"“{gate}” is no gate, and only gates can be lifted");
        var systems = lists.Systems.Select(s => s.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var (node, below, system) in _systems.Where(n => !systems.Contains(n.System)))
            node.Fault(below, $"there is no system “{system}”");
        var cures = lists.Cures.Select(c => c.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var (node, below, cure) in _cures.Where(n => !n.Cure.EndsWith('*') && !cures.Contains(n.Cure)))
            node.Fault(below, $"there is no cure “{cure}”");
        foreach (var (node, payload) in _payloads.Where(n => lists.Payloads.All(p => p.Id != n.Payload)))
            node.Fault("payloads", $"there is no payload “{payload}”");
        ProcedureReader.CheckNeeds(_procedures);
        CheckOrder();
        CheckUpgrades(lists);
        CheckComponents();
        CheckCauses();
    }

    /// <summary>Nobody finds a cause that no check speaks of, nor one that is not there.</summary>
    private void CheckCauses()
    {
        var causes = _causes.Select(c => c.Cause.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var (node, cause) in _causes)
        foreach (var pair in cause.With.Where(w => !causes.Contains(w.Cause) || w.Cause == cause.Id))
            node.Fault("with", $"there is no other cause “{pair.Cause}”");
        foreach (var (node, check) in _checks)
        foreach (var name in check.Shows.SelectMany(s => s.Causes.Keys).Where(n => !causes.Contains(n)))
            node.Fault("shows", $"there is no cause “{name}”");
        foreach (var (node, scenario) in _scenarios)
            if (scenario.Fault is { } fault && !causes.Contains(fault.Cause))
                node.Fault("fault/cause", $"there is no cause “{fault.Cause}”");
    }

    /// <summary>What is needed loads first, and so does what comes before: neither may run in a circle.</summary>
    private void CheckComponents()
    {
        var before = _components
            .GroupBy(c => c.Id, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.First().Needs.Concat(g.First().After).ToArray(), StringComparer.Ordinal);
        foreach (var (node, id, needs, named, _) in _components)
        {
            foreach (var other in needs.Concat(named).Where(n => !before.ContainsKey(n)))
                node.Fault("needs", $"there is no component “{other}”");
            if (Circle(id, c => before.GetValueOrDefault(c) ?? []) is { } circle)
                node.Fault("needs", $"a circle: {string.Join(" after ", circle)}");
        }
    }

    /// <summary>An order that runs in a circle can never be kept.</summary>
    private void CheckOrder()
    {
        var after = _order
            .GroupBy(o => o.Cure, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.First().After, StringComparer.Ordinal);
        foreach (var (node, cure, _) in _order)
            if (Circle(cure, c => after.GetValueOrDefault(c) ?? []) is { } circle)
                node.Fault("after", $"a circle: {string.Join(" after ", circle)}");
    }

    private void CheckUpgrades(CatalogueLists lists)
    {
        var sources = lists
            .Systems.GroupBy(s => s.Id, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.First().InPlace.Select(p => p.From).ToArray(), StringComparer.Ordinal);
        foreach (var (node, system) in _upgrades)
            if (Circle(system, s => sources.GetValueOrDefault(s) ?? []) is { } circle)
                node.Fault("inPlace", $"a circle: {string.Join(" over ", circle)}");
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
}
