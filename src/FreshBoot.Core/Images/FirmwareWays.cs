using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.Images;

/// <summary>A way in which firmware starts something.</summary>
/// <param name="Name"><c>bios</c>, <c>uefi64</c> or <c>uefi32</c>.</param>
/// <param name="Sure">Whether the machine surely has it; false where nobody measured it.</param>
public sealed record FirmwareWay(string Name, bool Sure);

/// <summary>
/// Which firmware ways start a machine: the one rule, for what holds images against machines, plans media and sets up twins.
/// </summary>
/// <param name="Ways">The ways, the best first; none where the firmware starts only its own system.</param>
/// <param name="Now">How it starts by the plan, else as it is set up; null where nobody knows, or where it starts nothing.</param>
/// <param name="WhyNone">Why there is none; null where there is one.</param>
public sealed record FirmwareWays(IReadOnlyList<FirmwareWay> Ways, string? Now, string? WhyNone)
{
    /// <summary>Every name of a way.</summary>
    public static IReadOnlyList<string> Names { get; } = ["bios", "uefi64", "uefi32"];

    /// <summary>The ways of a machine.</summary>
    public static FirmwareWays Of(IFacts facts)
    {
        var startedBy = facts.Word("firmware.startedBy");
        return facts.Word("firmware.kind") switch
        {
            // Started by legacy BIOS on firmware that knows UEFI: its compatibility mode is on, so it does both.
            "uefi64" when startedBy == "bios" => new(
                [new("uefi64", true), new("bios", true)],
                StartMode.Of(facts) == "bios" ? "bios" : "uefi64",
                null
            ),
            "uefi64" => new([new("uefi64", true)], "uefi64", null),
            "uefi32" => new([new("uefi32", true)], "uefi32", null),
            "bios" => new([new("bios", true)], "bios", null),
            "locked" => new(
                [],
                null,
                "Its firmware starts nothing but the maker's system until it is replaced, or its owner enables the unlocked start."
            ),
            "board" => new([], null, "A single-board computer starts from its card, with an image made for the board."),
            // How it was started is measured, what else it could do is not.
            _ when startedBy == "bios" => new([new("bios", true), new("uefi64", false)], "bios", null),
            _ when startedBy == "uefi" => new([new("uefi64", false), new("uefi32", false)], null, null),
            _ => new([new("uefi64", false), new("uefi32", false), new("bios", false)], null, null),
        };
    }

    /// <summary>Why a machine cannot start this way; null where it can, or might.</summary>
    public string? Against(string way) =>
        Ways.Any(w => w.Name == way) ? null
        : WhyNone is not null || Ways.Any(w => !w.Sure) ? null
        // A compatibility mode can be switched on; 32-bit UEFI has shipped without one.
        : way == "bios"
            ? Ways.Any(w => w.Name == "uefi64") ? null
                : "This machine’s 32-bit UEFI has no compatibility mode."
        : Ways.Any(w => w.Name == "bios") && Ways.Count == 1
            ? "This machine’s firmware is legacy BIOS: it cannot start by UEFI."
        : way == "uefi64" ? "This machine’s UEFI is 32-bit: it starts only 32-bit loaders."
        : "This machine’s UEFI is 64-bit: it starts only 64-bit loaders.";
}
