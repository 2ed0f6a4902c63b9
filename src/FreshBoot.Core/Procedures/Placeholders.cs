namespace FreshBoot.Core.Procedures;

/// <summary>What texts of procedures may leave open, written in braces; the sheet fills it in for a machine.</summary>
public static class Placeholders
{
    /// <summary>Every placeholder, and what comes in its place.</summary>
    public static IReadOnlyDictionary<string, string> All { get; } =
        new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["tag"] = "the tag of the machine",
            ["model"] = "maker and model as the dossier has them",
            ["board"] = "the board name",
            ["bootMenu"] = "how the boot menu is opened, from the maker's entry",
            ["setup"] = "how the firmware's settings are opened, from the maker's entry",
            ["entry"] = "which entry of the boot menu to take, UEFI or the other",
            ["port"] = "the port that the plan chose",
            ["switch"] = "the switch that is turned, as its maker calls it, and on which page",
            ["switchTo"] = "to what it is turned",
            ["switchWhy"] = "why it comes here",
            ["tpmLabel"] = "what the maker calls the TPM, and on which page",
            ["drive"] = "the drive that gets the system: size, model and the end of its serial number",
            ["oldDrive"] = "the drive that is in it now",
            ["otherDrives"] = "the drives that get nothing",
            ["driveSlot"] = "where the drive goes in, and what its bus asks for",
            ["cleanFirst"] = "what goes first where an upgrade lacks room, the largest first",
            ["boardNotes"] = "what the catalogue knows of the board: first picture, shared lanes",
            ["boardSupply"] = "what the supply of a small board has to give",
            ["boardPort"] = "the ports that the first stage of a small board starts from",
            ["boardStorage"] = "what a small board starts from best",
            ["boardCap"] = "where a small board's memory cap is lifted",
            ["boardFault"] = "a fault that is known of a small board's first start, as one sees it",
            ["boardFaultLines"] = "what is typed then, and what is done afterwards",
            ["boardDrivers"] = "which drivers are added from another computer",
            ["boardBuild"] = "the build that somebody had running on a small board",
            ["afterPatches"] = "what is patched after the first start, by graphics and network chip",
            ["kitTrials"] = "what of the kit is found by trial, value after value, and how one sees it",
            ["kitLacks"] = "what will be missing with the kit",
            ["hardwareId"] = "the hardware id that the board asks for",
            ["sign"] = "what is seen when the new firmware has started",
            ["system"] = "the system of the plan",
            ["outgoing"] = "the system that is on it",
            ["image"] = "the image of the plan, as the shelf names it",
            ["imageSize"] = "its size",
            ["writeMinutes"] = "how long it takes to write and to read back",
            ["writeWorry"] = "when to worry about that",
            ["build"] = "the build that it installs",
            ["defect"] = "what is known to be wrong with that build, as one sees it",
            ["workaround"] = "what to do about it",
            ["imageHash"] = "the beginning of its SHA-256",
            ["medium"] = "the medium, by the label written on it",
            ["recipes"] = "what was changed in the image",
            ["edition"] = "the edition to choose",
            ["keeps"] = "what stays over an upgrade",
            ["freeBytes"] = "the room that an upgrade asks for",
            ["account"] = "the account that the answer file makes",
            ["scheme"] = "the partition table that the plan wants",
            ["setupFromSystem"] = "the way into the settings from a running system, or how to try the key once more",
            ["layout"] = "the partitions that the plan wants, with their sizes",
            ["swap"] = "swap as large as the memory",
            ["fact"] = "a fact that the plan takes for granted",
            ["measure"] = "how it is measured by hand",
            ["cure"] = "what a cure does",
            ["how"] = "how a cure is done",
            ["protectionOff"] = "how this board's write protection is taken off",
            ["protectionOn"] = "how it is put back",
            ["openCase"] = "how a casing of this form is opened",
            ["closeCase"] = "how it is closed again",
            ["power"] = "what brings it its power: adapter or cord",
            ["onMains"] = "how a machine of its form stays on while nothing may interrupt it",
            ["unsureDevices"] = "devices of which nobody knows whether it has them",
            ["payload"] = "what goes onto the chip",
            ["order"] = "for whom it is made ready",
            ["programs"] = "the programs that the order asks for",
            ["supportEnds"] = "the last day of updates",
            ["usual"] = "the usual minutes of this step",
            ["worry"] = "the minutes after which to worry",
        };

    /// <summary>The names in braces of a text, in their order.</summary>
    public static IEnumerable<string> In(string text)
    {
        for (var at = text.IndexOf('{', StringComparison.Ordinal); at >= 0; at = text.IndexOf('{', at + 1))
            if (text.IndexOf('}', at) is var end && end > at)
                yield return text[(at + 1)..end];
    }
}
