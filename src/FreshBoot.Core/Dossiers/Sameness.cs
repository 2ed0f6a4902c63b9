using System.Text.Json.Serialization;

namespace FreshBoot.Core.Dossiers;

/// <summary>Whether a probe is one of the machine that it came in for.</summary>
[JsonConverter(typeof(CamelCaseNames<Likeness>))]
public enum Likeness
{
    /// <summary>Nothing speaks against it.</summary>
    Same,

    /// <summary>Something that stays in a machine agrees, and something else does not: a person says what was changed.</summary>
    Asked,

    /// <summary>Nothing agrees of what only one machine has.</summary>
    Foreign,
}

/// <summary>A probe held against the dossier of the machine that it is said to be of.</summary>
/// <param name="Likeness">Whether it is taken.</param>
/// <param name="Proved">Whether a serial number or an address that stays in the machine agrees. Without one nothing is proved.</param>
/// <param name="Differs">What differs, a line each: what it is, and what it was.</param>
/// <param name="Changed">What would have been changed, if it is the same machine all the same: "another board".</param>
public sealed record Sameness(
    Likeness Likeness,
    bool Proved,
    IReadOnlyList<string> Differs,
    IReadOnlyList<string> Changed
)
{
    /// <summary>What only one machine has and what stays in it; a drive has a serial too, and goes from one to another.</summary>
    private static readonly (string Key, string Changed)[] Body =
    [
        ("identity.serial", "another casing"),
        ("identity.boardSerial", "another board"),
        ("network.addresses", "other network cards"),
    ];

    /// <summary>What many machines have: it proves nothing where it agrees, and tells much where it does not.</summary>
    private static readonly (string Key, string Changed)[] Kind =
    [
        ("identity.model", "another identity"),
        ("identity.board", "another board"),
        ("cpu.model", "another processor"),
    ];

    /// <summary>Holds a probe against a dossier.</summary>
    /// <param name="known">The machine as it was known before.</param>
    /// <param name="probed">What came in.</param>
    /// <param name="mark">What is said of a serial number of the casing.</param>
    /// <param name="given">Whether the shop gave this machine an identity that shows a value under a key.</param>
    public static Sameness Of(
        IFacts known,
        IFacts probed,
        Func<string, SerialMark> mark,
        Func<string, string, bool> given
    )
    {
        var casing = probed.Word("identity.serial") is { } serial ? mark(serial) : SerialMark.Counts;
        var marks = Body.Where(b => b.Key != "identity.serial" || casing == SerialMark.Counts)
            .Select(b => (b.Key, b.Changed, Agrees: Agrees(Words(known, b.Key), Words(probed, b.Key))))
            .ToList();
        var drives = Agrees(Drives(known), Drives(probed));
        // A machine that took another identity shows that one's model and board.
        var kinds = Kind.Where(k => probed.Word(k.Key) is not { } value || !given(k.Key, value))
            .Select(k => (k.Key, k.Changed, Agrees: Agrees(Words(known, k.Key), Words(probed, k.Key))))
            .ToList();

        var agree = marks.Any(m => m.Agrees == true);
        var differ = marks.Any(m => m.Agrees == false);
        var likeness =
            agree ? (differ ? Likeness.Asked : Likeness.Same)
            : differ ? (drives == true ? Likeness.Asked : Likeness.Foreign)
            : kinds.Any(k => k.Agrees == false) ? (drives == true ? Likeness.Asked : Likeness.Foreign)
            : drives == false ? Likeness.Asked
            : Likeness.Same;
        var differs = marks.Concat(kinds).Where(m => m.Agrees == false).ToList();
        return new Sameness(
            likeness,
            agree && !differ,
            [
                .. differs.Select(d => Difference(known, probed, d.Key)),
                .. drives == false
                    ?
                    [
                        $"Drive: serial {Numbers.Join(Drives(probed), "and")}, and it was {Numbers.Join(Drives(known), "and")}",
                    ]
                    : Array.Empty<string>(),
            ],
            [
                .. differs
                    .Select(d => d.Changed)
                    .Concat(drives == false ? ["another drive"] : [])
                    .Distinct(StringComparer.Ordinal),
            ]
        );
    }

    private static string Difference(IFacts known, IFacts probed, string key) =>
        $"{FactRegistry.Get(key).Label}: {Numbers.Join(Words(probed, key), "and")}, and it was {Numbers.Join(Words(known, key), "and")}";

    /// <summary>Whether two sets have something in common; null where one of them is empty: nobody can tell.</summary>
    private static bool? Agrees(string[] known, string[] probed) =>
        known.Length == 0 || probed.Length == 0
            ? null
            : known.Intersect(probed, StringComparer.OrdinalIgnoreCase).Any();

    private static string[] Words(IFacts facts, string key) =>
        facts[key] switch
        {
            FactValue.Words words => [.. words.Sorted],
            FactValue.Text { Value.Length: > 0 } text => [text.Value],
            _ => [],
        };

    private static string[] Drives(IFacts facts) =>
        [.. Enumerable.Range(0, 10).Select(i => facts.Word($"storage.{i}.serial")).OfType<string>()];
}

/// <summary>What a serial number of the casing says of a machine.</summary>
public enum SerialMark
{
    /// <summary>It is one machine's alone.</summary>
    Counts,

    /// <summary>Several machines have it: it tells none of them from the others.</summary>
    Shared,

    /// <summary>The shop made it, for this machine.</summary>
    Given,
}
