using System.Formats.Tar;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Probes;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Workshop.Simulated;

/// <summary>Makes the bundle that the probe would bring home from a simulated machine, source by source.</summary>
public static class SimulatedProbe
{
    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true };

    /// <summary>The bundle as a gzipped tar archive.</summary>
    public static byte[] Bundle(SimulatedMachine machine, DateTimeOffset takenAt, string? code = null) =>
        Pack(Sources(machine), takenAt, code);

    /// <summary>The sources by member name, in the formats of the programs that print them.</summary>
    public static IReadOnlyDictionary<string, byte[]> Sources(SimulatedMachine machine)
    {
        var sources = new SortedDictionary<string, byte[]>(StringComparer.Ordinal)
        {
            ["cpuinfo.txt"] = Bytes(machine.Arm ? ArmCpuInfo(machine) : CpuInfo(machine)),
            // A part of the memory goes to the firmware and to the graphics of the processor.
            ["meminfo.txt"] = Bytes(
                $"MemTotal:       {machine.InstalledMiB * 1024L * 96 / 100, 8} kB\nMemFree:        {machine.InstalledMiB * 1024L / 2, 8} kB\n"
            ),
            ["lsblk.json"] = Bytes(Lsblk(machine)),
            ["lsusb.txt"] = Bytes(Lsusb(machine)),
            ["cdrom.txt"] = Bytes(Cdrom(machine.Optical)),
        };
        if (machine.Drives.Any(d => d.Bus.Length == 0))
            sources["mmc.txt"] = Bytes(
                string.Concat(
                    machine.Drives.Select((d, i) => d.Bus.Length == 0 ? $"mmcblk{i} {(d.Card ? "SD" : "MMC")}\n" : "")
                )
            );
        for (var i = 0; i < machine.Drives.Count; i++)
            if (machine.Drives[i] is { Health: { } health } drive)
                sources[$"smart-{NameOf(drive, i)}.json"] = Bytes(Smart(machine, drive, i, health));
        if (machine.Screen is { } screen)
            sources["edid-card0-eDP-1.bin"] = Edid(screen);
        if (machine.Arm)
            return sources;

        sources["lscpu.json"] = Bytes(Lscpu(machine));
        sources["dmi.txt"] = Bytes(
            $"sys_vendor={machine.Maker}\nproduct_name={machine.Model}\nproduct_serial={machine.Serial}\nboard_name={machine.Board}\n"
        );
        sources["smbios.bin"] = Smbios(machine);
        sources["efi.txt"] = Bytes(Efi(machine));
        sources["lspci.txt"] = Bytes(Lspci(machine));
        sources["power.txt"] = Bytes(Power(machine));
        if (machine is { StartedBy: not "bios", SecureBoot.Length: > 0 })
        {
            sources["secure-boot.bin"] = [6, 0, 0, 0, machine.SecureBoot == "on" ? (byte)1 : (byte)0];
            sources["setup-mode.bin"] = [6, 0, 0, 0, 0];
        }
        if (machine.Tpm.Length > 0)
            sources["tpm.txt"] = Bytes($"version {machine.Tpm[0]}\n");
        return sources;
    }

    /// <summary>Packs sources with a manifest, as the probe does.</summary>
    public static byte[] Pack(IReadOnlyDictionary<string, byte[]> sources, DateTimeOffset takenAt, string? code = null)
    {
        var manifest = new StringBuilder(
            $"{ProbeBundle.Magic}\ntaken {takenAt.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture)}\nroot yes\n"
        );
        if (code is not null)
            manifest.Append(CultureInfo.InvariantCulture, $"code {code}\n");
        foreach (var (name, content) in sources)
            manifest.Append(CultureInfo.InvariantCulture, $"have {name} {content.Length}\n");
        if (!sources.ContainsKey("tpm.txt"))
            manifest.Append(
                "missing tpm.txt the system sees no TPM: it may be absent, a bare header or switched off\n"
            );

        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        using (var tar = new TarWriter(gzip, TarEntryFormat.Ustar))
        {
            Write(tar, ProbeBundle.ManifestName, Bytes(manifest.ToString()));
            foreach (var (name, content) in sources)
                Write(tar, name, content);
        }
        return packed.ToArray();

        void Write(TarWriter tar, string name, byte[] content) =>
            tar.WriteEntry(
                new UstarTarEntry(TarEntryType.RegularFile, name)
                {
                    DataStream = new MemoryStream(content),
                    ModificationTime = takenAt,
                }
            );
    }

    /// <summary>The flags of an instruction level, as the kernel prints them.</summary>
    public static IReadOnlyList<string> Flags(string level)
    {
        var reach = level switch
        {
            "none" => 0,
            "v1" or "v1+ssse3" => 1,
            "v2" or "v2+avx" => 2,
            "v3" => 3,
            "v4" => 4,
            _ => throw new ArgumentException($"There is no level {level}.", nameof(level)),
        };
        var flags = CpuLevel.Levels.Take(reach).SelectMany(l => l.Adds.Select(f => f.Flag));
        string[] more = level switch
        {
            "none" => ["fpu", "cmov", "cx8", "fxsr", "mmx", "sse", "sse2"],
            "v1+ssse3" => ["pni", "ssse3"],
            "v2+avx" => ["avx", "xsave"],
            _ => [],
        };
        return [.. flags.Concat(more).Concat(["tsc", "msr", "pae", "apic"])];
    }

    private static string CpuInfo(SimulatedMachine machine)
    {
        var text = new StringBuilder();
        for (var i = 0; i < machine.Cores; i++)
            text.Append(
                CultureInfo.InvariantCulture,
                $"processor\t: {i}\nvendor_id\t: {machine.Cpu.Split(' ')[0]}\nmodel name\t: {machine.Cpu}\nphysical id\t: 0\nsiblings\t: {machine.Cores}\ncore id\t\t: {i}\ncpu cores\t: {machine.Cores}\nflags\t\t: {string.Join(' ', Flags(machine.Level))}\n\n"
            );
        return text.ToString();
    }

    private static string Lscpu(SimulatedMachine machine)
    {
        var wide = machine.Level != "none";
        object Field(string name, string data) => new { field = $"{name}:", data };
        return JsonSerializer.Serialize(
            new
            {
                lscpu = new[]
                {
                    Field("Architecture", wide ? "x86_64" : "i686"),
                    Field("CPU op-mode(s)", wide ? "32-bit, 64-bit" : "32-bit"),
                    Field("CPU(s)", $"{machine.Cores}"),
                    Field("Model name", machine.Cpu),
                    Field("Thread(s) per core", "1"),
                    Field("Core(s) per socket", $"{machine.Cores}"),
                    Field("Socket(s)", "1"),
                    Field("Flags", string.Join(' ', Flags(machine.Level))),
                },
            },
            Indented
        );
    }

    private static string Lsblk(SimulatedMachine machine)
    {
        var drives = machine.Drives.Select(
            (d, i) =>
                new
                {
                    name = NameOf(d, i),
                    type = "disk",
                    size = d.SizeBytes,
                    rota = d.Spins,
                    rm = false,
                    tran = d.Bus.Length == 0 ? null : d.Bus,
                    model = (string?)d.Model,
                    serial = (string?)SerialOf(machine, i),
                }
        );
        // The stick that the live system runs from, and what every such system has besides: none of them is a drive.
        var others = new[]
        {
            new
            {
                name = "sdz",
                type = "disk",
                size = 15_728_640_000L,
                rota = false,
                rm = true,
                tran = (string?)"usb",
                model = (string?)"Workshop stick",
                serial = (string?)"WS-07",
            },
            new
            {
                name = "loop0",
                type = "loop",
                size = 812_646_400L,
                rota = false,
                rm = false,
                tran = (string?)null,
                model = (string?)null,
                serial = (string?)null,
            },
            new
            {
                name = "zram0",
                type = "disk",
                size = 1_073_741_824L,
                rota = false,
                rm = false,
                tran = (string?)null,
                model = (string?)null,
                serial = (string?)null,
            },
        };
        return JsonSerializer.Serialize(new { blockdevices = drives.Concat(others) }, Indented);
    }

    private static string Efi(SimulatedMachine machine) =>
        machine.StartedBy == "bios"
            ? "folder no\n"
            : $"folder yes\nword {machine.StartedBy[^2..]}\n{(machine.SecureBoot.Length == 0 ? "secureBoot absent\n" : "")}";

    private static string Lspci(SimulatedMachine machine)
    {
        var text = new StringBuilder(
            "Slot:\t00:00.0\nClass:\tHost bridge [0600]\nVendor:\tCorvane [c0de]\nDevice:\tHost bridge [0100]\n\n"
        );
        for (var i = 0; i < machine.Devices.Count; i++)
            text.Append(
                CultureInfo.InvariantCulture,
                $"Slot:\t00:{i + 1:x2}.0\nClass:\t{(machine.Devices[i].Class[..2] == "03" ? "VGA compatible controller" : "Network controller")} [{machine.Devices[i].Class}]\nVendor:\t{machine.Devices[i].Vendor} [c0de]\nDevice:\t{machine.Devices[i].Name} [{i + 0x0200:x4}]\n\n"
            );
        return text.ToString();
    }

    private static string Power(SimulatedMachine machine) =>
        "POWER_SUPPLY_NAME=AC\nPOWER_SUPPLY_TYPE=Mains\nPOWER_SUPPLY_ONLINE=1\n"
        + (
            machine.Battery is { } battery
                ? $"\nPOWER_SUPPLY_NAME=BAT0\nPOWER_SUPPLY_TYPE=Battery\nPOWER_SUPPLY_PRESENT=1\nPOWER_SUPPLY_CYCLE_COUNT={battery.Cycles}\nPOWER_SUPPLY_ENERGY_FULL_DESIGN={battery.DesignMWh * 1000L}\nPOWER_SUPPLY_ENERGY_FULL={battery.FullMWh * 1000L}\n"
                : ""
        );

    private static string NameOf(SimulatedDrive drive, int i) =>
        drive.Bus switch
        {
            "nvme" => $"nvme{i}n1",
            "" => $"mmcblk{i}",
            _ => $"sd{(char)('a' + i)}",
        };

    private static string SerialOf(SimulatedMachine machine, int i) =>
        $"{machine.Tag.Replace("-", "", StringComparison.Ordinal)}D{i}";

    private static string ArmCpuInfo(SimulatedMachine machine)
    {
        var text = new StringBuilder();
        for (var i = 0; i < machine.Cores; i++)
            text.Append(
                CultureInfo.InvariantCulture,
                $"processor\t: {i}\nBogoMIPS\t: 108.00\nFeatures\t: fp asimd evtstrm aes crc32 cpuid\nCPU implementer\t: 0x74\nCPU architecture: 8\n\n"
            );
        return text.Append(
                CultureInfo.InvariantCulture,
                $"Hardware\t: {machine.Cpu}\nSerial\t\t: {machine.Serial}\nModel\t\t: {machine.Model}\n"
            )
            .ToString();
    }

    private static string Lsusb(SimulatedMachine machine)
    {
        var text = new StringBuilder();
        for (var release = 1; release <= machine.Usb; release++)
            text.Append(
                CultureInfo.InvariantCulture,
                $"Bus {release:000} Device 001: ID 1d6b:000{release} {release}.0 root hub\n"
            );
        for (var i = 0; i < machine.UsbDevices.Count; i++)
            text.Append(
                CultureInfo.InvariantCulture,
                $"Bus 001 Device {i + 2:000}: ID c0de:{i + 0x0300:x4} {machine.UsbDevices[i]}\n"
            );
        return text.ToString();
    }

    private static string Cdrom(string reads) =>
        reads.Length == 0
            ? "CD-ROM information, Id: cdrom.c 3.20 2003/12/17\n\ndrive name:\t\n"
            : $"CD-ROM information, Id: cdrom.c 3.20 2003/12/17\n\ndrive name:\t\tsr0\ndrive speed:\t\t24\nCan write CD-R:\t\t{(reads == "dvd" ? 1 : 0)}\nCan read DVD:\t\t{(reads == "dvd" ? 1 : 0)}\nCan write DVD-R:\t0\n";

    private static string Smart(SimulatedMachine machine, SimulatedDrive drive, int i, SimulatedHealth health)
    {
        object Attribute(int id, string name, int value, long raw) =>
            new
            {
                id,
                name,
                value,
                worst = value,
                raw = new { value = raw, @string = $"{raw}" },
            };
        var head = new Dictionary<string, object>(StringComparer.Ordinal)
        {
            ["json_format_version"] = new[] { 1, 0 },
            ["smartctl"] = new { version = new[] { 7, 3 }, exit_status = health.Passed ? 0 : 8 },
            ["device"] = new
            {
                name = $"/dev/{NameOf(drive, i)}",
                type = drive.Bus == "nvme" ? "nvme" : "sat",
                protocol = drive.Bus == "nvme" ? "NVMe" : "ATA",
            },
            ["model_name"] = drive.Model,
            ["serial_number"] = SerialOf(machine, i),
            ["user_capacity"] = new { blocks = drive.SizeBytes / 512, bytes = drive.SizeBytes },
            ["smart_status"] = new { passed = health.Passed },
            ["power_on_time"] = new { hours = health.Hours },
        };
        if (drive.Bus == "nvme")
        {
            head["nvme_smart_health_information_log"] = new
            {
                critical_warning = health.Passed ? 0 : 4,
                temperature = 31,
                available_spare = health.SparePercent,
                available_spare_threshold = 10,
                percentage_used = health.WearPercent,
                media_errors = health.MediaErrors,
                power_on_hours = health.Hours,
            };
        }
        else
        {
            List<object> table =
            [
                Attribute(5, "Reallocated_Sector_Ct", 100, health.Reallocated),
                Attribute(9, "Power_On_Hours", 90, health.Hours),
                Attribute(197, "Current_Pending_Sector", 100, health.Pending),
                Attribute(198, "Offline_Uncorrectable", 100, health.Uncorrectable),
                Attribute(199, "UDMA_CRC_Error_Count", 200, 0),
            ];
            if (!drive.Spins)
                table.Add(Attribute(231, "SSD_Life_Left", 100 - health.WearPercent, 100 - health.WearPercent));
            head["ata_smart_attributes"] = new { revision = 16, table };
            if (health.SelfTest.Length > 0)
                head["ata_smart_self_test_log"] = new
                {
                    standard = new
                    {
                        revision = 1,
                        table = new[]
                        {
                            new
                            {
                                type = new { value = 2, @string = "Extended offline" },
                                status = new
                                {
                                    value = health.SelfTest == "passed" ? 0 : 121,
                                    passed = health.SelfTest == "passed",
                                },
                                lifetime_hours = health.Hours,
                            },
                        },
                        count = 1,
                    },
                };
        }
        return JsonSerializer.Serialize(head, Indented);
    }

    /// <summary>An EDID 1.4 block with its native timing and its checksum.</summary>
    private static byte[] Edid(SimulatedScreen screen)
    {
        var block = new byte[128];
        byte[] head = [0x00, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x00];
        head.CopyTo(block, 0);
        block[17] = (byte)(screen.Year - 1990);
        (block[18], block[19]) = (1, 4);
        var timing = block.AsSpan(54, 18);
        (timing[0], timing[1]) = (0x01, 0x1d);
        (timing[2], timing[4]) = ((byte)screen.Width, (byte)(screen.Width >> 8 << 4));
        (timing[5], timing[7]) = ((byte)screen.Height, (byte)(screen.Height >> 8 << 4));
        (timing[12], timing[13]) = ((byte)screen.WidthMm, (byte)screen.HeightMm);
        timing[14] = (byte)(screen.WidthMm >> 8 << 4 | screen.HeightMm >> 8);
        block[127] = (byte)-block.Sum(b => b);
        return block;
    }

    private static byte[] Smbios(SimulatedMachine machine)
    {
        var table = new SmbiosWriter();
        table.Add(
            0,
            0x18,
            s =>
            {
                s.Text(0x04, $"{machine.Maker} Firmware");
                s.Text(0x05, "1.14");
                s.Text(0x08, "03/18/2022");
                s.Byte(0x13, machine.KnowsUefi ? (byte)0x08 : (byte)0);
            }
        );
        table.Add(
            1,
            0x1b,
            s =>
            {
                s.Text(0x04, machine.Maker);
                s.Text(0x05, machine.Model);
                s.Text(0x06, "1.0");
                s.Text(0x07, machine.Serial);
            }
        );
        table.Add(
            2,
            0x0f,
            s =>
            {
                s.Text(0x04, machine.Maker);
                s.Text(0x05, machine.Board);
                s.Text(0x07, machine.BoardSerial ?? (machine.Serial.Length == 0 ? "" : $"B{machine.Serial}"));
            }
        );
        table.Add(
            3,
            0x15,
            s =>
            {
                s.Text(0x04, machine.Maker);
                s.Byte(0x05, machine.Chassis);
                s.Text(0x07, machine.Serial);
            }
        );
        table.Add(
            4,
            0x30,
            s =>
            {
                s.Text(0x04, "CPU socket");
                s.Byte(0x05, 3);
                s.Text(0x07, machine.Cpu.Split(' ')[0]);
                s.Text(0x10, machine.Cpu);
                s.Word(0x14, 3200);
                s.Word(0x16, 2400);
                s.Byte(0x23, (byte)machine.Cores);
                s.Byte(0x24, (byte)machine.Cores);
                s.Byte(0x25, (byte)machine.Cores);
            }
        );
        table.Add(
            7,
            0x1b,
            s =>
            {
                s.Text(0x04, "Last level");
                s.Word(0x05, 0x0182);
                s.Word(0x07, (ushort)(machine.Cores * 1024));
                s.Word(0x09, (ushort)(machine.Cores * 1024));
                s.DoubleWord(0x13, (uint)machine.Cores * 1024);
                s.DoubleWord(0x17, (uint)machine.Cores * 1024);
            }
        );
        foreach (var socket in machine.Sockets)
            table.Add(
                9,
                0x11,
                s =>
                {
                    s.Text(0x04, socket.Name);
                    s.Byte(0x05, socket.Type);
                    s.Byte(0x06, 2);
                    s.Byte(0x07, socket.Used ? (byte)4 : (byte)3);
                }
            );
        var array = table.Add(
            16,
            0x17,
            s =>
            {
                s.Byte(0x04, 3);
                s.Byte(0x05, 3);
                s.DoubleWord(0x07, (uint)machine.MaxMemoryMiB * 1024);
                s.Word(0x0d, (ushort)machine.Slots.Count);
            }
        );
        var (type, form) = machine.MemoryType.Split(' ', 2) switch
        {
            ["DDR2", var f] => ((byte)0x13, f),
            ["DDR3", var f] => ((byte)0x18, f),
            [_, var f] => ((byte)0x1a, f),
            _ => ((byte)0x1a, "DIMM"),
        };
        for (var i = 0; i < machine.Slots.Count; i++)
        {
            var (slot, size) = (i, machine.Slots[i].SizeMiB);
            table.Add(
                17,
                0x28,
                s =>
                {
                    s.Word(0x04, array);
                    s.Word(0x0c, (ushort)size);
                    s.Byte(0x0e, form == "SO-DIMM" ? (byte)0x0d : (byte)0x09);
                    s.Text(0x10, $"DIMM {slot}");
                    s.Byte(0x12, size == 0 ? (byte)2 : type);
                    if (size > 0)
                    {
                        s.Text(0x17, "Sill");
                        s.Text(0x1a, $"M{size}");
                    }
                }
            );
        }
        return table.Finish();
    }

    private static byte[] Bytes(string text) => Encoding.UTF8.GetBytes(text);
}
