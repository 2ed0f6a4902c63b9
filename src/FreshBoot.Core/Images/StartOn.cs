using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Images;

/// <summary>A way to start an image on a machine.</summary>
/// <param name="Medium"><c>stick</c> or <c>disc</c>.</param>
/// <param name="Firmware"><c>bios</c>, <c>uefi64</c> or <c>uefi32</c>.</param>
/// <param name="Can">Whether it works; null where a fact is missing.</param>
/// <param name="Why">Why, or what is missing.</param>
/// <param name="How">Port, key and entry of the boot menu, in the order in which they come; empty where it does not work.</param>
public sealed record WayToStart(string Medium, string Firmware, bool? Can, string Why, IReadOnlyList<string> How);

/// <summary>Holds an image against a machine: what starts it, from which port, by which key and entry.</summary>
public static class StartOn
{
    /// <summary>Every way that the machine's firmware has, the ones that work first.</summary>
    public static IReadOnlyList<WayToStart> Ways(Inspection image, IFacts facts, MakerEntry? maker)
    {
        var kind = facts.Word("firmware.kind");
        // Started by legacy BIOS on firmware that knows UEFI: its compatibility mode is on, so it does both.
        string[] firmware = kind switch
        {
            "uefi64" when facts.Word("firmware.startedBy") == "bios" => ["uefi64", "bios"],
            "uefi64" => ["uefi64"],
            "uefi32" => ["uefi32"],
            "bios" => ["bios"],
            "board" => [],
            "locked" => [],
            _ => ["uefi64", "uefi32", "bios"],
        };
        if (firmware.Length == 0)
            return
            [
                new WayToStart(
                    "stick",
                    "uefi64",
                    false,
                    kind == "locked"
                        ? "Its firmware starts nothing but its own system until it is replaced, or its owner enables the unlocked start."
                        : "A single-board computer starts from its card, with an image made for the board.",
                    []
                ),
            ];
        var ways = new List<WayToStart>();
        foreach (var medium in (string[])["stick", "disc"])
        foreach (var f in firmware)
            ways.Add(Way(image, facts, maker, medium, f, kind is null, firmware.Length > 1 && kind is not null));
        return
        [
            .. ways.OrderBy(w =>
                w.Can switch
                {
                    true => 0,
                    null => 1,
                    _ => 2,
                }
            ),
        ];
    }

    private static WayToStart Way(
        Inspection image,
        IFacts facts,
        MakerEntry? maker,
        string medium,
        string firmware,
        bool unsure,
        bool both
    )
    {
        var start = (medium, firmware) switch
        {
            ("stick", "bios") => image.Starts.BiosStick,
            ("disc", "bios") => image.Starts.BiosDisc,
            ("stick", "uefi64") => image.Starts.Uefi64Stick,
            ("disc", "uefi64") => image.Starts.Uefi64Disc,
            _ => image.Starts.Uefi32,
        };
        if (!start.Can)
            return new WayToStart(medium, firmware, false, start.Why, []);
        var how = new List<string>();
        if (medium == "disc")
        {
            var reads = facts.Word("optical.reads");
            if (reads == "none")
                return new WayToStart(medium, firmware, false, "The machine has no disc drive.", []);
            if (reads == "cd" && image.SizeBytes > Media.MediumFacts.DiscBytes(Media.MediumKind.Cd))
                return new WayToStart(
                    medium,
                    firmware,
                    false,
                    $"Its drive reads CDs only; the image has {image.SizeBytes / 1_000_000} MB and a CD holds 737.",
                    []
                );
            if (image.SizeBytes > Media.MediumFacts.DiscBytes(Media.MediumKind.DvdDouble))
                return new WayToStart(medium, firmware, false, "It is larger than a DVD of two layers.", []);
            if (reads is null)
                return new WayToStart(
                    medium,
                    firmware,
                    null,
                    "Nobody knows what its disc drive reads, or whether it has one.",
                    []
                );
            how.Add(reads == "cd" ? "Burn a CD, and read it back." : "Burn a disc, and read it back.");
        }
        else
            how.Add(
                facts.Word("usb.generation") switch
                {
                    "1.1" => "Its ports are USB 1.1: reading takes long. Any port will do.",
                    "2.0" => "Any port will do: all are USB 2.0.",
                    null => "Nobody knows its ports; begin with a black one.",
                    _ when facts.Word("plan.port") == "fast" =>
                        "The fast port, blue or marked SS; if the stick is not seen, a black one.",
                    _ => "A USB 2.0 port, black, brings the fewest surprises; the blue one is quicker.",
                }
            );
        how.Add($"{maker?.BootMenu ?? "Open the boot menu"}.");
        if (both && medium == "stick" && image.Starts.BiosStick.Can && image.Starts.Uefi64Stick.Can)
            how.Add(
                $"The stick is listed twice: take the entry {(firmware == "bios" ? "without UEFI before its name" : "with UEFI before its name")}. If one fails, try the other."
            );
        else
            how.Add(
                medium == "stick"
                    ? $"Take the stick’s {(firmware == "bios" ? "" : "UEFI ")}entry."
                    : "Take the disc drive’s entry."
            );
        if (facts.Word("firmware.secureBoot") == "on" && firmware != "bios" && image.Loaders.All(l => !l.HasSignature))
            how.Add(
                "Secure Boot is on and the loader carries no signature: switch it off for this start, and on again afterwards."
            );
        return new WayToStart(
            medium,
            firmware,
            unsure ? null : true,
            unsure ? "It would, if the machine has this firmware: nobody measured it." : start.Why,
            how
        );
    }
}
