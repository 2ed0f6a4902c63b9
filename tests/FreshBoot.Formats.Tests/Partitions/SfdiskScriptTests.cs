using FreshBoot.Formats.Partitions;

namespace FreshBoot.Formats.Tests.Partitions;

public sealed class SfdiskScriptTests
{
    /// <summary>What lsblk prints of a drive with an MBR, shortened to the fields that count.</summary>
    private const string Devices = """
        {"blockdevices": [
          {"name": "zram0", "type": "disk", "size": 0, "pttype": null},
          {"name": "sda", "type": "disk", "size": 8589934592, "log-sec": 512, "pttype": "dos", "children": [
            {"name": "sda1", "type": "part", "start": 2048, "size": 536870912, "parttype": "0x83", "partlabel": null},
            {"name": "sda2", "type": "part", "start": 1050624, "size": 1024, "parttype": "0x5", "partlabel": null},
            {"name": "sda5", "type": "part", "start": 1052672, "size": 4294967296, "parttype": "0x83", "partlabel": null},
            {"name": "sda6", "type": "part", "start": 9443328, "size": 1073741824, "parttype": "0x82", "partlabel": null}
          ]}
        ]}
        """;

    [Fact]
    public void What_lsblk_prints_is_a_table_and_a_container_reaches_as_far_as_what_it_holds()
    {
        var table = SfdiskScript.Read(Devices);
        Assert.Equal(("dos", 512), (table.Label, table.SectorBytes));
        Assert.Equal(
            [
                (1, 2048L, 1048576L, "83"),
                (2, 1050624L, 10489856L, "05"),
                (5, 1052672L, 8388608L, "83"),
                (6, 9443328L, 2097152L, "82"),
            ],
            table.Partitions.Select(p => (p.Number, p.Start, p.Size, p.Type))
        );
    }

    [Fact]
    public void Sectors_of_4096_bytes_are_counted_as_such()
    {
        var table = SfdiskScript.Read(
            """
            {"blockdevices": [{"name": "nvme0n1", "type": "disk", "log-sec": 4096, "pttype": "gpt", "children": [
              {"name": "nvme0n1p1", "type": "part", "start": 2048, "size": 536870912,
               "parttype": "C12A7328-F81F-11D2-BA4B-00A0C93EC93B", "partlabel": "efi"}]}]}
            """
        );
        Assert.Equal(
            new SfdiskPartition(1, 256, 131072, "c12a7328-f81f-11d2-ba4b-00a0c93ec93b", "efi"),
            Assert.Single(table.Partitions)
        );
    }

    [Theory]
    [InlineData("{\"blockdevices\": []}")]
    [InlineData("{\"blockdevices\": 4}")]
    [InlineData("{\"blockdevices\": [{\"pttype\": \"gpt\", \"children\": [{\"type\": \"part\"}]}]}")]
    [InlineData(
        "{\"blockdevices\": [{\"pttype\": \"gpt\", \"children\": [{\"type\": \"part\", \"name\": \"a1\", \"parttype\": \"x\", \"start\": 9223372036854775807, \"size\": 1}]}]}"
    )]
    [InlineData("{\"blockdevices\": [{\"pttype\": \"sun\", \"children\": []}]}")]
    [InlineData("{}")]
    public void What_is_no_table_is_refused(string text) =>
        Assert.Throws<FormatRefusedException>(() => SfdiskScript.Read(text));
}
