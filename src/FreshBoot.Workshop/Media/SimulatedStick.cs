using FreshBoot.Core.Media;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Workshop.Media;

/// <summary>What is wrong with a simulated medium; nothing at first.</summary>
/// <param name="TrueBytes">Size that it really has where it claims more; addresses beyond fold back to the beginning.</param>
/// <param name="LosesBeyond">Whether what lies beyond its true size is lost instead.</param>
/// <param name="BadFrom">Where a bad area begins; null for none.</param>
/// <param name="BadBytes">Its size.</param>
/// <param name="PulledAfterBytes">After how many bytes written it is pulled out; null for never.</param>
/// <param name="BytesPerSecond">How fast it is; null for as fast as the disk beneath.</param>
public sealed record StickFaults(
    long? TrueBytes = null,
    bool LosesBeyond = false,
    long? BadFrom = null,
    long BadBytes = 0,
    long? PulledAfterBytes = null,
    long? BytesPerSecond = null
);

/// <summary>A stick, card or disc kept in a sparse file, with faults as real ones have them.</summary>
public sealed class SimulatedStick : IBlockDevice
{
    private readonly FileStream _file;
    private readonly StickFaults _faults;
    private long _written;
    private double _owed;

    /// <summary>Plugs it in.</summary>
    /// <param name="path">Its file; made where it is not there.</param>
    /// <param name="sizeBytes">Size that it claims.</param>
    /// <param name="faults">What is wrong with it.</param>
    public SimulatedStick(string path, long sizeBytes, StickFaults faults)
    {
        (SizeBytes, _faults) = (sizeBytes, faults);
        // One writer at a time, as with a real one.
        _file = new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None, 0);
        if (_file.Length < True)
            _file.SetLength(True);
    }

    /// <inheritdoc/>
    public long SizeBytes { get; }

    private long True => Math.Min(SizeBytes, _faults.TrueBytes ?? SizeBytes);

    /// <inheritdoc/>
    public void Write(long offset, ReadOnlySpan<byte> bytes)
    {
        Check(offset, bytes.Length);
        if (_faults.PulledAfterBytes is { } pulled && _written + bytes.Length > pulled)
        {
            // What went through before it was pulled is on it.
            var last = (int)Math.Max(0, pulled - _written);
            _written = pulled;
            Pieces(offset, last, bytes, static (file, piece) => file.Write(piece));
            throw new MediumGoneException();
        }
        Bad(offset, bytes.Length);
        _written += bytes.Length;
        Pieces(offset, bytes.Length, bytes, static (file, piece) => file.Write(piece));
        Wait(bytes.Length);
    }

    /// <inheritdoc/>
    public void Read(long offset, Span<byte> into)
    {
        Check(offset, into.Length);
        if (_faults.PulledAfterBytes is { } pulled && _written >= pulled)
            throw new MediumGoneException();
        Bad(offset, into.Length);
        for (var done = 0; done < into.Length; )
        {
            var (at, room) = Fold(offset + done);
            var take = (int)Math.Min(room, into.Length - done);
            if (at < 0)
                into.Slice(done, take).Clear();
            else
            {
                _file.Position = at;
                _file.ReadExactly(into.Slice(done, take));
            }
            done += take;
        }
        Wait(into.Length);
    }

    /// <inheritdoc/>
    public void Flush() => _file.Flush(flushToDisk: true);

    /// <inheritdoc/>
    public void Dispose() => _file.Dispose();

    private delegate void Take(FileStream file, ReadOnlySpan<byte> piece);

    private void Pieces(long offset, int length, ReadOnlySpan<byte> bytes, Take take)
    {
        for (var done = 0; done < length; )
        {
            var (at, room) = Fold(offset + done);
            var count = (int)Math.Min(room, length - done);
            if (at >= 0)
            {
                _file.Position = at;
                take(_file, bytes.Slice(done, count));
            }
            done += count;
        }
    }

    /// <summary>Where an address really lies, and how far one can go from there; below zero for nowhere.</summary>
    private (long At, long Room) Fold(long address) =>
        address < True ? (address, True - address)
        : _faults.LosesBeyond ? (-1, long.MaxValue)
        : (address % True, True - address % True);

    private void Check(long offset, int length)
    {
        if (offset < 0 || offset > SizeBytes - length)
            throw new IOException($"Address {offset} lies beyond the end of the medium.");
    }

    private void Bad(long offset, int length)
    {
        if (_faults.BadFrom is { } bad && offset < bad + _faults.BadBytes && offset + length > bad)
            throw new IOException($"The medium cannot be written or read near {Math.Max(bad, offset)}.");
    }

    private void Wait(int bytes)
    {
        if (_faults.BytesPerSecond is not { } speed)
            return;
        _owed += (double)bytes / speed;
        // Short sleeps are not kept exactly: they are saved up.
        if (_owed < 0.02)
            return;
        Thread.Sleep(TimeSpan.FromSeconds(_owed));
        _owed = 0;
    }
}

/// <summary>An image file that is written as if it were a medium.</summary>
public sealed class FileMedium : IBlockDevice
{
    private readonly FileStream _file;

    /// <summary>Begins the file.</summary>
    /// <exception cref="IOException">There is no room for it.</exception>
    public FileMedium(string path, long sizeBytes)
    {
        SizeBytes = sizeBytes;
        _file = new FileStream(path, FileMode.Create, FileAccess.ReadWrite, FileShare.None, 0);
        _file.SetLength(sizeBytes);
    }

    /// <inheritdoc/>
    public long SizeBytes { get; }

    /// <inheritdoc/>
    public void Write(long offset, ReadOnlySpan<byte> bytes)
    {
        _file.Position = offset;
        _file.Write(bytes);
    }

    /// <inheritdoc/>
    public void Read(long offset, Span<byte> into)
    {
        _file.Position = offset;
        _file.ReadExactly(into);
    }

    /// <inheritdoc/>
    public void Flush() => _file.Flush(flushToDisk: true);

    /// <inheritdoc/>
    public void Dispose() => _file.Dispose();
}
