using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Probes;

namespace FreshBoot.Core.Tests.Probes;

/// <summary>Every reader on bytes that were cut, flipped, made up and made huge: facts, or a word of what is wrong and where.</summary>
public class FuzzTests
{
    public static TheoryData<string> Files => [.. Samples.All.Keys];

    [Fact]
    public void There_is_a_sample_for_every_source() =>
        Sources.All.ShouldAllBe(s => Samples.All.Keys.Any(s.Names), "a reader that nobody tries");

    [Theory]
    [MemberData(nameof(Files))]
    public void No_input_brings_a_reader_down(string name)
    {
        var good = Samples.All[name];
        Read(name, good).ShouldBeNull();
        Gen.Select(
                Gen.Int[0, good.Length],
                Gen.Byte.Array[0, 8],
                Gen.Int[0, Math.Max(0, good.Length - 1)],
                Gen.Int[0, 3]
            )
            .Sample(
                (cut, noise, at, kind) =>
                {
                    byte[] bad = kind switch
                    {
                        0 => good[..cut],
                        1 => [.. good[..cut], .. noise, .. good[Math.Min(good.Length, cut + noise.Length)..]],
                        2 => [.. good[..cut], .. good[Math.Max(0, cut - 40)..]],
                        _ => [.. good],
                    };
                    if (kind != 0 && bad.Length > 0)
                        bad[at % bad.Length] ^= (byte)(noise.Length > 0 ? noise[0] | 1 : 0x21);
                    Read(name, bad)?.ShouldStartWith(name);
                },
                iter: Cases.Of(2_500)
            );
    }

    [Theory]
    [MemberData(nameof(Files))]
    public void Huge_inputs_take_memory_in_proportion_and_end(string name)
    {
        var good = Samples.All[name];
        foreach (var filling in new byte[] { 0, (byte)'[', (byte)'\n', (byte)' ', 0xff })
        {
            var huge = new byte[2 << 20];
            huge.AsSpan().Fill(filling);
            good.CopyTo(huge, 0);
            Bounded(name, huge);
        }
        // The whole file again and again, to the size of the largest member.
        Bounded(name, [.. Enumerable.Repeat(good, (1 << 20) / good.Length).SelectMany(b => b)]);
    }

    private static void Bounded(string name, byte[] huge)
    {
        var before = GC.GetAllocatedBytesForCurrentThread();
        Read(name, huge);
        (GC.GetAllocatedBytesForCurrentThread() - before).ShouldBeLessThan(100L * huge.Length, name);
    }

    [Fact]
    public void A_source_of_a_bundle_that_cannot_be_read_is_a_warning_that_names_it()
    {
        var bundle = new ProbeBundle(
            Facts.Noon,
            true,
            new Dictionary<string, byte[]>(StringComparer.Ordinal)
            {
                ["meminfo.txt"] = Samples.All["meminfo.txt"],
                ["smart-sda.json"] = Samples.All["smart-sda.json"][..100],
                ["edid-card0-eDP-1.bin"] = [1, 2, 3],
            },
            [],
            []
        );

        var report = ProbeReader.Read(bundle, "b");

        report.Readings.ShouldContain(r => r.Key == "memory.visibleMiB");
        report.Warnings.ShouldContain(w => w.StartsWith("smart-sda.json, line"));
        report.Warnings.ShouldContain(w => w.StartsWith("edid-card0-eDP-1.bin, offset 0"));
    }

    /// <summary>Null for facts; else the place that the refusal names.</summary>
    private static string? Read(string name, byte[] content)
    {
        var report = new Report(Facts.Noon);
        try
        {
            ProbeReader.Read(name, content, report);
        }
        catch (RefusedException e)
        {
            e.Refusal.What.ShouldNotBeEmpty();
            e.Refusal.Wanted.ShouldNotBeEmpty();
            return e.Refusal.Where;
        }
        report.Readings.ShouldAllBe(r => FactRegistry.Find(r.Key) != null);
        return null;
    }
}
