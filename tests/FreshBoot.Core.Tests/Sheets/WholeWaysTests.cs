using FreshBoot.Core.BootKits;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;
using FreshBoot.Core.Sheets;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>Every machine of the demo, by every route: what it needs can be made, its sheet is whole, and it tells one time.</summary>
public class WholeWaysTests
{
    private static readonly Inspection Hybrid = new(
        "IMAGE",
        5 << 20,
        null,
        [],
        [],
        [],
        [],
        new Starts(new(true, ""), new(true, ""), new(true, ""), new(true, ""), new(true, ""), new(true, "")),
        []
    );

    private static readonly ChipState Chip = ChipState.Of([
        .. new[]
        {
            (ChipDeed.Read, "b"),
            (ChipDeed.Read, "b"),
            (ChipDeed.Backup, "b"),
            (ChipDeed.Board, (string?)null),
            (ChipDeed.Image, "c"),
        }.Select(d => new ChipEvent(d.Item1, DateTimeOffset.UnixEpoch, "Pim", "", d.Item2, 1, false)),
    ]);

    /// <summary>A bench on which the one next action of every item is done, until none is left.</summary>
    private sealed class Hands(Dossier facts, Route route)
    {
        private readonly List<ShelfImage> _images = [];
        private readonly List<ShelfRecipe> _recipes = [];
        private readonly List<ShelfMedium> _media = [];
        private readonly List<ShelfKit> _kits = [];
        private readonly List<GivenIdentity> _identities = [];
        private ChipState? _chip;

        public IReadOnlyList<WorkItem> Items() =>
            WorkPlan.Of(
                route,
                new WorkMachine("MR-0000", facts, 1, _identities),
                Shipped.Catalogue,
                new WorkShelf(_images, _recipes, _media, []) { Kits = _kits, Chip = _chip }
            );

        public IReadOnlyList<WorkItem> Made()
        {
            for (var turns = 0; turns < 40; turns++)
            {
                var items = Items();
                if (items.FirstOrDefault(i => i is { Needed: true, State: not WorkItemState.Ready }) is null)
                    return items;
                var next = items
                    .Where(i => i is { Needed: true, State: not WorkItemState.Ready, Next: not null })
                    .Select(i => i.Next!)
                    .FirstOrDefault(Do);
                if (next is null)
                    return items;
            }
            return Items();
        }

        private bool Do(WorkNext next)
        {
            var system = Shipped.Catalogue.System(route.System!)!;
            switch (next.Action)
            {
                case WorkAction.BringImage when _images.Count == 0:
                    _images.Add(new ShelfImage(1, $"{system.Id}.iso", system.Id, null, "aa", null, null, Hybrid));
                    return true;
                case WorkAction.MakeRecipe when WorkPlan.Generated(route, Shipped.Catalogue, _recipes) is { } recipe:
                    _recipes.Add(new ShelfRecipe(recipe, 1));
                    return true;
                case WorkAction.ApplyRecipe:
                    var applied = _recipes.Single(r => r.Recipe.Id == next.Recipe).Recipe;
                    var parent = _images.Single(i => i.Id == next.ImageId);
                    _images.Add(
                        parent with
                        {
                            Id = _images.Count + 1,
                            Parent = parent.Id,
                            Sha256 = $"{parent.Sha256}{_images.Count}",
                            Applied = new AppliedRecipe(applied.Id, 1, applied.Sha256()),
                        }
                    );
                    return true;
                case WorkAction.WriteMedium:
                    _media.Add(new ShelfMedium(_media.Count + 1, "Stick 1", false, true, "ready", next.ImageId));
                    return true;
                case WorkAction.GiveIdentity:
                    var donor = DonorChoice.For(facts, system.Id, Shipped.Catalogue)!;
                    _identities.Add(
                        new GivenIdentity(
                            _identities.Count + 1,
                            donor.Id,
                            IdentityProfile.Fresh(
                                donor,
                                WorkPlan.IdentityOf(facts) ?? IdentityLevel.Model,
                                new byte[IdentityProfile.RandomBytes]
                            )!,
                            "Pim",
                            DateTimeOffset.UnixEpoch
                        )
                    );
                    return true;
                case WorkAction.BuildKit
                    when KitBuilder.TryBuild(route.AtInstaller(facts), system, Shipped.Catalogue) is { } kit:
                    _kits.Add(
                        new ShelfKit(
                            1,
                            system.Id,
                            "cc",
                            KitFrom.Of(kit, GivenIdentity.For(_identities, system.Id, Shipped.Catalogue)),
                            0
                        )
                    );
                    return true;
                case WorkAction.PutKit:
                    var without = _images.Single(i => i.Id == next.ImageId);
                    _images.Add(
                        without with
                        {
                            Id = _images.Count + 1,
                            Parent = without.Id,
                            Sha256 = $"{without.Sha256}kit",
                            Applied = new AppliedRecipe(KitFiles.AppliedTo("MR-0417"), 1, _kits[^1].Sha256),
                        }
                    );
                    return true;
                case WorkAction.WorkOnChip:
                    _chip = Chip;
                    return true;
                default:
                    return false;
            }
        }
    }

