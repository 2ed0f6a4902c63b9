using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Probes;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Media;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Images;
using FreshBoot.Server.Intake;
using FreshBoot.Server.Media;
using FreshBoot.Server.Runs;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Demo;

/// <summary>
/// Fills an empty database with the demo fleet. Each machine comes in the way a real one does: its bundle, in the real
/// formats, through the same readers and the same store.
/// </summary>
internal static class DemoSeed
{
    public static async Task SeedAsync(
        string folder,
        MachineStore store,
        RunStore runs,
        PartStore parts,
        OrderStore orders,
        TakeBundle intake,
        Shop shop,
        TimeProvider clock,
        CancellationToken stop
    )
    {
        if ((await store.ListAsync(stop)).Count > 0)
            return;
        foreach (var order in await ReadAsync<Order>(folder, "orders.json", stop))
            await orders.AddAsync(order.Checked(), stop);
        foreach (var part in await ReadAsync<PartEntry>(folder, "shelf.json", stop))
            await parts.AddAsync(part, "Pim Achterberg", stop);
        foreach (var machine in await ReadAsync<SimulatedMachine>(folder, "arrivals.json", stop))
            await intake.TakeAsync(
                null,
                new IncomingFile("stick.tar.gz", SimulatedProbe.Bundle(machine, clock.GetUtcNow())),
                stop
            );
        foreach (var machine in await ReadAsync<SimulatedMachine>(folder, "fleet.json", stop))
        {
            await TakeInAsync(machine, store, clock.GetUtcNow(), stop);
            if (machine.Run is { } run)
                await CarryOutAsync(machine, run, store, runs, parts, shop, clock, stop);
        }
    }

    /// <summary>The shelf of images and media. The images are built by scripts/demo-images.sh; without them the shelf is empty.</summary>
    public static async Task StockAsync(
        string folder,
        string built,
        ImageStore images,
        MediumStore media,
        TimeProvider clock,
        CancellationToken stop
    )
    {
        if ((await media.ListAsync(stop)).Count > 0)
            return;
        foreach (var medium in await ReadAsync<MediumIn>(folder, "media.json", stop))
            await MediaEndpoints.AddAsync(medium, media, clock, stop);
        foreach (var image in await ReadAsync<ImageIn>(folder, "images.json", stop))
            if (Path.Combine(built, image.Name) is var path && File.Exists(path))
                await images.TakeFileAsync(
                    path,
                    new ImageEntry(
                        image.Name,
                        image.System,
                        0,
                        image.Build,
                        image.From,
                        JsonNamingPolicy.CamelCase.ConvertName(image.Trust.ToString()),
                        "",
                        "Pim Achterberg"
                    ),
                    null,
                    null,
                    copy: true,
                    _ => { },
                    stop
                );
        if (Path.Combine(built, "SHA256SUMS") is var list && File.Exists(list))
            await images.TakeListAsync(await File.ReadAllTextAsync(list, stop), "the makers' lists", stop);
    }

    private static async Task<T[]> ReadAsync<T>(string folder, string name, CancellationToken stop)
    {
        await using var file = File.OpenRead(Path.Combine(folder, name));
        return (await JsonSerializer.DeserializeAsync<T[]>(file, JsonSerializerOptions.Web, stop))!;
    }

    private static async Task TakeInAsync(
        SimulatedMachine machine,
        MachineStore store,
        DateTimeOffset now,
        CancellationToken stop
    )
    {
        if (machine.Probed)
        {
            var name = $"{machine.Tag}.tar.gz";
            var bytes = SimulatedProbe.Bundle(machine, now);
            using var stream = new MemoryStream(bytes, writable: false);
            var report = ProbeReader.Read(ProbeBundle.Read(stream, name), name);
            await store.TakeInAsync(
                machine.Tag,
                report.Readings,
                [new IncomingFile(name, bytes)],
                report.Warnings,
                stop
            );
        }
        else
        {
            await store.TakeInAsync(machine.Tag, [], [], [], stop);
        }

        foreach (var word in machine.Words)
        {
            var value = FactEntry.Read(word.Key, JsonSerializer.SerializeToElement(word.Value));
            await store.EnterAsync(
                machine.Tag,
                new Reading(word.Key, value, word.Source, Origin.Entered, now, word.By),
                stop
            );
        }
        if (machine.Aim is { } aim)
            await store.AimAsync(machine.Tag, aim, stop);
        if (machine.Bay is { } bay)
            await store.PlaceAsync(machine.Tag, bay, stop);
    }

    /// <summary>Carries a run out the way a person does: event by event, through the same rules.</summary>
    private static async Task CarryOutAsync(
        SimulatedMachine machine,
        SimulatedRun plan,
        MachineStore store,
        RunStore runs,
        PartStore parts,
        Shop shop,
        TimeProvider clock,
        CancellationToken stop
    )
    {
        var stored = await store.GetAsync(machine.Tag, stop);
        var route = shop.Stand(stored)
            .Routes.First(r =>
                r.System == plan.System && r.School.ToString().Equals(plan.School, StringComparison.OrdinalIgnoreCase)
            );
        var run = await RunEndpoints.BeginAsync(
            stored,
            new Beginning(route.Id, plan.By, null),
            runs,
            parts,
            shop,
            stop
        );
        foreach (var step in run.Steps)
        {
            if (step.Kind == StepKind.Wait)
                await Say("begun", step.Id);
            if (step.Id == plan.Until)
                return;
            if (step.Wants == "probe")
            {
                var name = $"{machine.Tag}-after.tar.gz";
                var bytes = SimulatedProbe.Bundle(machine, clock.GetUtcNow());
                using var stream = new MemoryStream(bytes, writable: false);
                var report = ProbeReader.Read(ProbeBundle.Read(stream, name), name);
                await store.TakeProbeAsync(
                    machine.Tag,
                    report.Readings,
                    [new IncomingFile(name, bytes)],
                    report.Warnings,
                    stop
                );
            }
            else if (step.Wants is { } key)
            {
                var value = FactValue.Of(shop.Catalogue.System(plan.System)!.FullName);
                await store.EnterAsync(
                    machine.Tag,
                    new Reading(key, value, "its page about the system", Origin.Entered, clock.GetUtcNow(), plan.By),
                    stop
                );
            }
            await Say("done", step.Id);
        }

        async Task Say(string kind, string step)
        {
            var now = await store.GetAsync(machine.Tag, stop);
            var said = new RunEventIn(
                Guid.CreateVersion7().ToString("N"),
                run.Events.Count,
                kind,
                step,
                plan.By,
                new Dictionary<string, string>(StringComparer.Ordinal) { ["tag"] = machine.Tag }
            );
            run = await runs.TakeAsync(run.Id, said, r => RunEndpoints.Context(r, now), stop);
        }
    }
}
