namespace FreshBoot.Data;

/// <summary>Another process holds the data folder.</summary>
public sealed class FolderHeldException(string message) : IOException(message);

/// <summary>
/// One process holds a data folder, from before it touches anything in it to its end. The operating system lets go of the lock when
/// the process ends, however that comes (flock(2)).
/// </summary>
public sealed class FolderLock : IDisposable
{
    /// <summary>The file that is locked.</summary>
    public const string FileName = "lock";

    /// <summary>The file that says who holds it. It is one of its own: the locked one cannot be read.</summary>
    public const string HolderName = "lock-holder";

    private readonly FileStream _file;

    private FolderLock(FileStream file) => _file = file;

    /// <summary>Takes it.</summary>
    /// <param name="root">The data folder.</param>
    /// <param name="who">Who takes it, for whoever comes second.</param>
    /// <exception cref="FolderHeldException">Another process holds it; it says which.</exception>
    public static FolderLock Take(string root, string who)
    {
        var holder = Path.Combine(root, HolderName);
        try
        {
            var file = new FileStream(
                Path.Combine(root, FileName),
                FileMode.OpenOrCreate,
                FileAccess.ReadWrite,
                FileShare.None
            );
            try
            {
                File.WriteAllText(holder, who);
            }
            catch (IOException e) when (DiskFull.Is(e))
            {
                // The lock counts, not who is named: a full disk is made room on by the application that starts here.
            }
            return new FolderLock(file);
        }
        catch (IOException e)
            when (e is not (DirectoryNotFoundException or FileNotFoundException or PathTooLongException))
        {
            if (File.Exists(Path.Combine(root, FileName)) && e.HResult is WouldBlock)
                throw new FolderHeldException(
                    $"The data folder {root} is in use by {(File.Exists(holder) ? File.ReadAllText(holder) : "another process")}. End that one first, or name another folder. Nothing was changed."
                );
            throw;
        }
    }

    /// <summary>What a lock that is held gives as <see cref="Exception.HResult"/>: EWOULDBLOCK of Linux.</summary>
    private const int WouldBlock = 11;

    /// <inheritdoc/>
    public void Dispose() => _file.Dispose();
}
