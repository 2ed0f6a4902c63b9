using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Logbook;
using FreshBoot.Server.Dossiers;
using Route = FreshBoot.Core.Routes.Route;

namespace FreshBoot.Server.Logbook;

/// <summary>Something that happened.</summary>
/// <param name="At">When the shop heard of it.</param>
/// <param name="Tag">The machine; null for none.</param>
/// <param name="By">Who did or said it; null for a probe.</param>
/// <param name="About">What it is about: a fact, a step, the probe, a twin.</param>
/// <param name="Says">What happened, in words.</param>
/// <param name="Minor">Whether it only says that all went as written.</param>
/// <param name="Photo">The photograph that goes with it; null for none.</param>
internal sealed record LogLine(
    DateTimeOffset At,
    string? Tag,
    string? By,
    string About,
    string Says,
    bool Minor,
    int? Photo = null
);

/// <summary>What is looked for in the log.</summary>
/// <param name="Find">Words, each of which a line has to have: a part of tag, name, step, fact or what happened.</param>
/// <param name="From">The first day; null for all.</param>
/// <param name="To">The last day; null for all.</param>
/// <param name="Everything">Whether lines that only say that all went as written count too.</param>
internal sealed record LogQuestion(string? Find, DateOnly? From, DateOnly? To, bool Everything);

/// <summary>What was found.</summary>
/// <param name="All">Lines there are.</param>
/// <param name="Found">Lines that were found.</param>
/// <param name="Lines">The latest of those.</param>
internal sealed record LogFound(int All, int Found, IReadOnlyList<LogLine> Lines);

/// <summary>
/// Everything that happened, in memory in the order of the clock, so that a search through a hundred thousand lines answers at
/// once. Each look reads on from where the last one ended; a line is made once.
/// </summary>
internal sealed class ShopLog(LogStore store, Shop shop, TimeProvider clock) : IDisposable
{
    /// <summary>A line with the text that it is found by.</summary>
    private sealed record Kept(LogLine Line, string Text);

    private sealed record BegunRun(string Tag, IReadOnlyDictionary<string, string> Steps);

    private readonly SemaphoreSlim _reading = new(1, 1);
    private readonly List<Kept> _lines = [];
    private readonly Dictionary<string, BegunRun> _runs = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string> _texts = new(StringComparer.Ordinal);
    private readonly HashSet<int> _jobs = [];
    private readonly HashSet<int> _shown = [];
    private LogMark _mark = LogMark.Start;

    /// <summary>What happened to a machine, the latest first.</summary>
    public async Task<IReadOnlyList<LogLine>> OfAsync(string tag, CancellationToken stop) =>
        [.. (await AllAsync(stop)).Select(k => k.Line).Where(l => l.Tag == tag).Reverse()];

    /// <summary>What is found, the latest first.</summary>
    public async Task<LogFound> FindAsync(LogQuestion question, int take, CancellationToken stop)
    {
        var all = await AllAsync(stop);
        var found = 0;
        var lines = new List<LogLine>();
        foreach (var line in Matching(all, question))
        {
            found++;
            if (lines.Count < take)
                lines.Add(line);
        }
        return new LogFound(all.Length, found, lines);
    }

    /// <summary>All that is found, the latest first.</summary>
    public async Task<IEnumerable<LogLine>> EachAsync(LogQuestion question, CancellationToken stop) =>
        Matching(await AllAsync(stop), question);

    /// <summary>Reads all of it before anybody asks; what fails will fail again, and be told, when somebody does.</summary>
    public async Task WarmAsync(CancellationToken stop)
    {
        try
        {
            await AllAsync(stop);
        }
        catch (Exception e)
            when (e is OperationCanceledException or System.Data.Common.DbException or ObjectDisposedException)
        {
            // Nobody waits for it.
        }
    }

    private IEnumerable<LogLine> Matching(Kept[] all, LogQuestion question)
    {
        var words = (question.Find ?? "")
            .ToLowerInvariant()
            .Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        var from = question.From is { } first ? Start(first) : DateTimeOffset.MinValue;
        var to = question.To is { } last ? Start(last.AddDays(1)) : DateTimeOffset.MaxValue;
        for (var i = all.Length - 1; i >= 0; i--)
        {
            var (line, text) = all[i];
            if (line.At >= to || (line.Minor && !question.Everything))
                continue;
            if (line.At < from)
                yield break;
            var has = true;
            foreach (var word in words)
                has = has && text.Contains(word, StringComparison.Ordinal);
            if (has)
                yield return line;
        }
    }

    /// <summary>The workshop’s own midnight.</summary>
    private DateTimeOffset Start(DateOnly day) => new WorkshopCalendar(clock.LocalTimeZone).Start(day);

    private Kept[] _snapshot = [];

