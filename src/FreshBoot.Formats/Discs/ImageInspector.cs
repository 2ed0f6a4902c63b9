using FreshBoot.Formats.Executables;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Formats.Partitions;

namespace FreshBoot.Formats.Discs;

/// <summary>Whether an image starts in one way, and why.</summary>
/// <param name="Can">Whether it does.</param>
/// <param name="Why">What was found, or what is missing.</param>
public sealed record Start(bool Can, string Why);

/// <summary>The ways to start an image.</summary>
/// <param name="BiosDisc">Legacy BIOS from a disc.</param>
/// <param name="BiosStick">Legacy BIOS from a stick.</param>
/// <param name="Uefi64Disc">64-bit UEFI from a disc.</param>
/// <param name="Uefi64Stick">64-bit UEFI from a stick.</param>
/// <param name="Uefi32">32-bit UEFI.</param>
/// <param name="Arm64">ARM64 UEFI.</param>
public sealed record Starts(
    Start BiosDisc,
    Start BiosStick,
    Start Uefi64Disc,
    Start Uefi64Stick,
    Start Uefi32,
    Start Arm64
)
{
    /// <summary>All of them, by name.</summary>
    public IEnumerable<(string Name, Start Start)> All() =>
        [
            ("BIOS, disc", BiosDisc),
            ("BIOS, stick", BiosStick),
            ("UEFI 64, disc", Uefi64Disc),
            ("UEFI 64, stick", Uefi64Stick),
            ("UEFI 32", Uefi32),
            ("ARM64", Arm64),
        ];

    /// <summary>The ways that this had and another has no more.</summary>
    public IReadOnlyList<string> LostIn(Starts other) =>
        [.. All().Zip(other.All()).Where(p => p.First.Start.Can && !p.Second.Start.Can).Select(p => p.First.Name)];
}

/// <summary>The largest file of an image.</summary>
/// <param name="Path">Its path.</param>
/// <param name="SizeBytes">Its size in bytes.</param>
public sealed record LargestFile(string Path, long SizeBytes);

/// <summary>A file system that was found.</summary>
/// <param name="Kind">Its kind, such as <c>UDF 1.02</c>.</param>
/// <param name="Label">Its label.</param>
/// <param name="In">Where it lies: <c>disc</c>, <c>El Torito</c>, or a partition.</param>
/// <param name="OffsetBytes">Where it begins.</param>
/// <param name="Files">Files on it.</param>
public sealed record ImageFileSystem(string Kind, string Label, string In, long OffsetBytes, int Files);

/// <summary>What an image is and how it starts.</summary>
/// <param name="Label">Label of its main file system.</param>
/// <param name="SizeBytes">Size of the file in bytes.</param>
/// <param name="LargestFile">Its largest file; null where no file was found.</param>
/// <param name="FileSystems">File systems, the main one first.</param>
/// <param name="ElTorito">The boot catalogue.</param>
/// <param name="Partitions">Partitions of both tables.</param>
/// <param name="Loaders">UEFI loaders.</param>
/// <param name="Starts">The ways it starts.</param>
/// <param name="Findings">Faults and remarks.</param>
public sealed record Inspection(
    string Label,
    long SizeBytes,
    LargestFile? LargestFile,
    IReadOnlyList<ImageFileSystem> FileSystems,
    IReadOnlyList<ElToritoEntry> ElTorito,
    IReadOnlyList<ImagePartition> Partitions,
    IReadOnlyList<UefiLoader> Loaders,
    Starts Starts,
    IReadOnlyList<ImageFinding> Findings
)
{
    /// <summary>SHA-256 of the file, hexadecimal; null while it is not known.</summary>
    public string? Sha256 { get; init; }

    /// <summary>What tells it apart beyond its files.</summary>
    public ImageMarks Marks { get; init; } = new(false, null, null, null, null);
}

/// <summary>Marks of an image that some installers and loaders look for, and that a writer of images may drop.</summary>
/// <param name="Joliet">Whether the disc has names by Joliet, whichever names were read.</param>
/// <param name="Udf">The revision of its UDF; null for none.</param>
/// <param name="MbrSignature">The disk's number in its MBR, eight hexadecimal digits; null where it has none.</param>
/// <param name="GptDisk">The disk's GUID in its GPT; null for none.</param>
/// <param name="SecondGptAt">The byte at which the second GPT header really lies; null where there is none where the first one says.</param>
public sealed record ImageMarks(bool Joliet, string? Udf, string? MbrSignature, string? GptDisk, long? SecondGptAt);

