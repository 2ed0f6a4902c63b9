using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Tests.Sheets;

namespace FreshBoot.Core.Tests.Routes;

public class ChoicesTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly RouteSearch Search = new(Shipped.Catalogue);

    public static TheoryData<string> Keys => [.. Choices.All.Select(c => c.Key)];

    [Theory]
    [MemberData(nameof(Keys))]
    public void Each_answer_changes_the_plan_of_some_machine(string key)
    {
        var choice = Choices.All.Single(c => c.Key == key);

        choice.Answers.Count.ShouldBeGreaterThan(1);
        // A machine is planned once for each answer, and only as long as two answers still give every one the same plan.
        var alike = choice
            .Answers.SelectMany((a, i) => choice.Answers.Skip(i + 1).Select(b => (One: a.Value, Other: b.Value)))
            .ToList();
        foreach (var (_, dossier) in Fleet.Dossiers)
        {
            if (alike.Count == 0)
                break;
            var plans = alike
                .SelectMany(p => new[] { p.One, p.Other })
                .Distinct(StringComparer.Ordinal)
                .ToDictionary(a => a, a => Plan(dossier, key, a), StringComparer.Ordinal);
            alike.RemoveAll(p => plans[p.One] != plans[p.Other]);
        }
        alike.ShouldBeEmpty(key);
    }

    /// <summary>Routes, sheets and files under an answer, as one text.</summary>
    private static string Plan(Dossier facts, string key, string value)
    {
        var chosen = facts.WithWord(
            new Reading(key, FactValue.Of(value), "chosen", Origin.Chosen, Facts.Noon, null, long.MaxValue)
        );
        var routes = Search.Find(chosen, new RouteQuestion(Today));
        return JsonSerializer.Serialize(
            routes.Select(r => new
            {
                r.Id,
                Steps = AnySheets.Of(chosen, r).Steps,
                // An identity of another level than the wanted one is stale.
                Identity = r.Cures.Any(c => c.Kind == Outcome.Spoof) ? WorkPlan.IdentityOf(chosen) : null,
            })
        );
    }

    [Fact]
    public void An_answer_is_a_fact_like_any_other_and_nobody_is_pressed_for_it()
    {
        foreach (var choice in Choices.All)
        {
            var definition = FactRegistry.Get(choice.Key);
            definition.Detail.ShouldBeTrue();
            definition.Choices.Select(c => c.Value).ShouldBe(choice.Answers.Select(a => a.Value));
        }
    }

    [Fact]
    public void A_sheet_closes_what_it_opens_and_names_each_step_once_whatever_is_chosen()
    {
        foreach (var choice in Choices.All)
        foreach (var answer in choice.Answers)
        foreach (var (_, dossier) in Fleet.Dossiers)
        {
            var chosen = dossier.WithWord(
                new Reading(choice.Key, FactValue.Of(answer.Value), "chosen", Origin.Chosen, Facts.Noon)
            );
            var route = Search.Find(chosen, new RouteQuestion(Today))[0];
            var steps = AnySheets.Of(chosen, route).Steps.Where(s => s.On is null).ToArray();
            steps.Select(s => s.Id).ShouldBeUnique();
            steps.Select(s => s.Opens).OfType<string>().ShouldBe(steps.Select(s => s.Closes).OfType<string>(), true);
        }
    }
}
