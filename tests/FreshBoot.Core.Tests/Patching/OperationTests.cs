using System.Globalization;
using System.Text;
using System.Text.Json.Serialization;
using FreshBoot.Core.Patching;

namespace FreshBoot.Core.Tests.Patching;

/// <summary>Every operation: what it does, what it says when its precondition fails, and that a second time changes nothing.</summary>
public class OperationTests
{
    private const string Ini = "; head\n[display]\nscale = auto\n\n[updates]\nduring-setup=yes\n";
    private const string Xml =
        "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<!-- kept -->\n<steps>\n  <step id=\"a\" shown=\"yes\" />\n  <step id=\"b\" shown=\"yes\">text</step>\n</steps>\n";
    private const string List =
        "<?xml version=\"1.0\"?>\n<!DOCTYPE plist PUBLIC \"x\" \"http://example.invalid/x.dtd\">\n<plist version=\"1.0\">\n<dict>\n  <key>Check</key>\n  <true/>\n  <key>In</key>\n  <dict>\n    <key>Least</key>\n    <integer>3</integer>\n  </dict>\n</dict>\n</plist>\n";
    private static readonly byte[] Raw = [1, 2, 3, 4, 5, 6, 7, 8];

    private static Dictionary<string, byte[]> Files() =>
        new(StringComparer.Ordinal)
        {
            ["a.txt"] = "one\ntwo\nthree\ntwo\n"u8.ToArray(),
            ["dos.txt"] = "one\r\ntwo\r\n"u8.ToArray(),
            ["a.ini"] = Encoding.UTF8.GetBytes(Ini),
            ["a.json"] = "{\"list\": [1, 2], \"deep\": {\"x\": true}}\n"u8.ToArray(),
            ["a.xml"] = Encoding.UTF8.GetBytes(Xml),
            ["a.plist"] = Encoding.UTF8.GetBytes(List),
            ["a.bin"] = Raw,
            ["boot.cfg"] = "menuentry x\n  linux /vmlinuz quiet\n  initrd /initrd\n"u8.ToArray(),
        };

    private static Recipe Recipe(string operation) =>
        RecipeReader.Read(
            $$"""{"id":"test","name":"Test","for":{"system":"tessaly-6-r1","builds":[],"files":[]},"operations":[{{operation}}]}"""
        );

