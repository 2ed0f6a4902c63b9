using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.Smbios;

/// <summary>What a table stands behind: nothing, or one of the two entry points.</summary>
public enum SmbiosEntry
{
    /// <summary>The bare table, as a kernel hands it out.</summary>
    Bare,

    /// <summary>The 32-bit entry point (DSP0134, section 5.2.1), table length and structure count in 16 bits.</summary>
    Bits32,

    /// <summary>The 64-bit entry point (DSP0134, section 5.2.2).</summary>
    Bits64,
}

/// <summary>Something that is set in the structures of a type.</summary>
/// <param name="Type">Type of the structures.</param>
/// <param name="Offset">Offset of the field in the formatted area.</param>
/// <param name="Text">The string that the field names; null where <paramref name="Bytes"/> are set.</param>
/// <param name="Bytes">Bytes that are set at the offset; null where a string is set.</param>
public sealed record SmbiosEdit(byte Type, int Offset, string? Text, byte[]? Bytes = null);

/// <summary>A field that an edit changed, or could not.</summary>
/// <param name="Type">Type of the structure.</param>
/// <param name="Handle">Its handle.</param>
/// <param name="Offset">Offset of the field.</param>
/// <param name="Before">What stood there; null for nothing.</param>
/// <param name="After">What stands there now; null where the structure is too short to have the field.</param>
public sealed record SmbiosChange(byte Type, ushort Handle, int Offset, string? Before, string? After);

/// <summary>A rewritten table.</summary>
/// <param name="Table">The bare table.</param>
/// <param name="Changes">What was changed.</param>
/// <param name="Missing">Fields that a structure of this version does not have.</param>
public sealed record SmbiosRewritten(
    byte[] Table,
    IReadOnlyList<SmbiosChange> Changes,
    IReadOnlyList<SmbiosChange> Missing
);

/// <summary>
/// Rewrites strings and bytes of an SMBIOS table and leaves everything else as it is: other structures to the byte, handles, the
/// order, and strings that another field names too. After DSP0134, System Management BIOS Reference Specification, section 6.
/// </summary>
public static class SmbiosRewriter
{
    private const int EntryRoom = 0x20;
    private const int LongestString = 64;

    /// <summary>Offsets of string numbers in the structures that hold an identity (sections 7.2, 7.3, 7.4 and 7.5).</summary>
    private static readonly Dictionary<byte, int[]> StringFields = new()
    {
        [1] = [0x04, 0x05, 0x06, 0x07, 0x19, 0x1a],
        [2] = [0x04, 0x05, 0x06, 0x07, 0x08, 0x0a],
        [3] = [0x04, 0x06, 0x07, 0x08],
        [4] = [0x04, 0x07, 0x10, 0x20, 0x21, 0x22],
    };

    /// <summary>Rewrites a bare table.</summary>
    /// <param name="table">The table; it has to be whole.</param>
    /// <param name="edits">What is set, in every structure of its type.</param>
    /// <exception cref="FormatRefusedException">The table is damaged, or a string cannot stand in one.</exception>
    public static SmbiosRewritten Rewrite(ReadOnlyMemory<byte> table, IReadOnlyList<SmbiosEdit> edits)
    {
        foreach (var text in edits.Select(e => e.Text).OfType<string>())
            if (text.Length > LongestString || text.Any(c => c is < ' ' or > '~'))
                throw new FormatRefusedException(
                    $"“{text}” cannot stand in a table.",
                    "text",
                    $"At most {LongestString} printable ASCII signs (DSP0134, section 6.1.3)."
                );
        string? damage = null;
        var structures = SmbiosTable.Read(table, d => damage = d);
        if (damage is not null)
            throw new FormatRefusedException(
                "The table is damaged.",
                damage,
                "The whole table, as the machine has it."
            );
        var written = new List<byte>(table.Length + 256);
        var (changes, missing) = (new List<SmbiosChange>(), new List<SmbiosChange>());
        var taken = 0;
        foreach (var structure in structures)
        {
            var own = edits.Where(e => e.Type == structure.Type).ToArray();
            var length = LengthOf(structure, table.Span[taken..]);
            if (own.Length == 0)
                written.AddRange(table.Span.Slice(taken, length));
            else
                Write(structure, own, written, changes, missing);
            taken += length;
        }
        // What stands behind the end of the table belongs to nobody, and stays.
        written.AddRange(table.Span[taken..]);
        return new SmbiosRewritten([.. written], changes, missing);
    }

