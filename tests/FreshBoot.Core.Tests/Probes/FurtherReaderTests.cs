using System.Text;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Probes;

public class FurtherReaderTests
{
    private static Dossier Read(params (string File, string Content)[] files)
    {
        var report = new Report(Facts.Noon);
        foreach (var (file, content) in files)
            ProbeReader.Read(file, Encoding.UTF8.GetBytes(content), report);
        return Dossier.From(report.Readings.Select((r, i) => r with { Receipt = i }));
    }

    [Fact]
    public void Lshw_tells_machine_processor_memory_and_chips()
    {
        var facts = Read(("lshw.json", Samples.Lshw));

        facts.Word("identity.model").ShouldBe("Stile 14", "its order number is left off");
        facts.Word("identity.boardSerial").ShouldBe("BB-1");
        facts.Word("cpu.model").ShouldBe("Corvane C8-350");
        facts.Number("memory.visibleMiB").ShouldBe(8192);
        facts.Word("network.0.kind").ShouldBe("wired");
        facts.Word("network.1.model").ShouldBe("Airlath AL-43");
        facts.Word("network.1.kind").ShouldBe("wireless");
    }

    [Fact]
    public void A_printed_table_gives_the_facts_of_a_binary_one()
    {
        var facts = Read(("dmidecode.txt", Samples.Dmidecode));

        facts.Word("identity.maker").ShouldBe("Brackwater");
        facts.Word("firmware.tableNamesUefi").ShouldBe("yes");
        facts.Number("memory.installedMiB").ShouldBe(4096);
        facts.Number("memory.maxMiB").ShouldBe(16384);
        facts.Number("memory.slots").ShouldBe(2);
        facts.Word("memory.type").ShouldBe("DDR4 SO-DIMM");
        facts.Word("module.0.slot").ShouldBe("DIMM 0");
    }

    [Fact]
    public void A_dump_with_its_entry_point_is_read_and_a_damaged_one_is_refused()
    {
        var table = Samples.All["smbios.bin"];
        byte[] dump = [.. Samples.Entry(table.Length, 0x20), .. new byte[8], .. table];
        var report = new Report(Facts.Noon);
        ProbeReader.Read("smbios.bin", dump, report);
        report.Readings.ShouldContain(r => r.Key == "identity.model");

        dump[7] ^= 1;
        Should
            .Throw<RefusedException>(() => ProbeReader.Read("smbios.bin", dump, report))
            .Refusal.What.ShouldContain("checksum");
        byte[] away = [.. Samples.Entry(table.Length, 100_000_000), .. table];
        Should
            .Throw<RefusedException>(() => ProbeReader.Read("smbios.bin", away, report))
            .Refusal.What.ShouldContain("leads out of the file");
    }

    [Fact]
    public void A_drive_report_finds_its_drive_by_serial_whatever_the_kernel_calls_it()
    {
        const string Drives = """
            { "blockdevices": [ {"name":"nvme0n1","type":"disk","size":256060514304,"rota":false,"rm":false,"tran":"nvme","model":"A","serial":"S1"},
              {"name":"sda","type":"disk","size":500107862016,"rota":true,"rm":false,"tran":"sata","model":"B","serial":"S2"} ] }
            """;
        const string Report = """
            { "smartctl": {}, "device": { "name": "/dev/sdq" }, "serial_number": "S2", "smart_status": { "passed": true },
              "power_on_time": { "hours": 41000 },
              "ata_smart_attributes": { "table": [ { "id": 5, "value": 100, "raw": { "value": 3 } }, { "id": 197, "value": 100, "raw": { "value": 24 } } ] },
              "ata_smart_self_test_log": { "standard": { "table": [ { "status": { "value": 121 } } ] } } }
            """;
        var facts = Read(("lsblk.json", Drives), ("smart-sdq.json", Report));

        facts.Number("storage.1.pending").ShouldBe(24);
        facts.Number("storage.1.reallocated").ShouldBe(3);
        facts.Number("storage.1.hours").ShouldBe(41000);
        facts.Word("storage.1.selfTest").ShouldBe("failed");
        facts["storage.0.pending"].ShouldBeNull();
    }

    [Fact]
    public void Of_a_board_the_card_counts_and_of_a_laptop_it_does_not()
    {
        const string Card = """
            { "blockdevices": [ {"name":"mmcblk0","type":"disk","size":63864569856,"rota":false,"rm":false,"tran":null},
              {"name":"sda","type":"disk","size":240057409536,"rota":false,"rm":false,"tran":"usb"} ] }
            """;
        var board = Read(
            (
                "cpuinfo.txt",
                "processor\t: 0\nFeatures\t: fp asimd\n\nHardware\t: Thimble TQ\nModel\t\t: Thimble Board Q\n"
            ),
            ("mmc.txt", "mmcblk0 SD\n"),
            ("lsblk.json", Card)
        );
        board.Word("cpu.model").ShouldBe("Thimble TQ");
        board.Word("identity.model").ShouldBe("Thimble Board Q");
        board.Word("storage.0.bus").ShouldBe("sd");
        board.Word("storage.1.bus").ShouldBe("usb");

        var laptop = Read(
            ("cpuinfo.txt", "processor\t: 0\nflags\t\t: lm\n\n"),
            ("mmc.txt", "mmcblk0 SD\n"),
            ("lsblk.json", Card)
        );
        laptop["storage.0.sizeBytes"].ShouldBeNull("a card and a stick are no storage of a laptop");
    }

