using System.IO.Compression;
using System.Text;
using FreshBoot.Core.BootKits;
using FreshBoot.Core.Identity;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.Tests.BootKits;

public class KitCheckTests
{
    private static SortedDictionary<string, byte[]> Clean()
    {
        var facts = Facts.Of(
            ("identity.maker", "Brackwater"),
            ("identity.board", "ST15-7"),
            ("identity.chassis", "laptop"),
            ("cpu.generation", "C7"),
            ("firmware.kind", "uefi64"),
            ("graphics.0.model", "Corvane C7 graphics"),
            ("graphics.0.class", 2),
            ("network.0.model", "Netherby NB-12"),
            ("audio.0.model", "Chorale CH-7")
        );
        var donor = Shipped.Catalogue.Donors.Single(d => d.Id == "SO-07A");
        return KitFiles.Of(
            KitBuilder.Build(facts, Shipped.Catalogue.System("canzona-6")!, Shipped.Catalogue),
            facts,
            IdentityProfile.Fresh(donor, IdentityLevel.Full, [11, 22, 33, 44, 55, 66, 77, 89, .. new byte[16]])
        );
    }

    private static string Config(SortedDictionary<string, byte[]> files) =>
        Encoding.UTF8.GetString(files[KitFiles.Config]);

    private static void Set(SortedDictionary<string, byte[]> files, string from, string to)
    {
        var text = Config(files);
        text.ShouldContain(from);
        files[KitFiles.Config] = Encoding.UTF8.GetBytes(text.Replace(from, to, StringComparison.Ordinal));
        KitFiles.Sign(files);
    }

    /// <summary>An entry of the list of what is loaded, as it stands in the text.</summary>
    private static string Entry(SortedDictionary<string, byte[]> files, string component)
    {
        var text = Config(files);
        var at = text.IndexOf($"<string>{component}</string>", StringComparison.Ordinal);
        var begin = text.LastIndexOf("\t\t<dict>", at, StringComparison.Ordinal);
        var end = text.IndexOf("</dict>\n", at, StringComparison.Ordinal) + "</dict>\n".Length;
        return text[begin..end];
    }

    private static void Remove(SortedDictionary<string, byte[]> files, string path)
    {
        files.Remove(path).ShouldBeTrue();
        KitFiles.Sign(files);
    }

    [Fact]
    public void A_clean_kit_has_no_finding_and_comes_back_from_its_archive_to_the_byte()
    {
        var files = Clean();
        KitCheck.Of(files, Shipped.Catalogue).ShouldBeEmpty();

        var packed = KitFiles.Pack(files);
        packed.ShouldBe(KitFiles.Pack(Clean()));
        var again = KitFiles.Unpack(new MemoryStream(packed));
        again.Keys.ShouldBe(files.Keys);
        foreach (var (path, content) in files)
            again[path].ShouldBe(content);
    }

    public static TheoryData<string, bool> Faults() =>
        new()
        {
            { "listed and not there", true },
            { "listed and not there: nobody knows it", false },
            { "there and not listed", false },
            { "listed twice", true },
            { "wrong order", true },
            { "needed and absent", true },
            { "exclude each other", false },
            { "wrong generation", true },
            { "wrong table", true },
            { "quirk is missing", true },
            { "quirk must not be", true },
            { "sample left", true },
            { "placeholder serial", false },
            { "mistyped serial", false },
            { "old version", true },
            { "build too early", false },
            { "tool too old", false },
            { "empty file", false },
            { "unknown component", false },
            { "leads out", false },
            { "part missing", false },
            { "another format", true },
            { "no system", false },
            { "menu of an hour", false },
            { "changed since", false },
            { "no configuration", false },
            { "no property list", false },
        };

    [Theory]
    [MemberData(nameof(Faults))]
    public void Each_planted_fault_is_found_where_it_is_and_mended_where_that_is_certain(string fault, bool certain)
    {
        var files = Clean();
        var (key, says) = Plant(files, fault);
        var findings = KitCheck.Of(files, Shipped.Catalogue);

        var found = findings.FirstOrDefault(f => f.Text.Contains(says, StringComparison.Ordinal));
        found.ShouldNotBeNull(string.Join('\n', findings.Select(f => f.Text)));
        (found.Key ?? found.File).ShouldStartWith(key);
        (found.Repair is not null).ShouldBe(certain);
        if (!certain)
            return;
        var mended = KitCheck.Repaired(files, Shipped.Catalogue, null);
        KitCheck.Of(mended, Shipped.Catalogue).ShouldNotContain(f => f.Text == found.Text);
        KitCheck.Of(mended, Shipped.Catalogue).Where(f => f.Repair is not null).ShouldBeEmpty();
    }

