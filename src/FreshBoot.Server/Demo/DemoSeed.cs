using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Firmware;
using FreshBoot.Data.Images;
using FreshBoot.Data.Media;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Server.BootKits;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Firmware;
using FreshBoot.Server.Identity;
using FreshBoot.Server.Images;
using FreshBoot.Server.Intake;
using FreshBoot.Server.Media;
using FreshBoot.Server.Runs;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Demo;

/// <summary>An identity that a machine of the demo was given, and the system for which its kit was built.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Donor">The donor.</param>
/// <param name="Level">How much of it.</param>
/// <param name="System">The system.</param>
internal sealed record DemoIdentity(string Tag, string Donor, IdentityLevel Level, string System);

/// <summary>
/// Fills an empty database with the demo fleet. Each machine comes in the way a real one does: its bundle, in the real
/// formats, through the same use cases that pages and scripts call.
/// </summary>
internal sealed class DemoSeed(
    MachineStore machines,
    PartStore parts,
    OrderStore orders,
    MediumStore media,
    ChecksumStore checksums,
    TakeBundle take,
    BringImage bring,
    AddMedium addMedium,
    WorkOnChip chips,
    GiveIdentity identities,
    BuildKit kits,
    RomStore roms,
    BeginRun begin,
    FollowRun follow,
    Shop shop,
    TimeProvider clock
)
{
    private const string Shelved = "Pim Achterberg";

    /// <summary>Fills what is empty.</summary>
    /// <param name="folder">The demo's files.</param>
    /// <param name="built">The images as scripts/demo-images.sh builds them; without them the shelf stays empty.</param>
    /// <param name="stop">Stops it.</param>
    public async Task FillAsync(string folder, string built, CancellationToken stop)
    {
        if ((await media.ListAsync(stop)).Count == 0)
            await StockAsync(folder, built, stop);
        if ((await machines.ListAsync(stop)).Count == 0)
            await SeedAsync(folder, stop);
    }

    private async Task StockAsync(string folder, string built, CancellationToken stop)
    {
        foreach (var medium in await ReadAsync<MediumIn>(folder, "media.json", stop))
            await addMedium.DoAsync(medium, stop);
        var images = await ReadAsync<ImageIn>(folder, "images.json", stop);
        for (var i = 0; i < images.Length; i++)
        {
            var image = images[i];
            Console.WriteLine($"seeding the demo: image {i + 1} of {images.Length}, {image.Name}");
            if (Path.Combine(built, image.Name) is var path && File.Exists(path))
                await bring.CopyAsync(image with { By = Shelved }, path, stop);
        }
        if (Path.Combine(built, "SHA256SUMS") is var list && File.Exists(list))
            await checksums.TakeListAsync(await File.ReadAllTextAsync(list, stop), "the makers' lists", stop);
    }

    private async Task SeedAsync(string folder, CancellationToken stop)
    {
        foreach (var order in await ReadAsync<Order>(folder, "orders.json", stop))
            await orders.AddAsync(order.Checked(), stop);
        foreach (var part in await ReadAsync<PartEntry>(folder, "shelf.json", stop))
            await parts.AddAsync(part, Shelved, stop);
        foreach (var machine in await ReadAsync<SimulatedMachine>(folder, "arrivals.json", stop))
            await take.TakeAsync(null, BundleOf(machine, null), stop);
        var given = await ReadAsync<DemoIdentity>(folder, "identities.json", stop);
        var fleet = await ReadAsync<SimulatedMachine>(folder, "fleet.json", stop);
        for (var i = 0; i < fleet.Length; i++)
        {
            var machine = fleet[i];
            if (i % 5 == 0)
                Console.WriteLine($"seeding the demo: machine {i + 1} of {fleet.Length}");
            await TakeInAsync(machine, stop);
            foreach (var identity in given.Where(g => g.Tag == machine.Tag))
            {
                await identities.DoAsync(machine.Tag, new IdentityIn(identity.Level, Shelved, identity.Donor), stop);
                await kits.DoAsync(machine.Tag, new KitIn(identity.System, Shelved), stop);
            }
            if (machine.Run is { } run)
                await CarryOutAsync(machine, run, stop);
        }
        foreach (var chip in await ReadAsync<ChipIn>(folder, "chips.json", stop))
            await chips.AddAsync(chip, stop);
        foreach (var rom in await ReadAsync<DemoRom>(folder, "roms.json", stop))
            await roms.AddAsync(
                SimulatedRom.Make(rom.SizeBytes, rom.Map, rom.Version, ""),
                rom.Name,
                Shelved,
                null,
                stop
            );
    }

    /// <summary>Replacement firmware of the demo shelf.</summary>
    private sealed record DemoRom(string Name, int SizeBytes, string Map, string Version);

    private static async Task<T[]> ReadAsync<T>(string folder, string name, CancellationToken stop)
    {
        await using var file = File.OpenRead(Path.Combine(folder, name));
        return (await JsonSerializer.DeserializeAsync<T[]>(file, JsonSerializerOptions.Web, stop))!;
    }

    private IncomingFile BundleOf(SimulatedMachine machine, string? code) =>
        new($"{machine.Tag}.tar.gz", SimulatedProbe.Bundle(machine, clock.GetUtcNow(), code));

    private async Task TakeInAsync(SimulatedMachine machine, CancellationToken stop)
    {
        await take.NewAsync(
            machine.Tag,
            machine.Probed ? take.Read([BundleOf(machine, null)]) : new IncomingProbe([], [], []),
            stop
        );
        foreach (var word in machine.Words)
            await EnterAsync(
                machine.Tag,
                word.Key,
                FactEntry.Read(word.Key, JsonSerializer.SerializeToElement(word.Value)),
                word.Source,
                word.By,
                stop
            );
        if (machine.Aim is { } aim)
            await machines.AimAsync(machine.Tag, aim, stop);
        if (machine.Bay is { } bay)
            await machines.PlaceAsync(machine.Tag, bay, swap: false, stop);
    }

    private Task<StoredMachine> EnterAsync(
        string tag,
        string key,
        FactValue value,
        string source,
        string? by,
        CancellationToken stop
    ) => machines.EnterAsync(tag, new Reading(key, value, source, Origin.Entered, clock.GetUtcNow(), by), stop);

    /// <summary>Carries a run out the way a person does: event by event, through the same rules.</summary>
    private async Task CarryOutAsync(SimulatedMachine machine, SimulatedRun plan, CancellationToken stop)
    {
        var stored = await machines.GetAsync(machine.Tag, stop);
        var route = shop.Stand(stored)
            .RoutesNow(stop)
            .First(r =>
                r.System == plan.System && r.School.ToString().Equals(plan.School, StringComparison.OrdinalIgnoreCase)
            );
        var run = await begin.DoAsync(stored, new Beginning(route.Id, plan.By), stop);
        var seq = 0;
        foreach (var step in run.Steps.Where(s => s.On is null))
        {
            string? code = null;
            if (step.Kind == StepKind.Wait || step.Wants == RunRules.Probe)
                code = (await Say(RunEventKinds.Begun, step.Id)).State.Code;
            if (step.Id == plan.Until)
                return;
            if (step.Wants == RunRules.Probe)
                await take.AgainAsync(machine.Tag, take.Read([BundleOf(machine, code)]), null, stop);
            else if (step.Wants is { } key)
                await EnterAsync(
                    machine.Tag,
                    key,
                    FactValue.Of(shop.Catalogue.System(plan.System)!.FullName),
                    "its page about the system",
                    plan.By,
                    stop
                );
            if (step.Kind == StepKind.Trial)
                await Say(RunEventKinds.Tried, step.Id, (RunRules.What, step.Options[0]));
            await Say(
                RunEventKinds.Done,
                step.Id,
                step.Kind switch
                {
                    StepKind.Trial => [(RunRules.Worked, step.Options[1])],
                    StepKind.Choose => [(RunRules.Chosen, step.Options[0])],
                    _ => [],
                }
            );
        }

        Task<RunSheetView> Say(string kind, string step, params (string Key, string Value)[] more) =>
            follow.SayAsync(
                run.Id,
                new RunEventIn(
                    Guid.CreateVersion7().ToString("N"),
                    seq++,
                    kind,
                    step,
                    plan.By,
                    new Dictionary<string, string>(
                        more.Select(m => KeyValuePair.Create(m.Key, m.Value)),
                        StringComparer.Ordinal
                    )
                    {
                        ["tag"] = machine.Tag,
                        [RunRules.Despite] = "the stick was made before this shop kept its sticks here",
                    }
                ),
                stop
            );
    }
}
