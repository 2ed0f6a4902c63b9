using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Intake;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Intake;

/// <summary>What became of a bundle that came by a code.</summary>
/// <param name="Tag">The machine; null where it waits under arrivals.</param>
/// <param name="Arrival">The arrival; null where it has a tag.</param>
/// <param name="Warnings">What was left out and why.</param>
internal sealed record BundleTaken(string? Tag, int? Arrival, IReadOnlyList<string> Warnings);

/// <summary>Takes bundles in, by whatever way they come. All of it is read before anything is stored.</summary>
internal sealed class TakeBundle(
    MachineStore machines,
    ArrivalStore arrivals,
    Shop shop,
    Changes changes,
    TimeProvider clock
)
{
    /// <summary>What files of one bundle, or single sources, say.</summary>
    /// <exception cref="RefusedException">A bundle beside other files, or a file that cannot be read.</exception>
    public IncomingProbe Read(IReadOnlyList<IncomingFile> files)
    {
        var bundles = files.Count(f => ProbeBundle.LooksLikeOne(f.Content.Span));
        if (bundles > 0 && files.Count > 1)
            throw new RefusedException(
                RefusalKind.Invalid,
                "A bundle came together with other files.",
                "files",
                "One bundle alone, or single files without a bundle."
            );
        if (bundles == 1)
            return Bundle(files[0]).Probe;
        var report = new Report(clock.GetUtcNow());
        foreach (var file in files)
            ProbeReader.Read(file.Name, file.Content.ToArray(), report);
        return new IncomingProbe(report.Readings, files, report.Warnings);
    }

    /// <summary>Takes a machine in.</summary>
    public Task<StoredMachine> NewAsync(string tag, IncomingProbe probe, CancellationToken stop) =>
        machines.TakeInAsync(tag, probe, stop);

    /// <summary>Takes a further probe of a known machine.</summary>
    public Task<StoredMachine> AgainAsync(string tag, IncomingProbe probe, CancellationToken stop) =>
        machines.TakeProbeAsync(tag, probe, stop);

    /// <summary>Takes a bundle for a machine, known or new; without a tag it waits under arrivals.</summary>
    public async Task<BundleTaken> TakeAsync(string? tag, IncomingFile file, CancellationToken stop)
    {
        var (bundle, probe) = Bundle(file);
        if (tag is null)
        {
            var dossier = Derivation.Complete(probe.Readings, shop.Catalogue);
            var arrival = await arrivals.AddAsync(
                file.Name,
                file.Content,
                $"{dossier.Word("identity.maker")} {dossier.Word("identity.model")}".Trim(),
                dossier.Word("identity.serial") ?? "",
                stop
            );
            changes.Tell("all", "");
            return new BundleTaken(null, arrival.Id, probe.Warnings);
        }
        return await GiveAsync(tag, probe, stop);
    }

    /// <summary>Gives an arrival its tag: of several who do at once one does, and the others are told.</summary>
    public async Task<BundleTaken> TagAsync(int arrival, string tag, CancellationToken stop)
    {
        var (_, probe) = Bundle(await arrivals.ReadAsync(arrival, stop));
        return await GiveAsync(tag, probe with { Arrival = arrival }, stop);
    }

    private async Task<BundleTaken> GiveAsync(string tag, IncomingProbe probe, CancellationToken stop)
    {
        if ((await machines.InUseAsync(stop)).Contains(tag))
            await machines.TakeProbeAsync(tag, probe, stop);
        else
            await machines.TakeInAsync(tag, probe, stop);
        changes.Tell("all", "");
        return new BundleTaken(tag, null, probe.Warnings);
    }

    private static (ProbeBundle Bundle, IncomingProbe Probe) Bundle(IncomingFile file)
    {
        using var stream = new MemoryStream(file.Content.ToArray(), writable: false);
        var bundle = ProbeBundle.Read(stream, file.Name);
        var report = ProbeReader.Read(bundle, file.Name);
        return (bundle, new IncomingProbe(report.Readings, [file], report.Warnings, bundle.Code));
    }
}
