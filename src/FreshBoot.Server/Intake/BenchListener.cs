using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Intake;

/// <summary>Whether machines on the bench network are heard.</summary>
/// <param name="On">Whether the listener is on.</param>
/// <param name="Port">Its port.</param>
/// <param name="Addresses">This computer's addresses on the bench network.</param>
internal sealed record BenchState(bool On, int Port, IReadOnlyList<string> Addresses);

/// <summary>
/// The second listener: a server of its own beside the application, off until somebody switches it on, that serves the probe
/// script and takes bundles by one-time codes. Nothing else of the application can be reached there.
/// </summary>
internal sealed class BenchListener(IServiceProvider services, int port) : IAsyncDisposable
{
    private readonly SemaphoreSlim _turn = new(1, 1);
    private WebApplication? _app;

    public BenchState State => new(_app is not null, port, Addresses());

    /// <summary>Where a machine finds it: the first address of this computer, or the loopback where there is none.</summary>
    public string Root => $"http://{Addresses().FirstOrDefault() ?? "127.0.0.1"}:{port}";

    public async Task SwitchAsync(bool on, CancellationToken stop)
    {
        await _turn.WaitAsync(stop);
        try
        {
            if (on && _app is null)
                _app = await StartAsync(stop);
            else if (!on && _app is { } running)
            {
                _app = null;
                await running.StopAsync(stop);
                await running.DisposeAsync();
            }
        }
        finally
        {
            _turn.Release();
        }
    }

    private async Task<WebApplication> StartAsync(CancellationToken stop)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.SetMinimumLevel(LogLevel.Warning);
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.ListenAnyIP(port);
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = IntakeEndpoints.LargestUpload;
            kestrel.Limits.MaxConcurrentConnections = 32;
        });
        builder
            .Services.AddProblemDetails(o => o.CustomizeProblemDetails = Problems.Complete)
            .AddExceptionHandler<Problems>();
        ProbeEndpoints.Share(builder.Services, services);
        var app = builder.Build();
        app.UseExceptionHandler();
        app.UseStatusCodePages();
        app.MapBench();
        try
        {
            await app.StartAsync(stop);
        }
        catch (IOException)
        {
            await app.DisposeAsync();
            throw new RefusedException(
                RefusalKind.Conflict,
                $"Port {port} of this computer is in use.",
                "bench-port",
                "Another port: start the application with --bench-port."
            );
        }
        return app;
    }

    private static string[] Addresses() =>
        [
            .. NetworkInterface
                .GetAllNetworkInterfaces()
                .Where(n =>
                    n.OperationalStatus == OperationalStatus.Up
                    && n.NetworkInterfaceType != NetworkInterfaceType.Loopback
                )
                .SelectMany(n => n.GetIPProperties().UnicastAddresses)
                .Select(a => a.Address)
                .Where(a => a.AddressFamily == AddressFamily.InterNetwork && !IPAddress.IsLoopback(a))
                .Select(a => a.ToString()),
        ];

    public async ValueTask DisposeAsync()
    {
        await SwitchAsync(false, CancellationToken.None);
        _turn.Dispose();
    }
}
