using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Probes;
using FreshBoot.Formats.Smbios;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Tests;

/// <summary>The reader of binary tables against dmidecode, structure by structure and field by field.</summary>
public sealed class DmidecodeTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-dmi-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public async Task Every_table_of_the_demo_fleet_reads_the_same()
    {
        var fleet = JsonSerializer.Deserialize<SimulatedMachine[]>(
            await File.ReadAllTextAsync(Path.Combine(TestWorkshop.Home, "demo", "fleet.json")),
            JsonSerializerOptions.Web
        )!;
        foreach (var machine in fleet.Where(m => m is { Probed: true, Arm: false }))
        {
            var table = SimulatedProbe.Sources(machine)["smbios.bin"];
            await AgreesAsync(table, _folder);
            await TakesAnIdentityAsync(table, _folder);
        }
    }

    /// <summary>Fails where an identity is not read back from the table, or anything else in it changed.</summary>
    internal static async Task TakesAnIdentityAsync(byte[] table, string folder)
    {
        var profile = new IdentityProfile(
            IdentityLevel.Full,
            "Ottavine",
            "Plinth PL-08A",
            "OT-PLINTH-8",
            "P8ABCDEFGH9",
            Guid.Parse("0fb93986-6837-4388-a45e-057b5d5170ad")
        );
        var written = IdentityTable.Of(table, Dossier.Empty, profile);
        foreach (var entry in (SmbiosEntry[])[SmbiosEntry.Bits32, SmbiosEntry.Bits64])
        {
            var (before, after) = (await SaysAsync(original: true), await SaysAsync(original: false));
            after.Keys.ShouldBe(before.Keys);
            var types = SmbiosTable.Read(table).ToDictionary(s => (int)s.Handle, s => s.Type);
            foreach (var (handle, fields) in after)
            foreach (var (field, value) in fields)
                value.ShouldBe(
                    (types[handle], field) switch
                    {
                        (1 or 2 or 3, "Manufacturer") => "Ottavine",
                        (1, "Product Name") => "Plinth PL-08A",
                        (1, "Serial Number") or (3, "Serial Number") => "P8ABCDEFGH9",
                        (1, "UUID") => "0fb93986-6837-4388-a45e-057b5d5170ad",
                        (1, "Family") => "Plinth",
                        (2, "Product Name") => "OT-PLINTH-8",
                        _ => before[handle][field],
                    },
                    $"{entry}, handle {handle:x4}, {field}"
                );

            async Task<Dictionary<int, Dictionary<string, string>>> SaysAsync(bool original)
            {
                var dump = Path.Combine(folder, "taken.dmi");
                await File.WriteAllBytesAsync(dump, written.File(original, entry));
                return Printed(await ProgramOutput.Of("dmidecode", "--from-dump", dump));
            }
        }
    }

    /// <summary>Fails where a field of a structure is read otherwise than dmidecode prints it.</summary>
    internal static async Task AgreesAsync(byte[] table, string folder)
    {
        var dump = Path.Combine(folder, "table.dmi");
        await File.WriteAllBytesAsync(dump, [.. Entry(table.Length), .. new byte[8], .. table]);
        // As ever in its own words, without looking for the table on this machine.
        var printed = Printed(await ProgramOutput.Of("dmidecode", "--from-dump", dump));
        var read = SmbiosTable.Read(table).Select(DmiRecord.Of).OfType<DmiRecord>().ToArray();
        read.Length.ShouldBeGreaterThan(3);
        foreach (var record in read)
        {
            var other = printed[record.Handle];
            foreach (var (field, value) in record.Fields)
            {
                if (field == "Characteristics")
                    (value.Length > 0).ShouldBe(
                        other.GetValueOrDefault(field, "").Contains("UEFI is supported", StringComparison.Ordinal)
                    );
                // Fields that this version of the table does not have are not printed.
                else if (other.TryGetValue(field, out var theirs))
                    value.Trim().ShouldBe(theirs, $"type {record.Type}, handle {record.Handle:x4}, {field}");
                else
                    value.ShouldBeOneOf("Not Specified", "Unknown", "<OUT OF SPEC>", "");
            }
        }
    }

    private static Dictionary<int, Dictionary<string, string>> Printed(string text)
    {
        var records = new Dictionary<int, Dictionary<string, string>>();
        Dictionary<string, string>? fields = null;
        var last = "";
        foreach (var line in text.Split('\n'))
        {
            if (line.StartsWith("Handle 0x", StringComparison.Ordinal))
                records[Convert.ToInt32(line[9..13], 16)] = fields = new(StringComparer.Ordinal);
            else if (line.StartsWith("\t\t", StringComparison.Ordinal) && fields is not null)
                fields[last] += "\n" + line.Trim();
            else if (line.StartsWith('\t') && fields is not null && line.Contains(':', StringComparison.Ordinal))
                fields[last = line[1..line.IndexOf(':', StringComparison.Ordinal)]] = line[
                    (line.IndexOf(':', StringComparison.Ordinal) + 1)..
                ]
                    .Trim();
        }
        return records;
    }

    /// <summary>A 64-bit entry point (DSP0134, section 5.2.2) for a table at offset 32.</summary>
    private static byte[] Entry(int bytes)
    {
        var entry = new byte[0x18];
        "_SM3_"u8.CopyTo(entry);
        (entry[6], entry[7], entry[8]) = (0x18, 3, 0);
        BitConverter.TryWriteBytes(entry.AsSpan(0x0c), bytes);
        BitConverter.TryWriteBytes(entry.AsSpan(0x10), 32L);
        entry[5] = (byte)-entry.Sum(b => b);
        return entry;
    }
}
