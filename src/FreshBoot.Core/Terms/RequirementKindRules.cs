namespace FreshBoot.Core.Terms;

/// <summary>What a kind of requirement means. The switches have no arm for the rest: where a kind is added, the compiler names them.</summary>
public static class RequirementKindRules
{
#pragma warning disable CS8524 // Numbers that are no kind do not occur; kinds that are missing here are an error (CS8509).
    /// <summary>Whether only the installer looks at it, so that a patch, or another identity, gets the machine past it.</summary>
    public static bool OnlyChecked(this RequirementKind kind) =>
        kind switch
        {
            RequirementKind.Gate => true,
            RequirementKind.Runtime or RequirementKind.Comfort => false,
        };

    /// <summary>Whether falling short of it is something to know, and keeps nothing from working.</summary>
    public static bool OnlyAnnoys(this RequirementKind kind) =>
        kind switch
        {
            RequirementKind.Comfort => true,
            RequirementKind.Gate or RequirementKind.Runtime => false,
        };
#pragma warning restore CS8524
}
