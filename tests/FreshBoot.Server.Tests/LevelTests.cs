using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Probes;

namespace FreshBoot.Server.Tests;

/// <summary>
/// Processor models of the emulator started with the live system: the level that follows from the flags their kernel reports is
/// the one that the psABI's lists give for what the model has. Levels by the lists of the x86-64 psABI, and the first feature
/// that is missing for the next level in their order.
/// </summary>
[Collection("Emulator")]
public sealed class LevelTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-level-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    /// <summary>Each a model that has everything, less what stands behind it.</summary>
    private static readonly (string Less, string Level, string? NextMissing)[] Models =
    [
        ("", "x86-64-v3", "AVX512F"),
        ("-avx2", "x86-64-v2", "AVX2"),
        ("-xsave,-avx", "x86-64-v2", "AVX"),
        ("-f16c", "x86-64-v2", "F16C"),
        ("-fma", "x86-64-v2", "FMA"),
        ("-movbe", "x86-64-v2", "MOVBE"),
        ("-cx16", "x86-64-v1", "CMPXCHG16B"),
        ("-popcnt", "x86-64-v1", "POPCNT"),
        ("-sse4.1", "x86-64-v1", "SSE4.1"),
        ("-sse4.2", "x86-64-v1", "SSE4.2"),
        ("-lahf-lm", "x86-64-v1", "LAHF-SAHF"),
    ];

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task The_level_from_the_flags_of_a_started_system_is_that_of_the_psabi()
    {
        // Every fourth one, or all with FRESHBOOT_EVERY_START=1.
        var all = EveryStart.IsWanted;
        await Parallel.ForEachAsync(
            Models.Select((m, i) => (m, i)).Where(m => all || m.i % 4 == 0),
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (model, _) =>
            {
                var ((less, level, missing), i) = model;
                var bundle = Path.Combine(_folder, $"{i}.tar.gz");
                await ProgramOutput.Of(
                    "sh",
                    Path.Combine(TestWorkshop.Home, "probe", "emulated-machine.sh"),
                    "--firmware",
                    "bios",
                    "--out",
                    bundle,
                    "-m",
                    "256",
                    "-cpu",
                    less.Length == 0 ? "max" : $"max,{less}"
                );
                await using var stream = File.OpenRead(bundle);
                var read = ProbeReader.Read(ProbeBundle.Read(stream, "b"), "b").Readings;
                var flags = (FactValue.Words)read.Last(r => r.Key == "cpu.flags").Value;
                CpuLevel.Of(flags).ShouldBe(level, less);
                var next = CpuLevel.Levels[CpuLevel.Levels.Select(l => l.Level).ToList().IndexOf(level) + 1].Level;
                CpuLevel.MissingFor(next, flags).Select(f => f.Name).First().ShouldBe(missing, less);
            }
        );
    }

    /// <summary>What no kernel here starts or the emulator cannot do: by table.</summary>
    [Theory]
    [InlineData("fpu cmov cx8 fxsr mmx sse sse2", "none", "long mode")]
    [InlineData("lm cmov cx8 fpu fxsr mmx syscall sse sse2", "x86-64-v1", "CMPXCHG16B")]
    [InlineData(
        "lm cmov cx8 fpu fxsr mmx syscall sse sse2 cx16 lahf_lm popcnt pni sse4_1 sse4_2 ssse3 avx avx2 bmi2 f16c fma abm movbe",
        "x86-64-v2",
        "BMI1"
    )]
    [InlineData(
        "lm cmov cx8 fpu fxsr mmx syscall sse sse2 cx16 lahf_lm popcnt pni sse4_1 sse4_2 ssse3 avx avx2 bmi1 bmi2 f16c fma movbe",
        "x86-64-v2",
        "LZCNT"
    )]
    [InlineData(
        "lm cmov cx8 fpu fxsr mmx syscall sse sse2 cx16 lahf_lm popcnt pni sse4_1 sse4_2 ssse3 avx avx2 bmi1 bmi2 f16c fma abm movbe avx512f avx512bw avx512cd avx512dq",
        "x86-64-v3",
        "AVX512VL"
    )]
    [InlineData(
        "lm cmov cx8 fpu fxsr mmx syscall sse sse2 cx16 lahf_lm popcnt pni sse4_1 sse4_2 ssse3 avx avx2 bmi1 bmi2 f16c fma abm movbe avx512f avx512bw avx512cd avx512dq avx512vl",
        "x86-64-v4",
        null
    )]
    public void Levels_that_no_start_here_can_show_follow_the_table(string flags, string level, string? missing)
    {
        var words = new FactValue.Words(flags.Split(' '));
        CpuLevel.Of(words).ShouldBe(level);
        if (missing is not null)
            CpuLevel
                .MissingFor(
                    CpuLevel.Levels[CpuLevel.Levels.Select(l => l.Level).ToList().IndexOf(level) + 1].Level,
                    words
                )[0]
                .Name.ShouldBe(missing);
    }
}
