using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;
using System.Threading.RateLimiting;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Runs;
using Microsoft.AspNetCore.Connections;
using Microsoft.AspNetCore.Server.Kestrel.Core;

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
    private const int MostConnections = 128;

    /// <summary>Requests that one address may make in a minute: a bench reads a machine every few of them.</summary>
    private const int RequestsAMinute = 120;
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
            kestrel.ListenAnyIP(port, listen => listen.Use(next => new FewPerAddress(next).OnConnectedAsync));
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = BundleBody.Largest;
            // Whoever is one too many ends another (see below): the server itself turns nobody away.
            kestrel.Limits.MaxConcurrentConnections = MostConnections * 2;
            // Whoever opens a line and says nothing gives it up soon.
            kestrel.Limits.RequestHeadersTimeout = TimeSpan.FromSeconds(10);
            kestrel.Limits.KeepAliveTimeout = TimeSpan.FromSeconds(15);
            kestrel.Limits.MinRequestBodyDataRate = new MinDataRate(1024, TimeSpan.FromSeconds(5));
        });
        builder.Services.AddRateLimiter(limits =>
        {
            limits.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            limits.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(context =>
                RateLimitPartition.GetFixedWindowLimiter(
                    $"{context.Connection.RemoteIpAddress}",
                    _ => new FixedWindowRateLimiterOptions
                    {
                        PermitLimit = RequestsAMinute,
                        Window = TimeSpan.FromMinutes(1),
                    }
                )
            );
        });
        builder
            .Services.AddProblemDetails(o => o.CustomizeProblemDetails = Problems.Complete)
            .AddExceptionHandler<Problems>();
        ProbeEndpoints.Share(builder.Services, services);
        var app = builder.Build();
        app.UseExceptionHandler();
        app.UseStatusCodePages();
        app.UseRateLimiter();
        app.MapBench();
        app.MapCourierOfBench();
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

    /// <summary>
    /// Lets each address have a few lines open at a time, and where all together are too many, ends the oldest line of the address that
    /// has most: however many open lines and say nothing, whoever comes next is heard.
    /// </summary>
    private sealed class FewPerAddress(ConnectionDelegate next)
    {
        private const int Most = 8;
        private static readonly Lock Turn = new();
        private static readonly List<(string Address, ConnectionContext Line)> Open = [];

        public async Task OnConnectedAsync(ConnectionContext connection)
        {
            var address = (connection.RemoteEndPoint as IPEndPoint)?.Address.ToString() ?? "";
            ConnectionContext? over = null;
            lock (Turn)
            {
                if (Open.Count(o => o.Address == address) >= Most)
                    over = connection;
                else
                {
                    if (Open.Count >= MostConnections)
                    {
                        var loudest = Open.CountBy(o => o.Address).MaxBy(c => c.Value).Key;
                        var at = Open.FindIndex(o => o.Address == loudest);
                        over = Open[at].Line;
                        Open.RemoveAt(at);
                    }
                    Open.Add((address, connection));
                }
            }
            over?.Abort();
            if (over == connection)
                return;
            try
            {
                await next(connection);
            }
            finally
            {
                lock (Turn)
                    Open.RemoveAll(o => o.Line == connection);
            }
        }
    }
}
