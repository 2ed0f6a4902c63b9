using System.Security.Cryptography;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Preparation;

namespace FreshBoot.Server.Runs;

/// <summary>Takes what is said of a run, and shows where it stands.</summary>
internal sealed class FollowRun(RunStore runs, MachineStore machines, MachineWork work, Shop shop)
{
    private const int MostData = 10;
    private const int LongestKey = 40;
    private const int LongestText = 2000;

    /// <summary>Small letters and digits that are not taken for one another when somebody types them.</summary>
    private const string CodeSigns = "abcdefghjkmnpqrstuvwxyz23456789";
    private const int CodeLength = 8;

    /// <summary>Takes an event at the step whose turn it is.</summary>
    public async Task<RunSheetView> SayAsync(string id, RunEventIn said, CancellationToken stop)
    {
        Check(said);
        var before = await runs.GetAsync(id, stop);
        var machine = await machines.GetAsync(before.Tag, stop);
        var items = await work.ItemsAsync(machine, before.Route, stop);
        var run = await runs.TakeAsync(
            id,
            said,
            r => Context(r, machine, items),
            r => RunRules.Adds(r.Steps[r.State.Current], said.Kind, items, FreshCode),
            stop
        );
        return Show(run, machine, items);
    }

    /// <summary>A run as its page shows it.</summary>
    public async Task<RunSheetView> ShowAsync(StoredRun run, CancellationToken stop)
    {
        var machine = await machines.GetAsync(run.Tag, stop);
        // What was used stands in the record; a run that is over needs nothing made any more.
        var items = run.State.FinishedAt is null ? await work.ItemsAsync(machine, run.Route, stop) : [];
        return Show(run, machine, items);
    }

    /// <summary>Whether a new bundle of the machine carries the code of the run's second probe.</summary>
    public static bool Proved(StoredRun run, StoredMachine machine) =>
        run.State.Code is { } code && machine.Codes.Contains(code);

    /// <summary>The acceptance list of a run.</summary>
    public IReadOnlyList<AcceptanceLine> Accept(StoredRun run, StoredMachine machine) =>
        run.Route.System is { } id && shop.Catalogue.System(id) is { } system
            ? Acceptance.Lines(
                Derivation.Complete(run.Readings, shop.Catalogue),
                shop.Dossier(machine),
                Proved(run, machine),
                new Plan(shop.Today, run.Route.Cures),
                system,
                run.State
            )
            : [];

    private static string FreshCode() => RandomNumberGenerator.GetString(CodeSigns, CodeLength);

    private static void Check(RunEventIn said)
    {
        Given.Text(said.EventId, "eventId", 100);
        Given.Text(said.StepId, "stepId", 100);
        Given.Text(said.By, "by", 60);
        if (said.Data is not { } data)
            return;
        if (
            data.Count > MostData
            || data.Any(d => d.Key.Length > LongestKey || d.Value is null || d.Value.Length > LongestText)
        )
            throw new RefusedException(
                RefusalKind.Invalid,
                "Too much goes with the event, or nothing where a text should be.",
                "data",
                $"At most {MostData} texts of at most {LongestText} characters."
            );
        if (data.Keys.FirstOrDefault(RunRules.AddedByServer.Contains) is { } key)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{key}” is added by the server.",
                $"data.{key}",
                "The event without it."
            );
    }

    private static RunContext Context(StoredRun run, StoredMachine machine, IReadOnlyList<WorkItem> items) =>
        new(
            run.Tag,
            machine.Codes,
            key => machine.Readings.Any(r => r.Key == key && r.Receipt >= run.ReceiptAtStart),
            items
        );

    private RunSheetView Show(StoredRun run, StoredMachine machine, IReadOnlyList<WorkItem> items) =>
        new(
            run.Id,
            run.Tag,
            run.Route.System,
            run.Route.School,
            run.By,
            run.StartedAt,
            run.Steps,
            run.Events,
            run.Events.Count,
            run.State,
            run.BrokenAt is { } at ? $"broken at event {at}" : "whole",
            items,
            Proved(run, machine),
            Accept(run, machine),
            run.Override
        );
}
