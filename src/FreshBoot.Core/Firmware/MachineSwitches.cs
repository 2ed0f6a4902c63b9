using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Firmware;

/// <summary>How the switches of a machine stand, as far as anybody knows.</summary>
/// <param name="Present">Every switch, by its key.</param>
/// <param name="Unmeasured">Facts that nobody measured, and that were taken to be as is usual.</param>
/// <param name="Notes">What to know of it.</param>
public sealed record SwitchesNow(
    IReadOnlyDictionary<string, string> Present,
    IReadOnlyList<string> Unmeasured,
    IReadOnlyList<string> Notes
);

/// <summary>What a dossier says of the switches of its machine, and how its maker calls them.</summary>
public static class MachineSwitches
{
    /// <summary>How they stand. What nobody measured is taken as it is usual, and named.</summary>
    /// <param name="facts">The dossier.</param>
    /// <param name="keeps">Whether the system that is on the drive stays; else the drive is erased, and its keys with it.</param>
    public static SwitchesNow Now(IFacts facts, bool keeps)
    {
        var unmeasured = new List<string>();
        var notes = new List<string>();
        string Word(string key, string otherwise)
        {
            if (facts.Word(key) is { } word)
                return word;
            unmeasured.Add(key);
            return otherwise;
        }
        var mode = Word("firmware.startedBy", facts.Word("firmware.kind") == "bios" ? "bios" : "uefi");
        var secureBoot = Word("firmware.secureBoot", mode == "bios" ? "absent" : "able");
        // Secure Boot tells the compatibility mode: they exclude each other.
        var compatibility =
            mode == "bios" ? "on"
            : secureBoot == "on" ? "off"
            : facts.Word("firmware.compatibility") ?? "off";
        var encryption = Word("release.encryption", "key-missing");
        if (encryption == "key-seen" && !keeps)
            notes.Add("The drive is encrypted, its key was seen, and this way erases it: nothing is suspended.");
        return new SwitchesNow(
            new Dictionary<string, string>(StringComparer.Ordinal)
            {
                [FirmwareSwitches.Mode] = mode,
                [FirmwareSwitches.Compatibility] = compatibility,
                [FirmwareSwitches.SecureBoot] = secureBoot == "able" ? "off" : secureBoot,
                [FirmwareSwitches.Keys] =
                    facts.Word("firmware.setupMode") == "yes" && secureBoot != "on" ? "none" : "loaded",
                [FirmwareSwitches.Tpm] = Word("tpm.version", "off") switch
                {
                    "absent" => "absent",
                    "header" => "absent",
                    "off" => "off",
                    // A version is only seen of one that is on.
                    _ => facts.Word("tpm.kind") == "module" ? "module" : "firmware",
                },
                [FirmwareSwitches.Password] = "none",
                [FirmwareSwitches.Storage] = facts.Word("firmware.storageMode") ?? "ahci",
                [FirmwareSwitches.UsbStart] = facts.Word("firmware.usbStart") switch
                {
                    "yes" => "allowed",
                    null => "unknown",
                    _ => "forbidden",
                },
                [FirmwareSwitches.Order] = "drive",
                [FirmwareSwitches.Version] = "old",
                [FirmwareSwitches.Encryption] = encryption switch
                {
                    "none" => "none",
                    "key-seen" => keeps ? "keySeen" : "none",
                    _ => "lost",
                },
                [FirmwareSwitches.Outgoing] =
                    !keeps ? "none"
                    : mode == "uefi" ? "gpt"
                    : "mbr",
            },
            unmeasured,
            notes
        );
    }

    /// <summary>What is particular about its firmware.</summary>
    public static FirmwareManners Manners(IFacts facts, FirmwareMenus menus) =>
        new(
            facts.Word("firmware.kind") is not "bios",
            Labels(facts, menus).Where(l => l.Value.Grey).Select(l => l.Key).ToHashSet(StringComparer.Ordinal),
            Module: facts.Word("tpm.kind") == "module",
            menus.UpdateBy
        );

    /// <summary>How the switches are called in the version that is on it: the latest label that is not later than it.</summary>
    public static IReadOnlyDictionary<string, SwitchLabel> Labels(IFacts facts, FirmwareMenus menus)
    {
        var version = facts.Word("firmware.version");
        var labels = new Dictionary<string, SwitchLabel>(StringComparer.Ordinal);
        foreach (var label in menus.Switches.OrderBy(l => l.Since, VersionOrder.Instance))
            if (
                label.Since is null
                || (version is not null && VersionOrder.Instance.Compare(label.Since, version) <= 0)
            )
                labels[label.Switch] = label;
        return labels;
    }

    /// <summary>How a switch is called on this machine: its label and page, or the usual name.</summary>
    public static string Called(string key, IReadOnlyDictionary<string, SwitchLabel> labels) =>
        FirmwareSwitches.Find(key) is not { InSettings: true } s ? FirmwareSwitches.Find(key)?.Label ?? key
        : labels.TryGetValue(key, out var label)
            ? $"“{label.Label}”{(label.Page is { } page ? $" on the page {page}" : "")}"
        : $"{s.Label}, as this maker calls it";
}

/// <summary>Versions of firmware as makers write them: numbers between full stops, compared one by one.</summary>
internal sealed class VersionOrder : IComparer<string?>
{
    public static readonly VersionOrder Instance = new();

    public int Compare(string? x, string? y)
    {
        if (x is null || y is null)
            return (x is null ? 0 : 1) - (y is null ? 0 : 1);
        var (a, b) = (Parts(x), Parts(y));
        for (var i = 0; i < Math.Max(a.Length, b.Length); i++)
        {
            var difference = a.ElementAtOrDefault(i).CompareTo(b.ElementAtOrDefault(i));
            if (difference != 0)
                return difference;
        }
        return 0;
    }

    private static int[] Parts(string version) =>
        [
            .. version
                .Split('.', '-', ' ')
                .Select(p => int.TryParse(string.Concat(p.Where(char.IsAsciiDigit)), out var n) ? n : 0),
        ];
}
