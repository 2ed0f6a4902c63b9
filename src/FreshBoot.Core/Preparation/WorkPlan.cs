using FreshBoot.Core.BootKits;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Core.Identity;
using FreshBoot.Core.Images;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Layouts;
using FreshBoot.Core.Media;
using FreshBoot.Core.Patching;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Preparation;

/// <summary>The machine for which something is made ready.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="Facts">Its dossier.</param>
/// <param name="DossierVersion">Version of the dossier.</param>
/// <param name="Identities">The identities that the shop gave it, the latest last.</param>
public sealed record WorkMachine(
    string Tag,
    IFacts Facts,
    long DossierVersion,
    IReadOnlyList<GivenIdentity> Identities
);

/// <summary>
/// Turns a route, a dossier and the shelf into work items: what has to be made, what it is made from, how it stands, and its
/// one next action. Nothing is stored: a changed dossier, recipe or image shows at the next look.
/// </summary>
public sealed class WorkPlan
{
    private readonly Route _route;
    private readonly SystemEntry _system;
    private readonly WorkMachine _machine;
    private readonly ShopCatalogue _catalogue;
    private readonly WorkShelf _shelf;
    private readonly Dictionary<int, ShelfImage> _images;
    private readonly List<WorkItem> _items = [];

    /// <summary>The machine as it is when the installer starts; the one that image, medium, layout and kit are for.</summary>
    private readonly IFacts _atInstaller;

    private WorkPlan(Route route, SystemEntry system, WorkMachine machine, ShopCatalogue catalogue, WorkShelf shelf)
    {
        (_route, _system, _machine, _catalogue, _shelf) = (route, system, machine, catalogue, shelf);
        _images = shelf.Images.ToDictionary(i => i.Id);
        _atInstaller = route.AtInstaller(machine.Facts);
    }

    /// <summary>Id of the item that is the image.</summary>
    public const string ImageItem = "image";

    /// <summary>Id of the item that is the medium.</summary>
    public const string MediumItem = "medium";

    /// <summary>Id of the item that is the layout of the drive.</summary>
    public const string LayoutItem = "layout";

    /// <summary>Id of the item that is the firmware's switches.</summary>
    public const string SwitchesItem = "switches";

    /// <summary>Id of the item that is the firmware chip.</summary>
    public const string ChipItem = "chip";

    /// <summary>Id of the item that is the boot kit.</summary>
    public const string KitItem = "kit";

    /// <summary>Id of the item that is the identity.</summary>
    public const string IdentityItem = "identity";

    /// <summary>Id of the item of a recipe that lifts the route's gates.</summary>
    public static string RecipeItem(string recipe) => $"recipe-{recipe}";

    /// <summary>The items of a route, in the order in which they are made; none where nothing is installed.</summary>
    public static IReadOnlyList<WorkItem> Of(
        Route route,
        WorkMachine machine,
        ShopCatalogue catalogue,
        WorkShelf shelf
    ) =>
        route.School is School.Stay or School.Retire || catalogue.System(route.System ?? "") is not { } system
            ? []
            : new WorkPlan(route, system, machine, catalogue, shelf).Make();

    /// <summary>
    /// The recipe that passes over the gates that a route lifts and no recipe of the book does; null where there is none such.
    /// </summary>
    public static Recipe? Generated(Route route, ShopCatalogue catalogue, IReadOnlyList<ShelfRecipe> recipes) =>
        catalogue.System(route.System ?? "") is { } system && Choose(route, system, recipes).Open is { Count: > 0 } open
            ? GateFile.RecipeFor(system, open)
            : null;

