using FreshBoot.Core.Firmware;
using FreshBoot.Formats.Firmware;

namespace FreshBoot.Core.Tests.Firmware;

public class BoardRulesTests
{
    [Theory]
    [InlineData("WAGTAIL", "C7", true)]
    [InlineData("WAGTAIL", "C9", false)]
    [InlineData("SISKIN", "C7", false)]
    [InlineData("wagtail", "C7", false)]
    public void A_board_is_listed_by_name_and_processor(string name, string generation, bool listed)
    {
        var facts = Facts.Of(("identity.board", name), ("cpu.generation", generation));
        if (listed)
            BoardRules.Listed(facts, Shipped.Catalogue.Boards).Id.ShouldBe(name);
        else
            Should
                .Throw<RefusedException>(() => BoardRules.Listed(facts, Shipped.Catalogue.Boards))
                .Refusal.Wanted.ShouldContain("Not listed is not supported");
    }

    [Theory]
    [InlineData("WAGTAIL", "A", true)]
    [InlineData(" WAGTAIL ", "B ", true)]
    [InlineData("WAGTAIL", "C", false)]
    [InlineData("WAGTAIL-2", "A", false)]
    [InlineData(null, null, false)]
    public void The_print_of_the_board_has_to_match_sign_for_sign(string? print, string? revision, bool matches)
    {
        var board = Shipped.Catalogue.Boards.Single(b => b.Id == "WAGTAIL");
        if (matches)
            BoardRules.Match(board, print, revision);
        else
            Should.Throw<RefusedException>(() => BoardRules.Match(board, print, revision));
    }

    [Theory]
    [InlineData(
        "version 1.4 of 2026-09",
        "7.31 of 2019-04",
        "It is newer than what is there: 2026-09 against 2019-04."
    )]
    [InlineData("BIOS Date: 02/11/2015", "v2 2019-04-30", "It is older than what is there: 2015-02 against 2019-04.")]
    [InlineData("1.4 of 2026-09", "2.0 of 2026-09", null)]
    [InlineData("version 1.4", "7.31 of 2019-04", null)]
    [InlineData("2026-19", "7.31 of 2019-04", null)]
    public void An_image_is_older_or_newer_by_the_dates_in_it(string own, string there, string? says) =>
        RomAge.Beside(With(own), With(there)).ShouldBe(says);

    private static RomImage With(string text) => RomImage.Read(new byte[16]) with { Strings = [text] };
}
