using System.Text.Json.Nodes;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Tests.Catalogue;

public class PackReaderTests
{
    private static JsonObject Pack(string name) =>
        JsonNode.Parse(File.ReadAllText(Path.Combine(Shipped.Home, "catalogue", "packs", name)))!.AsObject();

    private static IReadOnlyList<PackFault> Faults(params JsonObject[] packs) =>
        Should
            .Throw<PackFaultsException>(() =>
                PackReader.Read(Shipped.Schema, [.. packs.Select((p, i) => ($"pack{i}.json", p.ToJsonString()))])
            )
            .Faults;

    [Fact]
    public void The_packs_that_ship_are_valid_and_cover_their_systems()
    {
        Shipped.Catalogue.System("tessaly-6-r2").ShouldNotBeNull();
        Shipped.Catalogue.System("wickerwork-26").ShouldNotBeNull();
        Shipped.Catalogue.Hash.Length.ShouldBe(64);
    }

    [Theory]
    [InlineData("kind", "door", "/systems/0/requirements/0/kind")]
    [InlineData("rung", "cellar", "/systems/0/requirements/0/rung")]
    [InlineData("id", "", "/systems/0/requirements/0/id")]
    public void A_fault_against_the_schema_names_file_and_place(string member, string value, string at)
    {
        var pack = Pack("wickerwork.json");
        pack["systems"]![0]!["requirements"]![0]![member] = value;

        Faults(pack).ShouldContain(f => f.File == "pack0.json" && f.At == at);
    }

    [Fact]
    public void What_is_no_json_is_told_with_line_and_place()
    {
        var fault = Should
            .Throw<PackFaultsException>(() => PackReader.Read(Shipped.Schema, [("a.json", "{\n \"pack\": oops")]))
            .Faults.ShouldHaveSingleItem();

        fault.What.ShouldContain("line 2");
    }

    [Fact]
    public void What_a_schema_cannot_say_is_checked_too()
    {
        var tessaly = Pack("tessaly.json");
        var requirements = tessaly["systems"]![0]!["requirements"]!.AsArray();
        requirements[0]!["needs"] = JsonNode.Parse("""{ "fact": "firmware.sort", "oneOf": ["bios"] }""");
        requirements[1]!["needs"] = JsonNode.Parse("""{ "fact": "firmware.kind", "oneOf": ["biso"] }""");
        requirements[2]!["rung"] = "kernel";
        requirements[3]!["id"] = requirements[4]!["id"]!.GetValue<string>();
        requirements[5]!["needs"] = JsonNode.Parse("""{ "fact": "firmware.secureBoot", "atLeast": "able" }""");
        var shop = Pack("workshop.json");
        shop["cures"]![0]!["lifts"] = new JsonArray("tessaly-7/tpm", "tessaly-6-r2/level");
        shop["cures"]![1]!["sets"] = JsonNode.Parse("""{ "memory.installedMiB": "lots" }""");
        var hardware = Pack("hardware.json");
        hardware["processors"]![0]!["pattern"] = "(";
        hardware["devices"]![0]!["drivers"] = JsonNode.Parse("""{ "no-such-system": "none" }""");

        var faults = Faults(tessaly, shop, hardware);

        faults.ShouldContain(f => f.At == "/systems/0/requirements/0/needs/fact");
        faults.ShouldContain(f => f.At == "/systems/0/requirements/1/needs/oneOf/0" && f.What.Contains("bios"));
        faults.ShouldContain(f => f.At == "/systems/0/requirements/2/rung");
        faults.ShouldContain(f => f.At == "/systems/0/requirements/4/id");
        faults.ShouldContain(f => f.At == "/systems/0/requirements/5/needs/atLeast");
        faults.ShouldContain(f => f.File == "pack1.json" && f.At == "/cures/0/lifts/0");
        faults.ShouldContain(f => f.File == "pack1.json" && f.At == "/cures/0/lifts/1" && f.What.Contains("no gate"));
        faults.ShouldContain(f => f.At == "/cures/1/sets/memory.installedMiB");
        faults.ShouldContain(f => f.At == "/processors/0/pattern");
        faults.ShouldContain(f => f.At == "/devices/0/drivers/no-such-system");
    }

    [Fact]
    public void The_hash_follows_the_content()
    {
        var pack = Pack("wickerwork.json");
        string Hash() => PackReader.Read(Shipped.Schema, [("a.json", pack.ToJsonString())]).Hash;
        var before = Hash();
        pack["version"] = "1.0.1";

        Hash().ShouldNotBe(before);
    }
}
