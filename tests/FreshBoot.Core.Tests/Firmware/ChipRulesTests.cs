using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Firmware;
using FreshBoot.Formats.Firmware;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Firmware;

public sealed class ChipRulesTests
{
    private static readonly BoardEntry Board = new("WAGTAIL", "Slate", WriteProtection.Screw, "full UEFI")
    {
        Keeps = [SimulatedRom.Vital],
    };

    private static ChipEvent Did(ChipDeed deed, string? sha = null, bool lost = false) =>
        new(deed, DateTimeOffset.UnixEpoch, "Pim", "", sha, 1, lost);

    private static readonly ChipEvent[] Ready =
    [
        Did(ChipDeed.Read, "a"),
        Did(ChipDeed.Read, "b"),
        Did(ChipDeed.Read, "b"),
        Did(ChipDeed.Backup, "b"),
        Did(ChipDeed.Board),
        Did(ChipDeed.Image, "c"),
        Did(ChipDeed.Mains),
    ];

    [Fact]
    public void Whatever_is_left_out_before_a_write_it_is_refused_and_named()
    {
        ChipRules.Check(ChipState.Of(Ready), ChipDeed.Written);
        foreach (
            var (left, named) in new[]
            {
                (ChipDeed.Backup, "backup"),
                (ChipDeed.Board, "revision"),
                (ChipDeed.Image, "image"),
                (ChipDeed.Mains, "mains"),
            }
        )
        {
            var refused = Assert.Throws<RefusedException>(() =>
                ChipRules.Check(ChipState.Of(Ready.Where(e => e.Deed != left)), ChipDeed.Written)
            );
            Assert.Contains(named, refused.Message, StringComparison.OrdinalIgnoreCase);
            Assert.NotEmpty(refused.Refusal.Wanted);
        }
    }

    [Fact]
    public void Two_reads_that_differ_are_no_reads()
    {
        var state = ChipState.Of([Did(ChipDeed.Read, "a"), Did(ChipDeed.Read, "b")]);
        Assert.Equal(1, state.EqualReads);
        Assert.Throws<RefusedException>(() => ChipRules.Check(state, ChipDeed.Backup));
        ChipRules.Check(ChipState.Of(Ready.Take(3)), ChipDeed.Backup);
    }

    [Fact]
    public void A_write_that_began_and_never_ended_leaves_a_machine_that_does_not_start()
    {
        var begun = ChipState.Of([.. Ready, Did(ChipDeed.Begun)]);
        Assert.False(begun.Starts);
        Assert.Contains("Do not restart", begun.Says);
        // Its power is looked at again: by the running machine, or with a programmer where it runs no more.
        Assert.Throws<RefusedException>(() => ChipRules.Check(begun, ChipDeed.Restored));
        ChipRules.Check(begun, ChipDeed.Mains);
        ChipRules.Check(begun, ChipDeed.Programmer);
        Assert.True(ChipState.Of([.. Ready, Did(ChipDeed.Begun), Did(ChipDeed.Written, "c")]).Starts);
    }

    [Fact]
    public void After_the_power_went_only_a_programmer_with_mains_off_reaches_it()
    {
        var dead = ChipState.Of([.. Ready, Did(ChipDeed.Begun), Did(ChipDeed.Failed, lost: true)]);
        Assert.Throws<RefusedException>(() => ChipRules.Check(dead, ChipDeed.Mains));
        Assert.Throws<RefusedException>(() => ChipRules.Check(dead, ChipDeed.Restored));
        Assert.Throws<RefusedException>(() => ChipRules.Check(dead, ChipDeed.Read));
        ChipRules.Check(dead, ChipDeed.Programmer);
        var clipped = ChipState.Of([
            .. Ready,
            Did(ChipDeed.Begun),
            Did(ChipDeed.Failed, lost: true),
            Did(ChipDeed.Programmer),
        ]);
        ChipRules.Check(clipped, ChipDeed.Restored);
        // One whose machine still starts is written from the running system.
        Assert.Throws<RefusedException>(() => ChipRules.Check(ChipState.Of(Ready), ChipDeed.Programmer));
    }

