using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Firmware;
using FreshBoot.Formats.Firmware;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Firmware;

/// <summary>Firmware is written to the board that it was made for, and to no other.</summary>
public class RomBoardTests
{
    private static readonly IReadOnlyList<BoardEntry> Listed = Shipped.Catalogue.Boards;

    private static RomBoard Of(byte[] bytes, string? said = null) =>
        RomBoard.Of(bytes, RomImage.Read(bytes), Listed, said, said is null ? null : "Pim");

    /// <summary>Tries to write an image to a board whose chip is just as large; null where it may be.</summary>
    private static string? Refused(byte[] image, BoardEntry board, string? said = null)
    {
        var backup = SimulatedRom.Make(image.Length, $"{board.Id} chip", "7.31", "serial=1");
        try
        {
            ChipImage.Merge(image, backup, image.Length, board, Of(image, said), Of(backup));
            return null;
        }
        catch (RefusedException e)
        {
            return e.Message;
        }
    }

    [Fact]
    public void Every_image_of_the_demo_fits_the_board_that_it_names_and_no_other()
    {
        Listed.Count.ShouldBeGreaterThan(1);
        foreach (var made in Listed)
        {
            var image = SimulatedRom.Make(4 << 20, $"{made.Id} full", "1.4 of 2026-09", "");
            foreach (var board in Listed.DistinctBy(b => b.Id))
            {
                Of(image).IsProvedFor(board.Id).ShouldBe(board.Id == made.Id);
                if (board.Id == made.Id)
                    Refused(image, board).ShouldBeNull();
                else
                    Refused(image, board).ShouldNotBeNull().ShouldContain($"is for {made.Id}");
            }
        }
    }

    [Fact]
    public void What_was_read_from_a_chip_of_another_board_stops_it_too()
    {
        var image = SimulatedRom.Make(1 << 20, "WAGTAIL full", "1.4", "");
        var backup = SimulatedRom.Make(1 << 20, "DIPPER chip", "7.31", "serial=1");
        var board = Listed.First(b => b.Id == "WAGTAIL");
        Should
            .Throw<RefusedException>(() => ChipImage.Merge(image, backup, 1 << 20, board, Of(image), Of(backup)))
            .Message.ShouldContain("names DIPPER");
    }

    [Theory]
    [InlineData("/usr/share/ovmf/OVMF.fd")]
    [InlineData("/usr/share/seabios/bios-256k.bin")]
    public void Firmware_that_names_no_board_is_proved_for_none_until_somebody_names_one(string path)
    {
        var image = File.ReadAllBytes(path);
        foreach (var board in Listed)
        {
            Of(image).IsProvedFor(board.Id).ShouldBeFalse();
            Of(image, board.Id).IsProvedFor(board.Id).ShouldBeTrue();
        }
        Of(image).Says.ShouldContain("nobody knows");
        var mine = Listed[0];
        var other = Listed.First(b => b.Id != mine.Id);
        Refused(image, mine, other.Id).ShouldNotBeNull().ShouldContain($"is for {other.Id}");
    }

    [Fact]
    public void A_name_counts_as_a_whole_word_in_either_writing_of_firmware()
    {
        var image = SimulatedRom.Make(1 << 20, "FLASH", "1", "");
        void Put(int at, byte[] text) => text.CopyTo(image, at);
        Put(0x100, Encoding.ASCII.GetBytes("xWAGTAILS DIPPER2"));
        Of(image).Named.ShouldBeEmpty();
        Put(0x200, Encoding.Unicode.GetBytes("board WAGTAIL"));
        Of(image).Named.ShouldBe(["WAGTAIL"]);
        Put(0x300, Encoding.ASCII.GetBytes("for DIPPER."));
        Of(image).Named.ShouldBe(["WAGTAIL", "DIPPER"]);
        Of(image).IsProvedFor("WAGTAIL").ShouldBeFalse();
        Of(image, "WAGTAIL").IsProvedFor("WAGTAIL").ShouldBeTrue();
    }

    [Fact]
    public void A_word_that_the_image_gives_the_lie_is_refused()
    {
        var image = SimulatedRom.Make(1 << 20, "WAGTAIL full", "1", "");
        Should.Throw<RefusedException>(() => Of(image, "DIPPER").CheckSaid()).Message.ShouldContain("not DIPPER");
        Should.NotThrow(() => Of(image, "WAGTAIL").CheckSaid());
    }

    [Fact]
    public void What_was_taken_without_knowing_stays_not_proved_until_the_backup_is_back()
    {
        var at = new DateTimeOffset(2026, 12, 1, 12, 0, 0, TimeSpan.Zero);
        ChipEvent Did(ChipDeed deed, string? notProved = null) =>
            new(deed, at, "Pim", "", "b", 1, NotProved: notProved);
        var written = ChipState.Of([Did(ChipDeed.Image, "bought for it"), Did(ChipDeed.Begun), Did(ChipDeed.Written)]);
        written.Says.ShouldContain("Not proved");
        written.NotProved.ShouldBe("Pim: bought for it");
        ChipState
            .Of([Did(ChipDeed.Image), Did(ChipDeed.Begun), Did(ChipDeed.Written)])
            .Says.ShouldNotContain("Not proved");
        ChipState
            .Of([Did(ChipDeed.Image, "x"), Did(ChipDeed.Begun), Did(ChipDeed.Written), Did(ChipDeed.Restored)])
            .NotProved.ShouldBeNull();
    }
}
