using System.Buffers.Binary;
using System.Globalization;
using FreshBoot.Core.Layouts;
using FreshBoot.Workshop.Emulation;

namespace FreshBoot.Workshop.Layouts;

/// <summary>
/// A simulated drive, divided by sfdisk as a layout says, with a loader on it that reads its files from where the layout has the boot
/// files, and says so. It shows that the layout starts; it installs no system.
/// </summary>
public static class DividedDrive
{
    /// <summary>What the loader says when it has read its files.</summary>
    public const string Starts = "This layout starts.";

    /// <summary>What it says where it has not.</summary>
    public const string StartsNot = "This layout does not start.";

    private const string Config = "/fresh-boot/layout.cfg";
    private const int FilesMiB = 64;
    private static readonly string[] Needed = ["sfdisk", "mke2fs", "mkfs.vfat", "mmd", "mcopy", "grub-mkimage"];

    /// <summary>What has to be installed before a drive can be divided; null where nothing is missing.</summary>
    public static string? Missing() => Programs.Missing(Needed);

    /// <summary>Makes the drive.</summary>
    /// <param name="path">Its file, sparse; only when it is whole it stands there.</param>
    /// <param name="layout">How it is divided.</param>
    /// <param name="workFolder">A folder for work under way.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="RefusedException">A program is missing, a system stays on it, or the layout has no place for boot files.</exception>
    public static async Task MakeAsync(string path, Layout layout, string workFolder, CancellationToken stop)
    {
        if (Missing() is { } missing)
            throw Refuse(
                $"It takes {missing}, which is not installed.",
                "apt-get install fdisk e2fsprogs dosfstools mtools grub-common, or ./demo.sh."
            );
        if (layout.Partitions.Any(p => p.Use == PartitionUse.Kept))
            throw Refuse("A system stays on this drive: its table is not written anew.", "A layout of a whole drive.");
        var home =
            layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.Boot)
            ?? layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.System)
            ?? throw Refuse("The layout has no place for boot files.", "A system partition.");
        var work = WorkFolder.Make(workFolder);
        var part = Path.Combine(work, "drive");
        try
        {
            await using (var file = new FileStream(part, FileMode.CreateNew))
                file.SetLength(layout.Sectors * layout.SectorBytes);
            await File.WriteAllTextAsync(Path.Combine(work, "table"), LayoutScript.Text(layout), stop);
            await Programs.DoneAsync(
                "sh",
                [
                    "-c",
                    "PATH=$PATH:/usr/sbin:/sbin sfdisk --quiet \"$1\" < \"$2\"",
                    "sh",
                    part,
                    Path.Combine(work, "table"),
                ],
                work,
                stop
            );
            await FilesAsync(part, layout, home, work, stop);
            if (layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.Efi) is { } efi)
                await EfiAsync(part, layout, efi, work, stop);
            else
                await BiosAsync(part, layout, work, stop);
            File.Move(part, path, overwrite: true);
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>A small file system at the beginning of the partition, with the files that the loader reads.</summary>
    private static async Task FilesAsync(
        string drive,
        Layout layout,
        LayoutPartition home,
        string work,
        CancellationToken stop
    )
    {
        var tree = Path.Combine(work, "tree", "fresh-boot");
        Directory.CreateDirectory(tree);
        await File.WriteAllTextAsync(
            Path.Combine(tree, "layout.cfg"),
            $"""
            if [ "$grub_platform" = pc ] ; then
              if serial --unit=0 --speed=115200 ; then
                terminal_output console serial
              fi
            fi
            echo "Partition {home.Number} of {layout.Partitions.Count}, at {home.StartLba
                * layout.SectorBytes
                / 1_000_000} MB."
            echo "{Starts}"
            sleep 4
            halt

            """,
            stop
        );
        var bytes = Math.Min((long)FilesMiB << 20, home.SizeLba * layout.SectorBytes);
        await Programs.DoneAsync(
            "sh",
            [
                "-c",
                "PATH=$PATH:/usr/sbin:/sbin mke2fs -q -F -t ext2 -b 4096 -d \"$1\" -E offset=\"$2\" \"$3\" \"$4\"",
                "sh",
                Path.Combine(work, "tree"),
                Number(home.StartLba * layout.SectorBytes),
                drive,
                Number(bytes / 4096),
            ],
            work,
            stop
        );
    }

    private static async Task EfiAsync(
        string drive,
        Layout layout,
        LayoutPartition efi,
        string work,
        CancellationToken stop
    )
    {
        await SmallLoader.MakeAsync("x86_64-efi", Path.Combine(work, "BOOTX64.EFI"), Config, "", work, stop);
        var fat = Path.Combine(work, "efi");
        await Programs.DoneAsync(
            "sh",
            [
                "-c",
                "PATH=$PATH:/usr/sbin:/sbin; mkfs.vfat -C -S \"$3\" -n EFI \"$1\" \"$2\" > /dev/null && mmd -i \"$1\" ::/EFI ::/EFI/BOOT && mcopy -i \"$1\" \"$4\" ::/EFI/BOOT/BOOTX64.EFI",
                "sh",
                fat,
                Number(efi.SizeLba * layout.SectorBytes / 1024),
                Number(layout.SectorBytes),
                Path.Combine(work, "BOOTX64.EFI"),
            ],
            work,
            stop
        );
        await CopyAsync(fat, drive, efi.StartLba * layout.SectorBytes, stop);
    }

    /// <summary>
    /// The first sector loads the core, which lies behind an MBR in the gap before the first partition, and on a GPT in the BIOS boot
    /// partition; where each lies is written into both, as the loader's own installer would.
    /// </summary>
    private static async Task BiosAsync(string drive, Layout layout, string work, CancellationToken stop)
    {
        if (layout.SectorBytes != 512)
            throw Refuse(
                "Legacy BIOS starts no drive with sectors of 4096 bytes.",
                "UEFI, or a drive with sectors of 512 bytes."
            );
        var core = Path.Combine(work, "core");
        await SmallLoader.MakeAsync("i386-pc", core, Config, "biosdisk", work, stop);
        var bytes = await File.ReadAllBytesAsync(core, stop);
        var gap = layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.BiosBoot);
        var at = gap?.StartLba ?? 1;
        var room = (gap?.SizeLba ?? layout.Partitions.Min(p => p.StartLba) - 1) * 512;
        if (bytes.Length > room)
            throw Refuse(
                $"The loader's core has {bytes.Length} bytes, and there is room for {room}.",
                "A BIOS boot partition of 1 MiB, or a first partition that begins at 1 MiB."
            );
        // The core's first sector ends with the list of what it loads: first sector, count, segment.
        var sectors = (bytes.Length + 511) / 512;
        BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(0x1f4), at + 1);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(0x1fc), (ushort)(sectors - 1));
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(0x1fe), 0x820);
        var boot = await File.ReadAllBytesAsync("/usr/lib/grub/i386-pc/boot.img", stop);
        BinaryPrimitives.WriteInt64LittleEndian(boot.AsSpan(0x5c), at);
        // From the drive that the firmware names, without the workaround for diskettes.
        boot[0x64] = 0xff;
        (boot[0x66], boot[0x67]) = (0x90, 0x90);
        await using var file = new FileStream(drive, FileMode.Open, FileAccess.ReadWrite);
        // Behind these bytes stand the signature of the drive and its partitions.
        await file.WriteAsync(boot.AsMemory(0, 440), stop);
        file.Position = at * 512;
        await file.WriteAsync(bytes, stop);
    }

    /// <summary>Copies a file into the drive, and leaves out what is empty: the drive stays sparse.</summary>
    private static async Task CopyAsync(string from, string drive, long offset, CancellationToken stop)
    {
        await using var source = File.OpenRead(from);
        await using var target = new FileStream(drive, FileMode.Open, FileAccess.ReadWrite);
        var piece = new byte[1 << 20];
        for (long at = 0; ; )
        {
            var read = await source.ReadAtLeastAsync(piece, piece.Length, throwOnEndOfStream: false, stop);
            if (read == 0)
                return;
            if (piece.AsSpan(0, read).ContainsAnyExcept((byte)0))
            {
                target.Position = offset + at;
                await target.WriteAsync(piece.AsMemory(0, read), stop);
            }
            at += read;
        }
    }

    private static string Number(long number) => number.ToString(CultureInfo.InvariantCulture);

    private static RefusedException Refuse(string what, string wanted) =>
        new(RefusalKind.Impossible, what, "layout", wanted);
}
