namespace FreshBoot.Core.Catalogue;

/// <summary>Reads what boot kits are made of: components, quirks, profiles of boards, and what a system asks of them.</summary>
internal static class KitReader
{
    /// <summary>A component.</summary>
    public static KitComponent Component(PackNode node)
    {
        var needs = node.Texts("needs");
        var after = node.Texts("after");
        node.Pass.Links.Component(node, node.Text("id"), needs, [.. node.Texts("excludes"), .. after], after);
        return new KitComponent(
            node.Id(),
            node.Text("name"),
            node.Enum<KitPart>("part"),
            node.Text("version"),
            node.Text("file")
        )
        {
            Tool = node.TextOrNull("tool"),
            Generations = node.Texts("generations"),
            Table = node.Has("table") ? node.Enum<PowerTableKind>("table") : null,
            Chips = node.Texts("chips"),
            Firmwares = node.Texts("firmwares"),
            Systems = node.SystemIds("systems"),
            LeastBuild = node.NumberOrNull("leastBuild") ?? 0,
            MostBuild = node.NumberOrNull("mostBuild") ?? 0,
            Needs = needs,
            Excludes = node.Texts("excludes"),
            After = after,
            Trial = node.Maybe("trial") is { } trial
                ? new KitTrial(trial.Text("key"), trial.Numbers("values"), trial.Text("hint"))
                : null,
            Samples = node.Texts("samples"),
        };
    }

    /// <summary>A quirk.</summary>
    public static KitQuirk Quirk(PackNode node) =>
        new(node.Id(), node.Text("key"), node.Text("why"))
        {
            Needed = node.Texts("needed"),
            Never = node.Texts("never"),
        };

    /// <summary>A profile of a board.</summary>
    public static KitProfile Profile(PackNode node) =>
        new(node.Id(), node.Text("board"), node.SystemId("system"), node.Number("build"), node.Evidence())
        {
            Settings = node.Members("settings")
                .ToDictionary(m => m.Name, m => m.Value.GetValue<int>(), StringComparer.Ordinal),
            Works = node.Texts("works"),
            WorksNot = node.Texts("worksNot"),
        };

    /// <summary>A patch after installation.</summary>
    public static AfterPatch Patch(PackNode node) =>
        new(
            node.Id(),
            node.Text("does"),
            node.Number("minutes"),
            node.Text("sign"),
            node.Texts("chips"),
            node.SystemIds("systems")
        );

    /// <summary>What a system asks of a kit.</summary>
    public static SystemKit System(PackNode node) =>
        new(
            node.Number("build"),
            [.. node.Texts("parts").Select(PackNode.Parse<KitPart>)],
            node.Number("leastGraphics"),
            node.Texts("lacks"),
            node.Has("steppingStone") ? node.SystemId("steppingStone") : null,
            node.TextOrNull("steppingWhy")
        )
        {
            OwnMaker = node.TextOrNull("ownMaker"),
            CareMinutesPerYear = node.NumberOrNull("careMinutesPerYear") ?? 0,
            OwnParts = [.. node.Texts("ownParts").Select(PackNode.Parse<KitPart>)],
        };
}
