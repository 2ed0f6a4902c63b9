using System.Text;
using BenchmarkDotNet.Attributes;

namespace FreshBoot.Benchmarks;

/// <summary>Ten thousand machines: taken in from a table into a new database, and searched, over HTTP as a page does it.</summary>
[Config(typeof(InThisProcess))]
public class Batches : IDisposable
{
    private const int Machines = 10_000;
    private static readonly string Table = MakeTable();
    private Workshop _workshop = null!;
    private HttpClient _client = null!;

    /// <summary>The application over an empty data folder.</summary>
    [IterationSetup(Target = nameof(ImportTenThousand))]
    public void Empty()
    {
        _workshop = new Workshop();
        _client = _workshop.CreateClient();
    }

    /// <summary>The application with ten thousand machines in it, each judged once.</summary>
    [GlobalSetup(Target = nameof(SearchTenThousand))]
    public async Task Full()
    {
        Empty();
        await ImportTenThousand();
        await _client.GetStringAsync("/api/machines?find=wall&take=60");
    }

    /// <summary>Ends the application.</summary>
    [IterationCleanup(Target = nameof(ImportTenThousand))]
    [GlobalCleanup(Targets = [nameof(SearchTenThousand), nameof(MatrixOfAThousandCold)])]
    public void End() => Dispose();

    /// <inheritdoc/>
    public void Dispose()
    {
        _workshop.Dispose();
        GC.SuppressFinalize(this);
    }

    /// <summary>A thousand machines with thirty facts each in a database, and the application over it just started.</summary>
    [GlobalSetup(Target = nameof(MatrixOfAThousandCold))]
    public async Task Thousand()
    {
        Empty();
        var answer = await _client.PostAsync(
            "/api/machines/csv?by=bench",
            new StringContent(MakeFullTable(1000), Encoding.UTF8, "text/csv")
        );
        answer.EnsureSuccessStatusCode();
    }

    /// <summary>Another application over the same data: nothing of it is in memory yet.</summary>
    [IterationSetup(Target = nameof(MatrixOfAThousandCold))]
    public void Restart()
    {
        var data = _workshop.Data;
        _workshop.Keep = true;
        _workshop.Dispose();
        _workshop = new Workshop { Data = data };
        _client = _workshop.CreateClient();
    }

    /// <summary>The fleet matrix of a thousand machines over HTTP, the cold read from the database in it.</summary>
    [Benchmark]
    public Task<string> MatrixOfAThousandCold() => _client.GetStringAsync("/api/matrix");

    /// <summary>Tag, maker, model, serial and eight facts a line.</summary>
    [Benchmark]
    public async Task ImportTenThousand()
    {
        var answer = await _client.PostAsync(
            "/api/machines/csv?by=bench",
            new StringContent(Table, Encoding.UTF8, "text/csv")
        );
        answer.EnsureSuccessStatusCode();
    }

    /// <summary>Three words, among them a rung: what somebody types into the search.</summary>
    [Benchmark]
    public Task<string> SearchTenThousand() =>
        _client.GetStringAsync("/api/machines?find=stile%20release%2004999&take=60");

    private static string MakeTable()
    {
        var text = new StringBuilder(
            "tag,maker,model,serial,cpu.model,memory.installedMiB,memory.maxMiB,storage.0.sizeBytes,storage.0.bus,firmware.kind,tpm.version,parts.battery\n"
        );
        string[] models = ["Stile 12", "Stile 14", "Transom 7", "Cairn 15"];
        string[] processors = ["Corvane C6-220", "Corvane C8-350", "Corvane C7-300", "Palisade P3-400"];
        for (var i = 0; i < Machines; i++)
            text.Append(
                $"B-{i:00000},Brackwater,{models[i % 4]},BW-{i:000000},{processors[i % 4]},{2048 << i % 3},16384,{128 << i % 2} GB,sata,uefi64,{(i % 3 == 0 ? "off" : "2.0")},sound\n"
            );
        return text.ToString();
    }

    internal static string MakeFullTable(int machines)
    {
        var flags = string.Join(
            ' ',
            FreshBoot.Core.Dossiers.CpuLevel.Levels.Take(3).SelectMany(l => l.Adds).Select(f => f.Flag)
        );
        var text = new StringBuilder(
            "tag,identity.maker,identity.model,identity.serial,identity.board,cpu.model,cpu.arch,cpu.flags,cpu.cores,cpu.threads,memory.installedMiB,memory.visibleMiB,memory.maxMiB,memory.slots,memory.slotsUsed,memory.type,storage.0.sizeBytes,storage.0.bus,storage.0.kind,firmware.startedBy,firmware.kind,firmware.secureBoot,tpm.version,graphics.0.model,network.0.model,parts.battery,parts.powersOn,parts.storage,release.owner,release.managed,release.data,release.encryption\n"
        );
        string[] models = ["Stile 12", "Stile 14", "Transom 7", "Cairn 15"];
        string[] processors = ["C6", "C8", "C7", "C9"];
        for (var i = 0; i < machines; i++)
            text.Append(
                $"F-{i:00000},Brackwater,{models[i % 4]},BF-{i:000000},ST-{i % 9},Corvane {processors[i % 4]}-350,x86,{flags},4,8,{2048 << i % 3},{1950 << i % 3},16384,2,1,DDR4 SO-DIMM,{128 << i % 2} GB,sata,flash,uefi,uefi64,able,{(i % 3 == 0 ? "off" : "2.0")},Corvane {processors[i % 4]} graphics,{(i % 5 == 0 ? "Airlath AL-43" : "Netherby NB-12")},sound,yes,sound,given,free,not-wanted,none\n"
            );
        return text.ToString();
    }
}