    private static string Hash(byte[] bytes) =>
        Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes));

    /// <summary>Operation, the file it changes, and a line that is there afterwards (or gone, with a minus before it).</summary>
    public static TheoryData<string, string, string> Operations =>
        new()
        {
            { """{"op":"replaceText","path":"a.txt","find":"two","with":"2","count":2}""", "a.txt", "2" },
            { """{"op":"insertLines","path":"a.txt","after":"one","lines":["and","more"]}""", "a.txt", "more" },
            { """{"op":"insertLines","path":"dos.txt","before":"two","lines":["more"]}""", "dos.txt", "more\r" },
            { """{"op":"removeLines","path":"a.txt","lines":["two","three"]}""", "a.txt", "-three" },
            {
                """{"op":"setIni","path":"a.ini","section":"updates","key":"during-setup","old":"yes","value":"no"}""",
                "a.ini",
                "during-setup=no"
            },
            {
                """{"op":"setIni","path":"a.ini","section":"display","key":"theme","value":"dark"}""",
                "a.ini",
                "theme = dark"
            },
            {
                """{"op":"patchJson","path":"a.json","patch":[{"op":"replace","path":"/deep/x","value":false},{"op":"add","path":"/list/-","value":3}]}""",
                "a.json",
                "    \"x\": false"
            },
            {
                """{"op":"setXml","path":"a.xml","xPath":"//step[@id='a']/@shown","old":"yes","value":"no"}""",
                "a.xml",
                "  <step id=\"a\" shown=\"no\" />"
            },
            {
                """{"op":"setXml","path":"a.xml","xPath":"//step[@id='b']","old":"text","value":"other"}""",
                "a.xml",
                "  <step id=\"b\" shown=\"yes\">other</step>"
            },
            {
                """{"op":"setPropertyList","path":"a.plist","keys":["Check"],"old":true,"value":false}""",
                "a.plist",
                "  <false/>"
            },
            {
                """{"op":"setPropertyList","path":"a.plist","keys":["In","Least"],"old":3,"value":1}""",
                "a.plist",
                "    <integer>1</integer>"
            },
            {
                """{"op":"setPropertyList","path":"a.plist","keys":["In","New"],"value":"word"}""",
                "a.plist",
                "    <string>word</string>"
            },
            { """{"op":"addFile","path":"new/b.txt","text":"hello\n"}""", "new/b.txt", "hello" },
            {
                """{"op":"addArchive","path":"new/a.cpio","name":"answers","text":"\nhello\n"}""",
                "new/a.cpio",
                "hello"
            },
            { $$"""{"op":"replaceFile","path":"a.bin","oldSha256":"{{Hash(Raw)}}","base64":"aGk="}""", "a.bin", "hi" },
            { $$"""{"op":"removeFile","path":"a.bin","oldSha256":"{{Hash(Raw)}}"}""", "a.bin", "" },
            { """{"op":"renameFile","path":"a.bin","to":"b.bin"}""", "b.bin", "" },
            { """{"op":"replaceBytes","path":"a.bin","offset":2,"old":"0304","new":"ff00"}""", "a.bin", "" },
            {
                """{"op":"appendArguments","path":"boot.cfg","command":"linux","arguments":["nomodeset","quiet"]}""",
                "boot.cfg",
                "  linux /vmlinuz quiet nomodeset"
            },
        };

    [Theory]
    [MemberData(nameof(Operations))]
    public void It_changes_one_file_and_a_second_time_it_is_applied_already(string operation, string path, string line)
    {
        var before = Files();
        var outcome = Patcher.Run(Recipe(operation), new PatchFiles(before));
        outcome.AlreadyApplied.ShouldBeFalse();
        outcome.Files.ShouldContain(f => f.Path == path);
        var after = Apply(before, outcome);
        if (line.StartsWith('-'))
            Encoding.UTF8.GetString(after[path]).Split('\n').ShouldNotContain(line[1..]);
        else if (line.Length > 0)
            Encoding.UTF8.GetString(after[path]).Split('\n').ShouldContain(line);
        // What is not named in the outcome is what it was.
        foreach (var (name, content) in before)
            if (outcome.Files.All(f => f.Path != name))
                after[name].ShouldBe(content);
        outcome.Files.ShouldAllBe(f => f.Lines.Count > 0 || f.OldSizeBytes == f.NewSizeBytes);

        var again = Patcher.Run(Recipe(operation), new PatchFiles(after));
        again.AlreadyApplied.ShouldBeTrue();
        again.Files.ShouldBeEmpty();
    }

    /// <summary>Operation, and words of the refusal: what, and where.</summary>
    public static TheoryData<string, string, string> Refusals =>
        new()
        {
            {
                """{"op":"replaceText","path":"a.txt","find":"two","with":"2","count":1}""",
                "occurs twice; the recipe wants it once",
                "a.txt, line 2"
            },
            {
                """{"op":"replaceText","path":"none.txt","find":"two","with":"2","count":1}""",
                "no such file",
                "none.txt"
            },
            {
                """{"op":"insertLines","path":"a.txt","after":"two","lines":["x"]}""",
                "there two times",
                "lines 2 and 4"
            },
            {
                """{"op":"removeLines","path":"a.txt","lines":["three","one"]}""",
                "do not follow one another",
                "a.txt, line 1"
            },
            {
                """{"op":"setIni","path":"a.ini","section":"updates","key":"during-setup","old":"maybe","value":"no"}""",
                "is “yes”",
                "a.ini, line 6"
            },
            { """{"op":"setIni","path":"a.ini","section":"none","key":"x","value":"y"}""", "no section", "a.ini" },
            {
                """{"op":"patchJson","path":"a.json","patch":[{"op":"test","path":"/deep/x","value":7},{"op":"remove","path":"/list"}]}""",
                "the recipe wants 7",
                "/deep/x"
            },
            {
                """{"op":"patchJson","path":"a.txt","patch":[{"op":"remove","path":"/list"}]}""",
                "no JSON",
                "a.txt, line 1"
            },
            {
                """{"op":"setXml","path":"a.xml","xPath":"//step/@shown","old":"yes","value":"no"}""",
                "names two nodes",
                "//step/@shown"
            },
            {
                """{"op":"setXml","path":"a.txt","xPath":"//step","old":"yes","value":"no"}""",
                "no well-formed XML",
                "a.txt, line 1"
            },
            {
                """{"op":"setPropertyList","path":"a.plist","keys":["In","Least"],"old":4,"value":1}""",
                "wants 4",
                "In/Least"
            },
            {
                """{"op":"setPropertyList","path":"a.xml","keys":["In"],"old":4,"value":1}""",
                "no XML property list",
                "a.xml"
            },
            { """{"op":"addFile","path":"a.txt","text":"x"}""", "another content", "a.txt" },
            {
                $$"""{"op":"replaceFile","path":"a.bin","oldSha256":"{{new string('0', 64)}}","text":"x"}""",
                "proved with 0000",
                "a.bin"
            },
            {
                $$"""{"op":"removeFile","path":"a.bin","oldSha256":"{{new string('0', 64)}}"}""",
                "proved with 0000",
                "a.bin"
            },
            { """{"op":"renameFile","path":"none","to":"b"}""", "not there", "none" },
            { """{"op":"renameFile","path":"a.bin","to":"a.txt"}""", "lies at the new place", "a.txt" },
            {
                """{"op":"replaceBytes","path":"a.bin","offset":2,"old":"0909","new":"ff00"}""",
                "There is 0304",
                "offset 2"
            },
            {
                """{"op":"replaceBytes","path":"a.bin","offset":7,"old":"0808","new":"ff00"}""",
                "ends at 8",
                "offset 7"
            },
            {
                """{"op":"appendArguments","path":"a.txt","command":"linux","arguments":["x"]}""",
                "no lines begin",
                "a.txt"
            },
        };

    [Theory]
    [MemberData(nameof(Refusals))]
    public void A_precondition_that_fails_names_file_and_place_and_changes_nothing(
        string operation,
        string what,
        string where
    )
    {
        var files = new PatchFiles(Files());
        // Something that fits before it: all or nothing.
        var first = """{"op":"addFile","path":"first.txt","text":"x"}""";
        var refusal = Should.Throw<RefusedException>(() => Patcher.Run(Recipe($"{first},{operation}"), files)).Refusal;
        refusal.What.ShouldContain(what, Case.Insensitive);
        refusal.Where.ShouldContain(where);
    }

    /// <summary>What a recipe must not say, whatever the files are.</summary>
    [Theory]
    [InlineData("""{"op":"replaceText","path":"../etc/passwd","find":"a","with":"b"}""", "no path on an image")]
    [InlineData("""{"op":"addFile","path":"/abs","text":""}""", "no path on an image")]
    [InlineData("""{"op":"renameFile","path":"a","to":"b/../../c"}""", "no path on an image")]
    [InlineData("""{"op":"addFile","path":"-rf","text":""}""", "no path on an image")]
    [InlineData("""{"op":"runProgram","path":"a"}""", "“op”")]
    [InlineData("""{"path":"a"}""", "“op”")]
    [InlineData("""{"op":"replaceText","path":"a","find":"","with":"b"}""", "empty")]
    [InlineData("""{"op":"replaceBytes","path":"a","offset":0,"old":"00","new":"0000"}""", "as many")]
    [InlineData("""{"op":"patchJson","path":"a","patch":[{"op":"frob","path":"/x"}]}""", "frob")]
    [InlineData("""{"op":"setXml","path":"a","xPath":"//[","old":"a","value":"b"}""", "XPath")]
    [InlineData("""{"op":"addFile","path":"a","text":"x","base64":"eA=="}""", "one of them")]
    [InlineData("""{"op":"addFile","path":"a","text":"x","mode":"0755"}""", "form")]
    [InlineData("""{"op":"addArchive","path":"a","name":"../x","text":"x"}""", "no name of a file")]
    public void A_recipe_that_says_what_it_must_not_is_not_read(string operation, string says) =>
        Should.Throw<RefusedException>(() => Recipe(operation)).Refusal.What.ShouldContain(says);

    [Fact]
    public void An_entity_that_would_grow_or_fetch_does_neither()
    {
        var files = new Dictionary<string, byte[]>(StringComparer.Ordinal)
        {
            ["a.xml"] = Encoding.UTF8.GetBytes(
                "<!DOCTYPE x [<!ENTITY a \"aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa\">"
                    + string.Concat(
                        Enumerable
                            .Range(0, 8)
                            .Select(i =>
                                $"<!ENTITY {(char)('b' + i)} \"{string.Concat(Enumerable.Repeat($"&{(char)('a' + i)};", 10))}\">"
                            )
                    )
                    + "]><x>&i;</x>"
            ),
            ["b.xml"] = "<!DOCTYPE x [<!ENTITY f SYSTEM \"file:///etc/passwd\">]><x>&f;</x>"u8.ToArray(),
        };
        Recipe Set(string path) => Recipe($$"""{"op":"setXml","path":"{{path}}","xPath":"//x","old":"","value":"y"}""");
        Should.Throw<RefusedException>(() => Patcher.Run(Set("a.xml"), new PatchFiles(files)));
        // What would be fetched reads as nothing.
        var lines = Patcher.Run(Set("b.xml"), new PatchFiles(files)).Files.Single().Lines;
        lines.ShouldAllBe(l => !l.Text.Contains("root:"));
        lines.ShouldContain(l => l.Kind == "in" && l.Text.Contains("<x>y</x>"));
    }

    private static Dictionary<string, byte[]> Apply(Dictionary<string, byte[]> before, PatchOutcome outcome)
    {
        var after = new Dictionary<string, byte[]>(before, StringComparer.Ordinal);
        foreach (var file in outcome.Files)
            if (file.Content is { } content)
                after[file.Path] = content;
            else
                after.Remove(file.Path);
        return after;
    }

    [Theory]
    [InlineData("catalogue/schemas/recipe.schema.json", "\"{0}\"")]
    [InlineData("docs/recipes.md", "| `{0}` |")]
    [InlineData("web/src/patching/RecipeEditor.tsx", "op: '{0}'")]
    public void Every_operation_is_checked_told_and_offered(string file, string form)
    {
        var text = File.ReadAllText(Path.Combine(Shipped.Home, file));
        typeof(Operation)
            .GetCustomAttributes(typeof(JsonDerivedTypeAttribute), inherit: false)
            .Cast<JsonDerivedTypeAttribute>()
            .Select(a => string.Format(CultureInfo.InvariantCulture, form, a.TypeDiscriminator))
            .Where(wanted => !text.Contains(wanted, StringComparison.Ordinal))
            .ShouldBeEmpty($"what {file} lacks");
    }
}
