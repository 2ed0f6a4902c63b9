using System.Text;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Core.Patching;

/// <summary>
/// The files that a recipe works on: what an image holds, with what was changed laid over it. Nothing is written anywhere;
/// whoever made it takes the changes when all of them fit.
/// </summary>
public sealed class PatchFiles
{
    /// <summary>Largest file that a recipe may touch, in bytes: what it touches is held in memory.</summary>
    public const int Largest = 64 << 20;
    private readonly Func<string, long?> _size;
    private readonly Func<string, byte[]> _read;
    private readonly Dictionary<string, byte[]?> _over = new(StringComparer.Ordinal);

    /// <summary>Lays over a set of files.</summary>
    /// <param name="size">Size of a file in bytes; null where there is none.</param>
    /// <param name="read">Its content.</param>
    public PatchFiles(Func<string, long?> size, Func<string, byte[]> read) => (_size, _read) = (size, read);

    /// <summary>Lays over files in memory.</summary>
    public PatchFiles(IReadOnlyDictionary<string, byte[]> files)
        : this(p => files.TryGetValue(p, out var f) ? f.Length : null, p => files[p]) { }

    /// <summary>Lays over the files of an image.</summary>
    /// <param name="image">The image, open.</param>
    /// <param name="tree">Its tree. Names count to the letter here: what is written must be what was found.</param>
    public static PatchFiles On(Stream image, FileTree tree) =>
        new(
            path => tree.Find(path) is { Kind: EntryKind.File } entry && entry.Path == path ? entry.SizeBytes : null,
            path => Read(image, tree.Find(path)!)
        );

    /// <summary>The whole content of a file on an image.</summary>
    /// <exception cref="RefusedException">The image ends before the file does.</exception>
    public static byte[] Read(Stream image, TreeEntry entry)
    {
        using var content = new ExtentStream(image, entry);
        var bytes = new byte[entry.SizeBytes];
        return content.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false) == bytes.Length
            ? bytes
            : throw new RefusedException(
                RefusalKind.Unreadable,
                "The file reaches beyond the end of the image: its content is not all there.",
                entry.Path,
                "The whole image; compare its checksum."
            );
    }

    /// <summary>Paths that were changed, with their new content; null for removed ones.</summary>
    public IReadOnlyDictionary<string, byte[]?> Changed => _over;

    /// <summary>Whether there is such a file.</summary>
    public bool Has(string path) => _over.TryGetValue(path, out var over) ? over is not null : _size(path) is not null;

    /// <summary>The content of a file, or null where there is none.</summary>
    public byte[]? Read(string path)
    {
        if (_over.TryGetValue(path, out var over))
            return over;
        return Original(path);
    }

    /// <summary>The content before any change.</summary>
    public byte[]? Original(string path)
    {
        if (_size(path) is not { } size)
            return null;
        if (size > Largest)
            throw new DoesNotFitException(
                path,
                "",
                $"The file has {size} bytes; a recipe works on files of at most {Largest >> 20} MiB."
            );
        return _read(path);
    }

    /// <summary>The content of a file that must be there.</summary>
    /// <exception cref="DoesNotFitException">It is not.</exception>
    public byte[] Need(string path) =>
        Read(path) ?? throw new DoesNotFitException(path, "", "There is no such file on the image.");

    /// <summary>The text of a file that must be there.</summary>
    /// <exception cref="DoesNotFitException">It is not there, or no text.</exception>
    public string Text(string path)
    {
        var bytes = Need(path);
        try
        {
            return EncodingOf(bytes) is { } wide
                ? wide.GetString(bytes.AsSpan(2))
                : Strict.GetString(WithoutMark(bytes));
        }
        catch (DecoderFallbackException e)
        {
            throw new DoesNotFitException(path, $"byte {e.Index}", "The file is no UTF-8 and no UTF-16 text.");
        }
    }

    /// <summary>A text in the encoding that the file has: UTF-8 with or without its mark, or UTF-16 with one.</summary>
    public byte[] Encode(string path, string text)
    {
        var before = Need(path);
        if (EncodingOf(before) is { } wide)
            return [.. before.AsSpan(0, 2), .. wide.GetBytes(text)];
        return before.AsSpan().StartsWith(Encoding.UTF8.Preamble)
            ? [.. Encoding.UTF8.Preamble, .. Encoding.UTF8.GetBytes(text)]
            : Encoding.UTF8.GetBytes(text);
    }

    /// <summary>Puts a file.</summary>
    public void Put(string path, byte[] content) => _over[path] = content;

    /// <summary>Takes a file away.</summary>
    public void Remove(string path) => _over[path] = null;

    /// <summary>Moves a file.</summary>
    public void Move(string from, string to)
    {
        Put(to, Need(from));
        Remove(from);
    }

    private static readonly UTF8Encoding Strict = new(false, throwOnInvalidBytes: true);

    private static ReadOnlySpan<byte> WithoutMark(byte[] bytes) =>
        bytes.AsSpan().StartsWith(Encoding.UTF8.Preamble) ? bytes.AsSpan(3) : bytes;

    private static Encoding? EncodingOf(byte[] bytes) =>
        bytes switch
        {
            [0xff, 0xfe, ..] => Encoding.Unicode,
            [0xfe, 0xff, ..] => Encoding.BigEndianUnicode,
            _ => null,
        };
}
