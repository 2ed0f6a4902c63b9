using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Core.Routes;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Tests.Preparation;

/// <summary>A route becomes work items; what changes under one turns it stale.</summary>
public class WorkPlanTests
{
    private const string System = "tessaly-6-r2";

    private static readonly Inspection Hybrid = new(
        "TESSALY",
        5 << 20,
        null,
        [],
        [],
        [],
        [],
        new Starts(new(true, ""), new(true, ""), new(true, ""), new(true, ""), new(false, ""), new(false, "")),
        []
    );

    private static readonly Recipe Gates = new()
    {
        Id = "tessaly-6-r2-gates",
        Name = "Lift the gates",
        For = new RecipeFor(System, [], []),
        Lifts =
        [
            .. Shipped
                .Catalogue.System(System)!
                .Requirements.Where(r => r is { Kind: RequirementKind.Gate, Advisory: false })
                .Select(r => $"{System}/{r.Id}"),
        ],
        Operations =
        [
            new ReplaceText
            {
                Path = "setup/gates.conf",
                Find = "check",
                With = "skip",
            },
        ],
    };

    private static readonly Dossier Machine = Facts.GoodBut(("tpm.version", "absent"));

    private static Route RouteOf(Dossier facts, School school) =>
        new RouteSearch(Shipped.Catalogue)
            .Find(facts, new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.System == System && r.School == school);

    private static ShelfImage Original => new(1, "tessaly.iso", System, "62093", "aa", null, null, Hybrid);

    private static ShelfImage Patched(Recipe recipe, int version = 1) =>
        new(
            2,
            "tessaly-gates.iso",
            System,
            "62093",
            "bb",
            1,
            new AppliedRecipe(recipe.Id, version, recipe.Sha256()),
            Hybrid
        );

    private static ShelfMedium Stick(int image) => new(7, "Stick 2, red", false, true, "ready", image);

    private static WorkShelf Shelf(
        IReadOnlyList<ShelfImage> images,
        IReadOnlyList<ShelfMedium>? media = null,
        IReadOnlyList<ShelfRecipe>? recipes = null,
        IReadOnlyList<RehearsalRecord>? starts = null
    ) => new(images, recipes ?? [new ShelfRecipe(Gates, 1)], media ?? [], starts ?? []);

    private static IReadOnlyList<WorkItem> Items(
        WorkShelf shelf,
        Dossier? facts = null,
        School school = School.Patch,
        long version = 41
    ) =>
        WorkPlan.Of(
            RouteOf(facts ?? Machine, school),
            new WorkMachine("MR-0417", facts ?? Machine, version, []),
            Shipped.Catalogue,
            shelf
        );

    private static WorkItem Item(IReadOnlyList<WorkItem> items, string id) => items.Single(i => i.Id == id);

    [Fact]
    public void With_an_empty_shelf_the_image_is_missing_and_says_what_to_do()
    {
        var image = Item(Items(Shelf([])), WorkPlan.ImageItem);
        image.State.ShouldBe(WorkItemState.Missing);
        image.Next!.Action.ShouldBe(WorkAction.BringImage);
        image.Holds.ShouldBeFalse();
    }

    [Fact]
    public void The_way_goes_from_recipe_to_image_to_medium_one_action_at_a_time()
    {
        var items = Items(Shelf([Original]));
        items
            .Select(i => i.Id)
            .ShouldBe([
                WorkPlan.RecipeItem(Gates.Id),
                "answers",
                WorkPlan.ImageItem,
                WorkPlan.MediumItem,
                WorkPlan.LayoutItem,
            ]);
        Item(items, WorkPlan.RecipeItem(Gates.Id))
            .Next.ShouldBe(new WorkNext(WorkAction.ApplyRecipe, "Apply it to tessaly.iso", 1, Gates.Id));
        Item(items, "answers").Needed.ShouldBeFalse();

        items = Items(Shelf([Original, Patched(Gates)]));
        Item(items, WorkPlan.ImageItem).State.ShouldBe(WorkItemState.Ready);
        Item(items, WorkPlan.ImageItem).From.ShouldContain(new MadeFrom("image", "bb"));
        Item(items, WorkPlan.MediumItem).Next!.Action.ShouldBe(WorkAction.WriteMedium);

        items = Items(Shelf([Original, Patched(Gates)], [Stick(2)]));
        items.ShouldAllBe(i => i.Holds);
        Item(items, WorkPlan.MediumItem).Title.ShouldBe("Stick 2, red");
    }

