namespace FreshBoot.Core.Dossiers;

/// <summary>What a machine is called.</summary>
public static class MachineName
{
    /// <summary>Maker and model; a model that begins with its maker's name is not said twice. Empty where both are unknown.</summary>
    public static string Of(IFacts facts)
    {
        var (maker, model) = (facts.Word("identity.maker") ?? "", facts.Word("identity.model") ?? "");
        return maker.Length > 0 && model.StartsWith(maker, StringComparison.Ordinal)
            ? model
            : $"{maker} {model}".Trim();
    }
}
