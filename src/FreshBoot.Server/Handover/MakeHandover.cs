using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Runs;

namespace FreshBoot.Server.Handover;

/// <summary>Makes what the sheets for the new owner are made from; while something is open there is none.</summary>
internal sealed class MakeHandover(
    MachineStore machines,
    RunStore runs,
    FollowRun follow,
    OwnerLanguages languages,
    MachineIndex index,
    Shop shop
)
{
    private const string ModelKey = "identity.model";

    /// <summary>The sheet for the new owner, in the language that was asked for, or in theirs.</summary>
    /// <exception cref="RefusedException">Something of it is still open, or there are no words of that language.</exception>
    public async Task<OwnerSheet> ForOwnerAsync(string tag, string? language, CancellationToken stop)
    {
        var sheet = await MakeAsync(tag, stop);
        return OwnerSheet.Of(sheet, languages.Of(language ?? sheet.Language), shop.Name, shop.Calendar);
    }

    /// <summary>How well it runs, beside others of its model.</summary>
    public async Task<IReadOnlyList<Measured>> MeasuredAsync(string tag, CancellationToken stop)
    {
        var now = shop.Dossier(await machines.GetAsync(tag, stop));
        return Measured.Of(
            now,
            now.Word(ModelKey) is { } model ? await index.OthersAsync(tag, ModelKey, model, stop) : []
        );
    }

    /// <summary>The acceptance list of the latest run; empty where nothing was done on the machine.</summary>
    public async Task<IReadOnlyList<AcceptanceLine>> AcceptanceAsync(string tag, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        return await runs.LatestOfAsync(machine.Tag, stop) is { } run
            ? await follow.AcceptAsync(run, machine, stop)
            : [];
    }

    /// <summary>What was done with the data on a machine.</summary>
    /// <exception cref="RefusedException">Nothing was said or done about it.</exception>
    public async Task<DataTreatment> DataAsync(string tag, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        var treated = DataOf(machine, await runs.LatestOfAsync(machine.Tag, stop));
        return treated.IsEmpty
            ? throw new RefusedException(
                RefusalKind.Conflict,
                "Nobody has said or done anything about the data on it.",
                "data",
                "What its owner wants of it, or a run that erases."
            )
            : treated;
    }

    /// <summary>The certificate of it, in the language that was asked for, or in the owner's.</summary>
    public async Task<OwnerSheet> DataCertificateAsync(string tag, string? language, CancellationToken stop)
    {
        var treated = await DataAsync(tag, stop);
        return treated.Certificate(languages.Of(language ?? treated.Language), shop.Name, shop.Today, shop.Calendar);
    }

    /// <summary>What was done with the data, as facts and run say it.</summary>
    public DataTreatment DataOf(StoredMachine machine, StoredRun? run)
    {
        var now = shop.Dossier(machine);
        return DataTreatment.Of(
            machine.Tag,
            run is null ? now : Derivation.Complete(run.Readings, shop.Catalogue),
            now,
            run?.Steps ?? [],
            run?.Events ?? [],
            run?.State.Over ?? new Dictionary<string, Said>(StringComparer.Ordinal),
            shop.DataRule
        );
    }

    /// <summary>The sheet of a machine as it is now.</summary>
    /// <exception cref="RefusedException">Something of it is still open.</exception>
    public async Task<HandoverSheet> MakeAsync(string tag, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        var run = await runs.LatestOfAsync(machine.Tag, stop);
        if (run is null)
            throw Refuse("Nothing was done on this machine yet.", "A run that is finished.");
        if (run.State.GivenUpAt is not null)
            throw Refuse($"The last run was given up: {run.State.Because}", "A run that is finished.");
        if (run.BrokenAt is { } at)
            throw Refuse(
                $"The record is broken at {EventChain.Place(at)}. It proves nothing.",
                "The record as it was written."
            );
        var lines = await follow.AcceptAsync(run, machine, stop);
        string[] open =
        [
            .. run.State.Open.Select(o => $"{o}: close it again"),
            .. run.State.FinishedAt is null
                ? [$"step {run.State.Current + 1} of {run.Steps.Count}: {run.Steps[run.State.Current].Text}"]
                : Array.Empty<string>(),
            .. lines.Where(l => l.IsOpen).Select(l => $"{l.Line}: {l.Says}"),
        ];
        if (open.Length > 0 || run.State.FinishedAt is not { } finished)
            throw Refuse(
                $"Something is still open: {string.Join(" · ", open)}",
                "Every step done, whatever was opened closed again, every line of the acceptance list proved."
            );

        var first = Derivation.Complete(run.Readings, shop.Catalogue);
        var now = shop.Dossier(machine);
        var system = run.Route.System is { } id ? shop.Catalogue.System(id) : null;
        string? Say(string key) => now[key] is { } value ? FactText.Show(key, value) : null;
        return new HandoverSheet(
            machine.Tag,
            MachineName.Of(now),
            Say("identity.serial"),
            system?.FullName,
            system?.Class,
            system?.EndsFor(now, run.Route.Cures.Any(c => c.Extends == system.Id)),
            Say("cpu.model"),
            Say("memory.installedMiB"),
            Say("storage.0.sizeBytes"),
            system is null
                ? []
                :
                [
                    .. run.Route.Cures.Select(c => new Changed(
                        c.Kind,
                        c.Does,
                        Why(c.Id, shop.Now.Evaluator.Assess(first, system, new Plan(shop.Today))),
                        c.Extends is not null
                    )),
                ],
            [
                .. run
                    .Events.Select(e => e.Data.GetValueOrDefault("used"))
                    .OfType<string>()
                    .SelectMany(u => u.Split("; "))
                    .Where(u => u.Length > 0)
                    .Distinct(StringComparer.Ordinal),
            ],
            run.State.Otherwise,
            ToKnow(first, now, run),
            MakersAccount: first.Word("plan.account") == "maker",
            Privacy: run.Steps.Where(s => run.State.Over.GetValueOrDefault(s.Id)?.Kind == RunEventKinds.Done)
                .Select(s => s.Does.GetValueOrDefault("privacy"))
                .LastOrDefault(p => p is not null),
            lines,
            run.By,
            finished,
            now.Word(OwnerWords.LanguageKey) ?? OwnerWords.Own,
            new SealedRecord(run.Id, run.Events.Count, run.Head, run.RowSealed)
        );
    }

    /// <summary>
    /// Every finding that was not clear when the plan was made, as it was: what the catalogue learns later changes nothing of what
    /// was done. What nobody has measured to this day is said as well.
    /// </summary>
    private IReadOnlyList<string> ToKnow(Dossier first, Dossier now, StoredRun run) =>
        [
            .. run.Route.Caveats,
            .. now.Word("firmware.boardProof") == "no"
                ? ["Its firmware was replaced with an image of which nobody proved that it is for this board."]
                : Array.Empty<string>(),
            // What an update takes away comes back by a visit: how one sees it, and how long it takes.
            .. run.Route.System is { } system && run.Route.Cures.Any(c => c.Kind == Outcome.Spoof)
                ? shop
                    .Catalogue.PatchesAfter(first, system)
                    .Select(p =>
                        $"After a large update: {p.Sign} Then bring it back; it takes about {p.Minutes} minutes."
                    )
                : [],
            .. run
                .Route.Assumes.Where(key => now[key] is null)
                .Select(key => $"Nobody has measured: {FactRegistry.Label(key)}."),
        ];

    private static string Why(string cure, Assessment before) =>
        before
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => f.Cures.Any(c => c.Id == cure))
            .Select(f => $"asked for {f.Needed}, had {(f.Found.Length == 0 ? "nothing of it" : f.Found)}")
            .FirstOrDefault()
        ?? "";

    private static RefusedException Refuse(string what, string wanted) =>
        new(RefusalKind.Conflict, what, "handover", wanted);
}
