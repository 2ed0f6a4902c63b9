using System.Runtime.InteropServices;
using System.Text.Json.Serialization;

namespace FreshBoot.Formats.FileSystems;

/// <summary>A run of bytes of a file.</summary>
/// <param name="Offset">Where it begins in the image, in bytes; negative for a hole that reads as zeros.</param>
/// <param name="Length">Its length in bytes.</param>
[StructLayout(LayoutKind.Auto)]
public readonly record struct Extent(long Offset, long Length);

/// <summary>What an entry of a tree is.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<EntryKind>))]
public enum EntryKind
{
    /// <summary>A file.</summary>
    [JsonStringEnumMemberName("file")]
    File,

    /// <summary>A folder.</summary>
    [JsonStringEnumMemberName("folder")]
    Folder,

    /// <summary>A symbolic link (Rock Ridge SL, UDF file type 12).</summary>
    [JsonStringEnumMemberName("link")]
    Link,
}

/// <summary>A file or folder on an image.</summary>
/// <param name="Path">Path with slashes, without one in front; names that no path may hold are made harmless.</param>
/// <param name="Kind">What it is.</param>
/// <param name="SizeBytes">Size in bytes; 0 for folders and links.</param>
/// <param name="Extents">Where its bytes lie, in order.</param>
public sealed record TreeEntry(string Path, EntryKind Kind, long SizeBytes, IReadOnlyList<Extent> Extents);

/// <summary>Something that an inspection found wrong or worth knowing.</summary>
/// <param name="Fault">Whether the image is damaged or lies; else it is a remark.</param>
/// <param name="What">One sentence.</param>
/// <param name="Where">The place: a sector, a path, a table.</param>
public sealed record ImageFinding(bool Fault, string What, string Where);

/// <summary>The files of one file system on an image.</summary>
public sealed class FileTree
{
    /// <summary>Entries that are read at most; a tree with more is cut there, and says so.</summary>
    public const int MostEntries = 250_000;

    /// <summary>Folders inside one another that are read at most; ECMA-119 allows 8, Rock Ridge and UDF as many as a path holds.</summary>
    public const int MostDepth = 128;

    /// <summary>Longest path that is read, in characters.</summary>
    public const int LongestPath = 1024;

    private readonly SortedDictionary<string, TreeEntry> _entries = new(StringComparer.Ordinal);
    private readonly Dictionary<string, TreeEntry> _anyCase = new(StringComparer.OrdinalIgnoreCase);
    private readonly List<ImageFinding> _findings;

    internal FileTree(string fileSystem, string label, List<ImageFinding> findings)
    {
        (FileSystem, Label, _findings) = (fileSystem, label, findings);
    }

    /// <summary>The file system, such as <c>ISO 9660 with Rock Ridge</c>.</summary>
    public string FileSystem { get; }

    /// <summary>The label of the volume.</summary>
    public string Label { get; }

    /// <summary>Whether it was cut because it holds too much.</summary>
    public bool Cut { get; private set; }

    /// <summary>Everything on it, in order of the path.</summary>
    public IReadOnlyCollection<TreeEntry> Entries => _entries.Values;

    /// <summary>What lies at a path, or null; capital letters count only where two names differ in nothing else.</summary>
    public TreeEntry? Find(string path) =>
        _entries.GetValueOrDefault(path.TrimStart('/')) ?? _anyCase.GetValueOrDefault(path.TrimStart('/'));

    /// <summary>What lies directly in a folder; empty for the root.</summary>
    public IEnumerable<TreeEntry> In(string folder)
    {
        var prefix = folder.Trim('/') is { Length: > 0 } name ? name + "/" : "";
        return Entries.Where(e =>
            e.Path.StartsWith(prefix, StringComparison.Ordinal)
            && e.Path.Length > prefix.Length
            && e.Path.IndexOf('/', prefix.Length) < 0
        );
    }

