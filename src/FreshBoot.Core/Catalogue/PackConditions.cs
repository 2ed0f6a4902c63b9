using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the conditions of entries, and says what in them can never hold.</summary>
internal static class PackConditions
{
    /// <summary>A condition below an entry, or null.</summary>
    public static Condition? ConditionOrNull(this PackNode node, string name) =>
        node.Maybe(name) is { } condition ? Read(condition) : null;

    /// <summary>A condition that the schema demands.</summary>
    public static Condition Condition(this PackNode node, string name) => Read(node.Below(name));

    private static Condition Read(PackNode node)
    {
        if (node.Has("all"))
            return new Condition.All([.. node.Each("all").Select(Read)]);
        if (node.Has("any"))
            return new Condition.Any([.. node.Each("any").Select(Read)]);
        if (node.Maybe("not") is { } not)
        {
            // A cure is sought for what does not hold; of what has to fail there is none.
            if (!node.OfRoute)
                node.Fault("not", "only conditions of procedures may say “not”");
            return new Condition.Not(Read(not));
        }
        if (node.Maybe("unless") is { } unless)
            return new Condition.Any([Read(node.Below("that")), Read(unless)]);
        if (node.TextOrNull("driven") is { } group)
            return new Condition.Driven(group);

        var fact = node.Text("fact");
        if (node.Key(fact) is not { } definition)
        {
            node.Fault("fact", $"there is no fact key “{fact}”");
            return new Condition.All([]);
        }
        if (node.Json["atLeast"] is { } least)
        {
            if (!definition.Ordered)
                node.Fault("atLeast", $"“at least” makes no sense of {fact}: its values have no order");
            return new Condition.AtLeast(fact, node.Value(fact, least, "atLeast"));
        }
        if (node.Has("has"))
        {
            if (definition.Form != FactForm.Words)
                node.Fault("has", $"{fact} is no set of words");
            return new Condition.Has(fact, node.Texts("has"));
        }
        return new Condition.OneOf(fact, Values("oneOf"), Values("open"));

        List<FactValue> Values(string name) =>
            [.. (node.Json[name]?.AsArray() ?? []).Select((v, i) => node.Value(fact, v!, $"{name}/{i}"))];
    }
}
