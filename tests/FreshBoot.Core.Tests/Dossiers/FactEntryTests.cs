using System.Text.Json;
using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Dossiers;

public class FactEntryTests
{
    private static FactValue Read(string key, object value) =>
        FactEntry.Read(key, JsonSerializer.SerializeToElement(value));

    [Theory]
    [InlineData("8 GB", 8192)]
    [InlineData("8GiB", 8192)]
    [InlineData("7.7GiB", 7885)]
    [InlineData("512 MB", 512)]
    [InlineData("4096", 4096)]
    [InlineData("4,5 gib", 4608)]
    [InlineData("1 TB", 1048576)]
    public void Memory_is_counted_in_powers_of_1024(string text, long mebibytes) =>
        Read("memory.installedMiB", text).ShouldBe(FactValue.Of(mebibytes));

    [Theory]
    [InlineData("250G", 250_000_000_000)]
    [InlineData("1 TB", 1_000_000_000_000)]
    [InlineData("500 GB", 500_000_000_000)]
    [InlineData("16 GiB", 17_179_869_184)]
    [InlineData("128035676160", 128_035_676_160)]
    [InlineData("1.5 TB", 1_500_000_000_000)]
    public void Drives_are_counted_in_powers_of_1000_unless_it_says_so(string text, long bytes) =>
        Read("storage.0.sizeBytes", text).ShouldBe(FactValue.Of(bytes));

    [Theory]
    [InlineData("memory.installedMiB", "8 kg")]
    [InlineData("memory.installedMiB", "3 GHz")]
    [InlineData("memory.installedMiB", "-4 GiB")]
    [InlineData("memory.installedMiB", "")]
    [InlineData("memory.installedMiB", 0)]
    [InlineData("memory.installedMiB", 1.5)]
    [InlineData("memory.installedMiB", "999999 TB")]
    [InlineData("storage.0.sizeBytes", "12 B")]
    [InlineData("storage.0.sizeBytes", "1.0000005 B")]
    [InlineData("cpu.cores", "four")]
    [InlineData("cpu.cores", "4 GB")]
    [InlineData("cpu.wordBits", 48)]
    [InlineData("tpm.version", "3.0")]
    [InlineData("tpm.version", 2)]
    [InlineData("identity.model", "  ")]
    [InlineData("identity.model", "two\nlines")]
    [InlineData("cpu.level", "x86-64-v3")]
    [InlineData("cpu.flags", "")]
    public void What_does_not_fit_is_refused_with_what_would(string key, object value)
    {
        var refusal = Should.Throw<RefusedException>(() => Read(key, value)).Refusal;

        refusal.Kind.ShouldBe(RefusalKind.Invalid);
        refusal.Where.ShouldBe(key);
        refusal.Wanted.ShouldNotBeNullOrWhiteSpace();
    }

    [Fact]
    public void An_unknown_key_is_refused_with_one_that_is_near()
    {
        var refusal = Should.Throw<RefusedException>(() => Read("memory.installed", "8 GB")).Refusal;

        refusal.Kind.ShouldBe(RefusalKind.Missing);
        refusal.Wanted.ShouldContain("memory.installedMiB");
    }

    [Theory]
    [InlineData("storage.3.bus", true)]
    [InlineData("storage.10.bus", false)]
    [InlineData("memory.1.slots", false)]
    [InlineData("tpm.version", true)]
    public void Only_keys_that_can_be_several_take_an_index(string key, bool known) =>
        (FactRegistry.Find(key) is not null).ShouldBe(known);

    [Fact]
    public void Whatever_is_shown_as_memory_reads_back_to_the_same_order() =>
        Gen.Long[1, 1 << 24]
            .Sample(mebibytes =>
                Math.Abs(Quantity.Parse(Quantity.Memory(mebibytes), "MiB")!.Value - mebibytes)
                <= Math.Max(1, mebibytes / 18)
            );

    [Fact]
    public void Any_text_is_either_read_or_refused() =>
        Gen.Select(Pick.From<string>([.. FactRegistry.All.Select(d => d.Key)]), Gen.String)
            .Sample(
                (key, text) =>
                {
                    try
                    {
                        Read(key, text).ShouldNotBeNull();
                    }
                    catch (RefusedException e)
                    {
                        e.Refusal.Wanted.ShouldNotBeEmpty();
                    }
                }
            );

    [Fact]
    public void Every_key_has_a_label_a_way_to_measure_it_and_a_rung_of_its_own_place()
    {
        foreach (var definition in FactRegistry.All)
        {
            definition.Label.ShouldNotBeNullOrWhiteSpace();
            definition.HowToMeasure.ShouldEndWith(".");
            definition.Minutes.ShouldBeInRange(1, 120);
            (definition.Form == FactForm.Choice).ShouldBe(definition.Choices.Count > 0, definition.Key);
        }
    }
}
