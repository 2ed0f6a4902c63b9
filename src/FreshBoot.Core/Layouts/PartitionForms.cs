namespace FreshBoot.Core.Layouts;

/// <summary>What a partition is made as, and how it is told.</summary>
/// <param name="FileSystem">What is made in it.</param>
/// <param name="MbrType">Its type in an MBR: two hexadecimal digits.</param>
/// <param name="GptType">Its type in a GPT (UEFI 2.10, table 5.7; Discoverable Partitions Specification).</param>
/// <param name="Mount">Where it is mounted; null for nowhere.</param>
/// <param name="Options">Options, dump and pass of its line in the mount table (fstab(5)).</param>
/// <param name="Personal">Whether it can hold what a person keeps or was working on: encrypted where the drive is.</param>
public sealed record PartitionForm(
    FileSystemKind FileSystem,
    string MbrType,
    string GptType,
    string? Mount,
    string Options,
    bool Personal = false
)
{
    /// <summary>How people call what is made in it.</summary>
    public string InWords =>
        FileSystem switch
        {
            FileSystemKind.Fat32 => "FAT32",
            FileSystemKind.Ext4 => "ext4",
            FileSystemKind.Swap => "swap",
            _ => "no file system",
        };
}

/// <summary>For each use of a partition what it is made as: types, script, mount table and words come from here and nowhere else.</summary>
public static class PartitionForms
{
    private const string LinuxData = "0fc63daf-8483-4772-8e79-3d69d8477de4";

    /// <summary>The type of a LUKS volume in a GPT (Discoverable Partitions Specification), and in an MBR.</summary>
    public const string LuksGptType = "ca7d7ccb-63ed-4c53-861c-1742536059cc";

    /// <summary>The form of a partition.</summary>
    /// <param name="use">What it is for.</param>
    /// <param name="board">Whether a small board's first stage starts the machine: that reads FAT and no more.</param>
    public static PartitionForm Of(PartitionUse use, bool board) =>
        use switch
        {
            PartitionUse.Efi => new(
                FileSystemKind.Fat32,
                "ef",
                "c12a7328-f81f-11d2-ba4b-00a0c93ec93b",
                "/boot/efi",
                "umask=0077 0 1"
            ),
            PartitionUse.BiosBoot => new(FileSystemKind.None, "83", "21686148-6449-6e6f-744e-656564454649", null, ""),
            // What a board's first stage reads is FAT32 with addresses by block: 0C, and in a GPT the type of any basic data.
            PartitionUse.Boot when board => new(
                FileSystemKind.Fat32,
                "c",
                "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7",
                "/boot/firmware",
                "umask=0022 0 1"
            ),
            PartitionUse.Boot => new(
                FileSystemKind.Ext4,
                "83",
                "bc13c2ff-59e6-4262-a352-b275fd6f7172",
                "/boot",
                "defaults 0 2"
            ),
            PartitionUse.System => new(FileSystemKind.Ext4, "83", LinuxData, "/", "errors=remount-ro 0 1", true),
            PartitionUse.Home => new(
                FileSystemKind.Ext4,
                "83",
                "933ac7e1-2eb4-4f13-b844-0e14e2aef915",
                "/home",
                "defaults 0 2",
                true
            ),
            PartitionUse.Data => new(FileSystemKind.Ext4, "83", LinuxData, "/srv", "defaults,nofail 0 2", true),
            PartitionUse.Recovery => new(FileSystemKind.Ext4, "83", LinuxData, null, ""),
            PartitionUse.Swap => new(
                FileSystemKind.Swap,
                "82",
                "0657fd6d-a4ab-43c4-84e5-0933c84b4f4f",
                "none",
                "sw 0 0",
                true
            ),
            PartitionUse.Extended => new(FileSystemKind.None, "f", LinuxData, null, ""),
            _ => new(FileSystemKind.None, "83", LinuxData, null, ""),
        };
}
