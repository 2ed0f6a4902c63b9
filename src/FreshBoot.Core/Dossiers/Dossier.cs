namespace FreshBoot.Core.Dossiers;

/// <summary>Anything that can be asked for the value of a fact; null means that nobody has measured it.</summary>
public interface IFacts
{
    /// <summary>The value of <paramref name="key"/>, or null when it is unknown.</summary>
    FactValue? this[string key] { get; }
}

/// <summary>
/// What is known of one machine: for each key the reading in force, and beside it those that disagree. Immutable.
/// A fact that nobody measured is absent, which means unknown and never false.
/// </summary>
public sealed class Dossier : IFacts
{
    // A frozen dictionary would be read a little quicker, and takes longer to make than a dossier is read.
    private readonly Dictionary<string, Fact> _facts;

    private Dossier(IReadOnlyList<Reading> readings, Dictionary<string, Fact> facts)
    {
        Readings = readings;
        _facts = facts;
    }

    /// <summary>A dossier in which nothing is known.</summary>
    public static Dossier Empty { get; } = From([]);

    /// <summary>Every current reading, one per key and source.</summary>
    public IReadOnlyList<Reading> Readings { get; }

    /// <summary>The facts in the order of <see cref="FactRegistry"/>.</summary>
    public IEnumerable<Fact> Facts =>
        _facts.Values.OrderBy(f => FactRegistry.Position(f.Key)).ThenBy(f => f.Key, StringComparer.Ordinal);

    /// <inheritdoc/>
    public FactValue? this[string key] => _facts.TryGetValue(key, out var fact) ? fact.Value : null;

    /// <summary>The fact with its source, or null when it is unknown.</summary>
    public Fact? Find(string key) => _facts.GetValueOrDefault(key);

    /// <summary>
    /// Builds a dossier. Precedence: chosen by a person, then probed, then entered by hand, then derived; between
    /// equals the one received last, because bench clocks lie.
    /// </summary>
    public static Dossier From(IEnumerable<Reading> readings)
    {
        var all = readings.ToArray();
        var inForce = new Dictionary<string, Reading>(all.Length, StringComparer.Ordinal);
        Dictionary<string, List<Reading>>? several = null;
        foreach (var reading in all)
        {
            if (inForce.TryAdd(reading.Key, reading))
                continue;
            several ??= new Dictionary<string, List<Reading>>(StringComparer.Ordinal);
            if (!several.TryGetValue(reading.Key, out var group))
                several[reading.Key] = group = [inForce[reading.Key]];
            group.Add(reading);
        }
        var facts = new Dictionary<string, Fact>(inForce.Count, StringComparer.Ordinal);
        foreach (var (key, only) in inForce)
        {
            var (top, disagreeing) =
                several is not null && several.TryGetValue(key, out var group) ? Ranked(group) : (only, []);
            facts[key] = new Fact(
                key,
                top.Value,
                FactRegistry.Find(key)?.Unit,
                top.Source,
                top.Origin,
                top.TakenAt,
                top.By,
                disagreeing
            );
        }
        return new Dossier(all, facts);
    }

    private static (Reading Top, IReadOnlyList<Reading> Disagreeing) Ranked(List<Reading> group)
    {
        var ranked = group.OrderByDescending(r => r.Origin).ThenByDescending(r => r.Receipt).ToArray();
        return (ranked[0], [.. ranked.Skip(1).Where(r => !r.Value.Equals(ranked[0].Value))]);
    }

    /// <summary>
    /// This dossier with a probe's readings taken in. What the same sources said before is dropped, so that a drive
    /// that was taken out does not linger; what other sources and people said stays. Under an identity that it took a machine does
    /// not say what it is: what it was read as before stays in force.
    /// </summary>
    public Dossier WithProbe(IReadOnlyCollection<Reading> probed)
    {
        var again = probed.Select(r => r.Source).ToHashSet(StringComparer.Ordinal);
        var under = probed.Any(r => r.Key.StartsWith(Taken, StringComparison.Ordinal));
        var told = probed.Select(r => r.Key).ToHashSet(StringComparer.Ordinal);
        return From(
            Readings
                .Where(r =>
                    r.Origin != Origin.Probed
                    || !again.Contains(r.Source)
                    || (under && Own.Contains(r.Key) && !told.Contains(r.Key))
                )
                .Concat(probed)
        );
    }

    private const string Taken = "identity.taken";
    private static readonly string[] Own = ["identity.maker", "identity.model", "identity.serial", "identity.board"];

    /// <summary>This dossier with what a person entered or chose; an earlier word of the same origin gives way.</summary>
    public Dossier WithWord(Reading reading) =>
        From(Readings.Where(r => r.Key != reading.Key || r.Origin != reading.Origin).Append(reading));

    /// <summary>This dossier with what the work left of a fact: nothing that was known before holds any more.</summary>
    public Dossier WithWork(Reading left) => From(Readings.Where(r => r.Key != left.Key).Append(left));

    /// <summary>This dossier without a fact that ended with the work.</summary>
    public Dossier Without(string key) => From(Readings.Where(r => r.Key != key));

    /// <summary>This dossier without what people said of a fact; what was probed stays.</summary>
    public Dossier WithoutWord(string key) =>
        From(Readings.Where(r => r.Key != key || r.Origin is not (Origin.Entered or Origin.Chosen)));
}

/// <summary>Short questions to a set of facts.</summary>
public static class FactsExtensions
{
    /// <summary>The number under <paramref name="key"/>, or null when it is unknown.</summary>
    public static long? Number(this IFacts facts, string key) => (facts[key] as FactValue.Whole)?.Value;

    /// <summary>The text under <paramref name="key"/>, or null when it is unknown.</summary>
    public static string? Word(this IFacts facts, string key) => (facts[key] as FactValue.Text)?.Value;

    /// <summary>The set under <paramref name="key"/>, or null when it is unknown.</summary>
    public static FactValue.Words? Words(this IFacts facts, string key) => facts[key] as FactValue.Words;
}

/// <summary>Facts with some of them set otherwise: what a cure would make of a machine.</summary>
public sealed class Overlay(IFacts below, IReadOnlyDictionary<string, FactValue> set) : IFacts
{
    /// <inheritdoc/>
    public FactValue? this[string key] => set.TryGetValue(key, out var value) ? value : below[key];
}
