namespace FreshBoot.Core.Terms;

/// <summary>
/// The one place where instants become days: those of the workshop's own clock on the wall. Work that ends after its midnight bears the
/// day that its people call it, whatever day it is in UTC.
/// </summary>
/// <param name="Zone">The workshop's time zone.</param>
public sealed record WorkshopCalendar(TimeZoneInfo Zone)
{
    /// <summary>The day of an instant.</summary>
    public DateOnly Day(DateTimeOffset at) => DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(at, Zone).DateTime);

    /// <summary>The midnight with which a day begins. Where the clocks skip it, the first instant of that day.</summary>
    public DateTimeOffset Start(DateOnly day)
    {
        var midnight = day.ToDateTime(TimeOnly.MinValue);
        while (Zone.IsInvalidTime(midnight))
            midnight = midnight.AddMinutes(15);
        return new DateTimeOffset(midnight, Zone.GetUtcOffset(midnight));
    }
}
