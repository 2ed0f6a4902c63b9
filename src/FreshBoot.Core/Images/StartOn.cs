using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Formats.Discs;

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
    /// <param name="image">What was found on the image.</param>
    /// <param name="facts">The machine as it is when the image is started.</param>
    /// <param name="menus">How its firmware is talked to then.</param>
    public static IReadOnlyList<WayToStart> Ways(Inspection image, IFacts facts, FirmwareMenus menus)
    {
        var firmware = FirmwareWays.Of(facts);
        if (firmware.WhyNone is { } none)
            return [new WayToStart("stick", "uefi64", false, none, [])];
        var both = firmware.Ways.Count(w => w.Sure) > 1;
        var ways = new List<WayToStart>();
        foreach (var medium in (string[])["stick", "disc"])
        foreach (var way in firmware.Ways)
            ways.Add(Way(image, facts, menus, medium, way.Name, !way.Sure, both));
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
        FirmwareMenus menus,
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
            if (reads == "cd" && image.SizeBytes > DiscSizes.Cd)
                return new WayToStart(
                    medium,
                    firmware,
                    false,
                    $"Its drive reads CDs only; the image has {image.SizeBytes / 1_000_000} MB and a CD holds 737.",
                    []
                );
            if (image.SizeBytes > DiscSizes.DvdDouble)
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
        how.Add($"{menus.BootMenu}.");
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
