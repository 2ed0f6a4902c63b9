using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Diagnosis;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Runs;
using FreshBoot.Server.Sheets;

namespace FreshBoot.Server.Diagnosis;

/// <summary>A machine that stopped.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Rung">How far it got: the rung that it does not get past.</param>
/// <param name="Run">The run that stopped; null for a machine without one.</param>
/// <param name="Message">What it printed, or somebody read from its screen.</param>
/// <param name="By">Who asks.</param>
internal sealed record DiagnosisIn(
    [property: Tag] string Tag,
    Rung Rung,
    string? Run = null,
    string? Message = null,
    [property: Line(60)] string By = "nobody"
);

/// <summary>What a check showed.</summary>
internal sealed record AnswerIn(string Check, string Seen);

/// <summary>A cause that somebody mends.</summary>
internal sealed record MendIn(string Cause, [property: Line(60)] string By);

/// <summary>A cause as it stands.</summary>
/// <param name="Cause">Its id.</param>
/// <param name="About">It in a sentence.</param>
/// <param name="Rung">Its rung.</param>
/// <param name="Chance">0 to 1.</param>
/// <param name="Why">The arguments, in words.</param>
/// <param name="Found">How often this shop found it before.</param>
/// <param name="Mend">What is done about it.</param>
internal sealed record CauseSheet(
    string Cause,
    string About,
    Rung Rung,
    double Chance,
    IReadOnlyList<string> Why,
    int Found,
    CauseMend Mend
);

/// <summary>Something that a check may show.</summary>
internal sealed record ShownSheet(string Id, string Text);

/// <summary>A check that may be made.</summary>
/// <param name="Check">Its id.</param>
/// <param name="Text">What to do, and what to look for.</param>
/// <param name="Caution">What could be hurt or lost.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="Risk">What it may do to the machine.</param>
/// <param name="Gain">What it tells, in bits.</param>
/// <param name="Shows">What may be seen.</param>
internal sealed record CheckSheet(
    string Check,
    string Text,
    string? Caution,
    int Minutes,
    CheckRisk Risk,
    double Gain,
    IReadOnlyList<ShownSheet> Shows
);

/// <summary>What was looked at and seen.</summary>
internal sealed record AnsweredSheet(string Check, string Text, string Seen, string SeenText);

/// <summary>A search for why a machine stopped, as it stands.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Tag">The machine.</param>
/// <param name="Run">The run that stopped; null without one.</param>
/// <param name="Rung">How far it got.</param>
/// <param name="Sees">The same in words of what one sees.</param>
/// <param name="Message">What it printed.</param>
/// <param name="Causes">Causes worth a line, the likeliest first.</param>
/// <param name="Next">The check that tells most in a minute; null where one cause is sure enough.</param>
/// <param name="Others">Other checks that tell something.</param>
/// <param name="Answers">What was looked at.</param>
/// <param name="Cause">The cause that was mended; null while it goes on.</param>
/// <param name="Recorded">Stops that the shop has recorded.</param>
/// <param name="Excluded">Causes of this rung that cannot be, with the reason.</param>
internal sealed record DiagnosisSheet(
    int Id,
    string Tag,
    string? Run,
    Rung Rung,
    string Sees,
    string? Message,
    IReadOnlyList<CauseSheet> Causes,
    CheckSheet? Next,
    IReadOnlyList<CheckSheet> Others,
    IReadOnlyList<AnsweredSheet> Answers,
    string? Cause,
    int Recorded,
    IReadOnlyList<ExcludedCause> Excluded
);

/// <summary>A cause that cannot be the one.</summary>
/// <param name="Cause">Its id.</param>
/// <param name="About">It in a sentence.</param>
/// <param name="Why">Why it cannot be.</param>
internal sealed record ExcludedCause(string Cause, string About, string Why);

