using System.Text.Json.Nodes;

namespace FreshBoot.Core.Tests.Terms;

/// <summary>Words that everybody uses stand in data and in looks as well; what one of them lacks there is named here.</summary>
public class TermsTests
{
    private static readonly JsonNode Schema = JsonNode.Parse(Shipped.Schema)!["$defs"]!;

    [Fact]
    public void The_schema_of_packs_knows_every_rung() => Words(Schema["rung"]!).ShouldBe(Names<Rung>());

    [Fact]
    public void The_schema_of_packs_knows_every_kind_of_requirement() =>
        Words(Schema["requirement"]!["properties"]!["kind"]!).ShouldBe(Names<RequirementKind>(), ignoreOrder: true);

    [Fact]
    public void A_cure_may_be_of_every_outcome_that_is_neither_none_nor_open() =>
        Words(Schema["cure"]!["properties"]!["kind"]!)
            .ShouldBe(Names<Outcome>().Except(["clear", "caveat", "unknown", "wall"]));

    [Fact]
    public void Every_outcome_has_its_colour_by_day_and_by_lamp()
    {
        var theme = File.ReadAllText(Path.Combine(Shipped.Home, "web", "src", "theme.css"));
        foreach (var name in Names<Outcome>())
        {
            theme.Split($"\n  --{name}: #").Length.ShouldBe(3, $"--{name}, in light and in dark");
            theme.ShouldContain($"--color-{name}: var(--{name});");
        }
    }

    private static IEnumerable<string> Words(JsonNode node) =>
        node["enum"]!.AsArray().Select(n => n!.GetValue<string>());

    private static IEnumerable<string> Names<T>()
        where T : struct, Enum => Enum.GetNames<T>().Select(n => char.ToLowerInvariant(n[0]) + n[1..]);
}