    private static IEnumerable<(string Tag, Dossier Facts, Route Route)> All =>
        Fleet.Dossiers.SelectMany(
            d => AnySheets.Search.Find(d.Dossier, new RouteQuestion(AnySheets.Today)),
            (d, r) => (d.Tag, d.Dossier, r)
        );

    [Fact]
    public void What_a_route_needs_can_be_made_ready_and_its_sheet_is_whole_then()
    {
        var failing = new List<string>();
        foreach (var (tag, facts, route) in All)
        {
            var items = new Hands(facts, route).Made();
            failing.AddRange(
                items
                    .Where(i => !i.Holds)
                    .Select(i => $"{tag} {route.School} {route.System}: {i.Id} is {i.State}: {i.Says}")
            );
            var sheet = AnySheets.Of(facts, route, items);
            failing.AddRange(sheet.Missing.Select(m => $"{tag} {route.School} {route.System}: {m.Step} {m.Says}"));
        }
        failing.ShouldBeEmpty();
    }

    [Fact]
    public void Choosing_and_doing_tell_one_time()
    {
        var times = new SheetTimes(Shipped.Catalogue);
        foreach (var (tag, facts, route) in All)
        {
            var sheet = AnySheets.Of(facts, route);
            var told = times.Of(facts, route, null);
            (told.HandsOnMinutes, told.WaitMinutes).ShouldBe(
                (sheet.HandsOnMinutes, sheet.WaitMinutes),
                $"{tag} {route.School} {route.System}"
            );
        }
        var search = new RouteSearch(Shipped.Catalogue, times);
        foreach (var (tag, facts) in Fleet.Dossiers)
        foreach (var route in search.Find(facts, new RouteQuestion(AnySheets.Today)))
        {
            var sheet = AnySheets.Of(facts, route);
            route.HandsOnMinutes.ShouldBe(sheet.HandsOnMinutes, $"{tag} {route.System}");
            route.ElapsedMinutes.ShouldBe(sheet.HandsOnMinutes + sheet.WaitMinutes, $"{tag} {route.System}");
            route.Vector.HandsOnMinutes.ShouldBe(route.HandsOnMinutes);
        }
    }

    [Fact]
    public void No_settings_are_opened_without_a_switch_to_turn_and_none_that_stood_open_is_closed()
    {
        foreach (var (tag, facts, route) in All)
        {
            var question = AnySheets.Question(facts, route);
            var sheet = RunSheet.Of(question);
            var turned = sheet.Steps.Where(s => s.On is null && s.Fragment == "settings").ToArray();
            var back = sheet.Steps.Where(s => s.On is null && s.Fragment == "settings-back").ToArray();
            if (turned.Length > 0)
                turned.Count(s => s.Id.Split('.')[1].Contains('-')).ShouldBeGreaterThan(0, $"{tag} {route.System}");
            (back.Length > 0).ShouldBe(question.Switches?.Closing.Count > 0, $"{tag} {route.System}");
            if (facts.Word("firmware.usbStart") == "yes")
                sheet.Steps.ShouldNotContain(s => s.Does.ContainsKey("usbStart"), $"{tag} {route.System}");
            if (!Shipped.Catalogue.Menus(facts).HasSettings)
                sheet.Steps.ShouldNotContain(
                    s => s.Does.GetValueOrDefault("running") == "setup",
                    $"{tag} {route.System}"
                );
        }
    }
}
