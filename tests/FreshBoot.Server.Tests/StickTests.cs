using System.Net;
using FreshBoot.Core.Probes;

namespace FreshBoot.Server.Tests;

/// <summary>
/// The probe stick as a technician uses it: started in the emulator as machines with identities of their own, by BIOS and by
/// UEFI; what it keeps on itself is taken in, and every fact is what the emulator was given.
/// </summary>
[Collection("Emulator")]
public sealed class StickTests : IDisposable
{
    private const string Lite = "max,-avx,-avx2,-bmi1,-bmi2,-f16c,-fma,-movbe,-abm";
    private const string Narrow = Lite + ",-lm";
    private const string Old = Lite + ",-sse4.1,-sse4.2,-popcnt,-cx16";
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-stick-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    /// <summary>A machine for the emulator.</summary>
    private sealed record Twin(
        string Tag,
        string Firmware,
        string Maker,
        string Model,
        string Serial,
        string Board,
        string Cpu,
        string Features,
        string Level,
        int MemoryMiB,
        int Cores,
        string Bus,
        long DriveBytes
    );

    private static readonly Twin[] Twins =
    [
        new(
            "MR-0417",
            "uefi",
            "Brackwater",
            "Stile 14",
            "BW-14C8-20931",
            "ST14-8",
            "Corvane C8-350",
            "max",
            "x86-64-v3",
            2048,
            2,
            "nvme",
            128_000_000_000
        ),
        new(
            "MR-0409",
            "bios",
            "Brackwater",
            "Stile 12",
            "BW-12C6-11874",
            "ST12-6",
            "Corvane C6-220",
            Lite,
            "x86-64-v2",
            1536,
            2,
            "sata",
            64_000_000_000
        ),
        new(
            "MR-0402",
            "bios",
            "Fennimore",
            "Till 9",
            "FT9-3391",
            "FT9",
            "Corvane C2-60",
            Old,
            "x86-64-v1",
            1024,
            1,
            "ata",
            8_000_000_000
        ),
        new(
            "MR-0431",
            "uefi",
            "Quernstone",
            "Cairn 15",
            "QC-15-0442",
            "CAIRN15",
            "Corvane C5-180",
            Lite,
            "x86-64-v2",
            1024,
            2,
            "sata",
            64_023_257_088
        ),
        new(
            "MR-0422",
            "uefi",
            "Ottavine",
            "Plinth PL-06B",
            "P6K2M81T",
            "OT-PLINTH-6",
            "Corvane C6-280",
            Lite,
            "x86-64-v2",
            1280,
            2,
            "sata",
            256_060_514_304
        ),
        new(
            "MR-0404",
            "bios",
            "Brackwater",
            "Transom 7",
            "BT-7-60213",
            "TR7",
            "Corvane C7-300",
            "max",
            "x86-64-v3",
            3072,
            4,
            "nvme",
            500_107_862_016
        ),
    ];

    private static readonly Twin Till = new(
        "MR-0402",
        "bios",
        "Fennimore",
        "Till 7",
        "FT7-3391",
        "FT7",
        "Corvane C1-60",
        Narrow,
        "none",
        512,
        1,
        "ata",
        8_012_390_400
    );

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task Started_as_a_machine_it_brings_home_what_the_emulator_was_given()
    {
        await using var workshop = new TestWorkshop();
        var client = workshop.CreateClient();
        var made = await ProgramOutput.Of(
            "sh",
            Path.Combine(TestWorkshop.Home, "probe", "make-stick.sh"),
            Image("stick")
        );
        // The 32-bit kernel goes with it where the mirror has one; elsewhere the stick tells such a processor so.
        IReadOnlyList<Twin> twins = made.Contains("on 32-bit processors too", StringComparison.Ordinal)
            ? [.. Twins.Where(t => t.Features != Old), Till]
            : Twins;

        // One start shows the way in: BIOS on a narrow processor. With every start all six are started, each by both firmwares,
        // which takes some minutes more.
        IReadOnlyList<Twin> starts = !EveryStart.IsWanted
            ? [twins[^1]]
            :
            [
                .. twins,
                .. twins
                    .Where(t => t != Till)
                    .Select(t => t with { Tag = $"{t.Tag}-B", Firmware = t.Firmware == "bios" ? "uefi" : "bios" }),
            ];
        // Two at a time: a start wants a processor of its own.
        await Parallel.ForEachAsync(
            starts,
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (twin, _) => await StartAsync(twin)
        );

        foreach (var twin in starts)
        {
            var (name, bundle) = await BundleAsync(twin);
            name.ShouldStartWith($"{twin.Serial}-", customMessage: "kept under serial and time");
            var answer = await client.PostAsync("/api/machines/import", TestWorkshop.Form(twin.Tag, (name, bundle)));
            answer.StatusCode.ShouldBe(HttpStatusCode.Created, await answer.Content.ReadAsStringAsync());
            var machine = await answer.JsonAsync();
            machine.FactText("identity.maker").ShouldBe(twin.Maker);
            machine.FactText("identity.model").ShouldBe(twin.Model);
            machine.FactText("identity.serial").ShouldBe(twin.Serial);
            machine.FactText("identity.board").ShouldBe(twin.Board);
            machine.FactText("cpu.model").ShouldBe(twin.Cpu);
            machine.FactText("cpu.level").ShouldBe(twin.Level, twin.Tag);
            machine.FactText("cpu.cores").ShouldBe($"{twin.Cores}");
            machine.FactText("memory.installedMiB").ShouldBe($"{twin.MemoryMiB}");
            machine.FactText("storage.0.sizeBytes").ShouldBe($"{twin.DriveBytes}");
            machine.FactText("storage.0.bus").ShouldBe(twin.Bus == "ata" ? "sata" : twin.Bus);
            machine.Fact("storage.1.sizeBytes").ShouldBeNull("the stick itself is no drive of the machine");
            machine.FactText("firmware.startedBy").ShouldBe(twin.Firmware);

            using var stream = new MemoryStream(bundle);
            var table = ProbeBundle.Read(stream, name).Files["smbios.bin"];
            await DmidecodeTests.AgreesAsync(table, _folder);
            // A table as real firmware makes it takes another identity, and nothing else in it changes.
            await DmidecodeTests.TakesAnIdentityAsync(table, _folder);
        }
    }