    private List<WorkItem> Make()
    {
        var (chosen, open) = Choose(_route, _system, _shelf.Recipes);
        var wanted = new List<ShelfRecipe>(chosen);
        var answers =
            _shelf.Recipes.FirstOrDefault(r => r.Recipe.Id == AnswersFor(_system.Id, _machine.Tag))
            ?? _shelf.Recipes.FirstOrDefault(r => r.Recipe.Id == AnswersFor(_system.Id, null));
        // A local account on a system that insists on one of its maker: only an answer file that passes over that page brings it. Where
        // the maker's was chosen, that page is to be seen.
        var account = _machine.Facts.Word("plan.install") == "inPlace" ? null : _machine.Facts.Word("plan.account");
        var passes = _system.Account == Asked.Required && account == "local";
        var halts = passes && answers is not null && !AnswerFile.PassesAccount(answers.Recipe);
        var hides = account == "maker" && answers is not null && AnswerFile.PassesAccount(answers.Recipe);
        if (halts || hides)
            answers = null;
        if (answers is not null)
            wanted.Add(answers);
        var trim = _shelf.Recipes.FirstOrDefault(r => r.Recipe.Id == $"trim-{_system.Id}");
        var trimmed = _machine.Facts.Word("plan.image") == "trimmed" && _system.Components.Count > 0;
        if (trimmed && trim is not null)
            wanted.Add(trim);

        var donor = Identity();
        var (image, imageItem) = Image(wanted, complete: open.Count == 0 && (!trimmed || trim is not null), donor);
        foreach (var recipe in wanted)
            Applied(recipe, recipe == answers ? WorkItemKind.Answers : WorkItemKind.Recipe, wanted, image);
        if (open.Count > 0)
            _items.Add(
                Missing(
                    RecipeItem(GateFile.RecipeFor(_system, open).Id),
                    WorkItemKind.Recipe,
                    Rung.Setup,
                    $"Pass over {Numbers.Join(open, "and")}",
                    "No recipe in the book lifts these gates.",
                    new WorkNext(WorkAction.MakeRecipe, "Make the recipe")
                )
            );
        if (trimmed && trim is null)
            _items.Add(
                Missing(
                    RecipeItem($"trim-{_system.Id}"),
                    WorkItemKind.Recipe,
                    Rung.Medium,
                    "Trim plan",
                    "A trimmed image was chosen, and nobody has said what goes.",
                    new WorkNext(WorkAction.BuildTrim, "Build the trim plan")
                )
            );
        if (answers is null && _system.Installer?.Answers is not null)
            _items.Add(
                Missing(
                    "answers",
                    WorkItemKind.Answers,
                    Rung.Setup,
                    "Answer file",
                    halts
                            ? "The one in the book stops at the page of the account: build it again with that page passed over."
                        : hides
                            ? "The one in the book passes over the page of the account, where the owner signs in: build it again with that page shown."
                        : passes
                            ? $"A local account was chosen, and {_system.FullName} goes on only with one of its maker: the answer file passes over that page."
                        : "None: the installer asks everything, and somebody stands beside it.",
                    new WorkNext(WorkAction.BuildAnswers, "Build an answer file")
                ) with
                {
                    Needed = passes,
                    PassesAccount = passes,
                }
            );
        // In the order of the work: what goes onto the image, the image, what it is started from.
        _items.Add(imageItem);
        var (takesKit, withKit) = Kit(donor, image);
        Medium(takesKit ? withKit : image);
        Switches();
        Chip();
        Layout();
        return _items;
    }

    /// <summary>How the drive is divided. An upgrade in place divides nothing; a whole drive is what installers do by themselves.</summary>
    private void Layout()
    {
        if (_machine.Facts.Word("plan.install") == "inPlace")
            return;
        var facts = _atInstaller;
        var (layout, whyNot) = MachineLayout.Of(facts, _system);
        var look = new WorkNext(WorkAction.PlanLayout, layout is null ? "Change its wishes" : "Look at the layout");
        _items.Add(
            layout is null
                ? Missing(LayoutItem, WorkItemKind.Layout, Rung.Disk, "Disk layout", whyNot!, look) with
                {
                    // A drive that nobody measured holds nothing up; wishes that collide do.
                    Needed = MachineLayout.Ask(facts, _system) is not null,
                }
                : new WorkItem(
                    LayoutItem,
                    WorkItemKind.Layout,
                    Rung.Disk,
                    "Disk layout",
                    WorkItemState.Ready,
                    $"{(layout.Scheme == PartitionScheme.Gpt ? "GPT" : "MBR")}: {MachineLayout.InWords(layout)}.",
                    Needed: true,
                    [new MadeFrom("dossier", $"{_machine.DossierVersion}")],
                    look,
                    []
                )
        );
    }

