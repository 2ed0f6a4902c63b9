using System.Collections.Frozen;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Sheets;

/// <summary>A fragment as it stands in one sheet: the steps that belong there.</summary>
/// <param name="Id">Unique in the sheet.</param>
/// <param name="Title">What it is for.</param>
/// <param name="Steps">Its steps, in their order.</param>
internal sealed record Fragment(string Id, string Title, IReadOnlyList<StepEntry> Steps)
{
    /// <summary>
    /// Its lowest rung: what stands lower is done earlier where nothing else decides. What goes on by itself at another computer is
    /// begun as soon as it may be, whatever its rung.
    /// </summary>
    public Rung Rung { get; } =
        Steps.Count == 0 ? Rung.Upkeep
        : Steps.All(s => s.Where == StepPlace.OtherComputer && s.Does.GetValueOrDefault("medium") == "written")
            ? Rung.Release
        : Steps.Min(s => s.Rung);

    /// <summary>What is known of the machine once it is done: the facts of the cures that it carries out.</summary>
    public IReadOnlyDictionary<string, FactValue> Leaves { get; init; } = FrozenDictionary<string, FactValue>.Empty;

    /// <summary>Whether it waits for the machine: then it is begun early, so that hands are free meanwhile.</summary>
    public bool Waits { get; } = Steps.Any(s => s.Kind == StepKind.Wait);
}

/// <summary>Something that a sheet cannot do as things are.</summary>
/// <param name="Fragment">What it is about.</param>
/// <param name="Step">The step that lacks something.</param>
/// <param name="Says">What it lacks.</param>
public sealed record SheetMissing(string Fragment, string Step, string Says);

/// <summary>
/// Puts fragments in an order in which every need of every step holds when the step comes. Among the orders that do, it takes
/// the first by rung, then what waits before what does not, then the order of the catalogue.
/// </summary>
internal sealed class Composer
{
    private readonly Fragment[] _fragments;
    private readonly HashSet<string> _dead = new(StringComparer.Ordinal);
    private readonly List<Fragment> _order = [];
    private List<Fragment> _furthest = [];

    private Composer(IEnumerable<Fragment> fragments) =>
        _fragments = [
            .. fragments
                .Select((f, i) => (f, i))
                .OrderBy(x => x.f.Rung)
                .ThenByDescending(x => x.f.Waits)
                .ThenBy(x => x.i)
                .Select(x => x.f),
        ];

    /// <summary>The fragments in their order, and what is missing where there is none.</summary>
    /// <param name="fragments">The fragments that belong to the route.</param>
    /// <param name="start">The small world before the first step.</param>
    public static (IReadOnlyList<Fragment> Order, IReadOnlyList<SheetMissing> Missing) Order(
        IEnumerable<Fragment> fragments,
        IReadOnlyDictionary<string, string> start
    )
    {
        var composer = new Composer(fragments);
        var used = new bool[composer._fragments.Length];
        return composer.Place(used, start) ? (composer._order, []) : (composer._furthest, composer.Missing(start));
    }

    /// <summary>How fragments go before one another: by rung, waits first, then as the catalogue has them.</summary>
    public static IReadOnlyList<Fragment> Preferred(IEnumerable<Fragment> fragments) =>
        new Composer(fragments)._fragments;

    /// <summary>The world after a fragment, or null where a step of it would lack something.</summary>
    public static IReadOnlyDictionary<string, string>? After(
        Fragment fragment,
        IReadOnlyDictionary<string, string> world
    ) => After(fragment, world, out _);

    private static Dictionary<string, string>? After(
        Fragment fragment,
        IReadOnlyDictionary<string, string> world,
        out (StepEntry Step, string Key)? lacking
    )
    {
        var after = new Dictionary<string, string>(world, StringComparer.Ordinal);
        foreach (var step in fragment.Steps)
        {
            foreach (var (key, values) in step.Needs)
                if (!values.Contains(after[key]))
                {
                    lacking = (step, key);
                    return null;
                }
            foreach (var (key, value) in step.Does)
                after[key] = value;
        }
        lacking = null;
        return after;
    }

