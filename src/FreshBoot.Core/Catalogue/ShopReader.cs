using FreshBoot.Core.Conditions;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the entries that a shop writes for itself: programs that people use, prices, the shop's own computers, and who
/// says what about the questions on which practitioners disagree.</summary>
internal static class ShopReader
{
    /// <summary>A program and what it asks for.</summary>
    public static ProgramEntry Program(PackNode node) =>
        new(
            node.Id(),
            node.Text("name"),
            node.Enum<Purpose>("purpose"),
            node.SystemIds("systems"),
            node.DayOrNull("releasedSince"),
            node.ConditionOrNull("needs") ?? new Condition.All([]),
            node.TextOrNull("needed"),
            node.Evidence()
        );

    /// <summary>A line of the price book.</summary>
    public static PriceEntry Price(PackNode node) =>
        new(
            node.Id(),
            node.Text("about"),
            node.Enum<PricePer>("per"),
            node.Number("money"),
            node.ConditionOrNull("when")
        )
        {
            System = node.Has("system") ? node.SystemId("system") : null,
        };

    /// <summary>What a kind of machine weighs.</summary>
    public static WeightEntry Weight(PackNode node) =>
        new(node.Id(), node.Text("about"), node.Number("grams"), node.ConditionOrNull("when"), node.Evidence());

    /// <summary>Another computer of the shop.</summary>
    public static ComputerEntry Computer(PackNode node) => new(node.Id(), node.Text("about"), node.SystemId("system"));

    /// <summary>Who says what about a question.</summary>
    public static SchoolEntry School(PackNode node)
    {
        var id = node.Id();
        var choice = Choices.All.FirstOrDefault(c => c.Key == id);
        if (choice is null)
            node.Fault("id", $"is no question; there are {Numbers.Join(Choices.All.Select(c => c.Key), "and")}");
        return new SchoolEntry(id, [.. node.Each("claims").Select(c => Claim(c, choice))]);
    }

    private static SchoolClaim Claim(PackNode node, Choice? choice)
    {
        var answer = node.Text("answer");
        if (choice is not null && choice.Answers.All(a => a.Value != answer))
            node.Fault(
                "answer",
                $"“{answer}” is no answer to it; there are {Numbers.Join(choice.Answers.Select(a => a.Value), "and")}"
            );
        return new SchoolClaim(answer, node.Text("says"), node.Evidence());
    }
}
