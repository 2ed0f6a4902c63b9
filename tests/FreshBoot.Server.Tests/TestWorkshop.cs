using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using FreshBoot.Data;
using FreshBoot.Workshop.Simulated;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.AspNetCore.TestHost;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Server.Tests;

/// <summary>The application as it is, over a data folder of its own.</summary>
public sealed class TestWorkshop : WebApplicationFactory<Program>
{
    public string Data { get; init; } = Directory.CreateTempSubdirectory("fresh-boot-test-").FullName;

    public bool Demo { get; init; }

    /// <summary>Whether its data stay when it ends, for another one to begin on.</summary>
    public bool Keeps { get; init; }

    /// <summary>Another folder with a catalogue in it.</summary>
    public string Place { get; init; } = Home;

    /// <summary>A clock of the test's own; null for the application's.</summary>
    public TimeProvider? Clock { get; init; }

    /// <summary>The port of the bench listener.</summary>
    public int BenchPort { get; init; } = 5081;

    public static string Home { get; } = FindHome();

    /// <summary>A database in which nothing is yet, as its migrations make it: once for all tests.</summary>
    private static readonly Lazy<byte[]> Empty = new(() =>
    {
        var path = Path.Combine(Directory.CreateTempSubdirectory("fresh-boot-empty-").FullName, "fresh-boot.db");
        using (
            var db = new FreshBootDb(
                new DbContextOptionsBuilder<FreshBootDb>().UseSqlite($"Data Source={path};Pooling=False").Options
            )
        )
            db.Database.Migrate();
        var bytes = File.ReadAllBytes(path);
        Directory.Delete(Path.GetDirectoryName(path)!, recursive: true);
        return bytes;
    });

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        builder.UseEnvironment("Production");
        builder.UseSetting("data", Data);
        if (Demo)
            DemoTemplate.Into(Data);
        else if (!File.Exists(Path.Combine(Data, "fresh-boot.db")))
            File.WriteAllBytes(Path.Combine(Data, "fresh-boot.db"), Empty.Value);
        builder.UseSetting("cloned", Demo ? "true" : "false");
        builder.UseSetting("demo", Demo ? "true" : "false");
        builder.UseSetting("home", Place);
        builder.UseSetting("bench-port", $"{BenchPort}");
        if (Clock is { } clock)
            builder.ConfigureTestServices(services => services.AddSingleton(clock));
    }

    /// <summary>A client whose answers are all held against the API's own description.</summary>
    public new HttpClient CreateClient() => CreateDefaultClient(new Described());

    protected override void Dispose(bool disposing)
    {
        base.Dispose(disposing);
        if (disposing && !Keeps && Directory.Exists(Data))
            Directory.Delete(Data, recursive: true);
    }

    /// <summary>A machine that the demo has too, but for its tag.</summary>
    public static SimulatedMachine Stile(string tag) =>
        new()
        {
            Tag = tag,
            Maker = "Brackwater",
            Model = "Stile 14",
            Serial = "BW-14C8-1",
            Board = "ST14-8",
            Cpu = "Corvane C8-350",
            Level = "v3",
            Slots = [new(4096), new(0)],
            MaxMemoryMiB = 16384,
            Drives = [new(128_035_676_160, "sata", false, "Sill S128")],
            Devices = [new("0200", "Netherby", "NB-12")],
        };

    public static MultipartFormDataContent Form(string? tag, params (string Name, byte[] Content)[] files)
    {
        var form = new MultipartFormDataContent();
        if (tag is not null)
            form.Add(new StringContent(tag), "assetTag");
        foreach (var (name, content) in files)
            form.Add(
                new ByteArrayContent(content)
                {
                    Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") },
                },
                "files",
                name
            );
        return form;
    }

    public static MultipartFormDataContent BundleOf(string tag) =>
        Form(
            tag,
            ("a.tar.gz", SimulatedProbe.Bundle(Stile(tag), new DateTimeOffset(2026, 12, 3, 12, 0, 0, TimeSpan.Zero)))
        );

    /// <summary>A module for the shelf of parts, as a page sends it.</summary>
    public static object Module(string about) =>
        new
        {
            part = new
            {
                kind = "memory",
                about,
                type = "DDR4 SO-DIMM",
                sizeMiB = 8192,
                sizeBytes = (long?)null,
                reservedFor = (string?)null,
                fittedIn = (string?)null,
                from = "MR-0001",
                test = "passed",
            },
            by = "Pim",
        };

    /// <summary>The catalogue that ships.</summary>
    public static FreshBoot.Core.Catalogue.ShopCatalogue ShippedCatalogue() =>
        FreshBoot.Core.Catalogue.PackReader.Read(
            File.ReadAllText(Path.Combine(Home, "catalogue", "schemas", "pack.schema.json")),
            [
                .. Directory
                    .GetFiles(Path.Combine(Home, "catalogue", "packs"), "*.json")
                    .Order(StringComparer.Ordinal)
                    .Select(f => (Path.GetFileName(f), File.ReadAllText(f))),
            ]
        );

    private static string FindHome()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!Directory.Exists(Path.Combine(folder!.FullName, "catalogue", "packs")))
            folder = folder.Parent;
        return folder.FullName;
    }
}

internal static class Answers
{
    /// <summary>A job when it has ended, however it did.</summary>
    public static async Task<JsonElement> EndOfAsync(this HttpClient client, JsonElement job)
    {
        while (job.GetProperty("state").GetString() is "queued" or "running")
        {
            await Task.Delay(200);
            job = await client.GetFromJsonAsync<JsonElement>($"/api/jobs/{job.GetProperty("id").GetInt32()}");
        }
        return job;
    }

    public static async Task<JsonElement> JsonAsync(this HttpResponseMessage answer) =>
        await answer.Content.ReadFromJsonAsync<JsonElement>();

    public static JsonElement? Fact(this JsonElement machine, string key) =>
        machine
            .GetProperty("facts")
            .EnumerateArray()
            .Cast<JsonElement?>()
            .FirstOrDefault(f => f!.Value.GetProperty("key").GetString() == key);

    public static string? FactText(this JsonElement machine, string key) =>
        machine.Fact(key)?.GetProperty("value").ToString();

    public static JsonElement System(this JsonElement assessments, string id) =>
        assessments.EnumerateArray().Single(a => a.GetProperty("system").GetString() == id);

    public static JsonElement Rung(this JsonElement assessment, string rung) =>
        assessment.GetProperty("rungs").EnumerateArray().Single(r => r.GetProperty("rung").GetString() == rung);
}
