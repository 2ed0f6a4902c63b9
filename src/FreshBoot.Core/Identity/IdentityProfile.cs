using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Identity;

/// <summary>The identity that a machine takes.</summary>
/// <param name="Maker">Maker.</param>
/// <param name="Model">Model.</param>
/// <param name="Serial">A fresh serial with its check character.</param>
/// <param name="Uuid">A fresh UUID (RFC 9562, version 8: made from a hash).</param>
/// <param name="BoardId">Board id.</param>
public sealed record IdentityProfile(string Maker, string Model, string Serial, Guid Uuid, string BoardId)
{
    private const string Characters = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ";

    /// <summary>
    /// A fresh identity of a donor model. The serial follows from <paramref name="seed"/>, so that asking twice gives the
    /// same; one that is in <paramref name="taken"/> is passed over, because it may be somebody's.
    /// </summary>
    public static IdentityProfile Fresh(DonorModel donor, string seed, IReadOnlySet<string> taken)
    {
        for (var attempt = 0; ; attempt++)
        {
            var hash = SHA256.HashData(Encoding.UTF8.GetBytes($"{donor.Id}/{seed}/{attempt}"));
            var body = donor.SerialPrefix + string.Concat(hash.Take(7).Select(b => Characters[b % 36]));
            var serial = body + CheckCharacter(body);
            if (taken.Contains(serial))
                continue;
            var uuid = hash[16..32];
            uuid[6] = (byte)(uuid[6] & 0x0f | 0x80);
            uuid[8] = (byte)(uuid[8] & 0x3f | 0x80);
            return new IdentityProfile(
                donor.Maker,
                $"{donor.Line} {donor.Id}",
                serial,
                new Guid(uuid, bigEndian: true),
                donor.BoardId
            );
        }
    }

    /// <summary>The check character of ISO/IEC 7064, MOD 37,36: one wrong character, or two swapped ones, show.</summary>
    /// <param name="text">Digits and capital letters.</param>
    public static char CheckCharacter(string text)
    {
        var product = 36;
        foreach (var c in text)
        {
            var value = Characters.IndexOf(c, StringComparison.Ordinal);
            if (value < 0)
                throw new ArgumentException($"“{c}” is no digit and no capital letter.", nameof(text));
            var sum = (product + value) % 36;
            product = (sum == 0 ? 36 : sum) * 2 % 37;
        }
        return Characters[(37 - product) % 36];
    }

    /// <summary>Whether a serial ends in its right check character.</summary>
    public static bool Checks(string serial) => serial.Length > 1 && CheckCharacter(serial[..^1]) == serial[^1];

    /// <summary>
    /// The SMBIOS structure of type 1 (DSP0134, section 7.2) without an end-of-table marker. The first three fields of the
    /// UUID are little-endian, as the specification has it since version 2.6.
    /// </summary>
    public byte[] SmbiosType1()
    {
        var table = new SmbiosWriter();
        table.Add(
            1,
            0x1b,
            s =>
            {
                s.Text(0x04, Maker);
                s.Text(0x05, Model);
                s.Text(0x06, "1.0");
                s.Text(0x07, Serial);
                var uuid = Uuid.ToByteArray();
                for (var i = 0; i < uuid.Length; i++)
                    s.Byte(0x08 + i, uuid[i]);
                s.Byte(0x18, 0x06);
                s.Text(0x19, BoardId);
                s.Text(0x1a, Model.Split(' ')[0]);
            }
        );
        // What Finish adds is the end marker: four bytes and two zeros.
        return table.Finish()[..^6];
    }
}
