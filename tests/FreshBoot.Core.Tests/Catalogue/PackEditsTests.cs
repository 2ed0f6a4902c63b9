using System.Text.Json.Nodes;
using CsCheck;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Tests.Catalogue;

public class PackEditsTests
{
    private static readonly IReadOnlyList<(string File, string Text)> Packs =
    [
        .. Directory
            .GetFiles(Path.Combine(Shipped.Home, "catalogue", "packs"), "*.json")
            .Order(StringComparer.Ordinal)
            .Select(f => (Path.GetFileName(f), File.ReadAllText(f))),
    ];

    private static readonly IReadOnlyList<PackedEntry> Entries = PackEdits.Entries(Packs);

    private static JsonObject Entry(string kind, string id) =>
        Entries.Single(e => e.Kind == kind && e.Id == id).Entry.DeepClone().AsObject();

    private static IReadOnlyList<PackFault> Faults(params EntryEdit[] edits) =>
        Should.Throw<PackFaultsException>(() => Read(edits)).Faults;

    private static ShopCatalogue Read(params EntryEdit[] edits) =>
        PackReader.Read(
            Shipped.Schema,
            PackEdits.Apply(Packs, edits),
            new Freshness(new DateOnly(2026, 12, 3), edits.Select(e => e.Id).ToHashSet(StringComparer.Ordinal))
        );

    [Fact]
    public void An_edit_replaces_a_new_entry_is_added_and_a_removed_one_is_gone()
    {
        var cure = Entry("cures", "tpm-module");
        cure["money"] = 1234;
        var board = Entry("boards", "WAGTAIL");
        board["id"] = "PIPIT";

        var catalogue = Read(
            new EntryEdit("cures", "tpm-module", cure.ToJsonString()),
            new EntryEdit("boards", "PIPIT", board.ToJsonString()),
            new EntryEdit("computers", "window-desk", null)
        );

        catalogue.Cures.Single(c => c.Id == "tpm-module").Money.ShouldBe(1234);
        catalogue.Boards.ShouldContain(b => b.Id == "PIPIT");
        catalogue.Computers.ShouldBeEmpty();
        catalogue.Hash.ShouldNotBe(Shipped.Catalogue.Hash);
    }

    [Fact]
    public void Without_another_computer_its_cures_cannot_be_carried_out()
    {
        var without = Read(new EntryEdit("computers", "window-desk", null));

        new Evaluator(without)
            .Assess(Facts.GoodBut(("tpm.version", "1.2")), without.System("tessaly-6-r2")!, new Plan(new(2026, 12, 3)))
            .Outcome.ShouldBe(Outcome.Wall);
    }

    [Fact]
    public void Every_sort_of_fault_is_refused_with_its_place()
    {
        JsonObject With(string kind, string id, string member, string json)
        {
            var entry = Entry(kind, id);
            entry[member] = JsonNode.Parse(json);
            return entry;
        }
        void Refused(string kind, string id, string member, string json, string at) =>
            Faults(new EntryEdit(kind, id, With(kind, id, member, json).ToJsonString()))
                .ShouldContain(f => f.At.EndsWith($"/{at}", StringComparison.Ordinal), $"{kind}/{id} {at}");

        Refused("cures", "tpm-module", "money", "\"dear\"", "money");
        Refused("cures", "tpm-module", "conflicts", """["nothing-like-it"]""", "conflicts/0");
        Refused("programs", "oriel", "systems", """["tessaly-9"]""", "systems/0");
        Refused("systems", "wickerwork-26", "supportEnds", "\"2024-01-31\"", "supportEnds");
        Refused("systems", "tessaly-5", "inPlace", """[{ "from": "tessaly-6-r1", "keeps": ["files"] }]""", "inPlace");
        Refused("cures", "firmware-update", "after", """["drive-sata-240"]""", "after");
        Refused("systems", "tessaly-5", "extension", """{ "ends": "2020-01-01", "money": 1 }""", "extension/ends");
        Refused("systems", "tessaly-6-r2", "inPlaceGate", "\"level\"", "inPlaceGate");

        var twice = Entry("boards", "WAGTAIL");
        twice["id"] = "tpm-module";
        Faults(new EntryEdit("boards", "tpm-module", twice.ToJsonString()))
            .ShouldContain(f => f.What.Contains("used twice"));
    }

    [Fact]
    public void One_bad_entry_does_not_make_faults_of_all_that_name_others() =>
        Faults(new EntryEdit("cures", "tpm-module", """{ "id": "tpm-module" }"""))
            .ShouldAllBe(f => f.At.StartsWith("/cures/", StringComparison.Ordinal));

