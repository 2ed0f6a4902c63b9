namespace FreshBoot.Data;

/// <summary>Files that stand in their place whole or not at all, after a full disk and after a power cut too.</summary>
public static class WholeFile
{
    /// <summary>Writes a file beside its place, flushes it to the disk, and renames it: one that is there is whole.</summary>
    /// <param name="target">Its place; what is there is replaced.</param>
    /// <param name="write">Writes its bytes.</param>
    /// <exception cref="IOException">It could not be written; nothing of it stays.</exception>
    public static async Task WriteAsync(string target, Func<Stream, Task> write)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var part = $"{target}.{Guid.NewGuid():N}.part";
        try
        {
            await using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write))
            {
                await write(file);
                file.Flush(flushToDisk: true);
            }
            File.Move(part, target, overwrite: true);
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>Writes a text, UTF-8.</summary>
    /// <inheritdoc cref="WriteAsync" path="/exception"/>
    public static void Write(string target, string text)
    {
        var part = $"{target}.{Guid.NewGuid():N}.part";
        try
        {
            File.WriteAllText(part, text);
            Flush(part);
            File.Move(part, target, overwrite: true);
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>Copies a file to its place.</summary>
    /// <inheritdoc cref="WriteAsync" path="/exception"/>
    public static async Task CopyAsync(string from, string target, CancellationToken stop)
    {
        await using var source = new FileStream(from, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
        await WriteAsync(target, file => source.CopyToAsync(file, stop));
    }

    /// <summary>Sees to it that a file which was written by something else is on the disk.</summary>
    public static void Flush(string path)
    {
        using var file = new FileStream(path, FileMode.Open, FileAccess.ReadWrite);
        file.Flush(flushToDisk: true);
    }
}
