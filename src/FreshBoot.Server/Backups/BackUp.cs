using FreshBoot.Data.Backups;
using FreshBoot.Data.Jobs;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;

namespace FreshBoot.Server.Backups;

/// <summary>Makes back-ups and lays one ready, as jobs.</summary>
internal sealed class BackUp(BackupStore store, JobRunner jobs)
{
    public Task<JobSheet> MakeAsync(string by, CancellationToken stop) =>
        jobs.BeginAsync(
            new JobWish(JobKind.Backup, "Make a back-up", by),
            async (working, running) =>
            {
                var made = await store.MakeAsync(
                    by,
                    p => working.Progress(p, "Database and files are copied."),
                    running,
                    working.Row.Id
                );
                return (
                    $"Made: {Numbers.Count(made.Machines, "machine", "machines")}, {made.Events} events.",
                    new JobResult()
                );
            },
            stop: stop
        );

    public Task<JobSheet> LayReadyAsync(string id, string by, CancellationToken stop)
    {
        if (store.List().All(b => b.Id != id))
            throw new RefusedException(RefusalKind.Missing, $"There is no back-up “{id}”.", "id", "One of the list.");
        return jobs.BeginAsync(
            new JobWish(JobKind.Backup, $"Lay the back-up {id} ready", by),
            async (working, running) =>
            {
                await store.LayReadyAsync(id, p => working.Progress(p, "Every checksum is looked at."), running);
                return (
                    "Every checksum, its tables and the chains of its runs are right. It takes the place of the present data at the next start.",
                    new JobResult()
                );
            },
            stop: stop
        );
    }
}

/// <summary>Makes back-ups by itself, every so many hours since the last one.</summary>
internal sealed class BackupSchedule(
    BackupStore store,
    BackupOptions options,
    TimeProvider clock,
    Troubles troubles,
    ILogger<BackupSchedule> log
) : BackgroundService
{
    private const string About = "backup";
    private static readonly TimeSpan Look = TimeSpan.FromMinutes(10);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (options.EveryHours == 0)
            return;
        using var timer = new PeriodicTimer(Look, TimeProvider.System);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                var now = clock.GetUtcNow();
                // One that bears a later time was made by a clock that was ahead: it is no reason to wait.
                var last = store.List().Select(b => b.At).Where(at => at <= now).DefaultIfEmpty().Max();
                if (now - last < TimeSpan.FromHours(options.EveryHours))
                    continue;
                await store.MakeAsync(BackupOptions.Schedule, _ => { }, stoppingToken);
                troubles.Over(About);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // It says so each time until it works: nobody reads a log that says it once.
                log.LogError(e, "No back-up could be made in {Folder}.", store.Root);
                troubles.Tell(About, $"No back-up could be made by itself: {e.Message}");
            }
        }
    }
}
