namespace FreshBoot.Formats.FileSystems;

/// <summary>
/// A stretch of an image, read with every bound checked. What an image says of itself is never trusted: a read that would
/// leave the stretch gives nothing, and the total that may be read is limited, so that a hostile image costs little.
/// </summary>
internal sealed class ImageBytes
{
    private readonly Stream _stream;
    private readonly long _start;
    private readonly Allowance _allowance;

    public ImageBytes(Stream stream)
        : this(stream, 0, stream.Length, new Allowance()) { }

    private ImageBytes(Stream stream, long start, long length, Allowance allowance)
    {
        (_stream, _start, Length, _allowance) = (stream, start, length, allowance);
    }

    /// <summary>Bytes in this stretch.</summary>
    public long Length { get; }

    /// <summary>Where it begins in the image.</summary>
    public long Start => _start;

    /// <summary>A part of it, cut to what is there.</summary>
    public ImageBytes Part(long offset, long length)
    {
        offset = Math.Clamp(offset, 0, Length);
        return new ImageBytes(_stream, _start + offset, Math.Clamp(length, 0, Length - offset), _allowance);
    }

    /// <summary>Reads exactly so many bytes, or none where they are not all there or too much was read already.</summary>
    public bool TryRead(long offset, Span<byte> into)
    {
        if (offset < 0 || into.Length > Length || offset > Length - into.Length || !_allowance.Take(into.Length))
            return false;
        _stream.Position = _start + offset;
        return _stream.ReadAtLeast(into, into.Length, throwOnEndOfStream: false) == into.Length;
    }

    /// <summary>The bytes, or null where they are not all there.</summary>
    public byte[]? Read(long offset, int length)
    {
        if (length < 0 || length > Length || offset < 0 || offset > Length - length)
            return null;
        var bytes = new byte[length];
        return TryRead(offset, bytes) ? bytes : null;
    }

    /// <summary>What one inspection may read in all: far more than the directories of any real installer.</summary>
    private sealed class Allowance
    {
        private long _left = 512L << 20;

        public bool Take(int bytes)
        {
            _left -= bytes;
            return _left >= 0;
        }
    }
}
