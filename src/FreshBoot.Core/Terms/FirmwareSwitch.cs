namespace FreshBoot.Core.Terms;

/// <summary>A switch of the firmware, or a circumstance that decides whether one may be touched.</summary>
/// <param name="Key">Its name in plans and packs.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Values">Every value that it can have, with what that means.</param>
/// <param name="Wanted">The values that a plan may be asked for; the others are only found.</param>
public sealed record FirmwareSwitch(
    string Key,
    string Label,
    IReadOnlyList<(string Value, string Says)> Values,
    IReadOnlyList<string> Wanted
)
{
    /// <summary>Whether it stands on a page of the settings; the others are circumstances that steps outside them change.</summary>
    public bool InSettings =>
        Key is not (FirmwareSwitches.Encryption or FirmwareSwitches.Version or FirmwareSwitches.Outgoing);

    /// <summary>What a value means.</summary>
    public string Says(string value) => Values.FirstOrDefault(v => v.Value == value).Says ?? value;
}

/// <summary>
/// The switches that a refurbishing technician turns, and what binds them to each other. The order of the list is the order in
/// which a page shows them.
/// </summary>
public static class FirmwareSwitches
{
    /// <summary>How it starts things.</summary>
    public const string Mode = "mode";

    /// <summary>Whether UEFI also starts what was made for legacy BIOS (UEFI 2.10, appendix on compatibility support).</summary>
    public const string Compatibility = "compatibility";

    /// <summary>Secure Boot (UEFI 2.10, chapter 32).</summary>
    public const string SecureBoot = "secureBoot";

    /// <summary>The keys of Secure Boot; without a platform key the firmware is in set-up mode (UEFI 2.10, 32.3).</summary>
    public const string Keys = "keys";

    /// <summary>Which TPM the firmware offers: it uses one of its own, or the one in the header, never both.</summary>
    public const string Tpm = "tpm";

    /// <summary>An administrator password on the settings.</summary>
    public const string Password = "password";

    /// <summary>How the drive controller presents itself.</summary>
    public const string Storage = "storage";

    /// <summary>Whether it starts from a stick.</summary>
    public const string UsbStart = "usbStart";

    /// <summary>What stands first in the boot order.</summary>
    public const string Order = "order";

    /// <summary>The firmware's own version.</summary>
    public const string Version = "version";

    /// <summary>Encryption of the drive.</summary>
    public const string Encryption = "encryption";

    /// <summary>The system that is on the drive.</summary>
    public const string Outgoing = "outgoing";

    /// <summary>Every switch.</summary>
    public static IReadOnlyList<FirmwareSwitch> All { get; } =
    [
        new(Mode, "Start mode", [("bios", "legacy BIOS"), ("uefi", "UEFI")], ["bios", "uefi"]),
        new(Compatibility, "Compatibility mode", [("on", "on"), ("off", "off")], ["on", "off"]),
        new(SecureBoot, "Secure Boot", [("absent", "not there"), ("off", "off"), ("on", "on")], ["off", "on"]),
        new(Keys, "Secure Boot keys", [("none", "none: set-up mode"), ("loaded", "loaded")], ["loaded"]),
        new(
            Tpm,
            "TPM",
            [
                ("absent", "not there"),
                ("hidden", "hidden by this version of the firmware"),
                ("off", "there, off"),
                ("firmware", "the firmware's own, on"),
                ("module", "the module's, on"),
            ],
            ["firmware", "module"]
        ),
        new(Password, "Administrator password", [("none", "none"), ("set", "set")], ["none"]),
        new(
            Storage,
            "Drive controller",
            [("ahci", "AHCI"), ("ide", "IDE"), ("raid", "RAID or managed")],
            ["ahci", "ide", "raid"]
        ),
        new(
            UsbStart,
            "Start from a stick",
            [("forbidden", "forbidden"), ("allowed", "allowed"), ("unknown", "nobody has looked")],
            ["forbidden", "allowed"]
        ),
        new(Order, "First to start", [("drive", "the drive"), ("stick", "the stick")], ["drive", "stick"]),
        new(Version, "Firmware", [("old", "as it is"), ("current", "updated")], ["current"]),
        new(
            Encryption,
            "Drive encryption",
            [
                ("none", "none"),
                ("on", "on, recovery key not seen"),
                ("keySeen", "on, recovery key seen"),
                ("suspended", "suspended"),
                ("lost", "on, and nobody has the recovery key"),
            ],
            ["keySeen", "suspended"]
        ),
        new(
            Outgoing,
            "System on the drive",
            [("none", "none"), ("mbr", "installed for legacy BIOS"), ("gpt", "installed for UEFI")],
            ["mbr", "gpt"]
        ),
    ];

    /// <summary>The switch of that name, or null.</summary>
    public static FirmwareSwitch? Find(string key) => All.FirstOrDefault(s => s.Key == key);
}
