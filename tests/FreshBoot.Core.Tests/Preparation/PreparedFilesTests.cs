using System.Text.Json;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Routes;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.Tests.Preparation;

public class PreparedFilesTests
{
    private static readonly (string, object?)[] Plinth =
    [
        ("identity.maker", "Ottavine"),
        ("identity.model", "Plinth PL-06B"),
    ];

    private static Route Way(string? system, School school, params (string, object?)[] changes) =>
        new RouteSearch(Shipped.Catalogue)
            .Find(Facts.GoodBut(changes), new RouteQuestion(new DateOnly(2026, 12, 3)))
            .First(r => r.System == system && r.School == school);

    private static GivenIdentity Given(IdentityLevel level) =>
        new(
            3,
            "PL-08A",
            IdentityProfile.Fresh(
                Shipped.Catalogue.Donors.Single(d => d.Id == "PL-08A"),
                level,
                [1, 2, 3, 4, 5, 6, 7, 8, .. new byte[16]]
            )!,
            "Pim",
            Facts.Noon
        );

    [Theory]
    [InlineData(IdentityLevel.Full, "maker model serial uuid boardId")]
    [InlineData(IdentityLevel.Model, "maker model boardId")]
    [InlineData(IdentityLevel.BoardId, "boardId")]
    public void A_spoof_has_the_identity_that_was_given_as_json_and_property_list(IdentityLevel level, string keys)
    {
        var files = PreparedFiles.Of(Way("canzona-6", School.Spoof, Plinth), [Given(level)], Shipped.Catalogue);

        files.Select(f => f.Name).ShouldBe(["identity.json", "identity.plist"]);
        var json = JsonDocument.Parse(files[0].Text!).RootElement;
        json.EnumerateObject().Select(p => p.Name).ShouldBe(keys.Split(' '));
        var root = PropertyList.Root(XmlDocuments.Read(files[1].Text!))!;
        foreach (var member in json.EnumerateObject())
            PropertyList.Inside(root, member.Name)!.InnerText.ShouldBe(member.Value.GetString());
    }

    [Fact]
    public void Where_nothing_was_given_or_has_to_be_made_there_is_nothing()
    {
        PreparedFiles.Of(Way("canzona-6", School.Spoof, Plinth), [], Shipped.Catalogue).ShouldBeEmpty();
        PreparedFiles
            .Of(Way("wickerwork-26", School.Comply), [Given(IdentityLevel.Full)], Shipped.Catalogue)
            .ShouldBeEmpty();
        PreparedFiles.Of(Way(null, School.Retire), [Given(IdentityLevel.Full)], Shipped.Catalogue).ShouldBeEmpty();
    }

    [Fact]
    public void An_identity_whose_donor_the_system_does_not_take_gives_no_files()
    {
        var wrong = Given(IdentityLevel.Full) with { Donor = "no such donor" };

        PreparedFiles.Of(Way("canzona-6", School.Spoof, Plinth), [wrong], Shipped.Catalogue).ShouldBeEmpty();
        PreparedFiles
            .Of(Way("canzona-6", School.Spoof, Plinth), [Given(IdentityLevel.BoardId), wrong], Shipped.Catalogue)[0]
            .Text!.ShouldNotContain("serial");
    }
}
