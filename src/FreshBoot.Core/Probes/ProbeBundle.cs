using System.Buffers.Binary;
using System.Formats.Tar;
using System.Globalization;
using System.IO.Compression;
using System.Text;

namespace FreshBoot.Core.Probes;

/// <summary>A source that the probe could not read, and why.</summary>
public sealed record MissingSource(string Name, string Reason);

/// <summary>
/// What one run of the probe brought home: a gzipped tar archive of plain outputs with a manifest. docs/probe.md tells
/// the format. Everything is read within limits, because an archive may come from anywhere.
/// </summary>
/// <param name="TakenAt">When the probe ran, by the machine's own clock.</param>
/// <param name="AsRoot">Whether it ran as root.</param>
/// <param name="Files">The sources by member name.</param>
/// <param name="Missing">What the manifest says it could not read.</param>
/// <param name="Warnings">Members that were left out.</param>
/// <param name="Code">The code of a run step that it was made for; null for none.</param>
public sealed record ProbeBundle(
    DateTimeOffset TakenAt,
    bool AsRoot,
    IReadOnlyDictionary<string, byte[]> Files,
    IReadOnlyList<MissingSource> Missing,
    IReadOnlyList<string> Warnings,
    string? Code = null
)
{
    /// <summary>Name of the manifest in the archive.</summary>
    public const string ManifestName = "manifest.txt";

    /// <summary>First line of the manifest: name and version of the format.</summary>
    public const string Magic = "fresh-boot-probe 1";

    /// <summary>Most bytes that one member may unpack to.</summary>
    public const int LargestMember = 8 << 20;

    /// <summary>Most bytes that the archive may unpack to.</summary>
    public const int LargestArchive = 64 << 20;

    /// <summary>Most bytes that the manifest may have: it names a few dozen members.</summary>
    private const int LargestManifest = 64 << 10;

    /// <summary>Lines of a manifest that are told when they are not understood.</summary>
    private const int MostStrange = 20;
    private const int LongestCode = 16;
    private const int MostMembers = 200;
    private const string WantedBundle = "A bundle as fresh-boot-probe.sh writes it (.tar.gz).";
    private const string WantedWhole = "The whole file: copy it again, or run the probe again.";

    /// <summary>Whether the bytes start like a gzip file (RFC 1952).</summary>
    public static bool LooksLikeOne(ReadOnlySpan<byte> start) => start is [0x1f, 0x8b, ..];

    /// <summary>Reads a bundle to the end.</summary>
    /// <param name="stream">The gzipped archive; need not be seekable.</param>
    /// <param name="name">What to call it in a refusal.</param>
    /// <exception cref="RefusedException">
    /// Empty, no gzip, no tar, cut off, names that lead elsewhere, links, too large, no manifest, or a member that is
    /// shorter than its manifest says.
    /// </exception>
    public static ProbeBundle Read(Stream stream, string name)
    {
        var files = new Dictionary<string, byte[]>(StringComparer.Ordinal);
        var warnings = new List<string>();
        try
        {
            var packed = new TailStream(stream);
            using var unpacked = new LimitedStream(
                new GZipStream(packed, CompressionMode.Decompress, leaveOpen: true),
                name
            );
            using var tar = new TarReader(unpacked);
            for (var count = 0; tar.GetNextEntry() is { } entry; count++)
            {
                if (count >= MostMembers)
                    throw new RefusedException(
                        RefusalKind.TooLarge,
                        $"The archive has more than {MostMembers} members.",
                        name,
                        WantedBundle
                    );
                TakeMember(entry, name, files, warnings);
            }
            // To the very end, so that the checksum of gzip is checked. A missing tail is not noticed by the unpacker: the last
            // four bytes are the length of what was packed (RFC 1952, section 2.3.1), and say whether all of it came.
            unpacked.CopyTo(Stream.Null);
            if (packed.LastFourBytes() != (uint)unpacked.Position)
                throw new EndOfStreamException();
        }
        catch (Exception e)
            when (e
                    is InvalidDataException
                        or EndOfStreamException
                        or IOException
                        or FormatException
                        or NotSupportedException
                        or ArgumentException
                        // Numbers of a header in base 256 may be larger than their field holds.
                        or OverflowException
                        or InvalidOperationException
            )
        {
            throw files.Count == 0
                ? new RefusedException(
                    RefusalKind.Unreadable,
                    "The file is no probe bundle: it is not a gzipped tar archive, or it is cut off at the start.",
                    name,
                    WantedBundle
                )
                : new RefusedException(
                    RefusalKind.Unreadable,
                    "The archive is cut off or damaged.",
                    $"{name}, after {files.Keys.Last()}",
                    WantedWhole
                );
        }
        return FromFiles(name, files, warnings);
    }

    private static void TakeMember(TarEntry entry, string name, Dictionary<string, byte[]> files, List<string> warnings)
    {
        var member = entry.Name.StartsWith("./", StringComparison.Ordinal) ? entry.Name[2..] : entry.Name;
        if (
            entry.EntryType is TarEntryType.Directory or TarEntryType.GlobalExtendedAttributes
            && member.Trim('/').Length == 0
        )
            return;
        if (
            member.StartsWith('/')
            || member.Contains('\\', StringComparison.Ordinal)
            || member.Split('/').Contains("..")
            || member.Any(char.IsControl)
        )
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The archive has a member whose name leads out of it.",
                $"{name}, member “{Printable(member)}”",
                WantedBundle
            );
        if (entry.EntryType is not (TarEntryType.RegularFile or TarEntryType.V7RegularFile))
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The archive has a member that is no plain file.",
                $"{name}, member “{Printable(member)}”",
                WantedBundle
            );
        var largest = member == ManifestName ? LargestManifest : LargestMember;
        if (entry.Length > largest)
            throw new RefusedException(
                RefusalKind.TooLarge,
                $"A member unpacks to {entry.Length} bytes.",
                $"{name}, member “{Printable(member)}”",
                $"At most {largest} bytes of it."
            );
        if (member != ManifestName && Sources.Find(member) is null)
        {
            warnings.Add($"{Printable(member)}: no source that is known here; left out.");
            return;
        }
        if (files.ContainsKey(member))
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The archive has a member twice.",
                $"{name}, member “{member}”",
                WantedBundle
            );
        using var content = new MemoryStream();
        entry.DataStream?.CopyTo(content);
        files.Add(member, content.ToArray());
    }

    private static ProbeBundle FromFiles(string name, Dictionary<string, byte[]> files, List<string> warnings)
    {
        if (!files.Remove(ManifestName, out var manifest))
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The archive has no manifest.",
                $"{name}, {ManifestName}",
                WantedBundle
            );
        var lines = Encoding
            .UTF8.GetString(manifest)
            .Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (lines.Length == 0 || lines[0] != Magic)
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The manifest is of another format.",
                $"{name}, {ManifestName}, line 1",
                $"“{Magic}” as its first line; take the probe script that belongs to this version."
            );

        DateTimeOffset? taken = null;
        var root = false;
        string? code = null;
        var strange = 0;
        var missing = new List<MissingSource>();
        for (var i = 1; i < lines.Length; i++)
        {
            var words = lines[i].Split(' ', 3);
            switch (words)
            {
                case ["taken", var time, ..]
                    when DateTimeOffset.TryParseExact(
                        time,
                        "yyyy-MM-dd'T'HH:mm:ss'Z'",
                        CultureInfo.InvariantCulture,
                        DateTimeStyles.AssumeUniversal,
                        out var at
                    ):
                    taken = at;
                    break;
                case ["root", var yes]:
                    root = yes == "yes";
                    break;
                case ["code", { Length: <= LongestCode } made] when made.All(char.IsAsciiLetterOrDigit):
                    code = made;
                    break;
                case ["have", var file, var size]:
                    if (
                        !files.TryGetValue(file, out var content)
                        || content.Length.ToString(CultureInfo.InvariantCulture) != size
                    )
                        throw new RefusedException(
                            RefusalKind.Unreadable,
                            $"The manifest lists {Printable(file)} with {Printable(size)} bytes, and the archive does not have it so.",
                            $"{name}, {ManifestName}, line {i + 1}",
                            WantedWhole
                        );
                    break;
                case ["missing", var file, var reason]:
                    missing.Add(new MissingSource(Printable(file), Printable(reason)));
                    break;
                default:
                    if (++strange <= MostStrange)
                        warnings.Add($"{ManifestName}, line {i + 1}: “{Printable(lines[i])}” is not understood.");
                    break;
            }
        }
        if (taken is not { } when)
            throw new RefusedException(
                RefusalKind.Unreadable,
                "The manifest does not say when the probe ran.",
                $"{name}, {ManifestName}",
                "A line such as “taken 2026-12-03T13:20:00Z”."
            );
        if (strange > MostStrange)
            warnings.Add($"{ManifestName}: {strange - MostStrange} more lines are not understood.");
        return new ProbeBundle(when, root, files, missing, warnings, code);
    }

    private static string Printable(string text)
    {
        var clean = new string([.. text.Select(c => char.IsControl(c) ? '�' : c)]);
        return clean.Length <= 80 ? clean : clean[..80] + "…";
    }

    /// <summary>Passes everything on and remembers the last four bytes.</summary>
    private sealed class TailStream(Stream inner) : ReadOnlyStream
    {
        private readonly byte[] _tail = new byte[4];

        public override int Read(Span<byte> buffer)
        {
            var read = inner.Read(buffer);
            var fresh = buffer[..read];
            if (read >= _tail.Length)
            {
                fresh[^4..].CopyTo(_tail);
            }
            else
            {
                _tail.AsSpan(read).CopyTo(_tail);
                fresh.CopyTo(_tail.AsSpan(_tail.Length - read));
            }
            return read;
        }

        public uint LastFourBytes() => BinaryPrimitives.ReadUInt32LittleEndian(_tail);
    }

    /// <summary>Reads on until more than <see cref="LargestArchive"/> bytes came, then refuses.</summary>
    private sealed class LimitedStream(Stream inner, string name) : ReadOnlyStream
    {
        private const int LongestName = 4096;
        private readonly byte[] _header = new byte[512];
        private long _left = LargestArchive;
        private long _skip;
        private int _filled;

        public override long Position
        {
            get => LargestArchive - _left;
            set => throw new NotSupportedException();
        }

        public override int Read(Span<byte> buffer)
        {
            var read = inner.Read(buffer);
            _left -= read;
            if (_left < 0)
                throw new RefusedException(
                    RefusalKind.TooLarge,
                    "The archive unpacks to more than it may.",
                    name,
                    $"At most {LargestArchive} bytes in all."
                );
            Look(buffer[..read]);
            return read;
        }

        /// <summary>
        /// Looks at each header of the archive (POSIX 1003.1, ustar) before the reader of archives acts on it: a name or an
        /// attribute of megabytes would be held in memory, and kinds of members that no probe writes are none of ours.
        /// </summary>
        private void Look(ReadOnlySpan<byte> passing)
        {
            while (passing.Length > 0)
            {
                var step = (int)Math.Min(passing.Length, _skip > 0 ? _skip : _header.Length - _filled);
                if (_skip > 0)
                    _skip -= step;
                else
                {
                    passing[..step].CopyTo(_header.AsSpan(_filled));
                    _filled += step;
                }
                passing = passing[step..];
                if (_filled < _header.Length)
                    continue;
                _filled = 0;
                if (!_header.AsSpan().ContainsAnyExcept((byte)0))
                    continue;
                var size = Octal(_header.AsSpan(124, 12));
                var kind = (char)_header[156];
                if (size is null || kind is 'L' or 'K' or 'x' or 'g' && size > LongestName)
                    throw new RefusedException(
                        RefusalKind.TooLarge,
                        "A member has a name, or attributes, of more than it may.",
                        name,
                        $"Names of at most {LongestName} bytes."
                    );
                if (kind is not ('\0' or (>= '0' and <= '7') or 'L' or 'K' or 'x' or 'g'))
                    throw new RefusedException(
                        RefusalKind.Unreadable,
                        "The archive has a member that is no plain file.",
                        $"{name}, a member of kind “{Printable($"{kind}")}”",
                        WantedBundle
                    );
                _skip = (size.Value + 511) / 512 * 512;
            }
        }

        private static long? Octal(ReadOnlySpan<byte> field)
        {
            // A first byte with its high bit set begins a number in base 256, for members larger than any of ours.
            if ((field[0] & 0x80) != 0)
                return null;
            long number = 0;
            foreach (var b in field)
                if (b is >= (byte)'0' and <= (byte)'7')
                    number = number * 8 + (b - '0');
            return number;
        }

        protected override void Dispose(bool disposing)
        {
            if (disposing)
                inner.Dispose();
            base.Dispose(disposing);
        }
    }

    /// <summary>A stream that is read once from start to end.</summary>
    private abstract class ReadOnlyStream : Stream
    {
        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => throw new NotSupportedException();
        public override long Position
        {
            get => throw new NotSupportedException();
            set => throw new NotSupportedException();
        }

        public abstract override int Read(Span<byte> buffer);

        public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

        public override void Flush() { }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
