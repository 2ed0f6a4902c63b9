using FreshBoot.Core.Handover;
using FreshBoot.Core.Preparation;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Runs;

/// <summary>Which route to begin.</summary>
/// <param name="RouteId">Its id; one that no longer fits the facts is refused.</param>
/// <param name="By">Who begins.</param>
/// <param name="Override">Why it may begin although a question of the release rung is open; null where none is.</param>
internal sealed record Beginning(string RouteId, [property: Line(60)] string By, Override? Override = null);

/// <summary>A word that takes it upon somebody to begin all the same.</summary>
/// <param name="Reason">Why.</param>
/// <param name="By">Who takes it upon themselves.</param>
internal sealed record Override([property: Line(500)] string Reason, [property: Line(60)] string By);

/// <summary>A run as its page shows it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Tag">The machine.</param>
/// <param name="System">Id of the system; null where the machine is retired.</param>
/// <param name="School">The school of its route.</param>
/// <param name="By">Who began it.</param>
/// <param name="StartedAt">When it began.</param>
/// <param name="Steps">The sheet.</param>
/// <param name="Stops">Its steps by place and time.</param>
/// <param name="Events">What has happened.</param>
/// <param name="Seq">The number of events: what the next one must expect.</param>
/// <param name="State">Where it stands.</param>
/// <param name="Chain"><c>whole</c>, or where it is broken.</param>
/// <param name="Items">The work items that its steps use, as they stand now.</param>
/// <param name="Proved">Whether a new bundle carries the code of its second probe.</param>
/// <param name="Acceptance">The acceptance list.</param>
/// <param name="Override">Why it began although the release rung was open; null where it was not.</param>
/// <param name="Worked">What worked last at this step on a machine with the same board; null where nothing is known.</param>
internal sealed record RunSheetView(
    string Id,
    string Tag,
    string? System,
    School School,
    string By,
    DateTimeOffset StartedAt,
    IReadOnlyList<Step> Steps,
    IReadOnlyList<Stop> Stops,
    IReadOnlyList<RunEvent> Events,
    int Seq,
    RunState State,
    string Chain,
    IReadOnlyList<WorkItem> Items,
    bool Proved,
    IReadOnlyList<AcceptanceLine> Acceptance,
    string? Override,
    WorkedBefore? Worked
);
