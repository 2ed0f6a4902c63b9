using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace FreshBoot.Core.Handover;

/// <summary>The words of one language for those who are not of the trade: one file holds them all.</summary>
/// <param name="Code">Its tag by BCP 47, such as <c>de</c>.</param>
/// <param name="Name">What it calls itself.</param>
/// <param name="DateForm">How it writes a day: <c>{day}</c>, <c>{month}</c>, <c>{year}</c>.</param>
/// <param name="Months">Names of the twelve months.</param>
/// <param name="Sheet">What the sheet says, by id, with places in braces.</param>
/// <param name="Lines">What the lines of the acceptance list say to the owner, by their ids.</param>
/// <param name="Sayings">
/// Sentences of the workshop, from its English to what the owner reads. One may have places, which stand for whatever is written
/// there: <c>Fit a {size} SATA SSD</c>. An empty one is not for the owner: another part of the sheet tells it.
/// </param>
public sealed partial record OwnerWords(
    string Code,
    string Name,
    string DateForm,
    IReadOnlyList<string> Months,
    IReadOnlyDictionary<string, string> Sheet,
    IReadOnlyDictionary<string, string> Lines,
    IReadOnlyDictionary<string, string> Sayings
)
{
    /// <summary>The language where nobody chose one; the trade's own words are in it.</summary>
    public const string Own = "en";

    /// <summary>The fact that says which language the owner reads.</summary>
    public const string LanguageKey = "handover.language";

    private static readonly JsonSerializerOptions Form = new(JsonSerializerDefaults.Web)
    {
        AllowDuplicateProperties = false,
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
    };

    /// <summary>The places of a saying that hold a day begin so; they are written as the language writes days.</summary>
    private const string DayPlace = "day";

    private readonly Pattern[] _patterns =
    [
        .. Sayings
            .Where(s => Places(s.Key).Any())
            .Select(s => new Pattern(s.Key, s.Value))
            // Of two that fit, the one that says more.
            .OrderByDescending(p => p.Said)
            .ThenBy(p => p.From, StringComparer.Ordinal),
    ];

    [GeneratedRegex(@"\{(?<name>[a-zA-Z]+)\}", RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture)]
    private static partial Regex Place();

    /// <summary>Reads a file of words.</summary>
    /// <param name="text">JSON.</param>
    /// <param name="file">Its name, for errors.</param>
    /// <exception cref="RefusedException">It is no such file.</exception>
    public static OwnerWords Read(string text, string file)
    {
        OwnerWords? words;
        try
        {
            words = JsonSerializer.Deserialize<OwnerWords>(text, Form);
        }
        catch (JsonException fault)
        {
            throw Refuse(fault.Message, $"{file} {fault.Path}", "A file of words as catalogue/words/en.json is one.");
        }
        return words switch
        {
            null => throw Refuse("There is nothing in it.", file, "A file of words."),
            { Months.Count: not 12 } => throw Refuse(
                $"It names {words.Months.Count} months.",
                $"{file} months",
                "Twelve."
            ),
            _ => words.Sayings.Select(s => Fault(s.Key, s.Value)).FirstOrDefault(f => f is not null) is { } fault
                ? throw Refuse(fault, $"{file} sayings", "“Fit a {size} drive” with “a drive of {size}”.")
                : words,
        };
    }

    private static string? Fault(string from, string to)
    {
        var places = Places(from).ToArray();
        return Place().Replace(from, "").All(c => !char.IsLetter(c)) ? $"“{from}” says nothing of its own."
            : places.Distinct(StringComparer.Ordinal).Count() < places.Length ? $"“{from}” has a place twice."
            : Places(to).FirstOrDefault(p => !places.Contains(p, StringComparer.Ordinal)) is { } strange
                ? $"“{to}” has a place {{{strange}}} that “{from}” has not."
            : null;
    }

    /// <summary>A sentence with its places filled.</summary>
    /// <exception cref="KeyNotFoundException">There is no such sentence, or a place has nothing to go there.</exception>
    public string Say(string id, params (string Name, string Value)[] places) => Fill(Sheet[id], places);

    /// <summary>Whether it has such a sentence.</summary>
    public bool Has(string id) => Sheet.ContainsKey(id);

    /// <summary>A line of the acceptance list for the owner; one that a shop added and gave no words stands as it is.</summary>
    public string Of(AcceptanceLine line, string? system) =>
        Lines.TryGetValue(line.Id, out var said) ? Fill(said, ("system", system ?? "")) : $"{line.Line}.";

    /// <summary>A sentence of the workshop for the owner: empty where it is not theirs to read, as it stands where there are no words for it.</summary>
    public string Saying(string english) => Said(english) ?? english;

    /// <summary>What of the workshop's sentences the owner reads, each once.</summary>
    public IEnumerable<string> Told(IEnumerable<string> english) =>
        english.Select(Saying).Where(t => t.Length > 0).Distinct(StringComparer.Ordinal);

    /// <summary>Whether it has words for a sentence of the workshop.</summary>
    public bool Knows(string english) => Said(english) is not null;

    private string? Said(string english)
    {
        if (Sayings.TryGetValue(english, out var whole) && !Places(english).Any())
            return whole;
        foreach (var pattern in _patterns)
            if (pattern.Match(english) is { } found)
                // What stands in a place is shorter than the whole: this ends.
                return Fill(
                    pattern.To,
                    [
                        .. found.Select(p =>
                            (
                                p.Name,
                                p.Name.StartsWith(DayPlace, StringComparison.Ordinal)
                                    ? AnyDay(p.Value)
                                    : Saying(p.Value)
                            )
                        ),
                    ]
                );
        return null;
    }

    private string AnyDay(string written) =>
        DateOnly.TryParseExact(written, "d MMM yyyy", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day)
            ? Day(day)
            : written;

    /// <summary>A day.</summary>
    public string Day(DateOnly day) =>
        Fill(
            DateForm,
            ("day", day.Day.ToString(CultureInfo.InvariantCulture)),
            ("month", Months[day.Month - 1]),
            ("year", day.Year.ToString(CultureInfo.InvariantCulture))
        );

    /// <summary>The places of a sentence.</summary>
    public static IEnumerable<string> Places(string sentence) =>
        Place().Matches(sentence).Select(m => m.Groups["name"].Value);

    // In one pass: what goes into a place may hold braces of its own.
    private static string Fill(string sentence, params (string Name, string Value)[] places) =>
        Place()
            .Replace(
                sentence,
                m =>
                {
                    var name = m.Groups["name"].Value;
                    var at = Array.FindIndex(places, p => p.Name == name);
                    return at >= 0 ? places[at].Value : throw new KeyNotFoundException($"{{{name}}} in “{sentence}”");
                }
            );

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Invalid, what, where, wanted);

    /// <summary>A saying with places. What is matched may come from anywhere: the time grows with its length and no faster.</summary>
    private sealed record Pattern(string From, string To)
    {
        // What stands between the places: one more than there are places.
        private readonly string[] _between = Place().Replace(From, "\0").Split('\0');

        private readonly string[] _names = [.. Places(From)];

        public int Said { get; } = Place().Replace(From, "").Length;

        /// <summary>What stands in each place, of which none is empty, or null where the sentence is another one.</summary>
        /// <remarks>
        /// Each text between is taken where it comes first and the last one at the end. A later one would leave less room to what
        /// follows, so whatever fits at all is found without ever going back.
        /// </remarks>
        public (string Name, string Value)[]? Match(string sentence)
        {
            var end = sentence.Length - _between[^1].Length;
            if (
                !sentence.StartsWith(_between[0], StringComparison.Ordinal)
                || !sentence.EndsWith(_between[^1], StringComparison.Ordinal)
            )
                return null;
            var at = _between[0].Length;
            var found = new (string, string)[_names.Length];
            for (var place = 0; place < _names.Length; place++)
            {
                if (at >= end)
                    return null;
                var isLast = place == _names.Length - 1;
                var next = isLast
                    ? end
                    : sentence.IndexOf(_between[place + 1], at + 1, end - at - 1, StringComparison.Ordinal);
                if (next <= at)
                    return null;
                found[place] = (_names[place], sentence[at..next]);
                at = next + (isLast ? 0 : _between[place + 1].Length);
            }
            return found;
        }
    }
}
