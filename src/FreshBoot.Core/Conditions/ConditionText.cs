using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Conditions;

/// <summary>Conditions in words, with numbers and units.</summary>
public static class ConditionText
{
    /// <summary>What a condition asks for.</summary>
    public static string Needed(Condition condition) =>
        condition switch
        {
            Condition.AtLeast least => FactText.Show(least.Fact, least.Least),
            Condition.OneOf one => Numbers.Join(one.Values.Select(v => FactText.Show(one.Fact, v)), "or"),
            Condition.Has has => string.Join(", ", has.Words),
            Condition.Driven => "a driver for each",
            Condition.All all => Numbers.Join(all.Of.Select(Needed), "and"),
            Condition.Any any => Numbers.Join(any.Of.Select(Needed).Distinct(), "or"),
            _ => "",
        };

    /// <summary>What the machine has of it; empty where nothing is known.</summary>
    public static string Found(Condition condition, IFacts facts)
    {
        if (condition is Condition.Driven driven)
            return string.Join(
                ", ",
                Enumerable.Range(0, 10).Select(i => facts.Word($"{driven.Group}.{i}.model")).OfType<string>()
            );
        // Of a list of words the asked one is told, or that it is missing: nobody reads how long the list is.
        if (condition is Condition.Has { Fact: var list, Words: var asked })
            return facts.Words(list) is { } words
                ? string.Join(", ", asked.Select(w => words.Has(w) ? w : $"no {w}"))
                : "";
        if (condition is Condition.All all)
            return string.Join(
                ", ",
                all.Of.Select(c => Found(c, facts)).Where(f => f.Length > 0).Distinct(StringComparer.Ordinal)
            );
        if (condition is Condition.Any any)
            return any.Of.Select(c => Found(c, facts)).FirstOrDefault(f => f.Length > 0) ?? "";
        return string.Join(", ", condition.Keys.Where(k => facts[k] is not null).Select(k => Found(k, facts)));
    }

    private static string Found(string key, IFacts facts)
    {
        var shown = FactText.Show(key, facts[key]!);
        return key switch
        {
            "memory.installedMiB"
                when facts.Number("memory.slots") is { } slots && facts.Number("memory.slotsUsed") is { } used => slots
            == 1
                ? $"{shown} in its only slot"
                : $"{shown} in {Numbers.Word(used)} of {Numbers.Word(slots)} slots",
            "cpu.generation" when facts.Word("cpu.maker") is { } maker => $"{maker} {shown}",
            "tpm.version" => $"TPM: {shown}",
            "firmware.secureBoot" => $"Secure Boot: {shown}",
            "firmware.startedBy" => $"started by {shown}",
            _ => shown,
        };
    }
}
