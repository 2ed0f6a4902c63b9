using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests.Faults;

/// <summary>Faults of what comes in from the bench, each under its number.</summary>
public sealed class IntakeFaultTests : IAsyncLifetime
{
    private readonly TestWorkshop _workshop = new() { BenchPort = FreePort() };
    private HttpClient _client = null!;

    public Task InitializeAsync()
    {
        _client = _workshop.CreateClient();
        return Task.CompletedTask;
    }

    public async Task DisposeAsync() => await _workshop.DisposeAsync();

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private static byte[] Bundle(string serial) =>
        SimulatedProbe.Bundle(
            TestWorkshop.Stile("X") with
            {
                Serial = serial,
            },
            new DateTimeOffset(2026, 12, 3, 12, 0, 0, TimeSpan.Zero)
        );

    private async Task<string> CodeAsync() =>
        (await (await _client.PostAsync("/api/probe-codes", null)).JsonAsync()).GetProperty("code").GetString()!;

    private async Task<string> StickKeyAsync(string name) =>
        (await (await _client.PostAsJsonAsync("/api/probe-sticks", new { name, by = "Pim" })).JsonAsync())
            .GetProperty("content")
            .GetString()!
            .Split("key=")[1]
            .Trim();

    private async Task<HttpClient> BenchAsync()
    {
        (await _client.PutAsJsonAsync("/api/bench-listener", new { on = true, by = "Pim" })).EnsureSuccessStatusCode();
        return new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{_workshop.BenchPort}") };
    }

    private async Task<JsonElement> ArrivalsAsync() => await _client.GetFromJsonAsync<JsonElement>("/api/arrivals");

    [Theory]
    [InlineData("a'&id&'b")]
    [InlineData("a$(id)")]
    [InlineData("a`id`")]
    [InlineData("a;id")]
    public async Task F7_A_host_that_is_no_name_is_not_printed_into_a_script(string host)
    {
        using var bench = await BenchAsync();
        var code = await CodeAsync();
        using var line = new TcpClient("127.0.0.1", _workshop.BenchPort);
        await line.GetStream()
            .WriteAsync(
                Encoding.ASCII.GetBytes($"GET /probe/{code} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n")
            );
        using var reader = new StreamReader(line.GetStream());
        var answer = await reader.ReadToEndAsync();
        answer.ShouldStartWith("HTTP/1.1 400");
        answer.ShouldNotContain("FRESHBOOT_POST");
        (await bench.GetStringAsync($"/probe/{code}")).ShouldStartWith(
            $"FRESHBOOT_POST='http://127.0.0.1:{_workshop.BenchPort}/"
        );
    }

    [Fact]
    public async Task F12_One_arrival_taken_with_eight_tags_at_once_makes_one_machine()
    {
        (
            await _client.PostAsync($"/api/probe/{await CodeAsync()}", new ByteArrayContent(Bundle("S-1")))
        ).EnsureSuccessStatusCode();
        var id = (await ArrivalsAsync())[0].GetProperty("id").GetInt32();
        var answers = await Task.WhenAll(
            Enumerable
                .Range(1, 8)
                .Select(i =>
                    _client.PostAsJsonAsync($"/api/arrivals/{id}/take", new { tag = $"MR-090{i}", by = "Pim" })
                )
        );
        answers.Count(a => a.StatusCode == HttpStatusCode.OK).ShouldBe(1);
        answers.Count(a => a.StatusCode == HttpStatusCode.Conflict).ShouldBe(7);
        (await _client.GetFromJsonAsync<JsonElement>("/api/machines")).GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task F12_An_arrival_that_is_sent_away_takes_its_bytes_along()
    {
        (
            await _client.PostAsync($"/api/probe/{await CodeAsync()}", new ByteArrayContent(Bundle("S-2")))
        ).EnsureSuccessStatusCode();
        Files().ShouldBe(1);
        var id = (await ArrivalsAsync())[0].GetProperty("id").GetInt32();
        (await _client.DeleteAsync($"/api/arrivals/{id}")).EnsureSuccessStatusCode();
        Files().ShouldBe(0);

        int Files() =>
            Directory.EnumerateFiles(Path.Combine(_workshop.Data, "files"), "*", SearchOption.AllDirectories).Count();
    }

    /// <summary>A body that never ends by itself, and counts what was taken of it.</summary>
    private sealed class Endless(long most) : HttpContent
    {
        public long Sent { get; private set; }

        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context)
        {
            var piece = new byte[64 << 10];
            Random.Shared.NextBytes(piece);
            for (; Sent < most; Sent += piece.Length)
                await stream.WriteAsync(piece);
        }

        protected override bool TryComputeLength(out long length) => (length = 0) != 0;
    }

