using System.Collections.Frozen;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Projection;

/// <summary>
/// What the words of the small world mean in facts, and the other way round: the one table that joins what a machine is with what the
/// bench did to it. Words that no fact speaks of (case, bench, leave) are not in it.
/// </summary>
public static class WorldFacts
{
    /// <summary>
    /// The words that follow from a dossier. What is not known is taken as it costs least to be wrong about; an unknown is never a
    /// “forbidden”.
    /// </summary>
    /// <param name="facts">The machine as it stands.</param>
    /// <param name="isBoard">Whether it starts from a card that is made for it.</param>
    /// <param name="drives">How many drives it has.</param>
    public static IReadOnlyDictionary<string, string> Start(IFacts facts, bool isBoard, int drives)
    {
        var world = World.Keys.ToDictionary(k => k.Key, k => k.Values[0], StringComparer.Ordinal);
        // Leave and data are looked at once more by a sheet's own first steps, whatever the dossier says.
        world["power"] = "mains";
        world["battery"] = facts.Word("parts.battery") switch
        {
            "sound" => "sound",
            "swollen" => "bad",
            _ => "none",
        };
        var empty = facts.Word("parts.storage") == "none";
        world["outgoing"] =
            isBoard || empty ? "none"
            : facts.Word("os.works") == "no" ? "broken"
            : facts.Word("os.name") is null ? "none"
            : "starts";
        world["drive"] = isBoard || empty ? "none" : "owner";
        world["others"] = drives > 1 ? "in" : "none";
        world["table"] = facts.Word("storage.0.table") ?? "unknown";
        world["encryption"] = facts.Word("release.encryption") switch
        {
            "none" => "none",
            "key-seen" => "keySeen",
            "key-missing" => "on",
            _ => "unknown",
        };
        world["bootMode"] =
            facts.Word("firmware.startedBy") ?? (facts.Word("firmware.kind") == "bios" ? "bios" : "unknown");
        world["usbStart"] = facts.Word("firmware.usbStart") switch
        {
            "yes" => "free",
            "no" or "unlikely" => "forbidden",
            _ => "unknown",
        };
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
        return world;
    }

    /// <summary>
    /// The facts that a word means once a step has said it; null as a value where a fact ends with it. None for a word that only the
    /// bench speaks of.
    /// </summary>
    /// <param name="key">A key of <see cref="World"/>.</param>
    /// <param name="value">Its new value.</param>
    /// <param name="system">The system that the plan installs.</param>
    public static IReadOnlyDictionary<string, FactValue?> Meant(string key, string value, SystemEntry? system) =>
        (key, value) switch
        {
            ("installed", "yes") when system is not null => new Dictionary<string, FactValue?>(StringComparer.Ordinal)
            {
                ["os.name"] = FactValue.Of(system.FullName),
                ["os.works"] = FactValue.Of("yes"),
            },
            _ => Table.GetValueOrDefault((key, value)) ?? Nothing,
        };

    private static readonly FrozenDictionary<string, FactValue?> Nothing = FrozenDictionary<string, FactValue?>.Empty;

    /// <summary>What ends with the system that goes, and with its partitions.</summary>
    private static readonly string[] OfOutgoing =
    [
        "os.name",
        "os.edition",
        "os.language",
        "os.build",
        "os.freeBytes",
        "os.temporaryBytes",
        "os.works",
        "storage.0.partitions",
        "storage.0.loaderBytes",
    ];

    private static readonly FrozenDictionary<(string, string), IReadOnlyDictionary<string, FactValue?>> Table =
        new Dictionary<(string, string), IReadOnlyDictionary<string, FactValue?>>
        {
            [("bootMode", "bios")] = Set(("firmware.startedBy", "bios")),
            [("bootMode", "uefi")] = Set(("firmware.startedBy", "uefi")),
            [("usbStart", "allowed")] = Set(("firmware.usbStart", "yes")),
            [("usbStart", "free")] = Set(("firmware.usbStart", "yes")),
            [("secureBoot", "on")] = Set(("firmware.secureBoot", "on")),
            [("secureBoot", "off")] = Set(("firmware.secureBoot", "able")),
            [("secureBoot", "absent")] = Set(("firmware.secureBoot", "absent")),
            [("tpm", "off")] = Set(("tpm.version", "off")),
            [("table", "gpt")] = Set(("storage.0.table", "gpt")),
            [("table", "mbr")] = Set(("storage.0.table", "mbr")),
            [("drive", "blank")] = Set([("storage.0.table", null), .. OfOutgoing.Select(k => (k, (string?)null))]),
            [("outgoing", "gone")] = Set([.. OfOutgoing.Select(k => (k, (string?)null))]),
            [("outgoing", "broken")] = Set(("os.works", "no")),
            [("outgoing", "starts")] = Set(("os.works", "yes")),
            [("encryption", "none")] = Set(("release.encryption", "none")),
            [("encryption", "keySeen")] = Set(("release.encryption", "key-seen")),
            [("battery", "sound")] = Set(("parts.battery", "sound")),
            [("battery", "none")] = Set(("parts.battery", "none")),
        }.ToFrozenDictionary();

    private static Dictionary<string, FactValue?> Set(params (string Key, string? Value)[] facts) =>
        facts.ToDictionary(f => f.Key, f => f.Value is { } v ? FactValue.Of(v) : null, StringComparer.Ordinal);
}
