using System.Text.Json.Serialization;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Routes;

/// <summary>The schools of practice; each has its price, and the person at the bench chooses.</summary>
[JsonConverter(typeof(CamelCaseNames<School>))]
public enum School
{
    /// <summary>Meet the rules: switches and parts, and stay supported.</summary>
    Comply,

    /// <summary>Change the installer so that its gates do not check.</summary>
    Patch,

    /// <summary>Take the identity of a later model.</summary>
    Spoof,

    /// <summary>Replace the firmware.</summary>
    Reflash,

    /// <summary>Take a light or browser-first system.</summary>
    Lighten,

    /// <summary>Keep the system that is on it.</summary>
    Stay,

    /// <summary>Spare parts and recycling.</summary>
    Retire,
}

/// <summary>A part of a score: what was measured, and the points it gives.</summary>
/// <param name="Name">What it is about.</param>
/// <param name="Says">The value in words.</param>
/// <param name="Points">Points given.</param>
/// <param name="Most">Most points there are.</param>
public sealed record ScorePart(string Name, string Says, int Points, int Most);

/// <summary>A way for a machine to get a system, or to end.</summary>
/// <param name="Id">Hash of system, school, cures and price: a route that no longer fits has another id.</param>
/// <param name="System">Id of the system; null for <see cref="School.Retire"/>.</param>
/// <param name="School">The school it belongs to.</param>
/// <param name="Cures">What is done, in the order of the rungs.</param>
/// <param name="Money">Hundredth parts of a mark.</param>
/// <param name="HandsOnMinutes">Minutes of work, installation included.</param>
/// <param name="ElapsedMinutes">Minutes from start to end, waiting included.</param>
/// <param name="SupportMonths">Whole months of updates; null where no end is set.</param>
/// <param name="Assumes">Facts that nobody has measured and that it takes to be well.</param>
/// <param name="Caveats">What to know of it.</param>
/// <param name="Score">0 to 100.</param>
/// <param name="ScoreParts">Where the score comes from.</param>
public sealed record Route(
    string Id,
    string? System,
    School School,
    IReadOnlyList<Cure> Cures,
    int Money,
    int HandsOnMinutes,
    int ElapsedMinutes,
    int? SupportMonths,
    IReadOnlyList<string> Assumes,
    IReadOnlyList<string> Caveats,
    int Score,
    IReadOnlyList<ScorePart> ScoreParts
);
