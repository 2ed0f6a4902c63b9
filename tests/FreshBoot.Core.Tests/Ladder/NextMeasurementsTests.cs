using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Planning;

namespace FreshBoot.Core.Tests.Ladder;

public class NextMeasurementsTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly NextMeasurements Search = new(Shipped.Catalogue);
    private static readonly Evaluator Evaluator = new(Shipped.Catalogue);

    public static TheoryData<string> Tags => [.. Fleet.Machines.Select(m => m.Tag)];

    private static Dictionary<string, Outcome> Outcomes(Dossier facts) =>
        Shipped.Catalogue.Systems.ToDictionary(
            s => s.Id,
            s => Evaluator.Assess(facts, s, new Plan(Today)).Outcome,
            StringComparer.Ordinal
        );

    /// <summary>
    /// Entering each value that a fact may have, the way a person does, changes exactly the outcomes that the hint told; and a
    /// fact that no hint names changes none.
    /// </summary>
    [Theory]
    [MemberData(nameof(Tags))]
    public void Entering_each_value_changes_exactly_what_the_hint_said(string tag)
    {
        var facts = Fleet.Tagged(tag);
        var now = Outcomes(facts);
        var hints = Search.Find(facts, Today);

        foreach (var definition in FactRegistry.All.Where(d => d is { Detail: false, Derived: false }))
        {
            var hint = hints.FirstOrDefault(h => h.Key == definition.Key);
            if (hint is null && facts[definition.Key] is not null)
                continue;
            var values =
                hint is { Conflict: true } ? Values(hint)
                : definition.Form == FactForm.Choice ? definition.Choices.Select(c => FactValue.Of(c.Value))
                : Values(hint);
            foreach (var value in values.ToArray())
            {
                var entered = FactEntry.Read(
                    definition.Key,
                    JsonSerializer.SerializeToElement(value, JsonSerializerOptions.Web)
                );
                var word = new Reading(
                    definition.Key,
                    entered,
                    "bench",
                    hint?.Conflict == true ? Origin.Chosen : Origin.Entered,
                    Facts.Noon,
                    "Pim",
                    10_000
                );
                var then = Outcomes(Derivation.Complete([.. facts.WithWord(word).Readings], Shipped.Catalogue));
                var changed = then.Where(t => t.Value != now[t.Key])
                    .Select(t => (t.Key, t.Value))
                    .OrderBy(t => t.Key, StringComparer.Ordinal);
                var told = (hint?.Decides ?? [])
                    .Where(d => d.IfValue.Equals(value))
                    .Select(d => (d.System, d.Outcome))
                    .OrderBy(d => d.System, StringComparer.Ordinal);
                changed.ShouldBe(told, $"{tag}: {definition.Key} = {value}");
            }
        }
    }

    private static IEnumerable<FactValue> Values(NextMeasurement? hint) =>
        hint?.Decides.Select(d => d.IfValue).Distinct() ?? [];

    [Fact]
    public void The_switched_off_line_of_the_firmware_decides_more_than_anything_else_on_a_good_machine()
    {
        var best = Search.Find(
            Facts.GoodBut(
                ("tpm.version", null),
                ("identity.maker", "Brackwater"),
                ("identity.model", "Stile 14"),
                ("identity.board", "ST14-8"),
                ("os.name", "Tessaly 5")
            ),
            Today
        )[0];

        best.Key.ShouldBe("tpm.version");
        best.Minutes.ShouldBe(2);
        best.Systems.ShouldBeGreaterThan(0);
        best.Text.ShouldContain($"decides {best.Systems} of {Shipped.Catalogue.Systems.Count} systems");
        best.Routes.ShouldNotBeNull();
    }

    [Fact]
    public void A_conflict_is_settled_by_a_choice_between_the_two()
    {
        var facts = Derivation.Complete(
            [
                .. Facts.Good.Select(f => Facts.Reading(f.Key, f.Value)),
                Facts.Reading("memory.installedMiB", 2048, Origin.Entered, "label", 2),
            ],
            Shipped.Catalogue
        );

        var hint = Search.Find(facts, Today).Single(h => h.Key == "memory.installedMiB");

        hint.Conflict.ShouldBeTrue();
        hint.Decides.Select(d => d.IfValue).Distinct().ShouldBe([FactValue.Of(2048)]);
    }

    [Fact]
    public void With_all_known_there_is_nothing_that_decides() =>
        Search
            .Find(
                Facts.GoodBut(
                    ("identity.maker", "Brackwater"),
                    ("identity.model", "Stile 14"),
                    ("identity.board", "X"),
                    ("os.name", "Y")
                ),
                Today
            )
            .ShouldAllBe(h => h.Systems == 0);
}
