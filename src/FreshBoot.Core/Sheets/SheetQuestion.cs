using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Layouts;
using FreshBoot.Core.Orders;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Routes;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Sheets;

/// <summary>What a sheet is asked for.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Facts">Its dossier, with all that follows from it.</param>
/// <param name="Route">The route that was chosen.</param>
/// <param name="System">Its system; null where the machine is retired.</param>
/// <param name="Catalogue">Procedures, makers, boards.</param>
/// <param name="Items">The work items of the route.</param>
/// <param name="Order">For whom it is made ready, if anybody said.</param>
public sealed record SheetQuestion(
    string Tag,
    IFacts Facts,
    Route Route,
    SystemEntry? System,
    ShopCatalogue Catalogue,
    IReadOnlyList<WorkItem> Items,
    Order? Order
)
{
    private const string NobodyChose = "nobody chose";

    private IFacts? _routeFacts;
    private IFacts? _atInstaller;
    private Layout? _layout;
    private DevicesThere? _devices;
    private SwitchesOfRoute? _switches;
    private bool _knowsSwitches;

    /// <summary>Whether the system that is there stays or goes by an upgrade over it.</summary>
    public bool Over => Route.School != School.Stay && Facts.Word("plan.install") == "inPlace";

    /// <summary>The facts, and what <see cref="RouteKeys"/> adds to them.</summary>
    public IFacts RouteFacts => _routeFacts ??= new Overlay(Facts, OfRoute());

    /// <summary>How the drive is divided; null where its wishes collide or nobody measured it.</summary>
    public Layout? Layout => _layout ??= MachineLayout.Of(AtInstaller, System).Layout;

    /// <summary>How the firmware starts medium and what is installed: <c>bios</c>, <c>uefi</c> or <c>unknown</c>.</summary>
    public string Way => StartMode.Of(AtInstaller) ?? "unknown";

    /// <summary>The machine as it is when its installer starts.</summary>
    public IFacts AtInstaller => _atInstaller ??= Route.AtInstaller(Facts);

    /// <summary>Sizes of the drives that the dossier knows, by number.</summary>
    public IReadOnlyList<int> Drives =>
        [.. Enumerable.Range(0, 10).Where(i => Facts[$"storage.{i}.sizeBytes"] is not null)];

    /// <summary>Whether the machine is a board that starts from its card or drive, with an image made for it.</summary>
    public bool IsBoard => System?.Class == SystemClass.SingleBoard || Facts.Word("firmware.kind") == "board";

    /// <summary>The build of the image that is ready; null where nobody said.</summary>
    public string? Build => Item(WorkItemKind.Image)?.Build;

    /// <summary>Whether the system comes in editions, of which a licence holds for one.</summary>
    public bool HasEditions => System is { Editions.Count: > 1 };

    /// <summary>The edition for which this machine has a licence; null where nobody knows, or the system has none.</summary>
    public string? Edition =>
        System is not { Editions: [_, ..] editions } ? null
        : editions.Count == 1 ? editions[0]
        : editions.FirstOrDefault(e =>
            string.Equals(e, Facts.Word("plan.edition") ?? Facts.Word("os.edition"), StringComparison.OrdinalIgnoreCase)
        );

    /// <summary>Whether an answer file is part of the plan; its item is ready before the medium is used.</summary>
    public bool HasAnswers => Item(WorkItemKind.Answers) is not null;

    /// <summary>Who or what answers the question for an account at the first start.</summary>
    public AccountBy Account =>
        System is not { } system ? AccountBy.NotAsked
        : system.Account == Asked.None ? (HasAnswers ? AccountBy.AnswerFile : AccountBy.NotAsked)
        : Facts.Word("plan.account") == "maker" ? AccountBy.Owner
        : Item(WorkItemKind.Answers)?.PassesAccount == true ? AccountBy.AnswerFile
        : Facts.Word("plan.account") != "local" ? AccountBy.Open
        : system.Account == Asked.Required ? AccountBy.Nobody
        : AccountBy.Person;

    /// <summary>Whether files of an owner who stays were saved and have to be there again at the end.</summary>
    public bool BringsFilesBack =>
        System is not null
        && !Over
        && Order is { NewOwner: false }
        && Route.School is not (School.Stay or School.Retire)
        && Facts.Word("release.data") is ("saved" or "drive-kept");

    /// <summary>Which devices it has once the plan is carried out.</summary>
    public DevicesThere Devices => _devices ??= DevicesThere.Of(Facts, Route, IsBoard);

    /// <summary>What is known to be wrong with that build.</summary>
    public IReadOnlyList<KnownDefect> Defects => [.. System?.Installer?.DefectsOf(Build) ?? []];

    /// <summary>The switches of the firmware in their order; null where it has no settings, or they contradict each other.</summary>
    public SwitchesOfRoute? Switches
    {
        get
        {
            if (!_knowsSwitches)
            {
                _knowsSwitches = true;
                if (System is not null && Catalogue.Menus(Route.AtSettings(Facts)).HasSettings)
                    try
                    {
                        _switches = SwitchesOfRoute.Of(Route, Facts, Catalogue);
                    }
                    catch (RefusedException e)
                    {
                        WhyNoSwitches = e.Message;
                    }
                WhyNoSwitches ??= _switches?.Plan.WhyNone;
            }
            return _switches;
        }
    }

    /// <summary>Why the switches cannot be turned as the route wants them; null where they can, or none is. Asked after <see cref="Switches"/>.</summary>
    public string? WhyNoSwitches { get; private set; }

    /// <summary>
    /// The facts that the route takes for granted and that its first steps measure. What leave and data are is asked by steps of
    /// their own, and what follows from other facts cannot be measured by itself.
    /// </summary>
    public IReadOnlyList<string> Assumed =>
        [
            .. Route.Assumes.Where(key =>
                !key.StartsWith("release.", StringComparison.Ordinal)
                && FactRegistry.Find(key) is { Derived: false, Form: not FactForm.Words }
            ),
        ];

    /// <summary>The boot kit of the route; null where it takes none, or none can be built: then its work item says why.</summary>
    public BootKit? Kit =>
        System?.Kit is not null && Route.Cures.Any(c => c.Kind == Outcome.Spoof)
            ? KitBuilder.TryBuild(AtInstaller, System, Catalogue)
            : null;

    /// <summary>The item of a kind that the route needs, or null.</summary>
    public WorkItem? Item(WorkItemKind kind) => Items.FirstOrDefault(i => i.Kind == kind && i.Needed);

    /// <summary>Whether what the firmware has to read may lie beyond its reach, as the drive is divided.</summary>
    public static bool BeyondReach(Layout layout)
    {
        var starts =
            layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.Boot)
            ?? layout.Partitions.FirstOrDefault(p => p.Use == PartitionUse.System);
        return starts is not null && (starts.StartLba + starts.SizeLba) * layout.SectorBytes > layout.Reach.Bytes;
    }

    /// <summary>The worst that work items of a kind stand at.</summary>
    private FactValue Made(WorkItemKind kind) =>
        FactValue.Of(
            Items.Where(i => i.Kind == kind && i.Needed).Select(i => (WorkItemState?)i.State).Max() switch
            {
                WorkItemState.Missing => "missing",
                WorkItemState.Stale => "stale",
                WorkItemState.Ready => "ready",
                _ => "none",
            }
        );

    private Dictionary<string, FactValue> OfRoute()
    {
        var kinds = Route.Cures.Select(c => RouteKeys.Camel(c.Kind.ToString())).Distinct(StringComparer.Ordinal);
        var set = new Dictionary<string, FactValue>(StringComparer.Ordinal)
        {
            ["route.school"] = FactValue.Of(RouteKeys.Camel(Route.School.ToString())),
            ["route.begins"] = FactValue.Of(
                System is null || Route.School is School.Stay or School.Retire ? "nowhere"
                : IsBoard ? "card"
                : Over && System.InPlaceBegins == UpgradeBegins.Inside ? "inside"
                : "medium"
            ),
            ["route.keeps"] = FactValue.Of(System is not null && !IsBoard && Over ? "yes" : "no"),
            ["route.medium"] = FactValue.Of(MediumForm),
            ["route.way"] = FactValue.Of(Way),
            ["route.layout"] = FactValue.Of(MachineLayout.IsOwn(Layout) ? "own" : "whole"),
            ["route.loader"] = FactValue.Of(RouteKeys.Camel(Route.Loader.ToString())),
            ["route.setup"] = FactValue.Of(Catalogue.Menus(Facts).HasSettings ? "yes" : "no"),
            ["route.settings"] = FactValue.Of(Switches?.InSettings.Count > 0 ? "yes" : "no"),
            ["route.closing"] = FactValue.Of(Switches?.Closing.Count > 0 ? "yes" : "no"),
            ["route.table"] = FactValue.Of(InPlace.TurnsTable(Facts, Route.Cures) ? "turned" : "stays"),
            ["route.smallBoard"] = FactValue.Of(Catalogue.SmallBoard(Facts) is null ? "no" : "yes"),
            ["route.kit"] = FactValue.Of(
                Kit is null ? "none"
                : Kit.Trials.Count > 0 ? "trials"
                : "plain"
            ),
            ["route.hardwareId"] = FactValue.Of(Catalogue.Flashed(Route.Cures)?.HardwareId is not null ? "yes" : "no"),
            ["route.reach"] = FactValue.Of(
                Layout is not { } layout || layout.Reach.Sure == ReachSure.Unknown ? "unknown"
                : BeyondReach(layout) ? "beyond"
                : "clear"
            ),
            ["made.image"] = Made(WorkItemKind.Image),
            ["made.recipe"] = Made(WorkItemKind.Recipe),
            ["made.medium"] = Made(WorkItemKind.Medium),
            ["made.identity"] = Made(WorkItemKind.Identity),
            ["made.kit"] = Made(WorkItemKind.Kit),
            ["made.layout"] = Made(WorkItemKind.Layout),
            ["route.owner"] = FactValue.Of(Order?.NewOwner ?? !Over ? "new" : "same"),
            ["route.written"] = FactValue.Of(
                Items.Count > 0 && Item(WorkItemKind.Medium)?.Writes is null ? "yes" : "no"
            ),
            ["route.defect"] = FactValue.Of(Defects.Count > 0 ? "yes" : "no"),
            ["route.everyday"] = FactValue.Of(Order?.Everyday == true ? "yes" : "no"),
            ["route.answers"] = FactValue.Of(HasAnswers ? "yes" : "no"),
            ["route.edition"] = FactValue.Of(
                System is not { Editions.Count: > 0 } ? "none"
                : Edition is null ? "unknown"
                : "known"
            ),
            ["route.accountBy"] = FactValue.Of(RouteKeys.Camel(Account.ToString())),
            ["route.modules"] = FactValue.Of(
                ModulesOf(Route) switch
                {
                    0 => "none",
                    1 => "one",
                    _ => "several",
                }
            ),
            ["route.files"] = FactValue.Of(BringsFilesBack ? "saved" : "none"),
            ["route.devices"] = FactValue.Of(Devices.There),
            ["route.untested"] = FactValue.Of(Route.Cures.Any(c => c.Untested > 0) ? "yes" : "no"),
            ["route.extended"] = FactValue.Of(Route.Cures.Any(c => c.Extends is not null) ? "yes" : "no"),
            ["route.drives"] = FactValue.Of(
                Drives.Count switch
                {
                    0 => "none",
                    1 => "one",
                    _ => "several",
                }
            ),
            ["route.cures"] = FactValue.Of(Route.Cures.Select(c => c.Id)),
            ["route.kinds"] = FactValue.Of(kinds),
            ["route.needs"] = FactValue.Of(Order?.Needs.Select(n => RouteKeys.Camel(n.Kind.ToString())) ?? []),
        };
        // A question that nobody answered is answered with nothing, so that a procedure can ask for the other case.
        foreach (var choice in Choices.All.Where(c => Facts[c.Key] is null))
            set[choice.Key] = FactValue.Of(NobodyChose);
        if (System is not null)
        {
            set["route.system"] = FactValue.Of(System.Id);
            set["route.asks"] = FactValue.Of(AsksOf(System));
            if (Level(System) is { } met)
                set["route.level"] = FactValue.Of(met ? "met" : "short");
            set["route.class"] = FactValue.Of(RouteKeys.Camel(System.Class.ToString()));
            set["route.account"] = FactValue.Of(RouteKeys.Camel(System.Account.ToString()));
            set["route.network"] = FactValue.Of(RouteKeys.Camel(System.Network.ToString()));
        }
        return set;
    }

    private static IEnumerable<string> AsksOf(SystemEntry system) =>
        system
            .Requirements.Where(r => r.Kind != RequirementKind.Comfort)
            .SelectMany(r => r.Needs.Keys)
            .Concat(
                system.Requirements.Any(r => r is { Kind: RequirementKind.Gate, Advisory: false })
                    ? ["gate"]
                    : Array.Empty<string>()
            )
            .Distinct(StringComparer.Ordinal);

    /// <summary>Whether the processor has what the system's kernel asks of it; null where nobody knows.</summary>
    private bool? Level(SystemEntry system)
    {
        var all = system
            .Requirements.Where(r =>
                r.Kind == RequirementKind.Runtime
                && r.Needs.Keys.Any(k => k is "cpu.level" or "cpu.flags" or "cpu.arch")
            )
            .Select(r => r.Needs.Holds(AtInstaller))
            .ToArray();
        return all.Contains(false) ? false
            : all.Contains(null) ? null
            : true;
    }

    /// <summary>How many modules its memory cures put in; their ids say so: <c>memory-add-2x…</c>.</summary>
    private static int ModulesOf(Route route) =>
        route
            .Cures.Where(c => c.Id.StartsWith(MemoryUpgrades.IdPrefix, StringComparison.Ordinal))
            .Sum(c => int.TryParse(c.Id.Split('-', 'x').ElementAtOrDefault(2), out var count) ? count : 1);

    /// <summary>
    /// What it starts from. Where the firmware starts no stick it is a disc, and where the image is too large for the discs that
    /// its drive reads, a small disc that hands over to the stick.
    /// </summary>
    private string MediumForm =>
        System is null || Route.School is School.Stay or School.Retire ? "none"
        : AtInstaller.Word("firmware.usbStart") is not ("no" or "unlikely") ? "stick"
        : (Item(WorkItemKind.Medium)?.Bytes ?? System.ImageBytes) > MostOnDisc ? "helper"
        : "disc";

    private long MostOnDisc =>
        AtInstaller.Word("optical.reads") switch
        {
            "cd" => DiscSizes.Cd,
            _ => DiscSizes.DvdDouble,
        };
}
