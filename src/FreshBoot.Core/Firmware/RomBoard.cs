using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Formats.Firmware;

namespace FreshBoot.Core.Firmware;

/// <summary>
/// For which board an image of a firmware chip is, and how that is known: by its flash map and the identification texts in it, or by
/// somebody's word when it came in. Two boards of one maker have chips of one size and volumes that read alike; only this tells them apart.
/// </summary>
/// <param name="Named">Boards of the support list that the image itself names, in the order of the list.</param>
/// <param name="Said">The board that was named when it came in; null where nobody did.</param>
/// <param name="SaidBy">Who named it.</param>
public sealed record RomBoard(IReadOnlyList<string> Named, string? Said, string? SaidBy)
{
    /// <summary>Reads it out of the bytes.</summary>
    /// <param name="bytes">The image.</param>
    /// <param name="read">What was read from it.</param>
    /// <param name="boards">The support list: names that are not on it mean nothing here.</param>
    /// <param name="said">The board that somebody named.</param>
    /// <param name="saidBy">Who that was.</param>
    public static RomBoard Of(
        ReadOnlySpan<byte> bytes,
        RomImage read,
        IEnumerable<BoardEntry> boards,
        string? said,
        string? saidBy
    )
    {
        var named = new List<string>();
        foreach (var id in boards.Select(b => b.Id).Distinct(StringComparer.Ordinal))
            if (
                Word(read.Map?.Name ?? "", id)
                || Holds(bytes, Encoding.ASCII.GetBytes(id), 1)
                // Texts of UEFI are UTF-16 (UEFI 2.10, 2.3.1).
                || Holds(bytes, Encoding.Unicode.GetBytes(id), 2)
            )
                named.Add(id);
        return new RomBoard(named, said, saidBy);
    }

    /// <summary>Whether it is known to be for this board: the image names it and no other, or somebody named it when it came in.</summary>
    public bool IsProvedFor(string board) => Named is [var one] ? one == board : Said == board;

    /// <summary>How that is known, or what is not known, in a sentence.</summary>
    public string Says =>
        Named switch
        {
            [var one] => $"It names its board: {one}.",
            [] when Said is not null => $"It names no board; {SaidBy} said that it is for {Said}.",
            [] => "It names no board of the support list: nobody knows for which it is.",
            _ when Said is not null => $"It names {string.Join(" and ", Named)}; {SaidBy} said that it is for {Said}.",
            _ => $"It names {string.Join(" and ", Named)}: nobody knows for which of them it is.",
        };

    /// <summary>Refuses an image that is known to be for another board.</summary>
    /// <param name="board">The board of the machine.</param>
    /// <exception cref="RefusedException">The image, or who brought it, names another one.</exception>
    public void Check(string board)
    {
        var other =
            Named.Count > 0 && !Named.Contains(board) ? string.Join(" and ", Named)
            : Said is not null && Said != board ? Said
            : null;
        if (other is not null)
            throw new RefusedException(
                RefusalKind.Impossible,
                $"The image is for {other}, and the machine's board is {board}.",
                "rom",
                $"An image that was made for {board}. Another board's firmware leaves a machine that never starts again."
            );
    }

    /// <summary>Refuses a word that the image itself gives the lie.</summary>
    /// <exception cref="RefusedException">The image names other boards.</exception>
    public void CheckSaid()
    {
        if (Said is not null && Named.Count > 0 && !Named.Contains(Said))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"The image names {string.Join(" and ", Named)}, not {Said}.",
                "board",
                string.Join(" or ", Named)
            );
    }

    private static bool Holds(ReadOnlySpan<byte> bytes, ReadOnlySpan<byte> word, int wide)
    {
        for (var from = 0; bytes[from..].IndexOf(word) is >= 0 and var found; from += found + 1)
        {
            var (before, after) = (from + found - wide, from + found + word.Length);
            if (!Letter(bytes, before) && !Letter(bytes, after))
                return true;
        }
        return false;
    }

    private static bool Letter(ReadOnlySpan<byte> bytes, int at) =>
        at >= 0 && at < bytes.Length && char.IsAsciiLetterOrDigit((char)bytes[at]);

    private static bool Word(string text, string word) =>
        text.Split(' ', '-', '_', '/', '.').Contains(word, StringComparer.OrdinalIgnoreCase);
}
