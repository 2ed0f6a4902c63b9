namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the entry of a cure, and of a board, which brings one with it.</summary>
internal static class CureReader
{
    /// <summary>The cure that an object of a pack describes.</summary>
    public static Cure Read(PackNode node)
    {
        var lifts = node.GateIds("lifts");
        var after = node.CureIds("after");
        node.Pass.Links.Order(node, node.Text("id"), after);
        return new Cure(
            node.Id(),
            node.Enum<Outcome>("kind"),
            node.Enum<Rung>("rung"),
            node.Text("does"),
            node.ConditionOrNull("needs"),
            node.Settings("sets"),
            lifts.Length == 0 ? null : lifts,
            null,
            node.TextOrNull("replaces"),
            node.Has("adds") ? [.. node.Each("adds").Select(Adds)] : null,
            node.NumberOrNull("money") ?? 0,
            node.Number("handsOnMinutes"),
            node.NumberOrNull("waitMinutes") ?? 0,
            node.TextOrNull("how"),
            node.TextOrNull("caution"),
            node.TextOrNull("brief")
        )
        {
            Conflicts = node.CureIds("conflicts"),
            After = after,
            AfterInstall = node.Flag("afterInstall"),
            RunsOn = node.EnumOr("runsOn", RunsOn.Machine),
            RunsWith = node.Has("runsWith") ? node.SystemId("runsWith") : null,
            FailPerMille = node.NumberOrNull("failPerMille") ?? 0,
            HarmPerMille = node.NumberOrNull("harmPerMille") ?? 0,
            Irreversible = node.Flag("irreversible"),
            Loader = node.EnumOr("loader", LoaderSignatures.All),
        };
    }

    /// <summary>The board that an object of a pack describes: its firmware can be replaced, and so other systems can start.</summary>
    public static BoardEntry Board(PackNode node)
    {
        var payloads = node.Has("payloads") ? node.Texts("payloads") : [PayloadEntry.Full];
        foreach (var payload in payloads)
            node.Pass.Links.Payload(node, payload);
        return new BoardEntry(
            node.Id(),
            node.Text("name"),
            node.Enum<WriteProtection>("protection"),
            node.Text("payload")
        )
        {
            Generations = node.Texts("generations"),
            Revisions = node.Texts("revisions"),
            ChipBytes = node.Long("chipBytes"),
            Keeps = node.Texts("keeps"),
            Payloads = payloads,
            HardwareId = node.TextOrNull("hardwareId"),
            Sign = node.TextOrNull("sign"),
        };
    }

    /// <summary>The payload that an object of a pack describes.</summary>
    public static PayloadEntry Payload(PackNode node) =>
        new(node.Id(), node.Text("name"), node.Text("kind"), node.Text("bootMenu"), node.TextOrNull("setup"))
        {
            Adds = [.. node.Each("adds").Select(Adds)],
            HandsOnMinutes = node.Number("handsOnMinutes"),
            WaitMinutes = node.NumberOrNull("waitMinutes") ?? 0,
            FailPerMille = node.NumberOrNull("failPerMille") ?? 0,
            HarmPerMille = node.NumberOrNull("harmPerMille") ?? 0,
        };

    private static SideEffect Adds(PackNode node) =>
        new(
            node.Enum<Rung>("rung"),
            node.Enum<Outcome>("outcome"),
            node.Text("text"),
            node.EnumOr("kind", SideEffectKind.Other)
        )
        {
            When = node.ConditionOrNull("when"),
            IfUnknown = node.Flag("ifUnknown"),
        };
}
