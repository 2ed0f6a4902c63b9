namespace FreshBoot.Core.Catalogue;

/// <summary>Reads what can be practised, and what in it nobody could come to a good end with.</summary>
internal static class ScenarioReader
{
    /// <summary>The scenario that an object of a pack describes.</summary>
    public static ScenarioEntry Read(PackNode node)
    {
        var scenario = new ScenarioEntry(
            node.Id(),
            node.Text("title"),
            node.Text("about"),
            node.Text("teaches"),
            node.Text("tag"),
            node.SystemId("system"),
            node.Enum<School>("school"),
            node.Settings("facts")!,
            node.Text("from"),
            node.Text("to"),
            node.Evidence()
        )
        {
            Beside = node.Texts("beside"),
            Fault = node.Maybe("fault") is { } fault
                ? new ScenarioFault(
                    fault.Text("cause"),
                    fault.Text("at"),
                    string.Join('\n', fault.Texts("shows")),
                    fault.Texts("otherwise")
                )
                : null,
            Moments =
            [
                .. node.Each("moments")
                    .Select(m => new ScenarioMoment(
                        m.Text("at"),
                        m.Text("sees"),
                        m.Text("asks"),
                        [
                            .. m.Each("choices")
                                .Select(c => new ScenarioChoice(
                                    c.Text("text"),
                                    c.Flag("right"),
                                    c.Number("minutes"),
                                    c.NumberOrNull("harm") ?? 0,
                                    c.Text("says"),
                                    c.Flag("ends")
                                )),
                        ]
                    )),
            ],
        };
        var moments = node.Each("moments").ToArray();
        for (var i = 0; i < moments.Length; i++)
        {
            var choices = scenario.Moments[i].Choices;
            if (choices.Count(c => c.Right) != 1)
                moments[i].Fault("choices", "exactly one of them is right");
            if (choices.Select(c => c.Text).Distinct(StringComparer.Ordinal).Count() != choices.Count)
                moments[i].Fault("choices", "two of them read alike");
            if (choices.Any(c => c.Right && c.Harm > 0))
                moments[i].Fault("choices", "what is right does no harm");
        }
        if (scenario.Beside.Contains(scenario.Tag))
            node.Fault("beside", "the machine does not stand beside itself");
        node.Pass.Links.Scenario(node, scenario);
        return scenario;
    }
}