    [Theory]
    [InlineData("Can read DVD:\t\t1\nCan write DVD-R:\t0\nCan write CD-R:\t1", "dvd", "cd")]
    [InlineData("Can read DVD:\t\t0\nCan write DVD-R:\t0\nCan write CD-R:\t0", "cd", "none")]
    public void A_disc_drive_tells_what_it_reads(string answers, string reads, string writes)
    {
        var facts = Read(("cdrom.txt", $"CD-ROM information, Id: x\n\ndrive name:\t\tsr0\n{answers}\n"));

        facts.Word("optical.reads").ShouldBe(reads);
        facts.Word("optical.writes").ShouldBe(writes);
    }

    [Fact]
    public void No_disc_drive_is_a_fact_too() =>
        Read(("cdrom.txt", "CD-ROM information, Id: x\n\ndrive name:\t\n")).Word("optical.reads").ShouldBe("none");

    [Fact]
    public void A_battery_by_charge_and_voltage_is_one_by_energy()
    {
        var facts = Read(
            (
                "power.txt",
                "POWER_SUPPLY_NAME=BAT0\nPOWER_SUPPLY_TYPE=Battery\nPOWER_SUPPLY_VOLTAGE_MIN_DESIGN=11100000\nPOWER_SUPPLY_CHARGE_FULL_DESIGN=4000000\nPOWER_SUPPLY_CHARGE_FULL=3000000\nPOWER_SUPPLY_CYCLE_COUNT=0\n\nPOWER_SUPPLY_TYPE=Battery\nPOWER_SUPPLY_SCOPE=Device\nPOWER_SUPPLY_ENERGY_FULL=1000\n"
            )
        );

        facts.Number("battery.designMWh").ShouldBe(44400);
        facts.Number("battery.fullMWh").ShouldBe(33300);
        facts["battery.cycles"].ShouldBeNull("zero is what firmware says that does not count");
        Derivation.Complete(facts.Readings, Shipped.Catalogue).Number("battery.healthPercent").ShouldBe(75);
    }

    [Fact]
    public void A_screen_tells_its_native_size_and_age()
    {
        var report = new Report(Facts.Noon);
        var machine = Fleet.Machines.Single(m => m.Tag == "MR-0405");
        ProbeReader.Read("edid-x.bin", SimulatedProbe.Sources(machine)["edid-card0-eDP-1.bin"], report);
        var facts = Dossier.From(report.Readings);

        facts.Number("display.0.widthPixels").ShouldBe(1920);
        facts.Number("display.0.heightPixels").ShouldBe(1080);
        facts.Number("display.0.widthMm").ShouldBe(309);
        facts.Number("display.0.year").ShouldBe(2019);
    }

    [Fact]
    public void The_fastest_hub_and_the_names_tell_ports_camera_and_bluetooth()
    {
        var facts = Read(
            (
                "lsusb.txt",
                "Bus 001 Device 001: ID 1d6b:0002 2.0 root hub\nBus 002 Device 001: ID 1d6b:0003 3.0 root hub\nBus 001 Device 002: ID c0de:0300 Integrated camera\nBus 001 Device 003: ID c0de:0301 Airlath Bluetooth\n"
            )
        );

        facts.Word("usb.generation").ShouldBe("3.0");
        facts.Word("camera.0.model").ShouldBe("Integrated camera");
        facts.Word("bluetooth.0.model").ShouldBe("Airlath Bluetooth");
    }

    [Fact]
    public void Of_the_demo_fleet_every_machine_is_known_by_its_name_and_its_chips_by_the_catalogue()
    {
        foreach (var (tag, facts) in Fleet.Dossiers.Where(d => d.Tag != "MR-0415"))
        {
            facts.Word("identity.model").ShouldNotBeNull(tag);
            facts.Word("cpu.generation").ShouldNotBeNull(tag);
            for (var i = 0; i < 10; i++)
                if (facts.Word($"network.{i}.model") is { } name)
                    Shipped.Catalogue.Device("network", name).ShouldNotBeNull($"{tag}: {name}");
        }
        Fleet.Machines.Count.ShouldBe(26);
    }

    [Fact]
    public void Partitions_are_read_with_their_places_and_the_stub_of_an_extended_one_is_none()
    {
        var facts = Read(
            (
                "lsblk.json",
                """
                {"blockdevices": [{"name": "sda", "type": "disk", "size": 500107862016, "rota": true, "rm": false, "tran": "sata",
                  "children": [
                    {"name": "sda5", "type": "part", "start": 2103296, "size": 1073741824},
                    {"name": "sda1", "type": "part", "start": 2048, "size": 1073741824},
                    {"name": "sda2", "type": "part", "start": 2101248, "size": 1024},
                    {"name": "odd", "type": "part", "start": -4, "size": 9999999},
                    {"name": "crypt", "type": "crypt", "size": 1073741824}
                  ]}]}
                """
            )
        );
        facts.Word("storage.0.partitions").ShouldBe("1048576 1073741824; 1076887552 1073741824");
    }
}
