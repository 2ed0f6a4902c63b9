namespace FreshBoot.Formats.FileSystems;

/// <summary>Bytes by their offset. Every call may fail as hardware does, with an <see cref="IOException"/>.</summary>
public interface IBlockDevice : IDisposable
{
    /// <summary>Size that it claims, in bytes.</summary>
    long SizeBytes { get; }

    /// <summary>Writes bytes.</summary>
    void Write(long offset, ReadOnlySpan<byte> bytes);

    /// <summary>Reads exactly so many bytes.</summary>
    void Read(long offset, Span<byte> into);

    /// <summary>Has everything that was written reach the device.</summary>
    void Flush();
}
