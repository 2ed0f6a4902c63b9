using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace FreshBoot.Server.Tests;

/// <summary>The server as a process of its own, to be killed without warning; over a small disk if wanted.</summary>
internal sealed class ServerProcess : IDisposable
{
    private readonly int? _diskMiB;
    private readonly bool _demo;
    private readonly int _port = FreePort();
    private Process? _server;

    /// <summary>Makes ready for it; it is started later.</summary>
    /// <param name="diskMiB">Size of the disk beneath its data folder; null for the one of this machine.</param>
    /// <param name="demo">Whether the demo is cloned into its data folder.</param>
    public ServerProcess(int? diskMiB = null, bool demo = false)
    {
        _diskMiB = diskMiB;
        _demo = demo;
        Client = new HttpClient { BaseAddress = new Uri($"http://localhost:{_port}") };
    }

    public string Data { get; } = Directory.CreateTempSubdirectory("fresh-boot-plug-").FullName;

    public HttpClient Client { get; }

    /// <summary>Its data folder as it sees it: a disk of its own is not to be seen from outside.</summary>
    public string DataInside => _diskMiB is null ? Data : $"/proc/{_server!.Id}/root{Data}";

    public void Dispose()
    {
        Kill();
        Client.Dispose();
        Directory.Delete(Data, recursive: true);
    }

    /// <summary>Leaves so much free of the disk beneath it, whatever lies on it; it takes no room itself.</summary>
    /// <param name="freeBytes">Bytes that stay free; null for the size that the disk had at first.</param>
    public void Leave(long? freeBytes)
    {
        // A disk that is written to meanwhile cannot be made smaller than what is on it: then it is tried again.
        const int Busy = 32;
        var code = Busy;
        for (var tries = 0; tries < 100 && code == Busy; tries++)
        {
            var disk = new DriveInfo(DataInside);
            var size = freeBytes is { } free
                ? $"{(disk.TotalSize - disk.AvailableFreeSpace + free) / 1024}k"
                : $"{_diskMiB}m";
            using var mount = Process.Start(
                "nsenter",
                [
                    $"--target={_server!.Id}",
                    "--user",
                    "--mount",
                    "--preserve-credentials",
                    "mount",
                    "-o",
                    $"remount,size={size}",
                    Data,
                ]
            );
            mount.WaitForExit();
            code = mount.ExitCode;
        }
        code.ShouldBe(0, "nsenter and mount");
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    public async Task StartAsync()
    {
        List<string> server =
        [
            "dotnet",
            typeof(Program).Assembly.Location,
            "--port",
            $"{_port}",
            "--data",
            Data,
            "--home",
            TestWorkshop.Home,
            .. _demo ? (string[])["--demo", "true", "--cloned", "true"] : [],
        ];
        if (_demo && _diskMiB is null)
            DemoTemplate.Into(Data);
        // Mounted in a name space of its own, which needs no rights and ends with the process.
        if (_diskMiB is { } size)
            server =
            [
                "unshare",
                "--user",
                "--map-root-user",
                "--mount",
                "sh",
                "-c",
                $"mount -t tmpfs -o size={size}m tmpfs {Data}{(_demo ? $" && {DemoTemplate.Command(Data)}" : "")} && exec \"$@\"",
                "sh",
                .. server,
            ];
        _server = Process.Start(new ProcessStartInfo(server[0], server.Skip(1)) { UseShellExecute = false })!;
        // A busy machine takes its time: only a server that has ended does not answer any more.
        while (!_server.HasExited)
        {
            try
            {
                if ((await Client.GetAsync("/api/health")).IsSuccessStatusCode)
                    return;
            }
            catch (HttpRequestException)
            {
                // It is not there yet.
            }
            await Task.Delay(50);
        }
        throw new InvalidOperationException($"the server ended with {_server.ExitCode}");
    }

    /// <summary>Starts a second one on the same folder, and waits for its end: how it ended and what it said.</summary>
    public async Task<(int Code, string Says)> SecondAsync()
    {
        string[] server =
        [
            typeof(Program).Assembly.Location,
            "--port",
            $"{FreePort()}",
            "--data",
            Data,
            "--home",
            TestWorkshop.Home,
        ];
        using var second = Process.Start(
            new ProcessStartInfo("dotnet", server) { UseShellExecute = false, RedirectStandardError = true }
        )!;
        var says = await second.StandardError.ReadToEndAsync();
        await second.WaitForExitAsync();
        return (second.ExitCode, says);
    }

    /// <summary>SIGKILL: nothing is flushed, nothing says good-bye.</summary>
    public void Kill()
    {
        if (_server is null)
            return;
        _server.Kill(entireProcessTree: true);
        _server.WaitForExit();
        _server.Dispose();
        _server = null;
    }
}
