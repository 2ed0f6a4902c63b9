using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>
/// How a hand talks to the firmware of a machine: the keys and labels of its maker's, or those of what was written in its place. Asked
/// of the machine at the step where the key is pressed: after the chip was written the maker's keys open nothing any more.
/// </summary>
/// <param name="Whose">Whose firmware it is: the maker, or what the payload is called; null where nobody knows.</param>
/// <param name="BootMenu">How the boot menu is opened.</param>
/// <param name="Setup">How the settings are opened; null where there are none, or nobody noted the key.</param>
/// <param name="SetupFromSystem">The way into the settings from a running system; null where there is none.</param>
/// <param name="Switches">What its switches are called.</param>
/// <param name="UpdateBy">How it is updated.</param>
/// <param name="WhyNone">Why it has no settings that a hand can open; null where it has some, or may have.</param>
public sealed record FirmwareMenus(
    string? Whose,
    string BootMenu,
    string? Setup,
    string? SetupFromSystem,
    IReadOnlyList<SwitchLabel> Switches,
    UpdateWay UpdateBy,
    string? WhyNone
)
{
    /// <summary>Whether it has settings that a hand can open, as far as anybody knows.</summary>
    public bool HasSettings => WhyNone is null;

    /// <summary>The same without the words, for whoever asks it thousands of times.</summary>
    internal static bool HasSettingsBy(IFacts facts, ShopCatalogue catalogue) =>
        facts.Word("firmware.payload") is { } written
        && catalogue.Payloads.FirstOrDefault(p => p.Id == written) is { } payload
            ? payload.Setup is not null
            : facts.Word("firmware.kind") is not ("locked" or "board")
                && catalogue.Maker(facts.Word("identity.maker")) is not { Setup: null };

    /// <summary>The firmware that these facts speak of.</summary>
    public static FirmwareMenus Of(IFacts facts, ShopCatalogue catalogue)
    {
        if (
            facts.Word("firmware.payload") is { } written
            && catalogue.Payloads.FirstOrDefault(p => p.Id == written) is { } payload
        )
            return new FirmwareMenus(
                payload.Name,
                payload.BootMenu,
                payload.Setup,
                null,
                [],
                UpdateWay.None,
                payload.Setup is null ? $"With {payload.Name} it has no settings that a hand opens." : null
            );
        var maker = catalogue.Maker(facts.Word("identity.maker"));
        return new FirmwareMenus(
            maker?.Maker,
            maker?.BootMenu ?? "Open the boot menu (the first screen names its key)",
            maker is null ? "Open the firmware's settings (the first screen names the key)" : maker.Setup,
            maker?.SetupFromSystem,
            maker?.Switches ?? [],
            maker?.UpdateBy ?? UpdateWay.None,
            facts.Word("firmware.kind") switch
            {
                "locked" => "Its boot ROM is locked: it has no settings that a hand opens.",
                "board" => "A board has no settings that a hand opens: they stand in a text on its card.",
                _ when maker is { Setup: null } =>
                    $"{maker.Maker} ships no settings that a hand opens: what its firmware starts is chosen in its boot menu.",
                _ => null,
            }
        );
    }
}
