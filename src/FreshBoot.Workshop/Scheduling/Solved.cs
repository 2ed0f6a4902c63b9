using System.Text.Json.Serialization;

namespace FreshBoot.Workshop.Scheduling;

/// <summary>How far a solver came.</summary>
[JsonConverter(typeof(CamelCaseNames<SolvedState>))]
public enum SolvedState
{
    /// <summary>Nothing is better: proved.</summary>
    Optimal,

    /// <summary>It holds; how much better one could be the gap says.</summary>
    Feasible,

    /// <summary>The solver found nothing better than the plain rule in its time.</summary>
    ListRule,
}

/// <summary>An answer and how good it is.</summary>
/// <param name="State">How far the solver came.</param>
/// <param name="Objective">What the answer costs.</param>
/// <param name="Bound">What no answer can be better than.</param>
/// <param name="ListRule">What the plain rule costs.</param>
/// <param name="Answer">The answer.</param>
/// <typeparam name="T">What it is.</typeparam>
public sealed record Solved<T>(SolvedState State, int Objective, int Bound, int ListRule, T Answer)
{
    /// <summary>By how much of its cost one could be better at most, 0 to 1.</summary>
    public double Gap => Objective <= 0 ? 0 : Math.Round(Math.Max(0, Objective - Bound) / (double)Objective, 4);
}
