using FreshBoot.Core.Catalogue;
using FreshBoot.Formats.Firmware;

namespace FreshBoot.Core.Firmware;

/// <summary>What is written to a chip: the replacement, with the areas that have to stay taken over from the backup.</summary>
public static class ChipImage
{
    /// <summary>Checks an image against a chip, and merges into it what has to stay.</summary>
    /// <param name="image">The replacement.</param>
    /// <param name="backup">What was on the chip.</param>
    /// <param name="chipBytes">Size of the chip.</param>
    /// <param name="board">The board, with the areas that stay.</param>
    /// <param name="whose">For which board the image is, as far as that is known.</param>
    /// <param name="there">For which board what was on the chip is.</param>
    /// <returns>The bytes to write.</returns>
    /// <exception cref="RefusedException">It is not for this chip, not whole, or what has to stay has no place.</exception>
    public static byte[] Merge(
        byte[] image,
        byte[] backup,
        long chipBytes,
        BoardEntry board,
        RomBoard whose,
        RomBoard there
    )
    {
        if (there.Named.Count > 0 && !there.Named.Contains(board.Id))
            throw Refuse(
                $"What was read from the chip names {string.Join(" and ", there.Named)}, and the dossier says {board.Id}.",
                "The board as its print and its own firmware name it; until they agree nothing is written."
            );
        whose.Check(board.Id);
        if (image.Length != chipBytes)
            throw Refuse(
                $"The image has {image.Length} bytes, and the chip {chipBytes}.",
                $"An image of exactly {chipBytes} bytes."
            );
        var read = RomImage.Read(image);
        if (read.Volumes.Count == 0 && read.Map is null && read.ResetVector is null)
            throw Refuse(
                read.Findings.Count > 0 ? read.Findings[^1] : "Nothing in it is known.",
                "An image with firmware volumes, a flash map or a reset vector."
            );
        if (read.Volumes.FirstOrDefault(v => !v.ChecksumOk) is { } odd)
            throw Refuse(
                $"The volume at 0x{odd.Offset:x} has a wrong checksum: the image is damaged.",
                "The image as its maker gives it out."
            );
        if (read.ResetVector is null)
            throw Refuse("Nothing stands where the processor begins.", "A whole image, and not a part of one.");
        var map = RomImage.Read(backup).Map;
        var merged = image.ToArray();
        foreach (var name in board.Keeps)
        {
            var area =
                map?.Areas.FirstOrDefault(a => a.Name == name)
                ?? throw Refuse(
                    $"The area {name} has to stay, and the backup's flash map does not name it.",
                    "A backup of a chip that has it."
                );
            if (
                read.Map?.Areas.FirstOrDefault(a => a.Name == name) is { } other
                && (other.Offset, other.Length) != (area.Offset, area.Length)
            )
                throw Refuse(
                    $"The area {name} has to stay, and lies elsewhere in the image.",
                    "An image that was made for this board."
                );
            backup.AsSpan((int)area.Offset, (int)area.Length).CopyTo(merged.AsSpan((int)area.Offset));
        }
        return merged;
    }

    private static RefusedException Refuse(string what, string wanted) =>
        new(RefusalKind.Impossible, what, "rom", wanted);
}
