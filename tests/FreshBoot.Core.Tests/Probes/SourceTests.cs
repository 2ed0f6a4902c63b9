using System.Text;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Probes;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Core.Tests.Probes;

public class SourceTests
{
    private static Dossier Read(string file, string content) => Read(file, Encoding.UTF8.GetBytes(content));

    private static Dossier Read(string file, byte[] content)
    {
        var report = new Report(Facts.Noon);
        ProbeReader.Read(file, content, report);
        return Dossier.From(report.Readings);
    }

    [Fact]
    public void Lscpu_prints_a_tree_or_a_flat_list()
    {
        const string Tree = """
            { "lscpu": [ { "field": "Architecture:", "data": "aarch64", "children": [ { "field": "Byte Order:", "data": "Little Endian" } ] },
              { "field": "Vendor ID:", "data": "Thimble", "children": [ { "field": "Model name:", "data": "Thimble TQ", "children": [
                { "field": "Core(s) per socket:", "data": "4" }, { "field": "Socket(s):", "data": "1" }, { "field": "Flags:", "data": "fp asimd" } ] } ] },
              { "field": "CPU(s):", "data": "4" } ] }
            """;
        var arm = Read("lscpu.json", Tree);

        arm.Word("cpu.arch").ShouldBe("arm");
        arm.Word("cpu.model").ShouldBe("Thimble TQ");
        arm.Number("cpu.cores").ShouldBe(4);
        Derivation.Complete(arm.Readings, Shipped.Catalogue)["cpu.level"].ShouldBeNull("levels are of x86-64 only");
    }

    [Fact]
    public void Older_lsblk_prints_strings_for_numbers_and_truth()
    {
        const string Old = """
            { "blockdevices": [ {"name":"sda","type":"disk","size":"500107862016","rota":"1","rm":"0","tran":"sata","model":"Weir D500"},
              {"name":"sdb","type":"disk","size":"15728640000","rota":"0","rm":"1","tran":"usb","model":"Stick"},
              {"name":"sr0","type":"rom","size":"1073741312","rota":"1","rm":"1","tran":"sata","model":"Reader"},
              {"name":"mmcblk0","type":"disk","size":"62537072640","rota":"0","rm":"0","tran":null,"model":null},
              {"name":"mmcblk0boot0","type":"disk","size":"4194304","rota":"0","rm":"0","tran":null,"model":null} ] }
            """;
        var dossier = Read("lsblk.json", Old);

        dossier.Word("storage.0.bus").ShouldBe("emmc");
        dossier.Number("storage.1.sizeBytes").ShouldBe(500107862016);
        dossier.Word("storage.1.kind").ShouldBe("disk");
        dossier["storage.2.sizeBytes"].ShouldBeNull();
    }

    [Theory]
    [InlineData(new byte[] { 6, 0, 0, 0, 1 }, "on")]
    [InlineData(new byte[] { 6, 0, 0, 0, 0 }, "able")]
    public void The_secure_boot_variable_has_four_bytes_of_attributes_and_one_of_value(byte[] variable, string state) =>
        Read("secure-boot.bin", variable).Word("firmware.secureBoot").ShouldBe(state);

    [Theory]
    [InlineData("lscpu.json", "{ \"lscpu\": [ { \"field\": ")]
    [InlineData("lsblk.json", "{ \"blockdevices\": ")]
    [InlineData("lsblk.json", "[]")]
    [InlineData("meminfo.txt", "MemFree: 12 kB\n")]
    [InlineData("efi.txt", "perhaps\n")]
    [InlineData("tpm.txt", "version 7\n")]
    [InlineData("secure-boot.bin", "abc")]
    [InlineData("smbios.bin", "abc")]
    [InlineData("cpuinfo.txt", "no such thing")]
    [InlineData("lspci.txt", "00:00.0 Host bridge")]
    [InlineData("notes.txt", "hello")]
    [InlineData("meminfo.txt", "")]
    public void A_file_that_cannot_be_read_is_refused_with_the_place(string name, string content)
    {
        var refusal = Should.Throw<RefusedException>(() => Read(name, content)).Refusal;

        refusal.Kind.ShouldBe(RefusalKind.Unreadable);
        refusal.Where.ShouldStartWith(name);
        refusal.Wanted.ShouldNotBeEmpty();
    }

    [Fact]
    public void Single_files_are_known_by_their_content_whatever_their_name()
    {
        var sources = SimulatedProbe.Sources(
            new SimulatedMachine
            {
                Tag = "A",
                Maker = "Brackwater",
                Model = "Stile",
                Cpu = "Corvane C8-1",
                Level = "v3",
                Slots = [new(2048)],
                MaxMemoryMiB = 4096,
            }
        );
        foreach (
            var name in new[] { "cpuinfo.txt", "lscpu.json", "meminfo.txt", "lsblk.json", "smbios.bin", "lspci.txt" }
        )
            Sources.Recognise("anything", sources[name])!.File.ShouldBe(name);
    }
}
