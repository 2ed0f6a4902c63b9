using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Tests.Handover;

/// <summary>What the owner reads, in every language that ships.</summary>
public class OwnerSheetTests
{
    private static readonly OwnerWords English = Shipped.Words("en");

    private static readonly WorkshopCalendar Calendar = new(
        TimeZoneInfo.CreateCustomTimeZone("shop", TimeSpan.FromHours(2), "shop", "shop")
    );

    [Fact]
    public void Work_that_ends_after_the_workshops_midnight_bears_the_workshops_day() =>
        OwnerSheet
            .Of(
                Sheet() with
                {
                    FinishedAt = new DateTimeOffset(2026, 11, 3, 22, 30, 0, TimeSpan.Zero),
                },
                English,
                "Harbour Workshop",
                Calendar
            )
            .Foot.ShouldContain("4 November 2026");

    private static HandoverSheet Sheet(params AcceptanceLine[] lines) =>
        new(
            "MR-0404",
            "Brackwater Transom 7",
            "BT-7-60213",
            "Tessaly 6, release 2",
            SystemClass.Commercial,
            new DateOnly(2029, 11, 30),
            "Corvane C6",
            "8 GiB",
            "256 GB",
            [
                new Changed(Outcome.Patch, "Lift the installer's gates", "asked for TPM 2.0, had 1.2"),
                new Changed(Outcome.Part, "Fit a 240 GB SATA SSD", ""),
            ],
            ["Stick 2, red (image ab12)"],
            [],
            ["Class 1 graphics are slow with films {and} braces."],
            MakersAccount: true,
            Privacy: "refused",
            lines,
            "Wen",
            new DateTimeOffset(2026, 11, 3, 9, 0, 0, TimeSpan.Zero),
            "en",
            new SealedRecord("r", 63, "0123456789abcdef0123", true)
        );

    private static AcceptanceLine Line(string id, string? instead = null) =>
        new(id, $"The {id}", Rung.Devices, instead is null ? Proof.Proved : Proof.Accepted, ProvedBy.Step, "Wen looked")
        {
            Instead = instead,
        };

    [Fact]
    public void Two_languages_ship_and_say_the_same_things_with_the_same_places()
    {
        Shipped.Languages.Select(l => l.Code).ShouldBe(["de", "en"]);
        foreach (var words in Shipped.Languages)
        {
            words.Sheet.Keys.Order().ShouldBe(English.Sheet.Keys.Order(), words.Code);
            words.Lines.Keys.Order().ShouldBe(English.Lines.Keys.Order(), words.Code);
            words.Sayings.Keys.Order().ShouldBe(English.Sayings.Keys.Order(), words.Code);
            // What is not for the owner is so in every language.
            foreach (var (from, to) in English.Sayings)
                (words.Sayings[from].Length == 0).ShouldBe(to.Length == 0, $"{words.Code} {from}");
            foreach (var (id, said) in English.Sheet)
                Places(words.Sheet[id]).ShouldBe(Places(said), $"{words.Code} {id}");
            foreach (var (id, said) in English.Lines)
                Places(words.Lines[id]).ShouldBe(Places(said), $"{words.Code} {id}");
        }
    }

    private static IEnumerable<string> Places(string sentence) => OwnerWords.Places(sentence).Order();

    [Fact]
    public void Every_line_that_a_shipped_step_proves_has_its_words_and_none_is_left_over()
    {
        IEnumerable<StepEntry> All(IEnumerable<StepEntry> steps) =>
            steps.SelectMany(s => All(s.Branches.SelectMany(b => b.Then)).Prepend(s));
        var proved = Shipped
            .Catalogue.Procedures.SelectMany(p => All(p.Steps))
            .Select(s => s.Proves)
            .OfType<string>()
            .Select(Acceptance.Id)
            .ToHashSet(StringComparer.Ordinal);
        proved.Count.ShouldBeGreaterThan(30);
        string[] read = ["system", "memory", "drive", "divided", "start", "devices", "same", "closed"];
        English.Lines.Keys.Order().ShouldBe(proved.Concat(read).Order());
    }

