using FreshBoot.Core.Dossiers;
using FreshBoot.Formats;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Core.Identity;

/// <summary>A field of the machine's table, before and after.</summary>
/// <param name="Type">Type of the structure.</param>
/// <param name="Handle">Its handle.</param>
/// <param name="Field">What it is called.</param>
/// <param name="Before">What stood there; null for nothing.</param>
/// <param name="After">What stands there now.</param>
public sealed record IdentityDifference(int Type, int Handle, string Field, string? Before, string After);

/// <summary>A machine's own SMBIOS table with an identity in it.</summary>
/// <param name="Table">The bare table.</param>
/// <param name="Original">The bare table as the machine has it: the way back.</param>
/// <param name="Entry">The entry point that the machine's own stood behind.</param>
/// <param name="Major">Version of the specification.</param>
/// <param name="Minor">The same, behind the full stop.</param>
/// <param name="Differences">What differs.</param>
/// <param name="Missing">What this table has no place for.</param>
/// <param name="Made">Whether no probe brought a table, and one was made from the dossier.</param>
public sealed record IdentityTable(
    byte[] Table,
    byte[] Original,
    SmbiosEntry Entry,
    byte Major,
    byte Minor,
    IReadOnlyList<IdentityDifference> Differences,
    IReadOnlyList<string> Missing,
    bool Made
)
{
    /// <summary>Puts an identity into a machine's table.</summary>
    /// <param name="own">The table as a probe brought it, bare or behind an entry point; null where none did.</param>
    /// <param name="facts">The dossier, from which one is made where no probe brought a table.</param>
    /// <param name="profile">The identity.</param>
    /// <exception cref="RefusedException">The table is damaged.</exception>
    public static IdentityTable Of(byte[]? own, IFacts facts, IdentityProfile profile)
    {
        var source = own ?? FromFacts(facts);
        try
        {
            var (entry, major, minor) = SmbiosRewriter.EntryOf(source);
            var original = SmbiosTable.Bare(source).ToArray();
            var written = SmbiosRewriter.Rewrite(original, profile.Edits);
            return new IdentityTable(
                written.Table,
                original,
                entry,
                major,
                minor,
                [
                    .. written.Changes.Select(c => new IdentityDifference(
                        c.Type,
                        c.Handle,
                        IdentityProfile.FieldName(c.Type, c.Offset),
                        c.Offset == 0x08 && c.Type == 1 ? Id(c.Before) : c.Before,
                        (c.Offset == 0x08 && c.Type == 1 ? Id(c.After) : c.After) ?? ""
                    )),
                ],
                [.. written.Missing.Select(c => IdentityProfile.FieldName(c.Type, c.Offset)).Distinct()],
                own is null
            );
        }
        catch (FormatRefusedException e)
        {
            throw new RefusedException(RefusalKind.Impossible, e.Message, e.Where, e.Wanted);
        }
    }

    /// <summary>The table as a file.</summary>
    /// <param name="original">Whether the machine's own is meant.</param>
    /// <param name="entry">
    /// The entry point; null for the one that the machine's own stood behind, or the 64-bit one where a kernel handed it out bare.
    /// </param>
    public byte[] File(bool original, SmbiosEntry? entry)
    {
        try
        {
            return SmbiosRewriter.Behind(
                original ? Original : Table,
                entry ?? (Entry == SmbiosEntry.Bare ? SmbiosEntry.Bits64 : Entry),
                Major,
                Minor
            );
        }
        catch (FormatRefusedException e)
        {
            throw new RefusedException(RefusalKind.Impossible, e.Message, e.Where, e.Wanted);
        }
    }

    private static string? Id(string? hex) =>
        hex is { Length: 32 } ? new Guid(Convert.FromHexString(hex)).ToString() : hex;

    private static byte[] FromFacts(IFacts facts)
    {
        var table = new SmbiosWriter();
        var maker = facts.Word("identity.maker") ?? "";
        table.Add(
            1,
            0x1b,
            s =>
            {
                s.Text(0x04, maker);
                s.Text(0x05, facts.Word("identity.model") ?? "");
                s.Text(0x07, facts.Word("identity.serial") ?? "");
                s.Byte(0x18, 0x06);
            }
        );
        table.Add(
            2,
            0x08,
            s =>
            {
                s.Text(0x04, maker);
                s.Text(0x05, facts.Word("identity.board") ?? "");
                s.Text(0x07, facts.Word("identity.boardSerial") ?? "");
            }
        );
        table.Add(
            3,
            0x11,
            s =>
            {
                s.Text(0x04, maker);
                s.Byte(0x05, 2);
                s.Text(0x07, facts.Word("identity.serial") ?? "");
            }
        );
        table.Add(
            4,
            0x2a,
            s =>
            {
                s.Byte(0x05, 3);
                s.Byte(0x06, 2);
                s.Text(0x07, facts.Word("cpu.maker") ?? "");
                s.Text(0x10, facts.Word("cpu.model") ?? "");
                s.Byte(0x18, 0x41);
            }
        );
        return table.Finish();
    }
}
