using System.Text.Json.Nodes;
using CsCheck;
using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Tests.Sheets;
using FreshBoot.Core.Upkeep;

namespace FreshBoot.Core.Tests.Upkeep;

/// <summary>What falls due of machines that have left, and whom a change of the catalogue touches.</summary>
public class UpkeepTests
{
    private static readonly DateOnly Today = new(2026, 12, 3);
    private static readonly DateOnly Left = new(2026, 11, 20);

    private static KeptMachine Kept(string tag, string system, School school, params (string, object?)[] machine)
    {
        var facts = Facts.GoodBut(machine);
        var route = AnySheets
            .Search.Find(facts, new RouteQuestion(Today))
            .First(r => r.System == system && r.School == school);
        return new KeptMachine(tag, "Brackwater Stile 14", Left, route, facts, ["leave", "copy"]);
    }

    private static IReadOnlyList<Due> Due(DateOnly today, params KeptMachine[] machines) =>
        DueList.Of(machines, Shipped.Catalogue, today);

    [Fact]
    public void The_end_of_support_and_the_day_to_buy_more_fall_due_and_what_was_bought_is_not_offered_again()
    {
        var plain = Kept("MR-1", "tessaly-5", School.Comply);
        var tessaly = Shipped.Catalogue.System("tessaly-5")!;
        var due = Due(Today, plain with { Route = plain.Route with { Cures = [] } });
        due.Single(d => d.Kind == DueKind.SupportEnds).On.ShouldBe(tessaly.SupportEnds!.Value);
        var buy = due.Single(d => d.Kind == DueKind.BuyExtension);
        buy.On.ShouldBe(tessaly.SupportEnds.Value.AddDays(-60));
        buy.Why.ShouldContain("M 26.00");
        var bought = Due(
            Today,
            plain with
            {
                Route = plain.Route with { Cures = [Shipped.Catalogue.Extension("tessaly-5")!] },
            }
        );
        bought.Single().On.ShouldBe(tessaly.Extension!.Ends);
        bought.Single().Why.ShouldContain("paid for");
    }

    [Fact]
    public void Patches_are_looked_after_every_ninety_days_and_a_worn_battery_after_half_a_year()
    {
        var patched = Kept(
            "MR-2",
            "tessaly-6-r2",
            School.Patch,
            ("tpm.version", "absent"),
            ("battery.healthPercent", 71)
        );
        Due(Today, patched).Single(d => d.Kind == DueKind.PatchCheck).On.ShouldBe(Left.AddDays(90));
        // Once that day has gone by it is the next one; on the day itself it is still due.
        Due(Left.AddDays(90), patched).Single(d => d.Kind == DueKind.PatchCheck).On.ShouldBe(Left.AddDays(90));
        Due(Left.AddDays(91), patched).Single(d => d.Kind == DueKind.PatchCheck).On.ShouldBe(Left.AddDays(180));
        var battery = Due(Today, patched).Single(d => d.Kind == DueKind.BatteryCheck);
        battery.On.ShouldBe(Left.AddDays(180));
        battery.Why.ShouldContain("71 %");
        Due(Today, Kept("MR-3", "tessaly-6-r2", School.Comply, ("battery.healthPercent", 80)))
            .ShouldNotContain(d => d.Kind == DueKind.BatteryCheck || d.Kind == DueKind.PatchCheck);
    }

    [Fact]
    public void What_is_over_by_more_than_a_year_is_told_no_more_and_ids_stay_the_same()
    {
        var machine = Kept("MR-4", "tessaly-6-r2", School.Comply);
        var end = Shipped.Catalogue.System("tessaly-6-r2")!.SupportEnds!.Value;
        Due(end.AddYears(1), machine).ShouldContain(d => d.Kind == DueKind.SupportEnds);
        Due(end.AddYears(1).AddDays(1), machine).ShouldNotContain(d => d.Kind == DueKind.SupportEnds);
        Due(Today, machine).Select(d => d.Id).ShouldBe(Due(Today.AddDays(3), machine).Select(d => d.Id));
    }

    /// <summary>The catalogue with one entry changed.</summary>
    private static ShopCatalogue With(string kind, string id, Action<JsonObject> change)
    {
        var entry = PackEdits
            .Entries(Shipped.Packs)
            .Single(e => e.Kind == kind && e.Id == id)
            .Entry.DeepClone()
            .AsObject();
        change(entry);
        return PackReader.Read(
            Shipped.Schema,
            PackEdits.Apply(Shipped.Packs, [new EntryEdit(kind, id, entry.ToJsonString())])
        );
    }

