namespace FreshBoot.Core.Dossiers;

/// <summary>Facts as people read them.</summary>
public static class FactText
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
}
