using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Ladder;

/// <summary>Puts findings into the words of a good colleague: short, with numbers and units.</summary>
public static class FindingText
{
    /// <summary>The whole finding.</summary>
    internal static string Write(Finding finding, Requirement requirement, IFacts facts)
    {
        var needed = requirement.Needed;
        var found = ConditionText.Found(requirement.Needs, facts);
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
                ? $"Now: {FactText.Show(key, value)}."
                : $"“{FactText.Show(key, value)}” is not in the catalogue.";
        return $"Nobody has measured: {FactRegistry.Label(key)}. {definition?.HowToMeasure}".TrimEnd();
    }

    private static string Wall(Requirement requirement) =>
        requirement switch
        {
            { Id: "locks" } => "Only the owner can take it off, or the maker on proof of ownership: never go round it.",
            { Id: "managed" } => "Only the organisation can release it: write to it with both serial numbers.",
            { Id: "encryption" } => "Get the recovery key from the owner first, or have the data given up.",
            { Rung: Rung.Release } => "Stop here and ask the owner.",
            { Kind: var kind } when kind.OnlyChecked() => "Nothing in the catalogue gets it through this gate.",
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
