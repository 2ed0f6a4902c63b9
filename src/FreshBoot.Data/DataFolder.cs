using System.Security.Cryptography;
using FreshBoot.Data.BootKits;
using FreshBoot.Data.Catalogue;
using FreshBoot.Data.Diagnosis;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Firmware;
using FreshBoot.Data.Identity;
using FreshBoot.Data.Images;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Logbook;
using FreshBoot.Data.Media;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Patching;
using FreshBoot.Data.Runs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Data;

/// <summary>The folder that holds all that must not be lost: the database, and files under their SHA-256.</summary>
public sealed class DataFolder(string path) : IDisposable
{
    /// <summary>Space that is left free when small files are kept.</summary>
    private const long KeptForSmall = 4L << 20;
    private readonly SemaphoreSlim _files = new(1, 1);

    /// <summary>The folder, as an absolute path.</summary>
    public string Root { get; } = Directory.CreateDirectory(Path.GetFullPath(path)).FullName;

    /// <summary>The database file.</summary>
    public string Database => Path.Combine(Root, "fresh-boot.db");

    /// <summary>The shop's folder of images: what is uploaded comes to lie here, and what a person puts here can be named.</summary>
    public string Images => Directory.CreateDirectory(Path.Combine(Root, "images")).FullName;

    /// <summary>The folder of the simulated media.</summary>
    public string Media => Directory.CreateDirectory(Path.Combine(Root, "media")).FullName;

    /// <summary>The folder of pictures that jobs made.</summary>
    public string Jobs => Directory.CreateDirectory(Path.Combine(Root, "jobs")).FullName;

    /// <summary>Bytes that are free where the folder lies.</summary>
    public long FreeBytes => new DriveInfo(Root).AvailableFreeSpace;

    /// <summary>A folder for work under way; what lies in it at a start was left behind.</summary>
    public string Work => Directory.CreateDirectory(Path.Combine(Root, "work")).FullName;

    /// <summary>Space that is always left free, in bytes, so that the database can go on writing.</summary>
    public const long KeptFree = 256L << 20;

    /// <summary>Refuses what would fill the disk, before a byte of it is written.</summary>
    /// <exception cref="RefusedException">There is no room.</exception>
    public void CheckRoom(long bytes) => CheckRoom(bytes, KeptFree);

    private void CheckRoom(long bytes, long kept)
    {
        var free = FreeBytes;
        if (bytes + kept > free)
            throw new RefusedException(
                RefusalKind.Full,
                $"It needs {bytes} bytes; {Math.Max(0, free - kept)} are free.",
                "sizeBytes",
                "Room on the disk: take images away that nobody needs, or name another data folder."
            );
    }

    /// <summary>
    /// Holds the kept files still until it is disposed of: between keeping bytes and writing down what needs them nobody may
    /// find that nothing does.
    /// </summary>
    public async Task<IDisposable> HoldFilesAsync(CancellationToken stop)
    {
        await _files.WaitAsync(stop);
        return new Held(_files);
    }

    /// <inheritdoc/>
    public void Dispose() => _files.Dispose();

    private sealed class Held(SemaphoreSlim files) : IDisposable
    {
        public void Dispose() => files.Release();
    }

    /// <summary>The path of bytes that are kept.</summary>
    /// <param name="sha256">Their SHA-256, hexadecimal, as <see cref="KeepAsync"/> gave it.</param>
    public string PathOf(string sha256) => Path.Combine(Root, "files", sha256[..2], sha256);

    /// <summary>
    /// Keeps bytes under their SHA-256: written beside, flushed to the disk, then renamed, so that a file that is there is
    /// whole. Keeping the same bytes again does nothing.
    /// </summary>
    /// <returns>The SHA-256, hexadecimal.</returns>
    /// <exception cref="RefusedException">There is no room.</exception>
    public async Task<string> KeepAsync(ReadOnlyMemory<byte> bytes, CancellationToken stop)
    {
        var sha256 = Convert.ToHexStringLower(SHA256.HashData(bytes.Span));
        var target = PathOf(sha256);
        if (File.Exists(target))
            return sha256;
        CheckRoom(bytes.Length, KeptForSmall);
        await WholeFile.WriteAsync(target, file => file.WriteAsync(bytes, stop).AsTask());
        return sha256;
    }
}

/// <summary>Registers the database.</summary>
public static class DataServices
{
    /// <summary>Adds <see cref="FreshBootDb"/> in the data folder, with a factory.</summary>
    public static IServiceCollection AddFreshBootData(this IServiceCollection services, DataFolder folder) =>
        services
            .AddSingleton(folder)
            .AddSingleton<MachineStore>()
            .AddSingleton<RunStore>()
            .AddSingleton<PartStore>()
            .AddSingleton<PhotoStore>()
            .AddSingleton<RomStore>()
            .AddSingleton<ChipStore>()
            .AddSingleton<KitStore>()
            .AddSingleton<IdentityStore>()
            .AddSingleton<DiagnosisStore>()
            .AddSingleton<ArrivalStore>()
            .AddSingleton<OrderStore>()
            .AddSingleton<EntryVersionStore>()
            .AddSingleton<ImageStore>()
            .AddSingleton<ImageUploads>()
            .AddSingleton<ChecksumStore>()
            .AddSingleton<RecipeStore>()
            .AddSingleton<MediumStore>()
            .AddSingleton<JobStore>()
            .AddSingleton<LogStore>()
            .AddDbContextFactory<FreshBootDb>(options =>
                options.UseSqlite($"Data Source={folder.Database}").AddInterceptors(new DurableConnections())
            );
}