    [Fact]
    public void Every_class_of_system_and_every_kind_of_cure_has_its_words()
    {
        foreach (var kind in Enum.GetValues<SystemClass>())
            English.Has($"daily.{RouteKeys.Camel($"{kind}")}").ShouldBeTrue($"{kind}");
        foreach (var kind in Shipped.Catalogue.Cures.Select(c => c.Kind).Distinct())
            English.Has($"kind.{RouteKeys.Camel($"{kind}")}").ShouldBeTrue($"{kind}");
    }

    [Theory]
    [InlineData("en", "Updates come", "30 November 2029", "page 1 of 2")]
    [InlineData("de", "Auf Ihrem Computer läuft Tessaly 6, release 2.", "30. November 2029", "Seite 1 von 2")]
    public void The_sheet_says_it_in_the_language_of_its_owner(string code, string title, string day, string page)
    {
        var words = Shipped.Words(code);
        var sheet = OwnerSheet.Of(
            Sheet(Line("camera", "It does not work"), Line("same")),
            words,
            "Harbour Workshop",
            Calendar
        );
        if (code == "de")
            sheet.Title.Replace('\u00a0', ' ').ShouldBe(title);
        var text = JsonSerializer.Serialize(sheet.Parts.SelectMany(p => p.Items), JsonSerializerOptions.Web);
        text.ShouldNotContain("gates");
        sheet.Parts.Single(p => p.Id == "updates").Items[0].ShouldContain(day);
        sheet.Parts.Single(p => p.Id == "notWorking").Items.ShouldHaveSingleItem().ShouldContain("It does not work");
        sheet.Parts.Single(p => p.Id == OwnerSheet.TriedPart).Items.ShouldHaveSingleItem();
        sheet
            .Parts.Single(p => p.Id == "know")
            .Items[^1]
            .ShouldBe("Class 1 graphics are slow with films {and} braces.");
        words.Say("page", ("page", "1"), ("pages", "2")).ShouldBe(page);
    }

    [Fact]
    public void No_owner_meets_the_name_of_a_rung_or_a_word_of_the_trade()
    {
        string[] trade = ["rung", "ladder", "gate", "spoof", "reflash", "firmware", "UEFI", "boot", "dossier", "kit"];
        foreach (var said in English.Sheet.Values.Concat(English.Lines.Values).Concat(English.Sayings.Values))
        {
            var words = said.Split([' ', '.', ',', ':', ';', '-'], StringSplitOptions.RemoveEmptyEntries);
            words.ShouldAllBe(
                w => !trade.Contains(w.TrimEnd('s'), StringComparer.OrdinalIgnoreCase),
                $"a word of the trade in “{said}”"
            );
        }
    }

    [Theory]
    [InlineData("[]")]
    [InlineData("null")]
    [InlineData("""{"code":"xx"}""")]
    [InlineData("""{"code":"xx","name":"X","dateForm":"","months":["one"],"sheet":{},"lines":{},"sayings":{}}""")]
    public void A_file_that_is_none_of_words_is_refused_by_its_name(string text) =>
        Should.Throw<RefusedException>(() => OwnerWords.Read(text, "xx.json")).Refusal.Where.ShouldStartWith("xx.json");

    /// <summary>All that findings, side effects and cures of the shipped catalogue can say to an owner.</summary>
    private static IEnumerable<string> AllThatIsSaid()
    {
        var catalogue = Shipped.Catalogue;
        foreach (var requirement in catalogue.Systems.SelectMany(s => s.Requirements))
            if (requirement.Kind == RequirementKind.Comfort)
                yield return $"Runs, but {requirement.Needed} is comfortable; has some, or other. Fit more (M 3.00).";
            else if (requirement.Advisory)
                yield return $"Warns below {requirement.Needed}; has less. The notice can be passed.";
            else if (
                requirement.Rung == Rung.Devices
                && requirement.Needed.StartsWith("a driver", StringComparison.Ordinal)
            )
                yield return $"Runs, but {requirement.Needed} is comfortable; has Netherby NB-12, Airlath AL-77.";
        foreach (var cure in catalogue.Cures)
        {
            if (cure.Kind is Outcome.Setting or Outcome.Part)
                yield return cure.Does;
            foreach (var effect in cure.Adds ?? [])
                yield return effect.Text;
        }
        foreach (var text in catalogue.Systems.SelectMany(s => s.Kit?.Lacks ?? []))
            yield return text;
        foreach (var text in catalogue.Profiles.SelectMany(p => p.WorksNot))
            yield return text;
    }

