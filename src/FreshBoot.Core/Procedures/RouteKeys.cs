using System.Collections.Frozen;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Procedures;

/// <summary>
/// What conditions of procedures may ask beside the facts of the machine: the route that was chosen, its system, the order, and
/// what lies ready. They are worked out for a sheet and stored nowhere.
/// </summary>
public static class RouteKeys
{
    private static string[] Made => ["none", "missing", "stale", "ready"];

    /// <summary>Every key.</summary>
    public static IReadOnlyList<FactDefinition> All { get; } =
    [
        Choice("route.school", "School of the route", [.. Enum.GetNames<School>().Select(Camel)]),
        Choice("route.begins", "Where the installation begins", ["medium", "inside", "card", "nowhere"]),
        Choice("route.keeps", "Whether it goes over the system that is there", ["yes", "no"]),
        Choice("route.medium", "What it starts from", ["stick", "disc", "helper", "none"]),
        Choice("route.written", "Whether the medium holds the image already", ["yes", "no"]),
        Choice("route.defect", "Whether the build has a known defect", ["yes", "no"]),
        Choice("route.way", "How the firmware starts it", ["bios", "uefi", "unknown"]),
        Choice("route.layout", "Whether the drive is divided by a plan of its own", ["whole", "own"]),
        Choice("route.loader", "Which of its loaders carry a signature", ["all", "installedOnly", "none"]),
        Choice("route.setup", "Whether its firmware has settings that a hand opens", ["yes", "no"]),
        Choice("route.settings", "Whether switches in the settings of its firmware are turned", ["yes", "no"]),
        Choice("route.closing", "Whether some of them go back at the end", ["yes", "no"]),
        Choice("route.table", "Whether what stays wants the MBR turned into a GPT", ["turned", "stays"]),
        Choice("route.hardwareId", "Whether the board asks for a hardware id before it is written", ["yes", "no"]),
        Choice("route.smallBoard", "Whether it is a small board of the catalogue", ["yes", "no"]),
        Choice("route.kit", "Whether it is started with a boot kit", ["none", "plain", "trials"]),
        Choice("route.owner", "Whether it changes its owner", ["new", "same"]),
        Choice("route.files", "Files of an owner who stays, saved before the drive is erased", ["none", "saved"]),
        Choice("route.everyday", "Whether somebody relies on it every day", ["yes", "no"]),
        Choice("route.answers", "Whether an answer file lies on the medium", ["yes", "no"]),
        Choice(
            "route.accountBy",
            "Who answers the question for an account",
            ["notAsked", "open", "person", "answerFile", "owner", "nobody"]
        ),
        Choice("route.edition", "Whether its edition is known", ["none", "known", "unknown"]),
        Choice("route.drives", "Drives in it", ["none", "one", "several"]),
        Choice("route.account", "What set-up asks of a maker's account", ["none", "offered", "required"]),
        Choice("route.network", "What set-up asks of a network", ["none", "offered", "required"]),
        Choice("route.extended", "Whether the paid extension is taken", ["yes", "no"]),
        Choice("route.modules", "Memory modules to put in", ["none", "one", "several"]),
        Choice("route.untested", "Whether one of them has passed no memory test", ["yes", "no"]),
        Choice("route.reach", "Whether the boot files lie within the firmware’s reach", ["clear", "beyond", "unknown"]),
        Choice("made.image", "The image of the plan", Made),
        Choice("made.recipe", "Its recipes", Made),
        Choice("made.medium", "The medium", Made),
        Choice("made.identity", "The identity", Made),
        Choice("made.kit", "The boot kit", Made),
        Choice("made.layout", "The layout of the drive", Made),
        Text("route.system", "System of the route"),
        Text("route.class", "Class of the system"),
        Words("route.cures", "Cures of the route"),
        Words("route.kinds", "Kinds of its cures"),
        Words(
            "route.devices",
            "Devices that are there when the plan is carried out: speakers, socket, microphone, camera, wired, wireless, bluetooth, touch, touchpad, mouse, keyboard, plugged, functionKeys, lid, sleep, secondScreen; unsure: some of which nobody knows"
        ),
        Words("route.needs", "What the order asks for"),
        Words("route.asks", "What the system asks for, by the keys of facts; gate: its installer checks something"),
        Choice("route.level", "Whether the processor has the instructions that the system asks for", ["met", "short"]),
    ];

    private static readonly FrozenDictionary<string, FactDefinition> ByKey = All.ToFrozenDictionary(
        k => k.Key,
        StringComparer.Ordinal
    );

    /// <summary>A key, or null where there is no such.</summary>
    public static FactDefinition? Find(string key) =>
        ByKey.GetValueOrDefault(key)
        ?? (
            key.StartsWith(WorldPrefix, StringComparison.Ordinal) && World.Find(key[WorldPrefix.Length..]) is { } word
                ? Choice(key, word.About, [.. word.Values])
                : null
        );

    /// <summary>Before a key of <see cref="World"/>, where a condition asks what the steps so far have done.</summary>
    public const string WorldPrefix = "world.";

    /// <summary>An enum's name as it stands in packs.</summary>
    public static string Camel(string name) => char.ToLowerInvariant(name[0]) + name[1..];

    private static FactDefinition Choice(string key, string label, string[] values) =>
        Of(key, label, FactForm.Choice, [.. values.Select(v => new FactChoice(v, v))]);

    private static FactDefinition Text(string key, string label) => Of(key, label, FactForm.Text, []);

    private static FactDefinition Words(string key, string label) => Of(key, label, FactForm.Words, []);

    private static FactDefinition Of(string key, string label, FactForm form, IReadOnlyList<FactChoice> choices) =>
        new(
            key,
            label,
            form,
            null,
            null,
            null,
            choices,
            Rung.Setup,
            "",
            0,
            Derived: true,
            Indexed: false,
            Ordered: false
        );
}
