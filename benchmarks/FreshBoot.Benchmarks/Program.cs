using BenchmarkDotNet.Running;

namespace FreshBoot.Benchmarks;

/// <summary>Runs the benchmarks that the arguments name: <c>--filter '*Batches*'</c>.</summary>
internal static class Entry
{
    private static void Main(string[] args) => BenchmarkSwitcher.FromAssembly(typeof(Verdicts).Assembly).Run(args);
}
