using CsCheck;
using FreshBoot.Formats.Smbios;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Formats.Tests.Texts;

public class TextTests
{
    private const string Ini = "top = 1\r\n[a]\r\nkey =   old\r\n; key = not this\r\n\r\n[b]\r\nkey=2\r\n";

    [Fact]
    public void A_key_of_an_ini_file_is_found_in_its_section_and_set_in_the_files_own_manner()
    {
        var (lines, feed) = TextLines.Split(Ini);
        feed.ShouldBe("\r\n");
        var place = IniText.Find(lines, "a", "key");
        place.Line.ShouldBe(2);
        place.End.ShouldBe(4);
        IniText.ValueOf(lines[2]).ShouldBe("old");
        IniText.WithValue(lines[2], "new").ShouldBe("key =   new");
        IniText.Find(lines, "", "top").Line.ShouldBe(0);
        IniText.Find(lines, "c", "key").End.ShouldBeNull();
        IniText.Find([.. lines, "key = twice"], "b", "key").Twice.ShouldBe(lines.Count);
        TextLines.Join(lines, feed).ShouldBe(Ini);
    }

    [Fact]
    public void Xml_stays_as_it_is_where_nothing_is_set()
    {
        const string text =
            "<?xml version=\"1.0\"?>\n<!-- a note -->\n<plist><dict>\n  <key>A</key>\n  <true />\n</dict></plist>\n";
        var document = XmlDocuments.Read(text);
        XmlDocuments.Write(document, text).ShouldBe(text);
        PropertyList.Inside(PropertyList.Root(document)!, "A")!.Name.ShouldBe("true");
        PropertyList.Inside(PropertyList.Root(document)!, "B").ShouldBeNull();
        Should.Throw<FormatRefusedException>(() => XmlDocuments.Read("<a>")).Where.ShouldStartWith("line");
    }

    [Fact]
    public void A_document_that_unfolds_itself_is_refused() =>
        Should.Throw<FormatRefusedException>(() =>
            XmlDocuments.Read(
                "<!DOCTYPE a [<!ENTITY b \"0123456789\"><!ENTITY c \"&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;\"><!ENTITY d \"&c;&c;&c;&c;&c;&c;&c;&c;&c;&c;\"><!ENTITY e \"&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;\">]><a>&e;&e;&e;&e;&e;</a>"
            )
        );

    [Fact]
    public void Smbios_structures_come_back_as_they_were_written() =>
        Gen.Select(Gen.Byte[0, 126], Gen.String[Gen.Char['!', '~'], 0, 40].Array[0, 6])
            .Sample(
                (type, texts) =>
                {
                    var table = new SmbiosWriter();
                    table.Add(
                        type,
                        16,
                        s =>
                        {
                            for (var i = 0; i < texts.Length; i++)
                                s.Text(4 + i, texts[i]);
                        }
                    );
                    var read = SmbiosTable.Read(table.Finish());
                    read.Count.ShouldBe(2);
                    read[0].Type.ShouldBe(type);
                    for (var i = 0; i < texts.Length; i++)
                        read[0].Text(4 + i).ShouldBe(texts[i].Length == 0 ? null : texts[i]);
                },
                iter: 300
            );

    [Fact]
    public void Any_bytes_read_as_a_table_end_without_a_fault() =>
        Gen.Byte.Array[0, 400].Sample(bytes => SmbiosTable.Read(bytes), iter: 2000);
}
