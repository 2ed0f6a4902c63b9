using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests;

/// <summary>The demo fleet, each machine read from its bundle with what people said of it.</summary>
internal static class Fleet
{
    public static IReadOnlyList<SimulatedMachine> Machines { get; } =
        JsonSerializer.Deserialize<SimulatedMachine[]>(
            File.ReadAllText(Path.Combine(Shipped.Home, "demo", "fleet.json")),
            JsonSerializerOptions.Web
        )!;

    public static IReadOnlyList<(string Tag, Dossier Dossier)> Dossiers { get; } =
    [.. Machines.Select(m => (m.Tag, Of(m)))];

    public static Dossier Tagged(string tag) => Dossiers.Single(d => d.Tag == tag).Dossier;

    private static Dossier Of(SimulatedMachine machine)
    {
        var readings = new List<Reading>();
        if (machine.Probed)
        {
            using var stream = new MemoryStream(SimulatedProbe.Bundle(machine, Facts.Noon));
            readings.AddRange(ProbeReader.Read(ProbeBundle.Read(stream, machine.Tag), machine.Tag).Readings);
        }
        foreach (var word in machine.Words)
            readings.Add(
                new Reading(
                    word.Key,
                    FactEntry.Read(word.Key, JsonSerializer.SerializeToElement(word.Value)),
                    word.Source,
                    Origin.Entered,
                    Facts.Noon,
                    word.By
                )
            );
        return Derivation.Complete(readings.Select((r, i) => r with { Receipt = i + 1 }), Shipped.Catalogue);
    }
}
