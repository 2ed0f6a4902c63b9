using System.Security.Cryptography;
using FreshBoot.Data.Catalogue;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Images;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Data.Orders;
using FreshBoot.Data.Parts;
using FreshBoot.Data.Patching;
using FreshBoot.Data.Runs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace FreshBoot.Data;

/// <summary>The folder that holds all that must not be lost: the database, and files under their SHA-256.</summary>
public sealed class DataFolder(string path)
{
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

    /// <summary>The path of bytes that are kept.</summary>
    /// <param name="sha256">Their SHA-256, hexadecimal, as <see cref="KeepAsync"/> gave it.</param>
    public string PathOf(string sha256) => Path.Combine(Root, "files", sha256[..2], sha256);

    /// <summary>
    /// Keeps bytes under their SHA-256: written beside, flushed to the disk, then renamed, so that a file that is there is
    /// whole. Keeping the same bytes again does nothing.
    /// </summary>
    /// <returns>The SHA-256, hexadecimal.</returns>
    public async Task<string> KeepAsync(ReadOnlyMemory<byte> bytes, CancellationToken stop)
    {
        var sha256 = Convert.ToHexStringLower(SHA256.HashData(bytes.Span));
        var folder = Directory.CreateDirectory(Path.Combine(Root, "files", sha256[..2])).FullName;
        var target = Path.Combine(folder, sha256);
        if (File.Exists(target))
            return sha256;
        var part = Path.Combine(folder, $"{sha256}.{Guid.NewGuid():N}.part");
        try
        {
            await using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write))
            {
                await file.WriteAsync(bytes, stop);
                file.Flush(flushToDisk: true);
            }
            File.Move(part, target, overwrite: true);
        }
        finally
        {
            File.Delete(part);
        }
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
            .AddSingleton<ArrivalStore>()
            .AddSingleton<OrderStore>()
            .AddSingleton<EntryVersionStore>()
            .AddSingleton<ImageStore>()
            .AddSingleton<RecipeStore>()
            .AddSingleton<MediumStore>()
            .AddSingleton<JobStore>()
            .AddDbContextFactory<FreshBootDb>(options =>
                options.UseSqlite($"Data Source={folder.Database}").AddInterceptors(new DurableConnections())
            );
}
