using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Preparation;

/// <summary>The switches of a machine's firmware for one route: how they stand, what the route wants, and in which order.</summary>
/// <param name="Now">How they stand.</param>
/// <param name="Wanted">What is wanted.</param>
/// <param name="Plan">The order, or why there is none.</param>
/// <param name="Back">The way back to how they stood, as far as there is one.</param>
/// <param name="Labels">How the maker calls them.</param>
public sealed record SwitchesOfRoute(
    SwitchesNow Now,
    IReadOnlyDictionary<string, string> Wanted,
    SwitchPlan Plan,
    SwitchPlan? Back,
    IReadOnlyDictionary<string, SwitchLabel> Labels
)
{
    /// <summary>The switches for a route.</summary>
    /// <param name="route">The route; null where only what is wanted counts.</param>
    /// <param name="facts">The dossier.</param>
    /// <param name="catalogue">Makers and what they call things.</param>
    /// <param name="wanted">What is wanted instead of what the route wants.</param>
    /// <exception cref="RefusedException">What is known contradicts itself, or something unknown is wanted.</exception>
    public static SwitchesOfRoute Of(
        Route? route,
        IFacts facts,
        ShopCatalogue catalogue,
        IReadOnlyDictionary<string, string>? wanted = null
    )
    {
        // Firmware that is replaced has its switches set after that: they are those of the new one.
        facts = route?.AtSettings(facts) ?? facts;
        var keeps = route?.School == School.Stay || facts.Word("plan.install") == "inPlace";
        var menus = catalogue.Menus(facts);
        var now = MachineSwitches.Now(facts, keeps);
        var manners = MachineSwitches.Manners(facts, menus);
        var goal = wanted ?? Wants(route, facts, catalogue);
        if (route is not null && goal.GetValueOrDefault(FirmwareSwitches.Version) == "current")
        {
            // A cure that an update brings to light says that there is one.
            if (now.Present[FirmwareSwitches.Tpm] == "absent")
                now = now with { Present = With(now.Present, FirmwareSwitches.Tpm, "hidden") };
            if (manners.UpdateBy == UpdateWay.None)
                manners = manners with { UpdateBy = UpdateWay.Outgoing };
        }
        if (goal.GetValueOrDefault(FirmwareSwitches.Tpm) == "module")
        {
            manners = manners with { Module = true };
            if (now.Present[FirmwareSwitches.Tpm] == "absent")
                now = now with { Present = With(now.Present, FirmwareSwitches.Tpm, "off") };
        }
        var plan = SwitchPlan.Of(new SwitchQuestion(now.Present, goal, manners, keeps));
        return new SwitchesOfRoute(
            now,
            goal,
            plan,
            plan.Steps is { Count: > 0 } steps ? BackTo(now.Present, steps, manners, keeps) : null,
            MachineSwitches.Labels(facts, menus)
        )
        {
            Closing = plan.Steps is { } turned ? Close(route, now.Present, turned, manners) : [],
        };
    }

    /// <summary>What a route wants of the switches, by what its cures set and by what it is started from.</summary>
    private static Dictionary<string, string> Wants(Route? route, IFacts facts, ShopCatalogue catalogue)
    {
        var wanted = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var cure in route?.Cures.Where(c => c.Kind != Outcome.Reflash) ?? [])
        foreach (var (key, value) in cure.Sets ?? new Dictionary<string, FactValue>())
            if (value is FactValue.Text { Value: var word })
                foreach (var (s, to) in Meant(key, word, cure.Kind))
                    wanted[s] = to;
        if (route is null || !catalogue.Menus(facts).HasSettings)
            return wanted;
        if (route.Loader != LoaderSignatures.All && facts.Word("firmware.secureBoot") == "on")
            wanted[FirmwareSwitches.SecureBoot] = "off";
        // What ends the machine or leaves it as it is starts nothing.
        if (
            route.School is not (School.Stay or School.Retire)
            && facts.Word("firmware.usbStart") is not ("no" or "unlikely")
            && catalogue.System(route.System ?? "") is { } system
            && (facts.Word("plan.install") != "inPlace" || system.InPlaceBegins != UpgradeBegins.Inside)
        )
            wanted[FirmwareSwitches.UsbStart] = "allowed";
        return wanted;
    }

    /// <summary>Whether a cure is one of the switches, so that the plan of the switches carries it out.</summary>
    public static bool IsSwitch(Cure cure) =>
        cure.InSettings
        && (
            cure.Loader != LoaderSignatures.All
            || cure.Sets?.Any(s => s.Value is FactValue.Text t && Meant(s.Key, t.Value, cure.Kind).Any()) == true
        );

    /// <summary>Whether a cure is this switch, turned so.</summary>
    public static bool Turns(Cure cure, string key, string to) =>
        cure.Sets?.Any(s => s.Value is FactValue.Text t && Meant(s.Key, t.Value, cure.Kind).Contains((key, to)))
        == true;

    /// <summary>Whether there is anything to turn beside the start from a stick, which every sheet allows and forbids again.</summary>
    public bool IsWork => Plan.Steps is not { } steps || steps.Any(s => s.Switch != FirmwareSwitches.UsbStart);

    /// <summary>A step in a few words: "“Security chip” on the page Security: the firmware's own, on".</summary>
    public string InWords(SwitchStep step) =>
        $"{MachineSwitches.Called(step.Switch, Labels)}: {FirmwareSwitches.Find(step.Switch)!.Says(step.To)}";

    /// <summary>The steps that a hand takes inside the settings, in their order.</summary>
    public IReadOnlyList<SwitchStep> InSettings => Inside(Plan);

    /// <summary>
    /// What is closed at the end of the work, in its order: what this plan opened and what is installed starts without. What stood open
    /// before stays as it was.
    /// </summary>
    public IReadOnlyList<SwitchStep> Closing { get; init; } = [];

    private static IReadOnlyList<SwitchStep> Inside(SwitchPlan plan) =>
        [.. (plan.Steps ?? []).Where(s => FirmwareSwitches.Find(s.Switch)!.InSettings)];

    /// <summary>What has to go back: a start from a stick that was allowed for this, the boot order, and Secure Boot where what is installed is signed.</summary>
    private static IReadOnlyList<SwitchStep> Close(
        Route? route,
        IReadOnlyDictionary<string, string> before,
        IReadOnlyList<SwitchStep> steps,
        FirmwareManners manners
    )
    {
        var after = SwitchPlan.After(before, steps);
        var wanted = new Dictionary<string, string>(StringComparer.Ordinal);
        if (before[FirmwareSwitches.UsbStart] != "allowed" && after[FirmwareSwitches.UsbStart] == "allowed")
            wanted[FirmwareSwitches.UsbStart] = "forbidden";
        if (before[FirmwareSwitches.Order] != after[FirmwareSwitches.Order])
            wanted[FirmwareSwitches.Order] = before[FirmwareSwitches.Order];
        if (
            route?.Loader == LoaderSignatures.InstalledOnly
            && before[FirmwareSwitches.SecureBoot] == "on"
            && after[FirmwareSwitches.SecureBoot] == "off"
        )
            wanted[FirmwareSwitches.SecureBoot] = "on";
        return wanted.Count == 0 ? [] : Inside(SwitchPlan.Of(new SwitchQuestion(after, wanted, manners)));
    }

    private static IEnumerable<(string Switch, string To)> Meant(string key, string word, Outcome kind) =>
        (key, word) switch
        {
            ("tpm.version", "2.0") => [(FirmwareSwitches.Tpm, kind == Outcome.Part ? "module" : "firmware")],
            ("tpm.version", "off") => [(FirmwareSwitches.Version, "current")],
            ("firmware.startedBy", "uefi") =>
            [
                (FirmwareSwitches.Mode, "uefi"),
                (FirmwareSwitches.Compatibility, "off"),
            ],
            ("firmware.startedBy", "bios") => [(FirmwareSwitches.Mode, "bios")],
            ("firmware.secureBoot", "on") => [(FirmwareSwitches.SecureBoot, "on")],
            ("firmware.secureBoot", "able") => [(FirmwareSwitches.SecureBoot, "off")],
            _ => [],
        };

    /// <summary>The way back: every switch as it stood, but for what no hand can take back: an update, a table, loaded keys.</summary>
    private static SwitchPlan BackTo(
        IReadOnlyDictionary<string, string> before,
        IReadOnlyList<SwitchStep> steps,
        FirmwareManners manners,
        bool keeps
    )
    {
        var after = SwitchPlan.After(before, steps);
        var wanted = before
            .Where(s => after[s.Key] != s.Value && FirmwareSwitches.Find(s.Key)!.Wanted.Contains(s.Value))
            .ToDictionary(StringComparer.Ordinal);
        return SwitchPlan.Of(new SwitchQuestion(after, wanted, manners, keeps));
    }

    private static Dictionary<string, string> With(
        IReadOnlyDictionary<string, string> state,
        string key,
        string value
    ) => new(state, StringComparer.Ordinal) { [key] = value };
}
