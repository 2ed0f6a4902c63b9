using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Layouts;

/// <summary>
/// Divides a drive: boot files within what the firmware reaches, everything on whole mebibytes, the rest where the wishes say.
/// Whatever stays comes first, since it does not move; then what starts the machine; then the system.
/// </summary>
public static class LayoutPlanner
{
    private const long MiB = Quantity.MiB;

    /// <summary>Sectors that an MBR can name (32 bits for begin and length each).</summary>
    private const long MbrSectors = 1L << 32;

    /// <summary>Bytes that a GPT takes at the end of the drive: its header, and 128 entries of 128 bytes (UEFI 2.10, 5.3.1).</summary>
    private const int GptEntriesBytes = 128 * 128;

    private sealed record Piece(PartitionUse Use, long MiB, string Why);

    /// <summary>Plans a layout.</summary>
    /// <exception cref="LayoutCollisionException">Two wishes cannot both be met.</exception>
    /// <exception cref="RefusedException">The drive is too small or odd for any layout, or a size that is needed is unknown.</exception>
    public static Layout Plan(LayoutAsk ask)
    {
        try
        {
            return Make(ask);
        }
        catch (LayoutCollisionException e)
        {
            throw e.Short(Missing(ask, e));
        }
    }

    /// <summary>
    /// How many bytes more of what is short make it fit. More of it may make other parts larger too (swap, half of the drive that stays,
    /// the EFI system partition of a larger drive), so that the sum that was missing is not enough: it is tried.
    /// </summary>
    private static long? Missing(LayoutAsk ask, LayoutCollisionException e)
    {
        var byReach = e.Collides.Contains("reach");
        bool Fits(long mib)
        {
            try
            {
                Make(
                    byReach
                        ? ask with
                        {
                            Reach = ask.Reach with { Bytes = ask.Reach.Bytes + (mib * MiB) },
                        }
                        : ask with
                        {
                            DriveBytes = ask.DriveBytes + (mib * MiB),
                        }
                );
                return true;
            }
            catch (RefusedException)
            {
                return false;
            }
        }
        const long most = 1L << 34;
        var (less, enough) = (0L, Math.Max(1, Up(e.ShortBytes ?? MiB)));
        while (!Fits(enough))
        {
            if (enough > most)
                return null;
            (less, enough) = (enough, enough * 2);
        }
        while (enough - less > 1)
        {
            var middle = less + ((enough - less) / 2);
            if (Fits(middle))
                enough = middle;
            else
                less = middle;
        }
        return enough * MiB;
    }

