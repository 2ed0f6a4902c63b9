using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Ladder;
using FreshBoot.Core.Routes;

namespace FreshBoot.Core.Runs;

/// <summary>What a plan expects of a fact that its run measures.</summary>
public static class Expected
{
    /// <summary>
    /// What speaks against the plan: another system's name than the one that was installed, memory that fails its test, or a fact that the route took for
    /// granted and that breaks it now that it is known. Null where it is as expected.
    /// </summary>
    /// <param name="key">The fact that was measured.</param>
    /// <param name="now">The dossier with it.</param>
    /// <param name="route">The route of the run.</param>
    /// <param name="system">Its system.</param>
    /// <param name="evaluator">Judges the machine with the cures of the route.</param>
    /// <param name="today">The day of support.</param>
    public static string? Against(
        string key,
        IFacts now,
        Route route,
        SystemEntry system,
        Evaluator evaluator,
        DateOnly today
    )
    {
        if (key == "os.name")
            return now.Word(key) is { } name && name != system.FullName
                ? $"It says “{name}”, and the plan installs {system.FullName}."
                : null;
        if (key == "parts.memoryTest" && now.Word(key) == "failed")
            return "The memory failed its test, and damages what is installed with it.";
        if (!route.Assumes.Contains(key))
            return null;
        return evaluator
            .Assess(now, system, new Plan(today, route.Cures))
            .Rungs.SelectMany(r => r.Findings)
            .Where(f => f.Blocks)
            .Select(f => $"The plan rested on it, and does not hold any more. {f.Text}")
            .FirstOrDefault();
    }
}