    private static (string Key, string Says) Plant(SortedDictionary<string, byte[]> files, string fault)
    {
        switch (fault)
        {
            case "listed and not there":
                Remove(files, "kit/shims/underlay.kit");
                return ("load/3", "listed and not there");
            case "listed and not there: nobody knows it":
                Set(files, "<string>shims/underlay.kit</string>", "<string>shims/other.kit</string>");
                return ("load/3", "shims/other.kit is listed and not there");
            case "there and not listed":
                files["kit/shims/more.kit"] = [1];
                KitFiles.Sign(files);
                return ("kit/shims/more.kit", "nothing loads it");
            case "listed twice":
                var twice = Entry(files, "choir");
                Set(files, twice, twice + twice);
                return ("load/7", "listed twice");
            case "wrong order":
                var first = Entry(files, "underlay");
                Set(files, first, "");
                Set(files, Entry(files, "choir"), Entry(files, "choir") + first);
                return ("load/", "loads before Underlay base shim, which it needs");
            case "needed and absent":
                Set(files, Entry(files, "millpond"), "");
                Remove(files, "kit/drivers/millpond.kit");
                return ("load/2", "needs Millpond runtime driver");
            case "exclude each other":
                var lumenar = Shipped.Catalogue.Components.Single(c => c.Id == "glaze-lumenar");
                var glaze = Entry(files, "glaze-corvane");
                files["kit/" + lumenar.File] = KitFiles.ContentOf(lumenar);
                Set(
                    files,
                    glaze,
                    glaze
                        + glaze
                            .Replace("glaze-corvane", lumenar.Id, StringComparison.Ordinal)
                            .Replace("shims/glaze.kit", lumenar.File, StringComparison.Ordinal)
                );
                return ("load/6", "exclude each other");
            case "wrong generation":
                Set(files, "<string>C7</string>", "<string>C9</string>");
                return ("load/9", "the machine has a C9");
            case "wrong table":
                Set(files, "<string>mobile</string>", "<string>desktop</string>");
                return ("load/9", "takes the desktop one");
            case "quirk is missing":
                Set(files, "\t\t<key>keepMap</key>\n\t\t<true/>\n", "");
                return ("quirks/keepMap", "needs it");
            case "quirk must not be":
                Set(files, "<key>keepMap</key>", "<key>deepReset</key>\n\t\t<true/>\n\t\t<key>keepMap</key>");
                return ("quirks/deepReset", "must not have it");
            case "sample left":
                files["kit/shims/sample-underlay.txt"] = [65];
                KitFiles.Sign(files);
                return ("kit/shims/sample-underlay.txt", "A sample");
            case "placeholder serial":
                Set(files, Serial(files), "FILL-ME-IN");
                return ("identity/serial", "placeholder");
            case "mistyped serial":
                var serial = Serial(files);
                Set(files, serial, serial[..^2] + serial[^1] + serial[^2]);
                return ("identity/serial", "check character");
            case "old version":
                Set(files, "<string>1.6.7</string>", "<string>1.6.2</string>");
                return ("load/5", "version 1.6.7 is proved");
            case "build too early":
                Set(files, "<integer>2612</integer>", "<integer>2100</integer>");
                return ("load/3", "fits builds from 2200");
            case "tool too old":
                Set(files, "<key>tool</key>\n\t<string>1.6</string>", "<key>tool</key>\n\t<string>1.4</string>");
                return ("tool", "wants a tool of version 1.6");
            case "empty file":
                files["kit/shims/choir.kit"] = [];
                KitFiles.Sign(files);
                return ("kit/shims/choir.kit", "The file is empty");
            case "unknown component":
                Set(files, "<string>choir</string>", "<string>chorus</string>");
                Set(files, "<string>shims/choir.kit</string>", "<string>shims/chorus.kit</string>");
                return ("load/6", "no component of the catalogue");
            case "leads out":
                Set(files, "<string>shims/choir.kit</string>", "<string>../choir.kit</string>");
                return ("load/6", "names no file within the kit");
            case "part missing":
                Set(files, Entry(files, "fingertip"), "");
                Remove(files, "kit/shims/fingertip.kit");
                return ("load", "asks for a part of the kind “input”");
            case "another format":
                Set(files, KitFiles.Format, "some-kit 2");
                return ("format", "The format is");
            case "no system":
                Set(files, "<string>canzona-6</string>", "<string>wickerwork-26</string>");
                return ("system", "takes a kit");
            case "menu of an hour":
                Set(files, "<integer>5</integer>\n\t</dict>\n</dict>", "<integer>3600</integer>\n\t</dict>\n</dict>");
                return ("menu/seconds", "no time for a menu");
            case "changed since":
                files["kit/shims/choir.kit"] = [1, 2, 3];
                return ("kit/shims/choir.kit", "not the one of the manifest");
            case "no configuration":
                files.Remove(KitFiles.Config);
                return (KitFiles.Config, "There is no configuration");
            default:
                files[KitFiles.Config] = "<plist><array/></plist>"u8.ToArray();
                return (KitFiles.Config, "no property list with a dictionary");
        }
    }

