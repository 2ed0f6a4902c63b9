using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// In which mode a plan starts its medium and what it installs: one answer for the entry of the boot menu, the layout of the drive, the
/// twin and the sheet, so that no two of them speak of different machines. Asked of the machine as it is when the installer starts.
/// </summary>
public static class StartMode
{
    /// <summary>
    /// <c>bios</c> or <c>uefi</c>; null where it starts no other system, or nobody knows. Firmware that knows both starts as it is set
    /// up, by legacy BIOS where its compatibility mode is in use, unless the plan asks for GPT with UEFI.
    /// </summary>
    public static string? Of(IFacts facts)
    {
        var startedBy = facts.Word("firmware.startedBy");
        return facts.Word("firmware.kind") switch
        {
            "bios" => "bios",
            "uefi32" => "uefi",
            "uefi64" => startedBy == "bios" && facts.Word("plan.scheme") != "gpt" ? "bios" : "uefi",
            null => startedBy is "bios" or "uefi" ? startedBy : null,
            _ => null,
        };
    }
}
