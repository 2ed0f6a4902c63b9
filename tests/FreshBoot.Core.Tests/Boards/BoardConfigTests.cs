using FreshBoot.Core.Boards;

namespace FreshBoot.Core.Tests.Boards;

public class BoardConfigTests
{
    private static readonly Core.Catalogue.SmallBoard Board = Shipped.Catalogue.SmallBoards.Single(b =>
        b.Id == "thimble-q"
    );

    [Theory]
    [InlineData("cpu.clock=1800", null)]
    [InlineData("cpu.clock=2000", "it gets hot")]
    [InlineData("cpu.clock=2100", "5000 mA at 5 V")]
    [InlineData("cpu.clock=2401", "out of range: 600 to 2400 MHz")]
    [InlineData("cpu.clock=fast", "no whole number MHz")]
    [InlineData("screen.rotate=45", "0, 90, 180 or 270")]
    [InlineData("turbo=1", "Nobody here knows this key")]
    [InlineData("cpu.clock 1800", "No key and value")]
    [InlineData("[board-x]\ncpu.clock=9000", "under [board-x], which is not for this board")]
    [InlineData("cpu.clock=1000\n[all]\ncpu.clock=1200", "stands again in line 3")]
    [InlineData("# cpu.clock=9000", null)]
    public void A_line_is_held_against_what_the_board_takes(string text, string? says)
    {
        var findings = BoardConfig.Check(Board, text).Findings;
        if (says is null)
            findings.ShouldBeEmpty();
        else
            findings.ShouldContain(f => f.Text.Contains(says), string.Join('\n', findings.Select(f => f.Text)));
    }

    [Fact]
    public void What_counts_is_shown_with_what_it_does_and_what_keeps_it_from_starting_is_a_wall()
    {
        var verdict = BoardConfig.Check(Board, "cpu.clock=5000\n[board-q]\ngpu.memory=256\n");

        verdict
            .Effective.Select(e => (e.Key, e.Value, e.Line))
            .ShouldBe([("cpu.clock", "5000", 1), ("gpu.memory", "256", 3)]);
        verdict.Effective[0].Unit.ShouldBe("MHz");
        verdict.Findings.ShouldHaveSingleItem().Outcome.ShouldBe(Outcome.Wall);
    }

    [Fact]
    public void The_board_of_a_machine_is_found_by_its_model()
    {
        Shipped
            .Catalogue.SmallBoard(Facts.Of(("identity.maker", "Thimble"), ("identity.model", "Thimble Board Q")))
            ?.Id.ShouldBe("thimble-q");
        Shipped
            .Catalogue.SmallBoard(Facts.Of(("identity.maker", "Brackwater"), ("identity.model", "Stile 14")))
            .ShouldBeNull();
    }
}
