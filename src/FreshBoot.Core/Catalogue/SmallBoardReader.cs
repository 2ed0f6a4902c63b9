namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the entries of small boards.</summary>
internal static class SmallBoardReader
{
    /// <summary>A small board.</summary>
    public static SmallBoard Read(PackNode node) =>
        new(
            node.Id(),
            node.Text("name"),
            node.Number("supplyMilliamps"),
            node.NumberOrNull("largeSupplyMilliamps") ?? node.Number("supplyMilliamps"),
            node.NumberOrNull("assembleMinutes") ?? 20
        )
        {
            Pattern = node.Pattern("pattern"),
            Filters = node.Texts("filters"),
            Ports =
            [
                .. node.Each("ports")
                    .Select(p => new BoardPort(p.Text("name"), p.Flag("firstStage"), p.TextOrNull("advice"))),
            ],
            Storage = node.Texts("storage"),
            CapMiB = node.NumberOrNull("capMiB") ?? 0,
            CapMenu = node.TextOrNull("capMenu"),
            Keys = [.. node.Each("keys").Select(Key)],
            Builds =
            [
                .. node.Each("builds")
                    .Select(b => new BoardBuild(b.SystemId("system"), b.NumberOrNull("build") ?? 0, b.Evidence())),
            ],
            Fault = node.Maybe("fault") is { } fault
                ? new BoardFault(fault.Text("sees"), fault.Texts("commands"), fault.Text("then"))
                : null,
            Drivers = node.TextOrNull("drivers"),
        };

    private static BoardKey Key(PackNode node)
    {
        var key = new BoardKey(node.Text("key"), node.Text("about"), node.TextOrNull("unit"))
        {
            Least = node.NumberOrNull("least"),
            Most = node.NumberOrNull("most"),
            Usual = node.NumberOrNull("usual"),
            HeatFrom = node.NumberOrNull("heatFrom"),
            SupplyFrom = node.NumberOrNull("supplyFrom"),
            Words = node.Texts("words"),
        };
        if (key.Least > key.Most)
            node.Fault("least", "the least value is larger than the largest");
        return key;
    }
}
