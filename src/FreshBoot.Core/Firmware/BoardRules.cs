using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Firmware;

/// <summary>
/// Whether a board is on the support list: name, processor and revision all have to match. Not listed is not supported, however
/// alike it looks.
/// </summary>
public static class BoardRules
{
    /// <summary>The listed board of a machine, by board name and processor generation.</summary>
    /// <exception cref="RefusedException">It is not on the list, or nobody knows which it is.</exception>
    public static BoardEntry Listed(IFacts facts, IReadOnlyList<BoardEntry> boards)
    {
        var name = facts.Word("identity.board");
        var generation = facts.Word("cpu.generation");
        return boards.FirstOrDefault(b =>
                b.Id == name && (b.Generations.Count == 0 || b.Generations.Contains(generation ?? ""))
            )
            ?? throw new RefusedException(
                RefusalKind.Conflict,
                name is null
                    ? "Nobody knows which board it has."
                    : $"The board {name} with a processor {generation ?? "that nobody knows"} is not on the support list.",
                "board",
                "A board of the list. Not listed is not supported, however alike it looks."
            );
    }

    /// <summary>Holds what a person read off the board against its entry.</summary>
    /// <param name="board">The listed board.</param>
    /// <param name="print">The name on the print, sign for sign.</param>
    /// <param name="revision">The revision beside it.</param>
    /// <exception cref="RefusedException">One of them is another.</exception>
    public static void Match(BoardEntry board, string? print, string? revision)
    {
        if (print?.Trim() != board.Id)
            throw new RefusedException(
                RefusalKind.Conflict,
                $"The print says “{print}”, and the dossier {board.Id}.",
                "board",
                "The same name, sign for sign; else nothing is written."
            );
        if (board.Revisions.Count > 0 && !board.Revisions.Contains(revision?.Trim() ?? ""))
            throw new RefusedException(
                RefusalKind.Conflict,
                $"Revision “{revision}” is not on the support list.",
                "revision",
                string.Join(", ", board.Revisions)
            );
    }

    /// <summary>What protects a board's firmware, as one finds it.</summary>
    public static string Looks(WriteProtection protection) =>
        protection switch
        {
            WriteProtection.Screw => "A screw that bridges a metal ring on the board, unlike the others.",
            WriteProtection.Jumper => "A jumper beside the chip.",
            _ => "The battery: its lead is unplugged, and it goes on by the adapter alone.",
        };

    /// <summary>How the protection is taken off, as an instruction.</summary>
    public static string Off(WriteProtection protection) =>
        protection switch
        {
            WriteProtection.Screw =>
                "Take the write-protect screw out: it bridges a metal ring and looks unlike the others.",
            WriteProtection.Jumper => "Set the write-protect jumper to off.",
            _ => "Unplug the battery's lead from the board with the adapter out, then go on by the adapter alone.",
        };

    /// <summary>How it is put back, as an instruction.</summary>
    public static string On(WriteProtection protection) =>
        protection switch
        {
            WriteProtection.Screw => "Put the write-protect screw back.",
            WriteProtection.Jumper => "Set the write-protect jumper back to on.",
            _ => "Plug the battery's lead in again, with the adapter out.",
        };
}
