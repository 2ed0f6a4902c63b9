using FreshBoot.Core.Identity;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Tests.Preparation;

public class PreparedFilesTests
{
    private static IReadOnlyList<PreparedFile> Files(string? system, School school, params (string, object?)[] changes)
    {
        var facts = Facts.GoodBut(changes);
        var route = new RouteSearch(Shipped.Catalogue)
            .Find(facts, new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.System == system && r.School == school);
        return PreparedFiles.Of(route, Shipped.Catalogue, facts, "MR-0417", new HashSet<string>());
    }

    [Fact]
    public void A_spoof_has_its_identity_twice_the_same()
    {
        (string, object?)[] plinth = [("identity.maker", "Ottavine"), ("identity.model", "Plinth PL-06B")];
        var files = Files("canzona-6", School.Spoof, plinth);

        files.Select(f => f.Name).ShouldBe(["identity.json", "smbios-type1.bin"]);
        files.Select(f => f.Sha256).ShouldBe(Files("canzona-6", School.Spoof, plinth).Select(f => f.Sha256));
        IdentityProfile
            .Checks(System.Text.Json.JsonDocument.Parse(files[0].Text!).RootElement.GetProperty("serial").GetString()!)
            .ShouldBeTrue();
    }

    [Fact]
    public void Where_nothing_has_to_be_made_there_is_nothing()
    {
        Files("wickerwork-26", School.Comply).ShouldBeEmpty();
        Files(null, School.Retire).ShouldBeEmpty();
    }
}
