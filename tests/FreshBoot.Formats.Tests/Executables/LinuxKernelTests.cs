using FreshBoot.Formats.Executables;

namespace FreshBoot.Formats.Tests.Executables;

public class LinuxKernelTests
{
    private static byte[] Kernel(ushort protocol, ushort flags, string? build)
    {
        var head = new byte[0x1000];
        "HdrS"u8.CopyTo(head.AsSpan(0x202));
        BitConverter.TryWriteBytes(head.AsSpan(0x206), protocol);
        BitConverter.TryWriteBytes(head.AsSpan(0x236), flags);
        if (build is not null)
        {
            BitConverter.TryWriteBytes(head.AsSpan(0x20e), (ushort)0x400);
            System.Text.Encoding.ASCII.GetBytes(build).CopyTo(head, 0x600);
        }
        return head;
    }

    [Fact]
    public void Its_header_says_protocol_width_and_build()
    {
        var kernel = LinuxKernel.Read(Kernel(0x020f, 1, "6.1.0 (made here) #1"));
        kernel.Protocol.ShouldBe(new Version(2, 15));
        kernel.Has64Bit.ShouldBeTrue();
        kernel.Build.ShouldBe("6.1.0 (made here) #1");
        // Before 2.12 there were no such flags: what stands there is something else.
        LinuxKernel.Read(Kernel(0x020a, 1, null)).ShouldBe(new LinuxKernel(new Version(2, 10), false, null));
    }

    [Fact]
    public void What_is_no_kernel_is_refused_with_the_place()
    {
        Should.Throw<FormatRefusedException>(() => LinuxKernel.Read(new byte[0x1000])).Where.ShouldBe("byte 514");
        Should.Throw<FormatRefusedException>(() => LinuxKernel.Read([])).Where.ShouldBe("byte 514");
        Should
            .Throw<FormatRefusedException>(() => LinuxKernel.Read(Kernel(0x0200, 0, null)))
            .Where.ShouldBe("byte 518");
    }

    [Fact]
    public void No_beginning_of_a_file_makes_it_fail()
    {
        var random = new Random(7);
        for (var i = 0; i < 5000; i++)
        {
            var head = Kernel((ushort)random.Next(0x10000), (ushort)random.Next(4), "6.1");
            for (var j = 0; j < 8; j++)
                head[random.Next(head.Length)] = (byte)random.Next(256);
            try
            {
                LinuxKernel.Read(head.AsSpan(0, random.Next(head.Length)));
            }
            catch (FormatRefusedException) { }
        }
    }

    [Theory]
    [InlineData("30373037303130303030", "cpio")]
    [InlineData("1f8b0800", "gzip")]
    [InlineData("fd377a585a00", "xz")]
    [InlineData("28b52ffd", "zstd")]
    [InlineData("504b0304", null)]
    [InlineData("", null)]
    public void An_archive_is_known_by_its_first_bytes(string head, string? kind) =>
        LinuxKernel.ArchiveKind(Convert.FromHexString(head)).ShouldBe(kind);
}