    /// <summary>Whether the firmware chip may be written: read, backed up, board matched, image checked.</summary>
    private void Chip()
    {
        if (_route.Cures.All(c => c.Kind != Outcome.Reflash))
            return;
        const string title = "Firmware chip";
        var go = new WorkNext(WorkAction.WorkOnChip, "To the chip on the bench");
        // Power is seen to at the step itself, in the moment of writing.
        var missing =
            _shelf.Chip is { } chip && chip.Content != ChipContent.Replaced
                ? ChipRules.BeforeWrite(chip).FirstOrDefault(c => !c.Holds && c.Id != "power")
                : null;
        if (_shelf.Chip is not { } state)
            _items.Add(Missing(ChipItem, WorkItemKind.Chip, Rung.Firmware, title, "It is not on the bench yet.", go));
        else if (missing is not null)
            _items.Add(
                Missing(
                    ChipItem,
                    WorkItemKind.Chip,
                    Rung.Firmware,
                    title,
                    $"Not yet: {missing.Says}. {missing.Todo}",
                    go
                )
            );
        else
            _items.Add(
                new WorkItem(
                    ChipItem,
                    WorkItemKind.Chip,
                    Rung.Firmware,
                    title,
                    WorkItemState.Ready,
                    state.Content == ChipContent.Replaced
                        ? state.Says
                        : "Two equal reads, the backup is kept, the board is on the list, and the image is checked.",
                    Needed: true,
                    [
                        new MadeFrom("backup", state.BackupSha256 ?? ""),
                        new MadeFrom("firmware image", $"{state.ImageRom}"),
                    ],
                    go,
                    []
                )
            );
    }

    /// <summary>In which order the switches of the firmware are turned. A locked one has none, and most machines need none.</summary>
    private void Switches()
    {
        if (!_catalogue.Menus(_route.AtSettings(_machine.Facts)).HasSettings)
            return;
        const string title = "Firmware switches";
        var look = new WorkNext(WorkAction.PlanSwitches, "Look at their order");
        WorkItem Held(string why) => Missing(SwitchesItem, WorkItemKind.Switches, Rung.Firmware, title, why, look);
        SwitchesOfRoute plan;
        try
        {
            plan = SwitchesOfRoute.Of(_route, _machine.Facts, _catalogue);
        }
        catch (RefusedException e)
        {
            _items.Add(Held(e.Message));
            return;
        }
        if (plan.Plan.Steps is not { } steps)
            _items.Add(Held(plan.Plan.WhyNone!));
        else if (plan.IsWork)
            _items.Add(
                new WorkItem(
                    SwitchesItem,
                    WorkItemKind.Switches,
                    Rung.Firmware,
                    title,
                    WorkItemState.Ready,
                    $"{string.Join("; ", steps.Select(plan.InWords))}.",
                    Needed: true,
                    [new MadeFrom("dossier", $"{_machine.DossierVersion}")],
                    look,
                    []
                )
            );
    }

    /// <summary>Id of the recipe that adds an answer file.</summary>
    public static string AnswersFor(string system, string? tag) =>
        $"answers-{system}{(tag is null ? "" : $"-{tag.ToLowerInvariant()}")}";

    /// <summary>
    /// The recipes that lift what the route's cures lift: those of the cures themselves first, then whichever lifts most of what is
    /// left and least beside it. What none lifts is left open.
    /// </summary>
    private static (List<ShelfRecipe> Recipes, List<string> Open) Choose(
        Route route,
        SystemEntry system,
        IReadOnlyList<ShelfRecipe> recipes
    )
    {
        var cures = route.Cures.Where(c => c.Kind == Outcome.Patch).ToArray();
        var open = cures
            .SelectMany(c => c.Lifts ?? [])
            .Where(l => l.StartsWith($"{system.Id}/", StringComparison.Ordinal))
            .Distinct(StringComparer.Ordinal)
            .ToList();
        var fitting = recipes
            .Where(r => r.Recipe.Acts == PatchPlace.Image && r.Recipe.For.System == system.Id)
            .ToList();
        var taken = fitting.Where(r => r.Recipe.Cure is { } cure && cures.Any(c => c.Id == cure)).ToList();
        foreach (var recipe in taken)
            open.RemoveAll(recipe.Recipe.Lifts.Contains);
        while (open.Count > 0)
        {
            var best = fitting
                .Where(r => !taken.Contains(r) && r.Recipe.Lifts.Any(open.Contains))
                .OrderByDescending(r => r.Recipe.Lifts.Count(open.Contains))
                .ThenBy(r => r.Recipe.Lifts.Count)
                .ThenBy(r => r.Recipe.Id, StringComparer.Ordinal)
                .FirstOrDefault();
            if (best is null)
                break;
            taken.Add(best);
            open.RemoveAll(best.Recipe.Lifts.Contains);
        }
        return (taken, [.. open.Select(l => l[(system.Id.Length + 1)..])]);
    }

