using System.Collections.Frozen;

namespace FreshBoot.Core.Procedures;

/// <summary>One thing that the small world knows of a machine on the bench.</summary>
/// <param name="Key">Its name in <c>needs</c> and <c>does</c>.</param>
/// <param name="About">What it says.</param>
/// <param name="Values">Every value it can have; those that a machine can come with stand first.</param>
/// <param name="AtStart">How many of them a machine can come with.</param>
public sealed record WorldKey(string Key, string About, IReadOnlyList<string> Values, int AtStart = 1);

/// <summary>
/// The small world: as much of a machine, its drive, its medium and its firmware as steps need to speak of, so that a sheet
/// can be put in order and checked before a hand follows it. docs/runs.md shows the same table.
/// </summary>
public static class World
{
    /// <summary>Every key.</summary>
    public static IReadOnlyList<WorldKey> Keys { get; } =
    [
        new("leave", "whether whoever owns it has said yes", ["open", "given"], 2),
        new(
            "data",
            "whether the owner's data is settled: not wanted, or saved and opened again",
            ["open", "settled"],
            2
        ),
        new("files", "files of an owner who stays, saved before the drive was erased", ["none", "saved", "back"], 2),
        new("bench", "adapter in, mains on, tag read", ["open", "ready"]),
        new("noted", "firmware settings written down as they were", ["no", "yes"], 1),
        new("settings", "the switches of its firmware that the plan turns", ["open", "set"], 2),
        new("power", "what feeds it", ["mains", "battery", "off"], 3),
        new("case", "the casing", ["closed", "open"]),
        new("battery", "the battery", ["none", "sound", "bad"], 3),
        new(
            "running",
            "what runs on it",
            ["off", "outgoing", "menu", "setup", "tester", "live", "installer", "first", "system", "programmer"]
        ),
        new("outgoing", "the system that was on it", ["none", "starts", "broken", "gone"], 3),
        new("drive", "the drive that gets the system", ["owner", "blank", "none", "divided", "kept", "system"], 3),
        new("others", "its other drives", ["none", "in", "out"], 2),
        new("table", "the partition table of the drive", ["unknown", "mbr", "gpt"], 3),
        new("oldDrive", "a drive that was taken out", ["none", "in", "kept"]),
        new("untried", "parts put in since it last started", ["0", "1", "2"]),
        new("memory", "memory that was put in", ["none", "fitted", "tested"]),
        new("encryption", "encryption of the drive", ["none", "unknown", "on", "keySeen", "suspended"], 4),
        new("bootMode", "how the firmware starts things", ["unknown", "bios", "uefi"], 3),
        new(
            "usbStart",
            "whether it starts from a stick; free: allowed before this work, allowed: by it",
            ["unknown", "forbidden", "free", "allowed", "helper"],
            3
        ),
        new("secureBoot", "Secure Boot", ["absent", "off", "on"], 3),
        new("tpm", "the TPM", ["absent", "off", "on"], 3),
        new("firmware", "the firmware on the chip", ["maker", "updated", "written", "replaced", "broken"]),
        new("firmwareCopy", "the maker's firmware, read out", ["none", "read", "kept"]),
        new("writeProtect", "write protection of the firmware", ["none", "on", "off"], 2),
        new("image", "the image of the plan", ["missing", "ready"], 2),
        new("medium", "what is on the medium", ["none", "written", "right"], 2),
        new("mediumAt", "where the medium is", ["shelf", "port", "out"]),
        new("loader", "where the loader is", ["none", "medium", "drive"]),
        new("identity", "another identity", ["none", "ready", "given"]),
        new("scripts", "whether the running system runs scripts", ["closed", "open"]),
        new("space", "room for an upgrade", ["open", "enough"]),
        new("answers", "what the installer asks", ["open", "given"]),
        new("installed", "the system that the plan wants", ["no", "copying", "yes"]),
        new("drivers", "drivers and second patches", ["open", "done"]),
        new("account", "the first account", ["open", "made"]),
        new("privacy", "what the system asks about the owner's data", ["open", "refused", "answered"]),
        new("updates", "updates", ["open", "done"]),
        new("devices", "devices, each tried", ["open", "tried"]),
        new("tasks", "what the person does with it, tried", ["open", "tried"]),
        new("proof", "the second probe", ["open", "done"]),
        new("clean", "nothing of the shop or the former user on it", ["open", "done"]),
        new("state", "how it leaves the sheet", ["open", "ready", "retired"]),
    ];

    private static readonly FrozenDictionary<string, WorldKey> ByKey = Keys.ToFrozenDictionary(
        k => k.Key,
        StringComparer.Ordinal
    );

    /// <summary>A key, or null where there is no such.</summary>
    public static WorldKey? Find(string key) => ByKey.GetValueOrDefault(key);

    /// <summary>Relaxations: the key and the value that has to be taken back before the sheet ends.</summary>
    public static IReadOnlyList<(string Key, string Relaxed, string Says)> Relaxations { get; } =
    [
        ("usbStart", "allowed", "start from a stick is allowed"),
        ("secureBoot", "off", "Secure Boot is off"),
        ("writeProtect", "off", "write protection of the firmware is off"),
        ("encryption", "suspended", "drive encryption is suspended"),
        ("scripts", "open", "scripts may run"),
        ("others", "out", "other drives are unplugged"),
        ("case", "open", "the casing is open"),
    ];
}
