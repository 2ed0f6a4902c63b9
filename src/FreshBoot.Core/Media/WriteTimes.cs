namespace FreshBoot.Core.Media;

/// <summary>How long it takes to write an image and to read it back, in minutes, for whoever plans a day around it.</summary>
/// <param name="Shortest">With a port and a medium twice as quick as they look.</param>
/// <param name="Usual">At the speed of the medium, or of an ordinary stick where none is chosen yet.</param>
/// <param name="Worry">Three times the usual: a cheap stick slows down as it fills, and then it is still writing.</param>
public sealed record WriteTimes(int Shortest, int Usual, int Worry)
{
    /// <summary>
    /// A stick of no special make at a USB 2.0 port: it writes 6 MB and reads 20 MB a second, as the shop's own ones do when they
    /// are measured.
    /// </summary>
    private static readonly MediumFacts Ordinary = new(MediumKind.Stick, long.MaxValue, 2, 6_000_000, 20_000_000);

    /// <summary>The times for so many bytes.</summary>
    /// <param name="bytes">The size of the image.</param>
    /// <param name="medium">The medium; null for an ordinary stick.</param>
    public static WriteTimes Of(long bytes, MediumFacts? medium)
    {
        var on = medium ?? Ordinary;
        var port = on.IsDisc ? long.MaxValue : MediumFacts.PortBytesPerSecond(on.UsbGeneration);
        var seconds =
            bytes / (double)Math.Min(port, Math.Max(1, on.WriteBytesPerSecond))
            + bytes / (double)Math.Min(port, Math.Max(1, on.ReadBytesPerSecond));
        var usual = Math.Max(1, (int)Math.Ceiling(seconds / 60));
        return new WriteTimes(usual / 2, usual, 3 * usual);
    }
}
