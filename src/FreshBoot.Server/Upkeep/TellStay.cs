using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Upkeep;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Handover;

namespace FreshBoot.Server.Upkeep;

/// <summary>A machine that has left, or came back: what whoever has it in hand wants to know before anything else.</summary>
/// <param name="LeftAt">When it left.</param>
/// <param name="LeftBy">Who said so.</param>
/// <param name="BackAt">When it came back; null while it is away.</param>
/// <param name="BackBy">Who said so.</param>
/// <param name="DaysAway">How long it has been away, or was.</param>
/// <param name="Run">Id of the run with which it left.</param>
/// <param name="System">The system with which it left; null where it was at its end.</param>
/// <param name="School">How it got it.</param>
/// <param name="By">Who made it ready.</param>
/// <param name="FinishedAt">When it was ready.</param>
/// <param name="Changed">What was done to it.</param>
/// <param name="Told">What its owner was told of it.</param>
/// <param name="Since">What has fallen due since it left.</param>
/// <param name="Asks">Labels of what is asked anew and nobody has answered yet; empty while it is away.</param>
/// <param name="Begun">Whether a run was begun since it came back.</param>
internal sealed record Stay(
    DateTimeOffset LeftAt,
    string? LeftBy,
    DateTimeOffset? BackAt,
    string? BackBy,
    int DaysAway,
    string Run,
    string? System,
    School School,
    string By,
    DateTimeOffset FinishedAt,
    IReadOnlyList<string> Changed,
    IReadOnlyList<string> Told,
    IReadOnlyList<string> Since,
    IReadOnlyList<string> Asks,
    bool Begun
);

/// <summary>Tells of a machine that has left what it left with, and what has happened since.</summary>
internal sealed class TellStay(
    MachineStore machines,
    RunStore runs,
    LookAfter after,
    OwnerLanguages languages,
    Shop shop,
    TimeProvider clock
)
{
    /// <summary>What is known of it.</summary>
    /// <exception cref="RefusedException">It has never left.</exception>
    public async Task<Stay> OfAsync(string tag, CancellationToken stop)
    {
        var history = await machines.HistoryAsync(tag, FactRegistry.Left, stop);
        var left = history.FirstOrDefault(r => r.Value == FactValue.Of("yes"));
        var run = left is null
            ? null
            : (await runs.AllOfAsync(tag, stop)).LastOrDefault(r => r.State.FinishedAt <= left.TakenAt);
        if (left is null || run?.State.FinishedAt is not { } finished)
            throw new RefusedException(
                RefusalKind.Missing,
                $"{tag} has never left.",
                "tag",
                "A machine that was handed over."
            );
        var back = history.FirstOrDefault(r => r.Value == FactValue.Of("no") && r.TakenAt >= left.TakenAt);
        var machine = await machines.GetAsync(tag, stop);
        var facts = shop.Dossier(machine);
        var kept = after.Kept(facts, run, left.TakenAt);
        var until = after.Day(back?.TakenAt ?? clock.GetUtcNow());
        return new Stay(
            left.TakenAt,
            left.By,
            back?.TakenAt,
            back?.By,
            until.DayNumber - kept.LeftOn.DayNumber,
            run.Id,
            run.Route.System is { } id ? shop.Catalogue.System(id)?.FullName ?? id : null,
            run.Route.School,
            run.By,
            finished,
            [.. run.Route.Cures.Select(c => c.Does)],
            [.. languages.Of(OwnerWords.Own).Told(run.Route.Caveats)],
            [
                .. DueList
                    .Of([kept], shop.Catalogue, shop.Today)
                    .Where(d => d.On >= kept.LeftOn && d.On <= shop.Today)
                    .Select(d => $"{d.On:d MMM yyyy}: {d.What}. {d.Why}"),
            ],
            back is null ? [] : [.. ComingBack.StillAsked(facts).Select(FactRegistry.Label)],
            back is not null && (await runs.LatestOfAsync(tag, stop))?.Id != run.Id
        );
    }
}
