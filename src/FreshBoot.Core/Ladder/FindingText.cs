using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>Puts findings into the words of a good colleague: short, with numbers and units.</summary>
public static class FindingText
{
    /// <summary>A value as people read it: "6 GiB", "128 GB", "UEFI, 64-bit".</summary>
    public static string Show(string key, FactValue value)
    {
        var definition = FactRegistry.Find(key);
        return value switch
        {
            FactValue.Whole whole when definition?.Unit == "MiB" => Quantity.Memory(whole.Value),
            FactValue.Whole whole when definition?.Unit == "B" => Quantity.Drive(whole.Value),
            FactValue.Whole whole when definition?.Key == "graphics.0.class" => $"class {whole.Value}",
            FactValue.Whole whole when key == "cpu.wordBits" => $"{whole.Value}-bit",
            FactValue.Words words => $"{words.Count} flags",
            FactValue.Text text => definition?.Choices.FirstOrDefault(c => c.Value == text.Value)?.Meaning
                ?? text.Value,
            _ => value.ToString(),
        };
    }

    /// <summary>What a requirement asks for.</summary>
    internal static string Needed(Requirement requirement) => requirement.Says ?? Needed(requirement.Needs);

    internal static string Needed(Condition condition) =>
        condition switch
        {
            Condition.AtLeast least => Show(least.Fact, least.Least),
            Condition.OneOf one => Numbers.Join(one.Values.Select(v => Show(one.Fact, v)), "or"),
            Condition.Has has => string.Join(", ", has.Words),
            Condition.Driven => "a driver for each",
            Condition.All all => Numbers.Join(all.Of.Select(Needed), "and"),
            Condition.Any any => Numbers.Join(any.Of.Select(Needed).Distinct(), "or"),
            _ => "",
        };

    /// <summary>What the machine has of it; empty where nothing is known.</summary>
    internal static string Found(Condition condition, IFacts facts)
    {
        if (condition is Condition.Driven driven)
            return string.Join(
                ", ",
                Enumerable.Range(0, 10).Select(i => facts.Word($"{driven.Group}.{i}.model")).OfType<string>()
            );
        if (condition is Condition.Any any)
            return any.Of.Select(c => Found(c, facts)).FirstOrDefault(f => f.Length > 0) ?? "";
        return string.Join(", ", condition.Keys.Where(k => facts[k] is not null).Select(k => Found(k, facts)));
    }

    private static string Found(string key, IFacts facts)
    {
        var shown = Show(key, facts[key]!);
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

    /// <summary>The whole finding.</summary>
    internal static string Write(Finding finding, Requirement requirement, IFacts facts)
    {
        var needed = Needed(requirement);
        var found = Found(requirement.Needs, facts);
        if (finding.LiftedBy is not null)
            return $"Asks for {needed}, has {OrNothing(found)}: lifted. {requirement.IfLifted}".TrimEnd();
        var mildest = finding.Cures.Count > 0 ? finding.Cures[0] : null;
        return finding.Outcome switch
        {
            Outcome.Clear => Clear(requirement, needed, found),
            Outcome.Unknown => $"Needs {needed}. {Open(finding, facts)}",
            Outcome.Caveat when requirement.Advisory =>
                $"Warns below {needed}; has {OrNothing(found)}. The notice can be passed.",
            Outcome.Caveat => $"Runs, but {needed} is comfortable; has {OrNothing(found)}.{Mend(mildest)}",
            Outcome.Wall => $"{Short(requirement, needed, found)}{Missing(requirement, facts)} {Wall(requirement)}",
            _ => $"{Short(requirement, needed, found)}{Mend(mildest)}",
        };
    }

    private static string Clear(Requirement requirement, string needed, string found) =>
        found.Length == 0 ? $"Needs {needed}."
        : requirement.Needs is Condition.AtLeast or Condition.Any { Of: [Condition.AtLeast, ..] }
            ? $"{Upper(found)}; {needed} asked."
        : $"{Upper(found)}.";

    /// <summary>What people answer about a machine is a state, not an amount that it has.</summary>
    private static string Short(Requirement requirement, string needed, string found) =>
        requirement.Rung is Rung.Release or Rung.Parts && found.Length > 0
            ? $"Needs {needed}; here: {found}."
            : $"Needs {needed}, has {OrNothing(found)}.";

    private static string Upper(string text) =>
        text.StartsWith("x86", StringComparison.Ordinal) ? text : char.ToUpperInvariant(text[0]) + text[1..];

    private static string OrNothing(string found) => found.Length == 0 ? "nothing of it" : found;

    private static string Mend(Cure? cure) =>
        cure is null ? ""
        : cure.Money == 0 ? $" {cure.Does}."
        : $" {cure.Does} ({Numbers.Money(cure.Money)}).";

    private static string Open(Finding finding, IFacts facts)
    {
        var key = finding.UndecidedBy[0];
        var definition = FactRegistry.Find(key);
        if (facts[key] is { } value)
            return definition is { Form: FactForm.Choice }
                ? $"Now: {Show(key, value)}."
                : $"“{Show(key, value)}” is not in the catalogue.";
        return $"Nobody has measured: {FactRegistry.Label(key)}. {definition?.HowToMeasure}".TrimEnd();
    }

    private static string Wall(Requirement requirement) =>
        requirement switch
        {
            { Id: "locks" } => "Only the owner can take it off, or the maker on proof of ownership: never go round it.",
            { Id: "managed" } => "Only the organisation can release it: write to it with both serial numbers.",
            { Id: "encryption" } => "Get the recovery key from the owner first, or have the data given up.",
            { Rung: Rung.Release } => "Stop here and ask the owner.",
            { Kind: RequirementKind.Gate } => "Nothing in the catalogue gets it through this gate.",
            _ => "Nothing lifts it.",
        };

    /// <summary>For an instruction level, the first feature that is missing: it is what the crash will name.</summary>
    private static string Missing(Requirement requirement, IFacts facts) =>
        requirement.Needs is Condition.AtLeast { Fact: "cpu.level", Least: FactValue.Text level }
        && facts.Words("cpu.flags") is { } flags
        && CpuLevel.MissingFor(level.Value, flags) is [var first, ..]
            ? $" First missing: {first.Name}."
            : "";
}
