using System.Text;
using FreshBoot.Core.Probes;

namespace FreshBoot.Server.Intake;

/// <summary>
/// Reads a bundle from the body of a request, and refuses while it streams: what does not begin as one is not read on, and more
/// than a bundle can have is never held. In base64 (RFC 4648) too: the small wget of live systems cannot send zero bytes.
/// </summary>
internal static class BundleBody
{
    /// <summary>Most bytes of a bundle as it comes. One of a real machine has some tens of kilobytes.</summary>
    public const int Largest = 12 << 20;

    /// <summary>How a gzip file begins in base64.</summary>
    private static ReadOnlySpan<byte> Base64Start => "H4sI"u8;

    private const int Step = 64 << 10;

    public static async Task<byte[]> ReadAsync(Stream body, CancellationToken stop)
    {
        var buffer = new byte[Step];
        var read = await body.ReadAtLeastAsync(buffer, 4, throwOnEndOfStream: false, stop);
        var plain = ProbeBundle.LooksLikeOne(buffer.AsSpan(0, read));
        if (!plain && !buffer.AsSpan(0, read).StartsWith(Base64Start))
            throw new RefusedException(
                RefusalKind.Unreadable,
                read == 0 ? "The body is empty." : "The body is no probe bundle.",
                "body",
                "A bundle as fresh-boot-probe.sh writes it (.tar.gz), or the same in base64."
            );
        using var all = new MemoryStream();
        while (read > 0)
        {
            if (all.Length + read > Largest)
                throw new RefusedException(
                    RefusalKind.TooLarge,
                    $"The body has more than {Largest} bytes.",
                    "body",
                    $"At most {Largest >> 20} MiB."
                );
            all.Write(buffer, 0, read);
            read = await body.ReadAsync(buffer, stop);
        }
        if (plain)
            return all.ToArray();
        try
        {
            return Convert.FromBase64String(Encoding.ASCII.GetString(all.GetBuffer(), 0, (int)all.Length));
        }
        catch (FormatException)
        {
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The base64 is cut off or damaged.",
                "body",
                "The whole bundle: send it again."
            );
        }
    }
}
