using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Procedures;

/// <summary>
/// Replacing a locked boot ROM. Only for boards of the catalogue, by board name, never "it looks the same"; and only in one
/// order, because a chip that was written without a backup cannot be brought back.
/// </summary>
public static class FirmwareSteps
{
    /// <summary>The same steps where the maker's firmware stays and only legacy boot is added to it.</summary>
    public static IEnumerable<Step> LegacySteps(BoardEntry board) =>
        Steps(board)
            .Select(s =>
                s.Id switch
                {
                    "reflash-write" => s with
                    {
                        Text =
                            "Write only the part of the chip that brings legacy boot; the rest stays as its maker left it.",
                        Caution = "Leave the power alone until it is done.",
                    },
                    "reflash-check" => s with { Command = "flash-chip verify legacy-boot.rom" },
                    _ => s,
                }
            );

    /// <summary>
    /// The steps, in the order release, protection off, two equal reads, backup elsewhere, write, check. The run refuses any
    /// other order.
    /// </summary>
    public static IReadOnlyList<Step> Steps(BoardEntry board) =>
        [
            new(
                "reflash-release",
                Rung.Release,
                StepKind.Check,
                "Check that the owner has enabled the unlocked start.",
                "Only the owner can enable it. There is no way round.",
                2
            ),
            new(
                "reflash-board",
                Rung.Firmware,
                StepKind.Check,
                $"Read the board name. It must be {board.Id}.",
                "A board that only looks the same is not flashed.",
                3
            ),
            new(
                "reflash-protection",
                Rung.Firmware,
                StepKind.Do,
                ProtectionOff(board.Protection),
                "Unplug first, discharge yourself, and mind the ribbon connectors: they break.",
                12,
                Opens: "write protection of the firmware is off"
            ),
            new(
                "reflash-mains",
                Rung.Firmware,
                StepKind.Check,
                "Connect the adapter and see that it charges.",
                "A chip that loses power while it is written is dead.",
                1
            ),
            new(
                "reflash-read",
                Rung.Firmware,
                StepKind.Type,
                "Read the chip twice and compare the two.",
                null,
                8,
                Command: "flash-chip read first.rom && flash-chip read second.rom && cmp first.rom second.rom && echo EQUAL",
                Expect: "EQUAL"
            ),
            new(
                "reflash-backup",
                Rung.Firmware,
                StepKind.Check,
                "Copy first.rom to another medium and open it there.",
                "Without the backup there is no way back.",
                5
            ),
            new(
                "reflash-write",
                Rung.Firmware,
                StepKind.Confirm,
                $"Write {board.Payload} to the chip.",
                "The maker's own system will not start any more. Leave the power alone until it is done.",
                3
            ),
            new(
                "reflash-wait",
                Rung.Firmware,
                StepKind.Wait,
                "Wait while the chip is written and verified.",
                null,
                6,
                ShortestMinutes: 2,
                WorryMinutes: 15
            ),
            new(
                "reflash-check",
                Rung.Firmware,
                StepKind.Type,
                "Read the chip once more and compare it with what was written.",
                null,
                4,
                Command: "flash-chip verify replacement.rom",
                Expect: "VERIFIED"
            ),
        ];

    private static string ProtectionOff(WriteProtection protection) =>
        protection switch
        {
            WriteProtection.Screw =>
                "Take the write-protect screw out: it bridges a metal ring and looks unlike the others.",
            WriteProtection.Jumper => "Set the write-protect jumper to off.",
            _ => "Unplug the battery with the mains power off, then go on by mains power alone.",
        };
}
