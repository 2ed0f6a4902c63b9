using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;
using FreshBoot.Formats.Discs;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Formats.Partitions;

namespace FreshBoot.Core.Media;

/// <summary>How an image comes onto a medium.</summary>
[JsonConverter(typeof(CamelCaseNames<CopyMethod>))]
public enum CopyMethod
{
    /// <summary>Block by block, as it is.</summary>
    Blocks,

    /// <summary>File by file onto FAT32.</summary>
    Files,

    /// <summary>File by file onto FAT32, with files of 4 GiB and more in parts.</summary>
    FilesInParts,

    /// <summary>The files that start it on FAT32, and the image as it is in a second partition.</summary>
    TwoPartitions,

    /// <summary>Not at all.</summary>
    None,
}

/// <summary>A stretch of a medium, for a drawing to scale.</summary>
/// <param name="Name">What it is.</param>
/// <param name="OffsetBytes">Where it begins.</param>
/// <param name="SizeBytes">Its size.</param>
public sealed record MediumStretch(string Name, long OffsetBytes, long SizeBytes);

/// <summary>What a plan is made for.</summary>
/// <param name="Firmware">Ways that the machines start: <c>bios</c>, <c>uefi64</c>, <c>uefi32</c>.</param>
/// <param name="LargeFiles">What the installer does with large files.</param>
/// <param name="MachinePort">USB generation of the port it is written through and read from.</param>
/// <param name="DriveReads">What the machine's disc drive reads: <c>cd</c>, <c>dvd</c>, empty for no drive; null where nobody knows.</param>
/// <param name="LineBytesPerSecond">Speed of the line for the download; 0 where the image is here.</param>
/// <param name="Machines">How many machines it serves.</param>
public sealed record WriteWish(
    IReadOnlyList<string> Firmware,
    LargeFiles LargeFiles,
    int MachinePort,
    string? DriveReads,
    long LineBytesPerSecond,
    int Machines
);

