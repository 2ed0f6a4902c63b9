using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Projection;

namespace FreshBoot.Core.Sheets;

/// <summary>The small world before the first step of a sheet: what the dossier says, and what lies ready.</summary>
internal static class StartWorld
{
    /// <summary>The value of every key before the first step.</summary>
    public static Dictionary<string, string> Of(SheetQuestion question)
    {
        var world = new Dictionary<string, string>(
            WorldFacts.Start(question.Facts, question.IsBoard, question.Drives.Count),
            StringComparer.Ordinal
        );
        world["writeProtect"] = question.Catalogue.Flashed(question.Route.Cures) is not null ? "on" : "none";
        world["settings"] = question.RouteFacts.Word("route.settings") == "yes" ? "open" : "set";
        world["medium"] = question.RouteFacts.Word("route.written") == "yes" ? "written" : "none";
        // Who keeps the machine gets back what was saved; after an upgrade over it the files are where they were.
        world["files"] = question.BringsFilesBack ? "saved" : "none";
        // What is not made yet is made before a step that uses it: the run holds that step.
        world["image"] = question.Item(WorkItemKind.Image) is null && question.Items.Count > 0 ? "missing" : "ready";
        return world;
    }
}
