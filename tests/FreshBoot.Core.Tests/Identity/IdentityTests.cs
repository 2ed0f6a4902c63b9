using CsCheck;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Ladder;
using FreshBoot.Formats.Smbios;
using FreshBoot.Formats.Tests;

namespace FreshBoot.Core.Tests.Identity;

public class IdentityTests
{
    private static readonly Core.Catalogue.DonorModel Donor = Shipped.Catalogue.Donors[0];
    private static readonly HashSet<string> None = [];
    private static readonly Gen<string> Text = Pick.From([.. "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"])
        .Array[1, 20]
        .Select(c => new string(c));

    [Theory]
    [InlineData("A12425GABC1234002", 'M')]
    public void The_check_character_is_that_of_the_standards_example(string text, char check) =>
        IdentityProfile.CheckCharacter(text).ShouldBe(check);

    [Fact]
    public void One_wrong_character_shows() =>
        Gen.Select(Text, Gen.Int[0, 19], Gen.Int[1, 35])
            .Sample(
                (text, at, by) =>
                {
                    const string All = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ";
                    var serial = text + IdentityProfile.CheckCharacter(text);
                    var place = at % serial.Length;
                    var wrong =
                        serial[..place]
                        + All[(All.IndexOf(serial[place], StringComparison.Ordinal) + by) % 36]
                        + serial[(place + 1)..];
                    return IdentityProfile.Checks(serial) && !IdentityProfile.Checks(wrong);
                }
            );

    [Fact]
    public void A_serial_is_fresh_repeatable_and_never_one_that_is_taken()
    {
        var first = IdentityProfile.Fresh(Donor, "MR-0422", None);
        IdentityProfile.Fresh(Donor, "MR-0422", None).ShouldBe(first);
        IdentityProfile.Fresh(Donor, "MR-0423", None).Serial.ShouldNotBe(first.Serial);

        var second = IdentityProfile.Fresh(
            Donor,
            "MR-0422",
            new HashSet<string>(StringComparer.Ordinal) { first.Serial }
        );
        second.Serial.ShouldNotBe(first.Serial);
        IdentityProfile.Checks(second.Serial).ShouldBeTrue();
    }

    [Fact]
    public void The_smbios_structure_reads_back()
    {
        var profile = IdentityProfile.Fresh(Donor, "MR-0422", None);
        var table = SmbiosTable.Read(profile.SmbiosType1());

        var system = table.ShouldHaveSingleItem();
        system.Type.ShouldBe((byte)1);
        system.Text(0x04).ShouldBe("Ottavine");
        system.Text(0x05).ShouldBe(profile.Model);
        system.Text(0x07).ShouldBe(profile.Serial);
        new Guid(system.Data.Span.Slice(8, 16)).ShouldBe(profile.Uuid);
    }

    [Theory]
    [InlineData("Plinth PL-06B", "Corvane C6-1", "PL-08A")]
    [InlineData("Plinth PL-10A", "Corvane C10-1", "PL-09C")]
    [InlineData("Sonata SO-05C", "Corvane C5-1", "SO-07A")]
    [InlineData("Lintel LI-05C", "Corvane C5-1", null)]
    public void The_donor_is_the_nearest_of_the_same_line(string model, string cpu, string? donor) =>
        DonorChoice
            .Nearest(
                Facts.GoodBut(("identity.maker", "Ottavine"), ("identity.model", model), ("cpu.model", cpu)),
                "canzona-6",
                Shipped.Catalogue.Donors
            )
            ?.Id.ShouldBe(donor);
}
