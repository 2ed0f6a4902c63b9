using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Intake;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Runs;

namespace FreshBoot.Server.Intake;

/// <summary>What became of a bundle that came by a code.</summary>
/// <param name="Tag">The machine; null where it waits under arrivals.</param>
/// <param name="Arrival">The arrival; null where it has a tag.</param>
/// <param name="Warnings">What was left out and why.</param>
internal sealed record BundleTaken(string? Tag, int? Arrival, IReadOnlyList<string> Warnings);

/// <summary>A probe that does not look like one of the machine it came for.</summary>
/// <param name="tag">The machine.</param>
/// <param name="sameness">What agrees and what does not.</param>
/// <param name="whose">The machine whose serial number it carries; null where the shop knows none.</param>
internal sealed class ForeignProbeException(string tag, Sameness sameness, string? whose)
    : RefusedException(
        RefusalKind.Conflict,
        $"{(sameness.Likeness == Likeness.Foreign ? "This is the probe of another machine" : "This may be the probe of another machine")} than {tag}. {string.Join(". ", sameness.Differs)}.",
        "files",
        sameness.Likeness == Likeness.Foreign
            ? whose is null
                ? "The probe of this machine; this one under a tag of its own."
                : $"The probe of this machine; this one carries the serial number of {whose}."
            : $"Look at the machine. Where it is the same one with {Numbers.Join(sameness.Changed, "and")}, say so; else the probe of this machine."
    )
{
    /// <summary>What agrees and what does not.</summary>
    public Sameness Sameness => sameness;

    /// <summary>The machine whose serial number it carries.</summary>
    public string? Whose => whose;
}

/// <summary>Takes bundles in, by whatever way they come. All of it is read before anything is stored.</summary>
internal sealed class TakeBundle(
    MachineStore machines,
    ArrivalStore arrivals,
    MachineIndex index,
    IdentityStore identities,
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
    /// <param name="tag">The machine.</param>
    /// <param name="probe">What came in.</param>
    /// <param name="sameBy">Who says that it is this machine although something differs; null where nobody does.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="ForeignProbeException">It does not look like a probe of this machine, and nobody may say or said that it is.</exception>
    public async Task<StoredMachine> AgainAsync(string tag, IncomingProbe probe, string? sameBy, CancellationToken stop)
    {
        var sameness = await SamenessAsync(tag, probe, stop);
        if (sameness.Likeness == Likeness.Foreign || (sameness.Likeness == Likeness.Asked && sameBy is null))
            throw new ForeignProbeException(tag, sameness, await WhoseAsync(tag, probe, stop));
        if (sameness.Likeness == Likeness.Asked)
            probe = probe with
            {
                Warnings =
                [
                    $"{sameBy} says: this machine, with {Numbers.Join(sameness.Changed, "and")}.",
                    .. sameness.Differs,
                    .. probe.Warnings,
                ],
            };
        else if (sameness.Differs.Count > 0)
            probe = probe with { Warnings = [.. sameness.Differs, .. probe.Warnings] };
        // Under an identity that the shop gave it a machine says what it took; what it is stays on record beside it.
        var known = Dossier.From((await machines.GetAsync(tag, stop)).Readings);
        probe = probe with
        {
            Readings = TakenIdentity.Told(known, probe.Readings, await identities.OfAsync(tag, stop)),
        };
        var taken = await machines.TakeProbeAsync(tag, probe, stop);
        // What a person answers for is a word of that person, and the hand-over says whose.
        return sameness.Likeness == Likeness.Asked
            ? await machines.EnterAsync(
                tag,
                new Reading(
                    FollowRun.LookedKey,
                    FactValue.Of("yes"),
                    $"said at a probe: with {Numbers.Join(sameness.Changed, "and")}",
                    Origin.Entered,
                    clock.GetUtcNow(),
                    sameBy
                ),
                stop
            )
            : taken;
    }

    /// <summary>Holds a probe against the machine that it came for.</summary>
    private async Task<Sameness> SamenessAsync(string tag, IncomingProbe probe, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        return await index.SamenessAsync(
            machine.Tag,
            Dossier.From(machine.Readings),
            Dossier.From(probe.Readings),
            stop
        );
    }

    private async Task<string?> WhoseAsync(string tag, IncomingProbe probe, CancellationToken stop)
    {
        var dossier = Dossier.From(probe.Readings);
        foreach (var key in (string[])["identity.serial", "identity.boardSerial"])
            if (
                dossier.Word(key) is { } serial
                && await index.TagOfSerialAsync(serial, stop) is { } whose
                && whose != tag
            )
                return whose;
        return null;
    }

    /// <summary>Takes a bundle for a machine, known or new; without a tag it waits under arrivals.</summary>
    public async Task<BundleTaken> TakeAsync(string? tag, IncomingFile file, CancellationToken stop)
    {
        var (bundle, probe) = Bundle(file);
        // What a machine sends by itself nobody can be asked about: it waits until somebody says whose it is.
        var foreign = tag is not null && await KnownAsync(tag, stop) ? await SamenessAsync(tag, probe, stop) : null;
        if (tag is null || foreign?.Likeness is Likeness.Asked or Likeness.Foreign)
        {
            var dossier = Derivation.Complete(probe.Readings, shop.Catalogue);
            var arrival = await arrivals.AddAsync(
                file.Name,
                file.Content,
                MachineName.Of(dossier),
                dossier.Word("identity.serial") ?? "",
                stop
            );
            changes.Tell("all", "");
            return new BundleTaken(
                null,
                arrival.Id,
                foreign is null
                    ? probe.Warnings
                    : [$"It does not look like {tag}, and waits under Take in.", .. foreign.Differs, .. probe.Warnings]
            );
        }
        return await GiveAsync(tag, probe, null, stop);
    }

    /// <summary>Gives an arrival its tag: of several who do at once one does, and the others are told.</summary>
    public async Task<BundleTaken> TagAsync(int arrival, string tag, string? sameBy, CancellationToken stop)
    {
        var (_, probe) = Bundle(await arrivals.ReadAsync(arrival, stop));
        return await GiveAsync(tag, probe with { Arrival = arrival }, sameBy, stop);
    }

    private async Task<bool> KnownAsync(string tag, CancellationToken stop) =>
        (await machines.InUseAsync(stop)).Contains(tag);

    private async Task<BundleTaken> GiveAsync(string tag, IncomingProbe probe, string? sameBy, CancellationToken stop)
    {
        if (await KnownAsync(tag, stop))
            await AgainAsync(tag, probe, sameBy, stop);
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
