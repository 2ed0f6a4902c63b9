using BenchmarkDotNet.Configs;
using BenchmarkDotNet.Engines;
using BenchmarkDotNet.Jobs;
using BenchmarkDotNet.Toolchains.InProcess.Emit;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;

namespace FreshBoot.Benchmarks;

/// <summary>In this process: the application finds its catalogue from where it was built.</summary>
internal sealed class InThisProcess : ManualConfig
{
    public InThisProcess() =>
        AddJob(
            Job.Default.WithStrategy(RunStrategy.Monitoring)
                .WithWarmupCount(1)
                .WithIterationCount(5)
                .WithToolchain(InProcessEmitToolchain.Instance)
        );
}

/// <summary>The application over a data folder of its own.</summary>
internal sealed class Workshop : WebApplicationFactory<Program>
{
    public string Data { get; init; } = Directory.CreateTempSubdirectory("fresh-boot-bench-").FullName;

    /// <summary>Whether the data outlives it.</summary>
    public bool Keep { get; set; }

    // Built outside the usual place, it would be looked for beside the solution.
    static Workshop() =>
        Environment.SetEnvironmentVariable("ASPNETCORE_TEST_CONTENTROOT_FRESHBOOT_SERVER", AppContext.BaseDirectory);

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        builder.UseEnvironment("Production");
        builder.UseSetting("data", Data);
    }

    protected override void Dispose(bool disposing)
    {
        base.Dispose(disposing);
        if (disposing && !Keep && Directory.Exists(Data))
            Directory.Delete(Data, recursive: true);
    }
}
