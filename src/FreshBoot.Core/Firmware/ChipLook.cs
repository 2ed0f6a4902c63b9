namespace FreshBoot.Core.Firmware;

/// <summary>A replacement on the shelf, as it would read on a certain chip.</summary>
/// <param name="Id">The image.</param>
/// <param name="Name">Its name.</param>
/// <param name="Bytes">Its bytes.</param>
/// <param name="BackupOf">The machine whose chip it was read from, as its maker left it; null for one that was brought to be written.</param>
public sealed record ShelfRom(int Id, string Name, ReadOnlyMemory<byte> Bytes, string? BackupOf);

/// <summary>What a chip holds that nobody is sure of, told by comparing what was read with everything that is known.</summary>
/// <param name="Deed">What the look is recorded as.</param>
/// <param name="Says">What was found, in a sentence.</param>
/// <param name="Rom">The replacement on the shelf that it is.</param>
public sealed record ChipLook(ChipDeed Deed, string Says, int? Rom)
{
    /// <summary>Judges what was read.</summary>
    /// <param name="read">All of the chip.</param>
    /// <param name="sha256">Its SHA-256.</param>
    /// <param name="state">What the records say: the backup of the maker's content, and what was written last.</param>
    /// <param name="shelf">Every image on the shelf but that backup.</param>
    /// <param name="stays">Areas that are taken over from the backup at a write, so that they differ from the image: offset and length.</param>
    public static ChipLook Judge(
        ReadOnlySpan<byte> read,
        string sha256,
        ChipState state,
        IEnumerable<ShelfRom> shelf,
        IReadOnlyList<(long Offset, long Length)> stays
    )
    {
        if (state.BackupSha256 == sha256)
            return new ChipLook(
                ChipDeed.LookedMaker,
                "Read, and equal to the backup of what its maker left on it.",
                null
            );
        foreach (var rom in shelf)
            if (IsBut(read, rom.Bytes.Span, stays))
                return rom.BackupOf is { } other
                    ? new ChipLook(
                        ChipDeed.LookedMaker,
                        $"Read, and equal to what its maker left on the chip of {other} but for what stays with the machine.",
                        null
                    )
                    : new ChipLook(
                        ChipDeed.LookedReplaced,
                        $"Read, and equal to {rom.Name} but for what stays with the machine: it was replaced.",
                        rom.Id
                    );
        return new ChipLook(
            ChipDeed.LookedStrange,
            state.BackupSha256 is null
                ? "Read: it is no image of the shelf, and there is no backup to compare it with."
                : "Read: it is neither the backup nor an image of the shelf.",
            null
        );
    }

    private static bool IsBut(
        ReadOnlySpan<byte> read,
        ReadOnlySpan<byte> image,
        IReadOnlyList<(long Offset, long Length)> stays
    )
    {
        if (read.Length != image.Length)
            return false;
        var at = 0;
        foreach (var (offset, length) in stays.OrderBy(s => s.Offset))
        {
            if (
                offset > read.Length
                || !read[at..(int)Math.Max(at, offset)].SequenceEqual(image[at..(int)Math.Max(at, offset)])
            )
                return false;
            at = (int)Math.Clamp(offset + length, at, read.Length);
        }
        return read[at..].SequenceEqual(image[at..]);
    }
}