    private GivenIdentity? Identity()
    {
        if (_route.Cures.All(c => c.Kind != Outcome.Spoof))
            return null;
        if (DonorChoice.For(_machine.Facts, _system.Id, _catalogue) is not { } nearest)
        {
            _items.Add(
                Missing(
                    IdentityItem,
                    WorkItemKind.Identity,
                    Rung.Setup,
                    "Identity",
                    "No donor of the machine’s own line is in the catalogue any more.",
                    null
                )
            );
            return null;
        }
        var give = new WorkNext(WorkAction.GiveIdentity, "Give it an identity");
        if (GivenIdentity.For(_machine.Identities, _system.Id, _catalogue) is not { } given)
        {
            _items.Add(
                Missing(
                    IdentityItem,
                    WorkItemKind.Identity,
                    Rung.Setup,
                    $"Identity of a {nearest.Line} {nearest.Id}",
                    $"{_system.FullName} lets no {_machine.Facts.Word("identity.model") ?? "such machine"} in, and it has no other identity yet.",
                    give
                )
            );
            return null;
        }
        var wanted = IdentityOf(_machine.Facts);
        var stale = wanted is { } level && level != given.Profile.Level;
        _items.Add(
            new WorkItem(
                IdentityItem,
                WorkItemKind.Identity,
                Rung.Setup,
                $"Identity of a {given.Donor}",
                stale ? WorkItemState.Stale : WorkItemState.Ready,
                stale ? "How much identity it takes was chosen otherwise since."
                    : given.Profile.Serial is { } serial
                        ? $"Serial {serial}, board {given.Profile.BoardId}. For this machine only."
                    : $"Board {given.Profile.BoardId}{(given.Profile.Model is { } model ? $", {model}" : "")}. For this machine only.",
                true,
                [new("identity", given.Name), new("donor", given.Donor!)],
                stale || given.Donor != nearest.Id ? give : null,
                []
            )
        );
        return given;
    }

    /// <summary>
    /// The boot kit, where the system takes one: what the firmware starts, and what carries the identity. It is ready when it lies on one
    /// image with the installer; that image is what the medium gets.
    /// </summary>
    private (bool Takes, ShelfImage? WithKit) Kit(GivenIdentity? identity, ShelfImage? image)
    {
        if (_system.Kit is null || _route.Cures.All(c => c.Kind != Outcome.Spoof))
            return (false, null);
        var title = $"Boot kit for {_system.FullName}";
        BootKit kit;
        try
        {
            kit = KitBuilder.Build(_atInstaller, _system, _catalogue);
        }
        catch (RefusedException e)
        {
            _items.Add(
                Missing(
                    KitItem,
                    WorkItemKind.Kit,
                    Rung.Medium,
                    "Boot kit",
                    $"{e.Message} {e.Refusal.Wanted}",
                    new WorkNext(WorkAction.BuildKit, "See why there is none")
                )
            );
            return (true, null);
        }
        var build = new WorkNext(WorkAction.BuildKit, "Build the kit");
        if (_shelf.Kits.FirstOrDefault(k => k.System == _system.Id) is not { } made)
        {
            _items.Add(Missing(KitItem, WorkItemKind.Kit, Rung.Medium, title, "Nobody has built it yet.", build));
            return (true, null);
        }
        var changed =
            made.From != KitFrom.Of(kit, identity)
                ? "It would be built otherwise now: a component, the build or the identity changed."
            : made.Findings > 0 ? $"Its check finds {Numbers.Count(made.Findings, "fault", "faults")}."
            : null;
        var on = image is null
            ? null
            : _shelf
                .Images.Where(i => i.Parent == image.Id && i.Applied is { Sha256: { } sha256 } && sha256 == made.Sha256)
                .MaxBy(i => i.Id);
        var count = Numbers.Count(kit.Components.Count, "component", "components");
        _items.Add(
            new WorkItem(
                KitItem,
                WorkItemKind.Kit,
                Rung.Medium,
                title,
                changed is not null ? WorkItemState.Stale
                    : on is null ? WorkItemState.Missing
                    : WorkItemState.Ready,
                changed
                    ?? (
                        on is not null ? $"{count}, every one there and in its order, with the installer on {on.Name}."
                        : image is null
                            ? $"{count}, every one there and in its order. It is put on the image when that is made."
                        : $"{count}, every one there and in its order. It is on no image yet."
                    ),
                true,
                [new("kit", made.Sha256), new("identity", identity?.Name ?? "none")],
                changed is not null ? build
                    : on is null && image is not null
                        ? new WorkNext(WorkAction.PutKit, $"Put it on {image.Name}", image.Id)
                    : null,
                on is null ? [] : Evidence(on, identity),
                changed is null ? on?.Id : null
            )
        );
        return (true, changed is null ? on : null);
    }

