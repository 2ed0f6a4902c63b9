using System.Collections.Immutable;

namespace FreshBoot.Core.Dossiers;

/// <summary>
/// The x86-64 micro-architecture levels, computed from processor flags as the Linux kernel prints them in
/// <c>/proc/cpuinfo</c>. Source: System V ABI, x86-64 processor supplement ("psABI"), table of
/// micro-architecture levels. Where the kernel's name differs from the ABI's, the ABI's name stands beside it.
/// </summary>
public static class CpuLevel
{
    /// <summary>A feature of a level.</summary>
    /// <param name="Flag">The kernel's name.</param>
    /// <param name="Name">The name in the psABI.</param>
    public sealed record Feature(string Flag, string Name);

    /// <summary>
    /// For each level, lowest first, what it adds to the one below. The psABI also lists OSFXSR for v1 and OSXSAVE for
    /// v3: both say that the system switches them on, which the kernel does not print; they follow from <c>fxsr</c> and
    /// from <c>avx</c>, a flag that the kernel clears when it does not save that state.
    /// </summary>
    public static ImmutableArray<(string Level, ImmutableArray<Feature> Adds)> Levels { get; } =
    [
        (
            "x86-64-v1",
            [
                new("lm", "long mode"),
                new("cmov", "CMOV"),
                new("cx8", "CX8"),
                new("fpu", "FPU"),
                new("fxsr", "FXSR"),
                new("mmx", "MMX"),
                new("syscall", "SCE"),
                new("sse", "SSE"),
                new("sse2", "SSE2"),
            ]
        ),
        (
            "x86-64-v2",
            [
                new("cx16", "CMPXCHG16B"),
                new("lahf_lm", "LAHF-SAHF"),
                new("popcnt", "POPCNT"),
                new("pni", "SSE3"),
                new("sse4_1", "SSE4.1"),
                new("sse4_2", "SSE4.2"),
                new("ssse3", "SSSE3"),
            ]
        ),
        (
            "x86-64-v3",
            [
                new("avx", "AVX"),
                new("avx2", "AVX2"),
                new("bmi1", "BMI1"),
                new("bmi2", "BMI2"),
                new("f16c", "F16C"),
                new("fma", "FMA"),
                new("abm", "LZCNT"),
                new("movbe", "MOVBE"),
            ]
        ),
        (
            "x86-64-v4",
            [
                new("avx512f", "AVX512F"),
                new("avx512bw", "AVX512BW"),
                new("avx512cd", "AVX512CD"),
                new("avx512dq", "AVX512DQ"),
                new("avx512vl", "AVX512VL"),
            ]
        ),
    ];

    /// <summary>The highest level whose features, and those of all levels below, are present; <c>none</c> below v1.</summary>
    public static string Of(FactValue.Words flags) =>
        Levels.TakeWhile(l => l.Adds.All(f => flags.Has(f.Flag))).Select(l => l.Level).LastOrDefault("none");

    /// <summary>What is missing to reach <paramref name="level"/>, in the order of the psABI; empty when it is reached.</summary>
    public static IReadOnlyList<Feature> MissingFor(string level, FactValue.Words flags)
    {
        var upTo = Levels.Select(l => l.Level).ToList().IndexOf(level);
        return [.. Levels.Take(upTo + 1).SelectMany(l => l.Adds).Where(f => !flags.Has(f.Flag))];
    }
}
