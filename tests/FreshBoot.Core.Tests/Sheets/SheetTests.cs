using System.Collections.Concurrent;
using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Sheets;

public class SheetTests
{
    private static readonly Gen<int[]> Answers = Gen.Int[-1, 2].Array[Choices.All.Count];

    [Fact]
    public void Every_route_of_the_demo_fleet_has_a_sheet_that_the_checker_lets_through()
    {
        var failing = new List<string>();
        var all = 0;
        foreach (var (tag, facts) in Fleet.Dossiers)
        foreach (var route in AnySheets.Search.Find(facts, new RouteQuestion(AnySheets.Today)))
        {
            all++;
            failing.AddRange(
                AnySheets
                    .Of(facts, route)
                    .Missing.Select(m => $"{m.Fragment}, {m.Step}: {m.Says} ({tag} {route.School} {route.System})")
            );
        }
        all.ShouldBeGreaterThan(100);
        failing.ShouldBeEmpty();
    }

    /// <summary>
    /// A machine made up at random, a route of it, and answers made up as well. Composer and checker share no code: what one puts in
    /// order the other walks. A route may have no sheet only where an upgrade, or an old system that does not start, forbids it.
    /// </summary>
    [Fact]
    public void Whatever_the_machine_and_whatever_was_chosen_a_sheet_passes_or_says_what_it_lacks()
    {
        var shown = 0;
        var lacking = new ConcurrentDictionary<string, int>(StringComparer.Ordinal);
        Gen.Select(AnyMachines.Picks, Answers, Gen.Int[0, 1000])
            .Sample(
                (picks, answers, pick) =>
                {
                    var facts = AnyMachines.Machine(picks);
                    for (var i = 0; i < answers.Length; i++)
                        if (answers[i] >= 0 && answers[i] < Choices.All[i].Answers.Count)
                            facts = AnySheets.Chosen(
                                facts,
                                Choices.All[i].Key,
                                Choices.All[i].Answers[answers[i]].Value
                            );
                    var routes = AnySheets.Search.Find(facts, new RouteQuestion(AnySheets.Today));
                    if (routes.Count == 0)
                        return;
                    var route = routes[pick % routes.Count];
                    var sheet = AnySheets.Of(facts, route);
                    if (sheet.Faults.Count > 0)
                        throw new InvalidOperationException(AnySheets.Told(facts, route, sheet));
                    foreach (var missing in sheet.Missing)
                        lacking.AddOrUpdate($"{missing.Fragment}: {missing.Says}", 1, (_, n) => n + 1);
                    if (sheet.Missing.Count > 0)
                        return;
                    Interlocked.Increment(ref shown);
                    sheet.Steps.Select(s => s.Id).ShouldBeUnique();
                    sheet.Ends.ShouldContain(e => e.Stopped == null);
                },
                iter: Cases.Of(1_200)
            );
        shown.ShouldBeGreaterThan(Cases.Of(600));
    }
}