    [Theory]
    [InlineData("skip", false)]
    [InlineData("show", true)]
    public void A_local_account_needs_an_answer_file_that_passes_over_the_page_of_the_account(
        string step,
        bool isMissing
    )
    {
        var facts = Facts.GoodBut(("tpm.version", "absent"), ("plan.account", "local"));
        var none = Item(Items(Shelf([Original]), facts), "answers");
        none.Needed.ShouldBeTrue();
        none.Next!.Action.ShouldBe(WorkAction.BuildAnswers);

        var answers = new Recipe
        {
            Id = WorkPlan.AnswersFor(System, null),
            Name = "Answers",
            For = new RecipeFor(System, [], []),
            Operations =
            [
                new AddFile { Path = "setup/answers.conf", Text = $"answers 1\nanswer account-step \"{step}\"\n" },
            ],
        };
        var items = Items(Shelf([Original], recipes: [new ShelfRecipe(Gates, 1), new ShelfRecipe(answers, 1)]), facts);
        var item = items.Single(i => i.Kind == WorkItemKind.Answers);
        item.Needed.ShouldBeTrue();
        (item.Next!.Action == WorkAction.BuildAnswers).ShouldBe(isMissing, item.Says);

        // Where the owner signs in there, the page is to be seen.
        var owner = Item(
            Items(
                Shelf([Original], recipes: [new ShelfRecipe(Gates, 1), new ShelfRecipe(answers, 1)]),
                Facts.GoodBut(("tpm.version", "absent"), ("plan.account", "maker"))
            ),
            isMissing ? WorkPlan.RecipeItem(answers.Id) : "answers"
        );
        owner.PassesAccount.ShouldBeFalse();
        owner.Says.Contains("where the owner signs in", StringComparison.Ordinal).ShouldBe(!isMissing);
    }

    [Fact]
    public void A_changed_recipe_turns_recipe_image_and_medium_stale_and_says_with_what()
    {
        var changed = Gates with { About = "Mended since." };
        var items = Items(Shelf([Original, Patched(Gates)], [Stick(2)], recipes: [new ShelfRecipe(changed, 2)]));
        foreach (var id in (string[])[WorkPlan.RecipeItem(Gates.Id), WorkPlan.ImageItem, WorkPlan.MediumItem])
            Item(items, id).State.ShouldBe(WorkItemState.Stale, id);
        Item(items, WorkPlan.ImageItem).Says.ShouldContain("version 1, now it is version 2");
        Item(items, WorkPlan.MediumItem).Says.ShouldContain("tessaly-gates.iso");
    }

    [Fact]
    public void A_changed_dossier_that_asks_for_another_route_turns_the_medium_stale()
    {
        // The TPM was found after all: nothing has to be lifted, and the stick with the patched image is another's.
        var items = Items(Shelf([Original, Patched(Gates)], [Stick(2)]), Facts.GoodBut(), School.Comply);
        Item(items, WorkPlan.ImageItem).Title.ShouldBe("tessaly.iso");
        Item(items, WorkPlan.MediumItem).State.ShouldBe(WorkItemState.Stale);
    }

