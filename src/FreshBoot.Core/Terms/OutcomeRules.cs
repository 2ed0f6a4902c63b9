namespace FreshBoot.Core.Terms;

/// <summary>
/// What an outcome means beyond its place in the order. The switch has no arm for the rest: where an outcome is added, the
/// compiler names it.
/// </summary>
public static class OutcomeRules
{
#pragma warning disable CS8524 // Numbers that are no outcome do not occur; outcomes that are missing here are an error (CS8509).
    /// <summary>The school that a route follows whose furthest cure is of this kind; null where every school does it.</summary>
    public static School? School(this Outcome outcome) =>
        outcome switch
        {
            Outcome.Clear
            or Outcome.Caveat
            or Outcome.Setting
            or Outcome.Driver
            or Outcome.Part
            or Outcome.Unknown
            or Outcome.Wall => null,
            Outcome.Patch => Terms.School.Patch,
            Outcome.Spoof => Terms.School.Spoof,
            Outcome.Reflash => Terms.School.Reflash,
        };
#pragma warning restore CS8524

    /// <summary>The outcomes that have a school of their own, the mildest first.</summary>
    public static IReadOnlyList<(Outcome Outcome, School School)> Schools { get; } =
    [.. Enum.GetValues<Outcome>().Where(o => o.School() is not null).Select(o => (o, o.School()!.Value))];
}
