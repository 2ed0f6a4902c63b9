using System.Text.Json.Serialization;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Soundness;

/// <summary>How sound a part is, best first.</summary>
[JsonConverter(typeof(CamelCaseNames<Verdict>))]
public enum Verdict
{
    /// <summary>Nobody asked it.</summary>
    Unknown,

    /// <summary>Sound.</summary>
    Sound,

    /// <summary>Worn or doubtful: goes, but look again.</summary>
    Watch,

    /// <summary>Failing: replace it.</summary>
    Replace,
}

/// <summary>Why a part has its verdict.</summary>
/// <param name="Verdict">What this reason alone would make of it.</param>
/// <param name="Text">The reason in numbers: "24 sectors wait to be reallocated".</param>
/// <param name="Source">Where the rule comes from.</param>
public sealed record Reason(Verdict Verdict, string Text, string Source);

/// <summary>A drive's verdict with its reasons, worst first.</summary>
/// <param name="Index">The number in its fact keys.</param>
/// <param name="Model">Its model, null while unknown.</param>
/// <param name="SizeBytes">Its size in bytes, null while unknown.</param>
/// <param name="Verdict">The worst of its reasons; unknown where none of its numbers was read.</param>
/// <param name="Reasons">What speaks for it.</param>
public sealed record DriveSoundness(
    int Index,
    string? Model,
    long? SizeBytes,
    Verdict Verdict,
    IReadOnlyList<Reason> Reasons
);

/// <summary>
/// The rules for drives, as a table. What ATA drives count is left to their makers by the standard; the numbers of the
/// attributes are common use, and the thresholds are rules of the house.
/// </summary>
public static class DriveRules
{
    private const string Common =
        "rule of the house 2026-11, on attributes in common use (ACS-3 leaves them to makers)";
    private const string Nvme = "NVM Express Base Specification 1.4, section 5.14.1.2";

    /// <summary>A rule on a number of a drive.</summary>
    /// <param name="Fact">The last part of its fact key.</param>
    /// <param name="Watch">Watch from this number on.</param>
    /// <param name="Replace">Replace from this number on.</param>
    /// <param name="Says">What the number counts, after the number.</param>
    /// <param name="Source">Where the rule comes from.</param>
    /// <param name="OnlyDisks">Whether it is about spinning disks only.</param>
    public sealed record Rule(
        string Fact,
        long Watch,
        long Replace,
        string Says,
        string Source,
        bool OnlyDisks = false
    );

    /// <summary>The table.</summary>
    public static IReadOnlyList<Rule> Table { get; } =
    [
        new("uncorrectable", 1, 1, "uncorrectable sectors", $"attribute 198: {Common}"),
        new("pending", 1, 10, "sectors wait to be reallocated", $"attribute 197: {Common}"),
        new("reallocated", 1, 50, "reallocated sectors", $"attribute 5: {Common}"),
        new("mediaErrors", 1, 10, "media errors", $"{Nvme}; thresholds of the house"),
        new("wearPercent", 80, 100, "% worn", $"{Nvme}: 100 is the end that the maker estimated"),
        new("linkErrors", 100, long.MaxValue, "errors on the cable: try another cable", $"attribute 199: {Common}"),
        new("hours", 40_000, long.MaxValue, "hours powered on", "rule of the house 2026-11", OnlyDisks: true),
    ];

    /// <summary>Judges drive <paramref name="index"/> by the facts.</summary>
    public static DriveSoundness Judge(IFacts facts, int index)
    {
        var reasons = new List<Reason>();
        string Key(string fact) => $"storage.{index}.{fact}";

        foreach (var (fact, says) in new[] { ("ownVerdict", "own verdict"), ("selfTest", "last self-test") })
            if (facts.Word(Key(fact)) is { } word)
                reasons.Add(
                    new Reason(
                        word == "failed" ? Verdict.Replace : Verdict.Sound,
                        $"Its {says}: {word}",
                        "the drive itself (ACS-3, SMART RETURN STATUS and self-test log; NVMe self-test log)"
                    )
                );
        if (facts.Number(Key("warnings")) is { } bits)
            reasons.Add(
                new Reason(
                    bits == 0 ? Verdict.Sound : Verdict.Replace,
                    bits == 0 ? "No critical warning" : $"Critical warning: {Warnings(bits)}",
                    Nvme
                )
            );
        if (facts.Number(Key("sparePercent")) is { } spare && facts.Number(Key("spareFloorPercent")) is { } floor)
            reasons.Add(
                new Reason(
                    spare < floor ? Verdict.Replace
                        : spare < floor + 10 ? Verdict.Watch
                        : Verdict.Sound,
                    $"{spare} % spare left, at least {floor} % wanted",
                    Nvme
                )
            );
        var flash = facts.Word(Key("kind")) == "flash";
        foreach (var rule in Table.Where(r => !(r.OnlyDisks && flash)))
            if (facts.Number(Key(rule.Fact)) is { } number)
                reasons.Add(
                    new Reason(
                        number >= rule.Replace ? Verdict.Replace
                            : number >= rule.Watch ? Verdict.Watch
                            : Verdict.Sound,
                        Say(number, rule.Says),
                        rule.Source
                    )
                );
        // Hours alone say how old it is, not that it is sound.
        var asked = reasons.Exists(r => !r.Text.EndsWith("hours powered on", StringComparison.Ordinal));
        var verdict = asked ? reasons.Max(r => r.Verdict) : Verdict.Unknown;
        return new DriveSoundness(
            index,
            facts.Word(Key("model")),
            facts.Number(Key("sizeBytes")),
            verdict,
            [.. reasons.OrderByDescending(r => r.Verdict)]
        );
    }

    /// <summary>A fact that the verdict of a drive rests on, or null where there is none.</summary>
    internal static string? Basis(Dossier facts, int index) =>
        Table
            .Select(r => r.Fact)
            .Prepend("ownVerdict")
            .Append("selfTest")
            .Append("warnings")
            .Append("sparePercent")
            .Select(fact => $"storage.{index}.{fact}")
            .FirstOrDefault(key => facts[key] is not null);

    /// <summary>The verdict as the fact's value.</summary>
    internal static string Word(this Verdict verdict) => verdict.ToString().ToLowerInvariant();

    private static string Say(long number, string what) =>
        what.StartsWith('%') ? $"{number} {what}"
        : number == 0 ? $"No {what.Split(':')[0].Replace("sectors wait", "sector waits", StringComparison.Ordinal)}"
        : $"{number} {what}";

    /// <summary>The bits of byte 0 of the log.</summary>
    private static string Warnings(long bits)
    {
        string[] names =
        [
            "spare below its threshold",
            "too hot or too cold",
            "reliability degraded",
            "read only",
            "memory backup failed",
            "persistent memory unreliable",
        ];
        return Numbers.Join(names.Where((_, i) => (bits >> i & 1) == 1).DefaultIfEmpty($"bits {bits}"), "and");
    }
}