    [Fact]
    public void What_no_recipe_lifts_is_made_by_the_gate_file_and_fits_the_makers_medium()
    {
        var route = RouteOf(Machine, School.Patch);
        var made = WorkPlan.Generated(route, Shipped.Catalogue, []).ShouldNotBeNull();
        RecipeReader.Check(made);
        Item(Items(Shelf([Original], recipes: [])), WorkPlan.RecipeItem(made.Id))
            .Next!.Action.ShouldBe(WorkAction.MakeRecipe);

        var text = GateFile.Original(Shipped.Catalogue.System(System)!).Write();
        var files = new PatchFiles(
            new Dictionary<string, byte[]>(StringComparer.Ordinal)
            {
                [GateFile.Path] = global::System.Text.Encoding.UTF8.GetBytes(text),
            }
        );
        var after = Patcher.Run(made, files).Files.ShouldHaveSingleItem();
        var gates = GateFile.Read(global::System.Text.Encoding.UTF8.GetString(after.Content!));
        gates.Gates.Where(g => !g.Checks).Select(g => $"{System}/{g.Gate}").ShouldBe(made.Lifts, ignoreOrder: true);
        WorkPlan.Generated(route, Shipped.Catalogue, [new ShelfRecipe(made, 1)]).ShouldBeNull();
    }

    [Fact]
    public void An_image_that_does_not_start_on_the_machine_is_no_image_for_it()
    {
        var discOnly = Hybrid with
        {
            Starts = new Starts(
                new(true, ""),
                new(false, "no boot sector"),
                new(false, "none"),
                new(false, "none"),
                new(false, ""),
                new(false, "")
            ),
        };
        var image = Item(Items(Shelf([Original, Patched(Gates) with { Seen = discOnly }])), WorkPlan.ImageItem);
        image.State.ShouldBe(WorkItemState.Missing);
        image.Says.ShouldContain("does not start on this machine");
    }

    [Fact]
    public void F2_A_start_is_evidence_for_exactly_what_it_was_made_from()
    {
        var setUp = TwinMachine.Of(Machine, "uefi64", null);
        var start = new RehearsalRecord(
            3,
            "bb",
            41,
            null,
            "stick",
            "uefi64",
            setUp.SetUp,
            "letIn",
            "accepted",
            setUp.Differs,
            "Pim",
            Facts.Noon
        );
        RehearsalSeen Seen(RehearsalRecord record, long version = 41) =>
            Item(
                Items(Shelf([Original, Patched(Gates)], [Stick(2)], starts: [record]), version: version),
                WorkPlan.ImageItem
            )
                .Evidence.Single();

        Seen(start).IsEvidence.ShouldBeTrue();
        (RehearsalRecord Record, long Version, string Says)[] others =
        [
            (start with { ImageSha256 = "aa" }, 41, "of another image"),
            (start, 42, "of an earlier dossier"),
            (start with { Identity = "PL-08A" }, 41, "of another identity"),
            (start with { StartedAs = "disc" }, 41, "of a start as a disc"),
            (start with { Firmware = "bios" }, 41, "of a start by bios"),
            (start with { SetUp = "0" }, 41, "of another set-up"),
        ];
        foreach (var (record, version, says) in others)
        {
            var seen = Seen(record, version);
            seen.IsEvidence.ShouldBeFalse(says);
            seen.OfAnother.ShouldContain(o => o.StartsWith(says, StringComparison.Ordinal), says);
        }
    }

    [Theory]
    [InlineData(null, null, "uefi64?,uefi32?,bios?", null)]
    [InlineData("uefi64", "bios", "uefi64,bios", "bios")]
    [InlineData("uefi64", "uefi", "uefi64", "uefi64")]
    [InlineData("uefi32", "uefi", "uefi32", "uefi32")]
    [InlineData("bios", null, "bios", "bios")]
    [InlineData(null, "bios", "bios,uefi64?", "bios")]
    [InlineData("locked", null, "", null)]
    public void Which_ways_start_a_machine_is_said_in_one_place(string? kind, string? by, string ways, string? now)
    {
        var facts = Facts.Of([
            .. kind is null ? [] : new[] { ("firmware.kind", (object)kind) },
            .. by is null ? [] : new[] { ("firmware.startedBy", (object)by) },
        ]);
        var found = FirmwareWays.Of(facts);
        string.Join(',', found.Ways.Select(w => w.Name + (w.Sure ? "" : "?"))).ShouldBe(ways);
        found.Now.ShouldBe(now);
        (found.WhyNone is null).ShouldBe(ways.Length > 0);
    }
}
