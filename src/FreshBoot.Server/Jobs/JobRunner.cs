using System.Collections.Concurrent;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using FreshBoot.Data;
using FreshBoot.Data.Jobs;
using FreshBoot.Formats;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Jobs;

/// <summary>
/// Does long work in the background: a few at a time of each kind, with progress, to be cancelled at any time. When the server
/// stops it waits until all work has ended and said so.
/// </summary>
internal sealed class JobRunner(JobStore store, Changes changes, ILogger<JobRunner> log) : IHostedService, IDisposable
{
    private static readonly TimeSpan Tick = TimeSpan.FromMilliseconds(250);
    private static readonly TimeSpan Retry = TimeSpan.FromSeconds(2);
    private const int AtOnce = 2;
    private bool _gone;
    private readonly CancellationTokenSource _stopping = new();
    private readonly ConcurrentDictionary<int, Working> _working = new();
    private readonly ConcurrentDictionary<JobKind, SemaphoreSlim> _lanes = new();

    /// <summary>How a job ended.</summary>
    private sealed record End(JobState State, string Says, JobResult? Result);

    /// <summary>A job under way.</summary>
    internal sealed class Working(JobRow row, CancellationTokenSource cancel, Action<Working> tell)
    {
        private long _told;

        public JobRow Row { get; set; } = row;
        public CancellationTokenSource Cancel { get; } = cancel;
        public bool CancelledByPerson { get; set; }
        public double Part { get; private set; }
        public string Says { get; private set; } = row.Says;
        public JobResult? Result { get; private set; }

        /// <summary>How it ended, from then until that is written down.</summary>
        public (JobState State, string Says, JobResult? Result)? Ended { get; set; }

        /// <summary>Done when the work has ended, whether or not that could be written down.</summary>
        public TaskCompletionSource Over { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

        /// <summary>Tells how far it is; pages hear of it a few times a second at most.</summary>
        public void Progress(double part, string? says = null)
        {
            Part = Math.Clamp(part, 0, 1);
            if (says is not null)
                Says = says;
            var now = Environment.TickCount64;
            if (now - Interlocked.Read(ref _told) < Tick.TotalMilliseconds)
                return;
            Interlocked.Exchange(ref _told, now);
            tell(this);
        }

        /// <summary>Shows a result before the end.</summary>
        public void Show(JobResult result)
        {
            Result = result;
            tell(this);
        }
    }

    /// <summary>Begins a job; it is done in the background.</summary>
    /// <param name="wish">What it is about.</param>
    /// <param name="work">The work: what it says at the end, and its result.</param>
    /// <param name="broken">What to do where it fails, is cancelled or interrupted, with the reason; told before the job ends.</param>
    /// <param name="stop">Stops the asking, not the work.</param>
    public async Task<JobSheet> BeginAsync(
        JobWish wish,
        Func<Working, CancellationToken, Task<(string Says, JobResult Result)>> work,
        Func<string, Task>? broken = null,
        CancellationToken stop = default
    )
    {
        var row = await store.AddAsync(wish, stop);
        var working = new Working(
            row,
            CancellationTokenSource.CreateLinkedTokenSource(_stopping.Token),
            w => changes.Tell("job", $"{w.Row.Id}")
        );
        _working[row.Id] = working;
        _ = Task.Run(() => RunAsync(working, work, broken), CancellationToken.None);
        return Sheet(row);
    }

    private async Task RunAsync(
        Working working,
        Func<Working, CancellationToken, Task<(string Says, JobResult Result)>> work,
        Func<string, Task>? broken
    )
    {
        var end = await DoAsync(working, work);
        var left = end.State == JobState.Done ? null : broken;
        try
        {
            await (left?.Invoke(end.Says) ?? Task.CompletedTask);
            left = null;
        }
        catch (Exception e) when (DiskFull.Is(e))
        {
            // There is no room even for that: it is said again with the end of the job.
        }
        catch (Exception e)
        {
            log.LogError(e, "What job {Id} left could not be written down", working.Row.Id);
            left = null;
        }
        working.Ended = (end.State, end.Says, end.Result ?? working.Result);
        working.Over.SetResult();
        changes.Tell("all", "");
        await WriteDownAsync(working, left);
        _working.TryRemove(working.Row.Id, out _);
        working.Cancel.Dispose();
    }

    private async Task<End> DoAsync(
        Working working,
        Func<Working, CancellationToken, Task<(string Says, JobResult Result)>> work
    )
    {
        var lane = _lanes.GetOrAdd(working.Row.Kind, _ => new SemaphoreSlim(AtOnce, AtOnce));
        var entered = false;
        try
        {
            await lane.WaitAsync(working.Cancel.Token);
            entered = true;
            working.Row = await store.SetAsync(working.Row.Id, JobState.Running, "", null);
            changes.Tell("job", $"{working.Row.Id}");
            var (says, result) = await work(working, working.Cancel.Token);
            return new End(JobState.Done, says, result);
        }
        catch (OperationCanceledException)
        {
            return working.CancelledByPerson
                ? new End(JobState.Cancelled, "Cancelled.", null)
                : new End(JobState.Interrupted, "The server was stopped before it was done.", null);
        }
        catch (RefusedException e)
        {
            return new End(JobState.Failed, $"{e.Refusal.What} ({e.Refusal.Where})", null);
        }
        catch (FormatRefusedException e)
        {
            return new End(JobState.Failed, $"{e.Message} ({e.Where})", null);
        }
        catch (Exception e) when (DiskFull.Is(e))
        {
            return new End(
                JobState.Failed,
                "The disk is full. Take images away that nobody needs, then try again.",
                null
            );
        }
        catch (IOException e)
        {
            return new End(JobState.Failed, e.Message, null);
        }
        catch (Exception e)
        {
            // A fault of ours must not leave a job that never ends.
            log.LogError(e, "Job {Id} ({Kind}) failed", working.Row.Id, working.Row.Kind);
            return new End(JobState.Failed, "It failed for a reason that is not known; the log has it.", null);
        }
        finally
        {
            if (entered)
                lane.Release();
        }
    }