    /// <summary>How much identity was chosen; null where nobody chose.</summary>
    public static IdentityLevel? IdentityOf(IFacts facts) =>
        facts.Word("plan.identity") switch
        {
            "least" => IdentityLevel.BoardId,
            "model" => IdentityLevel.Model,
            "full" => IdentityLevel.Full,
            _ => null,
        };

    /// <summary>The image that the plan asks for: one as it came, with exactly these recipes applied as they are now.</summary>
    private (ShelfImage? Ready, WorkItem Item) Image(List<ShelfRecipe> wanted, bool complete, GivenIdentity? identity)
    {
        var ofSystem = _shelf.Images.Where(i => i.System == _system.Id).OrderByDescending(i => i.Id).ToList();
        var originals = ofSystem.Where(i => i.Parent is null).ToList();
        if (originals.Count == 0)
        {
            return (
                null,
                Missing(
                    ImageItem,
                    WorkItemKind.Image,
                    Rung.Medium,
                    "Installer image",
                    $"No image of {_system.FullName} is on the shelf.",
                    new WorkNext(WorkAction.BringImage, "Bring one onto the shelf")
                )
            );
        }
        var ids = wanted.Select(w => w.Recipe.Id).ToHashSet(StringComparer.Ordinal);
        var made = ofSystem.FirstOrDefault(i =>
            Chain(i).Select(a => a.Id).ToHashSet(StringComparer.Ordinal).SetEquals(ids)
        );
        var outdated = made is null ? [] : Chain(made).Where(a => !IsNow(a)).ToList();
        if (made is not null && outdated.Count == 0 && complete)
        {
            var ways = StartsOfItself ? [] : StartOn.Ways(made.Seen, _atInstaller, _catalogue.Menus(_atInstaller));
            var starts = StartsOfItself || ways.Any(w => w.Can != false);
            return (
                starts ? made : null,
                new WorkItem(
                    ImageItem,
                    WorkItemKind.Image,
                    Rung.Medium,
                    made.Name,
                    starts ? WorkItemState.Ready : WorkItemState.Missing,
                    starts
                        ? wanted.Count == 0
                            ? "As its maker made it."
                            : $"With {Numbers.Join(wanted.Select(w => w.Recipe.Name), "and")}."
                        : $"It does not start on this machine: {ways[0].Why}",
                    true,
                    From(made),
                    starts ? null : new WorkNext(WorkAction.BringImage, "Bring another one onto the shelf"),
                    Evidence(made, identity),
                    made.Id
                )
                {
                    Bytes = made.Seen.SizeBytes,
                    Build = made.Build,
                }
            );
        }
        var begin = Furthest(ofSystem, ids);
        var next = complete ? wanted.FirstOrDefault(w => Chain(begin).All(a => a.Id != w.Recipe.Id)) : null;
        return (
            null,
            new WorkItem(
                ImageItem,
                WorkItemKind.Image,
                Rung.Medium,
                made?.Name ?? $"{_system.FullName}, patched",
                made is null ? WorkItemState.Missing : WorkItemState.Stale,
                made is null
                    ? complete
                        ? $"{Numbers.Count(wanted.Count(w => Chain(begin).All(a => a.Id != w.Recipe.Id)), "recipe is", "recipes are")} still to be applied."
                        : "It is made when its recipes are there."
                    : string.Join(' ', outdated.Select(Changed)),
                true,
                made is null ? [] : From(made),
                next is null
                    ? null
                    : new WorkNext(
                        WorkAction.ApplyRecipe,
                        $"Apply “{next.Recipe.Name}” to {begin.Name}",
                        begin.Id,
                        next.Recipe.Id
                    ),
                made is null ? [] : Evidence(made, identity),
                made?.Id
            )
        );
    }

