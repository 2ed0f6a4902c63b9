using System.Text;
using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Probes;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Tests.Probes;

public class SmbiosTests
{
    private static Dossier Read(byte[] table)
    {
        var report = new Report(Facts.Noon);
        ProbeReader.Read("smbios.bin", table, report);
        return Dossier.From(report.Readings);
    }

    private static byte[] Memory(uint limitKiB, ulong limitBytes, params (ushort Size, uint Extended)[] modules)
    {
        var table = new SmbiosWriter();
        var array = table.Add(
            16,
            0x17,
            s =>
            {
                s.Byte(0x05, 3);
                s.DoubleWord(0x07, limitKiB);
                s.QuadWord(0x0f, limitBytes);
            }
        );
        var flash = table.Add(16, 0x17, s => s.Byte(0x05, 5));
        foreach (var (size, extended) in modules)
            table.Add(
                17,
                0x28,
                s =>
                {
                    s.Word(0x04, array);
                    s.Word(0x0c, size);
                    s.Byte(0x0e, 0x09);
                    s.Byte(0x12, 0x1a);
                    s.DoubleWord(0x1c, extended);
                }
            );
        table.Add(
            17,
            0x28,
            s =>
            {
                s.Word(0x04, flash);
                s.Word(0x0c, 16);
            }
        );
        return table.Finish();
    }

    [Fact]
    public void Sizes_are_in_mebibytes_kibibytes_or_in_the_extended_field()
    {
        Read(Memory(33554432, 0, (4096, 0), (0, 0))).Number("memory.installedMiB").ShouldBe(4096);
        Read(Memory(33554432, 0, (0x8000 | 512, 0), (0x8000 | 512, 0))).Number("memory.installedMiB").ShouldBe(1);
        Read(Memory(33554432, 0, (0x7fff, 65536))).Number("memory.installedMiB").ShouldBe(65536);
    }

    [Fact]
    public void The_maximum_may_stand_in_the_extended_field()
    {
        Read(Memory(16777216, 0, (4096, 0))).Number("memory.maxMiB").ShouldBe(16384);
        Read(Memory(0x8000_0000, 4UL << 40, (4096, 0))).Number("memory.maxMiB").ShouldBe(4 << 20);
    }

    [Fact]
    public void Flash_arrays_are_no_memory_and_empty_sockets_count_as_slots()
    {
        var dossier = Read(Memory(33554432, 0, (4096, 0), (0, 0), (0, 0)));

        dossier.Number("memory.slots").ShouldBe(3);
        dossier.Number("memory.slotsUsed").ShouldBe(1);
        dossier.Word("memory.type").ShouldBe("DDR4 DIMM");
    }

    [Fact]
    public void A_size_that_the_firmware_does_not_know_leaves_the_sum_unknown() =>
        Read(Memory(33554432, 0, (0xffff, 0), (4096, 0)))["memory.installedMiB"].ShouldBeNull();

    [Fact]
    public void A_table_that_is_cut_off_gives_what_stands_before_the_cut()
    {
        var table = new SmbiosWriter();
        table.Add(
            1,
            0x1b,
            s =>
            {
                s.Text(0x04, "Brackwater");
                s.Text(0x05, "Stile 14");
            }
        );
        table.Add(2, 0x0f, s => s.Text(0x05, "ST14-8"));
        var bytes = table.Finish();
        var report = new Report(Facts.Noon);

        ProbeReader.Read("smbios.bin", bytes[..(bytes.Length - 12)], report);

        Dossier.From(report.Readings).Word("identity.model").ShouldBe("Stile 14");
        report.Warnings.ShouldContain(w => w.Contains("offset"));
    }

    [Fact]
    public void What_is_written_is_read_back() =>
        Gen.Select(Gen.Byte[0, 126], Gen.Byte[4, 60], Gen.String[Gen.Char['!', '~'], 0, 20].Array[0, 5])
            .Array[1, 8]
            .Sample(structures =>
            {
                var writer = new SmbiosWriter();
                foreach (var (type, length, texts) in structures)
                    writer.Add(
                        type,
                        length,
                        s =>
                        {
                            foreach (var text in texts.Take(length - 4))
                                s.Text(4 + Array.IndexOf(texts, text), text);
                        }
                    );
                var read = SmbiosTable.Read(writer.Finish());

                read.Count.ShouldBe(structures.Length + 1);
                read[^1].Type.ShouldBe((byte)127);
                for (var i = 0; i < structures.Length; i++)
                {
                    read[i].Type.ShouldBe(structures[i].Item1);
                    read[i].Data.Length.ShouldBe(structures[i].Item2);
                    read[i]
                        .Strings.ShouldBe(structures[i].Item3.Take(structures[i].Item2 - 4).Where(t => t.Length > 0));
                }
            });

    [Fact]
    public void Any_bytes_are_read_to_an_end() =>
        Gen.Byte.Array[0, 400].Sample(bytes => SmbiosTable.Read(bytes).Sum(s => s.Data.Length) <= bytes.Length);

    [Fact]
    public void Strings_are_latin_1_as_firmware_writes_them()
    {
        byte[] table = [1, 8, 0, 1, 1, 0, 0, 0, .. Encoding.Latin1.GetBytes("Mühle"), 0, 0, 127, 4, 1, 1, 0, 0];

        Read(table).Word("identity.maker").ShouldBe("Mühle");
    }
}