    [Fact]
    public void Whatever_the_shipped_catalogue_can_say_has_words_for_owners_in_every_language()
    {
        var all = AllThatIsSaid().Distinct().ToArray();
        all.Length.ShouldBeGreaterThan(30);
        foreach (var words in Shipped.Languages)
            all.Where(said => !words.Knows(said)).ShouldBeEmpty(words.Code);
    }

    [Fact]
    public void A_saying_with_places_carries_over_what_stands_there_and_days_as_its_language_writes_them()
    {
        Shipped
            .Words("de")
            .Saying("The order wants updates to 30 Jun 2029; they end on 31 Mar 2028.")
            .ShouldBe(
                "Aktualisierungen waren bis zum 30. Juni 2029 gewünscht und enden früher: siehe „Aktualisierungen“."
            );
        English.Saying("Fit a 480 GB SATA SSD").ShouldBe("a fast drive of 480 GB");
        // A place in a place, and braces in what somebody wrote.
        Shipped
            .Words("de")
            .Saying(
                "After a large update: No wireless networks are listed. Then bring it back; it takes about 4 minutes."
            )
            .ShouldBe(
                "Nach einer großen Aktualisierung kann es so sein: Er zeigt keine drahtlosen Netze an. Dann bringen Sie ihn; es dauert etwa 4 Minuten."
            );
        English
            .Saying("It names itself a {model}. Services that check the serial may refuse.")
            .ShouldContain("{model}");
        English.Saying("The lid creaks.").ShouldBe("The lid creaks.");
    }

    [Fact]
    public void The_owner_reads_each_thing_once_and_nothing_that_is_the_workshop_s_alone()
    {
        var known = OwnerSheet
            .Of(
                Sheet() with
                {
                    ToKnow =
                    [
                        "Updates to 30 Jun 2027, six months from now. Plan what comes after.",
                        "Runs, but 8 GiB is comfortable; has 4 GiB in its only slot.",
                        "Runs, but 4 GiB is comfortable; has 2 GiB in two of two slots.",
                    ],
                    Changed = [new Changed(Outcome.Setting, "Pay for updates to 31 Mar 2028", "", Extends: true)],
                },
                Shipped.Words("de"),
                "Harbour Workshop",
                Calendar
            )
            .Parts;
        known
            .Single(p => p.Id == "know")
            .Items.ShouldHaveSingleItem()
            .ShouldStartWith("Sein Arbeitsspeicher ist klein");
        known
            .Single(p => p.Id == "changed")
            .Items.ShouldHaveSingleItem()
            .ShouldBe("Weitere Aktualisierungen nach den üblichen sind bezahlt: sie kommen bis zum 31. März 2028.");
    }

    [Theory]
    [InlineData("{all}", "all of it")]
    [InlineData("Fit a {size} drive", "a drive of {room}")]
    [InlineData("Fit {a} and {a}", "two")]
    public void A_saying_that_cannot_be_meant_is_refused(string from, string to) =>
        Should
            .Throw<RefusedException>(() =>
                OwnerWords.Read(
                    JsonSerializer.Serialize(
                        English with
                        {
                            Sayings = new Dictionary<string, string> { [from] = to },
                        },
                        JsonSerializerOptions.Web
                    ),
                    "xx.json"
                )
            )
            .Refusal.Where.ShouldBe("xx.json sayings");
}
