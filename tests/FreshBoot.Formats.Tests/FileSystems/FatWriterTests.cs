using CsCheck;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Formats.Tests.FileSystems;

public class FatWriterTests
{
    private const long MiB = 1 << 20;

    private static FatWriter.Listed[] Files(int count, long size) =>
        [.. Enumerable.Range(0, count).Select(i => new FatWriter.Listed($"d{i % 40}/file number {i}.bin", size))];

    [Fact]
    public void F16_What_is_said_to_fit_is_what_the_writer_finds() =>
        Gen.Select(Gen.Int[0, 3000], Gen.Long[0, 400_000], Gen.Long[-3, 3])
            .Sample(
                (count, size, beside) =>
                {
                    var files = Files(count, size);
                    var needed = FatWriter.BytesFor(files);
                    (needed % MiB).ShouldBe(0);
                    FatWriter.Holds(files, needed - FatWriter.FirstByte).ShouldBeTrue($"{count} files of {size}");
                    var partition = needed - FatWriter.FirstByte + beside * MiB;
                    Writes(files, partition)
                        .ShouldBe(FatWriter.Holds(files, partition), $"{count} of {size}, {beside}");
                },
                iter: 40
            );

    /// <summary>The range in which clusters of 512 bytes make the tables large: what failed before.</summary>
    [Theory]
    [InlineData(150)]
    [InlineData(200)]
    [InlineData(255)]
    public void F16_Files_of_150_to_256_mebibytes_fit_where_it_says_so(int mebibytes)
    {
        var files = Files(20, mebibytes * MiB / 20);
        var needed = FatWriter.BytesFor(files);
        FatWriter.Holds(files, needed - FatWriter.FirstByte).ShouldBeTrue();
        Writes(files, needed - FatWriter.FirstByte).ShouldBeTrue();
    }

    [Fact]
    public void A_file_that_no_fat32_holds_is_told_with_its_path() =>
        Should
            .Throw<FormatRefusedException>(() =>
                FatWriter.BytesFor([new FatWriter.Listed("big.pak", FatWriter.LargestFile + 1)])
            )
            .Where.ShouldBe("big.pak");

    /// <summary>Whether the writer takes the files; what it writes is thrown away, and their content is zeros.</summary>
    private static bool Writes(FatWriter.Listed[] files, long partitionBytes)
    {
        try
        {
            FatWriter.Write(
                new Nowhere(partitionBytes + FatWriter.FirstByte),
                partitionBytes,
                "TEST",
                [.. files.Select(f => new FatWriter.Source(f.Path, f.SizeBytes, () => new Zeros()))],
                null,
                _ => { },
                default
            );
            return true;
        }
        catch (FormatRefusedException)
        {
            return false;
        }
    }

    private sealed class Nowhere(long size) : IBlockDevice
    {
        public long SizeBytes => size;

        public void Write(long offset, ReadOnlySpan<byte> bytes) =>
            (offset + bytes.Length).ShouldBeLessThanOrEqualTo(size);

        public void Read(long offset, Span<byte> into) => into.Clear();

        public void Flush() { }

        public void Dispose() { }
    }

    private sealed class Zeros : Stream
    {
        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => long.MaxValue;
        public override long Position { get; set; }

        public override int Read(byte[] buffer, int offset, int count) => count;

        public override int Read(Span<byte> buffer) => buffer.Length;

        public override void Flush() { }

        public override long Seek(long offset, SeekOrigin origin) => 0;

        public override void SetLength(long value) { }

        public override void Write(byte[] buffer, int offset, int count) { }
    }
}
