using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Exchange;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Exchange;

public class MachineCsvTests
{
    private static readonly Dictionary<string, string> NoMap = new(StringComparer.Ordinal);

    private static CsvTable Read(string text, params (string Header, string Key)[] map) =>
        MachineCsv.Read(
            new StringReader(text),
            map.ToDictionary(m => m.Header, m => m.Key, StringComparer.Ordinal),
            new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "MR-0001" }
        );

    [Fact]
    public void Keys_labels_and_common_words_head_columns_and_units_are_understood()
    {
        var table = Read(
            "Tag,Manufacturer,Model,Serial number,memory.installedMiB,Drive size\nmr-0500,Brackwater,\"Stile 14, grey\",X1,8 GB,250G\n"
        );

        table.Faults.ShouldBeEmpty();
        var machine = table.Machines.ShouldHaveSingleItem();
        machine.Tag.ShouldBe("MR-0500");
        machine.Facts["identity.model"].ShouldBe(FactValue.Of("Stile 14, grey"));
        machine.Facts["memory.installedMiB"].ShouldBe(FactValue.Of(8192));
        machine.Facts["storage.0.sizeBytes"].ShouldBe(FactValue.Of(250_000_000_000));
    }

    [Fact]
    public void Semicolons_and_a_byte_order_mark_are_no_trouble() =>
        Read("\ufefftag;maker\nMR-0500;Brackwater\n").Faults.ShouldBeEmpty();

    [Theory]
    [InlineData("tag,colour\nMR-0500,grey\n", 1, "colour", "Nobody knows")]
    [InlineData("maker\nBrackwater\n", 1, "tag", "no column with the asset tags")]
    [InlineData("tag,maker,manufacturer\nMR-0500,A,B\n", 1, "manufacturer", "Two columns")]
    [InlineData("tag,memory\nMR-0500,8 kg\n", 2, "memory", "not an amount of bytes")]
    [InlineData("tag,memory\nMR-0500,900 TB\n", 2, "memory", "out of range")]
    [InlineData("tag,parts.battery\nMR-0500,bulging\n", 2, "parts.battery", "no value")]
    [InlineData("tag,maker\nMR-0500,A,B\n", 2, "", "3 cells where the header has 2")]
    [InlineData("tag\n?!\n", 2, "tag", "no asset tag")]
    [InlineData("tag\nMR-0500\nMR-0501\nmr-0500\n", 4, "tag", "line 2 already")]
    [InlineData("tag\nMR-0001\n", 2, "tag", "in use")]
    [InlineData("tag,maker\nMR-0500,\"never closed\n", 2, "", "cannot be read")]
    [InlineData("", 1, "", "empty")]
    public void A_fault_says_line_column_and_what_would_be_right(string text, int line, string column, string what)
    {
        var fault = Read(text).Faults[0];

        fault.Line.ShouldBe(line);
        fault.Column.ShouldBe(column);
        fault.What.ShouldContain(what);
        fault.Wanted.ShouldNotBeEmpty();
    }

    [Fact]
    public void A_column_can_be_mapped_or_left_out()
    {
        var table = Read(
            "tag,Hersteller,colour\nMR-0500,Brackwater,grey\n",
            ("Hersteller", "identity.maker"),
            ("colour", "")
        );

        table.Faults.ShouldBeEmpty();
        table.Machines[0].Facts.Keys.ShouldBe(["identity.maker"]);
    }

    [Theory]
    [InlineData("=1+1")]
    [InlineData("+cmd")]
    [InlineData("-2")]
    [InlineData("@sum")]
    public void What_a_spreadsheet_would_run_is_written_as_text_and_read_back_as_it_was(string cell)
    {
        var dossier = Dossier.From([Facts.Reading("identity.model", cell)]);
        using var text = new StringWriter();
        MachineCsv.Write(text, [("MR-0500", dossier)]);

        text.ToString().ShouldContain($"'{cell}");
        Read(text.ToString()).Machines[0].Facts["identity.model"].ShouldBe(FactValue.Of(cell));
    }

    [Fact]
    public void What_is_written_reads_back() =>
        Gen.Select(
                Gen.Char[' ', '~'].Array[1, 30].Select(c => new string(c).Trim()).Where(t => t.Length > 0),
                Gen.Long[1, 1 << 20],
                Pick.From("none", "sound", "swollen")
            )
            .Sample(
                (model, memory, battery) =>
                {
                    var dossier = Dossier.From([
                        Facts.Reading("identity.model", model),
                        Facts.Reading("memory.installedMiB", memory),
                        Facts.Reading("parts.battery", battery),
                    ]);
                    using var text = new StringWriter();
                    MachineCsv.Write(text, [("MR-0500", dossier)]);
                    var table = Read(text.ToString());

                    table.Faults.ShouldBeEmpty();
                    table.Machines[0].Facts["identity.model"].ShouldBe(FactValue.Of(model));
                    table.Machines[0].Facts["memory.installedMiB"].ShouldBe(FactValue.Of(memory));
                    table.Machines[0].Facts["parts.battery"].ShouldBe(FactValue.Of(battery));
                }
            );

    [Fact]
    public void The_whole_fleet_goes_out_and_in_again()
    {
        using var text = new StringWriter();
        MachineCsv.Write(text, Fleet.Dossiers);
        var table = MachineCsv.Read(new StringReader(text.ToString()), NoMap, new HashSet<string>());

        table.Faults.ShouldBeEmpty();
        foreach (var (machine, (tag, dossier)) in table.Machines.Zip(Fleet.Dossiers))
        {
            machine.Tag.ShouldBe(tag);
            foreach (var fact in dossier.Facts.Where(f => f.Origin != Origin.Derived))
                machine.Facts[fact.Key].ShouldBe(fact.Value, $"{tag} {fact.Key}");
        }
    }

    [Fact]
    public void No_text_brings_it_down() =>
        Gen.String.Sample(text =>
        {
            var table = Read("tag,maker\n" + text);
            table.Faults.ShouldAllBe(f => f.Line >= 1 && f.What.Length > 0);
        });
}
