using System.Diagnostics;
using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Formats.Tests.Texts;

public class PropertyListTests
{
    private static readonly Gen<string> Text = Pick.From([.. "aé<>&\"'\r\n\t 漢-"])
        .Array[0, 8]
        .Select(c => new string(c));

    private static readonly Gen<object> Value = Gen.Recursive<object>(
        (depth, self) =>
            depth > 3
                ? Text.Select(t => (object)t)
                : Gen.OneOf(
                    Text.Select(t => (object)t),
                    Gen.Long.Select(n => (object)n),
                    Gen.Bool.Select(b => (object)b),
                    self.Array[0, 3].Select(a => (object)a.ToList()),
                    Gen.Select(Text, self)
                        .Array[0, 3]
                        .Select(p =>
                            (object)
                                p.DistinctBy(m => m.Item1)
                                    .ToDictionary(m => m.Item1, m => m.Item2, StringComparer.Ordinal)
                        )
                )
    );

    [Fact]
    public void An_independent_reader_reads_what_is_written()
    {
        // One start of the other program for many lists: it takes most of the time.
        var all = Value.Array[60].Single();
        var folder = Directory.CreateTempSubdirectory("fresh-boot-plist-").FullName;
        try
        {
            for (var i = 0; i < all.Length; i++)
                File.WriteAllText(Path.Combine(folder, $"{i}.plist"), PropertyList.Write(all[i]));
            using var python = Process.Start(
                new ProcessStartInfo(
                    "python3",
                    [
                        "-c",
                        "import json,plistlib,sys;print(json.dumps([plistlib.load(open(f'{sys.argv[1]}/{i}.plist','rb')) for i in range(int(sys.argv[2]))]))",
                        folder,
                        $"{all.Length}",
                    ]
                )
                {
                    RedirectStandardOutput = true,
                    UseShellExecute = false,
                }
            )!;
            var read = JsonNode.Parse(python.StandardOutput.ReadToEnd())!;
            python.WaitForExit();
            JsonNode.DeepEquals(read, JsonSerializer.SerializeToNode(all)).ShouldBeTrue(read.ToJsonString());
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    public void What_was_read_and_not_changed_is_the_same_to_the_byte() =>
        Value.Sample(value =>
        {
            var text = PropertyList.Write(value).Replace("<plist", "<!-- kept -->\n<plist", StringComparison.Ordinal);
            XmlDocuments.Write(XmlDocuments.Read(text), text).ShouldBe(text);
        });

    [Fact]
    public void A_sign_that_xml_does_not_have_is_refused() =>
        Should.Throw<System.Xml.XmlException>(() => PropertyList.Write("a\u0001b"));
}
