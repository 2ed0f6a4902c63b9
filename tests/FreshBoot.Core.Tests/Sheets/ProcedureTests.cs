using System.Text.Json.Nodes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>The procedures that ship, each step read as a hand would, and the reader that refuses what no hand could follow.</summary>
public class ProcedureTests
{
    private static readonly string Pack = File.ReadAllText(
        Path.Combine(Shipped.Home, "catalogue", "packs", "procedures.json")
    );

    private static IEnumerable<StepEntry> Every(IEnumerable<StepEntry> steps) =>
        steps.SelectMany(s => Every(s.Branches.SelectMany(b => b.Then)).Prepend(s));

    private static readonly StepEntry[] All = [.. Shipped.Catalogue.Procedures.SelectMany(p => Every(p.Steps))];

    [Fact]
    public void There_are_fragments_enough_for_the_whole_trade()
    {
        Shipped.Catalogue.Procedures.Count.ShouldBeGreaterThanOrEqualTo(25);
        All.Length.ShouldBeGreaterThanOrEqualTo(150);
    }

    [Fact]
    public void No_step_says_less_than_a_hand_needs()
    {
        foreach (var step in All)
        {
            step.Text.Length.ShouldBeGreaterThanOrEqualTo(12, step.Text);
            (step.Text.Split(" ").Length >= 3 || step.Text.Contains("{how}") || step.Text[0] == (char)123).ShouldBeTrue(
                step.Text
            );
            (char.IsUpper(step.Text[0]) || step.Text[0] == '{').ShouldBeTrue(step.Text);
            (step.Text.EndsWith('.') || step.Text.EndsWith('?') || step.Text[^1] is '}' or '…').ShouldBeTrue(step.Text);
            step.Minutes.Usual.ShouldBeGreaterThan(0, step.Text);
            if (step.Kind is StepKind.Check or StepKind.Type)
                step.Expect.ShouldNotBeNullOrWhiteSpace(step.Text);
            if (step.Kind == StepKind.Confirm)
                step.Caution.ShouldNotBeNullOrWhiteSpace(step.Text);
            if (step.Kind == StepKind.Wait && step.Times == TimesFrom.Step)
                step.Minutes.Worry.ShouldBeGreaterThan(step.Minutes.Usual, step.Text);
        }
        // A reason to stop says what the machine is in, or what to do.
        foreach (var stop in All.SelectMany(s => s.Branches).Select(b => b.Stop).OfType<string>())
            stop.Split(' ').Length.ShouldBeGreaterThanOrEqualTo(5, stop);
    }

    [Fact]
    public void Every_fragment_belongs_to_some_route_of_the_demo_fleet_or_is_named_here()
    {
        // What the demo fleet has no machine for; the sixteen cases try them.
        string[] elsewhere =
        [
            "owners-word",
            // For modules off a shelf; the routes here are found without one.
            "test-memory",
            "write-medium",
            "known-defect",
            "suspend-encryption",
            "resume-encryption",
            "make-room",
            "turn-table",
            "upgrade",
            "backup",
            // For an owner who stays, on a clean installation.
            "files-back",
            "clean-same",
            "try-live",
            "encrypt",
            "take-disc",
            "helper-disc",
            "helper-out",
            "keep-over",
            "first-kept",
            "extension",
            "new-battery",
            "data-saved",
            // For cures of a kind that no procedure names yet, and for towers.
            "setting",
            "fit-part",
            "fit-card",
            "update-firmware",
            "stop-outgoing",
        ];
        var used = Fleet
            .Dossiers.SelectMany(d =>
                AnySheets
                    .Search.Find(d.Dossier, new Core.Routes.RouteQuestion(AnySheets.Today))
                    .SelectMany(r => AnySheets.Of(d.Dossier, r).Steps)
            )
            .Select(s => s.Fragment.Split('.')[0])
            .ToHashSet(StringComparer.Ordinal);
        // What is done at a switch stands in the steps of the settings.
        Shipped
            .Catalogue.Procedures.Where(p => p.Switch is null)
            .Select(p => p.Id)
            .Except(used)
            .Except(elsewhere)
            .ShouldBeEmpty();
    }

    [Theory]
    [InlineData("text", "Hold {nothing} for a while.", "there is no placeholder “{nothing}”")]
    [InlineData("needs", """{"drive":"painted"}""", "“painted” is no value of drive")]
    [InlineData("needs", """{"mood":"good"}""", "the small world has no “mood”")]
    [InlineData("does", """{"drive":"painted"}""", "“painted” is no value of drive")]
    [InlineData("needs", """{"firmware":"broken"}""", "needs firmware to be broken, and no step does that")]
    [InlineData("wants", "firmware.mood", "there is no fact key “firmware.mood”")]
    [InlineData("kind", "check", "says under “expect” what is seen then")]
    [InlineData("kind", "type", "has a “command”")]
    [InlineData("kind", "confirm", "has a “caution”")]
    [InlineData("kind", "measure", "says under “wants” which fact")]
    [InlineData("branches", """[{"when":"It is not"}]""", "either has steps under “then”")]
    [InlineData(
        "branches",
        """[{"when":"It is not","stop":"Leave it and ask."},{"when":"it is not","stop":"Leave it and ask."}]""",
        "the second is never reached"
    )]
    [InlineData("when", """{"fact":"route.mood","oneOf":["good"]}""", "there is no fact key “route.mood”")]
    [InlineData("minutes", """{"usual":9,"worry":3}""", "longer than the time to worry")]
    public void A_step_that_no_hand_could_follow_is_refused_with_its_place(string member, string value, string fault)
    {
        var pack = JsonNode.Parse(Pack)!;
        var step = new JsonObject
        {
            ["id"] = "planted",
            ["kind"] = "do",
            ["text"] = "Do something with the machine.",
        };
        step[member] = value[0] is '{' or '[' ? JsonNode.Parse(value) : value;
        pack["procedures"]![0]!["steps"]!.AsArray().Insert(0, step);
        var packs = Directory
            .GetFiles(Path.Combine(Shipped.Home, "catalogue", "packs"), "*.json")
            .Order(StringComparer.Ordinal)
            .Select(f =>
                (
                    Path.GetFileName(f),
                    f.EndsWith("procedures.json", StringComparison.Ordinal) ? pack.ToJsonString() : File.ReadAllText(f)
                )
            )
            .ToArray();
        var faults = Should.Throw<PackFaultsException>(() => PackReader.Read(Shipped.Schema, packs)).Faults;
        faults.ShouldContain(f =>
            f.File == "procedures.json"
            && f.At.StartsWith("/procedures/0", StringComparison.Ordinal)
            && f.What.Contains(fault)
        );
    }

    [Fact]
    public void The_docs_tell_every_word_that_a_procedure_may_use()
    {
        var docs = File.ReadAllText(Path.Combine(Shipped.Home, "docs", "runs.md"));
        foreach (var key in World.Keys)
            docs.ShouldContain($"| `{key.Key}` | {key.About} | {string.Join(", ", key.Values)} |");
        foreach (var (name, about) in Placeholders.All)
            docs.ShouldContain($"| `{{{name}}}` | {about} |");
        foreach (var key in RouteKeys.All)
            docs.ShouldContain($"| `{key.Key}` | {key.Label} |");
    }
}