    /// <summary>A bare table behind an entry point, as a dump of memory has it: the table at offset 32.</summary>
    /// <param name="table">The bare table.</param>
    /// <param name="entry">Which entry point; bare gives the table as it is.</param>
    /// <param name="major">Version of the specification.</param>
    /// <param name="minor">The same, behind the full stop.</param>
    /// <exception cref="FormatRefusedException">The table is too long for the entry point.</exception>
    public static byte[] Behind(byte[] table, SmbiosEntry entry, byte major, byte minor)
    {
        if (entry == SmbiosEntry.Bare)
            return table;
        var bytes = new byte[EntryRoom + table.Length];
        table.CopyTo(bytes, EntryRoom);
        var structures = SmbiosTable.Read(table);
        if (entry == SmbiosEntry.Bits64)
        {
            "_SM3_"u8.CopyTo(bytes);
            bytes[0x06] = 0x18;
            (bytes[0x07], bytes[0x08], bytes[0x0a]) = (major, minor, 1);
            BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(0x0c), (uint)table.Length);
            BinaryPrimitives.WriteUInt64LittleEndian(bytes.AsSpan(0x10), EntryRoom);
            bytes[0x05] = Balance(bytes.AsSpan(0, 0x18));
            return bytes;
        }
        if (table.Length > ushort.MaxValue)
            throw new FormatRefusedException(
                "The table is too long for a 32-bit entry point.",
                "entry",
                $"At most {ushort.MaxValue} bytes, or the 64-bit entry point."
            );
        "_SM_"u8.CopyTo(bytes);
        bytes[0x05] = 0x1f;
        (bytes[0x06], bytes[0x07]) = (major, minor);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(0x08), LargestOf(structures, table));
        "_DMI_"u8.CopyTo(bytes.AsSpan(0x10));
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(0x16), (ushort)table.Length);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(0x18), EntryRoom);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(0x1c), (ushort)structures.Count);
        bytes[0x1e] = (byte)(major << 4 | minor);
        bytes[0x15] = Balance(bytes.AsSpan(0x10, 0x0f));
        bytes[0x04] = Balance(bytes.AsSpan(0, 0x1f));
        return bytes;
    }

    /// <summary>Which entry point bytes begin with, and the version that it names; 3.0 for a bare table, which names none.</summary>
    public static (SmbiosEntry Entry, byte Major, byte Minor) EntryOf(ReadOnlySpan<byte> bytes) =>
        bytes switch
        {
            [(byte)'_', (byte)'S', (byte)'M', (byte)'3', (byte)'_', _, _, var major, var minor, ..] => (
                SmbiosEntry.Bits64,
                major,
                minor
            ),
            [(byte)'_', (byte)'S', (byte)'M', (byte)'_', _, _, var major, var minor, ..] => (
                SmbiosEntry.Bits32,
                major,
                minor
            ),
            _ => (SmbiosEntry.Bare, 3, 0),
        };

    private static void Write(
        SmbiosStructure structure,
        SmbiosEdit[] edits,
        List<byte> written,
        List<SmbiosChange> changes,
        List<SmbiosChange> missing
    )
    {
        var data = structure.Data.ToArray();
        var strings = structure.Strings.ToList();
        foreach (var edit in edits)
        {
            var end = edit.Offset + (edit.Bytes?.Length ?? 1);
            if (edit.Offset < 4 || end > data.Length)
            {
                missing.Add(new SmbiosChange(structure.Type, structure.Handle, edit.Offset, null, null));
                continue;
            }
            string? before;
            string? after;
            if (edit.Bytes is { } bytes)
            {
                before = Convert.ToHexString(data.AsSpan(edit.Offset, bytes.Length));
                bytes.CopyTo(data, edit.Offset);
                after = Convert.ToHexString(bytes);
            }
            else
            {
                var number = data[edit.Offset];
                before = number > 0 && number <= strings.Count ? strings[number - 1] : null;
                after = edit.Text!.Length == 0 ? null : edit.Text;
                if (before == after)
                    continue;
                var shared =
                    StringFields.GetValueOrDefault(structure.Type, []).Count(o => o < data.Length && data[o] == number)
                    > 1;
                if (after is null)
                    data[edit.Offset] = 0;
                else if (before is not null && !shared)
                    strings[number - 1] = after;
                else
                {
                    strings.Add(after);
                    data[edit.Offset] = (byte)strings.Count;
                }
            }
            if (before != after)
                changes.Add(new SmbiosChange(structure.Type, structure.Handle, edit.Offset, before, after ?? ""));
        }
        written.AddRange(data);
        foreach (var text in strings)
        {
            written.AddRange(Encoding.Latin1.GetBytes(text));
            written.Add(0);
        }
        if (strings.Count == 0)
            written.Add(0);
        written.Add(0);
    }

    /// <summary>Bytes of a structure with its strings and the two zeros that end them (section 6.1.3).</summary>
    private static int LengthOf(SmbiosStructure structure, ReadOnlySpan<byte> from)
    {
        var at = structure.Data.Length;
        if (from.Length >= at + 2 && from[at] == 0 && from[at + 1] == 0)
            return at + 2;
        while (at < from.Length && from[at] != 0)
            at += from[at..].IndexOf((byte)0) + 1;
        return at + 1;
    }

    private static ushort LargestOf(IReadOnlyList<SmbiosStructure> structures, ReadOnlySpan<byte> table)
    {
        var (at, largest) = (0, 0);
        foreach (var structure in structures)
        {
            var length = LengthOf(structure, table[at..]);
            largest = Math.Max(largest, length);
            at += length;
        }
        return (ushort)largest;
    }

    /// <summary>The byte that makes a sum of bytes zero; its own place holds zero while they are added.</summary>
    private static byte Balance(ReadOnlySpan<byte> bytes)
    {
        byte sum = 0;
        foreach (var b in bytes)
            sum += b;
        return (byte)-sum;
    }
}
