namespace FreshBoot.Core.Scheduling;

/// <summary>Somebody's working week.</summary>
/// <param name="Name">The name.</param>
/// <param name="From">When the day begins.</param>
/// <param name="To">When it ends.</param>
/// <param name="Days">On which days of the week.</param>
/// <param name="Skills">What they do beside the usual.</param>
public sealed record WorkingWeek(
    string Name,
    TimeOnly From,
    TimeOnly To,
    IReadOnlyCollection<DayOfWeek> Days,
    IReadOnlyCollection<Skill> Skills
);

/// <summary>The minutes of a plan on the wall clock of the workshop, the night on which it is put forward or back among them.</summary>
/// <param name="Start">The first minute of the plan.</param>
/// <param name="Zone">The zone of the workshop.</param>
public sealed record Roster(DateTimeOffset Start, TimeZoneInfo Zone)
{
    /// <summary>The working days that are named where nobody says otherwise.</summary>
    public static IReadOnlyList<DayOfWeek> UsualDays { get; } =
    [DayOfWeek.Monday, DayOfWeek.Tuesday, DayOfWeek.Wednesday, DayOfWeek.Thursday, DayOfWeek.Friday];

    /// <summary>The plan begins with the next whole minute.</summary>
    public static Roster From(DateTimeOffset now, TimeZoneInfo zone) =>
        new(TimeZoneInfo.ConvertTime(now.AddTicks(-(now.Ticks % TimeSpan.TicksPerMinute)).AddMinutes(1), zone), zone);

    /// <summary>Everybody's shifts: days enough for three times the work, and a fortnight.</summary>
    /// <param name="weeks">Who works when.</param>
    /// <param name="load">Minutes of work.</param>
    public IReadOnlyList<BenchPerson> People(IReadOnlyList<WorkingWeek> weeks, int load)
    {
        var week = weeks.Sum(w => (int)(w.To - w.From).TotalMinutes * w.Days.Distinct().Count());
        var days = 14 + 3 * 7 * load / Math.Max(1, week);
        return
        [
            .. weeks.Select(w => new BenchPerson(
                w.Name,
                [
                    .. Enumerable
                        .Range(0, days)
                        .Select(d => DateOnly.FromDateTime(Start.Date).AddDays(d))
                        .Where(d => w.Days.Contains(d.DayOfWeek))
                        .Select(d => new Shift(Math.Max(0, Minute(d, w.From)), Minute(d, w.To)))
                        .Where(s => s.To > s.From),
                ],
                w.Skills
            )),
        ];
    }

    /// <summary>An order is due as its day ends.</summary>
    public int Due(DateOnly day) => Math.Max(0, Minute(day.AddDays(1), TimeOnly.MinValue));

    /// <summary>The minute of an instant; before the plan it is negative.</summary>
    public int Minute(DateTimeOffset at) => (int)Math.Floor((at - Start).TotalMinutes);

    /// <summary>The instant of a minute, as the wall clock shows it then.</summary>
    public DateTimeOffset At(int minute) => TimeZoneInfo.ConvertTime(Start.AddMinutes(minute), Zone);

    private int Minute(DateOnly day, TimeOnly time)
    {
        var wall = day.ToDateTime(time);
        return Minute(new DateTimeOffset(wall, Zone.GetUtcOffset(wall)));
    }
}
