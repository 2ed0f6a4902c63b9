namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the entries that say what machines are made of: models, makers, processors, devices, donors, modules.</summary>
internal static class HardwareReader
{
    /// <summary>A line of machines.</summary>
    public static ModelEntry Model(PackNode node) =>
        new(
            node.Id(),
            node.Pattern("pattern"),
            node.NumberOrNull("memoryGroup"),
            node.TextOrNull("name") ?? node.Text("id"),
            node.Settings("typical") ?? []
        )
        {
            Slots =
            [
                .. node.Each("slots")
                    .Select(s => new DriveSlot(
                        s.Text("name"),
                        s.Text("form"),
                        s.Texts("buses"),
                        s.Numbers("lengthsMm"),
                        s.TextOrNull("key"),
                        s.TextOrNull("shares"),
                        s.TextOrNull("note")
                    )),
            ],
            Notes = [.. node.Each("notes").Select(n => new BoardNote(n.Enum<BoardNoteAbout>("about"), n.Text("text")))],
        };

    /// <summary>An adapter between a drive and a place of another sort.</summary>
    public static AdapterEntry Adapter(PackNode node) =>
        new(
            node.Id(),
            node.Text("name"),
            node.Text("form"),
            node.Text("bus"),
            node.Text("slotForm"),
            node.Text("slotBus"),
            node.Number("money"),
            node.TextOrNull("note")
        );

    /// <summary>A maker's keys, and the names of its settings.</summary>
    public static MakerEntry Maker(PackNode node) =>
        new(
            node.Id(),
            node.Text("maker"),
            node.Text("bootMenu"),
            node.TextOrNull("setup"),
            node.TextOrNull("setupFromSystem"),
            [
                .. node.Each("switches")
                    .Select(s => new SwitchLabel(
                        s.Text("switch"),
                        s.Text("label"),
                        s.TextOrNull("page"),
                        s.TextOrNull("since"),
                        s.Flag("grey")
                    )),
            ],
            node.EnumOr("updateBy", UpdateWay.None)
        );

    /// <summary>A processor's generation, by its name.</summary>
    public static ProcessorEntry Processor(PackNode node) =>
        new(node.Id(), node.Pattern("pattern"), node.Text("maker"), node.Text("generation"));

    /// <summary>A device and the systems that drive it.</summary>
    public static DeviceEntry Device(PackNode node)
    {
        var drivers = new Dictionary<string, DriverState>(StringComparer.Ordinal);
        foreach (var (system, state) in node.Members("drivers"))
        {
            node.Pass.Links.System(node, $"drivers/{system}", system);
            drivers[system] = PackNode.Parse<DriverState>(state.GetValue<string>());
        }
        return new DeviceEntry(
            node.Id(),
            node.Text("name"),
            node.Text("group"),
            node.Pattern("pattern"),
            node.NumberOrNull("graphicsClass"),
            drivers,
            node.TextOrNull("otherwise") is { } otherwise ? PackNode.Parse<DriverState>(otherwise) : null
        );
    }

    /// <summary>A model whose identity may be taken.</summary>
    public static DonorModel Donor(PackNode node) =>
        new(
            node.Id(),
            node.Text("maker"),
            node.Text("line"),
            node.Number("generation"),
            node.Text("boardId"),
            node.Text("serialPrefix"),
            node.SystemIds("systems")
        )
        {
            Year = node.NumberOrNull("year"),
            Form = node.TextOrNull("form"),
            Graphics = node.TextOrNull("graphics"),
            Sensors = node.TextOrNull("sensors"),
            PowerClass = node.TextOrNull("powerClass"),
        };

    /// <summary>A memory module and its price.</summary>
    public static MemoryModule Module(PackNode node) =>
        new(node.Id(), node.Text("type"), node.Number("sizeMiB"), node.Number("money"));
}
