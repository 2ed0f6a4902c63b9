using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;

namespace FreshBoot.Core.BootKits;

/// <summary>A component of a kit, with the reason why it is in it.</summary>
/// <param name="Component">The component.</param>
/// <param name="Why">The reason.</param>
public sealed record KitChoice(KitComponent Component, string Why);

/// <summary>A boot kit for a machine and a system.</summary>
/// <param name="System">The system.</param>
/// <param name="Build">The build that it is for.</param>
/// <param name="Table">The set of power tables that it takes.</param>
/// <param name="Components">Its components, in the order in which they load.</param>
/// <param name="Quirks">Quirks that this firmware needs.</param>
/// <param name="Trials">What is found by trial.</param>
/// <param name="Lacks">What will be missing, said before.</param>
/// <param name="Profile">What somebody had running on this board; null where nobody wrote it down.</param>
/// <param name="SteppingStone">A system that goes on first; null for none.</param>
/// <param name="Assumes">What is not known of the machine and taken to be well.</param>
public sealed record BootKit(
    SystemEntry System,
    int Build,
    PowerTableKind Table,
    IReadOnlyList<KitChoice> Components,
    IReadOnlyList<KitQuirk> Quirks,
    IReadOnlyList<KitTrial> Trials,
    IReadOnlyList<string> Lacks,
    KitProfile? Profile,
    SystemEntry? SteppingStone,
    IReadOnlyList<string> Assumes
);

/// <summary>
/// Chooses the smallest set of components with which a system starts on a machine: every part that the system asks for, whatever
/// a component needs, nothing that excludes another. It is searched exactly; of several smallest sets the first by ids is taken.
/// </summary>
public static class KitBuilder
{
    /// <summary>The kit of a machine; null where none can be built.</summary>
    public static BootKit? TryBuild(IFacts facts, SystemEntry system, ShopCatalogue catalogue)
    {
        try
        {
            return Build(facts, system, catalogue);
        }
        catch (RefusedException)
        {
            return null;
        }
    }

    /// <summary>Builds the kit of a machine.</summary>
    /// <exception cref="RefusedException">The system takes no kit, or none can be built: nothing is to be bought for it.</exception>
    public static BootKit Build(IFacts facts, SystemEntry system, ShopCatalogue catalogue)
    {
        if (system.Kit is not { } ask)
            throw new RefusedException(
                RefusalKind.Impossible,
                $"{system.FullName} is started without a boot kit, or nobody has made one.",
                "system",
                "A system with a kit in the catalogue."
            );
        var own = ask.OwnMaker is { } maker && facts.Word("identity.maker") == maker;
        var assumes = new List<string>();
        if (facts.Number("graphics.0.class") is not { } graphics)
            assumes.Add("graphics.0.class");
        else if (graphics < ask.LeastGraphics)
            throw Stop(
                $"Its graphics are of class {graphics}, and for {system.FullName} there is no driver below class {ask.LeastGraphics}.",
                "Nothing is bought for it: another system, or a machine with other graphics."
            );
        if (
            facts.Word("graphics.0.model") is { } chip
            && catalogue.Device("graphics", chip)?.Drivers.GetValueOrDefault(system.Id) == DriverState.None
        )
            throw Stop(
                $"There is no driver of {system.FullName} for {chip}.",
                "Nothing is bought for it: another system, or a machine with other graphics."
            );
        var generation = facts.Word("cpu.generation");
        if (generation is null)
            assumes.Add("cpu.generation");
        var table = TableOf(facts);
        var fits = catalogue.Components.Where(c => Fits(c, facts, system, ask, generation, table, catalogue)).ToArray();
        var parts = (own ? ask.OwnParts : ask.Parts).ToList();
        // What a machine has no chip for needs no component.
        if (!own && Names(facts, "audio").Count > 0 && fits.Any(c => c.Part == KitPart.Audio))
            parts.Add(KitPart.Audio);
        foreach (var part in parts.Where(p => fits.All(c => c.Part != p)))
            throw Stop(
                $"No component of the catalogue is its {Say(part)}{(generation is null ? "" : $" for a {generation}")}.",
                "Another machine, or a component that somebody has proved on one like it."
            );
        var chosen =
            Smallest([.. parts.Distinct()], fits)
            ?? throw Stop(
                "Its components exclude each other: no set holds all that it needs.",
                "A component that stands beside the others."
            );
        var profile = catalogue.Profiles.FirstOrDefault(p =>
            p.System == system.Id && p.Board == facts.Word("identity.board")
        );
        var brand = facts.Word("identity.maker") ?? "";
        return new BootKit(
            system,
            ask.Build,
            table,
            [.. Ordered(chosen).Select(c => new KitChoice(c, Why(c, parts, chosen, facts, catalogue)))],
            [.. catalogue.Quirks.Where(q => q.Needed.Contains(brand))],
            [.. chosen.Select(c => c.Trial).OfType<KitTrial>().Select(t => First(t, profile))],
            own ? [] : [.. ask.Lacks.Concat(profile?.WorksNot ?? [])],
            profile,
            ask.SteppingStone is { } stone && !own ? catalogue.System(stone) : null,
            assumes
        );
    }