    /// <summary>
    /// Whether nothing but this very system is started: a board starts from its card with an image that is made for it, and a locked boot
    /// ROM starts the recovery of its own system.
    /// </summary>
    private bool StartsOfItself =>
        _system.Class == SystemClass.SingleBoard
        || (
            _atInstaller.Word("firmware.kind") == "locked"
            && _system.Requirements.Any(r =>
                r.Rung == Rung.Medium && r.Needs.Keys.Contains("firmware.kind") && r.Needs.Holds(_atInstaller) == true
            )
        );

    /// <summary>The image that has most of the recipes already, as they are now, and none beside them.</summary>
    private ShelfImage Furthest(IReadOnlyList<ShelfImage> images, HashSet<string> ids) =>
        images
            .Where(i => Chain(i).All(a => ids.Contains(a.Id) && IsNow(a)))
            .OrderByDescending(i => Chain(i).Count)
            .ThenByDescending(i => i.Id)
            .First();

    private void Applied(ShelfRecipe recipe, WorkItemKind kind, List<ShelfRecipe> wanted, ShelfImage? image)
    {
        var id = recipe.Recipe.Id;
        var ids = wanted.Select(w => w.Recipe.Id).ToHashSet(StringComparer.Ordinal);
        var begin = image ?? Base(ids);
        var on = begin is null ? null : Chain(begin).FirstOrDefault(a => a.Id == id);
        var old = on is null
            ? _shelf
                .Images.Where(i => i.System == _system.Id)
                .SelectMany(Chain)
                .FirstOrDefault(a => a.Id == id && !IsNow(a))
            : null;
        var state =
            on is not null ? WorkItemState.Ready
            : old is not null ? WorkItemState.Stale
            : WorkItemState.Missing;
        var build = begin?.Build;
        var fits = build is null || recipe.Recipe.For.Builds.Count == 0 || recipe.Recipe.For.Builds.Contains(build);
        _items.Add(
            new WorkItem(
                RecipeItem(id),
                kind,
                Rung.Setup,
                recipe.Recipe.Name,
                state,
                state switch
                {
                    WorkItemState.Ready => $"It is on {begin!.Name}.",
                    WorkItemState.Stale => Changed(old!),
                    _ when !fits =>
                        $"It was proved with build {Numbers.Join(recipe.Recipe.For.Builds, "or")}; the image is build {build}.",
                    _ => begin is null
                        ? "There is no image yet that it could be applied to."
                        : $"Not yet on {begin.Name}.",
                },
                true,
                [new("recipe", $"{id}, version {recipe.Version}"), new("SHA-256", recipe.Recipe.Sha256())],
                state == WorkItemState.Ready || begin is null
                    ? null
                    : new WorkNext(WorkAction.ApplyRecipe, $"Apply it to {begin.Name}", begin.Id, id),
                [],
                begin?.Id
            )
            {
                PassesAccount = kind == WorkItemKind.Answers && AnswerFile.PassesAccount(recipe.Recipe),
            }
        );
    }

    private ShelfImage? Base(HashSet<string> ids)
    {
        var ofSystem = _shelf.Images.Where(i => i.System == _system.Id).ToList();
        return ofSystem.Count == 0 || ofSystem.TrueForAll(i => i.Parent is not null) ? null : Furthest(ofSystem, ids);
    }

