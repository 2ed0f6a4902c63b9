using System.Globalization;
using System.Text;

namespace FreshBoot.Formats.Texts;

/// <summary>Something that lies on a day.</summary>
/// <param name="Id">Unique for all time; the same thing keeps it when it moves.</param>
/// <param name="On">The day.</param>
/// <param name="Summary">It in a line.</param>
/// <param name="Description">More of it.</param>
public sealed record CalendarEntry(string Id, DateOnly On, string Summary, string Description);

/// <summary>Writes a calendar of whole days as iCalendar (RFC 5545).</summary>
public static class CalendarText
{
    /// <summary>Longest line in octets, without its end (RFC 5545, 3.1).</summary>
    private const int LineOctets = 75;

    /// <summary>The calendar.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="product">Who made it (PRODID).</param>
    /// <param name="entries">What lies in it.</param>
    /// <param name="now">When it was made (DTSTAMP).</param>
    public static string Write(string name, string product, IEnumerable<CalendarEntry> entries, DateTimeOffset now)
    {
        var text = new StringBuilder();
        void Line(string line)
        {
            Fold(text, line);
            text.Append("\r\n");
        }
        Line("BEGIN:VCALENDAR");
        Line("VERSION:2.0");
        Line($"PRODID:{Escape(product)}");
        Line("CALSCALE:GREGORIAN");
        Line("METHOD:PUBLISH");
        // Not of the standard, and read by most programs.
        Line($"X-WR-CALNAME:{Escape(name)}");
        foreach (var entry in entries)
        {
            Line("BEGIN:VEVENT");
            Line($"UID:{Escape(entry.Id)}");
            Line($"DTSTAMP:{now.UtcDateTime.ToString("yyyyMMdd'T'HHmmss'Z'", CultureInfo.InvariantCulture)}");
            Line($"DTSTART;VALUE=DATE:{entry.On.ToString("yyyyMMdd", CultureInfo.InvariantCulture)}");
            // The end of a day is the day after it, which is not part of it (RFC 5545, 3.6.1).
            if (entry.On < DateOnly.MaxValue)
                Line($"DTEND;VALUE=DATE:{entry.On.AddDays(1).ToString("yyyyMMdd", CultureInfo.InvariantCulture)}");
            Line($"SUMMARY:{Escape(entry.Summary)}");
            if (entry.Description.Length > 0)
                Line($"DESCRIPTION:{Escape(entry.Description)}");
            Line("TRANSP:TRANSPARENT");
            Line("END:VEVENT");
        }
        Line("END:VCALENDAR");
        return text.ToString();
    }

    /// <summary>Text as a value (RFC 5545, 3.3.11); control characters, which no line may have, are left out.</summary>
    private static string Escape(string text)
    {
        var escaped = new StringBuilder(text.Length);
        foreach (var c in text.ReplaceLineEndings("\n"))
            escaped.Append(
                c switch
                {
                    '\\' => "\\\\",
                    ';' => "\\;",
                    ',' => "\\,",
                    '\n' => "\\n",
                    _ when char.IsControl(c) => "",
                    _ => c.ToString(),
                }
            );
        return escaped.ToString();
    }

    /// <summary>A line that is too long goes on in the next one after a space; no character is cut in the middle.</summary>
    private static void Fold(StringBuilder text, string line)
    {
        var octets = 0;
        foreach (var rune in line.EnumerateRunes())
        {
            if (octets + rune.Utf8SequenceLength > LineOctets)
            {
                text.Append("\r\n ");
                octets = 1;
            }
            text.Append(rune.ToString());
            octets += rune.Utf8SequenceLength;
        }
    }
}