    /// <summary>Adds an entry.</summary>
    /// <returns>False where the tree is full or the path too long; a finding says so.</returns>
    internal bool Add(TreeEntry entry)
    {
        if (_entries.Count >= MostEntries)
            return CutAt($"It holds more than {MostEntries} files; the rest is not read.", entry.Path);
        if (entry.Path.Length > LongestPath)
            return CutAt($"A path is longer than {LongestPath} characters; it is not read.", entry.Path[..80] + "…");
        if (!_entries.TryAdd(entry.Path, entry))
        {
            Fault("Two entries have the same name; the first one counts.", entry.Path);
            return true;
        }
        _anyCase.TryAdd(entry.Path, entry);
        return true;
    }

    internal bool CutAt(string what, string where)
    {
        if (!Cut)
            Fault(what, where);
        Cut = true;
        return false;
    }

    internal void Fault(string what, string where) => _findings.Fault(what, where);

    /// <summary>The path of a name in a folder. A name that could lead elsewhere is made harmless and told.</summary>
    internal string PathOf(string folder, string name)
    {
        var safe = string.Concat(name.Select(c => c is '/' or '\\' || char.IsControl(c) ? '\ufffd' : c));
        if (safe is "." or ".." or "")
            safe = "\ufffd" + safe;
        if (safe != name)
            Fault("A name holds what no name may: a slash, a control character, or only dots.", $"{folder}/{safe}");
        return folder.Length == 0 ? safe : $"{folder}/{safe}";
    }
}

internal static class Findings
{
    /// <summary>Findings of one kind that are told at most: the hundredth broken entry says nothing new.</summary>
    private const int Most = 60;

    public static void Fault(this List<ImageFinding> findings, string what, string where) =>
        findings.Tell(new ImageFinding(true, what, where));

    public static void Remark(this List<ImageFinding> findings, string what, string where) =>
        findings.Tell(new ImageFinding(false, what, where));

    private static void Tell(this List<ImageFinding> findings, ImageFinding finding)
    {
        if (findings.Count < Most)
            findings.Add(finding);
        else if (findings.Count == Most)
            findings.Add(new ImageFinding(true, "There is more of this kind, which is not told.", "the image"));
    }
}

/// <summary>Reads a file of an image through its extents; seekable, never whole in memory.</summary>
public sealed class ExtentStream : Stream
{
    private readonly Stream _image;
    private readonly IReadOnlyList<Extent> _extents;
    private readonly long[] _begins;
    private long _position;

    /// <summary>Opens a file.</summary>
    /// <param name="image">The image; closed by whoever opened it.</param>
    /// <param name="entry">A file of one of its trees.</param>
    public ExtentStream(Stream image, TreeEntry entry)
    {
        (_image, _extents, Length) = (image, entry.Extents, entry.SizeBytes);
        _begins = new long[_extents.Count];
        for (var i = 1; i < _begins.Length; i++)
            _begins[i] = _begins[i - 1] + _extents[i - 1].Length;
    }

    /// <inheritdoc/>
    public override bool CanRead => true;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => false;

    /// <inheritdoc/>
    public override long Length { get; }

    /// <inheritdoc/>
    public override long Position
    {
        get => _position;
        set => _position = Math.Max(0, value);
    }

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        var want = (int)Math.Min(buffer.Length, Length - _position);
        if (want <= 0)
            return 0;
        var at = Array.BinarySearch(_begins, _position);
        at = at < 0 ? ~at - 1 : at;
        // Of extents that begin at the same place the empty ones come first.
        while (at + 1 < _extents.Count && _position >= _begins[at] + _extents[at].Length)
            at++;
        if (at < 0 || at >= _extents.Count)
            return 0;
        var inside = _position - _begins[at];
        var extent = _extents[at];
        want = (int)Math.Min(want, extent.Length - inside);
        if (want <= 0)
            return 0;
        int read;
        if (extent.Offset < 0)
        {
            buffer[..want].Clear();
            read = want;
        }
        else
        {
            // The image may end before the file that it claims to hold.
            if (extent.Offset + inside >= _image.Length)
                return 0;
            _image.Position = extent.Offset + inside;
            read = _image.Read(buffer[..want]);
        }
        _position += read;
        return read;
    }

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch
        {
            SeekOrigin.Begin => offset,
            SeekOrigin.Current => _position + offset,
            _ => Length + offset,
        };

    /// <inheritdoc/>
    public override void Flush() { }

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