    private string Image(string name) => Path.Combine(_folder, $"{name}.img");

    private async Task StartAsync(Twin twin)
    {
        File.Copy(Image("stick"), Image(twin.Tag));
        var conf = Path.Combine(_folder, $"{twin.Tag}.conf");
        await File.WriteAllTextAsync(conf, "off=yes\n");
        await ProgramOutput.Of("mcopy", "-o", "-i", $"{Image(twin.Tag)}@@1048576", conf, "::fresh-boot.conf");
        var drive = Image($"{twin.Tag}-drive");
        await using (var file = File.Create(drive))
            file.SetLength(twin.DriveBytes);
        List<string> arguments =
        [
            .. new[]
            {
                "3600",
                "qemu-system-x86_64",
                "-machine",
                "q35",
                "-display",
                "none",
                "-no-reboot",
                "-nic",
                "none",
            },
            .. new[] { "-monitor", "none", "-serial", $"file:{Path.Combine(_folder, twin.Tag)}.log" },
            .. new[] { "-m", $"{twin.MemoryMiB}", "-smp", $"{twin.Cores},cores={twin.Cores}" },
            "-cpu",
            twin.Features.Replace("max", $"max,vendor=CorvaneChips,model-id={twin.Cpu}", StringComparison.Ordinal),
            "-smbios",
            $"type=1,manufacturer={twin.Maker},product={twin.Model},serial={twin.Serial}",
            "-smbios",
            $"type=2,manufacturer={twin.Maker},product={twin.Board},serial=B{twin.Serial}",
            "-drive",
            $"file={drive},if=none,id=d,format=raw",
            "-device",
            twin.Bus == "nvme" ? "nvme,drive=d,serial=N1" : "ide-hd,drive=d",
            .. new[] { "-device", "qemu-xhci", "-drive", $"file={Image(twin.Tag)},if=none,id=s,format=raw" },
            .. new[] { "-device", "usb-storage,drive=s,removable=on,bootindex=0" },
        ];
        if (twin.Firmware == "uefi")
        {
            var variables = Image($"{twin.Tag}-vars");
            File.Copy("/usr/share/OVMF/OVMF_VARS_4M.fd", variables);
            arguments.AddRange([
                "-drive",
                "if=pflash,format=raw,readonly=on,file=/usr/share/OVMF/OVMF_CODE_4M.fd",
                "-drive",
                $"if=pflash,format=raw,file={variables}",
            ]);
        }
        await ProgramOutput.Of("timeout", [.. arguments]);
        File.Delete(drive);
    }

    private async Task<(string Name, byte[] Content)> BundleAsync(Twin twin)
    {
        var fat = $"{Image(twin.Tag)}@@1048576";
        var home = Directory.CreateDirectory(Path.Combine(_folder, $"{twin.Tag}-home")).FullName;
        await ProgramOutput.Of("mcopy", "-i", fat, "::bundles/*", home);
        var file = Directory
            .GetFiles(home, "*.tar.gz")
            .ShouldHaveSingleItem(await File.ReadAllTextAsync(Path.Combine(_folder, $"{twin.Tag}.log")));
        return (Path.GetFileName(file), await File.ReadAllBytesAsync(file));
    }
}
