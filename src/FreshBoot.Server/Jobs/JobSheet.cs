using FreshBoot.Core.Media;
using FreshBoot.Core.Rehearsal;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Rehearsal;
using FreshBoot.Server.Scheduling;

namespace FreshBoot.Server.Jobs;

/// <summary>What came of a job; what does not belong to its kind is null.</summary>
/// <param name="ImageId">The image that was made or taken in.</param>
/// <param name="Rehearsal">Of a twin: what its start showed, and from what it was made.</param>
/// <param name="Text">What came down the twin's serial line.</param>
/// <param name="Screens">Addresses of the pictures of the twin's screen, in order.</param>
/// <param name="StartedAs">How the twin was started: <c>disc</c> or <c>stick</c>.</param>
/// <param name="Firmware">Firmware of the twin.</param>
/// <param name="Differs">Where the twin differs from the machine.</param>
/// <param name="Capacity">What a capacity test found.</param>
/// <param name="Seconds">How long it took.</param>
/// <param name="WholeWay">Of a whole way: how far it came.</param>
/// <param name="Plan">Of a plan: the best so far.</param>
internal sealed record JobResult(
    int? ImageId = null,
    RehearsalRecord? Rehearsal = null,
    string? Text = null,
    IReadOnlyList<string>? Screens = null,
    string? StartedAs = null,
    string? Firmware = null,
    IReadOnlyList<string>? Differs = null,
    CapacityFinding? Capacity = null,
    double? Seconds = null,
    WholeWaySheet? WholeWay = null,
    PlanSheet? Plan = null
);

/// <summary>A job as it stands.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">What it does.</param>
/// <param name="About">What it is about.</param>
/// <param name="Tag">The machine.</param>
/// <param name="ImageId">The image.</param>
/// <param name="MediumId">The medium.</param>
/// <param name="State">How it stands.</param>
/// <param name="Part">The part that is done, 0 to 1.</param>
/// <param name="Says">What it is doing, or what came of it.</param>
/// <param name="Result">Its result, as far as there is one.</param>
/// <param name="By">Who asked for it.</param>
/// <param name="At">When.</param>
/// <param name="EndedAt">When it ended.</param>
internal sealed record JobSheet(
    int Id,
    JobKind Kind,
    string About,
    string? Tag,
    int? ImageId,
    int? MediumId,
    JobState State,
    double Part,
    string Says,
    JobResult? Result,
    string By,
    DateTimeOffset At,
    DateTimeOffset? EndedAt
);