    [Fact]
    public void Random_orders_of_deeds_never_write_without_what_comes_before()
    {
        var random = new Random(7);
        var deeds = Enum.GetValues<ChipDeed>();
        for (var round = 0; round < 20_000; round++)
        {
            var events = new List<ChipEvent>();
            for (var i = 0; i < 12; i++)
            {
                var deed = deeds[random.Next(deeds.Length)];
                var state = ChipState.Of(events);
                try
                {
                    ChipRules.Check(state, deed);
                }
                catch (RefusedException)
                {
                    continue;
                }
                if (deed is ChipDeed.Written or ChipDeed.Restored)
                {
                    Assert.Contains(events, e => e.Deed == ChipDeed.Backup);
                    var last = events.FindLastIndex(e => e.Deed == ChipDeed.Failed);
                    Assert.Contains(events.Skip(last + 1), e => e.Deed is ChipDeed.Mains or ChipDeed.Programmer);
                    if (deed == ChipDeed.Written)
                        Assert.Contains(events, e => e.Deed == ChipDeed.Board);
                }
                if (deed == ChipDeed.Backup)
                    Assert.True(
                        events.Where(e => e.Deed == ChipDeed.Read).TakeLast(2).Select(e => e.Sha256).Distinct().Count()
                            == 1
                    );
                events.Add(Did(deed, deed == ChipDeed.Read ? $"{random.Next(2)}" : "b", lost: random.Next(2) == 0));
            }
        }
    }

    private static byte[] Merge(byte[] image, byte[] backup)
    {
        RomBoard Whose(byte[] bytes) => RomBoard.Of(bytes, RomImage.Read(bytes), [Board], null, null);
        return ChipImage.Merge(image, backup, 1 << 20, Board, Whose(image), Whose(backup));
    }

    [Fact]
    public void What_has_to_stay_is_taken_over_and_the_rest_is_the_image()
    {
        var backup = SimulatedRom.Make(1 << 20, "WAGTAIL chip", "7.31", "serial=LF-1\nnetwork=02:11\n");
        var image = SimulatedRom.Make(1 << 20, "WAGTAIL full", "1.4", "");
        var merged = Merge(image, backup);
        Assert.StartsWith("serial=LF-1", System.Text.Encoding.ASCII.GetString(merged, 0, 32), StringComparison.Ordinal);
        Assert.Equal(image[0x1_0000..], merged[0x1_0000..]);
        Assert.Equal(0xff, image[0]);
    }

    [Fact]
    public void An_image_that_is_not_for_this_chip_is_refused_with_the_reason()
    {
        var backup = SimulatedRom.Make(1 << 20, "WAGTAIL chip", "7.31", "serial=1");
        string Why(byte[] image, byte[]? old = null) =>
            Assert.Throws<RefusedException>(() => Merge(image, old ?? backup)).Message;
        Assert.Contains("and the chip 1048576", Why(new byte[1 << 19]));
        Assert.Contains("empty", Why([.. Enumerable.Repeat((byte)0xff, 1 << 20)]), StringComparison.OrdinalIgnoreCase);
        var damaged = SimulatedRom.Make(1 << 20, "x", "1", "");
        damaged[0x2_0000 + 44] ^= 1;
        Assert.Contains("wrong checksum", Why(damaged));
        var headless = SimulatedRom.Make(1 << 20, "x", "1", "");
        headless.AsSpan((1 << 20) - 16).Fill(0xff);
        Assert.Contains("processor begins", Why(headless));
        Assert.Contains("VITAL has to stay", Why(SimulatedRom.Make(1 << 20, "x", "1", ""), new byte[1 << 20]));
    }
}
