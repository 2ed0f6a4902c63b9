using System.Text;
using CsCheck;
using FreshBoot.Formats.Texts;
using Ical.Net;

namespace FreshBoot.Formats.Tests.Texts;

/// <summary>Calendars, read back by a library that others made.</summary>
public class CalendarTextTests
{
    private static readonly DateTimeOffset Now = new(2026, 12, 3, 12, 0, 0, TimeSpan.FromHours(1));

    private static readonly Gen<string> Words = Gen.String[
        Gen.OneOf(Gen.Char['a', 'z'], Gen.Char[" ,;\\:\"ä…\n漢"]),
        1,
        200
    ];

    [Fact]
    public void Whatever_it_says_another_reader_reads_the_same() =>
        Gen.Select(Words, Words, Gen.Int[0, 30_000], Gen.Int[1, 5])
            .Sample(
                (summary, description, days, count) =>
                {
                    CalendarEntry[] entries =
                    [
                        .. Enumerable
                            .Range(0, count)
                            .Select(i => new CalendarEntry(
                                $"MR-{i}-support@fresh-boot",
                                new DateOnly(2020, 1, 1).AddDays(days + i),
                                $"a{summary}z",
                                $"a{description}z"
                            )),
                    ];
                    var text = CalendarText.Write("due", "-//Fresh Boot//Due//EN", entries, Now);
                    foreach (var line in text.Split("\r\n"))
                        Encoding.UTF8.GetByteCount(line).ShouldBeLessThanOrEqualTo(75);
                    text.Replace("\r\n", "", StringComparison.Ordinal).ShouldNotContain("\n");
                    var read = Calendar.Load(text)!.Events.OrderBy(e => e.Uid, StringComparer.Ordinal).ToArray();
                    read.Select(e => e.Uid).ShouldBe(entries.Select(e => e.Id));
                    for (var i = 0; i < count; i++)
                    {
                        read[i].Summary.ShouldBe(entries[i].Summary);
                        read[i].Description.ShouldBe(entries[i].Description);
                        read[i].Start!.Value.Date.ShouldBe(entries[i].On.ToDateTime(default));
                        read[i].IsAllDay.ShouldBeTrue();
                        read[i].End!.Value.Date.ShouldBe(entries[i].On.AddDays(1).ToDateTime(default));
                    }
                },
                iter: 300
            );

    [Fact]
    public void An_empty_calendar_is_one_and_control_characters_make_no_line()
    {
        Calendar.Load(CalendarText.Write("due", "-//Fresh Boot//Due//EN", [], Now))!.Events.ShouldBeEmpty();
        var text = CalendarText.Write(
            "due",
            "-//Fresh Boot//Due//EN",
            [new CalendarEntry("a", new DateOnly(2027, 1, 1), "one\u0000\u0007two\r\nthree", "")],
            Now
        );
        text.ShouldContain("SUMMARY:onetwo\\nthree\r\n");
        text.ShouldContain("DTSTAMP:20261203T110000Z\r\n");
    }
}
