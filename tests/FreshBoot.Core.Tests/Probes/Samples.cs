using System.Text;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Probes;

/// <summary>One good file of every source that is known here.</summary>
internal static class Samples
{
    public const string Lshw = """
        [ { "id" : "stile", "class" : "system", "product" : "Stile 14 (ST14-8)", "vendor" : "Brackwater", "serial" : "BW-14C8-1",
          "children" : [ { "id" : "core", "class" : "bus", "product" : "ST14-8", "serial" : "BB-1", "children" : [
            { "id" : "memory", "class" : "memory", "description" : "System Memory", "size" : 8589934592 },
            { "id" : "cpu", "class" : "processor", "product" : "Corvane C8-350" },
            { "id" : "pci", "class" : "bridge", "children" : [
              { "id" : "display", "class" : "display", "product" : "C8 graphics", "vendor" : "Corvane" },
              { "id" : "network:0", "class" : "network", "description" : "Ethernet interface", "product" : "NB-12", "vendor" : "Netherby" },
              { "id" : "network:1", "class" : "network", "description" : "Wireless interface", "product" : "AL-43", "vendor" : "Airlath" } ] } ] } ] } ]
        """;

    public const string Dmidecode = """
        # dmidecode 3.4
        Getting SMBIOS data from sysfs.
        SMBIOS 2.8 present.

        Handle 0x0000, DMI type 0, 24 bytes
        BIOS Information
        	Vendor: Brackwater Firmware
        	Version: 1.14
        	Characteristics:
        		UEFI is supported

        Handle 0x0100, DMI type 1, 27 bytes
        System Information
        	Manufacturer: Brackwater
        	Product Name: Stile 14
        	Serial Number: BW-14C8-1

        Handle 0x1000, DMI type 16, 23 bytes
        Physical Memory Array
        	Use: System Memory
        	Maximum Capacity: 16 GB
        	Number Of Devices: 2

        Handle 0x1100, DMI type 17, 40 bytes
        Memory Device
        	Array Handle: 0x1000
        	Size: 4 GB
        	Form Factor: SODIMM
        	Locator: DIMM 0
        	Type: DDR4

        Handle 0x1101, DMI type 17, 40 bytes
        Memory Device
        	Array Handle: 0x1000
        	Size: No Module Installed
        	Form Factor: SODIMM
        	Locator: DIMM 1
        	Type: Unknown

        """;

    public static IReadOnlyDictionary<string, byte[]> All { get; } = Make();

    private static Dictionary<string, byte[]> Make()
    {
        var fleet = Fleet.Machines;
        var files = new Dictionary<string, byte[]>(StringComparer.Ordinal);
        // A laptop with everything, a disk with a bad report, a board with a card.
        foreach (var machine in fleet.Where(m => m.Tag is "MR-0405" or "MR-0420" or "MR-0419" or "MR-0403"))
        foreach (var (name, content) in SimulatedProbe.Sources(machine))
            files.TryAdd(name, content);
        files["lshw.json"] = Encoding.UTF8.GetBytes(Lshw);
        files["dmidecode.txt"] = Encoding.UTF8.GetBytes(Dmidecode);
        files["block.txt"] = "sda 250069680 0 0 /sys/devices/ata1/block/sda Sill\n"u8.ToArray();
        files["ata.txt"] = "sda sata\n"u8.ToArray();
        files["pci.txt"] = "0000:00:01.0 0x030000 0x1234 0x1111\n"u8.ToArray();
        files["usb.txt"] = files["lsusb.txt"];
        files["net.txt"] = "eth0 00:1c:42:00:10:20\nwlan0 52:54:00:12:34:56\n"u8.ToArray();
        files["smbios-entry.bin"] = Entry(files["smbios.bin"].Length, 0x20);
        return files;
    }

    /// <summary>A 64-bit entry point (DSP0134, section 5.2.2) for a table of some bytes at an offset.</summary>
    public static byte[] Entry(int tableBytes, int offset)
    {
        var entry = new byte[0x18];
        "_SM3_"u8.CopyTo(entry);
        (entry[6], entry[7], entry[8]) = (0x18, 3, 0);
        BitConverter.TryWriteBytes(entry.AsSpan(0x0c), tableBytes);
        BitConverter.TryWriteBytes(entry.AsSpan(0x10), (long)offset);
        entry[5] = (byte)-entry.Sum(b => b);
        return entry;
    }
}
