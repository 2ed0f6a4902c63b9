using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Handover;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Tests.Handover;

/// <summary>What the owner reads, in every language that ships.</summary>
public class OwnerSheetTests
{
    private static readonly OwnerWords English = Shipped.Words("en");

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
            PrivacyRefused: true,
            lines,
            "Wen",
            new DateTimeOffset(2026, 11, 3, 9, 0, 0, TimeSpan.Zero),
            "en"
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
        var sheet = OwnerSheet.Of(Sheet(Line("camera", "It does not work"), Line("same")), words, "Harbour Workshop");
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
        foreach (var said in English.Sheet.Values.Concat(English.Lines.Values))
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
}
