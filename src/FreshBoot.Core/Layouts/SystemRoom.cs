using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;

namespace FreshBoot.Core.Layouts;

/// <summary>How much of a drive a system asks for.</summary>
public static class SystemRoom
{
    /// <summary>The fact that its requirement asks for.</summary>
    private const string Size = "storage.0.sizeBytes";

    /// <summary>What is planned for a system whose entry does not tell: enough for a light one with a browser.</summary>
    public const long UsualBytes = 8_000_000_000;

    /// <summary>The most that any of its requirements asks for that must be met, in bytes; null where none does.</summary>
    public static long? Of(SystemEntry system) =>
        system
            .Requirements.Where(r => r.Kind != RequirementKind.Comfort && !r.Advisory)
            .SelectMany(r => Asked(r.Needs))
            .DefaultIfEmpty(0)
            .Max()
            is > 0
                and var most
            ? most
            : null;

    private static IEnumerable<long> Asked(Condition needs) =>
        needs switch
        {
            Condition.AtLeast { Fact: Size, Least: Dossiers.FactValue.Whole least } => [least.Value],
            Condition.All all => all.Of.SelectMany(Asked),
            Condition.Any any => any.Of.SelectMany(Asked).Take(1),
            _ => [],
        };
}
