using System.Buffers.Binary;

namespace FreshBoot.Core.Probes;

/// <summary>
/// What a screen says of itself: VESA Enhanced Extended Display Identification Data, release A revision 2 (EDID 1.4),
/// section 3. The first detailed timing is the native one.
/// </summary>
internal static class EdidReader
{
    private const string Name = "edid";
    private const int BlockBytes = 128;
    private static readonly byte[] Header = [0x00, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x00];

    public static bool Recognises(byte[] bytes) => bytes.AsSpan().StartsWith(Header);

    public static void Read(byte[] bytes, Report report)
    {
        if (bytes.Length < BlockBytes || !Recognises(bytes))
            throw new UnreadableSourceException("It is no EDID block.", "offset 0, where eight fixed bytes stand");
        var block = bytes.AsSpan(0, BlockBytes);
        var sum = 0;
        foreach (var b in block)
            sum += b;
        if (sum % 256 != 0)
            throw new UnreadableSourceException("The checksum of the EDID block is wrong.", "offset 127");

        // One file a screen; they come in the order of their connectors.
        var i = Enumerable.Range(0, 10).FirstOrDefault(n => !report.Has($"display.{n}.widthPixels"), 10);
        if (i == 10)
            return;
        var timing = block[54..72];
        if (BinaryPrimitives.ReadUInt16LittleEndian(timing) != 0)
        {
            report.Add($"display.{i}.widthPixels", Name, timing[2] | (timing[4] & 0xf0) << 4);
            report.Add($"display.{i}.heightPixels", Name, timing[5] | (timing[7] & 0xf0) << 4);
            var (width, height) = (timing[12] | (timing[14] & 0xf0) << 4, timing[13] | (timing[14] & 0x0f) << 8);
            if (width > 0 && height > 0)
            {
                report.Add($"display.{i}.widthMm", Name, width);
                report.Add($"display.{i}.heightMm", Name, height);
            }
        }
        // Byte 17 counts years from 1990; a week of 255 says that it is the model's year.
        if (block[17] > 0)
            report.Add($"display.{i}.year", Name, 1990 + block[17]);
    }
}
