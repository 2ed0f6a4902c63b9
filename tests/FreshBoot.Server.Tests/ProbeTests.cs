using System.Buffers.Binary;
using System.Globalization;
using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using FreshBoot.Core.Probes;

namespace FreshBoot.Server.Tests;

/// <summary>The real probe on real kernels: on the machine at hand, and in the emulator as a made-up machine.</summary>
[Collection("Emulator")]
public sealed partial class ProbeTests : IDisposable
{
    private readonly TestWorkshop _workshop = new();
    private readonly HttpClient _client;
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-probe-").FullName;

    public ProbeTests() => _client = _workshop.CreateClient();

    public void Dispose()
    {
        _client.Dispose();
        _workshop.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    private static string Script(string name) => Path.Combine(TestWorkshop.Home, "probe", name);

    private async Task<JsonElement> Import(string tag, string bundle)
    {
        var answer = await _client.PostAsync(
            "/api/machines/import",
            TestWorkshop.Form(tag, (Path.GetFileName(bundle), await File.ReadAllBytesAsync(bundle)))
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
        return await answer.JsonAsync();
    }

    [Fact]
    public async Task On_the_machine_at_hand_it_agrees_with_the_programs_that_know()
    {
        var bundle = Path.Combine(_folder, "here.tar.gz");
        await ProgramOutput.Of("sh", Script("fresh-boot-probe.sh"), bundle);
        var machine = await Import("HERE-1", bundle);

        using var lscpu = JsonDocument.Parse(await ProgramOutput.Of("lscpu", "-J"));
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        Collect(lscpu.RootElement.GetProperty("lscpu"), fields);
        machine.FactText("cpu.model").ShouldBe(fields["Model name:"]);
        machine.FactText("cpu.threads").ShouldBe(fields["CPU(s):"]);
        machine
            .FactText("cpu.cores")
            .ShouldBe(
                $"{int.Parse(fields["Core(s) per socket:"], CultureInfo.InvariantCulture) * int.Parse(fields["Socket(s):"], CultureInfo.InvariantCulture)}"
            );
        machine.FactText("cpu.level").ShouldBe(LevelByTheBook(fields["Flags:"].Split(' ')));

        var total = long.Parse(
            MemTotal().Match(await File.ReadAllTextAsync("/proc/meminfo")).Groups["n"].Value,
            CultureInfo.InvariantCulture
        );
        machine.FactText("memory.visibleMiB").ShouldBe($"{total / 1024}");

        using var lsblk = JsonDocument.Parse(
            await ProgramOutput.Of("lsblk", "-J", "-b", "-d", "-o", "NAME,TYPE,SIZE,RM")
        );
        var sizes = lsblk
            .RootElement.GetProperty("blockdevices")
            .EnumerateArray()
            .Where(d =>
                d.GetProperty("type").GetString() == "disk"
                && !d.GetProperty("rm").GetBoolean()
                && !d.GetProperty("name").GetString()!.StartsWith("zram", StringComparison.Ordinal)
            )
            .Select(d => d.GetProperty("size").GetInt64())
            .Where(s => s > 1_000_000)
            .Order();
        machine
            .GetProperty("facts")
            .EnumerateArray()
            .Where(f => f.GetProperty("key").GetString()!.EndsWith(".sizeBytes", StringComparison.Ordinal))
            .Select(f => f.GetProperty("value").GetInt64())
            .Order()
            .ShouldBe(sizes);

        machine.FactText("firmware.startedBy").ShouldBe(Directory.Exists("/sys/firmware/efi") ? "uefi" : "bios");
        if (!File.Exists("/sys/class/tpm/tpm0/tpm_version_major"))
        {
            machine.Fact("tpm.version").ShouldBeNull();
            machine
                .GetProperty("warnings")
                .EnumerateArray()
                .ShouldContain(w => w.GetString()!.StartsWith("tpm.txt is missing"));
        }
    }

    [Fact]
    public async Task It_needs_no_more_than_busybox_and_changes_nothing_but_its_one_file()
    {
        var bundle = Path.Combine(_folder, "busy.tar.gz");
        await ProgramOutput.Of("busybox", "sh", Script("fresh-boot-probe.sh"), bundle);

        await using var stream = File.OpenRead(bundle);
        ProbeReader.Read(ProbeBundle.Read(stream, "busy"), "busy").Readings.ShouldContain(r => r.Key == "cpu.flags");
        Directory.GetFileSystemEntries(_folder).ShouldHaveSingleItem();
    }

    [Theory]
    [InlineData("bios", "max", "x86-64-v3", 2048)]
    [InlineData("uefi", "max,-avx,-avx2,-bmi1,-bmi2,-f16c,-fma,-movbe,-abm", "x86-64-v2", 1536)]
    [Trait(Long.Trait, Long.Value)]
    public async Task In_the_emulator_it_finds_what_the_emulator_was_given(
        string firmware,
        string cpu,
        string level,
        int memory
    )
    {
        var bundle = Path.Combine(_folder, "made-up.tar.gz");
        var drive = Path.Combine(_folder, "drive.img");
        await using (var image = File.Create(drive))
            image.SetLength(40L << 30);
        await ProgramOutput.Of(
            "sh",
            Script("emulated-machine.sh"),
            "--firmware",
            firmware,
            "--out",
            bundle,
            "-m",
            $"{memory}",
            "-smp",
            "2,cores=2",
            "-cpu",
            cpu.Replace("max", "max,vendor=CorvaneChips,model-id=Corvane C8-350", StringComparison.Ordinal),
            "-smbios",
            "type=1,manufacturer=Brackwater,product=Stile 14,serial=BW-14C8-20931",
            "-smbios",
            "type=2,manufacturer=Brackwater,product=ST14-8,serial=BB-771",
            "-drive",
            $"file={drive},if=none,id=d,format=raw",
            "-device",
            "nvme,drive=d,serial=N1"
        );
        var machine = await Import("MR-0950", bundle);

        machine.FactText("identity.maker").ShouldBe("Brackwater");
        machine.FactText("identity.model").ShouldBe("Stile 14");
        machine.FactText("identity.serial").ShouldBe("BW-14C8-20931");
        machine.FactText("identity.board").ShouldBe("ST14-8");
        machine.FactText("identity.boardSerial").ShouldBe("BB-771");
        machine.FactText("cpu.model").ShouldBe("Corvane C8-350");
        machine.FactText("cpu.generation").ShouldBe("C8");
        machine.FactText("cpu.level").ShouldBe(level);
        machine.FactText("cpu.cores").ShouldBe("2");
        machine.FactText("memory.installedMiB").ShouldBe($"{memory}");
        machine.FactText("storage.0.sizeBytes").ShouldBe($"{40L << 30}");
        machine.FactText("storage.0.bus").ShouldBe("nvme");
        machine.FactText("firmware.startedBy").ShouldBe(firmware);
        machine.FactText("firmware.kind").ShouldBe(firmware == "uefi" ? "uefi64" : "bios");
        machine.Fact("tpm.version").ShouldBeNull();

        await AgreesWithDmidecode(machine, bundle);
    }

    private async Task AgreesWithDmidecode(JsonElement machine, string bundle)
    {
        await using var stream = File.OpenRead(bundle);
        var files = ProbeBundle.Read(stream, "made-up").Files;
        var dump = Path.Combine(_folder, "table.dmi");
        await File.WriteAllBytesAsync(dump, Dump(files["smbios-entry.bin"], files["smbios.bin"]));
        async Task<string> Says(params string[] what) =>
            (await ProgramOutput.Of("dmidecode", ["--from-dump", dump, "-q", .. what])).Trim();

        machine.FactText("identity.maker").ShouldBe(await Says("-s", "system-manufacturer"));
        machine.FactText("identity.model").ShouldBe(await Says("-s", "system-product-name"));
        machine.FactText("identity.serial").ShouldBe(await Says("-s", "system-serial-number"));
        machine.FactText("identity.board").ShouldBe(await Says("-s", "baseboard-product-name"));
        machine.FactText("identity.boardSerial").ShouldBe(await Says("-s", "baseboard-serial-number"));
        machine
            .FactText("firmware.tableNamesUefi")
            .ShouldBe((await Says("-t", "0")).Contains("UEFI is supported", StringComparison.Ordinal) ? "yes" : "no");

        var modules = Sizes().Matches(await Says("-t", "17"));
        machine.FactText("memory.slots").ShouldBe($"{modules.Count}");
        machine.FactText("memory.installedMiB").ShouldBe($"{modules.Sum(Mebibytes)}");
        var limits = Maxima().Matches(await Says("-t", "16"));
        machine.FactText("memory.maxMiB").ShouldBe($"{limits.Sum(Mebibytes)}");
    }

    /// <summary>
    /// A file as dmidecode writes one: the entry point with the table's address set to 32, then the table at 32. Checksums
    /// after DSP0134, section 5.2.
    /// </summary>
    private static byte[] Dump(byte[] entry, byte[] table)
    {
        var dump = new byte[32 + table.Length];
        entry.CopyTo(dump, 0);
        table.CopyTo(dump, 32);
        if (entry.AsSpan().StartsWith("_SM3_"u8))
        {
            BinaryPrimitives.WriteUInt64LittleEndian(dump.AsSpan(0x10), 32);
            SetSum(dump.AsSpan(0, entry[6]), 5);
        }
        else
        {
            BinaryPrimitives.WriteUInt32LittleEndian(dump.AsSpan(0x18), 32);
            SetSum(dump.AsSpan(0x10, 15), 5);
            SetSum(dump.AsSpan(0, entry[5]), 4);
        }
        return dump;

        static void SetSum(Span<byte> area, int at)
        {
            area[at] = 0;
            byte sum = 0;
            foreach (var b in area)
                sum += b;
            area[at] = (byte)-sum;
        }
    }

    /// <summary>The psABI's table once more, written down on its own, so that a slip in one of the two shows.</summary>
    private static string LevelByTheBook(string[] flags)
    {
        bool All(string names) => names.Split(' ').All(flags.Contains);
        return !All("cmov cx8 fpu fxsr mmx syscall sse sse2 lm") ? "none"
            : !All("cx16 lahf_lm popcnt pni ssse3 sse4_1 sse4_2") ? "x86-64-v1"
            : !All("avx avx2 bmi1 bmi2 f16c fma abm movbe") ? "x86-64-v2"
            : !All("avx512f avx512bw avx512cd avx512dq avx512vl") ? "x86-64-v3"
            : "x86-64-v4";
    }

    private static void Collect(JsonElement list, Dictionary<string, string> fields)
    {
        foreach (var item in list.EnumerateArray())
        {
            fields.TryAdd(item.GetProperty("field").GetString()!, item.GetProperty("data").GetString() ?? "");
            if (item.TryGetProperty("children", out var children))
                Collect(children, fields);
        }
    }

    private static long Mebibytes(Match match) =>
        long.Parse(match.Groups["n"].Value, CultureInfo.InvariantCulture)
        * (
            match.Groups["u"].Value == "GB" ? 1024
            : match.Groups["u"].Value == "TB" ? 1048576
            : 1
        );

    [GeneratedRegex(@"MemTotal:\s+(?<n>\d+) kB")]
    private static partial Regex MemTotal();

    [GeneratedRegex(@"^\s+Size: (?<n>\d+) (?<u>[MGT]B)$", RegexOptions.Multiline)]
    private static partial Regex Sizes();

    [GeneratedRegex(@"Maximum Capacity: (?<n>\d+) (?<u>[MGT]B)")]
    private static partial Regex Maxima();
}
