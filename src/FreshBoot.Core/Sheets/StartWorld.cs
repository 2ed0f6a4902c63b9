using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Images;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Sheets;

/// <summary>The small world as a dossier finds it: what is not known is taken as it costs least to be wrong about.</summary>
internal static class StartWorld
{
    /// <summary>The value of every key before the first step.</summary>
    public static Dictionary<string, string> Of(SheetQuestion question)
    {
        var facts = question.Facts;
        var world = World.Keys.ToDictionary(k => k.Key, k => k.Values[0], StringComparer.Ordinal);
        // Leave and data are looked at once more by the sheet's own first steps, whatever the dossier says.
        world["power"] = "mains";
        world["battery"] = facts.Word("parts.battery") switch
        {
            "sound" => "sound",
            "swollen" => "bad",
            _ => "none",
        };
        var empty = facts.Word("parts.storage") == "none";
        world["outgoing"] =
            question.IsBoard || empty ? "none"
            : facts.Word("os.works") == "no" ? "broken"
            : facts.Word("os.name") is null ? "none"
            : "starts";
        world["drive"] = question.IsBoard || empty ? "none" : "owner";
        world["others"] = question.Drives.Count > 1 ? "in" : "none";
        world["table"] = facts.Word("storage.0.table") ?? "unknown";
        world["encryption"] = facts.Word("release.encryption") switch
        {
            "none" => "none",
            "key-seen" => "keySeen",
            "key-missing" => "on",
            _ => "unknown",
        };
        world["bootMode"] = FirmwareWays.Of(facts).Now switch
        {
            "bios" => "bios",
            "uefi32" or "uefi64" => "uefi",
            _ => "unknown",
        };
        world["usbStart"] = facts.Word("firmware.usbStart") is "no" or "unlikely" ? "forbidden" : "unknown";
        world["secureBoot"] = facts.Word("firmware.secureBoot") switch
        {
            "on" => "on",
            "able" => "off",
            _ => "absent",
        };
        world["tpm"] = facts.Word("tpm.version") switch
        {
            "off" => "off",
            "1.2" or "2.0" => "on",
            _ => "absent",
        };
        world["writeProtect"] = question.Catalogue.Boards.Any(b => question.Route.Cures.Any(c => c.Id == b.Cure.Id))
            ? "on"
            : "none";
        world["medium"] = question.RouteFacts.Word("route.written") == "yes" ? "written" : "none";
        // What is not made yet is made before a step that uses it: the run holds that step.
        world["image"] = question.Item(WorkItemKind.Image) is null && question.Items.Count > 0 ? "missing" : "ready";
        return world;
    }
}