    [Fact]
    public async Task F19_A_body_that_is_no_bundle_is_refused_while_it_comes_and_one_at_a_time_for_a_code()
    {
        using var bench = await BenchAsync();
        var code = await CodeAsync();
        var bodies = Enumerable.Range(0, 4).Select(_ => new Endless(60L << 20)).ToArray();
        var answers = await Task.WhenAll(bodies.Select(b => AnswerAsync(bench, code, b)));
        answers.ShouldAllBe(a => a != HttpStatusCode.OK);
        // What is no bundle shows at its first bytes: no sender gets rid of all of its own.
        bodies.ShouldAllBe(b => b.Sent < 30L << 20);
        (await bench.PostAsync($"/api/probe/{code}", new ByteArrayContent(Bundle("S-3")))).EnsureSuccessStatusCode();
    }

    private static async Task<HttpStatusCode?> AnswerAsync(HttpClient bench, string code, HttpContent body)
    {
        try
        {
            return (await bench.PostAsync($"/api/probe/{code}", body)).StatusCode;
        }
        catch (HttpRequestException)
        {
            // The line was closed while it was still sending.
            return null;
        }
    }

    [Fact]
    public async Task F20_A_lost_sticks_key_gets_few_codes_none_after_barring_and_shuts_nobody_out()
    {
        using var bench = await BenchAsync();
        var (lost, other) = (await StickKeyAsync("lost"), await StickKeyAsync("other"));
        var codes = new List<string>();
        for (var i = 0; i < 40; i++)
        {
            var answer = await bench.PostAsync("/api/probe-sticks/code", new StringContent(lost));
            if (answer.IsSuccessStatusCode)
                codes.Add(await answer.Content.ReadAsStringAsync());
        }
        codes.Count.ShouldBeInRange(1, 12);
        (await bench.PostAsync("/api/probe-sticks/code", new StringContent(other))).EnsureSuccessStatusCode();
        (await _client.PostAsync("/api/probe-codes", null)).EnsureSuccessStatusCode();

        var sticks = await _client.GetFromJsonAsync<JsonElement>("/api/probe-sticks");
        var id = sticks.EnumerateArray().Single(s => s.GetProperty("name").GetString() == "lost").GetProperty("id");
        (await _client.DeleteAsync($"/api/probe-sticks/{id.GetInt32()}")).EnsureSuccessStatusCode();
        (await bench.PostAsync($"/api/probe/{codes[0]}", new ByteArrayContent(Bundle("S-4")))).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Theory]
    [InlineData(1)]
    [InlineData(17)]
    public async Task F21_Requests_that_nobody_finishes_shut_nobody_out(int addresses)
    {
        using var bench = await BenchAsync();
        var lines = new List<Socket>();
        try
        {
            // More than the listener takes in all, from one address or as many from each as one may have.
            for (var i = 0; i < 140; i++)
            {
                var line = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
                lines.Add(line);
                line.Bind(new IPEndPoint(new IPAddress([127, 0, 1, (byte)(i % addresses + 1)]), 0));
                try
                {
                    await line.ConnectAsync(IPAddress.Loopback, _workshop.BenchPort);
                    await line.SendAsync("POST /api/probe/x HTTP/1.1\r\nHost: a\r\nContent-"u8.ToArray());
                }
                catch (SocketException)
                {
                    // One too many: the listener has hung up already.
                }
            }
            // Another address of this computer.
            using var handler = new SocketsHttpHandler();
            handler.ConnectCallback = async (_, stop) =>
            {
                var socket = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
                socket.Bind(new IPEndPoint(IPAddress.Parse("127.0.0.2"), 0));
                await socket.ConnectAsync(IPAddress.Loopback, _workshop.BenchPort, stop);
                return new NetworkStream(socket, ownsSocket: true);
            };
            using var neighbour = new HttpClient(handler) { BaseAddress = bench.BaseAddress };
            (await neighbour.GetAsync($"/probe/{await CodeAsync()}")).StatusCode.ShouldBe(HttpStatusCode.OK);
        }
        finally
        {
            foreach (var line in lines)
                line.Dispose();
        }
    }
}
