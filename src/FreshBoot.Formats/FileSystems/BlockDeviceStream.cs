namespace FreshBoot.Formats.FileSystems;

/// <summary>A device read as a stream.</summary>
public sealed class BlockDeviceStream(IBlockDevice device) : Stream
{
    /// <inheritdoc/>
    public override bool CanRead => true;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => false;

    /// <inheritdoc/>
    public override long Length => device.SizeBytes;

    /// <inheritdoc/>
    public override long Position { get; set; }

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        var want = (int)Math.Clamp(Length - Position, 0, buffer.Length);
        if (want == 0)
            return 0;
        device.Read(Position, buffer[..want]);
        Position += want;
        return want;
    }

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch
        {
            SeekOrigin.Begin => offset,
            SeekOrigin.Current => Position + offset,
            _ => Length + offset,
        };

    /// <inheritdoc/>
    public override void Flush() { }

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
