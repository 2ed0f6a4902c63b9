using FreshBoot.Formats.Executables;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Workshop.Images;

/// <summary>What an image is made of that comes as a kernel and an archive.</summary>
/// <param name="Kernel">Path of the kernel.</param>
/// <param name="Archive">Path of its archive.</param>
/// <param name="Line">What the kernel is told; may be empty.</param>
/// <param name="Label">Label of the image, capitals and digits.</param>
public sealed record ImageParts(string Kernel, string Archive, string Line, string Label);

/// <summary>
/// Makes an image that starts in every way from a kernel and an archive, as some installers are handed out: a loader for BIOS and UEFI
/// of both widths, from disc and from stick. An archive <see cref="Answers"/> on it is given to the kernel behind the other, so that a
/// recipe can bring the answers without packing the installer's archive anew.
/// </summary>
public static class MadeImage
{
    /// <summary>A small archive of answers, which a recipe may add.</summary>
    public const string Answers = "setup/answers.cpio";

    private const string Kernel = "/boot/kernel";
    private const string Archive = "/boot/archive";
    private static readonly string[] Needed = ["grub-mkimage", "mkfs.vfat", "mmd", "mcopy", "xorriso"];
    private const string HybridRecord = "/usr/lib/grub/i386-pc/boot_hybrid.img";

    /// <summary>What has to be installed; null where nothing is missing.</summary>
    public static string? Missing() => File.Exists(HybridRecord) ? Programs.Missing(Needed) : "grub-pc-bin";

    /// <summary>Makes it.</summary>
    /// <param name="parts">What of.</param>
    /// <param name="target">Its file; only when it is whole it stands there.</param>
    /// <param name="workFolder">A folder for work under way.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">The kernel or the archive is none, or a name that the loader would read otherwise.</exception>
    public static async Task MakeAsync(ImageParts parts, string target, string workFolder, CancellationToken stop)
    {
        await CheckAsync(parts, stop);
        var work = WorkFolder.Make(workFolder);
        try
        {
            var tree = Path.Combine(work, "tree");
            Directory.CreateDirectory(Path.Combine(tree, "boot", "grub"));
            File.Copy(parts.Kernel, Path.Combine(tree, "boot", "kernel"));
            File.Copy(parts.Archive, Path.Combine(tree, "boot", "archive"));
            await File.WriteAllTextAsync(Path.Combine(tree, "boot", "grub", "start.cfg"), Script(parts), stop);
            const string config = "/boot/grub/start.cfg";
            const string more = "linux iso9660 gzio";
            await SmallLoader.MakeAsync(
                "i386-pc-eltorito",
                Path.Combine(tree, "boot", "grub", "eltorito.img"),
                config,
                $"{more} biosdisk",
                work,
                stop
            );
            await SmallLoader.MakeAsync(
                "x86_64-efi",
                Path.Combine(work, "BOOTX64.EFI"),
                config,
                $"{more} efi_gop",
                work,
                stop
            );
            await SmallLoader.MakeAsync(
                "i386-efi",
                Path.Combine(work, "BOOTIA32.EFI"),
                config,
                $"{more} efi_gop",
                work,
                stop
            );
            await Programs.DoneAsync(
                "sh",
                [
                    "-c",
                    "PATH=$PATH:/usr/sbin:/sbin; cd \"$1\" && mkfs.vfat -C -n EFI efi.img 4096 > /dev/null && mmd -i efi.img ::/EFI ::/EFI/BOOT && mcopy -i efi.img BOOTX64.EFI BOOTIA32.EFI ::/EFI/BOOT/",
                    "sh",
                    work,
                ],
                work,
                stop
            );
            var part = Path.Combine(work, "image");
            await Programs.DoneAsync(
                "xorriso",
                [
                    "-as",
                    "mkisofs",
                    "-quiet",
                    "-r",
                    "-V",
                    parts.Label,
                    "-o",
                    part,
                    "--grub2-mbr",
                    HybridRecord,
                    "-partition_offset",
                    "16",
                    "-appended_part_as_gpt",
                    "-append_partition",
                    "2",
                    // The partition type of an EFI system partition (UEFI 2.10, table 5-7).
                    "C12A7328-F81F-11D2-BA4B-00A0C93EC93B",
                    Path.Combine(work, "efi.img"),
                    "-b",
                    "boot/grub/eltorito.img",
                    "-no-emul-boot",
                    "-boot-load-size",
                    "4",
                    "-boot-info-table",
                    "--grub2-boot-info",
                    "-eltorito-alt-boot",
                    "-e",
                    "--interval:appended_partition_2:all::",
                    "-no-emul-boot",
                    tree,
                ],
                work,
                stop
            );
            File.Move(part, target, overwrite: true);
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>Looks at both files and at what is said of them, before anything is made.</summary>
    /// <exception cref="RefusedException">See there.</exception>
    private static async Task CheckAsync(ImageParts parts, CancellationToken stop)
    {
        try
        {
            LinuxKernel.Read(await HeadAsync(parts.Kernel, LinuxKernel.HeadBytes, stop));
        }
        catch (Formats.FormatRefusedException e)
        {
            throw new RefusedException(RefusalKind.Unreadable, e.Message, "kernel", e.Wanted);
        }
        if (LinuxKernel.ArchiveKind(await HeadAsync(parts.Archive, 16, stop)) is null)
            throw new RefusedException(
                RefusalKind.Unreadable,
                "It is no archive that a kernel unpacks.",
                "archive",
                "A cpio archive, plain or packed with gzip, xz, zstd, lz4 or bzip2."
            );
        // The loader reads quotes, dollars and braces as its own; a kernel's line needs none of them.
        if (parts.Line.Length > 500 || parts.Line.Any(c => !char.IsAsciiLetterOrDigit(c) && !" .,:=/_-+@".Contains(c)))
            throw new RefusedException(
                RefusalKind.Invalid,
                "The kernel’s line has a character that the loader reads as its own.",
                "line",
                "Letters, digits, spaces and . , : = / _ - + @, at most 500."
            );
    }

    private static async Task<byte[]> HeadAsync(string path, int bytes, CancellationToken stop)
    {
        await using var file = File.OpenRead(path);
        var head = new byte[bytes];
        return head[..await file.ReadAtLeastAsync(head, bytes, throwOnEndOfStream: false, stop)];
    }

    private static string Script(ImageParts parts) =>
        $"""
            serial --unit=0 --speed=115200
            terminal_input console serial
            terminal_output console serial
            echo "Loading the kernel and its archive."
            linux {Kernel} {parts.Line}
            if [ -f /{Answers} ]; then
              echo "With the answers of {Answers}."
              initrd {Archive} /{Answers}
            else
              initrd {Archive}
            fi
            boot

            """;
}
