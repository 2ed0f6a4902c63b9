using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Probes;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Server.Tests;

/// <summary>
/// Whole installations of the demo's small systems in the emulator, and faults that were planted into them: what stops the reckoning
/// (PlantedFaultTests) stops them too, and both call it the same.
/// </summary>
public sealed class WholeWayTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-way-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private const string Code = "abcd2345";

    private static readonly InstallerWordsOf Catalogue = new();

    /// <summary>A machine that every demo installer lets in.</summary>
    private static Dossier Machine(params (string Key, object Value)[] changes)
    {
        var facts = new Dictionary<string, object>(StringComparer.Ordinal)
        {
            ["cpu.model"] = "Corvane C8-350",
            ["cpu.maker"] = "Corvane",
            ["cpu.arch"] = "x86",
            ["cpu.wordBits"] = 64,
            ["identity.maker"] = "Brackwater",
            ["identity.model"] = "Stile 14",
            ["identity.serial"] = "BW-14C8-00001",
            ["memory.installedMiB"] = 8192,
            ["firmware.kind"] = "uefi64",
            ["firmware.startedBy"] = "uefi",
            ["tpm.version"] = "2.0",
        };
        foreach (var (key, value) in changes)
            facts[key] = value;
        return Dossier.From([
            .. facts.Select(f => new Reading(
                f.Key,
                f.Value switch
                {
                    string text => FactValue.Of(text),
                    int number => FactValue.Of((long)number),
                    _ => throw new InvalidOperationException(f.Key),
                },
                "test",
                Origin.Entered,
                DateTimeOffset.UnixEpoch,
                "Pim"
            )),
        ]);
    }

    /// <summary>An upgrade in place: Tessaly 5 on the drive first, the machine then as the sheet leaves it.</summary>
    private async Task<WholeWayRun> UpgradeAsync(
        Dossier today,
        Dossier then,
        string firmware,
        string image,
        string? outgoingBy = null
    )
    {
        const string system = "tessaly-6-r1";
        var (says, talk) = (Catalogue.Says("tessaly-5")!, Catalogue.Talk("tessaly-5")!);
        return await WholeWay.WalkAsync(
            new WholeWaySetUp(
                TwinMachine.Of(then, firmware, null),
                image,
                TwinForm.Stick,
                [new TwinDrive(null, 32_000_000_000, "FB0001")],
                SecureBoot: false,
                Tpm: null,
                MediumStays: false
            )
            {
                Upgrades = new OutgoingSystem(
                    TwinMachine.Of(today, outgoingBy ?? firmware, null),
                    DemoImages.Of("tessaly-5"),
                    "Tessaly 5",
                    says,
                    talk,
                    talk.Upgrade!,
                    null
                )
                {
                    // Where it starts another way afterwards, its table is turned for that.
                    TurnsTable = outgoingBy is not null,
                },
            },
            Catalogue.Says(system),
            Catalogue.Talk(system),
            Catalogue.Causes,
            new DialogueFill("1", null, "mr-0001", "user", Code),
            Directory.CreateTempSubdirectory("screens-").FullName,
            _folder,
            TimeSpan.FromSeconds(1200),
            (_, _) => { },
            CancellationToken.None
        );
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task An_upgrade_in_place_checks_the_machine_inside_the_running_system_and_keeps_what_was_on_it()
    {
        var off = Machine(("tpm.version", "off"));
        // The TPM is off: the checks inside the running system refuse, and nothing was changed.
        var refused = await UpgradeAsync(off, off, "uefi64", DemoImages.Of("tessaly-6-r1"));
        refused.Found.Stop.ShouldBe(WholeWayStop.Refused, refused.Text);
        refused.Text.ShouldContain("no: no TPM 2.0 in the firmware's table");
        refused.Found.Installed.ShouldBeFalse();

        // Switched on before, it goes through, and the person's file is what it was.
        var run = await UpgradeAsync(off, Machine(), "uefi64", DemoImages.Of("tessaly-6-r1"));
        run.Found.StopsAt.ShouldBeNull($"{run.Found.Why}\n{run.Text}");
        run.Found.Why.ShouldContain("Upgraded inside Tessaly 5");
        run.Text.ShouldContain($"Kept: {Code}");
        run.Text.ShouldContain("Tessaly 6, release 1 is ready.");
        run.Bundle.ShouldNotBeNull();
        run.Typed.Select(t => t.Typed)
            .ShouldBe(
                [
                    // Tessaly 5 is installed and put to work first.
                    "Anvers",
                    "us",
                    "1",
                    "whole",
                    "",
                    "mr-0001",
                    "user",
                    "none",
                    $"keep {Code}",
                    "off",
                    // The upgrade asks nothing that its first installation asked.
                    "upgrade",
                    "kept",
                    $"probe {Code}",
                ],
                ignoreOrder: false
            );
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task An_upgrade_in_place_on_an_MBR_is_refused_by_legacy_BIOS_and_goes_through_when_the_table_was_turned()
    {
        var legacy = Machine(("firmware.startedBy", "bios"));
        var refused = await UpgradeAsync(legacy, legacy, "bios", DemoImages.Of("tessaly-6-r1"));
        refused.Found.Stop.ShouldBe(WholeWayStop.Refused, refused.Text);
        refused.Text.ShouldContain("no: started by legacy BIOS, not by UEFI");

        var run = await UpgradeAsync(legacy, Machine(), "uefi64", DemoImages.Of("tessaly-6-r1"), "bios");
        run.Found.StopsAt.ShouldBeNull($"{run.Found.Why}\n{run.Text}");
        run.Typed.Select(t => t.Typed).ShouldContain("turn");
        run.Text.ShouldContain($"Kept: {Code}");
        var facts = ProbeReader.Read(ProbeBundle.Read(new MemoryStream(run.Bundle!), "a.tar.gz"), "a.tar.gz").Readings;
        facts.First(f => f.Key == "firmware.startedBy").Value.ShouldBe(FactValue.Of("uefi"));
        // The system where it was, and the loader's partition behind it; lsblk without udev names no table.
        facts
            .First(f => f.Key == "storage.0.partitions")
            .Value.ToString()!
            .ShouldMatch("1048576 \\d+; \\d+ 104857600");
    }

    private async Task<WholeWayRun> WalkAsync(
        string image,
        string system,
        Dossier machine,
        string firmware,
        string? layout = null,
        bool secureBoot = false,
        long driveBytes = 32_000_000_000,
        int seconds = 1200
    ) =>
        await WholeWay.WalkAsync(
            new WholeWaySetUp(
                TwinMachine.Of(machine, firmware, null),
                image,
                TwinForm.Stick,
                [new TwinDrive(null, driveBytes, "FB0001")],
                secureBoot,
                null,
                MediumStays: false
            ),
            Catalogue.Says(system),
            Catalogue.Talk(system),
            Catalogue.Causes,
            new DialogueFill("1", layout, "mr-0001", "user", Code),
            Directory.CreateTempSubdirectory("screens-").FullName,
            _folder,
            TimeSpan.FromSeconds(seconds),
            (_, _) => { },
            CancellationToken.None
        );

    /// <summary>A demo image with lines of its own in the file of the system: what a shop tells its twin to be short of.</summary>
    private async Task<string> ChangedAsync(string system, string lines)
    {
        var conf = Path.Combine(_folder, "system.conf");
        await ProgramOutput.Of(
            "xorriso",
            "-osirrox",
            "on",
            "-indev",
            DemoImages.Of(system),
            "-extract",
            "/setup/system.conf",
            conf
        );
        await ProgramOutput.Of("chmod", "u+w", conf);
        await File.AppendAllTextAsync(conf, lines);
        var changed = Path.Combine(_folder, $"{system}-changed.iso");
        await ProgramOutput.Of(
            "xorriso",
            "-indev",
            DemoImages.Of(system),
            "-outdev",
            changed,
            "-boot_image",
            "any",
            "replay",
            "-update",
            conf,
            "/setup/system.conf"
        );
        return changed;
    }

    /// <summary>One of them, or each.</summary>
    public static TheoryData<string> Firmwares => EveryStart.IsWanted ? ["bios", "uefi64", "uefi32"] : ["uefi64"];

    [Theory]
    [MemberData(nameof(Firmwares))]
    public async Task A_light_system_is_installed_started_from_its_drive_and_probed_by_every_firmware(string firmware)
    {
        if (firmware != "uefi64" && !EveryStart.IsWanted)
            return;
        var machine = Machine(
            ("firmware.kind", firmware),
            ("firmware.startedBy", firmware == "bios" ? "bios" : "uefi"),
            ("tpm.version", "absent")
        );
        var run = await WalkAsync(DemoImages.Of("wickerwork-26"), "wickerwork-26", machine, firmware);
        run.Found.Stop.ShouldBeNull($"{run.Found.Why}\n{run.Text}");
        run.Found.Reached.ShouldBe(Rung.Use);
        run.Found.LetIn.ShouldBeTrue();
        run.Found.Installed.ShouldBeTrue();
        run.Found.StartedFromDrive.ShouldBeTrue();
        run.Screens.Count.ShouldBeGreaterThan(5);
        run.Typed.Select(t => t.Question).ShouldContain("layout");
        // What came back is a bundle of the real probe, with the code of this way, of a machine with this identity.
        var bundle = ProbeBundle.Read(new MemoryStream(run.Bundle!), "twin.tar.gz");
        bundle.Code.ShouldBe(Code);
        var facts = Dossier.From(ProbeReader.Read(bundle, "twin.tar.gz").Readings);
        facts.Word("identity.serial").ShouldBe("BW-14C8-00001");
        facts.Word("firmware.startedBy").ShouldBe(firmware == "bios" ? "bios" : "uefi");
        facts.Number("storage.0.sizeBytes").ShouldBe(32_000_000_000);
        Directory.GetDirectories(_folder).ShouldBeEmpty();
    }

    public static TheoryData<string, string> Planted() =>
        new()
        {
            { "word-size", "Kernel" },
            { "wrong-entry", "Setup" },
            { "identity-wrong", "Setup" },
            { "no-loader-place", "Disk" },
            { "no-storage-driver", "Devices" },
            { "gate-checked", "Setup" },
            { "gate-tpm", "Setup" },
            { "loader-not-signed", "Firmware" },
            { "write-incomplete", "Medium" },
            { "no-room", "Disk" },
            { "loader-on-medium", "Disk" },
        };

    [Theory]
    [MemberData(nameof(Planted))]
    public async Task A_planted_fault_is_shown_for_real_at_the_same_rung_and_by_the_same_name(string cause, string rung)
    {
        // Those that restart, or wait for UEFI, are seen before a change lands; a person’s test takes the quick ones.
        if (cause is not ("word-size" or "wrong-entry") && !EveryStart.IsWanted)
            return;
        var bios = Machine(("firmware.kind", "bios"), ("firmware.startedBy", "bios"), ("tpm.version", "absent"));
        var run = cause switch
        {
            "word-size" => await WalkAsync(
                DemoImages.Of("wickerwork-26"),
                "wickerwork-26",
                Machine(
                    ("firmware.kind", "bios"),
                    ("firmware.startedBy", "bios"),
                    ("cpu.wordBits", 32),
                    ("tpm.version", "absent")
                ),
                "bios"
            ),
            "wrong-entry" => await WalkAsync(
                DemoImages.Of("tessaly-6-r1"),
                "tessaly-6-r1",
                Machine(("firmware.kind", "bios"), ("firmware.startedBy", "bios")),
                "bios"
            ),
            "identity-wrong" => await WalkAsync(DemoImages.Of("canzona-6"), "canzona-6", bios, "bios"),
            "gate-checked" => await WalkAsync(
                DemoImages.Of("tessaly-6-r1"),
                "tessaly-6-r1",
                Machine(("cpu.model", "Corvane C6-220")),
                "uefi64"
            ),
            "gate-tpm" => await WalkAsync(
                DemoImages.Of("tessaly-6-r1"),
                "tessaly-6-r1",
                Machine(("tpm.version", "absent")),
                "uefi64"
            ),
            "loader-not-signed" => await WalkAsync(
                DemoImages.Of("wickerwork-26"),
                "wickerwork-26",
                Machine(),
                "uefi64",
                secureBoot: true
            ),
            "write-incomplete" => await WalkAsync(await HalfWrittenAsync(), "wickerwork-26", bios, "bios"),
            "no-loader-place" => await WalkAsync(
                DemoImages.Of("wickerwork-26"),
                "wickerwork-26",
                bios,
                "bios",
                layout: "set -e\nprintf 'label: gpt\\nstart=2048, name=system\\n' | sfdisk -q \"$1\"\nmkfs.ext4 -q -L system \"$1\"1\n"
            ),
            "no-room" => await WalkAsync(
                await ChangedAsync("wickerwork-26", "set leastMiB=3000\n"),
                "wickerwork-26",
                bios,
                "bios",
                driveBytes: 2_000_000_000
            ),
            "loader-on-medium" => await WalkAsync(
                await ChangedAsync("wickerwork-26", "set loader=medium\n"),
                "wickerwork-26",
                bios,
                "bios"
            ),
            _ => await WalkAsync(
                await ChangedAsync("wickerwork-26", "set setupWithout=drive-driver\n"),
                "wickerwork-26",
                bios,
                "bios"
            ),
        };
        run.Found.Cause.ShouldBe(cause, $"{run.Found.Why}\n{run.Text}");
        run.Found.StopsAt.ShouldBe(Enum.Parse<Rung>(rung), run.Found.Why);
        run.Bundle.ShouldBeNull();
    }

    /// <summary>A stick onto which the last third was never written.</summary>
    private async Task<string> HalfWrittenAsync()
    {
        var half = Path.Combine(_folder, "half.iso");
        File.Copy(DemoImages.Of("wickerwork-26"), half);
        var map = await ProgramOutput.Of(
            "xorriso",
            "-indev",
            half,
            "-find",
            "/live/vmlinuz",
            "-exec",
            "report_lba",
            "--"
        );
        var at = long.Parse(
            map.Split('\n').First(l => l.Contains("vmlinuz", StringComparison.Ordinal)).Split(',')[1].Trim(),
            System.Globalization.CultureInfo.InvariantCulture
        );
        await using var file = new FileStream(half, FileMode.Open);
        file.Position = at * 2048;
        await file.WriteAsync(new byte[4 << 20]);
        return half;
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task What_is_cancelled_leaves_no_emulator_and_no_folder_behind()
    {
        using var cancel = new CancellationTokenSource();
        var bios = Machine(("firmware.kind", "bios"), ("firmware.startedBy", "bios"), ("tpm.version", "absent"));
        var walk = WholeWay.WalkAsync(
            new WholeWaySetUp(
                TwinMachine.Of(bios, "bios", null),
                DemoImages.Of("wickerwork-26"),
                TwinForm.Stick,
                [new TwinDrive(null, 8_000_000_000, "FB0002")],
                false,
                null,
                false
            ),
            Catalogue.Says("wickerwork-26"),
            Catalogue.Talk("wickerwork-26"),
            Catalogue.Causes,
            new DialogueFill("1", null, "mr-0001", "user", Code),
            Directory.CreateTempSubdirectory("screens-").FullName,
            _folder,
            TimeSpan.FromSeconds(1200),
            (_, _) => cancel.Cancel(),
            cancel.Token
        );
        await Should.ThrowAsync<OperationCanceledException>(walk);
        Directory.GetDirectories(_folder).ShouldBeEmpty();
        (await ProgramOutput.Of("sh", "-c", $"pgrep -f {_folder} | grep -v $$ || true")).Trim().ShouldBeEmpty();
    }

    [Fact]
    [Trait(Long.Trait, Long.Value)]
    public async Task An_emulator_that_hangs_is_ended_at_the_limit_and_said_so()
    {
        // An installer that asks nothing and says nothing more: a loader that waits for an hour.
        var bios = Machine(("firmware.kind", "bios"), ("firmware.startedBy", "bios"), ("tpm.version", "absent"));
        var run = await WalkAsync(
            DemoImages.Of("plover-light-5"),
            "wickerwork-26",
            bios,
            "bios",
            seconds: EveryStart.Of(60, 25)
        );
        run.Found.Stop.ShouldBe(WholeWayStop.TimeOver);
        Directory.GetDirectories(_folder).ShouldBeEmpty();
    }

    /// <summary>What the catalogue says of installers.</summary>
    private sealed class InstallerWordsOf
    {
        private readonly FreshBoot.Core.Catalogue.ShopCatalogue _catalogue = TestWorkshop.ShippedCatalogue();

        public IReadOnlyList<FreshBoot.Core.Catalogue.CauseEntry> Causes => _catalogue.Causes;

        public FreshBoot.Core.Catalogue.InstallerWords? Says(string system) =>
            _catalogue.System(system)?.Installer?.Says;

        public FreshBoot.Core.Catalogue.InstallerTalk? Talk(string system) =>
            _catalogue.System(system)?.Installer?.Talk;
    }
}
