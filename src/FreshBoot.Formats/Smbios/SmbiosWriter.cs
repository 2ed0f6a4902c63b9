using System.Buffers.Binary;
using System.Text;

namespace FreshBoot.Formats.Smbios;

/// <summary>Builds SMBIOS structures and tables, after DSP0134 section 6: formatted area, strings, two zero bytes.</summary>
public sealed class SmbiosWriter
{
    private readonly List<byte> _table = [];
    private ushort _handle = 0x0100;

    /// <summary>Adds a structure of <paramref name="length"/> bytes and returns its handle.</summary>
    /// <param name="type">The type.</param>
    /// <param name="length">Length of the formatted area with its header, 4 to 255.</param>
    /// <param name="fill">Fills it in.</param>
    public ushort Add(byte type, byte length, Action<Structure> fill)
    {
        var structure = new Structure(length);
        fill(structure);
        var handle = _handle++;
        structure.Data[0] = type;
        structure.Data[1] = length;
        BinaryPrimitives.WriteUInt16LittleEndian(structure.Data.AsSpan(2), handle);
        _table.AddRange(structure.Data);
        foreach (var text in structure.Strings)
        {
            _table.AddRange(Encoding.Latin1.GetBytes(text));
            _table.Add(0);
        }
        if (structure.Strings.Count == 0)
            _table.Add(0);
        _table.Add(0);
        return handle;
    }

    /// <summary>Ends the table (type 127) and returns it.</summary>
    public byte[] Finish()
    {
        Add(127, 4, _ => { });
        return [.. _table];
    }

    /// <summary>The formatted area of a structure while it is filled in; all zero at first.</summary>
    public sealed class Structure(byte length)
    {
        internal byte[] Data { get; } = new byte[length];
        internal List<string> Strings { get; } = [];

        /// <summary>Sets a byte.</summary>
        public void Byte(int offset, byte value) => Data[offset] = value;

        /// <summary>Sets a 16-bit number.</summary>
        public void Word(int offset, ushort value) =>
            BinaryPrimitives.WriteUInt16LittleEndian(Data.AsSpan(offset), value);

        /// <summary>Sets a 32-bit number.</summary>
        public void DoubleWord(int offset, uint value) =>
            BinaryPrimitives.WriteUInt32LittleEndian(Data.AsSpan(offset), value);

        /// <summary>Sets a 64-bit number.</summary>
        public void QuadWord(int offset, ulong value) =>
            BinaryPrimitives.WriteUInt64LittleEndian(Data.AsSpan(offset), value);

        /// <summary>Adds a string and sets its number; an empty text stays number 0, "no string".</summary>
        public void Text(int offset, string value)
        {
            if (value.Length == 0)
                return;
            Strings.Add(value);
            Data[offset] = (byte)Strings.Count;
        }
    }
}