    private static IReadOnlyList<TouchedMachine> Touched(
        string kind,
        string id,
        ShopCatalogue after,
        params KeptMachine[] machines
    ) => Recall.Of(kind, id, Shipped.Catalogue, after, machines, Today, Shipped.Words, "Millrace");

    [Fact]
    public void A_system_that_ends_earlier_touches_those_that_run_it_and_their_letter_says_when()
    {
        var (runs, other) = (Kept("MR-5", "tessaly-6-r2", School.Comply), Kept("MR-6", "wickerwork-26", School.Comply));
        var touched = Touched(
            "systems",
            "tessaly-6-r2",
            With("systems", "tessaly-6-r2", s => s["supportEnds"] = "2026-11-30"),
            runs,
            other
        );
        var one = touched.Single();
        one.Tag.ShouldBe("MR-5");
        one.Why.ShouldContain("it runs this system");
        one.Why.ShouldContain(w => w.StartsWith("updates end on 30 Nov 2026", StringComparison.Ordinal));
        one.Letter.ShouldContain("has had no updates since 30 November 2026");
        foreach (var word in new[] { "dossier", "rung", "cure", "finding", "outcome", "firmware", "kernel", "upkeep" })
            one.Letter.ShouldNotContain(word, Case.Insensitive);
    }

    [Fact]
    public void An_owner_gets_the_letter_in_the_language_that_they_read()
    {
        var touched = Touched(
            "systems",
            "tessaly-6-r2",
            With("systems", "tessaly-6-r2", s => s["supportEnds"] = "2026-11-30"),
            Kept("MR-5", "tessaly-6-r2", School.Comply, (OwnerWords.LanguageKey, "de"))
        );
        touched.Single().Letter.ShouldContain("bekommt seit dem 30. November 2026 keine Aktualisierungen mehr");
    }

    private static IReadOnlyList<WatchedChange> Watched(KeptMachine[] kept, params CanaryMachine[] canaries) =>
        Canaries.Of(kept, canaries, id => Shipped.Catalogue.System(id)!.FullName, Shipped.Words, Today, "Millrace");

    [Theory]
    [InlineData(UpdateVerdict.Safe, "You can install it.")]
    [InlineData(UpdateVerdict.Wait, "Please do not install it yet.")]
    [InlineData(UpdateVerdict.Again, "It takes away what was changed.")]
    public void Owners_hear_of_an_update_only_what_was_tried_on_a_machine_that_was_changed_like_theirs(
        UpdateVerdict verdict,
        string told
    )
    {
        var patched = Kept("MR-5", "tessaly-6-r2", School.Patch, ("tpm.version", "absent"));
        var plain = Kept("MR-6", "wickerwork-26", School.Comply);
        var change = patched.Route.Cures.Single(c => c.Kind == Outcome.Patch);
        var tried = new TriedUpdate(verdict, "the update of January.", "Wen", Facts.Noon);
        CanaryMachine Canary(string tag, string system, params string[] cures) =>
            new(tag, "Brackwater Stile 12", system, cures, tried);

        // Nobody kept one, or one of another system or with another change: nobody hears anything.
        foreach (
            var canaries in new CanaryMachine[][]
            {
                [],
                [Canary("MR-8", "tessaly-6-r1", change.Id)],
                [Canary("MR-8", "tessaly-6-r2", "another")],
                [Canary("MR-8", "tessaly-6-r2", change.Id) with { Last = null }],
            }
        )
            Watched([patched, plain], canaries).Single().Owners.Single().Letter.ShouldBeNull();

        var watched = Watched([patched, plain], Canary("MR-8", "tessaly-6-r2", change.Id)).Single();
        (watched.Cure, watched.Canary!.Tag).ShouldBe((change.Id, "MR-8"));
        var letter = watched.Owners.Single().Letter!;
        letter.ShouldContain("number MR-5");
        letter.ShouldContain("the update of January.");
        letter.ShouldContain(told);
    }

    [Fact]
    public void Of_two_canaries_the_one_that_was_tried_last_counts_and_what_has_none_stands_first()
    {
        var patched = Kept("MR-5", "tessaly-6-r2", School.Patch, ("tpm.version", "absent"));
        var change = patched.Route.Cures.Single(c => c.Kind == Outcome.Patch).Id;
        CanaryMachine Canary(string tag, int day, UpdateVerdict verdict) =>
            new(tag, tag, "tessaly-6-r2", [change], new TriedUpdate(verdict, "x", "Wen", Facts.Noon.AddDays(day)));
        Watched([patched], Canary("MR-8", 1, UpdateVerdict.Safe), Canary("MR-9", 2, UpdateVerdict.Wait))
            .Single()
            .Canary!.Tag.ShouldBe("MR-9");
        var other = patched with
        {
            Tag = "MR-7",
            Route = patched.Route with { Cures = [.. patched.Route.Cures.Select(c => c with { Id = $"{c.Id}-2" })] },
        };
        Watched([patched, other], Canary("MR-8", 1, UpdateVerdict.Safe))
            .Select(w => w.Canary?.Tag)
            .ShouldBe([null, "MR-8"]);
    }

