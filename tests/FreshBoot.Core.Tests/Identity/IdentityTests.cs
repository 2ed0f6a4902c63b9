using System.Diagnostics;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Tests.Identity;

public class IdentityTests
{
    private static readonly Core.Catalogue.DonorModel Donor = Shipped.Catalogue.Donors.Single(d => d.Id == "PL-08A");

    /// <summary>Lines that tell of what was set, or of the length of the table.</summary>
    private static readonly string[] Set =
    [
        "Manufacturer",
        "Product",
        "Serial",
        "UUID",
        "Family",
        "Table at",
        "Reading",
        "bytes",
    ];

    private static IdentityProfile Fresh(IdentityLevel level) =>
        IdentityProfile.Fresh(Donor, level, [11, 22, 33, 44, 55, 66, 77, 89, .. Enumerable.Repeat((byte)0xab, 16)])!;

    private static readonly Dossier Plinth = Facts.Of(
        ("identity.maker", "Ottavine"),
        ("identity.model", "Plinth PL-06B"),
        ("identity.serial", "OT6-0001"),
        ("identity.board", "OT-PLINTH-6"),
        ("identity.boardSerial", "B-77"),
        ("cpu.model", "Corvane C6-1")
    );

    [Theory]
    [InlineData(IdentityLevel.BoardId, "Board")]
    [InlineData(IdentityLevel.Model, "Board Model Line")]
    [InlineData(IdentityLevel.Full, "Board Model Line Serial number Id (UUID) Serial number of the casing")]
    public void A_level_changes_what_it_says_and_keeps_the_serial_number_of_the_board(
        IdentityLevel level,
        string fields
    )
    {
        var table = IdentityTable.Of(null, Plinth, Fresh(level));

        string.Join(
                ' ',
                table
                    .Differences.Select(d => d.Field)
                    .Distinct()
                    .OrderBy(f => fields.IndexOf(f, StringComparison.Ordinal))
            )
            .ShouldBe(fields);
        SmbiosTable.Read(table.Table).Single(s => s.Type == 2).Text(0x07).ShouldBe("B-77");
        table.Made.ShouldBeTrue();
        SmbiosTable.Read(table.Original).Single(s => s.Type == 1).Text(0x05).ShouldBe("Plinth PL-06B");
    }

    [Fact]
    public void A_wrongly_shown_processor_is_mended_the_same_way()
    {
        var profile = new IdentityProfile(IdentityLevel.Processor, null, null, null, null, null, "Corvane C6-240");
        var table = IdentityTable.Of(null, Plinth, profile);

        var only = table.Differences.ShouldHaveSingleItem();
        (only.Type, only.Before, only.After).ShouldBe((4, "Corvane C6-1", "Corvane C6-240"));
    }

    [Fact]
    public void The_id_is_a_random_uuid_of_version_4()
    {
        var uuid = Fresh(IdentityLevel.Full).Uuid!.Value;
        uuid.Version.ShouldBe(4);
        (uuid.Variant & 0xc).ShouldBe(8);
    }

    [Theory]
    [InlineData("64")]
    [InlineData("32")]
    public void An_independent_reader_reads_the_written_table_with_the_new_values_and_all_else_unchanged(string entry)
    {
        var table = IdentityTable.Of(null, Plinth, Fresh(IdentityLevel.Full));
        var kind = entry == "64" ? SmbiosEntry.Bits64 : SmbiosEntry.Bits32;
        var (before, after) = (Dmidecode(table.File(true, kind)), Dmidecode(table.File(false, kind)));

        after.ShouldContain("Product Name: Plinth PL-08A");
        after.ShouldContain($"Serial Number: {Fresh(IdentityLevel.Full).Serial}");
        after.ShouldContain($"UUID: {Fresh(IdentityLevel.Full).Uuid}");
        after.ShouldContain("Serial Number: B-77");
        after.ShouldNotContain("OT6-0001");
        after.ShouldNotContain("bad", Case.Insensitive);
        // Line for line the same, but for what was set.
        string[] Lines(string text) => [.. text.Split('\n').Where(l => !Set.Any(l.Contains))];
        Lines(after).ShouldBe(Lines(before));
    }

    [Fact]
    public void What_a_machine_took_is_told_apart_and_what_it_is_stays_in_force()
    {
        var given = new GivenIdentity(1, "PL-08A", Fresh(IdentityLevel.Full), "Pim", Facts.Noon);
        Reading[] probed =
        [
            Facts.Reading("identity.maker", "Ottavine"),
            Facts.Reading("identity.model", "Plinth PL-08A"),
            Facts.Reading("identity.serial", given.Profile.Serial!),
            Facts.Reading("identity.board", "OT-PLINTH-8"),
            Facts.Reading("identity.boardSerial", "B-77"),
        ];
        var told = TakenIdentity.Told(Plinth, probed, [given]);
        var after = Plinth.WithProbe([.. told]);

        after.Word("identity.model").ShouldBe("Plinth PL-06B");
        after.Word("identity.serial").ShouldBe("OT6-0001");
        after.Word("identity.board").ShouldBe("OT-PLINTH-6");
        after.Word("identity.taken").ShouldBe("Plinth PL-08A");
        after.Word("identity.takenSerial").ShouldBe(given.Profile.Serial);
        // Nothing that was not read is among what came in: it would count as seen again.
        told.ShouldNotContain(r => r.Key == "identity.serial");
        TakenIdentity.Told(Plinth, probed, []).ShouldBeSameAs(probed);
    }

    [Fact]
    public void A_probe_under_a_taken_identity_is_of_this_machine()
    {
        var given = new GivenIdentity(1, "PL-08A", Fresh(IdentityLevel.Full), "Pim", Facts.Noon);
        var probed = Facts.Of(
            ("identity.model", "Plinth PL-08A"),
            ("identity.serial", given.Profile.Serial!),
            ("identity.board", "OT-PLINTH-8"),
            ("identity.boardSerial", "B-77")
        );
        Sameness Held(params GivenIdentity[] all) =>
            Sameness.Of(
                Plinth,
                probed,
                s => all.Any(g => g.Profile.Serial == s) ? SerialMark.Given : SerialMark.Counts,
                (key, value) => all.Any(g => g.Shows(key, value))
            );

        Held(given).Likeness.ShouldBe(Likeness.Same);
        Held(given).Proved.ShouldBeTrue();
        Held().Likeness.ShouldBe(Likeness.Asked);
    }

    private static string Dmidecode(byte[] file)
    {
        var path = Path.GetTempFileName();
        try
        {
            File.WriteAllBytes(path, file);
            using var run = Process.Start(
                new ProcessStartInfo("dmidecode", ["--from-dump", path])
                {
                    RedirectStandardOutput = true,
                    UseShellExecute = false,
                }
            )!;
            var text = run.StandardOutput.ReadToEnd();
            run.WaitForExit();
            run.ExitCode.ShouldBe(0);
            return text;
        }
        finally
        {
            File.Delete(path);
        }
    }
}