    private async Task<Kept[]> AllAsync(CancellationToken stop)
    {
        await _reading.WaitAsync(stop);
        try
        {
            var news = await store.AfterAsync(_mark, stop);
            if (news.Anew)
                Forget();
            var before = _lines.Count;
            var latest = before > 0 ? _lines[^1].Line.At : DateTimeOffset.MinValue;
            Take(news);
            _mark = news.Mark;
            if (_lines.Count > before || news.Anew)
            {
                // What came in is younger than what is here, nearly always.
                if (_lines.Skip(before).Any(k => k.Line.At < latest) || _lines.Count - before > 1)
                    Sort();
                // A photograph that an event shows is not shown again by itself.
                _snapshot =
                [
                    .. _lines.Where(k =>
                        k.Line is not { About: Photograph, Photo: { } photo } || !_shown.Contains(photo)
                    ),
                ];
            }
            return _snapshot;
        }
        finally
        {
            _reading.Release();
        }
    }

    private const string Photograph = "Photograph";

    private void Sort()
    {
        var sorted = _lines.OrderBy(k => k.Line.At).ToArray();
        _lines.Clear();
        _lines.AddRange(sorted);
    }

    private void Forget()
    {
        _lines.Clear();
        _runs.Clear();
        _jobs.Clear();
        _shown.Clear();
    }

    private void Take(LogNews news)
    {
        foreach (var said in news.Facts)
            Add(new LogLine(said.At, said.Tag, said.By, FactRegistry.Label(said.Key), Words(said), Minor: false));
        foreach (var probe in news.Probes.GroupBy(p => (p.Tag, p.Probe)))
        {
            var one = probe.First();
            Add(
                new LogLine(
                    one.At,
                    one.Tag,
                    null,
                    "Probe",
                    $"{string.Join(", ", probe.Select(p => p.Name))} taken in, {one.Facts} facts."
                        + (one.TakenBackBy is { } by ? $" Taken back by {by}." : ""),
                    Minor: false
                )
            );
        }
        foreach (var run in news.Runs)
            Begin(run);
        foreach (var e in news.Events)
            if (_runs.TryGetValue(e.RunId, out var run))
                Add(Line(e, run));
        foreach (var photo in news.Photos)
            Add(
                new LogLine(
                    photo.At,
                    photo.Tag,
                    photo.By,
                    Photograph,
                    photo.Note.Length > 0 ? photo.Note : "Without a note.",
                    Minor: false,
                    photo.Id
                )
            );
        foreach (var job in news.Jobs.Where(j => j.State is not (JobState.Queued or JobState.Running)))
            if (_jobs.Add(job.Id))
                Add(new LogLine(job.At, job.Tag, job.By, job.About, job.Says, Minor: false));
    }

    private void Add(LogLine line) =>
        _lines.Add(new Kept(line, $"{line.Tag}\n{line.By}\n{line.About}\n{line.Says}".ToLowerInvariant()));

    private void Begin(LoggedRun run)
    {
        var route = JsonSerializer.Deserialize<Route>(run.Route, JsonSerializerOptions.Web)!;
        var system = route.System is { } id ? shop.Catalogue.System(id)?.FullName ?? id : null;
        _runs[run.Id] = new BegunRun(
            run.Tag,
            JsonSerializer
                .Deserialize<Step[]>(run.Steps, JsonSerializerOptions.Web)!
                .ToDictionary(s => s.Id, s => Shared(s.Text), StringComparer.Ordinal)
        );
        Add(
            new LogLine(
                run.At,
                run.Tag,
                run.By,
                "Run",
                (system is null ? "Begun: it is retired." : $"Begun: {system}.")
                    + (run.Override is { } because ? $" All the same, because: {because}" : ""),
                Minor: false
            )
        );
    }

    /// <summary>The texts of steps are the same in many runs.</summary>
    private string Shared(string text)
    {
        if (_texts.TryGetValue(text, out var known))
            return known;
        _texts[text] = text;
        return text;
    }

    private LogLine Line(LoggedEvent logged, BegunRun run)
    {
        var e = new RunEvent(
            logged.Seq,
            "",
            logged.Kind,
            logged.StepId,
            logged.By,
            JsonSerializer.Deserialize<Dictionary<string, string>>(logged.Data, JsonSerializerOptions.Web)!,
            logged.At,
            ""
        );
        int? photo =
            e.Kind == RunEventKinds.Photo && int.TryParse(e.Data.GetValueOrDefault("photo"), out var number)
                ? number
                : null;
        if (photo is { } shown)
            _shown.Add(shown);
        return new LogLine(
            e.At,
            run.Tag,
            e.By,
            run.Steps.GetValueOrDefault(e.StepId) ?? e.StepId,
            EventWords.Whole(e),
            EventWords.IsMinor(e),
            photo
        );
    }

    private static string Words(LoggedFact said)
    {
        var value = JsonSerializer.Deserialize<FactValue>(said.Value, JsonSerializerOptions.Web);
        return value is null ? "Taken back: not known again."
            : said.Origin == nameof(Origin.Chosen)
                ? $"{FactText.Show(said.Key, value)}, chosen among sources that disagree."
            : $"{FactText.Show(said.Key, value)} ({said.Source}).";
    }

    public void Dispose() => _reading.Dispose();
}