    private bool Place(bool[] used, IReadOnlyDictionary<string, string> world)
    {
        if (_order.Count == _fragments.Length)
            return true;
        if (_order.Count > _furthest.Count)
            _furthest = [.. _order];
        // The same fragments done, and the same world: whatever comes after is the same as well.
        var key = Key(used, world);
        if (_dead.Contains(key))
            return false;
        for (var i = 0; i < _fragments.Length; i++)
        {
            if (used[i] || After(_fragments[i], world) is not { } after)
                continue;
            used[i] = true;
            _order.Add(_fragments[i]);
            if (!Strands(used, after) && Place(used, after))
                return true;
            _order.RemoveAt(_order.Count - 1);
            used[i] = false;
        }
        _dead.Add(key);
        return false;
    }

    /// <summary>Whether a fragment that is still to come needs what nothing that is still to come can bring about any more.</summary>
    private bool Strands(bool[] used, IReadOnlyDictionary<string, string> world)
    {
        for (var i = 0; i < _fragments.Length; i++)
        {
            if (used[i])
                continue;
            var own = new HashSet<string>(StringComparer.Ordinal);
            foreach (var step in _fragments[i].Steps)
            {
                foreach (var (key, values) in step.Needs)
                    if (!own.Contains(key) && !values.Contains(world[key]) && !Brings(used, i, key, values))
                        return true;
                own.UnionWith(step.Does.Keys);
            }
        }
        return false;
    }

    private bool Brings(bool[] used, int but, string key, IReadOnlyList<string> values)
    {
        for (var i = 0; i < _fragments.Length; i++)
            if (!used[i] && i != but)
                foreach (var step in _fragments[i].Steps)
                    if (step.Does.TryGetValue(key, out var value) && values.Contains(value))
                        return true;
        return false;
    }

    private static string Key(bool[] used, IReadOnlyDictionary<string, string> world)
    {
        var keys = World.Keys;
        return string.Create(
            used.Length + keys.Count,
            (used, world, keys),
            static (span, from) =>
            {
                for (var i = 0; i < from.used.Length; i++)
                    span[i] = from.used[i] ? '1' : '0';
                for (var i = 0; i < from.keys.Count; i++)
                {
                    var values = from.keys[i].Values;
                    var value = from.world[from.keys[i].Key];
                    var place = 0;
                    while (values[place] != value)
                        place++;
                    span[from.used.Length + i] = (char)('a' + place);
                }
            }
        );
    }

    /// <summary>What nothing of the route brings about; where there is no such, what is left after the furthest that it came.</summary>
    private List<SheetMissing> Missing(IReadOnlyDictionary<string, string> start)
    {
        var none = new bool[_fragments.Length];
        var missing = new List<SheetMissing>();
        for (var i = 0; i < _fragments.Length; i++)
        {
            var own = new HashSet<string>(StringComparer.Ordinal);
            foreach (var step in _fragments[i].Steps)
            {
                foreach (var (key, values) in step.Needs)
                    if (!own.Contains(key) && !values.Contains(start[key]) && !Brings(none, i, key, values))
                        missing.Add(Lacks(_fragments[i], step, key, start[key]));
                own.UnionWith(step.Does.Keys);
            }
        }
        if (missing.Count > 0)
            return missing;
        var world = start;
        foreach (var fragment in _furthest)
            world = After(fragment, world)!;
        foreach (var fragment in _fragments.Except(_furthest))
            if (After(fragment, world, out var lacking) is null && lacking is var (step, key))
                missing.Add(Lacks(fragment, step, key, world[key]));
        return missing.Count > 0
            ? missing
            :
            [
                new SheetMissing(
                    _fragments.Except(_furthest).First().Title,
                    "",
                    "spoils what another part of the work still needs"
                ),
            ];
    }

    private static SheetMissing Lacks(Fragment fragment, StepEntry step, string key, string now) =>
        new(
            fragment.Title,
            step.Id,
            $"needs {World.Find(key)!.About} to be {Numbers.Join(step.Needs[key], "or")}; it would be {now}, and no step of this route changes that in time"
        );
}
