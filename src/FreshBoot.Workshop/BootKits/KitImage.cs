using System.Text;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Workshop.BootKits;

/// <summary>
/// A boot kit in a FAT image that UEFI starts: a small loader in the boot manager's place reads the kit's list, looks for every file
/// in its order, and says what it would load. It shows that the kit is whole where the firmware reads it; it drives nothing.
/// </summary>
public static class KitImage
{
    /// <summary>What the loader says when every file was found.</summary>
    public const string Starts = "This kit starts.";

    /// <summary>What it says where one was not.</summary>
    public const string StartsNot = "This kit does not start.";

    /// <summary>What the firmware starts on a medium with a kit, in the boot manager's place.</summary>
    public const string BootManager = "EFI/BOOT/BOOTX64.EFI";

    /// <summary>Where the installer's own loader lies then.</summary>
    public const string InstallerLoader = "EFI/installer/BOOTX64.EFI";

    private const int SizeKiB = 96 * 1024;
    private const string Config = "/kit/start.cfg";
    private static readonly string[] Needed = ["mkfs.vfat", "mmd", "mcopy", "grub-mkimage"];

    /// <summary>What has to be installed; null where nothing is missing.</summary>
    public static string? Missing() => Programs.Missing(Needed);

    /// <summary>Makes the image.</summary>
    /// <param name="path">Its file; only when it is whole it stands there.</param>
    /// <param name="files">The kit.</param>
    /// <param name="order">The files that are loaded, in their order, below the kit's folder.</param>
    /// <param name="workFolder">A folder for work under way.</param>
    /// <param name="stop">Stops it.</param>
    public static async Task MakeAsync(
        string path,
        IReadOnlyDictionary<string, byte[]> files,
        IReadOnlyList<string> order,
        string workFolder,
        CancellationToken stop
    )
    {
        var work = WorkFolder.Make(workFolder);
        try
        {
            var tree = Path.Combine(work, "tree");
            foreach (var (name, content) in files)
            {
                // The names were checked when the kit came in; a second look costs nothing.
                var file = Path.GetFullPath(Path.Combine(tree, name));
                if (!file.StartsWith(tree + "/", StringComparison.Ordinal))
                    throw new IOException($"“{name}” leads out of the kit.");
                Directory.CreateDirectory(Path.GetDirectoryName(file)!);
                await File.WriteAllBytesAsync(file, content, stop);
            }
            Directory.CreateDirectory(Path.Combine(tree, "kit"));
            await File.WriteAllTextAsync(
                Path.Combine(tree, "kit", "start.cfg"),
                Script(order, "sleep 4\nhalt\n"),
                stop
            );
            var loader = Path.Combine(tree, BootManager);
            Directory.CreateDirectory(Path.GetDirectoryName(loader)!);
            await SmallLoader.MakeAsync("x86_64-efi", loader, Config, "", work, stop);
            var part = Path.Combine(work, "image");
            await Programs.DoneAsync(
                "sh",
                [
                    "-c",
                    "PATH=$PATH:/usr/sbin:/sbin; mkfs.vfat -C -F 32 -n KIT \"$1\" \"$2\" > /dev/null && cd \"$3\" && mcopy -s -i \"$1\" ./* ::/",
                    "sh",
                    part,
                    $"{SizeKiB}",
                    tree,
                ],
                work,
                stop
            );
            File.Move(part, path, overwrite: true);
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>
    /// The files of a kit as they come onto an installer's medium: the stand-in of its boot manager is what the firmware starts; it looks for
    /// every file of the list, and hands over to the installer's own loader only when all are there.
    /// </summary>
    /// <param name="files">The kit.</param>
    /// <param name="order">The files that are loaded, in their order, below the kit's folder.</param>
    /// <param name="installerLoader">The installer's own loader for 64-bit UEFI.</param>
    /// <param name="workFolder">A folder for work under way.</param>
    /// <param name="stop">Stops it.</param>
    public static async Task<SortedDictionary<string, byte[]>> OnMediumAsync(
        IReadOnlyDictionary<string, byte[]> files,
        IReadOnlyList<string> order,
        byte[] installerLoader,
        string workFolder,
        CancellationToken stop
    )
    {
        var work = WorkFolder.Make(workFolder);
        try
        {
            var loader = Path.Combine(work, "loader");
            await SmallLoader.MakeAsync("x86_64-efi", loader, Config, "chain", work, stop);
            return new SortedDictionary<string, byte[]>(
                files.ToDictionary(f => f.Key, f => f.Value, StringComparer.Ordinal),
                StringComparer.Ordinal
            )
            {
                [BootManager] = await File.ReadAllBytesAsync(loader, stop),
                [Config[1..]] = Encoding.UTF8.GetBytes(
                    Script(
                        order,
                        $"if [ \"$whole\" = yes ]; then chainloader ($root)/{InstallerLoader}; boot; fi\nsleep 4\nhalt\n"
                    )
                ),
                [InstallerLoader] = installerLoader,
            };
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>What the loader does. Names that its language would read otherwise do not come this far: see the rules of paths.</summary>
    private static string Script(IReadOnlyList<string> order, string then)
    {
        var script = new StringBuilder("set whole=yes\n");
        foreach (var file in order)
            script.Append(
                $"if [ -f \"($root)/kit/{Safe(file)}\" ]; then echo \"loads {Safe(file)}\"; else echo \"missing {Safe(file)}\"; set whole=no; fi\n"
            );
        return script
            .Append($"if [ \"$whole\" = yes ]; then echo \"{Starts}\"; else echo \"{StartsNot}\"; fi\n{then}")
            .ToString();
    }

    private static string Safe(string file) =>
        string.Concat(file.Where(c => char.IsAsciiLetterOrDigit(c) || c is '/' or '.' or '-' or '_'));
}