    private void Medium(ShelfImage? image)
    {
        var holds = image is null ? null : _shelf.Media.FirstOrDefault(m => m.Ready && m.ImageId == image.Id);
        if (holds is not null)
        {
            _items.Add(
                new WorkItem(
                    MediumItem,
                    WorkItemKind.Medium,
                    Rung.Medium,
                    holds.Label,
                    WorkItemState.Ready,
                    $"{image!.Name}, written, read back and equal.",
                    true,
                    [new("image", image.Sha256)],
                    null,
                    [],
                    image.Id,
                    holds.Id
                )
                {
                    Simulated = holds.Simulated ? ShelfMedium.SimulatedSays : null,
                }
            );
            return;
        }
        // One that holds what the plan wanted before is the one to write again.
        var before = _shelf.Media.FirstOrDefault(m =>
            m.Ready && m.ImageId is { } id && _images.TryGetValue(id, out var on) && on.System == _system.Id
        );
        _items.Add(
            new WorkItem(
                MediumItem,
                WorkItemKind.Medium,
                Rung.Medium,
                before?.Label ?? "Installer medium",
                before is null ? WorkItemState.Missing : WorkItemState.Stale,
                before is not null
                        ? $"It holds {_images[before.ImageId!.Value].Name}; the plan wants {image?.Name ?? "an image that is not made yet"}."
                    : image is null ? "It is written when the image is made."
                    : $"{image.Name} is on no medium yet.",
                true,
                before is null ? [] : [new("image", _images[before.ImageId!.Value].Sha256)],
                image is null
                    ? null
                    : new WorkNext(WorkAction.WriteMedium, $"Write {image.Name} onto a medium", image.Id),
                [],
                before?.ImageId,
                before?.Id
            )
            {
                Simulated = before?.Simulated == true ? ShelfMedium.SimulatedSays : null,
                Bytes = image?.Seen.SizeBytes ?? _system.ImageBytes,
                Writes = WriteTimes.Of(image?.Seen.SizeBytes ?? _system.ImageBytes, before?.Facts),
            }
        );
    }

    private IReadOnlyList<RehearsalSeen> Evidence(ShelfImage image, GivenIdentity? identity)
    {
        var medium = _shelf.Media.FirstOrDefault(m => m.Ready && m.ImageId == image.Id);
        var asked = new RehearsalAsked(
            image.Sha256,
            _atInstaller,
            _machine.DossierVersion,
            identity?.Profile,
            identity?.Name,
            medium is null ? null
                : medium.IsDisc ? "disc"
                : "stick",
            FirmwareWays.Of(_atInstaller).Now
        );
        return [.. _shelf.Rehearsals.Select(r => RehearsalSeen.Of(r, asked)).OrderByDescending(s => s.IsEvidence)];
    }

    private List<MadeFrom> From(ShelfImage image) =>
        [
            new("image", image.Sha256),
            .. Chain(image).Select(a => new MadeFrom("recipe", $"{a.Id}, version {a.Version}")),
        ];

    /// <summary>The recipes between an image as it came and this one.</summary>
    private List<AppliedRecipe> Chain(ShelfImage image)
    {
        var all = new List<AppliedRecipe>();
        for (
            var at = image;
            at?.Applied is { } applied;
            at = at.Parent is { } id ? _images.GetValueOrDefault(id) : null
        )
            all.Insert(0, applied);
        return all;
    }

    private bool IsNow(AppliedRecipe applied) =>
        _shelf.Recipes.FirstOrDefault(r => r.Recipe.Id == applied.Id) is { } now
        && (applied.Sha256 is { } sha256 ? sha256 == now.Recipe.Sha256() : applied.Version == now.Version);

    private string Changed(AppliedRecipe applied) =>
        _shelf.Recipes.FirstOrDefault(r => r.Recipe.Id == applied.Id) is { } now
            ? $"“{now.Recipe.Name}” was changed since: the image has version {applied.Version}, now it is version {now.Version}."
            : $"The recipe {applied.Id} is not in the book any more.";

    private static WorkItem Missing(
        string id,
        WorkItemKind kind,
        Rung rung,
        string title,
        string says,
        WorkNext? next
    ) => new(id, kind, rung, title, WorkItemState.Missing, says, true, [], next, []);
}
