using System.Security.Cryptography;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Preparation;

namespace FreshBoot.Server.Runs;

/// <summary>Takes what is said of a run, and shows where it stands.</summary>
internal sealed class FollowRun(
    RunStore runs,
    MachineStore machines,
    MachineIndex index,
    PhotoStore photos,
    MachineWork work,
    Shop shop,
    TimeProvider clock
)
{
    private const string BoardKey = "identity.board";

    /// <summary>The fact by which a person says that it is the machine that was taken in.</summary>
    public const string LookedKey = "identity.looked";
    private const int MostData = 10;
    private const int LongestKey = 40;
    private const int LongestText = 2000;

    /// <summary>Longest output of a command that is kept, in characters: a failure may stand far before the end.</summary>
    public const int LongestOutput = 20_000;

    /// <summary>Small letters and digits that are not taken for one another when somebody types them.</summary>
    private const string CodeSigns = "abcdefghjkmnpqrstuvwxyz23456789";
    private const int CodeLength = 8;

    /// <summary>Takes an event at the step whose turn it is.</summary>
    public async Task<RunSheetView> SayAsync(string id, RunEventIn said, CancellationToken stop)
    {
        said = Checked(said);
        var before = await runs.GetAsync(id, stop);
        var machine = await machines.GetAsync(before.Tag, stop);
        var items = await work.ItemsAsync(machine, before.Route, stop);
        // Evidence names a photograph that is there; what is no number is none.
        if (said.Kind == RunEventKinds.Photo)
            await photos.FindAsync(
                before.Tag,
                int.TryParse(said.Data?.GetValueOrDefault(RunRules.Photo), out var photo) ? photo : 0,
                stop
            );
        var shortfalls = before.State.Code is null ? [] : Shortfalls(await AcceptAsync(before, machine, stop));
        var run = await runs.TakeAsync(
            id,
            said,
            r => Context(r, machine, items, shortfalls),
            r => RunRules.Adds(r.Steps[r.State.Current], said.Kind, said.Data, items, shortfalls, FreshCode),
            stop
        );
        machine = await LeaveAsync(run, machine, stop);
        // A machine that starts nothing is marked so: the next plan must not count on the system that was on it.
        if (said.Kind == RunEventKinds.GivenUp && said.Data?.GetValueOrDefault(RunRules.Starts) == "no")
            machine = await machines.EnterAsync(
                machine.Tag,
                new Reading(
                    "os.works",
                    FactValue.Of("no"),
                    "a run was given up",
                    Origin.Entered,
                    clock.GetUtcNow(),
                    said.By
                ),
                stop
            );
        return await ShowAsync(run, machine, items, stop);
    }

    /// <summary>
    /// What the work left goes into the dossier: the next question is asked of the machine as it is now. What could not be written then
    /// is written with the next event.
    /// </summary>
    private async Task<StoredMachine> LeaveAsync(StoredRun run, StoredMachine machine, CancellationToken stop)
    {
        var news = WorkLeft.News(WorkLeft.Of(run.Steps, run.State), machine.Readings, run.ReceiptAtStart);
        if (news.Count == 0)
            return machine;
        string Source(LeftFact left) => $"left by the work, step {left.Step}";
        return await machines.LeaveAsync(
            run.Tag,
            [
                .. news.Where(n => n.Value is not null)
                    .Select(n => new Reading(n.Key, n.Value!, Source(n), Origin.Work, n.At, n.By)),
            ],
            [.. news.Where(n => n.Value is null).Select(n => n.Key)],
            Source(news[^1]),
            news[^1].By,
            stop
        );
    }

    /// <summary>A run as its page shows it.</summary>
    public async Task<RunSheetView> ShowAsync(StoredRun run, CancellationToken stop)
    {
        var machine = await machines.GetAsync(run.Tag, stop);
        // What was used stands in the record; a run that is over needs nothing made any more.
        var items = run.State.IsOpen ? await work.ItemsAsync(machine, run.Route, stop) : [];
        return await ShowAsync(run, machine, items, stop);
    }

    /// <summary>Whether a new bundle of the machine carries the code of the run's second probe.</summary>
    public static bool Proved(StoredRun run, StoredMachine machine) =>
        run.State.Code is { } code && machine.Codes.Contains(code);

    /// <summary>The acceptance list of a run.</summary>
    public async Task<IReadOnlyList<AcceptanceLine>> AcceptAsync(
        StoredRun run,
        StoredMachine machine,
        CancellationToken stop
    )
    {
        if (run.Route.System is not { } id || shop.Catalogue.System(id) is not { } system)
            return [];
        var since = machine.Readings.Where(r => r.Receipt >= run.ReceiptAtStart).ToArray();
        var probed = since.Where(r => r.Origin == Origin.Probed).ToArray();
        // A bundle's readings come in together and carry its time: of several the last one counts.
        var last = probed.MaxBy(r => r.Receipt)?.TakenAt;
        return Acceptance.Lines(
            new AcceptanceQuestion(
                Derivation.Complete(run.Readings, shop.Catalogue),
                // What the work is said to have left proves nothing: only what was measured since does.
                Derivation.Complete(machine.Readings.Where(r => r.Origin != Origin.Work), shop.Catalogue),
                Proved(run, machine) ? [.. probed.Where(r => r.TakenAt == last)] : null,
                new Plan(shop.Today, run.Route.Cures),
                system,
                run.Steps,
                run.State,
                await index.SamenessAsync(machine.Tag, Dossier.From(run.Readings), Dossier.From(probed), stop),
                since.FirstOrDefault(r => r.Key == LookedKey && r.Value.Equals(FactValue.Of("yes")))?.By
            )
            {
                ProbedFirst = [.. run.Readings.Where(r => r.Origin == Origin.Probed)],
            }
        );
    }

    /// <summary>What the second probe shows to be otherwise than planned, and nobody answers for.</summary>
    private static Shortfall[] Shortfalls(IReadOnlyList<AcceptanceLine> lines) =>
        [.. lines.Where(l => l.Proof == Proof.Failed).Select(l => new Shortfall(l.Id, l.Line, l.Says, l.MayAccept))];

    /// <summary>A code for a second probe, of a run or of a twin.</summary>
    public static string FreshCode() => RandomNumberGenerator.GetString(CodeSigns, CodeLength);

    /// <summary>What is said as it is sealed: composed, and without signs that nobody sees.</summary>
    private static RunEventIn Checked(RunEventIn said)
    {
        Given.Text(said.EventId, "eventId", 100);
        Given.Text(said.StepId, "stepId", 100);
        said = said with { By = Given.Text(said.By, "by", 60) };
        if (said.Data is not { } data)
            return said;
        var longest = said.Kind == RunEventKinds.Output ? LongestOutput : LongestText;
        if (
            data.Count > MostData
            || data.Any(d => d.Key.Length > LongestKey || d.Value is null || d.Value.Length > longest)
        )
            throw new RefusedException(
                RefusalKind.Invalid,
                "Too much goes with the event, or nothing where a text should be.",
                "data",
                $"At most {MostData} texts of at most {longest} characters."
            );
        if (data.Keys.FirstOrDefault(RunRules.AddedByServer.Contains) is { } key)
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{key}” is added by the server.",
                $"data.{key}",
                "The event without it."
            );
        // What a program printed is kept with such signs shown; a person's words are refused with them.
        var printed = said.Kind == RunEventKinds.Output;
        if (!printed && data.FirstOrDefault(d => !PlainText.IsPlain(d.Value, lines: true)) is { Key: { } odd })
            throw new RefusedException(
                RefusalKind.Invalid,
                "It has signs that nobody sees, or that turn the direction of writing.",
                $"data.{odd}",
                "The text without them."
            );
        return said with
        {
            Data = data.ToDictionary(
                d => d.Key,
                d => PlainText.Composed(printed ? PlainText.Printed(d.Value) : d.Value),
                StringComparer.Ordinal
            ),
        };
    }

    private RunContext Context(
        StoredRun run,
        StoredMachine machine,
        IReadOnlyList<WorkItem> items,
        IReadOnlyList<Shortfall> shortfalls
    ) =>
        new(
            run.Tag,
            machine.Codes,
            key => machine.Readings.Any(r => r.Key == key && r.Receipt >= run.ReceiptAtStart),
            items,
            clock.GetUtcNow(),
            key =>
                run.Route.System is { } id && shop.Catalogue.System(id) is { } system
                    ? Expected.Against(key, shop.Dossier(machine), run.Route, system, shop.Now.Evaluator, shop.Today)
                    : null
        )
        {
            Shortfalls = shortfalls,
        };

    /// <summary>What worked on the same board before; only a step that tries asks.</summary>
    private async Task<WorkedBefore?> WorkedAsync(StoredRun run, StoredMachine machine, CancellationToken stop)
    {
        if (
            !run.State.IsOpen
            || run.Steps[run.State.Current] is not { Kind: StepKind.Trial } step
            || shop.Dossier(machine).Word(BoardKey) is not { } board
        )
            return null;
        return await runs.WorkedAsync(step.Id, (await index.AlikeAsync(BoardKey, board, stop)).Contains, stop);
    }

    private async Task<RunSheetView> ShowAsync(
        StoredRun run,
        StoredMachine machine,
        IReadOnlyList<WorkItem> items,
        CancellationToken stop
    ) =>
        new(
            run.Id,
            run.Tag,
            run.Route.System,
            run.Route.School,
            run.By,
            run.StartedAt,
            run.Steps,
            Stop.Of(run.Steps),
            run.Events,
            run.Events.Count,
            run.State,
            run.BrokenAt is { } at ? $"broken at {EventChain.Place(at)}" : "whole",
            items,
            Proved(run, machine),
            await AcceptAsync(run, machine, stop),
            run.Override,
            await WorkedAsync(run, machine, stop)
        );
}
