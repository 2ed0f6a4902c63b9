using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Conditions;

namespace FreshBoot.Core.Ladder;

/// <summary>
/// What a purpose asks of a machine under a system: any of the programs that run there. An old processor may run a current
/// system while every current browser dies on it.
/// </summary>
internal static class ProgramNeeds
{
    private static readonly Evidence NobodyKnows = new("the catalogue lists no program", default, Sureness.Stated);

    /// <summary>The purpose in words.</summary>
    public static string Noun(Purpose purpose) =>
        purpose switch
        {
            Purpose.Web => "a current browser",
            Purpose.Office => "a program for documents",
            Purpose.Calls => "a program for video calls",
            _ => "a drawing program",
        };

    /// <summary>The requirement that a purpose is under a system.</summary>
    public static Requirement For(Purpose purpose, SystemEntry system, IReadOnlyList<ProgramEntry> programs)
    {
        var running = programs.Where(p => p.Purpose == purpose && p.RunsOn(system)).ToArray();
        var asked = string.Join(
            ", or ",
            running.Select(p => $"{p.Name}: {p.Says ?? ConditionText.Needed(p.Needs)}").Distinct(StringComparer.Ordinal)
        );
        return new Requirement(
            $"program-{purpose.ToString().ToLowerInvariant()}",
            RequirementKind.Comfort,
            Rung.Use,
            new Condition.Any([.. running.Select(p => p.Needs)]),
            running.Length > 0 ? running[0].Evidence : NobodyKnows,
            Says: running.Length == 0
                ? $"{Noun(purpose)}, and none runs on {system.FullName}"
                : $"{Noun(purpose)} ({asked})"
        );
    }
}