    /// <summary>A trial with the value first that somebody proved on this board.</summary>
    private static KitTrial First(KitTrial trial, KitProfile? profile) =>
        profile?.Settings.TryGetValue(trial.Key, out var proved) == true
            ? trial with
            {
                Values = [proved, .. trial.Values.Where(v => v != proved)],
            }
            : trial;

    /// <summary>
    /// The set of power tables that a machine takes: that of its processor, which a person may name; a small desktop has a mobile
    /// processor unless somebody says otherwise.
    /// </summary>
    public static PowerTableKind TableOf(IFacts facts) =>
        facts.Word("cpu.kind") switch
        {
            "mobile" => PowerTableKind.Mobile,
            "desktop" => PowerTableKind.Desktop,
            _ => DonorRanking.FormOf(facts.Word("identity.chassis")) is "laptop" or "small desktop"
                ? PowerTableKind.Mobile
                : PowerTableKind.Desktop,
        };

    /// <summary>The smallest set that holds every part and all that its members need; null where there is none.</summary>
    /// <param name="parts">The parts that have to be in it.</param>
    /// <param name="fits">The components that may be.</param>
    public static IReadOnlyList<KitComponent>? Smallest(IReadOnlyList<KitPart> parts, IReadOnlyList<KitComponent> fits)
    {
        var byId = fits.OrderBy(c => c.Id, StringComparer.Ordinal).ToArray();
        KitComponent[]? best = null;
        Walk([]);
        return best;

        void Walk(List<KitComponent> taken)
        {
            if (best is not null && taken.Count > best.Length)
                return;
            // What is still missing: a member that another one needs, else a part; the first one decides where to branch.
            var ids = taken.Select(c => c.Id).ToHashSet(StringComparer.Ordinal);
            KitComponent[]? options = null;
            if (taken.SelectMany(c => c.Needs).FirstOrDefault(n => !ids.Contains(n)) is { } need)
                options = [.. byId.Where(c => c.Id == need)];
            else if (
                parts.Where(p => taken.All(c => c.Part != p)).Select(p => (KitPart?)p).FirstOrDefault() is { } part
            )
                options = [.. byId.Where(c => c.Part == part)];
            if (options is null)
            {
                var found = taken.OrderBy(c => c.Id, StringComparer.Ordinal).ToArray();
                if (best is null || found.Length < best.Length || Before(found, best))
                    best = found;
                return;
            }
            foreach (var option in options)
                if (
                    !taken.Exists(c => c.Excludes.Contains(option.Id) || option.Excludes.Contains(c.Id))
                    && !option.Excludes.Contains(option.Id)
                )
                    Walk([.. taken, option]);
        }

        static bool Before(KitComponent[] a, KitComponent[] b) =>
            a.Length == b.Length
            && string.CompareOrdinal(string.Join('\n', a.Select(c => c.Id)), string.Join('\n', b.Select(c => c.Id)))
                < 0;
    }