/// <summary>
/// Looks into an image: what file systems it has, what lies on them, and which firmware starts it from what. The time it takes
/// follows the number of files, not the size of the image.
/// </summary>
public static class ImageInspector
{
    /// <summary>Looks into an image.</summary>
    /// <param name="image">A seekable stream; it is left open.</param>
    public static InspectedImage Look(Stream image)
    {
        var findings = new List<ImageFinding>();
        var bytes = new ImageBytes(image);
        var trees = new List<(FileTree Tree, string In, long At, bool Disc, bool Stick)>();

        var catalogue = Array.Empty<ElToritoEntry>() as IReadOnlyList<ElToritoEntry>;
        FileTree? iso = null;
        var udf = Udf.Read(bytes, findings);
        var joliet = false;
        if (Iso9660.Find(bytes, findings) is { } descriptors)
        {
            joliet = descriptors.Joliet is not null;
            iso = Iso9660.Read(bytes, descriptors, findings);
            if (descriptors.BootCatalogue is { } sector)
                catalogue = ElTorito.Read(bytes, sector, findings);
        }
        // Large installers keep all but a note in UDF, or files that ISO 9660 cannot hold whole.
        var main = udf is not null && (iso is null || Measure(udf).CompareTo(Measure(iso)) > 0) ? udf : iso;
        if (main is not null)
            trees.Add((main, "disc", 0, false, false));
        if (main == udf && iso is not null)
            trees.Add((iso, "disc", 0, false, false));
        else if (udf is not null && main != udf)
            trees.Add((udf, "disc", 0, false, false));

        var partitions = PartitionTables.Read(bytes, findings);
        foreach (var entry in catalogue.Where(e => e is { Platform: "uefi", Bootable: true }))
            Add(bytes.Part(entry.Offset, bytes.Length - entry.Offset), "El Torito", disc: true, stick: false);
        foreach (var partition in partitions.Where(p => p.Type is not ("ee" or "05" or "0f" or "85")))
            Add(
                bytes.Part(partition.OffsetBytes, partition.SizeBytes),
                $"{partition.Table.ToUpperInvariant()} partition {partition.Number}",
                disc: false,
                stick: true
            );
        if (partitions.Count == 0)
            Add(bytes, "whole image", disc: false, stick: true);
        if (trees.Count == 0)
            findings.Remark("No file system was found that can be read here.", "the image");

        var loaders = new List<UefiLoader>();
        foreach (var (tree, place, _, disc, stick) in trees)
        foreach (var name in (string[])["BOOTX64.EFI", "BOOTIA32.EFI", "BOOTAA64.EFI", "BOOTARM.EFI"])
            if (tree.Find($"EFI/BOOT/{name}") is { Kind: EntryKind.File } file)
                loaders.Add(Loader(image, file, place, disc, stick, findings));

        var largest = (main ?? trees.Select(t => t.Tree).FirstOrDefault())
            ?.Entries.Where(e => e.Kind == EntryKind.File)
            .MaxBy(e => e.SizeBytes);
        var inspection = new Inspection(
            (main ?? trees.Select(t => t.Tree).FirstOrDefault())?.Label ?? "",
            bytes.Length,
            largest is null ? null : new LargestFile(largest.Path, largest.SizeBytes),
            [
                .. trees
                    .DistinctBy(t => (t.At, t.Tree.FileSystem))
                    .Select(t => new ImageFileSystem(
                        t.Tree.FileSystem,
                        t.Tree.Label,
                        t.In,
                        t.At,
                        t.Tree.Entries.Count(e => e.Kind == EntryKind.File)
                    )),
            ],
            catalogue,
            partitions,
            loaders,
            WaysToStart(bytes, catalogue, partitions, loaders),
            findings
        )
        {
            Marks = new ImageMarks(
                joliet,
                udf?.FileSystem,
                PartitionTables.DiskNumber(bytes),
                PartitionTables.DiskGuid(bytes),
                PartitionTables.SecondHeader(bytes)
            ),
        };
        return new InspectedImage(inspection, [.. trees.Select(t => (t.In, t.Tree))]);

        void Add(ImageBytes stretch, string place, bool disc, bool stick)
        {
            if (Fat.Read(stretch, findings) is { } fat)
                trees.Add((fat, place, stretch.Start, disc, stick));
        }
    }

    private static (long Bytes, int Entries) Measure(FileTree tree) =>
        (tree.Entries.Sum(e => e.SizeBytes), tree.Entries.Count);

