using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Runs;

namespace FreshBoot.Server.Handover;

/// <summary>Something that was changed on the machine, and why.</summary>
/// <param name="What">What was done.</param>
/// <param name="Why">The finding that asked for it.</param>
internal sealed record Changed(string What, string Why);

/// <summary>The sheet for the new owner.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Machine">Maker and model.</param>
/// <param name="Serial">Serial number of the casing.</param>
/// <param name="System">What runs on it; null where the machine was retired.</param>
/// <param name="SupportEnds">The last day of updates; null where no end is set.</param>
/// <param name="Hardware">Processor, memory, drive.</param>
/// <param name="Changed">What was changed and why.</param>
/// <param name="Used">What it was installed from: image, recipes, medium, as the record has them.</param>
/// <param name="Despite">Where a step went on without something, and why.</param>
/// <param name="ToKnow">What does not work, or wants knowing.</param>
/// <param name="Acceptance">What was proved.</param>
/// <param name="Open">What is still open; nothing may be.</param>
/// <param name="By">Who did it.</param>
/// <param name="FinishedAt">When it was finished.</param>
internal sealed record HandoverSheet(
    string Tag,
    string Machine,
    string? Serial,
    string? System,
    DateOnly? SupportEnds,
    IReadOnlyList<string> Hardware,
    IReadOnlyList<Changed> Changed,
    IReadOnlyList<string> Used,
    IReadOnlyList<string> Despite,
    IReadOnlyList<string> ToKnow,
    IReadOnlyList<AcceptanceLine> Acceptance,
    IReadOnlyList<string> Open,
    string By,
    DateTimeOffset FinishedAt
);

/// <summary>Makes the sheet for the new owner; while something is open there is none.</summary>
internal sealed class MakeHandover(MachineStore machines, RunStore runs, FollowRun follow, Shop shop)
{
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
            throw Refuse($"The record is broken at event {at}: it proves nothing.", "The record as it was written.");
        var lines = await follow.AcceptAsync(run, machine, stop);
        string[] open =
        [
            .. run.State.Open.Select(o => $"{o}: close it again"),
            .. run.State.FinishedAt is null
                ? [$"step {run.State.Current + 1} of {run.Steps.Count}: {run.Steps[run.State.Current].Text}"]
                : Array.Empty<string>(),
            .. lines.Where(l => l.Proof is not (Proof.Proved or Proof.Accepted)).Select(l => $"{l.Line}: {l.Says}"),
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
            system?.EndsFor(now, run.Route.Cures.Any(c => c.Extends == system.Id)),
            [
                .. new[]
                {
                    Say("cpu.model"),
                    Say("memory.installedMiB") is { } memory ? $"{memory} of memory" : null,
                    Say("storage.0.sizeBytes") is { } drive ? $"{drive} drive" : null,
                }.OfType<string>(),
            ],
            system is null
                ? []
                :
                [
                    .. run.Route.Cures.Select(c => new Changed(
                        c.Does,
                        Why(c.Id, shop.Now.Evaluator.Assess(first, system, new Plan(shop.Today)))
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
            lines,
            [],
            run.By,
            finished
        );
    }

    /// <summary>
    /// Every finding that was not clear when the plan was made, as it was: what the catalogue learns later changes nothing of what
    /// was done. What nobody has measured to this day is said as well.
    /// </summary>
    private IReadOnlyList<string> ToKnow(Dossier first, Dossier now, StoredRun run) =>
        [
            .. run.Route.Caveats,
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
