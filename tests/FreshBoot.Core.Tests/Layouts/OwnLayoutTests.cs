using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Layouts;

namespace FreshBoot.Core.Tests.Layouts;

public sealed class OwnLayoutTests
{
    private static Dossier Machine(string? own, long bytes = 128_000_000_000) =>
        Dossier.From([
            Read("storage.0.sizeBytes", FactValue.Of(bytes)),
            Read("storage.0.bus", FactValue.Of("sata")),
            Read("firmware.kind", FactValue.Of("uefi64")),
            Read("memory.installedMiB", FactValue.Of(4096)),
            .. own is null ? Array.Empty<Reading>() : [Read(OwnLayout.Key, FactValue.Of(own))],
        ]);

    private static Reading Read(string key, FactValue value) =>
        new(key, value, "tried", Origin.Entered, DateTimeOffset.UnixEpoch, "Pim");

    [Fact]
    public void What_was_drawn_comes_back_as_it_was_and_counts_before_the_plan()
    {
        var planned = MachineLayout.Of(Machine(null), null).Layout!;
        var smaller = planned
            .Partitions.Select(p => p.Use == PartitionUse.System ? p with { SizeLba = p.SizeLba - 2048 * 1024 } : p)
            .ToArray();
        var text = OwnLayout.Write(planned.Scheme, planned.SectorBytes, planned.Sectors, smaller);
        var drawn = MachineLayout.Of(Machine(text), null).Layout!;
        Assert.Equal(
            smaller.Select(p => (p.Number, p.Use, p.Type, p.StartLba, p.SizeLba)),
            drawn.Partitions.Select(p => (p.Number, p.Use, p.Type, p.StartLba, p.SizeLba))
        );
        Assert.Equal("somebody drew it", drawn.SchemeWhy);
    }

    [Theory]
    [InlineData("nonsense", "cannot be read")]
    [InlineData("gpt 512 250000000:", "cannot be read")]
    [InlineData("gpt 513 250000000: 1 efi 2048 1048576", "cannot be read")]
    [InlineData("gpt 512 250000000: 1 floppy 2048 1048576", "cannot be read")]
    [InlineData("gpt 512 250000000: 1 efi -5 1048576", "cannot be read")]
    [InlineData("gpt 512 99: 1 efi 2048 1048576", "this one has 128 GB")]
    [InlineData("gpt 512 250000000: 1 efi 2048 1048576; 2 system 4096 2097152", "does not hold")]
    [InlineData("gpt 512 250000000: 1 efi 2048 1048576; 2 system 1050624 999999999", "does not hold")]
    public void What_does_not_hold_is_told_and_never_used(string own, string says)
    {
        var (layout, whyNot) = MachineLayout.Of(Machine(own), null);
        Assert.Null(layout);
        Assert.Contains(says, whyNot);
    }
}
