using System.Globalization;
using System.Text;
using FreshBoot.Formats.Partitions;

namespace FreshBoot.Core.Layouts;

/// <summary>A layout as files: the table for sfdisk, and a script that can be read before it is run.</summary>
public static class LayoutScript
{
    /// <summary>The table.</summary>
    public static SfdiskScript Table(Layout layout) =>
        new(
            layout.Scheme == PartitionScheme.Gpt ? "gpt" : "dos",
            layout.SectorBytes,
            null,
            null,
            [
                .. layout.Partitions.Select(p => new SfdiskPartition(
                    p.Number,
                    p.StartLba,
                    p.SizeLba,
                    p.Type,
                    layout.Scheme == PartitionScheme.Gpt ? Name(p.Use) : null,
                    layout.Scheme == PartitionScheme.Mbr && p == Starts(layout)
                )),
            ]
        );

    /// <summary>The table as a file; where a system stays its first line says what must not be done with it.</summary>
    public static string Text(Layout layout) =>
        (
            layout.Partitions.Any(p => p.Use == PartitionUse.Kept)
                ? "# One system stays. Never write this table over its own: add only what is new, by hand.\n"
                : ""
        ) + Table(layout).Write();

    /// <summary>A table as a layout. What a partition is for is read off its type, and its name where it has one.</summary>
    public static (PartitionScheme Scheme, IReadOnlyList<LayoutPartition> Partitions) From(SfdiskScript table)
    {
        var scheme = table.Label == "gpt" ? PartitionScheme.Gpt : PartitionScheme.Mbr;
        return (
            scheme,
            [
                .. table.Partitions.Select(p =>
                {
                    var use = Use(scheme, p);
                    var board =
                        use == PartitionUse.Boot
                        && p.Type.Equals(
                            LayoutPlanner.TypeOf(scheme, use, board: true),
                            StringComparison.OrdinalIgnoreCase
                        );
                    return new LayoutPartition(p.Number, use, p.Type, p.Start, p.Size)
                    {
                        FileSystem = PartitionForms.Of(use, board).FileSystem,
                        Encrypted = p.Type.Equals(PartitionForms.LuksGptType, StringComparison.OrdinalIgnoreCase),
                    };
                }),
            ]
        );
    }