    private static UefiLoader Loader(
        Stream image,
        TreeEntry file,
        string place,
        bool disc,
        bool stick,
        List<ImageFinding> findings
    )
    {
        using var content = new ExtentStream(image, file);
        if (PortableExecutable.Read(content) is { } pe)
        {
            if (!pe.IsUefi)
                findings.Fault("The loader is a program, but none for UEFI.", $"{file.Path} in {place}");
            return new UefiLoader(file.Path, place, pe.IsUefi ? pe.Machine : null, pe.HasSignature, disc, stick);
        }
        findings.Fault("The loader is no PE file; UEFI will pass it over.", $"{file.Path} in {place}");
        return new UefiLoader(file.Path, place, null, false, disc, stick);
    }

    private static Starts WaysToStart(
        ImageBytes image,
        IReadOnlyList<ElToritoEntry> catalogue,
        IReadOnlyList<ImagePartition> partitions,
        IReadOnlyList<UefiLoader> loaders
    )
    {
        return new Starts(
            BiosDisc(image, catalogue),
            BiosStick(image),
            Uefi("x64", l => l.FromDisc, "disc", catalogue.Any(e => e.Platform == "uefi")),
            Uefi("x64", l => l.FromStick, "stick", partitions.Count > 0),
            Uefi("ia32", l => l.FromDisc || l.FromStick, "disc or stick", true),
            Uefi("aa64", l => l.FromDisc || l.FromStick, "disc or stick", true)
        );

        Start Uefi(string machine, Func<UefiLoader, bool> reaches, string medium, bool hasPlace)
        {
            var name =
                machine == "x64" ? "BOOTX64.EFI"
                : machine == "ia32" ? "BOOTIA32.EFI"
                : "BOOTAA64.EFI";
            var found = loaders.FirstOrDefault(l =>
                reaches(l) && l.Machine == machine && l.Path.EndsWith(name, StringComparison.OrdinalIgnoreCase)
            );
            if (found is not null)
                return new Start(true, $"{found.Path} for {machine} in {found.In}.");
            if (
                loaders.FirstOrDefault(l => reaches(l) && l.Path.EndsWith(name, StringComparison.OrdinalIgnoreCase)) is
                { } wrong
            )
                return new Start(
                    false,
                    $"{wrong.Path} in {wrong.In} is {(wrong.Machine is null ? "no UEFI program" : $"for {wrong.Machine}, not {machine}")}."
                );
            if (loaders.Any(l => l.Machine == machine && l.In == "disc"))
                return new Start(
                    false,
                    $"The loader lies in the disc’s own file system only; UEFI reads FAT. Copying the files to a FAT32 stick makes it start."
                );
            return new Start(
                false,
                hasPlace ? $"No {name} in a FAT file system that firmware finds from {medium}."
                    : medium == "disc" ? "The boot catalogue has no UEFI entry."
                    : "No partition table, so no EFI system partition."
            );
        }
    }

    private static Start BiosDisc(ImageBytes image, IReadOnlyList<ElToritoEntry> catalogue)
    {
        if (catalogue.Count == 0)
            return new Start(false, "No El Torito boot catalogue.");
        if (catalogue.FirstOrDefault(e => e is { Platform: "bios", Bootable: true }) is not { } entry)
            return new Start(false, "The boot catalogue has no entry for BIOS.");
        if (image.Read(entry.Offset, 512) is not { } code)
            return new Start(false, "The BIOS entry points beyond the end of the image.");
        return code.AsSpan().ContainsAnyExcept((byte)0)
            ? new Start(
                true,
                entry.Emulation == "none"
                    ? $"El Torito entry for BIOS, no emulation, {entry.LoadSectors} sectors loaded."
                    : $"El Torito entry for BIOS, as a {entry.Emulation}."
            )
            : new Start(false, "The BIOS entry points to zeros.");
    }

    private static Start BiosStick(ImageBytes image)
    {
        if (image.Read(0, 512) is not { } first)
            return new Start(false, "It is shorter than a sector.");
        return PartitionTables.HasBootCode(first)
                ? new Start(true, "Code in the first sector that reads on from the disk.")
            : PartitionTables.HasBootMark(first)
                ? new Start(
                    false,
                    "The first sector has the mark 55 AA, and no code that reads on from the disk: it starts nothing."
                )
            : new Start(
                false,
                "The first sector is no boot sector: written to a stick block by block, BIOS passes it over."
            );
    }
}

/// <summary>An image that was looked into, with its trees.</summary>
/// <param name="Inspection">What was found.</param>
/// <param name="Trees">The trees with the place they lie in, the main one first.</param>
public sealed record InspectedImage(Inspection Inspection, IReadOnlyList<(string In, FileTree Tree)> Trees)
{
    /// <summary>The tree with the installer's files; null where none was found.</summary>
    public FileTree? Main => Trees.Count > 0 ? Trees[0].Tree : null;
}
