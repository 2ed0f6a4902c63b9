using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.Smbios;

/// <summary>A structure of an SMBIOS table.</summary>
/// <param name="Type">Its type; 127 ends a table.</param>
/// <param name="Handle">Its handle.</param>
/// <param name="Data">The formatted area with its four bytes of header.</param>
/// <param name="Strings">The strings behind it; string number 1 is the first.</param>
public sealed record SmbiosStructure(byte Type, ushort Handle, ReadOnlyMemory<byte> Data, IReadOnlyList<string> Strings)
{
    /// <summary>The byte at an offset, or null when this version of the structure is too short for it.</summary>
    public byte? Byte(int offset) => offset < Data.Length ? Data.Span[offset] : null;

    /// <summary>The little-endian 16-bit number at an offset, or null.</summary>
    public ushort? Word(int offset) =>
        offset + 2 <= Data.Length ? BinaryPrimitives.ReadUInt16LittleEndian(Data.Span[offset..]) : null;

    /// <summary>The little-endian 32-bit number at an offset, or null.</summary>
    public uint? DoubleWord(int offset) =>
        offset + 4 <= Data.Length ? BinaryPrimitives.ReadUInt32LittleEndian(Data.Span[offset..]) : null;

    /// <summary>The little-endian 64-bit number at an offset, or null.</summary>
    public ulong? QuadWord(int offset) =>
        offset + 8 <= Data.Length ? BinaryPrimitives.ReadUInt64LittleEndian(Data.Span[offset..]) : null;

    /// <summary>The string whose number stands at an offset, or null when there is none.</summary>
    public string? Text(int offset) =>
        Byte(offset) is { } number and > 0 && number <= Strings.Count ? Strings[number - 1] : null;
}

/// <summary>The binary SMBIOS table, after DSP0134, System Management BIOS Reference Specification, section 6.</summary>
public static class SmbiosTable
{
    private const byte EndOfTable = 127;
    private const string Whole = "The whole table, as the machine has it.";

    /// <summary>Reads the structures of a bare table as the kernel hands it out.</summary>
    /// <param name="table">The table.</param>
    /// <param name="damage">Called once with the place where the table stops making sense, if it does.</param>
    public static IReadOnlyList<SmbiosStructure> Read(ReadOnlyMemory<byte> table, Action<string>? damage = null)
    {
        var structures = new List<SmbiosStructure>();
        var span = table.Span;
        var at = 0;
        while (at < span.Length)
        {
            if (span.Length - at < 4 || span[at + 1] < 4 || at + span[at + 1] > span.Length)
            {
                damage?.Invoke(
                    $"offset {at}: the table is cut off or damaged; {structures.Count} structures before it are used"
                );
                break;
            }
            var length = span[at + 1];
            var strings = ReadStrings(span[(at + length)..], out var used);
            if (strings is null)
            {
                damage?.Invoke(
                    $"offset {at}: the strings of a structure do not end; {structures.Count} structures before it are used"
                );
                break;
            }
            structures.Add(
                new SmbiosStructure(
                    span[at],
                    BinaryPrimitives.ReadUInt16LittleEndian(span[(at + 2)..]),
                    table.Slice(at, length),
                    strings
                )
            );
            at += length + used;
            if (structures[^1].Type == EndOfTable)
                break;
        }
        return structures;
    }

    /// <summary>
    /// The bare table in bytes that are one, or that start with an entry point (sections 5.2.1 and 5.2.2) as a dump of
    /// memory does.
    /// </summary>
    /// <exception cref="FormatRefusedException">The entry point is damaged, or leads out of the file.</exception>
    public static ReadOnlyMemory<byte> Bare(byte[] bytes)
    {
        var (length, at, size) = bytes switch
        {
            [(byte)'_', (byte)'S', (byte)'M', (byte)'3', (byte)'_', ..] when bytes.Length >= 0x18 => (
                bytes[6],
                BinaryPrimitives.ReadUInt64LittleEndian(bytes.AsSpan(0x10)),
                // The size of version 3 is a most; the table ends with its type 127.
                Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(0x0c)), (ulong)bytes.Length)
            ),
            [(byte)'_', (byte)'S', (byte)'M', (byte)'_', ..] when bytes.Length >= 0x1f => (
                bytes[5],
                BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(0x18)),
                BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(0x16))
            ),
            _ => ((byte)0, 0UL, (ulong)bytes.Length),
        };
        if (length == 0)
            return bytes;
        if (length > bytes.Length || bytes.AsSpan(0, length).ToArray().Aggregate(0, (sum, b) => sum + b) % 256 != 0)
            throw new FormatRefusedException("The checksum of the entry point is wrong.", "offset 0", Whole);
        if (at >= (ulong)bytes.Length || size == 0)
            throw new FormatRefusedException("The entry point leads out of the file.", $"offset {at}", Whole);
        return bytes.AsMemory((int)at, (int)Math.Min(size, (ulong)bytes.Length - at));
    }

    /// <summary>Whether bytes start like a bare table: type 0 or 1 first, strings that end, then another structure.</summary>
    public static bool Recognises(byte[] bytes) =>
        bytes is [(byte)'_', (byte)'S', (byte)'M', ..]
        || (bytes is [0 or 1, >= 18 and < 64, ..] && Read(bytes).Count > 2);

    private static List<string>? ReadStrings(ReadOnlySpan<byte> area, out int used)
    {
        var strings = new List<string>();
        used = 0;
        if (area is [0, 0, ..])
        {
            used = 2;
            return strings;
        }
        while (used < area.Length)
        {
            var length = area[used..].IndexOf((byte)0);
            if (length < 0)
                return null;
            if (length == 0)
            {
                used++;
                return strings;
            }
            strings.Add(Encoding.Latin1.GetString(area.Slice(used, length)));
            used += length + 1;
        }
        return null;
    }
}