    private static Layout Make(LayoutAsk ask)
    {
        if (ask.SectorBytes is not (512 or 4096))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"Sectors of {ask.SectorBytes} bytes are planned by nobody here.",
                "drive.sectorBytes",
                "512 or 4096."
            );
        CheckEncryption(ask);
        var sectors = ask.DriveBytes / ask.SectorBytes;
        var legacy = ask.Firmware is not ("uefi32" or "uefi64" or "locked" or "board");
        var notes = new List<LayoutNote>();
        var (scheme, schemeWhy) = SchemeOf(ask, sectors, notes);
        var (first, last) = Room(scheme, ask.SectorBytes, sectors);
        // A reach that is not whole mebibytes is rounded down: a file that ends a sector too far does not start.
        var reach = legacy ? Math.Min(last, ask.Reach.Bytes / MiB) : last;
        var pieces = Pieces(ask, scheme, legacy, first, last, reach, notes);
        var partitions = Place(pieces, scheme, ask, first);
        if (ask.SectorBytes == 4096 && legacy)
            notes.Add(
                new(
                    Outcome.Unknown,
                    "Most legacy BIOSes start nothing from a drive with sectors of 4096 bytes: try it before anything is moved onto it."
                )
            );
        if (ask.Reach.Sure == ReachSure.Unknown && legacy)
            notes.Add(
                new(
                    Outcome.Unknown,
                    $"How far the firmware reaches is unknown: {ask.Reach.From}. Measure it, and the layout may be simpler."
                )
            );
        if (ask.Firmware is null)
            notes.Add(new(Outcome.Unknown, "Its firmware is not known; this is planned as for a legacy BIOS."));
        if (ask.Firmware == "locked")
            notes.Add(
                new(
                    Outcome.Caveat,
                    "The maker's boot ROM starts the maker's system only; this layout holds once full UEFI is on it."
                )
            );
        return new Layout(scheme, schemeWhy, ask.SectorBytes, sectors, partitions, ask.Reach, notes);
    }

    /// <summary>Only what a system starts from is made encrypted here; of the rest it is said who does it, and where.</summary>
    private static void CheckEncryption(LayoutAsk ask)
    {
        if (!ask.Wishes.Encrypt || ask.Encryption?.By == EncryptionBy.Luks)
            return;
        var (what, wanted) = ask.Encryption switch
        {
            null => (
                $"Nobody wrote down whether {ask.System} starts from an encrypted volume.",
                "The system's entry in the catalogue, or a layout without encryption."
            ),
            { By: EncryptionBy.Own } own => (
                $"{ask.System} brings its own encryption: no volume is made for it.",
                $"A layout without encryption; it is switched on {own.Where ?? "in the system itself"}."
            ),
            _ => ($"{ask.System} starts from no encrypted volume.", "A layout without encryption, or another system."),
        };
        throw new RefusedException(RefusalKind.Impossible, what, "wishes.encrypt", wanted);
    }

    private static (PartitionScheme, string) SchemeOf(LayoutAsk ask, long sectors, List<LayoutNote> notes)
    {
        var uefi = ask.Firmware is "uefi32" or "uefi64" or "locked";
        if (ask.Scheme is { } chosen)
        {
            if (chosen == PartitionScheme.Mbr && uefi)
                notes.Add(
                    new(
                        Outcome.Caveat,
                        "UEFI firmware may start an MBR from a fixed drive, and some does not: GPT is sure."
                    )
                );
            return (chosen, "chosen");
        }
        if (uefi)
            return (PartitionScheme.Gpt, "UEFI looks for its system partition in a GPT (UEFI 2.10, section 13.3)");
        if (sectors > MbrSectors)
            return (
                PartitionScheme.Gpt,
                $"an MBR names at most 2^32 sectors, {Quantity.Drive(MbrSectors * ask.SectorBytes)}, and the drive has {Quantity.Drive(ask.DriveBytes)}; the loader's core gets a partition of its own"
            );
        return ask.Firmware == "board"
            ? (PartitionScheme.Mbr, "the board's first stage reads an MBR")
            : (PartitionScheme.Mbr, "legacy BIOS starts from an MBR, and old tools read it");
    }

    /// <summary>The first mebibyte that can be used, and the first behind them.</summary>
    private static (long First, long Last) Room(PartitionScheme scheme, int sectorBytes, long sectors)
    {
        var tail = scheme == PartitionScheme.Gpt ? (GptEntriesBytes + sectorBytes - 1) / sectorBytes + 1 : 0;
        var usable = scheme == PartitionScheme.Gpt ? sectors - tail : Math.Min(sectors, MbrSectors);
        var last = usable * sectorBytes / MiB;
        return last < 2
            ? throw new RefusedException(
                RefusalKind.Impossible,
                "The drive is too small to be divided.",
                "drive.sizeBytes",
                "At least 3 MiB."
            )
            : (1, last);
    }

    private static List<Piece> Pieces(
        LayoutAsk ask,
        PartitionScheme scheme,
        bool legacy,
        long first,
        long last,
        long reach,
        List<LayoutNote> notes
    )
    {
        var (sizes, wishes) = (ask.Sizes, ask.Wishes);
        var small = last < sizes.SmallDrive;
        var least = Math.Max(1, Up(ask.SystemBytes));
        var fixedOnes = new List<Piece>();
        var kept = Kept(ask, last, notes);
        if (kept > 0)
            fixedOnes.Add(
                new(PartitionUse.Kept, kept, $"The system that stays has the first {Size(kept)}; it is not touched.")
            );
        if (ask.Firmware is "uefi32" or "uefi64" or "locked")
        {
            var efi =
                !small ? sizes.Efi
                : ask.SectorBytes == 4096 ? sizes.EfiLargeSectors
                : sizes.EfiSmall;
            fixedOnes.Add(
                new(
                    PartitionUse.Efi,
                    efi,
                    small && ask.SectorBytes == 4096
                            ? "The EFI system partition: FAT32 has at least 65,525 clusters, and with sectors of 4096 bytes that is 256 MiB."
                        : small ? "The EFI system partition: loaders of two systems, on a drive that has little room."
                        : "The EFI system partition: loaders of several systems and room for firmware updates, in FAT32."
                )
            );
        }
        else if (legacy && scheme == PartitionScheme.Gpt)
            fixedOnes.Add(
                new(
                    PartitionUse.BiosBoot,
                    1,
                    "On a GPT a loader for legacy BIOS has no gap behind the first sector: its core lies here."
                )
            );
        var before = first + fixedOnes.Sum(p => p.MiB);
        var board = ask.Firmware == "board";
        var far = legacy && reach < last;
        if (wishes.Encrypt || board || far)
        {
            var most = Math.Min(
                small ? Math.Max(sizes.BootLeast, sizes.Boot / 2) : sizes.Boot,
                far ? reach - before : long.MaxValue
            );
            if (most < sizes.BootLeast)
                throw Collides(
                    $"The boot files have to lie before {Size(reach)}, where the firmware's reach ends, and {Size(before)} are taken already.",
                    kept > 0 ? "keep" : "boot",
                    "reach",
                    sizes.BootLeast - most,
                    kept > 0
                        ? "Less kept, the other system on another drive, or a drive that the firmware reads whole."
                        : "A reach that holds the boot files: measure it, or start from another drive."
                );
            fixedOnes.Add(
                new(
                    PartitionUse.Boot,
                    most,
                    far ? $"Kernels and loader, whole within what the firmware reads: {Size(reach)} ({ask.Reach.From})."
                        : board
                            ? $"What the board's first stage reads, in {PartitionForms.Of(PartitionUse.Boot, board).InWords}."
                        : "Kernels and loader, which are read before the passphrase is typed."
                )
            );
        }
        var swap = Swap(ask, small, last, notes);
        if (swap is not null)
            fixedOnes.Add(swap);
        if (wishes.Recovery.Wanted)
            fixedOnes.Add(
                new(
                    PartitionUse.Recovery,
                    Up(wishes.Recovery.Bytes) ?? sizes.Recovery,
                    wishes.Recovery.Bytes is null
                        ? "Room for the installer and its image, to set it up from again."
                        : "Recovery, as large as was asked."
                )
            );
        Piece[] own =
        [
            .. wishes.Home.Wanted
                ?
                [
                    new Piece(
                        PartitionUse.Home,
                        Up(wishes.Home.Bytes) ?? 0,
                        "What the person keeps; it outlives the system."
                    ),
                ]
                : Array.Empty<Piece>(),
            .. wishes.Data.Wanted
                ?
                [
                    new Piece(
                        PartitionUse.Data,
                        Up(wishes.Data.Bytes) ?? 0,
                        "Data beside the systems, for whichever runs."
                    ),
                ]
                : Array.Empty<Piece>(),
        ];
        var count = fixedOnes.Count + 1 + own.Length;
        // Each logical partition of an MBR has a record of its own before it; a whole mebibyte keeps the rest in place.
        var records = scheme == PartitionScheme.Mbr && count > 4 ? count - 3 : 0;
        var rest = last - first - fixedOnes.Sum(p => p.MiB) - records;
        var asked = own.Sum(p => p.MiB > 0 ? p.MiB : sizes.HomeLeast);
        if (rest < least + asked)
            throw TooMuch(ask, fixedOnes, own, least, least + asked - rest);

        return Share(fixedOnes, own, least, rest, ask, far);
    }

    /// <summary>Gives the system and what has no size of its own their shares of the rest.</summary>
    private static List<Piece> Share(List<Piece> fixedOnes, Piece[] own, long least, long rest, LayoutAsk ask, bool far)
    {
        var open = own.Count(p => p.MiB == 0);
        var given = own.Sum(p => p.MiB);
        var free = rest - given;
        var system =
            open == 0
                ? free
                : Math.Clamp(Math.Min(ask.Sizes.SystemComfort, free / 2), least, free - open * ask.Sizes.HomeLeast);
        var left = free - system;
        var shared = new List<Piece>();
        foreach (var piece in own)
        {
            if (piece.MiB > 0)
            {
                shared.Add(piece with { Why = $"{piece.Why} As large as was asked." });
                continue;
            }
            var part = open == 1 ? left : left / 2;
            (left, open) = (left - part, open - 1);
            shared.Add(piece with { MiB = part });
        }
        var why =
            $"{ask.System}: at least {Size(least)}"
            + (
                own.Length == 0 ? ", and all that is left."
                : shared.Any(p => p.Use is PartitionUse.Home or PartitionUse.Data)
                    ? "; what it and its programs grow to, the rest is for files."
                : "."
            )
            + (far ? " It may lie beyond the firmware's reach: its boot files do not." : "");
        var at = fixedOnes.FindIndex(p => p.Use is PartitionUse.Swap or PartitionUse.Recovery);
        fixedOnes.Insert(at < 0 ? fixedOnes.Count : at, new Piece(PartitionUse.System, system, why));
        return [.. fixedOnes, .. shared];
    }

    private static long Kept(LayoutAsk ask, long last, List<LayoutNote> notes)
    {
        if (!ask.Wishes.Keep.Wanted)
            return 0;
        notes.Add(
            new(
                Outcome.Caveat,
                "The other system stays: see its files saved first, shrink it from within itself, and let nothing write the table before the borders are compared."
            )
        );
        if (ask.Wishes.Keep.Bytes is { } bytes)
            return Up(bytes);
        notes.Add(new(Outcome.Unknown, "How much of the drive the other system has is not known: half of it is kept."));
        return last / 2;
    }

    private static Piece? Swap(LayoutAsk ask, bool small, long last, List<LayoutNote> notes)
    {
        if (ask.Wishes.Sleep)
        {
            var memory =
                ask.MemoryMiB
                ?? throw new RefusedException(
                    RefusalKind.Impossible,
                    "Sleep to disk wants as much room as there is memory, and nobody has measured the memory.",
                    "memoryMiB",
                    "The memory in MiB, or a layout without sleep to disk."
                );
            // The image is at most the memory; the square root beside it is for what was swapped out already.
            var size = memory + (long)Math.Ceiling(Math.Sqrt(memory / 1024.0) * 1024);
            return new(
                PartitionUse.Swap,
                size,
                $"Sleep to disk writes all of the {Quantity.Memory(memory)}, and something is swapped out already."
            );
        }
        if (ask.MemoryMiB is not { } known)
        {
            notes.Add(new(Outcome.Unknown, "Its memory is not known: 2 GiB of swap suit most machines."));
            known = 2048;
        }
        var wanted =
            known <= 2048 ? known * 2
            : known <= 8192 ? known
            : 8192;
        // Where there is little room, swap must not eat the system: a twentieth of the drive is enough to survive.
        var most = small ? last / 20 : last / 8;
        var given = Math.Min(wanted, most);
        return given < 64
            ? null
            : new(
                PartitionUse.Swap,
                given,
                given < wanted
                        ? $"Less than the {Size(wanted)} that {Quantity.Memory(known)} of memory would like: the drive is small."
                    : known <= 2048 ? $"Twice the memory of {Quantity.Memory(known)}, which is little."
                    : known <= 8192 ? $"As much as the memory of {Quantity.Memory(known)}."
                    : "8 GiB: with so much memory, swap is for what nobody looks at."
            );
    }

    private static LayoutCollisionException TooMuch(
        LayoutAsk ask,
        List<Piece> fixedOnes,
        Piece[] own,
        long least,
        long missing
    )
    {
        var wishes = fixedOnes
            .Where(p =>
                p.Use is PartitionUse.Kept or PartitionUse.Recovery || (p.Use == PartitionUse.Swap && ask.Wishes.Sleep)
            )
            .Select(p => (Name: NameOf(p.Use), p.MiB))
            .Concat(own.Select(p => (Name: NameOf(p.Use), MiB: p.MiB > 0 ? p.MiB : ask.Sizes.HomeLeast)))
            .OrderByDescending(p => p.MiB)
            .ToArray();
        var (one, other) = wishes.Length switch
        {
            0 => ("system", "drive"),
            1 => (wishes[0].Name, "drive"),
            _ => (wishes[0].Name, wishes[1].Name),
        };
        var told = string.Join(
            ", ",
            wishes.Select(w => $"{w.Name} {Size(w.MiB)}").Append($"{ask.System} at least {Size(least)}")
        );
        return Collides(
            $"The drive has {Quantity.Drive(ask.DriveBytes)}, and {Size(missing)} are missing: {told}.",
            one,
            other,
            missing,
            wishes.Length == 0
                ? "A larger drive, or a system that asks for less."
                : "One of them less or not at all, or a larger drive."
        );
    }

    private static string NameOf(PartitionUse use) =>
        use switch
        {
            PartitionUse.Kept => "keep",
            PartitionUse.Swap => "sleep",
            PartitionUse.Recovery => "recovery",
            PartitionUse.Home => "home",
            _ => "data",
        };

    private static LayoutCollisionException Collides(string what, string one, string other, long mib, string wanted) =>
        new(what, one, other, mib * MiB, wanted);

    private static List<LayoutPartition> Place(List<Piece> pieces, PartitionScheme scheme, LayoutAsk ask, long first)
    {
        var perMiB = MiB / ask.SectorBytes;
        var logicalFrom = scheme == PartitionScheme.Mbr && pieces.Count > 4 ? 3 : pieces.Count;
        var placed = new List<LayoutPartition>();
        var at = first;
        for (var i = 0; i < pieces.Count; i++)
        {
            var piece = pieces[i];
            if (i == logicalFrom)
            {
                var all = pieces.Skip(i).Sum(p => p.MiB + 1);
                placed.Add(
                    new(
                        4,
                        PartitionUse.Extended,
                        TypeOf(scheme, PartitionUse.Extended),
                        at * perMiB,
                        all * perMiB,
                        "An MBR has four entries: the fourth holds the others."
                    )
                );
            }
            if (i >= logicalFrom)
                at++;
            placed.Add(
                Formed(
                    new(i < logicalFrom ? i + 1 : i + 2, piece.Use, "", at * perMiB, piece.MiB * perMiB, piece.Why),
                    scheme,
                    ask
                )
            );
            at += piece.MiB;
        }
        return placed;
    }

    /// <summary>A partition with what is made in it, and the type that says so.</summary>
    internal static LayoutPartition Formed(LayoutPartition p, PartitionScheme scheme, LayoutAsk ask)
    {
        var board = ask.Firmware == "board";
        var form = PartitionForms.Of(p.Use, board);
        var encrypted = ask.Wishes.Encrypt && form.Personal;
        return p with
        {
            Type = TypeOf(scheme, p.Use, board, encrypted),
            FileSystem = form.FileSystem,
            Encrypted = encrypted,
        };
    }

    /// <summary>The type of a partition as the tables write it.</summary>
    /// <param name="scheme">The table.</param>
    /// <param name="use">What it is for.</param>
    /// <param name="board">Whether a small board's first stage starts the machine.</param>
    /// <param name="encrypted">Whether it is a LUKS volume.</param>
    public static string TypeOf(PartitionScheme scheme, PartitionUse use, bool board = false, bool encrypted = false)
    {
        var form = PartitionForms.Of(use, board);
        return scheme == PartitionScheme.Mbr
            // An MBR has no type of its own for LUKS: 83, whatever lies within.
            ? encrypted
                ? "83"
                : form.MbrType
            : encrypted
                ? PartitionForms.LuksGptType
                : form.GptType;
    }

    private static long Up(long bytes) => (bytes + MiB - 1) / MiB;

    private static long? Up(long? bytes) => bytes is { } known ? Up(known) : null;

    private static string Size(long mib) => Quantity.Memory(mib);
}
