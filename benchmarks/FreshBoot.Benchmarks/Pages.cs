using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using BenchmarkDotNet.Attributes;
using FreshBoot.Core.Runs;
using FreshBoot.Data;
using FreshBoot.Data.Runs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Benchmarks;

/// <summary>
/// What pages ask, over HTTP, with five thousand machines and a hundred thousand events in the database. Each answer is held
/// against 200 ms; "after a change" writes a fact first, so that nothing kept from before can answer.
/// </summary>
[Config(typeof(InThisProcess))]
public class Pages
{
    private const int Machines = 5000;
    private const int RunsMade = 500;
    private const int EventsEach = 200;
    private const string Tag = "F-00001";

    // One fleet for all that is measured: making it takes longer than measuring.
    private static Workshop? _workshop;
    private static HttpClient _client = null!;
    private static string _route = "";
    private static string _run = "";
    private static int _change;

    /// <summary>The answers that are measured.</summary>
    public static IEnumerable<string> Asked =>
        [
            "/api/machines",
            "/api/matrix",
            "/api/matrix/parts",
            "/api/wanted",
            "/api/machines.csv",
            "/api/orders",
            "/api/images",
            "/api/labels?{labels}",
            "/api/machines/{tag}",
            "/api/machines/{tag}/systems",
            "/api/machines/{tag}/routes",
            "/api/machines/{tag}/routes/{route}/files",
            "/api/machines/{tag}/work-items?route={route}",
            "/api/machines/{tag}/routes/{route}/sheet",
            "/api/bench",
            "/api/machines/{tag}/handover",
            "/api/runs/{run}",
            "/api/due",
            "/api/canaries",
            "/api/plans",
            "/api/log?find=note%20150%20f-00",
            "/api/log?find=nothing-says-this&everything=true",
        ];

    /// <summary>The answer that is measured now.</summary>
    [ParamsSource(nameof(Asked))]
    public string Path { get; set; } = "";

    /// <summary>The fleet, its runs and their events.</summary>
    [GlobalSetup]
    public static async Task FillAsync()
    {
        if (_workshop is not null)
            return;
        _workshop = new Workshop();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => _workshop.Dispose();
        _client = _workshop.CreateClient();
        await OkAsync(
            _client.PostAsync(
                "/api/machines/csv?by=bench",
                new StringContent(Batches.MakeFullTable(Machines), Encoding.UTF8, "text/csv")
            )
        );
        var routes = await _client.GetFromJsonAsync<JsonElement>($"/api/machines/{Tag}/routes");
        var route = routes.EnumerateArray().First(r => r.GetProperty("school").GetString() != "retire");
        _route = route.GetProperty("id").GetString()!;
        var begun = await _client.PostAsJsonAsync($"/api/machines/{Tag}/runs", new { routeId = _route, by = "bench" });
        begun.EnsureSuccessStatusCode();
        _run = (await begun.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("id").GetString()!;
        await using var db = await _workshop
            .Services.GetRequiredService<IDbContextFactory<FreshBootDb>>()
            .CreateDbContextAsync();
        var made = await db.Runs.AsNoTracking().SingleAsync(r => r.Id == _run);
        var steps = JsonSerializer.Deserialize<JsonElement>(made.Steps)[0].GetProperty("id").GetString()!;
        db.ChangeTracker.AutoDetectChangesEnabled = false;
        var machines = await db.Machines.OrderBy(m => m.Tag).Select(m => m.Id).Take(RunsMade + 2).ToListAsync();
        var number = await db.Runs.MaxAsync(r => r.Number);
        foreach (var machine in machines.Skip(2))
        {
            var run = new RunRow
            {
                Number = ++number,
                Id = Guid.CreateVersion7().ToString("N"),
                MachineId = machine,
                Route = made.Route,
                Steps = made.Steps,
                Dossier = made.Dossier,
                ReceiptAtStart = made.ReceiptAtStart,
                CatalogueHash = made.CatalogueHash,
                By = made.By,
                StartedAt = made.StartedAt,
                Events = EventsEach,
            };
            db.Runs.Add(run);
            var hash = EventChain.Root(run.Id, null);
            for (var i = 1; i <= EventsEach; i++)
            {
                var data = new Dictionary<string, string>(StringComparer.Ordinal) { ["text"] = $"note {i}" };
                var sealedEvent = EventChain.Seal(
                    new RunEvent(i, $"e-{i}", "note", steps, "bench", data, made.StartedAt, ""),
                    hash
                );
                hash = sealedEvent.Hash;
                db.RunEvents.Add(
                    new RunEventRow
                    {
                        RunId = run.Id,
                        Seq = i,
                        EventId = sealedEvent.EventId,
                        Kind = sealedEvent.Kind,
                        StepId = sealedEvent.StepId,
                        By = sealedEvent.By,
                        Data = JsonSerializer.Serialize(data, JsonSerializerOptions.Web),
                        At = sealedEvent.At,
                        Hash = sealedEvent.Hash,
                    }
                );
            }
            await db.SaveChangesAsync();
            db.ChangeTracker.Clear();
        }
        await _client.GetStringAsync("/api/matrix");
    }

    /// <summary>The answer, as the next person gets it.</summary>
    [Benchmark]
    public async Task<byte[]> Answer()
    {
        // A hand-over is refused while a line is open; all that it is made of has been read by then.
        using var answer = await _client.GetAsync(Filled());
        return await answer.Content.ReadAsByteArrayAsync();
    }

    /// <summary>The first answer after somebody has entered a fact.</summary>
    [Benchmark]
    public async Task<byte[]> AnswerAfterAChange()
    {
        await OkAsync(
            _client.PutAsJsonAsync(
                "/api/machines/F-00002/facts/identity.serial",
                new
                {
                    value = $"S-{_change++}",
                    source = "seen",
                    by = "bench",
                }
            )
        );
        return await Answer();
    }

    private string Filled() =>
        Path.Replace("{tag}", Tag, StringComparison.Ordinal)
            .Replace("{route}", _route, StringComparison.Ordinal)
            .Replace("{run}", _run, StringComparison.Ordinal)
            .Replace(
                "{labels}",
                string.Join('&', Enumerable.Range(0, 400).Select(i => $"tag=F-{i:00000}")),
                StringComparison.Ordinal
            );

    private static async Task OkAsync(Task<HttpResponseMessage> answer) => (await answer).EnsureSuccessStatusCode();
}