    [Fact]
    public void A_chip_whose_driver_goes_touches_those_that_have_it_and_says_what_moves()
    {
        var (has, has_not) = (
            Kept(
                "MR-7",
                "wickerwork-26",
                School.Comply,
                ("network.1.model", "Airlath AL-31 wireless"),
                ("network.1.kind", "wireless")
            ),
            Kept("MR-8", "wickerwork-26", School.Comply)
        );
        var chip = Shipped.Catalogue.Devices.First(d => d.Pattern.IsMatch("Airlath AL-31 wireless")).Id;
        var touched = Touched("devices", chip, With("devices", chip, d => d["name"] = "AL-31, recalled"), has, has_not);
        touched.Select(t => t.Tag).ShouldBe(["MR-7"]);
        touched[0].Why.ShouldContain("it has one: Airlath AL-31 wireless");
    }

    [Fact]
    public void A_component_of_its_boot_kit_touches_a_machine_and_one_of_another_kit_does_not()
    {
        var kit = Kept(
            "MR-9",
            "canzona-6",
            School.Spoof,
            ("identity.maker", "Ottavine"),
            ("identity.model", "Plinth PL-06B"),
            ("firmware.kind", "uefi64"),
            ("os.name", "Canzona 4")
        );
        var built = KitBuilder
            .Build(kit.Route.After(kit.Facts), Shipped.Catalogue.System("canzona-6")!, Shipped.Catalogue)
            .Components.Select(c => c.Component.Id)
            .ToHashSet();
        var other = Shipped.Catalogue.Components.First(c => !built.Contains(c.Id)).Id;
        foreach (var (id, touches) in new[] { (built.First(), true), (other, false) })
            Touched("components", id, Shipped.Catalogue, kit).Count.ShouldBe(touches ? 1 : 0, id);
        Touched("procedures", "copy", Shipped.Catalogue, kit).Count.ShouldBe(1);
        Touched("procedures", "driver", Shipped.Catalogue, kit).ShouldBeEmpty();
    }

    /// <summary>Complete: whatever is changed, those that are touched are those whose ladder, done again from the record, is another one.</summary>
    [Fact]
    public void No_machine_is_missed()
    {
        KeptMachine[] kept =
        [
            Kept("MR-10", "tessaly-6-r2", School.Comply),
            Kept("MR-11", "tessaly-6-r2", School.Patch, ("tpm.version", "absent")),
            Kept("MR-12", "wickerwork-26", School.Comply, ("memory.installedMiB", 2048)),
            Kept("MR-13", "tessaly-5", School.Comply),
        ];
        var systems = Shipped
            .Catalogue.Systems.Where(s => kept.Any(k => k.Route.System == s.Id) || s.Id == "driftway")
            .ToArray();
        Gen.Select(Gen.Int[0, systems.Length - 1], Gen.Int[0, 30], Gen.Int[0, 3])
            .Sample(
                (which, days, shift) =>
                {
                    var system = systems[which];
                    var after = With(
                        "systems",
                        system.Id,
                        s =>
                        {
                            if (shift > 0 && system.SupportEnds is { } end)
                                s["supportEnds"] = end.AddDays(-400 * shift - days).ToString("yyyy-MM-dd");
                            if (shift == 3)
                                s["requirements"]!.AsArray().RemoveAt(0);
                        }
                    );
                    var touched = Touched("prices", "none", after, kept).Select(t => t.Tag);
                    var again = kept.Where(k =>
                    {
                        var (old, changed) = (
                            Shipped.Catalogue.System(k.Route.System!)!,
                            after.System(k.Route.System!)!
                        );
                        string Ladder(ShopCatalogue catalogue, SystemEntry on) =>
                            string.Join(
                                ',',
                                new Evaluator(catalogue)
                                    .Assess(k.Facts, on, k.PlanOn(Today))
                                    .Rungs.Select(r => r.Outcome)
                            );
                        var extended = k.Route.Cures.Any(c => c.Extends == old.Id);
                        return Ladder(Shipped.Catalogue, old) != Ladder(after, changed)
                            || old.EndsFor(k.Facts, extended) != changed.EndsFor(k.Facts, extended);
                    });
                    touched.ShouldBe(again.Select(k => k.Tag));
                    return true;
                },
                iter: Cases.Of(8),
                threads: 1
            );
    }
}