/// <summary>How an image goes onto a medium, and how long that takes.</summary>
/// <param name="Method">The method.</param>
/// <param name="Why">Why this one; for <see cref="CopyMethod.None"/> why none.</param>
/// <param name="Scheme"><c>as the image has it</c>, <c>MBR</c> or <c>GPT</c>.</param>
/// <param name="FileSystem">The file system.</param>
/// <param name="Fits">Whether it fits.</param>
/// <param name="NeededBytes">Bytes that it takes.</param>
/// <param name="Stretches">What lies where.</param>
/// <param name="DownloadSeconds">Time for the download.</param>
/// <param name="WriteSeconds">Time for writing.</param>
/// <param name="VerifySeconds">Time for reading back.</param>
/// <param name="Slowest">What limits the writing: <c>port</c> or <c>medium</c>.</param>
/// <param name="Notes">What to know.</param>
public sealed record WritePlan(
    CopyMethod Method,
    string Why,
    string Scheme,
    string FileSystem,
    bool Fits,
    long NeededBytes,
    IReadOnlyList<MediumStretch> Stretches,
    long DownloadSeconds,
    long WriteSeconds,
    long VerifySeconds,
    string Slowest,
    IReadOnlyList<string> Notes
)
{
    /// <summary>Plans how an image goes onto a medium.</summary>
    public static WritePlan Make(InspectedImage image, MediumFacts medium, WriteWish wish)
    {
        var seen = image.Inspection;
        var notes = new List<string>();
        var (method, why) = medium.IsDisc ? Disc(seen, medium, wish, notes) : Stick(image, wish, medium.Kind);
        var files = method is CopyMethod.Files or CopyMethod.FilesInParts or CopyMethod.TwoPartitions
            ? FatWriter.List(image.Main!, split: method == CopyMethod.FilesInParts)
            : [];
        var needed = method switch
        {
            CopyMethod.Blocks or CopyMethod.None => seen.SizeBytes,
            CopyMethod.TwoPartitions => FatWriter.BytesFor(files) + seen.SizeBytes,
            _ => FatWriter.BytesFor(files),
        };
        var room = medium.Kind == MediumKind.File ? needed : medium.SizeBytes;
        var fits = method switch
        {
            CopyMethod.None => false,
            // The file system takes the whole medium, and the larger its clusters are, the less of it small files fill.
            CopyMethod.Files or CopyMethod.FilesInParts => FatWriter.Holds(files, room - FatWriter.FirstByte),
            _ => needed <= room,
        };
        if (method != CopyMethod.None && !fits)
            why = $"It takes {needed} bytes, the medium has {room}: a larger one is needed.";
        if (medium.Kind == MediumKind.Stick && wish.MachinePort < medium.UsbGeneration)
            notes.Add(
                "The stick is faster than the port. If the machine does not see it, the slow port is the safe one."
            );
        if (medium.Kind == MediumKind.Stick && wish.MachinePort == 3 && medium.UsbGeneration < 3)
            notes.Add("The stick is slower than the port: any port will do.");
        if (wish.Machines > 1)
            notes.Add($"One medium serves all {wish.Machines} machines, one after the other; nothing on it changes.");
        if (method != CopyMethod.None)
            notes.Add("Everything on the medium is erased.");
        var port =
            medium.IsDisc || medium.Kind == MediumKind.File
                ? long.MaxValue
                : MediumFacts.PortBytesPerSecond(wish.MachinePort);
        return new WritePlan(
            method,
            why,
            method is CopyMethod.Blocks or CopyMethod.None ? "as the image has it" : "MBR",
            method switch
            {
                CopyMethod.Blocks or CopyMethod.None => seen.FileSystems.Count > 0
                    ? seen.FileSystems[0].Kind
                    : "unknown",
                CopyMethod.TwoPartitions => $"FAT32, and {seen.FileSystems[0].Kind}",
                _ => "FAT32",
            },
            fits,
            needed,
            Draw(image, method, room, needed),
            wish.LineBytesPerSecond > 0 ? Seconds(seen.SizeBytes, wish.LineBytesPerSecond) : 0,
            Seconds(needed, Math.Min(port, medium.WriteBytesPerSecond)),
            Seconds(needed, Math.Min(port, medium.ReadBytesPerSecond)),
            port < medium.WriteBytesPerSecond ? "port" : "medium",
            notes
        );
    }

    /// <summary>Where the second partition begins, in bytes: on a whole MiB, as every medium likes it.</summary>
    internal static long SecondPartition(long neededBytes, long imageBytes) => (neededBytes - imageBytes) >> 20 << 20;

    private static long Seconds(long bytes, long perSecond) => (bytes + perSecond - 1) / Math.Max(1, perSecond);

    private static (CopyMethod, string) Disc(Inspection seen, MediumFacts medium, WriteWish wish, List<string> notes)
    {
        var ways = wish
            .Firmware.Select(f =>
                (
                    Firmware: f,
                    Start: f switch
                    {
                        "bios" => seen.Starts.BiosDisc,
                        "uefi32" => seen.Starts.Uefi32,
                        _ => seen.Starts.Uefi64Disc,
                    }
                )
            )
            .ToList();
        if (wish.DriveReads is { Length: 0 })
            return (CopyMethod.None, "The machine has no disc drive.");
        if (wish.DriveReads == "cd" && medium.Kind != MediumKind.Cd)
            return (CopyMethod.None, "The machine's drive reads CDs only; this is a DVD.");
        if (ways.Find(w => !w.Start.Can) is { Firmware: { } firmware, Start: { } start })
            return (CopyMethod.None, $"From a disc it does not start by {Name(firmware)}: {start.Why}");
        notes.Add("Read the disc back after burning; a bad burn shows up in the middle of copying.");
        return (CopyMethod.Blocks, "A disc takes the image as it is.");
    }

    private static (CopyMethod, string) Stick(InspectedImage image, WriteWish wish, MediumKind kind)
    {
        var seen = image.Inspection;
        var needs = wish
            .Firmware.Select(f =>
                (
                    Firmware: f,
                    Start: f switch
                    {
                        "bios" => seen.Starts.BiosStick,
                        "uefi32" => seen.Starts.Uefi32,
                        _ => seen.Starts.Uefi64Stick,
                    }
                )
            )
            .ToList();
        var failing = needs.Where(n => !n.Start.Can).ToList();
        if (needs.Count == 0)
            return (CopyMethod.Blocks, "Block by block: the image is made for the board, which starts from it.");
        if (failing.Count == 0)
            return (
                CopyMethod.Blocks,
                $"Block by block: the image is a hybrid and starts from {(kind == MediumKind.Card ? "a card" : "a stick")} by {Numbers.Join(wish.Firmware.Select(Name), "and")}; files of any size stay whole."
            );
        if (failing.Exists(f => f.Firmware == "bios"))
            return (
                CopyMethod.None,
                $"It does not start by legacy BIOS: {seen.Starts.BiosStick.Why} Copying its files does not help BIOS."
            );
        if (image.Main is not { } tree)
            return (CopyMethod.None, "No files can be read on it, so none can be copied.");
        foreach (var (firmware, start) in failing)
        {
            var name = firmware == "uefi32" ? "BOOTIA32.EFI" : "BOOTX64.EFI";
            if (tree.Find($"EFI/BOOT/{name}") is null)
                return (CopyMethod.None, $"{start.Why} There is no {name} among its files either.");
        }
        var because = "UEFI starts from FAT only, and the image has its loader in the disc's own file system";
        if (seen.LargestFile is not { SizeBytes: > FatWriter.LargestFile } largest)
            return (CopyMethod.Files, $"{because}: its files are copied to FAT32.");
        var size =
            $"{largest.Path} has {largest.SizeBytes / (double)(1L << 30):0.0} GiB, and FAT32 holds less than 4 GiB in a file";
        return wish.LargeFiles switch
        {
            LargeFiles.Parts => (
                CopyMethod.FilesInParts,
                $"{because}. {size}: it is split; the installer reads the parts."
            ),
            LargeFiles.SecondPartition => (
                CopyMethod.TwoPartitions,
                $"{because}. {size}: the image itself goes into a second partition, where the installer looks for it."
            ),
            _ => (
                CopyMethod.None,
                $"{because}. {size}, and this installer reads neither parts nor a second partition."
            ),
        };
    }

    private static string Name(string firmware) =>
        firmware switch
        {
            "bios" => "legacy BIOS",
            "uefi32" => "32-bit UEFI",
            _ => "64-bit UEFI",
        };

    private static List<MediumStretch> Draw(InspectedImage image, CopyMethod method, long room, long needed)
    {
        var seen = image.Inspection;
        var all = new List<MediumStretch>();
        switch (method)
        {
            case CopyMethod.None:
                return [];
            case CopyMethod.Blocks:
                all.Add(
                    new MediumStretch(
                        seen.FileSystems.Count > 0 ? seen.FileSystems[0].Kind : "image",
                        0,
                        seen.SizeBytes
                    )
                );
                // Of the same stretch in both tables one is drawn.
                all.AddRange(
                    seen.Partitions.Where(p => p.Type is PartitionTables.EfiSystemGpt or PartitionTables.EfiSystemMbr)
                        .DistinctBy(p => p.OffsetBytes)
                        .Select(p => new MediumStretch("EFI system partition", p.OffsetBytes, p.SizeBytes))
                );
                break;
            case CopyMethod.TwoPartitions:
                var second = SecondPartition(needed, seen.SizeBytes);
                all.Add(new MediumStretch("FAT32, what starts it", FatWriter.FirstByte, second - FatWriter.FirstByte));
                all.Add(new MediumStretch("the image as it is", second, seen.SizeBytes));
                break;
            default:
                // The file system takes the whole medium, so that whoever has it can put more on it.
                all.Add(new MediumStretch("FAT32", FatWriter.FirstByte, room - FatWriter.FirstByte));
                return all;
        }
        if (room > needed)
            all.Add(new MediumStretch("not used", needed, room - needed));
        return all;
    }
}
