using System.Buffers.Binary;
using CsCheck;
using FreshBoot.Formats.Smbios;

namespace FreshBoot.Formats.Tests.Smbios;

public class SmbiosRewriterTests
{
    private static readonly Gen<string> Text = Pick.From([.. "ABCdef 123-"]).Array[1, 12].Select(c => new string(c));

    /// <summary>A structure with any fields: strings at the places where an identity has them, and beside them.</summary>
    private static readonly Gen<(byte Type, byte Length, (int At, string Text)[] Strings, byte Fill)> Structure =
        Gen.Select(Gen.Byte[0, 43], Gen.Byte[8, 40], Gen.Select(Gen.Int[4, 39], Text).Array[0, 5], Gen.Byte);

    private static readonly Gen<byte[]> Table = Structure
        .Array[1, 12]
        .Select(all =>
        {
            var writer = new SmbiosWriter();
            foreach (var (type, length, strings, fill) in all)
                writer.Add(
                    type,
                    length,
                    s =>
                    {
                        // Bytes that are no string numbers: larger than there are strings, or none.
                        for (var i = 4; i < length; i++)
                            s.Byte(i, fill < 64 ? (byte)0 : fill);
                        foreach (var (at, text) in strings.DistinctBy(t => t.At).Where(t => t.At < length))
                            s.Text(at, text);
                    }
                );
            return writer.Finish();
        });

    private static readonly Gen<SmbiosEdit[]> Edits = Gen.Select(
        Gen.Byte[0, 6],
        Gen.Int[4, 30],
        Text,
        (type, offset, text) => new SmbiosEdit(type, offset, text)
    ).Array[0, 6];

    [Fact]
    public void What_is_not_set_stays_to_the_byte_and_what_is_set_is_read_back() =>
        Gen.Select(Table, Edits)
            .Sample(
                (table, edits) =>
                {
                    var written = SmbiosRewriter.Rewrite(table, edits);
                    var (before, after) = (SmbiosTable.Read(table), SmbiosTable.Read(written.Table));

                    after.Count.ShouldBe(before.Count);
                    for (var i = 0; i < before.Count; i++)
                    {
                        (after[i].Type, after[i].Handle).ShouldBe((before[i].Type, before[i].Handle));
                        var own = edits.Where(e => e.Type == before[i].Type).ToArray();
                        if (own.Length == 0)
                        {
                            after[i].Data.ToArray().ShouldBe(before[i].Data.ToArray());
                            after[i].Strings.ShouldBe(before[i].Strings);
                        }
                        for (var at = 4; at < before[i].Data.Length; at++)
                            if (own.LastOrDefault(e => e.Offset == at) is { } edit)
                                after[i].Text(at).ShouldBe(edit.Text);
                            else if (own.Length > 0 && before[i].Text(at) is { } kept && Known(before[i].Type, at))
                                after[i].Text(at).ShouldBe(kept);
                        after[i].Data.Length.ShouldBe(before[i].Data.Length);
                    }
                    if (edits.Length == 0)
                        written.Table.ShouldBe(table);
                }
            );

    private static bool Known(byte type, int at) =>
        type switch
        {
            1 => at is 4 or 5 or 6 or 7 or 0x19 or 0x1a,
            2 => at is 4 or 5 or 6 or 7 or 8 or 0x0a,
            3 => at is 4 or 6 or 7 or 8,
            4 => at is 4 or 7 or 0x10 or 0x20 or 0x21 or 0x22,
            _ => false,
        };

    [Fact]
    public void Entry_points_have_their_checksums_and_tell_length_count_and_the_largest_structure() =>
        Table.Sample(table =>
        {
            var structures = SmbiosTable.Read(table);
            var old = SmbiosRewriter.Behind(table, SmbiosEntry.Bits32, 2, 8);
            old.Take(0x1f).Aggregate(0, (sum, b) => sum + b).ShouldBe(old.Take(0x1f).Sum(b => b) / 256 * 256);
            (old.AsSpan(0x10, 0x0f).ToArray().Sum(b => b) % 256).ShouldBe(0);
            BinaryPrimitives.ReadUInt16LittleEndian(old.AsSpan(0x16)).ShouldBe((ushort)table.Length);
            BinaryPrimitives.ReadUInt16LittleEndian(old.AsSpan(0x1c)).ShouldBe((ushort)structures.Count);
            BinaryPrimitives
                .ReadUInt16LittleEndian(old.AsSpan(0x08))
                .ShouldBe((ushort)structures.Max(s => SmbiosRewriter.Rewrite(One(s), []).Table.Length));
            SmbiosTable.Bare(old).ToArray().ShouldBe(table);
            SmbiosRewriter.EntryOf(old).ShouldBe((SmbiosEntry.Bits32, (byte)2, (byte)8));

            var young = SmbiosRewriter.Behind(table, SmbiosEntry.Bits64, 3, 3);
            (young.Take(0x18).Sum(b => b) % 256).ShouldBe(0);
            SmbiosTable.Bare(young).ToArray().ShouldBe(table);
        });

    private static byte[] One(SmbiosStructure structure)
    {
        var bytes = structure.Data.ToArray().ToList();
        foreach (var text in structure.Strings)
            bytes.AddRange([.. text.Select(c => (byte)c), 0]);
        if (structure.Strings.Count == 0)
            bytes.Add(0);
        bytes.Add(0);
        return [.. bytes];
    }

    [Fact]
    public void A_string_that_another_field_names_too_stays_for_that_one()
    {
        var writer = new SmbiosWriter();
        writer.Add(
            1,
            0x1b,
            s =>
            {
                s.Text(0x04, "Ottavine");
                s.Byte(0x1a, 1);
            }
        );
        var read = SmbiosTable.Read(SmbiosRewriter.Rewrite(writer.Finish(), [new(1, 0x04, "Other")]).Table)[0];

        read.Text(0x04).ShouldBe("Other");
        read.Text(0x1a).ShouldBe("Ottavine");
    }

    [Fact]
    public void What_cannot_be_is_refused_or_named()
    {
        var writer = new SmbiosWriter();
        writer.Add(1, 8, s => s.Text(0x04, "Ottavine"));
        var table = writer.Finish();

        // A table of 1996 has no place for an id.
        SmbiosRewriter.Rewrite(table, [new(1, 0x08, null, new byte[16])]).Missing.ShouldHaveSingleItem();
        Should.Throw<FormatRefusedException>(() => SmbiosRewriter.Rewrite(table, [new(1, 0x04, "a\0b")]));
        Should.Throw<FormatRefusedException>(() => SmbiosRewriter.Rewrite(table, [new(1, 0x04, new string('x', 65))]));
        Should.Throw<FormatRefusedException>(() => SmbiosRewriter.Rewrite(table.AsMemory(0, 9), []));
        Should.Throw<FormatRefusedException>(() => SmbiosRewriter.Behind(new byte[70_000], SmbiosEntry.Bits32, 2, 8));
    }

    [Fact]
    public void Whatever_the_bytes_are_it_is_rewritten_or_refused() =>
        Gen
            .Byte.Array[0, 300]
            .Sample(bytes =>
            {
                try
                {
                    SmbiosRewriter.Rewrite(bytes, [new(1, 0x04, "x"), new(2, 0x05, "y")]);
                }
                catch (FormatRefusedException) { }
            });
}
