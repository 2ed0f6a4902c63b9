using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Runs;

namespace FreshBoot.Server.Dossiers;

/// <summary>Something that happened to a machine.</summary>
/// <param name="At">When the shop heard of it.</param>
/// <param name="By">Who did or said it; null for a probe.</param>
/// <param name="About">What it is about: a fact, a step, the probe, a twin.</param>
/// <param name="Says">What happened, in words.</param>
/// <param name="Minor">Whether it only says that all went as written.</param>
/// <param name="Photo">The photograph that goes with it; null for none.</param>
internal sealed record LogLine(DateTimeOffset At, string? By, string About, string Says, bool Minor, int? Photo = null);

/// <summary>The log of a machine: what people said, what was read, made and done, latest first.</summary>
internal sealed class MachineLog(MachineStore machines, RunStore runs, PhotoStore photos, JobStore jobs, Shop shop)
{
    private const int MostJobs = 1000;

    /// <summary>All of it.</summary>
    /// <exception cref="RefusedException">There is no machine with this tag.</exception>
    public async Task<IReadOnlyList<LogLine>> OfAsync(string tag, CancellationToken stop)
    {
        var lines = new List<LogLine>();
        foreach (var (key, said) in await machines.SaidAsync(tag, stop))
            lines.Add(new LogLine(said.ReceivedAt, said.By, FactRegistry.Label(key), Words(key, said), Minor: false));
        foreach (var probe in await machines.ProbesAsync(tag, stop))
            lines.Add(
                new LogLine(
                    probe.ReceivedAt,
                    null,
                    "Probe",
                    $"{string.Join(", ", probe.Files)} taken in, {probe.Facts} facts."
                        + (probe.TakenBackBy is { } by ? $" Taken back by {by}." : ""),
                    Minor: false
                )
            );
        var shown = new HashSet<int>();
        foreach (var run in await runs.AllOfAsync(tag, stop))
            lines.AddRange(Of(run, shown));
        foreach (var photo in (await photos.ListAsync(tag, stop)).Where(p => !shown.Contains(p.Id)))
            lines.Add(
                new LogLine(
                    photo.At,
                    photo.By,
                    "Photograph",
                    photo.Note.Length > 0 ? photo.Note : "Without a note.",
                    Minor: false,
                    photo.Id
                )
            );
        foreach (var job in await jobs.ListAsync(null, null, tag, null, MostJobs, stop))
            lines.Add(new LogLine(job.EndedAt ?? job.At, job.By, job.About, job.Says, Minor: false));
        return [.. lines.OrderByDescending(l => l.At)];
    }

    private IEnumerable<LogLine> Of(StoredRun run, HashSet<int> photos)
    {
        var system = run.Route.System is { } id ? shop.Catalogue.System(id)?.FullName ?? id : null;
        yield return new LogLine(
            run.StartedAt,
            run.By,
            "Run",
            (system is null ? "Begun: it is retired." : $"Begun: {system}.")
                + (run.Override is { } because ? $" All the same, because: {because}" : ""),
            Minor: false
        );
        var steps = run.Steps.ToDictionary(s => s.Id, StringComparer.Ordinal);
        foreach (var e in run.Events)
        {
            int? photo =
                e.Kind == RunEventKinds.Photo && int.TryParse(e.Data.GetValueOrDefault("photo"), out var number)
                    ? number
                    : null;
            if (photo is { } known)
                photos.Add(known);
            yield return new LogLine(
                e.At,
                e.By,
                steps.GetValueOrDefault(e.StepId)?.Text ?? e.StepId,
                EventWords.Whole(e),
                EventWords.IsMinor(e),
                photo
            );
        }
    }

    private static string Words(string key, PastReading said) =>
        said.Value is null ? "Taken back: not known again."
        : said.Origin == Origin.Chosen ? $"{FactText.Show(key, said.Value)}, chosen among sources that disagree."
        : $"{FactText.Show(key, said.Value)} ({said.Source}).";
}
