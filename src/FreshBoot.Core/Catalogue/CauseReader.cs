namespace FreshBoot.Core.Catalogue;

/// <summary>Reads causes and checks, and what in them no fault finder could reckon with.</summary>
internal static class CauseReader
{
    /// <summary>The cause that an object of a pack describes.</summary>
    public static CauseEntry Cause(PackNode plain)
    {
        var node = plain with { OfRoute = true };
        var mend = node.Below("mend");
        var cause = new CauseEntry(
            node.Id(),
            node.Enum<Rung>("rung"),
            node.Number("weight"),
            node.Text("about"),
            new CauseMend(
                mend.Text("text"),
                mend.Number("minutes"),
                mend.TextOrNull("caution"),
                mend.Flag("losesData"),
                mend.Flag("ends")
            ),
            node.Evidence()
        )
        {
            Shifts =
            [
                .. node.Each("shifts")
                    .Select(s => new CauseShift(s.ConditionOrNull("when")!, s.Number("percent"), s.Text("why"))),
            ],
            Asks = node.ConditionOrNull("asks"),
            Has = node.ConditionOrNull("has"),
            Did = node.ConditionOrNull("did"),
            With = [.. node.Each("with").Select(w => new CausePair(w.Text("cause"), w.Number("perMille")))],
            Says = [.. node.Each("says").Select(s => new CauseMessage(s.Text("text"), s.Number("times")))],
        };
        if (cause.Mend is { LosesData: true, Caution: null })
            mend.Fault("caution", "what erases something says so in a caution");
        node.Pass.Links.Cause(node, cause);
        return cause;
    }

    /// <summary>The check that an object of a pack describes.</summary>
    public static CheckEntry Check(PackNode node)
    {
        var check = new CheckEntry(
            node.Id(),
            [.. node.Texts("rungs").Select(PackNode.Parse<Rung>)],
            node.Number("minutes"),
            node.EnumOr("risk", CheckRisk.None),
            node.Text("text"),
            node.TextOrNull("caution"),
            [
                .. node.Each("shows")
                    .Select(s => new CheckShown(
                        s.Text("id"),
                        s.Text("text"),
                        s.Number("else"),
                        s.Members("causes")
                            .ToDictionary(c => c.Name, c => c.Value.GetValue<int>(), StringComparer.Ordinal)
                    )),
            ]
        )
        {
            Before = node.Flag("before"),
        };
        if (check.Shows.Select(s => s.Id).Distinct(StringComparer.Ordinal).Count() != check.Shows.Count)
            node.Fault("shows", "two of what it may show have the same id");
        if (check.Risk == CheckRisk.Erases && check.Caution is null)
            node.Fault("caution", "what erases something says so in a caution");
        node.Pass.Links.Check(node, check);
        return check;
    }
}
