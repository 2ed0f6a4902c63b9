using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Handover;

/// <summary>A part of the sheet for the new owner.</summary>
/// <param name="Id">What it is about: the same in every language.</param>
/// <param name="Title">Its heading.</param>
/// <param name="Items">What it says.</param>
public sealed record OwnerPart(string Id, string Title, IReadOnlyList<string> Items);

/// <summary>The sheet for the new owner in plain words: the page, the print, the PDF and the JSON are this one.</summary>
/// <param name="Language">Its language, by BCP 47.</param>
/// <param name="Title">What it is, in one sentence.</param>
/// <param name="Tag">The number on the label.</param>
/// <param name="Plate">The machine and what is in it.</param>
/// <param name="Parts">What it says, the most needed first.</param>
/// <param name="Foot">Who did it, and when.</param>
public sealed record OwnerSheet(
    string Language,
    string Title,
    string Tag,
    IReadOnlyList<string> Plate,
    IReadOnlyList<OwnerPart> Parts,
    string Foot
)
{
    /// <summary>Id of the part that is set small: it is for those who ask.</summary>
    public const string TriedPart = "tried";

    /// <summary>Digits of a checksum that the paper shows: 64 bits, which nobody hits by trying.</summary>
    private const int HeadShown = 16;

    /// <summary>Writes it.</summary>
    /// <param name="sheet">What the shop knows.</param>
    /// <param name="words">The language.</param>
    /// <param name="shop">The shop's name.</param>
    /// <param name="calendar">The workshop's days.</param>
    public static OwnerSheet Of(HandoverSheet sheet, OwnerWords words, string shop, WorkshopCalendar calendar)
    {
        string system = sheet.System ?? "";
        var changed = sheet.Changed.Any(c => c.Kind is Outcome.Patch or Outcome.Spoof or Outcome.Reflash);
        OwnerPart Part(string id, IEnumerable<string> items, string? none = null) =>
            new(id, words.Say(id), [.. items.DefaultIfEmpty(none ?? "").Where(i => i.Length > 0)]);

        var parts = new List<OwnerPart>
        {
            Part("changed", sheet.Changed.Select(c => Change(c, system, words)).Distinct(), words.Say("changedNone")),
            Part(
                "notWorking",
                sheet
                    .Acceptance.Where(l => l.Instead is not null)
                    .Select(l =>
                        words.Say(
                            "notWorkingLine",
                            ("line", words.Of(l, sheet.System).TrimEnd('.')),
                            ("found", words.Saying(l.Instead!))
                        )
                    ),
                words.Say("notWorkingNone")
            ),
            Part("know", Known(sheet, words), words.Say("knowNone")),
        };
        if (sheet.System is not null)
            parts.AddRange([
                Part(
                    "updates",
                    [
                        sheet.SupportEnds is { } end
                            ? words.Say("updatesUntil", ("date", words.Day(end)))
                            : words.Say("updatesOpen"),
                        words.Say("updatesHow"),
                        words.Say(changed ? "updatesAfterChange" : "updatesAfter"),
                    ]
                ),
                Part("daily", Daily(sheet, words)),
                Part(
                    "first",
                    [
                        words.Say("firstSlow"),
                        words.Say("firstPassword"),
                        .. sheet.MakersAccount ? [words.Say("firstMaker")] : Array.Empty<string>(),
                    ]
                ),
                Part(
                    "privacy",
                    [
                        words.Say(
                            sheet.Privacy switch
                            {
                                "refused" => "privacyNo",
                                "answered" => "privacyAnswered",
                                _ => "privacyOwn",
                            }
                        ),
                    ]
                ),
                Part("again", [words.Say(changed ? "againChanged" : "againText")]),
            ]);
        parts.Add(Part("ask", [words.Say("askText", ("shop", shop), ("tag", sheet.Tag))]));
        parts.Add(
            Part(
                TriedPart,
                sheet.Acceptance.Where(l => l.Instead is null).Select(l => words.Of(l, sheet.System)),
                words.Say("triedNone")
            )
        );
        parts.Add(
            Part(
                "record",
                [
                    words.Say(
                        "recordText",
                        ("events", $"{sheet.Record.Events}"),
                        ("head", sheet.Record.Head[..Math.Min(HeadShown, sheet.Record.Head.Length)])
                    ),
                ]
            )
        );
        return new OwnerSheet(
            words.Code,
            sheet.System is null
                ? words.Say("ended")
                // Its number stays with its name where the line ends.
                : words.Say("title", ("system", system.Replace(' ', '\u00a0'))),
            sheet.Tag,
            [
                sheet.Serial is { } serial
                    ? $"{sheet.Machine} · {words.Say("plate", ("serial", serial))}"
                    : $"{sheet.Machine} · {words.Say("plateUnknown")}",
                string.Join(
                    " · ",
                    new[]
                    {
                        sheet.Processor,
                        sheet.Memory is { } memory ? words.Say("memory", ("memory", memory)) : null,
                        sheet.Drive is { } drive ? words.Say("drive", ("drive", drive)) : null,
                    }.OfType<string>()
                ),
            ],
            [.. parts.Where(p => p.Items.Count > 0)],
            words.Say("foot", ("by", sheet.By), ("date", words.Day(calendar.Day(sheet.FinishedAt))))
        );
    }

    /// <summary>What was done, without a word of the trade where the kind of change says enough.</summary>
    private static string Change(Changed change, string system, OwnerWords words) =>
        (change.Extends ? "kind.extends" : $"kind.{RouteKeys.Camel($"{change.Kind}")}") is var id && words.Has(id)
            ? words.Say(id, ("system", system), ("what", words.Saying(change.What)))
            : $"{words.Saying(change.What)}.";

    private static IEnumerable<string> Daily(HandoverSheet sheet, OwnerWords words) =>
        sheet.Class is { } kind && $"daily.{RouteKeys.Camel($"{kind}")}" is var id && words.Has(id)
            ? [words.Say(id)]
            : [];

    /// <summary>
    /// What the workshop found, as the owner may read it: each once, and nothing that another part tells. What this language has no
    /// words for stands as it was written, and it says so.
    /// </summary>
    private static IEnumerable<string> Known(HandoverSheet sheet, OwnerWords words)
    {
        if (words.Code != OwnerWords.Own && !sheet.ToKnow.All(words.Knows))
            yield return words.Say("knowForeign");
        foreach (var text in words.Told(sheet.ToKnow))
            yield return text;
    }
}
