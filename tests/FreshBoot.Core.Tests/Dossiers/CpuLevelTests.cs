using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Formats.Tests;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Dossiers;

public class CpuLevelTests
{
    private static readonly string[] AllFlags =
    [
        .. CpuLevel.Levels.SelectMany(l => l.Adds.Select(f => f.Flag)),
        "tsc",
        "avx512_vnni",
    ];
    private static readonly Gen<string[]> SomeFlags = Gen.Shuffle(AllFlags, 0, AllFlags.Length);
    private static readonly string[] Order = ["none", .. CpuLevel.Levels.Select(l => l.Level)];

    private static int Height(IEnumerable<string> flags) =>
        Array.IndexOf(Order, CpuLevel.Of(new FactValue.Words(flags)));

    [Theory]
    [InlineData("none", "none")]
    [InlineData("v1", "x86-64-v1")]
    [InlineData("v1+ssse3", "x86-64-v1")]
    [InlineData("v2", "x86-64-v2")]
    [InlineData("v2+avx", "x86-64-v2")]
    [InlineData("v3", "x86-64-v3")]
    [InlineData("v4", "x86-64-v4")]
    public void Generations_have_their_level(string flags, string level) =>
        CpuLevel.Of(new FactValue.Words(SimulatedProbe.Flags(flags))).ShouldBe(level);

    [Fact]
    public void Each_single_feature_counts()
    {
        foreach (var (level, adds) in CpuLevel.Levels)
        {
            var upTo = CpuLevel
                .Levels.TakeWhile(l => l.Level != level)
                .SelectMany(l => l.Adds)
                .Concat(adds)
                .Select(f => f.Flag)
                .ToArray();
            CpuLevel.Of(new FactValue.Words(upTo)).ShouldBe(level);
            foreach (var feature in adds)
            {
                var without = new FactValue.Words(upTo.Where(f => f != feature.Flag));
                CpuLevel.Of(without).ShouldNotBe(level, $"without {feature.Flag}");
                CpuLevel.MissingFor(level, without).ShouldHaveSingleItem().ShouldBe(feature);
            }
        }
    }

    [Fact]
    public void More_flags_never_lower_the_level() =>
        Gen.Select(SomeFlags, SomeFlags).Sample((some, more) => Height(some.Concat(more)) >= Height(some));

    [Fact]
    public void The_features_that_are_missing_are_just_those_that_raise_it() =>
        Gen.Select(SomeFlags, Pick.From(Order[1..]))
            .Sample(
                (flags, level) =>
                {
                    var missing = CpuLevel.MissingFor(level, new FactValue.Words(flags)).Select(f => f.Flag);
                    return Height(flags.Concat(missing)) >= Array.IndexOf(Order, level);
                }
            );
}