    /// <summary>The script: divides the drive, makes the file systems, and prints the mount table with their UUIDs.</summary>
    /// <param name="layout">The layout.</param>
    /// <param name="about">The machine and its plan, for the first line; a line of text.</param>
    public static string Shell(Layout layout, string about)
    {
        var kept = layout.Partitions.Any(p => p.Use == PartitionUse.Kept);
        var text = new StringBuilder();
        text.Append(
            CultureInfo.InvariantCulture,
            $"""
            #!/bin/sh
            # {about}
            # Read it before it is run. {(
                kept
                    ? "One system stays: it writes nothing, and shows what is there and what is new"
                    : "It divides the drive that is named as its first argument, and all that is on it is lost"
            )}.
            set -eu
            drive=${"{"}1:?the drive, such as /dev/disk/by-id/…{"}"}
            part() {"{"} case $drive in *[0-9]) echo "${"{"}drive{"}"}p$1" ;; *) echo "$drive$1" ;; esac; {"}"}

            """
        );
        if (kept)
        {
            // What numbers the other system's partitions have only its own table tells: a file system made on the wrong one is
            // somebody's data. A hand adds the new ones, with both tables before it.
            text.Append(
                """
                echo 'One system stays on this drive: nothing is written by a script.'
                echo 'This is its table now; compare the borders, then add only what is new by hand:'
                sfdisk --dump "$drive"
                cat << 'TABLE'

                """
            );
            return text.Append(Text(layout)).Append("TABLE\nexit 1\n").ToString();
        }
        text.Append("sfdisk --wipe auto \"$drive\" << 'TABLE'\n").Append(Text(layout)).Append("TABLE\n");
        var encrypted = layout.Partitions.Any(p => p.Encrypted);
        if (encrypted)
            text.Append(
                """

                # One passphrase for every volume; it is typed, never written down here. Without it all that is on them is lost.
                stty -echo 2> /dev/null || true
                printf 'Passphrase for the drive: ' >&2; IFS= read -r passphrase
                printf '\nOnce more: ' >&2; IFS= read -r again; echo >&2
                stty echo 2> /dev/null || true
                [ -n "$passphrase" ] && [ "$passphrase" = "$again" ] || { echo 'The two differ, or nothing was typed: no volume was made.' >&2; exit 1; }
                # volume NUMBER NAME: a LUKS2 volume on a partition, opened as /dev/mapper/NAME.
                volume() {
                  printf '%s' "$passphrase" | cryptsetup luksFormat --batch-mode --type luks2 --label "$2" "$(part "$1")" -
                  printf '%s' "$passphrase" | cryptsetup open --key-file - "$(part "$1")" "$2"
                }

                """
            );
        foreach (var p in layout.Partitions)
            if (Make(p) is { } make)
                text.Append(
                    p.Encrypted ? $"volume {p.Number} {Name(p.Use)}\n{make} {Device(p)}\n" : $"{make} {Device(p)}\n"
                );
        if (encrypted)
        {
            text.Append(
                "\n# The table of encrypted volumes (crypttab) of the new system: swap too, so that sleep to disk finds it.\n"
            );
            foreach (var p in layout.Partitions.Where(p => p.Encrypted))
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"printf '{Name(p.Use)} UUID=%s none luks{(p.Use == PartitionUse.Swap ? ",swap" : "")}\\n' \"$(blkid -s UUID -o value \"$(part {p.Number})\")\"\n"
                );
        }
        text.Append("\n# The mount table of the new system.\n");
        foreach (var p in layout.Partitions)
            if (Mount(p) is var (at, kind, options))
                text.Append(
                    p.Encrypted
                        ? $"printf '/dev/mapper/{Name(p.Use)} {at} {kind} {options}\\n'\n"
                        : $"printf 'UUID=%s {at} {kind} {options}\\n' \"$(blkid -s UUID -o value {Device(p)})\"\n"
                );
        return text.ToString();
    }

    private static string Device(LayoutPartition p) =>
        p.Encrypted ? $"\"/dev/mapper/{Name(p.Use)}\"" : $"\"$(part {p.Number})\"";

    private static LayoutPartition? Starts(Layout layout) =>
        layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.Boot)
        ?? layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.System && p.Number <= 4);

    private static string Name(PartitionUse use) => use.ToString().ToLowerInvariant();

    private static PartitionUse Use(PartitionScheme scheme, SfdiskPartition p)
    {
        if (Enum.TryParse<PartitionUse>(p.Name, ignoreCase: true, out var named) && !char.IsDigit(p.Name![0]))
            return named;
        if (scheme == PartitionScheme.Mbr && p.Type.TrimStart('0') is "5" or "f" or "85")
            return PartitionUse.Extended;
        return Enum.GetValues<PartitionUse>()
            .Where(use =>
                use
                    is PartitionUse.Efi
                        or PartitionUse.BiosBoot
                        or PartitionUse.Swap
                        or PartitionUse.Home
                        or PartitionUse.Boot
            )
            .Where(use =>
                p.Type != "83"
                && (
                    LayoutPlanner.TypeOf(scheme, use) == p.Type
                    || LayoutPlanner.TypeOf(scheme, use, board: true) == p.Type
                )
            )
            .Append(PartitionUse.System)
            .First();
    }

    private static string? Make(LayoutPartition p) =>
        p.FileSystem switch
        {
            FileSystemKind.Fat32 => $"mkfs.vfat -F 32 -n {Name(p.Use).ToUpperInvariant()}",
            FileSystemKind.Ext4 => $"mkfs.ext4 -q -L {Name(p.Use)}",
            FileSystemKind.Swap => $"mkswap -L {Name(p.Use)}",
            _ => null,
        };

    private static (string At, string Kind, string Options)? Mount(LayoutPartition p)
    {
        var form = PartitionForms.Of(p.Use, board: p is { Use: PartitionUse.Boot, FileSystem: FileSystemKind.Fat32 });
        return form.Mount is { } at && p.FileSystem != FileSystemKind.None
            ? (
                at,
                p.FileSystem switch
                {
                    FileSystemKind.Fat32 => "vfat",
                    FileSystemKind.Ext4 => "ext4",
                    _ => "swap",
                },
                form.Options
            )
            : null;
    }
}
