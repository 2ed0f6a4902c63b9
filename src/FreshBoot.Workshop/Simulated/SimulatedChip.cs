using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Workshop.Simulated;

/// <summary>What is wrong with a simulated chip; of some of it less is left each time.</summary>
/// <param name="Protected">Whether write protection is on.</param>
/// <param name="WrongScrews">How many screws are tried before the right one.</param>
/// <param name="FlakyReads">In how many of the next reads a bit is wrong: a bad contact.</param>
/// <param name="PowerLostAfterBytes">After how many bytes written the power goes, once; null for never.</param>
/// <param name="BytesPerSecond">How fast it is; null for as fast as the disk beneath.</param>
public sealed record ChipFaults(
    bool Protected = true,
    int WrongScrews = 0,
    int FlakyReads = 0,
    long? PowerLostAfterBytes = null,
    long? BytesPerSecond = null
);

/// <summary>The power went while a chip was written.</summary>
public sealed class PowerLostException(long at)
    : IOException($"The power went at byte {at}: the chip is half written.");

/// <summary>A flash chip kept in a file: it is erased in blocks of 4 KiB before it is written, as such chips are.</summary>
public sealed class SimulatedChip : IBlockDevice
{
    /// <summary>The smallest piece that is erased.</summary>
    public const int BlockBytes = 4096;

    private readonly FileStream _file;
    private readonly bool _flaky;
    private long _written;

    /// <summary>Clips onto it.</summary>
    /// <param name="path">Its file.</param>
    /// <param name="faults">What is wrong with it.</param>
    public SimulatedChip(string path, ChipFaults faults)
    {
        _file = new FileStream(path, FileMode.Open, FileAccess.ReadWrite, FileShare.None, 0);
        Faults = faults;
        _flaky = faults.FlakyReads > 0;
        SizeBytes = _file.Length;
    }

    /// <summary>What is wrong with it from now on.</summary>
    public ChipFaults Faults { get; private set; }

    /// <inheritdoc/>
    public long SizeBytes { get; }

    /// <inheritdoc/>
    public void Read(long offset, Span<byte> into)
    {
        Check(offset, into.Length);
        _file.Position = offset;
        _file.ReadExactly(into);
        // One bit in the middle, another one each time.
        var bad = SizeBytes / 2 + Faults.FlakyReads;
        if (_flaky && bad >= offset && bad < offset + into.Length)
        {
            into[(int)(bad - offset)] ^= 0x10;
            Faults = Faults with { FlakyReads = Faults.FlakyReads - 1 };
        }
        Wait(into.Length);
    }

    /// <summary>Erases the blocks that are met, and writes.</summary>
    /// <exception cref="IOException">Write protection is on, or the power went.</exception>
    public void Write(long offset, ReadOnlySpan<byte> bytes)
    {
        Check(offset, bytes.Length);
        if (Faults.Protected)
            throw new IOException(
                "Write protection is still on: it was another screw, or the chip has not noticed yet. Nothing was written."
            );
        for (var done = 0; done < bytes.Length; done += BlockBytes)
        {
            var piece = bytes[done..Math.Min(bytes.Length, done + BlockBytes)];
            _file.Position = offset + done;
            _file.Write(Erased.AsSpan(0, piece.Length));
            if (Faults.PowerLostAfterBytes is { } lost && _written + piece.Length > lost)
            {
                _file.Position = offset + done;
                _file.Write(piece[..(int)Math.Max(0, lost - _written)]);
                _file.Flush(flushToDisk: true);
                Faults = Faults with { PowerLostAfterBytes = null };
                throw new PowerLostException(offset + done);
            }
            _file.Position = offset + done;
            _file.Write(piece);
            _written += piece.Length;
        }
        Wait(bytes.Length);
    }

    /// <inheritdoc/>
    public void Flush() => _file.Flush(flushToDisk: true);

    /// <inheritdoc/>
    public void Dispose() => _file.Dispose();

    private static readonly byte[] Erased = [.. Enumerable.Repeat((byte)0xff, BlockBytes)];

    private void Check(long offset, int length)
    {
        if (offset < 0 || offset > SizeBytes - length)
            throw new IOException($"Address {offset} lies beyond the end of the chip.");
    }

    private void Wait(int bytes)
    {
        if (Faults.BytesPerSecond is { } speed)
            Thread.Sleep(TimeSpan.FromSeconds((double)bytes / speed));
    }
}