    private static string Serial(SortedDictionary<string, byte[]> files)
    {
        var root = PropertyList.Root(XmlDocuments.Read(Config(files)))!;
        return PropertyList.Inside(PropertyList.Inside(root, "identity")!, "serial")!.InnerText;
    }

    [Fact]
    public void A_repair_keeps_keys_that_nobody_knows_their_order_and_comments()
    {
        var files = Clean();
        Set(
            files,
            "<key>build</key>",
            "<!-- tried on a Tuesday -->\n\t<key>mine</key>\n\t<string>a &amp; b</string>\n\t<key>build</key>"
        );
        Set(files, "<string>1.6.7</string>", "<string>1.6.2</string>");
        var before = Config(files);

        var after = Config(KitCheck.Repaired(files, Shipped.Catalogue, null));

        after.ShouldBe(before.Replace("<string>1.6.2</string>", "<string>1.6.7</string>", StringComparison.Ordinal));
    }

    [Fact]
    public void One_finding_is_mended_alone_and_one_without_a_certain_repair_is_refused()
    {
        var files = Clean();
        Set(files, "\t\t<key>keepMap</key>\n\t\t<true/>\n", "");
        Set(files, "<string>1.6.7</string>", "<string>1.6.2</string>");
        var findings = KitCheck.Of(files, Shipped.Catalogue).ToList();
        var quirk = findings.FindIndex(f => f.Key == "quirks/keepMap");

        KitCheck
            .Of(KitCheck.Repaired(files, Shipped.Catalogue, [quirk]), Shipped.Catalogue)
            .ShouldHaveSingleItem()
            .Text.ShouldContain("1.6.7");
        Should.Throw<RefusedException>(() => KitCheck.Repaired(files, Shipped.Catalogue, [findings.Count]));
    }

    [Theory]
    [InlineData("../out.txt")]
    [InlineData("/etc/out.txt")]
    [InlineData("kit\\..\\out.txt")]
    [InlineData("kit/./out.txt")]
    [InlineData("kit//out.txt")]
    [InlineData("c:out.txt")]
    [InlineData("kit/a\u0001b")]
    public void An_archive_whose_paths_lead_out_of_it_is_refused(string path) =>
        Should.Throw<RefusedException>(() => KitFiles.Unpack(Zip((path, [1], 0)))).Message.ShouldContain("no path");

    [Fact]
    public void Links_bombs_twice_named_and_countless_entries_and_no_archives_are_refused()
    {
        Should
            .Throw<RefusedException>(() => KitFiles.Unpack(Zip(("kit/link", [1], 0xa1ff << 16))))
            .Message.ShouldContain("link");
        Should
            .Throw<RefusedException>(() => KitFiles.Unpack(Zip(("kit/a", [1], 0), ("kit/a", [2], 0))))
            .Message.ShouldContain("twice");
        Should
            .Throw<RefusedException>(() => KitFiles.Unpack(Zip(("kit/bomb", new byte[40 << 20], 0))))
            .Message.ShouldContain("unfolds to more");
        Should
            .Throw<RefusedException>(() =>
                KitFiles.Unpack(Zip([.. Enumerable.Range(0, 6).Select(i => ($"kit/b{i}", new byte[15 << 20], 0))]))
            )
            .Message.ShouldContain("unfolds to more");
        Should
            .Throw<RefusedException>(() =>
                KitFiles.Unpack(Zip([.. Enumerable.Range(0, 100_000).Select(i => ($"k/{i}", Array.Empty<byte>(), 0))]))
            )
            .Message.ShouldContain("100000 entries");
        Should.Throw<RefusedException>(() => KitFiles.Unpack(new MemoryStream([1, 2, 3])));
    }

    private static MemoryStream Zip(params (string Path, byte[] Content, int Attributes)[] entries)
    {
        var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (path, content, attributes) in entries)
            {
                var entry = zip.CreateEntry(path, CompressionLevel.Fastest);
                entry.ExternalAttributes = attributes;
                using var into = entry.Open();
                into.Write(content);
            }
        bytes.Position = 0;
        return bytes;
    }
}
