using FreshBoot.Core.Diagnosis;
using FreshBoot.Core.Reckoning;
using FreshBoot.Data.Diagnosis;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Rehearsal;

/// <summary>How a plan is walked by reckoning.</summary>
/// <param name="Walks">How many walks.</param>
/// <param name="Seed">The seed: the same one gives the same walks.</param>
/// <param name="If">What somebody wants to know; null for the plan as it is.</param>
internal sealed record RehearsalIn(int Walks = 10_000, int Seed = 1, Supposing? If = null);

/// <summary>Where a plan would stop.</summary>
/// <param name="Rung">The rung.</param>
/// <param name="Cause">The cause, by its id.</param>
/// <param name="About">It in a sentence.</param>
/// <param name="Evidence">What it is known from.</param>
/// <param name="Cure">What is done about it before the work begins.</param>
internal sealed record StopSheet(Rung Rung, string Cause, string About, string Evidence, string Cure);

/// <summary>A plan walked by reckoning.</summary>
/// <param name="RouteId">The route.</param>
/// <param name="System">Its system; null where nothing is installed.</param>
/// <param name="School">Its school.</param>
/// <param name="Steps">Steps of its sheet.</param>
/// <param name="StopsAt">Where it stops, in climbing order; empty where nothing stands in its way.</param>
/// <param name="Minutes">When it is finished; null where there is no sheet to walk.</param>
/// <param name="HandsOn">Minutes with hands on it.</param>
/// <param name="SheetHandsOn">Minutes with hands on it as the sheet and its route say them: nothing goes wrong.</param>
/// <param name="SheetInAll">Minutes of the sheet with its waits.</param>
/// <param name="Finishes">How many of all walks finish, 0 to 1.</param>
/// <param name="Failures">What may go wrong.</param>
/// <param name="By">For each twentieth of the walks that finish, the minutes by which they are done.</param>
/// <param name="Walks">How many walks.</param>
/// <param name="Seed">Their seed.</param>
/// <param name="Learned">Recorded steps that the times rest on.</param>
/// <param name="Runs">Recorded runs.</param>
/// <param name="Found">Recorded stops that the chances rest on.</param>
/// <param name="Pace">The shop’s pace beside the catalogue’s, 1 for the same.</param>
internal sealed record RehearsalSheet(
    string RouteId,
    string? System,
    School School,
    int Steps,
    IReadOnlyList<StopSheet> StopsAt,
    Minutes? Minutes,
    int HandsOn,
    int SheetHandsOn,
    int SheetInAll,
    double Finishes,
    IReadOnlyList<ForecastFailure> Failures,
    IReadOnlyList<int> By,
    int Walks,
    int Seed,
    int Learned,
    int Runs,
    int Found,
    double Pace
);

/// <summary>Walks a route by reckoning: where it would stop, and, many times by chance, how long it takes and what goes wrong.</summary>
internal sealed class Rehearse(
    MachineStore machines,
    RunStore runs,
    DiagnosisStore searches,
    PlanAtHand plans,
    Shop shop
)
{
    public async Task<RehearsalSheet> DoAsync(string tag, string routeId, RehearsalIn asked, CancellationToken stop)
    {
        var standing = shop.Stand(await machines.GetAsync(Given.Tag(tag, "tag"), stop));
        var route = standing.Route(routeId, stop);
        var question = await plans.OfAsync(standing, route, asked.If ?? Supposing.AsPlanned, stop);
        var (times, recorded) = await runs.TimesAsync(stop);
        var learned = new LearnedTimes(times);
        var found = await searches.FoundAsync(stop);
        var result =
            question.Composed.Steps.Count == 0
                ? null
                : Forecast.Walk(
                    new ForecastQuestion(
                        question.Composed.Steps,
                        new FaultQuestion(
                            Rung.Medium,
                            question.Sheet.RouteFacts,
                            shop.Catalogue.Causes,
                            shop.Catalogue.Checks,
                            found
                        ),
                        learned,
                        recorded
                    ),
                    asked.Walks,
                    asked.Seed
                );
        return new RehearsalSheet(
            route.Id,
            route.System,
            route.School,
            question.Composed.Steps.Count(s => s.On is null),
            [
                .. Reckoner
                    .Stops(question)
                    .Select(s => new StopSheet(
                        s.Rung,
                        s.Cause,
                        shop.Catalogue.Causes.FirstOrDefault(c => c.Id == s.Cause)?.About ?? "There is no sheet",
                        s.Evidence,
                        s.Cure
                    )),
            ],
            result?.Minutes,
            result?.HandsOn ?? 0,
            question.Composed.HandsOnMinutes,
            question.Composed.HandsOnMinutes + question.Composed.WaitMinutes,
            result?.Finishes ?? 0,
            result?.Failures ?? [],
            result?.By ?? [],
            asked.Walks,
            asked.Seed,
            learned.Recorded,
            recorded,
            found.Sum(f => f.Times),
            Math.Round(learned.Pace, 3)
        );
    }
}