    /// <summary>The order in which components load: what one needs or comes after is before it; else by part and id.</summary>
    public static IReadOnlyList<KitComponent> Ordered(IReadOnlyList<KitComponent> chosen)
    {
        var left = chosen.OrderBy(c => c.Part).ThenBy(c => c.Id, StringComparer.Ordinal).ToList();
        var ordered = new List<KitComponent>();
        while (left.Count > 0)
        {
            var next =
                left.Find(c => c.Needs.Concat(c.After).All(b => left.TrueForAll(l => l.Id != b)))
                ?? throw new InvalidOperationException("The reader of packs refuses circles.");
            ordered.Add(next);
            left.Remove(next);
        }
        return ordered;
    }

    /// <summary>Whether a component is for this machine, as far as anybody knows.</summary>
    private static bool Fits(
        KitComponent c,
        IFacts facts,
        SystemEntry system,
        SystemKit ask,
        string? generation,
        PowerTableKind table,
        ShopCatalogue catalogue
    ) =>
        (c.Systems.Count == 0 || c.Systems.Contains(system.Id))
        && (c.LeastBuild == 0 || ask.Build >= c.LeastBuild)
        && (c.MostBuild == 0 || ask.Build <= c.MostBuild)
        && (c.Generations.Count == 0 || (generation is not null && c.Generations.Contains(generation)))
        && (c.Table is null || c.Table == table)
        && (c.Firmwares.Count == 0 || c.Firmwares.Contains(facts.Word("firmware.kind") ?? ""))
        && (c.Chips.Count == 0 || Groups.Any(g => Names(facts, g).Any(n => Is(g, n, c.Chips, catalogue))));

    /// <summary>Whether a device that the machine reports is one of these chips.</summary>
    private static bool Is(string group, string name, IReadOnlyList<string> chips, ShopCatalogue catalogue) =>
        chips.Any(chip => name.Split(' ').Contains(chip) || catalogue.Device(group, name)?.Id == chip);

    private static readonly string[] Groups = ["graphics", "network", "audio", "touch"];

    private static List<string> Names(IFacts facts, string group) =>
        [.. Enumerable.Range(0, 10).Select(i => facts.Word($"{group}.{i}.model")).OfType<string>()];

    private static string Why(
        KitComponent c,
        List<KitPart> parts,
        IReadOnlyList<KitComponent> chosen,
        IFacts facts,
        ShopCatalogue catalogue
    )
    {
        var forWhom = chosen.Where(o => o.Needs.Contains(c.Id)).Select(o => o.Name).ToArray();
        var reason = !parts.Contains(c.Part)
            ? $"{Numbers.Join(forWhom, "and")} {(forWhom.Length == 1 ? "needs" : "need")} it"
            : c.Part switch
            {
                KitPart.BootManager => "what the firmware starts, and what loads the rest",
                KitPart.FileSystem => "the firmware does not read the system’s own file system",
                KitPart.BaseShim => "the others hook into it",
                KitPart.Controller => "the system asks for its maker’s controller, which this machine has not",
                KitPart.PowerTable => c.Table is { } table
                    ? $"the {(table == PowerTableKind.Mobile ? "mobile" : "desktop")} table of a {facts.Word("cpu.generation")}"
                    : $"the table of a {facts.Word("cpu.generation")}",
                _ when Groups.SelectMany(g => Names(facts, g).Where(n => Is(g, n, c.Chips, catalogue))).FirstOrDefault()
                        is { } chip => $"for its {chip}",
                _ => $"its {Say(c.Part)}",
            };
        return char.ToUpperInvariant(reason[0]) + reason[1..] + ".";
    }

    private static string Say(KitPart part) =>
        part switch
        {
            KitPart.BootManager => "boot manager",
            KitPart.FileSystem => "file-system driver",
            KitPart.Runtime => "runtime driver",
            KitPart.BaseShim => "base shim",
            KitPart.Controller => "controller",
            KitPart.PowerTable => "power table",
            _ => part.ToString().ToLowerInvariant(),
        };

    private static RefusedException Stop(string what, string wanted) =>
        new(RefusalKind.Impossible, what, "kit", wanted);
}