    [Fact]
    public void Support_that_has_ended_may_say_so()
    {
        var old = Entry("systems", "wickerwork-26");
        old["supportEnds"] = "2026-05-31";
        old["ended"] = true;

        Read(new EntryEdit("systems", "wickerwork-26", old.ToJsonString()))
            .System("wickerwork-26")!
            .SupportEnds.ShouldBe(new DateOnly(2026, 5, 31));
    }

    [Fact]
    public void A_pack_of_someone_elses_comes_down_to_what_differs_and_the_own_one_to_nothing()
    {
        var all = PackEdits.Merge("all", "all", Entries);
        PackEdits.Differences("mine.json", all.ToJsonString(), Entries).ShouldBeEmpty();

        all["prices"]![0]!["money"] = 9999;
        PackEdits.Differences("mine.json", all.ToJsonString(), Entries).ShouldHaveSingleItem().Id.ShouldBe("hour");
        Should
            .Throw<PackFaultsException>(() => PackEdits.Differences("mine.json", """{ "cures": [ { } ] }""", Entries))
            .Faults[0]
            .At.ShouldBe("/cures/0");
        Should.Throw<PackFaultsException>(() => PackEdits.Differences("mine.json", "{ oops", Entries));
    }

    /// <summary>Numbers, days and lists of the catalogue moved at random, as somebody at the editor would.</summary>
    internal static readonly Gen<EntryEdit> AnyEdit =
        from at in Gen.Int[0, 1_000_000]
        from size in Gen.Int[1, 40]
        from what in Gen.Int[0, 3]
        select Edit(at, size, what);

    private static EntryEdit Edit(int at, int size, int what)
    {
        if (what == 0)
        {
            var cures = Entries.Where(e => e.Kind == "cures").ToArray();
            var cure = cures[at % cures.Length].Entry.DeepClone().AsObject();
            cure["money"] = size * 100;
            cure["handsOnMinutes"] = size;
            return new EntryEdit("cures", cure["id"]!.ToString(), cure.ToJsonString());
        }
        var systems = Entries.Where(e => e.Kind == "systems").ToArray();
        var system = systems[at % systems.Length].Entry.DeepClone().AsObject();
        if (what == 1)
        {
            system["supportEnds"] = $"{2027 + size % 6}-0{1 + size % 9}-15";
            system.Remove("extension");
        }
        else
        {
            var requirements = system["requirements"]!.AsArray();
            var i = at % requirements.Count;
            if (what == 2 && requirements.Count > 1 && requirements[i]!["kind"]!.ToString() != "gate")
                requirements.RemoveAt(i);
            else if (requirements[i]!["needs"]!["atLeast"]?.GetValueKind() == System.Text.Json.JsonValueKind.Number)
                requirements[i]!["needs"]!["atLeast"] = size * 512;
            else
                system["install"]!["handsOnMinutes"] = size;
        }
        return new EntryEdit("systems", system["id"]!.ToString(), system.ToJsonString());
    }

    [Fact]
    public void The_effect_that_is_shown_is_the_effect_that_comes()
    {
        var fleet = Fleet
            .Dossiers.Select(d => new FleetMachine(d.Tag, d.Dossier.Readings, PartsShelf.Empty, null))
            .ToArray();
        var asOf = new DateOnly(2026, 12, 3);
        var changed = 0;
        AnyEdit
            .Array[1, 3]
            .Sample(
                edits =>
                {
                    var before = FleetEffect.Outcomes(Shipped.Catalogue, new Evaluator(Shipped.Catalogue), fleet, asOf);
                    ShopCatalogue then;
                    try
                    {
                        then = Read(edits);
                    }
                    catch (PackFaultsException)
                    {
                        return;
                    }
                    var shown = FleetEffect.Between(
                        before,
                        FleetEffect.Outcomes(then, new Evaluator(then), fleet, asOf)
                    );
                    // Read again from what is kept, as after a restart.
                    var after = Read([.. edits]);
                    foreach (var (tag, dossier) in Fleet.Dossiers)
                    foreach (var system in after.Systems)
                    {
                        var outcome = new Evaluator(after)
                            .Assess(Derivation.Complete(dossier.Readings, after), system, new Plan(asOf))
                            .Outcome;
                        var told = shown.SingleOrDefault(c => c.Tag == tag && c.System == system.Id);
                        outcome.ShouldBe(told is null ? before[(tag, system.Id)] : told.To!.Value);
                        if (told is not null)
                            Interlocked.Increment(ref changed);
                    }
                },
                iter: Cases.Of(20)
            );
        changed.ShouldBePositive();
    }
}