/// <summary>Finds why a machine stopped, and puts what mends it into its run.</summary>
internal sealed class FindFault(
    DiagnosisStore searches,
    MachineStore machines,
    RunStore runs,
    FollowRun follow,
    ComposeSheet sheets,
    Shop shop
)
{
    private const int MostMessage = 20_000;
    private const int MostOthers = 6;

    /// <summary>A cause that is less likely is not worth a line.</summary>
    private const double WorthALine = 0.01;

    /// <summary>Begins a search.</summary>
    /// <exception cref="RefusedException">No such machine; the run is another machine's, or is not stopped.</exception>
    public async Task<DiagnosisSheet> BeginAsync(DiagnosisIn asked, CancellationToken stop)
    {
        var machine = await machines.GetAsync(Given.Tag(asked.Tag, "tag"), stop);
        var by = Given.Text(asked.By, "by", 60);
        if (asked.Message?.Length > MostMessage)
            throw new RefusedException(
                RefusalKind.Invalid,
                "The message is too long.",
                "message",
                $"At most {MostMessage} characters: the last lines tell most."
            );
        string? step = null;
        if (asked.Run is { } id)
        {
            var run = await runs.GetAsync(id, stop);
            if (!string.Equals(run.Tag, machine.Tag, StringComparison.OrdinalIgnoreCase))
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"That run is one of {run.Tag}.",
                    "run",
                    $"A run of {machine.Tag}."
                );
            if (!run.State.Stopped)
                throw new RefusedException(
                    RefusalKind.Conflict,
                    "The run is not stopped: there is nothing to find.",
                    "run",
                    "A run that stopped, with what is seen."
                );
            step = run.Steps[run.State.Current].Id;
        }
        var row = await searches.AddAsync(
            at => new DiagnosisRow
            {
                Tag = machine.Tag,
                RunId = asked.Run,
                StepId = step,
                Rung = asked.Rung,
                Message = string.IsNullOrWhiteSpace(asked.Message) ? null : asked.Message,
                By = by,
                At = at,
            },
            stop
        );
        return await ShowAsync(row, machine, stop);
    }

    /// <summary>A search as it stands.</summary>
    public async Task<DiagnosisSheet> GetAsync(int id, CancellationToken stop)
    {
        var row = await searches.GetAsync(id, stop);
        return await ShowAsync(row, await machines.GetAsync(row.Tag, stop), stop);
    }

    /// <summary>The searches of a machine that are still open, the latest first.</summary>
    public async Task<IReadOnlyList<DiagnosisSheet>> OpenAsync(string tag, CancellationToken stop)
    {
        var machine = await machines.GetAsync(tag, stop);
        var open = new List<DiagnosisSheet>();
        foreach (var row in (await searches.OfAsync(machine.Tag, stop)).Where(d => d.EndedAt is null).Take(1))
            open.Add(await ShowAsync(row, machine, stop));
        return open;
    }

    /// <summary>Takes what a check showed; the same check again takes the place of what was said before.</summary>
    /// <exception cref="RefusedException">No such check, or it cannot show that.</exception>
    public async Task<DiagnosisSheet> AnswerAsync(int id, AnswerIn answer, CancellationToken stop)
    {
        var check =
            shop.Catalogue.Checks.FirstOrDefault(c => c.Id == answer.Check)
            ?? throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no check “{answer.Check}”.",
                "check",
                "A check of the catalogue."
            );
        if (check.Shows.All(s => s.Id != answer.Seen))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{check.Text}” cannot show “{answer.Seen}”.",
                "seen",
                $"{Numbers.Join(check.Shows.Select(s => $"“{s.Id}”"), "or")}."
            );
        var row = await searches.ChangeAsync(
            id,
            (r, _) =>
                r.Answers = JsonSerializer.Serialize(
                    r.Seen.Where(a => a.Check != answer.Check)
                        .Append(new CheckAnswer(answer.Check, answer.Seen))
                        .ToArray(),
                    JsonSerializerOptions.Web
                ),
            stop
        );
        return await ShowAsync(row, await machines.GetAsync(row.Tag, stop), stop);
    }

    /// <summary>
    /// Ends a search with the cause that is mended. What mends it becomes the next step of the run that stopped, and the run goes
    /// on; a cause that nothing mends here leaves the run stopped, to be given up.
    /// </summary>
    /// <exception cref="RefusedException">No such cause, or the search has ended.</exception>
    public async Task<DiagnosisSheet> MendAsync(int id, MendIn mend, CancellationToken stop)
    {
        var by = Given.Text(mend.By, "by", 60);
        var cause =
            shop.Catalogue.Causes.FirstOrDefault(c => c.Id == mend.Cause)
            ?? throw new RefusedException(
                RefusalKind.Invalid,
                $"There is no cause “{mend.Cause}”.",
                "cause",
                "A cause of the catalogue."
            );
        var before = await searches.GetAsync(id, stop);
        var sheet = await ShowAsync(before, await machines.GetAsync(before.Tag, stop), stop);
        // Something was mended at this step before, and it stopped again: two things have changed, and none of them teaches.
        var again = before is { RunId: { } run, StepId: { } at } && await searches.UnteachAsync(run, at, stop);
        var row = await searches.ChangeAsync(
            id,
            (r, now) =>
            {
                r.Cause = cause.Id;
                r.Teaches = !again;
                r.EndedAt = now;
            },
            stop
        );
        if (row.RunId is { } runId && !cause.Mend.Ends)
        {
            var stopped = await runs.GetAsync(runId, stop);
            var found = sheet.Causes.FirstOrDefault(c => c.Cause == cause.Id);
            await follow.SayAsync(
                runId,
                new RunEventIn(
                    $"found-{row.Id}",
                    stopped.Events.Count,
                    RunEventKinds.Found,
                    stopped.Steps[stopped.State.Current].Id,
                    by,
                    new Dictionary<string, string>
                    {
                        [MendStep.Cause] = cause.About,
                        [MendStep.Words] = cause.Mend.Text,
                        [MendStep.Minutes] = $"{cause.Mend.Minutes}",
                        [MendStep.Caution] = cause.Mend.Caution ?? "",
                        [MendStep.Loses] = cause.Mend.LosesData ? "yes" : "no",
                        [RunRules.Text] = found is null
                            ? ""
                            : $"{FaultFinder.Percent(found.Chance)}{(found.Why.Count > 0 ? $"; {string.Join("; ", found.Why.TakeLast(3))}" : "")}",
                    }
                ),
                stop
            );
        }
        return await ShowAsync(row, await machines.GetAsync(row.Tag, stop), stop);
    }

    /// <summary>The machine with its plan: of the run that stopped, else of the best route to its aim.</summary>
    private async Task<IFacts> FactsAsync(DiagnosisRow row, StoredMachine machine, CancellationToken stop)
    {
        var standing = shop.Stand(machine);
        var route = row.RunId is { } id
            ? (await runs.GetAsync(id, stop)).Route
            : standing.RoutesNow(stop).FirstOrDefault(r => r.System == standing.Aim.System);
        return route is null ? standing.Dossier : (await sheets.QuestionAsync(standing, route, stop)).RouteFacts;
    }

    private async Task<DiagnosisSheet> ShowAsync(DiagnosisRow row, StoredMachine machine, CancellationToken stop)
    {
        var found = await searches.FoundAsync(stop);
        var finder = new FaultFinder(
            new FaultQuestion(
                row.Rung,
                await FactsAsync(row, machine, stop),
                shop.Catalogue.Causes,
                shop.Catalogue.Checks,
                found,
                row.Message
            )
        );
        // What the catalogue has taken out since counts no more.
        var seen = row
            .Seen.Where(a => shop.Catalogue.Checks.Any(c => c.Id == a.Check && c.Shows.Any(s => s.Id == a.Seen)))
            .ToArray();
        var causes = finder.After(seen);
        var next = row.EndedAt is null ? finder.Next(seen) : [];
        return new DiagnosisSheet(
            row.Id,
            row.Tag,
            row.RunId,
            row.Rung,
            HowFar.All[(int)row.Rung].Sees,
            row.Message,
            [.. causes.Where((c, i) => i < 3 || c.Chance >= WorthALine).Select(Sheet)],
            next.Count > 0 ? Sheet(next[0]) : null,
            [.. next.Skip(1).Take(MostOthers).Select(Sheet)],
            [.. seen.Select(a => Answered(shop.Catalogue.Checks, a))],
            row.Cause,
            found.Sum(f => f.Times),
            [.. finder.Excluded.Select(x => new ExcludedCause(x.Cause.Id, x.Cause.About, x.Why))]
        );
    }

    internal static CauseSheet Sheet(CauseChance cause) =>
        new(
            cause.Cause.Id,
            cause.Cause.About,
            cause.Cause.Rung,
            Math.Round(cause.Chance, 4),
            cause.Why,
            cause.Found,
            cause.Cause.Mend
        );

    internal static AnsweredSheet Answered(IEnumerable<CheckEntry> checks, CheckAnswer answer)
    {
        var check = checks.First(c => c.Id == answer.Check);
        return new AnsweredSheet(
            answer.Check,
            check.Text,
            answer.Seen,
            check.Shows.First(s => s.Id == answer.Seen).Text
        );
    }

    internal static CheckSheet Sheet(CheckGain gain) =>
        new(
            gain.Check.Id,
            gain.Check.Text,
            gain.Check.Caution,
            gain.Check.Minutes,
            gain.Check.Risk,
            Math.Round(gain.Bits, 3),
            [.. gain.Check.Shows.Select(s => new ShownSheet(s.Id, s.Text))]
        );
}