    /// <summary>Writes the end of a job down, again and again where there is no room for it; until then it is told from memory.</summary>
    private async Task WriteDownAsync(Working working, Func<string, Task>? left)
    {
        var (state, says, result) = working.Ended!.Value;
        var json = result is null ? null : JsonSerializer.Serialize(result, JsonSerializerOptions.Web);
        while (true)
            try
            {
                await (left?.Invoke(says) ?? Task.CompletedTask);
                left = null;
                working.Row = await store.SetAsync(working.Row.Id, state, says, json);
                changes.Tell("all", "");
                return;
            }
            catch (Exception e) when (DiskFull.Is(e) && !_stopping.IsCancellationRequested)
            {
                await Task.WhenAny(Task.Delay(Retry, _stopping.Token));
            }
            catch (Exception e)
            {
                log.LogError(e, "The end of job {Id} could not be written down", working.Row.Id);
                return;
            }
    }

    /// <summary>Cancels a job; it has ended when this returns.</summary>
    public async Task<JobSheet> CancelAsync(int id, CancellationToken stop)
    {
        if (_working.TryGetValue(id, out var working) && working.Ended is null)
        {
            working.CancelledByPerson = true;
            try
            {
                await working.Cancel.CancelAsync();
            }
            catch (ObjectDisposedException)
            {
                // It ended just now.
            }
            await working.Over.Task.WaitAsync(stop);
        }
        return await GetAsync(id, stop);
    }

    public async Task<JobSheet> GetAsync(int id, CancellationToken stop) => Sheet(await store.GetAsync(id, stop));

    public async Task<IReadOnlyList<JobSheet>> ListAsync(
        JobKind? kind,
        int? image,
        string? tag,
        int? medium,
        int take,
        CancellationToken stop
    ) => [.. (await store.ListAsync(kind, image, tag, medium, take, stop)).Select(Sheet)];

    /// <summary>Starts in the twin of a machine, whole ways among them, the latest first.</summary>
    public async Task<IReadOnlyList<JobSheet>> StartsAsync(string tag, int take, CancellationToken stop) =>
        [
            .. (await ListAsync(JobKind.Twin, null, tag, null, take, stop))
                .Concat(await ListAsync(JobKind.WholeWay, null, tag, null, take, stop))
                .OrderByDescending(j => j.Id)
                .Take(take),
        ];

    /// <summary>A job as it goes on, to its end.</summary>
    public async IAsyncEnumerable<SseItem<JobSheet>> FollowAsync(
        int id,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        JobSheet? last = null;
        for (var number = 1; !stop.IsCancellationRequested; number++)
        {
            var sheet = await GetAsync(id, stop);
            if (sheet != last)
                yield return new SseItem<JobSheet>(sheet, "job") { EventId = $"{number}" };
            last = sheet;
            if (sheet.State is not (JobState.Queued or JobState.Running))
                yield break;
            // Whether or not its worker can be seen, the next look comes no sooner than this.
            var over = _working.TryGetValue(id, out var working) ? working.Over.Task : Task.Delay(Tick, stop);
            await Task.WhenAny(over, Task.Delay(Tick, stop));
        }
    }

    public Task StartAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    /// <summary>
    /// Stops all work, and waits until each has taken back what it had half done. A host may ask for it once more after it has
    /// let go of everything.
    /// </summary>
    public async Task StopAsync(CancellationToken cancellationToken)
    {
        if (_gone)
            return;
        await _stopping.CancelAsync();
        try
        {
            while (!_working.IsEmpty)
                await Task.Delay(20, cancellationToken);
        }
        catch (OperationCanceledException)
        {
            log.LogWarning("{Count} jobs had not ended when the server had to", _working.Count);
        }
    }

    public void Dispose()
    {
        _gone = true;
        _stopping.Dispose();
        foreach (var lane in _lanes.Values)
            lane.Dispose();
    }

    private JobSheet Sheet(JobRow row)
    {
        var working = _working.GetValueOrDefault(row.Id);
        var result = working?.Ended is { } end
            ? end.Result
            : working?.Result
                ?? (
                    row.Result is null
                        ? null
                        : JsonSerializer.Deserialize<JobResult>(row.Result, JsonSerializerOptions.Web)
                );
        var state = working?.Ended?.State ?? row.State;
        return new JobSheet(
            row.Id,
            row.Kind,
            row.About,
            row.Tag,
            row.ImageId,
            row.MediumId,
            state,
            state == JobState.Done ? 1 : working?.Part ?? 0,
            working?.Ended?.Says ?? (working is { Says.Length: > 0 } ? working.Says : row.Says),
            result,
            row.By,
            row.At,
            row.EndedAt
        );
    }
}
